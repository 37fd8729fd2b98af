// Package sequence makes the timed steps a host takes: initialise, write a
// screen, load glyphs, poll the busy flag. Each step is an operation with its
// meaning, its words on the wire and the wait after it.
//
// It stands above module and link in the flow screen → cells → operations →
// wire traffic → rig → glass: it is given codes, and gives the rig words with
// the times at which they reach the pins.
package sequence

import (
	"fmt"
	"slices"
	"time"

	"slatebell/core/part/hd44780"
	"slatebell/core/part/module"
	"slatebell/core/place"
	"slatebell/core/text/glyph"
	"slatebell/core/wire/link"
	"slatebell/core/wire/update"
)

// Waits says how long a host waits after an operation.
type Waits string

// The ways to wait.
const (
	WorstCase Waits = "worst"   // execution times at 190 kHz, the slowest the data sheet allows
	Typical   Waits = "typical" // execution times at the module's own oscillator
	PollBusy  Waits = "poll"    // read the busy flag until it clears; needs R/W
)

// StepKind says what a step is.
type StepKind string

// The kinds of step.
const (
	Wait    StepKind = "wait"    // the host waits; nothing is sent
	Park    StepKind = "park"    // the expander's outputs are brought to rest
	Wake    StepKind = "wake"    // an instruction to an interface of unknown width
	Setting StepKind = "setting" // an instruction of the initialisation
	Address StepKind = "address" // DDRAM or CGRAM address
	Text    StepKind = "text"    // a character for a cell
	Glyph   StepKind = "glyph"   // a row of a glyph for CGRAM
	Poll    StepKind = "poll"    // a read of the busy flag
	Live    StepKind = "live"    // an operation given by hand
	Raw     StepKind = "raw"     // a byte given by hand for the eight outputs, whatever it says
)

// Step is one step. Times are from power-up.
type Step struct {
	Kind    StepKind
	Op      hd44780.Operation // unless Kind is Wait or Park; of Raw its byte alone
	Half    bool              // only the high nibble is sent
	Enable  link.Enable
	Meaning string
	Places  []place.Place // the cells that its meaning names
	Row     int           // cell that a Text step writes, 0-based; -1 otherwise
	Col     int

	First, Count int           // its words in Program.Words
	Start        time.Duration // when its first word begins on the wire
	Wire         time.Duration // how long its words take
	Wait         time.Duration // what the controller needs before the next pulse of E
	Pause        time.Duration // what the host adds; the rest of Wait passes on the wire
}

// Sends reports whether the step carries an operation.
func (s *Step) Sends() bool { return s.Kind != Wait && s.Kind != Park && s.Kind != Raw }

// End is when the step, its pause included, is over.
func (s *Step) End() time.Duration { return s.Start + s.Wire + s.Pause }

// Program is a run of steps and its wire traffic. At holds, for each word, the
// time at which the header pins change by it.
type Program struct {
	Steps        []Step
	Words        []link.Word
	At           []time.Duration
	Coder        *link.Coder
	Transactions int           // on I²C
	WireTime     time.Duration // the wire in use
	Finish       time.Duration // the last step over, its execution included
}

// Options say how a program is made.
type Options struct {
	Waits Waits // "" means WorstCase
	Init  bool  // begin at power-up, with the initialisation by instruction

	// Forget begins at power-up too, and leaves the initialisation out.
	Forget bool
	// Hasty leaves out every wait for an operation, as a host that trusts to luck.
	Hasty bool
	// Brightness of a VFD in quarters below full, 0–3.
	Brightness uint8
	// Glyphs are loaded into CGRAM before the screen is written.
	Glyphs glyph.Bank
	// Cursor is left in its cell after the screen.
	Cursor Cursor
	// Live operations follow the screen.
	Live []Aimed
	// Mute leaves out what glyphs' rows, addresses and characters mean, of programs that nobody reads.
	Mute bool
}

// Aimed is an operation given by hand, for the controllers behind an enable. A
// module with one controller takes all of them with its own.
type Aimed struct {
	Op     hd44780.Operation
	Enable link.Enable
	Raw    bool // the operation's byte goes onto the outputs of an expander or shift register as it is
}

// CheckWaits reports waits that are not known, or that the link cannot keep; ""
// stands for WorstCase.
func CheckWaits(w Waits, l link.Link) error {
	switch w {
	case "", WorstCase, Typical:
		return nil
	case PollBusy:
		if l.ReadWrite {
			return nil
		}
		return fmt.Errorf("waits %q: the busy flag can be read only where R/W is wired to the host; expected worst or typical", w)
	}
	return fmt.Errorf("waits %q; expected worst, typical or poll", w)
}

// Compile makes the program that shows cells (row by row, a code each) on a
// module: from power-up with o.Init, otherwise onto a module that was
// initialised before and shows something unknown.
func Compile(m module.Module, l link.Link, cells []byte, o Options) (*Program, error) {
	b, err := NewBuilder(m, l, o)
	if err != nil {
		return nil, err
	}
	if len(cells) != m.Geometry.Cells() {
		return nil, fmt.Errorf("%d cells for a module of %d", len(cells), m.Geometry.Cells())
	}
	b.program.Steps = make([]Step, 0, len(cells)) // a step a cell, and few more
	if o.Init || o.Forget {
		b.PowerUp()
	}
	if o.Init {
		b.Initialise()
	}
	b.Load(o.Glyphs)
	b.Update(cells, nil, o.Cursor, update.Allowed{})
	for _, a := range o.Live {
		if err := b.ByHand(a); err != nil {
			return nil, err
		}
	}
	return b.Program(), nil
}

// Again makes a program of steps as they are given: their operations, meanings and
// waits stand; where they lie on the wire and in time is worked out anew. A Wait of
// a step that sends is what passes before the next one. The program's steps lie in the room of
// others that are needed no more, which may be nil.
func Again(m module.Module, l link.Link, steps, room []Step) (*Program, error) {
	b, err := NewBuilder(m, l, Options{})
	if err != nil {
		return nil, err
	}
	words := 0
	for i := range steps {
		words += steps[i].Count
	}
	p := &b.program
	p.Steps, p.Words, p.At = slices.Grow(room[:0], len(steps)), make([]link.Word, 0, words), make([]time.Duration, 0, words)
	for _, s := range steps {
		s.Pause = 0
		if s.Kind == Wait {
			b.WaitFor(s.Wait, s.Meaning)
		} else {
			b.add(s)
		}
	}
	return b.Program(), nil
}
