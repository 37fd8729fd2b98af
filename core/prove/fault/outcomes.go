package fault

import (
	"fmt"
	"strings"

	"periph.io/x/conn/v3/physic"

	"slatebell/core/part/charrom"
	"slatebell/core/part/hd44780"
	"slatebell/core/part/i2cbus"
	"slatebell/core/part/module"
	"slatebell/core/say"
	"slatebell/core/wire/glass"
	"slatebell/core/wire/link"
)

// copy returns a state that may be changed.
func (st *state) copy() *state {
	c := *st
	return &c
}

// view makes an outcome of a look.
func view(v int32, err error) (Outcome, error) { return Outcome(v), err }

func lightOutcome(x *Index, st *state, j *joined) (Outcome, error) {
	v, err := x.lookAt(st, j, false)
	lit := err == nil && x.seen[v].Light
	bright := lit && j.bare
	return x.say("light", [2]bool{lit, bright}, func() string {
		switch {
		case bright:
			return "far too bright, and hot"
		case lit:
			return "lit"
		}
		return "dark"
	}), err
}

// powerOutcome is the glass after the supply was away.
func powerOutcome(x *Index, st *state, j *joined) (Outcome, error) {
	st = st.copy()
	st.restart()
	return view(x.lookAt(st, j, false))
}

// restart takes the supply away for a moment: what passes is gone.
func (st *state) restart() {
	st.lost = 0
	if st.program.start.again() {
		st.program.start = shortStart
	}
}

func idleOutcome(x *Index, st *state, j *joined) (Outcome, error) {
	st = st.copy()
	st.serial = true // nothing reaches the controller
	return view(x.lookAt(st, j, false))
}

func headerOutcome(x *Index, st *state, _ *joined) (Outcome, error) {
	return x.say("header", [2]any{st.offset, st.turned}, func() string {
		switch {
		case st.turned:
			return "it is turned round"
		case st.offset > 0:
			return "it is one hole off, towards the last pin"
		case st.offset < 0:
			return "it is one hole off, towards pin 1"
		}
		return "pin 1 is in its hole"
	}), nil
}

// measured is VDD against VSS as a meter reads it.
func measured(j *joined) int32 {
	switch {
	case j.reversed:
		return -5000
	case j.dead:
		return 0
	}
	return j.vdd
}

// measuredVO is VO against VSS as a meter reads it.
func (x *Index) measuredVO(st *state, j *joined) int32 {
	if j.dead {
		return 0
	}
	if j.voLines != 0 {
		if s, err := x.send(st.program); err == nil && j.voLines&^s.rest == 0 {
			return j.vdd
		}
		return 0
	}
	return j.vo
}

func railsOutcome(x *Index, st *state, _ *joined) (Outcome, error) {
	type rails struct {
		ground, supply, apart bool
		mV                    int32
	}
	r := rails{st.groundRail, st.supplyRail, st.apart, st.supplyMV}
	return x.say("rails", r, func() string {
		var out []string
		if r.ground {
			out = append(out, "the rail of ground is not joined to the host")
		}
		if r.supply {
			out = append(out, "the rail of the supply is not joined to the host")
		}
		if r.apart {
			out = append(out, "the module’s ground is not joined to the host’s")
		}
		if r.mV != x.base.supplyMV {
			out = append(out, fmt.Sprintf("the supply is taken from %.1f V", float64(r.mV)/1000))
		}
		if out == nil {
			return "both are joined"
		}
		return strings.Join(out, ", ")
	}), nil
}

func bridgesOutcome(x *Index, st *state, _ *joined) (Outcome, error) {
	return x.say("bridges", st.shorts, func() string {
		var out []string
		for i := range x.header.names {
			if st.shorts>>i&1 != 0 {
				out = append(out, fmt.Sprintf("%s and %s are joined", x.header.names[i], x.header.names[i+1]))
			}
		}
		if out == nil {
			return "none"
		}
		return strings.Join(out, ", ")
	}), nil
}

func beginOutcome(x *Index, st *state, _ *joined) (Outcome, error) {
	p := program{start: st.program.start, set: st.program.set, entry: st.program.entry, off: st.program.off, waits: st.program.waits}
	if p.start.again() {
		p.start = shortStart
	}
	return x.say("begin", p, func() string { return p.begins() }), nil
}

