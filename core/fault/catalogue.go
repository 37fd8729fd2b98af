package fault

import (
	"cmp"
	"fmt"
	"math"
	"slices"

	"periph.io/x/conn/v3/physic"

	"slatebell/core/charrom"
	"slatebell/core/circuit"
	"slatebell/core/hd44780"
	"slatebell/core/i2cbus"
	"slatebell/core/link"
	"slatebell/core/module"
	"slatebell/core/screen"
	"slatebell/core/sequence"
)

// Wanted is how many cases an index holds at least, where its subject has that many.
const Wanted = 10_000

// twice is how much less often two faults are met at once than one (ours).
const twice = 0.02

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

// lister gathers the single faults of a subject.
type lister struct {
	x      *Index
	s      *Subject
	layout *screen.Layout
	list   []Fault
}

// add adds a fault at some pins.
func (l *lister) add(code string, args, pins []string, change func(*state)) *Fault {
	f := fault(code, args, change)
	f.Pins = pins
	l.list = append(l.list, f)
	return &l.list[len(l.list)-1]
}

// grouped adds a fault that excludes the others of its group.
func (l *lister) grouped(group, code string, args, pins []string, change func(*state)) *Fault {
	f := l.add(code, args, pins, change)
	f.group = group
	return f
}

// list fills Faults.
func (x *Index) list(layout *screen.Layout, orders bool) {
	l := &lister{x: x, s: x.subject, layout: layout, list: []Fault{{ID: Sound, Code: Sound, Weight: kinds[Sound].weight}}}
	l.wires(orders)
	l.supply()
	if x.subject.Link.Kind == link.Backpack {
		l.bus()
	}
	if x.subject.Link.Kind == link.ShiftReg {
		l.register()
	}
	l.starts()
	l.places()
	l.glyphs()
	l.traffic()
	x.Faults = l.list
}

// Sound is the id of the case in which all is as it ought to be.
const Sound = "sound"

func init() { kinds[Sound] = kind{Program, 20, "Nothing is wrong.", "nowhere", "Leave it as it is."} }

// soldered reports whether the header is soldered to a backpack.
func (s *Subject) soldered() bool { return s.Link.Kind == link.Backpack }

// wires lists what can be wrong between the strip and the header.
func (l *lister) wires(orders bool) {
	names := l.x.header.names
	base := &l.x.base
	exchange := func(a, b int) func(*state) {
		return func(st *state) { st.holes[a], st.holes[b] = st.holes[b], st.holes[a] }
	}
	for i, name := range names {
		if !base.holes[i].nothing() {
			l.add("wire.open", []string{name}, []string{name}, func(st *state) { st.holes[i] = feed{} })
		}
	}
	for i, a := range names {
		for j := i + 1; j < len(names) && !l.s.soldered(); j++ {
			b := names[j]
			fa, fb := base.holes[i], base.holes[j]
			switch {
			case fa == fb:
			case fb.nothing() || fa.nothing():
				from, to := a, b
				if fa.nothing() {
					from, to = b, a
				}
				f := l.add("wire.moved", []string{from, to}, []string{a, b}, exchange(i, j))
				f.Weight *= near(i, j)
			case a == "VSS" && b == "VDD":
				l.add("supply.reversed", nil, []string{a, b}, exchange(i, j))
			case a == "A" && b == "K":
				l.add("light.turned", nil, []string{a, b}, exchange(i, j))
			default:
				f := l.add("wire.swapped", []string{a, b}, []string{a, b}, exchange(i, j))
				f.Weight *= near(i, j)
			}
		}
	}
	for i := 0; i+1 < len(names); i++ {
		if base.holes[i] != base.holes[i+1] {
			l.add("wire.short", []string{names[i], names[i+1]}, names[i:i+2], func(st *state) { st.shorts |= 1 << i })
		}
	}
	if l.s.soldered() {
		return
	}
	last := len(names)
	l.grouped("header", "header.off", []string{fmt.Sprint(last)}, nil, func(st *state) { st.offset = 1 })
	l.grouped("header", "header.off", []string{"1"}, nil, func(st *state) { st.offset = -1 })
	l.grouped("header", "header.turned", nil, nil, func(st *state) { st.turned = true })
	if orders {
		l.orders()
	}
}

