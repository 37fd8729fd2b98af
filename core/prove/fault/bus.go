package fault

import (
	"fmt"

	"slatebell/core/part/i2cbus"
	"slatebell/core/wire/link"
)

// Named is a mapping of an expander's outputs with what it is called.
type Named struct {
	Name    string
	Mapping link.Mapping
}

// Mappings are how backpacks are wired (common practice).
var Mappings = []Named{
	{"control lines on P0–P3, data on P4–P7", link.UsualMapping},
	{"data on P0–P3, control lines from P4", link.Mapping{RS: 4, RW: 5, E: 6, E2: link.Open, Backlight: 7, D4: 0, D5: 1, D6: 2, D7: 3}},
	{"data on P0–P3, control lines downwards from P6", link.Mapping{RS: 6, RW: 5, E: 4, E2: link.Open, Backlight: 7, D4: 0, D5: 1, D6: 2, D7: 3}},
	{"R/W and RS exchanged, data on P4–P7", link.Mapping{RS: 1, RW: 0, E: 2, E2: link.Open, Backlight: 3, D4: 4, D5: 5, D6: 6, D7: 7}},
	{"E on P3, backlight on P2, data on P4–P7", link.Mapping{RS: 0, RW: 1, E: 3, E2: link.Open, Backlight: 2, D4: 4, D5: 5, D6: 6, D7: 7}},
	{"RS on P2, R/W on P1, E on P0, data on P4–P7", link.Mapping{RS: 2, RW: 1, E: 0, E2: link.Open, Backlight: 3, D4: 4, D5: 5, D6: 6, D7: 7}},
}

// bus lists what can be wrong between the host and a backpack.
func (l *lister) bus() {
	own := i2cbus.Address(l.s.Link.Address)
	both := []string{"SDA", "SCL"}
	for _, w := range []struct {
		pin    string
		change func(*state)
	}{
		{"GND", func(st *state) { st.bus.GND = true }},
		{"VCC", func(st *state) { st.bus.VCC = true }},
		{"SDA", func(st *state) { st.bus.SDA = true }},
		{"SCL", func(st *state) { st.bus.SCL = true }},
	} {
		l.add("wire.open", []string{w.pin}, []string{w.pin}, w.change)
	}
	l.grouped("bus", "bus.swapped", nil, both, func(st *state) { st.bus.swapped = true })
	l.grouped("bus", "bus.pullups", nil, both, func(st *state) { st.bus.unpulled = true })
	l.grouped("bus", "bus.strong", nil, both, func(st *state) { st.bus.strong = true })
	for _, base := range []i2cbus.Address{0x20, 0x38} {
		for a := base; a < base+8; a++ {
			if a == own {
				continue
			}
			f := l.grouped("address", "bus.address", []string{a.String()}, nil, func(st *state) { st.bus.address = a })
			switch {
			case a == own^0x18: // the other family with the same pads
			case a^own == 1 || a^own == 2 || a^own == 4: // one pad
				f.Weight *= 0.3
			default:
				f.Weight *= 0.1
			}
		}
	}
	for i, m := range Mappings {
		if m.Mapping == l.s.Link.Mapping || l.s.Module.Geometry.Controllers == 2 {
			continue
		}
		l.grouped("mapping", "bus.mapping", []string{m.Name}, nil, func(st *state) { st.bus.mapping = int8(i + 1) }).ID = fmt.Sprintf("bus.mapping:%d", i+1)
	}
	if l.s.Link.Mapping.Backlight != link.Open {
		l.grouped("light", "bus.polarity", nil, nil, func(st *state) { st.bus.inverted = true })
	}
	for _, by := range []uint8{4, 10} {
		l.grouped("clock", "bus.fast", []string{fmt.Sprint(by)}, both, func(st *state) { st.program.fast = by })
	}
}
