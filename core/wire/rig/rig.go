// Package rig is the simulated hardware: an expander, a shift register or bare
// header pins, and the controllers behind them. Wire traffic goes in; the glass
// and the violations of data-sheet limits come out.
//
// It closes the flow screen → cells → operations → wire traffic → rig → glass:
// nothing it shows comes from anywhere but the controllers' memory.
package rig

import (
	"fmt"
	"time"

	"slatebell/core/finding"
	"slatebell/core/part/hd44780"
	"slatebell/core/part/module"
	"slatebell/core/wire/link"
	"slatebell/core/wire/sequence"
)

// Rig is a module with its link's hardware, powered up at time 0. Make it with
// New. A Moment keeps its state; the Rig itself must not be copied.
type Rig struct {
	module      module.Module
	coder       *link.Coder
	parallel    bool
	rise, fall  time.Duration // parallel: of E, after a word's data is set
	pins        link.Pins
	controllers [2]hd44780.Controller
	fresh       hd44780.Controller // as it is powered up, without report
	count       int
	now         time.Duration
	origin      time.Duration // where time 0 of a program lies
	step        int           // step that is being played
	violations  []Violation
	suppressed  int
	read        byte // what the reads since the last step's beginning returned
	hardware    link.Hardware
	register    link.RegisterState
	edges       []link.Shift // kept between words, so that none is allocated
	driven      bool         // the host has put a word on the outputs
	dark        int          // step that dropped a backlight that was on, or never
	contended   int          // step in which two controllers drove the bus, or never
	fought      int          // step in which a controller and the host drove the bus, or never
}

// Violation is a limit that was broken, and by which step of the program.
type Violation struct {
	hd44780.Violation
	Controller int
	Step       int // -1 where no program was played
}

// never stands for the step of what did not happen.
const never = -2

// maxViolations bounds how many violations a rig keeps.
const maxViolations = 1000

// New returns a rig for a module wired as the link says. The link's address and
// mapping are those of the hardware, which may differ from what a program was
// made for.
func New(m module.Module, wired link.Link) (*Rig, error) {
	wired.Enables = m.Geometry.Controllers
	coder, err := link.NewCoder(wired)
	if err != nil {
		return nil, fmt.Errorf("rig: %w", err)
	}
	r := &Rig{module: m, coder: coder, parallel: !coder.Expanded(), fresh: hd44780.New(m.Controller(), nil), count: m.Geometry.Controllers}
	setup, high, _ := coder.Pulse()
	r.rise, r.fall = setup, setup+high
	r.Again(link.Hardware{}, false)
	return r, nil
}

// reporter returns the function that takes controller i's violations.
func (r *Rig) reporter(i int) func(hd44780.Violation) {
	return func(v hd44780.Violation) {
		if len(r.violations) == maxViolations {
			r.suppressed++
			return
		}
		r.violations = append(r.violations, Violation{v, i, r.step})
	}
}

// seen returns the pins as controller i has them: the second one's E is E2.
func (r *Rig) seen(i int, p link.Pins) hd44780.Pins {
	if i == 1 {
		p = p&^hd44780.E | p&link.E2>>1
	}
	return p & (hd44780.DataPins | hd44780.RS | hd44780.RW | hd44780.E)
}

// drive puts levels on the header.
func (r *Rig) drive(at time.Duration, p link.Pins) {
	r.now = at
	if r.pins&^p&link.Backlight != 0 && r.driven && r.dark == never {
		r.dark = r.step
	}
	r.pins, r.driven = p, true
	r.controllers[0].Drive(at, p&(hd44780.DataPins|hd44780.RS|hd44780.RW|hd44780.E))
	if r.count == 2 {
		r.controllers[1].Drive(at, r.seen(1, p))
	}
}

