package fault

import (
	"fmt"

	"slatebell/core/part/i2cbus"
	"slatebell/core/part/module"
	"slatebell/core/wire/glass"
	"slatebell/core/wire/link"
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
	Act     Act     // what of it a host with a bridge does by itself; "" for nothing
	outcome func(x *Index, st *state, j *joined) (Outcome, error)
}

// Act is something that a host with a bridge can do for a test, so that only eyes are asked, or nothing at all.
type Act string

// The acts.
const (
	ActSend    Act = "send"    // the test text is shown
	ActSlow    Act = "slow"    // what it ought to show is sent anew, with more time after each byte
	ActBegin   Act = "begin"   // the module is initialised anew, and sent what it ought to show
	ActLight   Act = "light"   // the backlight is switched off, and on again
	ActBlink   Act = "blink"   // a block blinks in the first cell
	ActChart   Act = "chart"   // the codes from 0xA0 on are shown
	ActScan    Act = "scan"    // the bus is asked who answers
	ActMeasure Act = "measure" // a voltage is measured, by a wire from the module to a free analogue pin
)

// Outcome is what a test shows: a view, or words. Equal ones cannot be told apart.
type Outcome int32

// ViewOf returns the view that an outcome is; false where it is words.
func (x *Index) ViewOf(o Outcome) (*glass.View, bool) {
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

// Oscillator returns the frequency in kHz that an outcome tells of; 0 where it tells of none.
func (x *Index) Oscillator(o Outcome) int {
	if o >= 0 {
		return 0
	}
	return x.words[^o].kHz
}

// vocabulary is what outcomes and characters are called.
type vocabulary struct {
	letters map[glass.Cell]rune
	keys    []string // of the views, as far as they were asked for
	words   []word
	byWord  map[wordKey]Outcome
}

// word is an outcome in words.
type word struct {
	says    string
	volts   bool
	mV      int
	kHz     int // of an oscillator; 0 where it tells none
	scan    bool
	answers []i2cbus.Address // to a scan
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

// All returns what every test shows: of cases that nobody can tell apart it is the same.
func (p *Probe) All() (out []Outcome, err error) {
	for i := range p.x.Tests {
		o, err := p.Observe(&p.x.Tests[i])
		if err != nil {
			return nil, err
		}
		out = append(out, o)
	}
	return out, nil
}

// Observe returns what a test shows.
func (p *Probe) Observe(t *Test) (Outcome, error) { return t.outcome(p.x, &p.state, &p.joined) }

// tests lists what can be done with the subject, cheapest first.
func (x *Index) tests() []Test {
	s := x.subject
	lcd, pack := s.Module.Technology == module.LCD, s.soldered()
	list := []Test{
		{ID: "light", Title: "Look at the backlight", Do: "Look whether the glass is lit from behind, and how brightly.", Minutes: 0.2, Act: x.switched(), outcome: lightOutcome},
		{ID: "power", Title: "Switch off and on", Do: "Take the supply away for some seconds, and give it back.", Minutes: 0.5, outcome: powerOutcome},
		{ID: "restart", Title: "Press reset", Do: "Press the host’s reset while the supply stays on.", Minutes: 0.5, Act: ActBegin, outcome: func(x *Index, st *state, j *joined) (Outcome, error) { return view(x.lookAt(st, j, true)) }},
		{ID: "idle", Title: "Hold reset", Do: "Hold the host’s reset, switch the supply off and on, and look at the glass before any program runs.", Minutes: 0.7, outcome: idleOutcome},
		{ID: "header", Title: "Look along the header", Do: "Look whether each pin of the header is in the hole that belongs to it, pin 1 first.", Minutes: 0.7, outcome: headerOutcome},
		{ID: "supply", Title: "Measure the supply", Do: "Measure VDD against VSS at the module’s own pins.", Minutes: 1.5, Meter: true, Volts: true, Act: ActMeasure, outcome: func(x *Index, st *state, j *joined) (Outcome, error) { return x.volts("supply", measured(j)), nil }},
		{ID: "rails", Title: "Follow supply and ground", Do: "Follow supply and ground from the host to the module, over every rail on the way.", Minutes: 2, outcome: railsOutcome},
		{ID: "bridges", Title: "Look for bridges", Do: "Look with a lens for solder or legs that join two neighbouring pins.", Minutes: 2, outcome: bridgesOutcome},
		{ID: "begin", Title: "Read how the program begins", Do: "Read the initialisation and the settings: width, lines, font, entry mode, display on, waits.", Minutes: 3, outcome: beginOutcome},
		{ID: "places", Title: "Read where the program writes", Do: "Read which columns, rows and addresses the program uses, and what it does with the text before.", Minutes: 2.5, outcome: placesOutcome},
		{ID: "slowly", Title: "Run it slowly", Do: "Let the program wait 5 ms more after each byte.", Minutes: 3.5, Upload: true, Act: ActSlow, outcome: slowlyOutcome},
		{ID: "text", Title: "Send the test text", Do: "", Minutes: 3, Upload: true, Act: ActSend, outcome: textOutcome},
		{ID: "oscillator", Title: "Time the blinking cursor", Do: "Switch the blinking cursor on, and time ten of its blinks: 7.6 s at 270 kHz, 10.8 s at 190 kHz.", Minutes: 4, Upload: true, Act: ActBlink, outcome: oscillatorOutcome},
		{ID: "rom", Title: "Show the chart", Do: "Write the codes 0xA0 to 0xDF, and look whether they are katakana or European letters.", Minutes: 4, Upload: true, Act: ActChart, outcome: romOutcome},
	}
	if lcd && s.Fitting.Pot > 0 {
		list = append(list,
			Test{ID: "pot", Title: "Turn the potentiometer", Do: "Turn the contrast potentiometer slowly from end to end, and leave it where the most is to be seen.", Minutes: 0.7, outcome: potOutcome},
			Test{ID: "contrast", Title: "Measure VO", Do: "Measure VO against VSS at the module’s own pins.", Minutes: 1.2, Meter: true, Volts: true, Act: ActMeasure, outcome: func(x *Index, st *state, j *joined) (Outcome, error) {
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
			Test{ID: "jumper", Title: "Look at the backlight’s jumper", Do: "Look whether the jumper beside the trimmer is on, and whether the program sets the backlight’s bit.", Minutes: 0.6, Act: x.switched(), outcome: jumperOutcome},
			Test{ID: "chip", Title: "Read the expander", Do: "Read what is printed on the expander and which of its pads are closed.", Minutes: 1, outcome: chipOutcome},
			Test{ID: "lines", Title: "Measure SDA and SCL", Do: "Measure SDA and SCL at rest against ground, at the backpack.", Minutes: 1.5, Meter: true, outcome: linesOutcome},
			Test{ID: "scan", Title: "Scan the bus", Do: "Load a scanner, and read what it prints.", Minutes: 2, Upload: true, Act: ActScan, outcome: scanOutcome},
			Test{ID: "clock", Title: "Read the clock of the bus", Do: "Read the clock of the bus in the program.", Minutes: 1, outcome: clockOutcome},
			Test{ID: "joints", Title: "Follow the joints of the header", Do: "Follow with a meter, pin by pin, what comes from the backpack to the module’s header.", Minutes: 5, Meter: true, outcome: jointsOutcome},
			Test{ID: "tracks", Title: "Follow the expander’s outputs", Do: "Follow with a meter which output of the expander goes to which pin of the header, and what switches the backlight.", Minutes: 6, Meter: true, outcome: tracksOutcome},
		)
		for _, pin := range []string{"GND", "VCC", "SDA", "SCL"} {
			list = append(list, Test{ID: "wire:" + pin, Title: "Follow the wire of " + pin, Do: "Follow the wire of " + pin + " from the host to the backpack, and press both ends in anew.", Minutes: 1.2, outcome: busWireOutcome(pin)})
		}
	case s.Link.Kind == link.ShiftReg:
		list = append(list, Test{ID: "register", Title: "Follow the register’s inputs", Do: "Follow data, clock and latch from the host to the register.", Minutes: 3, outcome: registerOutcome})
	}
	list = append(list, x.inputTests()...)
	if !pack {
		list = append(list, x.exchanges()...)
	}
	for i, name := range x.header.names {
		if name != "NC" && !pack {
			list = append(list, Test{ID: "wire:" + name, Title: "Follow the wire of " + name, Do: fmt.Sprintf("Follow the wire at pin %d of the header, %s, to where it comes from, and press both ends in anew.", i+1, name), Minutes: 1.5, outcome: wireOutcome(i)})
		}
	}
	return list
}

// switched is the act by which a host switches the backlight; none where it cannot.
func (x *Index) switched() Act {
	if x.subject.Link.SwitchesLight() {
		return ActLight
	}
	return ""
}

// exchanges lists the trials in which two signal wires that lie side by side, or RS and E,
// are exchanged: what is found so may be mended by it.
func (x *Index) exchanges() (out []Test) {
	var signal []int
	for i := range x.header.names {
		if x.base.holes[i].lines != 0 {
			signal = append(signal, i)
		}
	}
	for k := 1; k < len(signal); k++ {
		a, b := signal[k-1], signal[k]
		na, nb := x.header.names[a], x.header.names[b]
		out = append(out, Test{
			ID: fmt.Sprintf("exchange:%s,%s", na, nb), Title: fmt.Sprintf("Exchange %s and %s", na, nb), Minutes: 2,
			Do: fmt.Sprintf("Unplug, exchange the wires of %s and %s, and look again; put them back where it is no better.", na, nb),
			outcome: func(x *Index, st *state, _ *joined) (Outcome, error) {
				st = st.copy()
				st.restart()
				st.holes[a], st.holes[b] = st.holes[b], st.holes[a]
				j := st.join(&x.header)
				return view(x.lookAt(st, &j, false))
			},
		})
	}
	return out
}
