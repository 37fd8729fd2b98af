package capture

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"slatebell/core/wire/link"
)

// Role is what a channel carries: a line of the header, or one of a wire to an expander or a shift register.
type Role string

// The roles beside the header's lines, which are called as link.Line has them.
const (
	SDA   Role = "SDA"
	SCL   Role = "SCL"
	Data  Role = "DATA"
	Clock Role = "CLOCK"
	Latch Role = "LATCH"
)

// Roles are all of them, in the order of the header, then those of the wires.
func Roles() (out []Role) {
	for l := range link.Lines {
		out = append(out, Role(l.String()))
	}
	return append(out, SDA, SCL, Data, Clock, Latch)
}

// roleOf is the role that a name means; whether it is one, the caller must see.
func roleOf(name string) Role {
	name = strings.ToUpper(strings.TrimSpace(name))
	if name == link.LineRW.Pin() {
		return Role(link.LineRW.String())
	}
	return Role(name)
}

// Lines says which channel, from 0, carries which role.
type Lines map[Role]int

// ParseLines reads lines such as "E=3,RS=5,SDA=D4": roles with a channel's number, from 0, or its name.
func ParseLines(text string, channels []string) (Lines, error) {
	out := Lines{}
	all := Roles()
	for part := range strings.SplitSeq(text, ",") {
		name, value, found := strings.Cut(strings.TrimSpace(part), "=")
		role := roleOf(name)
		if !found || !slices.Contains(all, role) {
			var names []string
			for _, r := range all {
				names = append(names, string(r))
			}
			return nil, fmt.Errorf("%q names no line; expected one of %s with its channel, such as E=3", part, strings.Join(names, ", "))
		}
		value = strings.TrimSpace(value)
		at := slices.Index(channels, value)
		if n, err := strconv.Atoi(value); at < 0 && err == nil && n >= 0 && n < len(channels) {
			at = n
		}
		if at < 0 {
			return nil, fmt.Errorf("%s: %q is no channel; expected a number from 0 to %d, or one of %s", role, value, len(channels)-1, strings.Join(channels, ", "))
		}
		if _, twice := out[role]; twice {
			return nil, fmt.Errorf("%s is named twice", role)
		}
		out[role] = at
	}
	return out, nil
}

// channel is that of a role, −1 where none has it.
func (l Lines) channel(r Role) int {
	if at, ok := l[r]; ok {
		return at
	}
	return -1
}

// Has reports whether all of some roles have a channel.
func (l Lines) Has(list ...Role) bool {
	return !slices.ContainsFunc(list, func(r Role) bool { return l.channel(r) < 0 })
}

// Kind is the link whose lines they are; "" where what it needs is not there.
func (l Lines) Kind() link.Kind {
	switch {
	case l.Has(SDA, SCL):
		return link.Backpack
	case l.Has(Data, Clock, Latch):
		return link.ShiftReg
	case !l.Has("E", "D4", "D5", "D6", "D7"):
		return ""
	case l.Has("D0", "D1", "D2", "D3"):
		return link.Parallel8
	}
	return link.Parallel4
}

// pins are the levels of the header's pins by those of the channels.
func (l Lines) pins(levels uint64) (p link.Pins) {
	for line := range link.Lines {
		if at := l.channel(Role(line.String())); at >= 0 && levels>>at&1 == 1 {
			p |= line.Bit()
		}
	}
	return p
}