// Feed plays one word. at is the time at which the pins change by it, as a
// Program has it, and must not go back.
func (r *Rig) Feed(at time.Duration, w link.Word) {
	if w&link.Read != 0 {
		r.now = at
		r.sample(false)
		return
	}
	if reg := r.hardware.Register(); reg != nil {
		r.shift(at, w, reg)
		return
	}
	lines := r.coder.Levels(w)
	p := r.hardware.Behind(lines)
	r.drive(at, p)
	if !r.parallel {
		return
	}
	pulse := r.hardware.Behind(lines | r.coder.Pulsed(w))
	if p&hd44780.RW == 0 && (p^pulse)&^(hd44780.E|link.E2) == 0 {
		if pulse&^p&hd44780.E != 0 {
			r.controllers[0].Pulse(at+r.rise, at+r.fall)
		}
		if pulse&^p&link.E2 != 0 && r.count == 2 {
			r.controllers[1].Pulse(at+r.rise, at+r.fall)
		}
		r.now = at + r.fall
		return
	}
	r.drive(at+r.rise, pulse)
	r.sample(lines&hd44780.RW == 0)
	r.drive(at+r.fall, p)
}

// Drive puts levels on the header that were recorded edge by edge, as of a host's pins;
// at must not go back. Feed does so for words.
func (r *Rig) Drive(at time.Duration, p link.Pins) { r.drive(at, p) }

// Lines is the level of D7–D0 as a host that lets go of them reads them now.
func (r *Rig) Lines() byte {
	b, _ := r.level()
	return b
}

// level is that of the data lines, and how many controllers drive them.
func (r *Rig) level() (b byte, drivers int) {
	b = 0xFF
	for i := range r.Controllers() {
		if out, driven := r.controllers[i].Bus(); driven {
			b &= out
			drivers++
		}
	}
	return b, drivers
}

// shift plays a word into a 74HC595 whose inputs are not wired as they ought to
// be, edge by edge.
func (r *Rig) shift(at time.Duration, w link.Word, reg *link.Register) {
	r.edges = link.ShiftEdges(r.edges[:0], byte(w), r.coder.Bit())
	for _, edge := range r.edges {
		out, driven := reg.Step(&r.register, edge)
		p := r.hardware.Header.Released()
		if driven {
			p = r.hardware.Behind(r.coder.Levels(link.Word(out)))
		}
		if p != r.pins {
			r.drive(at+edge.At, p)
		}
	}
	r.now = max(r.now, at)
}

// sample reads the data lines as the host does: a nibble on four lines, behind
// the one before it, or a byte on eight. Lines that nothing drives are pulled
// high; where two controllers drive them, low wins. A host that writes meanwhile
// drives against them.
func (r *Rig) sample(writes bool) {
	b, drivers := r.level()
	if drivers > 1 && r.contended == never {
		r.contended = r.step
	}
	if drivers > 0 && writes && r.fought == never {
		r.fought = r.step
	}
	b = r.hardware.Back(b)
	if r.coder.Width() == 4 {
		b = r.read<<4 | b>>4
	}
	r.read = b
}

// Play plays a whole program from its beginning, whose times count from power-up
// or from the end of what Follow played. After each step it calls after, which
// may be nil.
func (r *Rig) Play(p *sequence.Program, after func(step int)) {
	for i := range p.Steps {
		s := &p.Steps[i]
		r.step, r.read = i, 0
		for w := s.First; w < s.First+s.Count; w++ {
			if r.hardware.Arrives(w) {
				r.Feed(r.origin+p.At[w], p.Words[w])
			}
		}
		r.now = max(r.now, r.origin+s.Start+s.Wire)
		if after != nil {
			after(i)
		}
	}
	r.step = -1
	r.now = max(r.now, r.origin+p.Finish)
}

// Follow plays a program as what went before: programs played after it find the
// module as it left it, and count their times from its end.
func (r *Rig) Follow(p *sequence.Program) {
	r.Play(p, nil)
	r.origin = r.now
}

// Again powers the module up anew behind other hardware, as a rig does that was just
// made; with quiet nothing is reported. It spares what New works out of module and link.
func (r *Rig) Again(h link.Hardware, quiet bool) {
	r.now, r.origin, r.step, r.read = 0, 0, -1, 0
	r.violations, r.suppressed = nil, 0
	r.register, r.driven = link.RegisterState{}, false
	r.dark, r.contended, r.fought = never, never, never
	for i := range r.count {
		r.controllers[i] = r.fresh
		if !quiet {
			r.controllers[i].Observe(r.reporter(i))
		}
	}
	r.Wire(h)
}