// near is how much more often wires are exchanged that lie side by side.
func near(i, j int) float64 { return 1 / math.Sqrt(float64(j-i)) }

// orders lists the orders of the data lines that are no exchange of two.
func (l *lister) orders() {
	var at []int
	for i, name := range l.x.header.names {
		if lineOf(name)&hd44780.DataPins != 0 && !l.x.base.holes[i].nothing() {
			at = append(at, i)
		}
	}
	slices.SortFunc(at, func(a, b int) int { return cmp.Compare(l.x.header.names[a], l.x.header.names[b]) })
	order := slices.Clone(at)
	var permute func(k, moved int)
	permute = func(k, moved int) {
		if k == len(order) {
			if moved <= 2 {
				return // as it ought to be, or two exchanged
			}
			from := slices.Clone(order)
			var args []string
			for _, i := range from {
				args = append(args, l.x.header.names[i])
			}
			f := l.add("wire.order", args, args, func(st *state) {
				was := st.holes
				for i, pin := range at {
					st.holes[pin] = was[from[i]]
				}
			})
			f.alone = true
			return
		}
		for i := k; i < len(order); i++ {
			order[k], order[i] = order[i], order[k]
			m := moved
			if order[k] != at[k] {
				m++
			}
			permute(k+1, m)
			order[k], order[i] = order[i], order[k]
		}
	}
	permute(0, 0)
	for i := range l.list { // turned end for end is met most
		if f := &l.list[i]; f.Code == "wire.order" {
			n := len(f.args)
			f.Weight /= float64(max(n*n*n*n/256, 1))
			if slices.IsSortedFunc(f.args, func(a, b string) int { return cmp.Compare(b, a) }) {
				f.Weight = 1.5
			}
		}
	}
}

// supply lists what can be wrong with supply, contrast and light.
func (l *lister) supply() {
	s, st := l.s, &l.x.base
	ground, vdd := []string{"VSS"}, []string{"VDD"}
	if s.soldered() {
		ground, vdd = []string{"GND"}, []string{"VCC"}
	}
	l.grouped("supply", "supply.rail", []string{"ground"}, ground, func(st *state) { st.groundRail = true })
	l.grouped("supply", "supply.rail", []string{"supply"}, vdd, func(st *state) { st.supplyRail = true })
	if s.Module.Fed() > 4500*physic.MilliVolt {
		l.grouped("supply", "supply.3v3", nil, vdd, func(st *state) { st.supplyMV = 3300 })
	}
	common := l.grouped("supply", "supply.common", nil, ground, func(st *state) { st.apart = true })
	if !s.Apart {
		common.Weight /= 3
	}
	if s.Module.Technology == module.VFD {
		l.add("vfd.link", nil, nil, func(st *state) { st.serial = true })
		return
	}
	if s.Fitting.Pot > 0 {
		pin := []string{"VO"}
		l.grouped("contrast", "contrast.low", nil, pin, func(st *state) { st.pot.turn = 1 })
		l.grouped("contrast", "contrast.high", nil, pin, func(st *state) { st.pot.turn = 0 })
		l.grouped("contrast", "contrast.weak", nil, pin, func(st *state) { st.pot.turn = weakTurn(st) })
		if !s.soldered() {
			for _, r := range []physic.ElectricResistance{100_000 * physic.Ohm, 250_000 * physic.Ohm, 1_000_000 * physic.Ohm} {
				l.grouped("contrast", "contrast.pot", []string{circuit.Ohms(r)}, pin, func(st *state) { st.pot.ohm = r }).ID = fmt.Sprintf("contrast.pot:%dk", r/physic.KiloOhm)
			}
			l.grouped("contrast", "contrast.ground", nil, pin, func(st *state) { st.pot.high = atGround })
			l.grouped("contrast", "contrast.supply", nil, pin, func(st *state) { st.pot.low = atSupply })
		}
	}
	lamp := []string{"A", "K"}
	if s.soldered() {
		l.grouped("light", "light.jumper", nil, lamp, func(st *state) { st.bus.jumper = true })
	} else if s.Fitting.Light > 0 {
		a := l.x.header.index["A"]
		f := l.grouped("light", "light.bare", nil, []string{"A"}, func(st *state) { st.holes[a].supply, st.holes[a].lamp = true, false })
		f.alone = st.holes[a].supply
	}
	if s.driven()&link.Backlight != 0 {
		l.grouped("light", "light.program", nil, lamp, func(st *state) { st.program.dark = true })
	}
}