// begins says what is wrong with how a program begins.
func (p *program) begins() string {
	var out []string
	add := func(is bool, says string) {
		if is {
			out = append(out, says)
		}
	}
	add(p.start == noStart, "there is no initialisation")
	add(p.start == byteStart, "it sends whole bytes where single nibbles belong")
	add(p.start == shortStart, "it begins with a single 0x2")
	add(p.set&0x08 != 0, "the function set’s N is wrong")
	add(p.set&0x10 != 0, "the function set’s DL is wrong")
	add(p.set&0x04 != 0, "the function set’s F is wrong")
	add(p.entry&0x02 != 0, "the entry mode counts down")
	add(p.entry&0x01 != 0, "the entry mode shifts the display")
	add(p.off, "the display is never switched on")
	add(p.waits == noWaits, "it waits for nothing")
	add(p.waits == clearShort, "it does not wait after clear")
	if out == nil {
		return "as it ought to be"
	}
	return strings.Join(out, ", ")
}

func placesOutcome(x *Index, st *state, _ *joined) (Outcome, error) {
	q := &st.program
	p := program{geometry: q.geometry, right: q.right, down: q.down, wrap: q.wrap, onward: q.onward, uncut: q.uncut}
	if q.before != 0 {
		p.before = everything // which text is left, the program does not say
	}
	return x.say("places", p, func() string {
		var out []string
		if p.geometry > 0 {
			out = append(out, "it takes the module for "+titleOf(&module.Geometries[p.geometry-1]))
		}
		for _, c := range []struct {
			is   bool
			says string
		}{{p.right, "columns are counted from 1"}, {p.down, "rows are counted from 1"}, {p.wrap, "rows end a column early"}, {p.onward, "rows have no addresses"}, {p.uncut, "a row is longer than the glass"}, {p.before != 0, "it writes over the text before, and neither clears nor pads"}} {
			if c.is {
				out = append(out, c.says)
			}
		}
		if out == nil {
			return "as it ought to be"
		}
		return strings.Join(out, ", ")
	}), nil
}

func slowlyOutcome(x *Index, st *state, j *joined) (Outcome, error) {
	st = st.copy()
	st.program.waits, st.lost = long, 0
	return view(x.lookAt(st, j, false))
}

func textOutcome(x *Index, st *state, j *joined) (Outcome, error) {
	st = st.copy()
	if _, err := x.TestText(); err != nil {
		return 0, err
	}
	st.program.says, st.lost = testText, 0
	return view(x.lookAt(st, j, false))
}

func oscillatorOutcome(x *Index, st *state, j *joined) (Outcome, error) {
	base, err := x.lookAt(st, j, false)
	readable := err == nil && (x.seen[base].Class() == glass.Characters)
	o := x.say("oscillator", [2]bool{readable, readable && st.slow}, func() string {
		switch {
		case !readable:
			return "no cursor is to be seen"
		case st.slow:
			return "about 10.8 s"
		}
		return "about 7.6 s"
	})
	if readable {
		x.words[^o].kHz = map[bool]int{true: int(hd44780.MinOscillator / physic.KiloHertz), false: int(hd44780.TypicalOscillator / physic.KiloHertz)}[st.slow]
	}
	return o, err
}

func romOutcome(x *Index, st *state, j *joined) (Outcome, error) {
	base, err := x.lookAt(st, j, false)
	readable := err == nil && (x.seen[base].Class() == glass.Characters)
	rom := st.rom
	if !readable {
		rom = -1
	}
	return x.say("rom", rom, func() string {
		switch {
		case rom < 0:
			return "nothing can be read"
		case rom > 0:
			return charrom.Names()[rom-1]
		}
		return "the ROM that was planned"
	}), err
}

// turns are where the knob stands while it is turned from end to end.
var turns = []float64{0, 0.02, 0.05, 0.1, 0.15, 0.2, 0.3, 0.5, 1}

