package capture

import (
	"slices"
	"strings"
)

// named are lines by the names of channels, a set for each link that they would be; names that any tool gives its channels, as D0, count beside
// others only.
func named(channels []string) (out []Lines) {
	all := Lines{}
	for i, name := range channels {
		role := roleOf(name[strings.LastIndex(name, ".")+1:]) // without its scope
		switch {
		case role == "EN" || role == "ENABLE":
			role = "E"
		case len(role) == len("DB0") && strings.HasPrefix(string(role), "DB"):
			role = "D" + role[2:]
		}
		if _, twice := all[role]; !twice && slices.Contains(Roles(), role) {
			all[role] = i
		}
	}
	take := func(list ...Role) bool {
		if !all.Has(list...) {
			return false
		}
		one := Lines{}
		for _, r := range append(list, "RS", "RW", "E2", "D0", "D1", "D2", "D3", "D4", "D5", "D6", "D7") {
			if at := all.channel(r); at >= 0 && (list[0] == "E" || slices.Contains(list, r)) {
				one[r] = at
			}
		}
		out = append(out, one)
		return true
	}
	if header := []Role{"E", "RS", "D7", "D6", "D5", "D4"}; !take(header...) { // or one of them was not recorded
		for i := 1; i < len(header); i++ {
			if take(slices.Delete(slices.Clone(header), i, i+1)...) {
				break
			}
		}
	}
	take(SDA, SCL)
	take(Data, Clock, Latch)
	return out
}