// weakTurn is a turn of the knob at which signs are hardly to be seen.
func weakTurn(st *state) float64 {
	m := st.s.Module
	duty := 8
	if m.Geometry.TwoLine {
		duty = 16
	}
	low, high := 0.0, st.s.Fitting.Contrast // where the signs begin to show lies between
	for high-low > 1e-4 {
		if mid := (low + high) / 2; m.Look(mid, duty, 0).Lit < 0.5 {
			low = mid
		} else {
			high = mid
		}
	}
	return st.divider().TurnFor(m.VO(high))
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

// register lists what can be wrong at a shift register's inputs.
func (l *lister) register() {
	in := func(st *state) [3]*uint8 { return [3]*uint8{&st.inputs.ser, &st.inputs.clock, &st.inputs.latch} }
	names := []string{"data", "clock", "latch"}
	for i, a := range names {
		l.add("register.open", []string{a}, []string{a}, func(st *state) { *in(st)[i] = 0 })
		for j := i + 1; j < 3; j++ {
			l.add("register.swapped", []string{a, names[j]}, []string{a, names[j]}, func(st *state) { p := in(st); *p[i], *p[j] = *p[j], *p[i] })
		}
	}
}

// starts lists what can be wrong with how a program begins and waits.
func (l *lister) starts() {
	s := l.s
	four := s.Link.Width() == 4
	l.grouped("start", "start.none", nil, nil, func(st *state) { st.program.start = noStart })
	if four {
		l.grouped("start", "start.bytes", nil, nil, func(st *state) { st.program.start = byteStart })
		l.grouped("start", "start.again", []string{"in the middle of a byte"}, nil, func(st *state) { st.program.start = halfStart }).Passing = true
		l.list[len(l.list)-1].ID = "start.again:byte"
		l.grouped("start", "start.again", []string{"between two bytes"}, nil, func(st *state) { st.program.start = evenStart }).Passing = true
		l.list[len(l.list)-1].ID = "start.again:between"
	}
	l.grouped("set", "start.lines", nil, nil, func(st *state) { st.program.set ^= hd44780.TwoLine })
	width := "8"
	if !four {
		width = "4"
	}
	l.grouped("set", "start.width", []string{width}, nil, func(st *state) { st.program.set ^= hd44780.EightBit })
	if s.Module.Technology == module.LCD {
		l.grouped("set", "start.font", nil, nil, func(st *state) { st.program.set ^= hd44780.Tall })
	}
	l.grouped("waits", "wait.none", nil, nil, func(st *state) { st.program.waits = noWaits })
	l.grouped("waits", "wait.clear", nil, nil, func(st *state) { st.program.waits = clearShort })
	l.grouped("clock", "clock.slow", nil, nil, func(st *state) { st.slow = true })
	l.grouped("entry", "entry.back", nil, nil, func(st *state) { st.program.entry = hd44780.Increment })
	l.grouped("entry", "entry.shift", nil, nil, func(st *state) { st.program.entry = hd44780.AutoShift })
	l.add("display.off", nil, nil, func(st *state) { st.program.off = true })
}

// titleOf names a geometry for people.
func titleOf(g *module.Geometry) string {
	if g.Note != "" {
		return g.Title + " (" + g.Note + ")"
	}
	return g.Title
}

// places lists what can be wrong with where a program writes.
func (l *lister) places() {
	g := &l.s.Module.Geometry
	for i, other := range module.Geometries {
		if other.Name != g.Name && other.Controllers == g.Controllers && !(l.s.Module.Tall && other.TwoLine) {
			l.grouped("place", "place.geometry", []string{titleOf(&other)}, nil, func(st *state) { st.program.geometry = int8(i + 1) }).ID = "place.geometry:" + other.Name
		}
	}
	fits := true
	for _, seg := range g.Segments {
		st := hd44780.State{TwoLine: g.TwoLine}
		_, ok := st.Index(seg.Start + uint8(seg.Len))
		fits = fits && ok
	}
	if fits {
		l.grouped("place", "place.column", nil, nil, func(st *state) { st.program.right = true })
	}
	if g.Rows > 1 {
		l.grouped("place", "place.row", nil, nil, func(st *state) { st.program.down = true })
		l.grouped("place", "place.wrap", nil, nil, func(st *state) { st.program.wrap = true })
		l.grouped("place", "place.onward", nil, nil, func(st *state) { st.program.onward = true })
	}
	for row, over := range l.layout.Over {
		if over != "" && row < g.Rows && !l.s.Text.Scroll.Runs(row) {
			l.grouped("place", "text.long", []string{fmt.Sprint(row + 1)}, nil, func(st *state) { st.program.uncut = true })
			break
		}
	}
	for i := range l.s.Others {
		if i < 100 {
			l.grouped("place", "text.left", []string{fmt.Sprintf("screen %d", i+1)}, nil, func(st *state) { st.program.before = int8(i + 1) }).ID = fmt.Sprintf("text.left:%d", i+1)
		}
	}
	l.grouped("place", "text.left", []string{"of some other text"}, nil, func(st *state) { st.program.before = everything }).ID = leftOver
}

// glyphs lists what can be wrong with glyphs and characters.
func (l *lister) glyphs() {
	for _, c := range l.layout.Codes() {
		if _, ok := l.s.Module.ROM.Slot(c); ok {
			l.grouped("glyph", "glyph.slot", nil, nil, func(st *state) { st.program.slot = true })
			l.grouped("glyph", "glyph.missing", nil, nil, func(st *state) { st.program.unloaded = true })
			break
		}
	}
	for i, name := range charrom.Names() {
		if rom, _ := charrom.ByName(name); rom != l.s.Module.ROM {
			l.grouped("rom", "rom.other", []string{name}, nil, func(st *state) { st.rom = int8(i + 1) })
		}
	}
}

// traffic lists pulses of E that go missing.
func (l *lister) traffic() {
	s, err := l.x.send(program{})
	if err != nil {
		return // New has said so
	}
	for i := range s.main.Steps {
		step := &s.main.Steps[i]
		nth := 0
		for w := step.First; w < step.First+step.Count; w++ {
			if !s.main.Coder.Raises(s.main.Words[w]) {
				continue
			}
			nth++
			place := fmt.Sprint(i + 1)
			if nth > 1 {
				place += " (its second nibble)"
			}
			f := l.grouped("traffic", "nibble.lost", []string{place}, nil, func(st *state) { st.lost = int32(w + 1) })
			f.ID = fmt.Sprintf("nibble.lost:%d.%d", i+1, nth)
			f.Passing, f.alone = true, true
			if step.Kind == sequence.Text {
				f.Weight /= 4
			}
		}
	}
}

// pair makes the cases: each fault alone, then the likeliest two at once until there
// are enough.
func (x *Index) pair() {
	for i := range x.Faults {
		x.Cases = append(x.Cases, Case{A: int32(i), B: -1, Weight: x.Faults[i].Weight})
	}
	var total float64
	for i := range x.Faults {
		total += x.Faults[i].Weight
	}
	var pairs []Case
	few := len(x.Faults) < Wanted/20 // beyond, there are enough without those that are seldom met with others
	for i := 1; i < len(x.Faults); i++ {
		a := &x.Faults[i]
		for j := i + 1; j < len(x.Faults) && (few || !a.alone); j++ {
			b := &x.Faults[j]
			if b.alone && (a.alone || !few) || a.group != "" && a.group == b.group || overlap(a.Pins, b.Pins) {
				continue
			}
			pairs = append(pairs, Case{A: int32(i), B: int32(j), Weight: twice * a.Weight * b.Weight / total})
		}
	}
	slices.SortStableFunc(pairs, func(a, b Case) int { return cmp.Compare(b.Weight, a.Weight) })
	x.Cases = append(x.Cases, pairs[:min(len(pairs), max(Wanted+Wanted/20-len(x.Cases), Wanted/4))]...)
}

// overlap reports whether two lists of pins share one.
func overlap(a, b []string) bool {
	return slices.ContainsFunc(a, func(p string) bool { return slices.Contains(b, p) })
}