// potOutcome is the most that is to be seen while the potentiometer is turned.
func potOutcome(x *Index, st *state, j *joined) (Outcome, error) {
	st = st.copy()
	order := map[glass.Class]int{glass.Characters: 6, glass.Shaded: 5, glass.BlockRow: 4, glass.Faint: 3, glass.AllBlocks: 2, glass.Blank: 1}
	best, rank := int32(0), 0
	for i := -1; i < len(turns); i++ {
		if i >= 0 {
			st.pot.turn = turns[i]
		} else {
			st.pot.turn = x.base.pot.turn
		}
		at := st.join(&x.header)
		v, err := x.lookAt(st, &at, false)
		if err != nil {
			return 0, err
		}
		if r := order[x.seen[v].Class()]; r > rank {
			best, rank = v, r
		}
	}
	return Outcome(best), nil
}

func trimmerOutcome(x *Index, st *state, _ *joined) (Outcome, error) {
	p := st.pot
	p.turn = 0
	return x.say("trimmer", p, func() string {
		switch {
		case p.ohm != x.base.pot.ohm:
			return fmt.Sprintf("it has %d kΩ", int64(p.ohm)/1e12)
		case p.high == atGround:
			return "both ends are on ground"
		case p.low == atSupply:
			return "both ends are on the supply"
		}
		return "as it ought to be"
	}), nil
}

func linkOutcome(x *Index, st *state, _ *joined) (Outcome, error) {
	return x.say("link", st.serial, func() string {
		if st.serial {
			return "serial"
		}
		return "parallel"
	}), nil
}

func slotsOutcome(x *Index, st *state, _ *joined) (Outcome, error) {
	return x.say("slots", [2]bool{st.program.slot, st.program.unloaded}, func() string {
		switch {
		case st.program.unloaded:
			return "none is loaded"
		case st.program.slot:
			return "the codes are not those of the slots"
		}
		return "they match"
	}), nil
}

func jumperOutcome(x *Index, st *state, _ *joined) (Outcome, error) {
	return x.say("jumper", [2]bool{st.bus.jumper, st.program.dark}, func() string {
		switch {
		case st.bus.jumper:
			return "the jumper is off"
		case st.program.dark:
			return "the program clears the bit"
		}
		return "both are on"
	}), nil
}

// hardwareAddress is the address that the backpack has.
func (st *state) hardwareAddress() i2cbus.Address {
	if st.bus.address != 0 {
		return st.bus.address
	}
	return i2cbus.Address(st.s.Link.Address)
}

func chipOutcome(x *Index, st *state, _ *joined) (Outcome, error) {
	a := st.hardwareAddress()
	return x.say("chip", a, func() string {
		part, _ := i2cbus.Expander(a)
		return fmt.Sprintf("%s, pads closed: %s (%s)", part.Name, i2cbus.PadsFor(a), a)
	}), nil
}

func linesOutcome(x *Index, st *state, j *joined) (Outcome, error) {
	b := &st.bus
	return x.say("lines", [4]any{b.SDA, b.SCL, b.unpulled, st.supplyMV}, func() string {
		level := func(name string, open bool) string {
			switch {
			case b.unpulled && !open:
				return name + " floats"
			case open:
				return name + " at the supply, and nothing moves on it"
			}
			return fmt.Sprintf("%s at %.1f V", name, float64(st.supplyMV)/1000)
		}
		return level("SDA", b.SDA) + ", " + level("SCL", b.SCL)
	}), nil
}

// Print is what a scanner prints of the addresses that answer.
func Print(found []i2cbus.Address) string {
	if len(found) == 0 {
		return "no address answers"
	}
	var out []string
	for _, a := range found {
		out = append(out, fmt.Sprintf("%s (%d)", a, a))
	}
	return strings.Join(out, ", ")
}

// scanned lists the addresses that answer to a scan.
func (x *Index) scanned(st *state, j *joined) []i2cbus.Address {
	b := &st.bus
	dead := i2cbus.Lines{Swapped: b.swapped, NoPullUp: b.unpulled}
	bus := i2cbus.Simulated{Lines: dead}
	if b.strong {
		return nil
	}
	if !b.swapped || len(x.subject.Answers) > 0 { // the others have wires of their own
		bus.Lines.Swapped = false
		bus.Answers = append(bus.Answers, x.subject.Answers...)
	}
	if !j.dead && !b.SDA && !b.SCL && !b.swapped && !b.GND && !b.VCC && !st.apart {
		bus.Answers = append(bus.Answers, st.hardwareAddress())
	}
	return i2cbus.Scan(&bus)
}

