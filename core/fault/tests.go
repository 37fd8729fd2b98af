package fault

import (
	"fmt"
	"strings"

	"slatebell/core/charrom"
	"slatebell/core/i2cbus"
	"slatebell/core/link"
	"slatebell/core/module"
	"slatebell/core/sight"
)

// Test is something that a maker can do to learn more.
type Test struct {
	ID      string
	Title   string
	Do      string
	Minutes float64 // what it takes (ours)
	Meter   bool    // it needs one
	Upload  bool    // another program is sent
	Volts   bool    // it reads a voltage
	outcome func(x *Index, st *state, j *joined) (Outcome, error)
}

// Outcome is what a test shows: a view, or words. Equal ones cannot be told apart.
type Outcome int32

// ViewOf returns the view that an outcome is; false where it is words.
func (x *Index) ViewOf(o Outcome) (*sight.View, bool) {
	if o < 0 {
		return nil, false
	}
	return &x.seen[o], true
}

// Says returns an outcome's words; "" for a view.
func (x *Index) Says(o Outcome) string {
	if o >= 0 {
		return ""
	}
	return x.words[^o].says
}

// Key names an outcome for good: the same outcome has the same key in any index of the
// same subject.
func (x *Index) Key(o Outcome) string {
	if o < 0 {
		return x.words[^o].says
	}
	for int(o) >= len(x.keys) {
		x.keys = append(x.keys, fmt.Sprintf("%016x", x.seen[len(x.keys)].Key()))
	}
	return x.keys[o]
}

// MilliVolts returns the voltage that an outcome is; false where it is none.
func (x *Index) MilliVolts(o Outcome) (int, bool) {
	if o >= 0 || !x.words[^o].volts {
		return 0, false
	}
	return x.words[^o].mV, true
}

// word is an outcome in words.
type word struct {
	says  string
	volts bool
	mV    int
}

// wordKey tells the outcomes in words of a test apart.
type wordKey struct {
	test string
	what any
}

// say returns the outcome in words of a test for what is found, which must be
// comparable; words makes them where they are not there yet.
func (x *Index) say(test string, what any, words func() string) Outcome {
	k := wordKey{test, what}
	o, ok := x.byWord[k]
	if !ok {
		x.words = append(x.words, word{says: words()})
		o = ^Outcome(len(x.words) - 1)
		x.byWord[k] = o
	}
	return o
}

// volts returns the outcome of a measurement, to a tenth of a volt.
func (x *Index) volts(test string, mV int32) Outcome {
	tenths := (mV + 50) / 100
	o := x.say(test, tenths, func() string { return fmt.Sprintf("%.1f V", float64(tenths)/10) })
	w := &x.words[^o]
	w.volts, w.mV = true, int(tenths)*100
	return o
}

// Probe is a case with its faults made, to try several tests on.
type Probe struct {
	x      *Index
	state  state
	joined joined
}

// Probe makes the faults of a case.
func (x *Index) Probe(c *Case) *Probe {
	p := &Probe{x: x, state: x.state(c)}
	p.joined = p.state.join(&x.header)
	return p
}

// Observe returns what a test shows.
func (p *Probe) Observe(t *Test) (Outcome, error) { return t.outcome(p.x, &p.state, &p.joined) }

// copy returns a state that may be changed.
func (st *state) copy() *state {
	c := *st
	return &c
}

// view makes an outcome of a look.
func view(v int32, err error) (Outcome, error) { return Outcome(v), err }