// Wire sets what stands between program and header pins, before anything is
// played. A module that is not fed does nothing.
func (r *Rig) Wire(h link.Hardware) {
	r.hardware = h
	r.pins = h.Behind(r.coder.PowerUp())
	if h.Register() != nil {
		r.pins = h.Behind(r.coder.Levels(0))
	}
	for i := range r.count {
		r.controllers[i].HoldEnable(r.seen(i, r.pins))
	}
}

// Lose lets a word of the programs played from here on go missing, counted from 1; 0
// for none.
func (r *Rig) Lose(word int) { r.hardware.Lost = word }

// Judge states what the hardware shows beside limits of time: half a byte left
// in a controller, a backlight that went off on the way, an expander that was
// never addressed.
func (r *Rig) Judge() []finding.Finding {
	var out []finding.Finding
	for i := range r.Controllers() {
		if r.controllers[i].FourBit && r.controllers[i].Low {
			out = append(out, finding.Finding{
				Code: "wire.half-byte", Severity: finding.Error,
				What: "The controller holds half a byte: a nibble was lost, or one came too many.",
				Why:  "Every later byte is put together from the wrong halves.",
				Fix:  "Initialise by instruction again: three times 0x3 bring any phase back in step.", Source: sheet,
			})
		}
	}
	if r.dark != never {
		where, step := inStep(r.dark)
		out = append(out, finding.Finding{
			Code: "wire.backlight-dropped", Severity: finding.Warning, Step: step,
			What: fmt.Sprintf("The backlight goes off%s.", where),
			Why:  "Every byte to the expander sets the backlight's output too.", Fix: "Keep the backlight's bit in every byte.",
		})
	}
	if r.contended != never {
		where, step := inStep(r.contended)
		out = append(out, finding.Finding{
			Code: "wire.contention", Severity: finding.Error, Step: step,
			What: fmt.Sprintf("Both controllers drive D7–D0 at once%s.", where),
			Why:  "Outputs that drive against each other carry a short-circuit current, and what is read is neither's answer.",
			Fix:  "Read with one enable high at a time.", Source: sheet,
		})
	}
	if r.fought != never {
		where, step := inStep(r.fought)
		out = append(out, finding.Finding{
			Code: "wire.driven-against", Severity: finding.Error, Step: step,
			What: fmt.Sprintf("The module drives D7–D0 against the host%s: its R/W is high while the host writes.", where),
			Why:  "An R/W that nothing holds low is pulled high by the controller. It then answers in place of listening: nothing is written.",
			Fix:  "Join R/W to ground, or to the host's pin that the program drives.", Source: sheet,
		})
	}
	if r.hardware.NoAck {
		out = append(out, finding.Finding{
			Code: "wire.no-answer", Severity: finding.Error,
			What: "No expander acknowledges the program's address: nothing reaches the module.",
			Why:  "0x27 (PCF8574) and 0x3F (PCF8574A) with all jumpers open are taken for each other most often.",
			Fix:  "Scan the bus, or read the part number and the jumpers.", Source: "PCF8574 and PCF8574A data sheets",
		})
	}
	return out
}

// inStep names a step for people; -1 is traffic without steps.
func inStep(step int) (where string, index *int) {
	if step < 0 {
		return "", nil
	}
	return fmt.Sprintf(" in step %d", step+1), &step
}

// Now is the time up to which the rig has been played.
func (r *Rig) Now() time.Duration { return r.now }

// ReadBack is the byte that the step played last has read; on four lines both
// its nibbles.
func (r *Rig) ReadBack() byte { return r.read }

// Pins is the level of the header pins.
func (r *Rig) Pins() link.Pins { return r.pins }

// Controllers returns the module's controllers, which must not be changed.
func (r *Rig) Controllers() []hd44780.Controller { return r.controllers[:r.count] }

// Violations returns the violations so far, in time order, and how many more
// were not kept.
func (r *Rig) Violations() (kept []Violation, more int) { return r.violations, r.suppressed }

// Moment is what the rig looks like at one time: enough to draw the glass and
// the controllers' registers. It holds no pointer into the rig.
type Moment struct {
	At          time.Duration
	Pins        link.Pins
	Controllers [2]hd44780.Controller
}

// Moment returns the present moment.
func (r *Rig) Moment() Moment {
	return Moment{At: r.now, Pins: r.pins, Controllers: r.controllers}
}