func scanOutcome(x *Index, st *state, j *joined) (Outcome, error) {
	var bits [2]uint64
	found := x.scanned(st, j)
	for _, a := range found {
		bits[a>>6] |= 1 << (a & 63)
	}
	o := x.say("scan", bits, func() string { return Print(found) })
	w := &x.words[^o]
	w.scan, w.answers = true, found
	return o, nil
}

// Answers lists the addresses that answer in a scan's outcome; false for another test's.
func (x *Index) Answers(o Outcome) ([]i2cbus.Address, bool) {
	if o >= 0 {
		return nil, false
	}
	w := &x.words[^o]
	return w.answers, w.scan
}

func clockOutcome(x *Index, st *state, _ *joined) (Outcome, error) {
	by := max(st.program.fast, 1)
	return x.say("clock", by, func() string {
		if by == 1 {
			return "as planned"
		}
		return fmt.Sprintf("%d times as fast as planned", by)
	}), nil
}

func tracksOutcome(x *Index, st *state, _ *joined) (Outcome, error) {
	type tracks struct {
		mapping  int8
		inverted bool
	}
	return x.say("tracks", tracks{st.bus.mapping, st.bus.inverted}, func() string {
		says := "as the program takes them"
		if m := st.bus.mapping; m > 0 {
			says = Mappings[m-1].Name
		}
		if st.bus.inverted {
			says += "; the backlight is switched the other way round"
		}
		return says
	}), nil
}

func busWireOutcome(pin string) func(*Index, *state, *joined) (Outcome, error) {
	return func(x *Index, st *state, _ *joined) (Outcome, error) {
		b := &st.bus
		open := map[string]bool{"GND": b.GND, "VCC": b.VCC, "SDA": b.SDA, "SCL": b.SCL}[pin]
		swapped := b.swapped && pin[0] == 'S'
		return x.say("wire:"+pin, [2]bool{open, swapped}, func() string {
			switch {
			case open:
				return "it is open"
			case swapped:
				return "it goes to the other pin of the bus"
			}
			return "it is sound"
		}), nil
	}
}

func registerOutcome(x *Index, st *state, _ *joined) (Outcome, error) {
	return x.say("register", st.inputs, func() string {
		if st.inputs == soundRegister {
			return "as they ought to be"
		}
		name := func(n uint8) string { return []string{"nothing", "data", "clock", "latch"}[n] }
		return fmt.Sprintf("SER gets %s, SRCLK %s, RCLK %s", name(st.inputs.ser), name(st.inputs.clock), name(st.inputs.latch))
	}), nil
}

// jointsOutcome is what comes to all pins of a header that is soldered.
func jointsOutcome(x *Index, st *state, _ *joined) (Outcome, error) {
	return x.say("joints", st.holes, func() string {
		var out []string
		for i, name := range x.header.names {
			if f := st.holes[i]; f != x.base.holes[i] {
				out = append(out, name+": "+f.String())
			}
		}
		if out == nil {
			return "each gets its own"
		}
		return strings.Join(out, "; ")
	}), nil
}

// wireOutcome is what comes to the hole of a pin.
func wireOutcome(i int) func(*Index, *state, *joined) (Outcome, error) {
	return func(x *Index, st *state, _ *joined) (Outcome, error) {
		f := st.holes[i]
		return x.say("wire:"+x.header.names[i], f, func() string {
			if f == x.base.holes[i] {
				return "it is sound"
			}
			return f.String()
		}), nil
	}
}

// String says what a feed is.
func (f feed) String() string {
	var out []string
	for l := range link.Lines {
		if f.lines&l.Bit() != 0 {
			name := l.Pin()
			if l == link.LineBL {
				name = "the backlight’s line"
			}
			out = append(out, "the wire of "+name)
		}
	}
	for _, p := range []struct {
		is   bool
		says string
	}{{f.ground, "ground"}, {f.sink, "the backlight’s switch"}, {f.supply, "the supply"}, {f.lamp, "the backlight’s resistor"}, {f.wiper, "the potentiometer"}} {
		if p.is {
			out = append(out, p.says)
		}
	}
	if out == nil {
		return "nothing comes to it"
	}
	return say.List(out) + " comes to it"
}