// tests lists what can be done with the subject, cheapest first.
func (x *Index) tests() []Test {
	s := x.subject
	lcd, pack := s.Module.Technology == module.LCD, s.soldered()
	list := []Test{
		{ID: "light", Title: "Look at the backlight", Do: "Look whether the glass is lit from behind, and how brightly.", Minutes: 0.2, outcome: lightOutcome},
		{ID: "power", Title: "Switch off and on", Do: "Take the supply away for some seconds, and give it back.", Minutes: 0.5, outcome: powerOutcome},
		{ID: "restart", Title: "Press reset", Do: "Press the host’s reset while the supply stays on.", Minutes: 0.5, outcome: func(x *Index, st *state, j *joined) (Outcome, error) { return view(x.lookAt(st, j, true)) }},
		{ID: "idle", Title: "Hold reset", Do: "Hold the host’s reset, switch the supply off and on, and look at the glass before any program runs.", Minutes: 0.7, outcome: idleOutcome},
		{ID: "supply", Title: "Measure the supply", Do: "Measure VDD against VSS at the module’s own pins.", Minutes: 1.5, Meter: true, Volts: true, outcome: func(x *Index, st *state, j *joined) (Outcome, error) { return x.volts("supply", measured(j)), nil }},
		{ID: "rails", Title: "Follow supply and ground", Do: "Follow supply and ground from the host to the rails of both sides of the board.", Minutes: 2, outcome: railsOutcome},
		{ID: "bridges", Title: "Look for bridges", Do: "Look with a lens for solder or legs that join two neighbouring pins.", Minutes: 2, outcome: bridgesOutcome},
		{ID: "begin", Title: "Read how the program begins", Do: "Read the initialisation and the settings: width, lines, font, entry mode, display on, waits.", Minutes: 3, outcome: beginOutcome},
		{ID: "places", Title: "Read where the program writes", Do: "Read which columns, rows and addresses the program uses, and what it does with the text before.", Minutes: 2.5, outcome: placesOutcome},
		{ID: "slowly", Title: "Run it slowly", Do: "Let the program wait 5 ms more after each byte.", Minutes: 3.5, Upload: true, outcome: slowlyOutcome},
		{ID: "text", Title: "Send the test text", Do: "", Minutes: 3, Upload: true, outcome: textOutcome},
		{ID: "oscillator", Title: "Time the blinking cursor", Do: "Switch the blinking cursor on, and time ten of its blinks: 7.6 s at 270 kHz, 10.8 s at 190 kHz.", Minutes: 4, Upload: true, outcome: oscillatorOutcome},
		{ID: "rom", Title: "Show the chart", Do: "Write the codes 0xA0 to 0xDF, and look whether they are katakana or European letters.", Minutes: 4, Upload: true, outcome: romOutcome},
	}
	if !pack {
		list = append(list, Test{ID: "header", Title: "Look along the header", Do: "Look whether each pin of the header is in the hole that belongs to it, pin 1 first.", Minutes: 0.7, outcome: headerOutcome})
	}
	if lcd && s.Fitting.Pot > 0 {
		list = append(list,
			Test{ID: "pot", Title: "Turn the potentiometer", Do: "Turn the contrast potentiometer slowly from end to end, and leave it where the most is to be seen.", Minutes: 0.7, outcome: potOutcome},
			Test{ID: "contrast", Title: "Measure VO", Do: "Measure VO against VSS at the module’s own pins.", Minutes: 1.2, Meter: true, Volts: true, outcome: func(x *Index, st *state, j *joined) (Outcome, error) {
				return x.volts("contrast", x.measuredVO(st, j)), nil
			}},
		)
		if !pack {
			list = append(list, Test{ID: "trimmer", Title: "Look at the potentiometer", Do: "Read what is printed on the potentiometer, and where its two ends and its wiper go.", Minutes: 1.5, outcome: trimmerOutcome})
		}
	}
	if !lcd {
		list = append(list, Test{ID: "link", Title: "Look at the solder link", Do: "Look at the solder link on the back of the VFD: parallel or serial.", Minutes: 1, outcome: linkOutcome})
	}
	if _, glyphs := x.byID["glyph.slot"]; glyphs {
		list = append(list, Test{ID: "slots", Title: "Read how glyphs are loaded", Do: "Read which slots are loaded, and which codes are printed.", Minutes: 2, outcome: slotsOutcome})
	}
	switch {
	case pack:
		list = append(list,
			Test{ID: "jumper", Title: "Look at the backlight’s jumper", Do: "Look whether the jumper beside the trimmer is on, and whether the program sets the backlight’s bit.", Minutes: 0.6, outcome: jumperOutcome},
			Test{ID: "chip", Title: "Read the expander", Do: "Read what is printed on the expander and which of its pads are closed.", Minutes: 1, outcome: chipOutcome},
			Test{ID: "lines", Title: "Measure SDA and SCL", Do: "Measure SDA and SCL at rest against ground, at the backpack.", Minutes: 1.5, Meter: true, outcome: linesOutcome},
			Test{ID: "scan", Title: "Scan the bus", Do: "Load a scanner, and read what it prints.", Minutes: 2, Upload: true, outcome: scanOutcome},
			Test{ID: "clock", Title: "Read the clock of the bus", Do: "Read the clock of the bus in the program.", Minutes: 1, outcome: clockOutcome},
			Test{ID: "tracks", Title: "Follow the expander’s outputs", Do: "Follow with a meter which output of the expander goes to which pin of the header, and what switches the backlight.", Minutes: 6, Meter: true, outcome: tracksOutcome},
		)
		for _, pin := range []string{"GND", "VCC", "SDA", "SCL"} {
			list = append(list, Test{ID: "wire:" + pin, Title: "Follow the wire of " + pin, Do: "Follow the wire of " + pin + " from the host to the backpack, and press both ends in anew.", Minutes: 1.2, outcome: busWireOutcome(pin)})
		}
	case s.Link.Kind == link.ShiftReg:
		list = append(list, Test{ID: "register", Title: "Follow the register’s inputs", Do: "Follow data, clock and latch from the host to the register.", Minutes: 3, outcome: registerOutcome})
	}
	for i, name := range x.header.names {
		minutes := 1.5
		if pack {
			minutes = 2.5 // a joint that is soldered
		}
		if name != "NC" && !(pack && x.base.holes[i].nothing()) {
			list = append(list, Test{ID: "wire:" + name, Title: "Follow the wire of " + name, Do: fmt.Sprintf("Follow the wire at pin %d of the header, %s, to where it comes from, and press both ends in anew.", i+1, name), Minutes: minutes, outcome: wireOutcome(i)})
		}
	}
	return list
}

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

// powerOutcome is the glass after the supply was away: what passes is gone.
func powerOutcome(x *Index, st *state, j *joined) (Outcome, error) {
	st = st.copy()
	st.lost = 0
	if st.program.start.again() {
		st.program.start = shortStart
	}
	return view(x.lookAt(st, j, false))
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
	st.program.test, st.lost = true, 0
	return view(x.lookAt(st, j, false))
}

func oscillatorOutcome(x *Index, st *state, j *joined) (Outcome, error) {
	base, err := x.lookAt(st, j, false)
	readable := err == nil && (x.seen[base].Class() == sight.Signs)
	return x.say("oscillator", [2]bool{readable, readable && st.slow}, func() string {
		switch {
		case !readable:
			return "no cursor is to be seen"
		case st.slow:
			return "about 10.8 s"
		}
		return "about 7.6 s"
	}), err
}

func romOutcome(x *Index, st *state, j *joined) (Outcome, error) {
	base, err := x.lookAt(st, j, false)
	readable := err == nil && (x.seen[base].Class() == sight.Signs)
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
	order := map[sight.Class]int{sight.Signs: 5, sight.BlockRow: 4, sight.Faint: 3, sight.AllBlocks: 2, sight.Blank: 1}
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

// Scanned lists the addresses that answer to a scan of a case.
func (x *Index) Scanned(c *Case) []i2cbus.Address {
	st := x.state(c)
	j := st.join(&x.header)
	return x.scanned(&st, &j)
}

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
	return x.say("scan", bits, func() string { return Print(found) }), nil
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
	for i, name := range [link.Lines]string{"D0", "D1", "D2", "D3", "D4", "D5", "D6", "D7", "RS", "R/W", "E", "E2", "the backlight’s line"} {
		if f.lines>>i&1 != 0 {
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
	return strings.Join(out, " and ") + " comes to it"
}
