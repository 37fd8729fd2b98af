// Package transition is what comes between screens: the change from one to another by every strategy, all
// changes of a module with their rates, rows that run through the glass, and glyphs that are loaded on the
// way. What each takes is measured by playing it into the rig.
//
// It stands beside run, and needs none; firmware lays its strategies down in tables.
package transition

import (
	"fmt"
	"slices"
	"time"

	"slatebell/core/bench"
	"slatebell/core/finding"
	"slatebell/core/part/charrom"
	"slatebell/core/part/module"
	"slatebell/core/prove/testbed"
	"slatebell/core/text/glyph"
	"slatebell/core/text/screen"
	"slatebell/core/wire/link"
	"slatebell/core/wire/rig"
	"slatebell/core/wire/sequence"
	"slatebell/core/wire/update"
)

// Strategy is a way of changing what a glass shows.
type Strategy string

// The strategies: what programs commonly do (common practice), and what is proved to
// take least.
const (
	Cheapest  Strategy = "cheapest" // the least time, then the fewest operations
	Steady    Strategy = "steady"   // the least time without a clear, so that nothing blinks
	Reprinted Strategy = "clear"    // clear, and write the new screen
	Padded    Strategy = "pad"      // write each row, with spaces up to the old row's length
	Changed   Strategy = "changed"  // write the cells that differ, each run from its address on
	Overprint Strategy = "over"     // write the new text over the old: what the old has beyond it stays
)

// Strategies lists those that leave the new screen on the glass, the cheapest first.
var Strategies = []Strategy{Cheapest, Steady, Changed, Padded, Reprinted}

// Transition is a change from one screen of a module to another. The module shows the
// first, the rest of its memory holds spaces, and the glass is not shifted; where
// the address counters stand is known only where the first leaves a cursor, and
// the levels of RS and R/W are not known.
type Transition struct {
	From, To screen.Layout
	Loads    glyph.Bank // glyphs of the second that are not in CGRAM while the first is shown

	module        module.Module
	wired         link.Link
	options       sequence.Options
	before, after []byte
	stood, stands sequence.Cursor
	costs         *update.Costs // of the link, measured once
	contrast      float64
}

// New composes both screens. Its error is a bench.Problem where the module
// cannot be run. The glyphs of the second go to slots that the first does not show,
// as long as there are such.
func New(from, to *testbed.Setup) (*Transition, error) {
	mod, wired, err := to.Build()
	if err != nil {
		return nil, err
	}
	first := screen.Compose(&mod, from.Text(), from.Sources())
	return newTransition(to, mod, wired, first, from.Cursor)
}

func newTransition(to *testbed.Setup, mod module.Module, wired link.Link, first screen.Layout, stood screen.Cursor) (*Transition, error) {
	text := to.Text()
	text.Bank, text.Shown = first.Bank, first.SlotsShown(&mod)
	p := &Transition{
		From: first, To: screen.Compose(&mod, text, to.Sources()), module: mod, wired: wired, contrast: to.Contrast(&mod),
		options: sequence.Options{Waits: sequence.Waits(to.Link.Waits), Brightness: uint8(to.Display.Supply.Brightness)}, stood: testbed.CursorOf(stood), stands: testbed.CursorOf(to.Cursor),
	}
	for _, g := range p.To.Bank {
		if held, ok := first.Bank.In(g.Slot); !ok || held.Pattern() != g.Pattern() {
			p.Loads = append(p.Loads, g)
		}
	}
	p.options.Glyphs = p.To.Bank
	p.before, p.after = p.From.Codes(), p.To.Codes()
	return p, nil
}

// Findings returns what is found when both screens are composed.
func (p *Transition) Findings() []finding.Finding {
	return slices.Concat(p.From.Findings, p.To.Findings)
}

// ROM is the module's.
func (p *Transition) ROM() *charrom.ROM { return p.module.ROM }

// Changes returns the cells that differ, row by row.
func (p *Transition) Changes() (out []int) {
	for i, code := range p.after {
		if p.before[i] != code {
			out = append(out, i)
		}
	}
	return out
}

// Left returns the cells, row by row, that keep characters of the first screen
// where the second is written over it and nothing clears them.
func (p *Transition) Left() []int { return screen.Leftovers(&p.module.Geometry, p.before, p.after) }

// Program makes the steps of a strategy; with shift the cheapest may move the glass
// over its memory.
func (p *Transition) Program(strategy Strategy, shift bool) (*sequence.Program, error) {
	b, err := sequence.NewBuilder(p.module, p.wired, p.options)
	if err != nil {
		return nil, bench.ProblemOf("/link", err)
	}
	if p.costs == nil {
		p.costs = b.Costs()
	}
	b.Measured(p.costs)
	b.Know(p.before)
	b.Stands(p.stood)
	c := Exchange{Before: p.before, After: p.after, Loads: p.Loads, Cursor: p.stands, Shift: shift}
	if err := c.By(strategy, b); err != nil {
		return nil, err
	}
	return b.Program(), nil
}

// Exchange is what a change of screens begins and ends with: cells row by row, glyphs to
// be loaded, the cursor's place, and whether the glass may be moved over its memory.
type Exchange struct {
	Before, After []byte
	Loads         glyph.Bank
	Cursor        sequence.Cursor
	Shift         bool
}

// By appends the steps of a strategy to what a builder knows.
func (c *Exchange) By(strategy Strategy, b *sequence.Builder) error {
	switch strategy {
	case Cheapest:
		b.Update(c.After, c.Loads, c.Cursor, update.Allowed{Clear: true, Shift: c.Shift})
	case Steady:
		b.Update(c.After, c.Loads, c.Cursor, update.Allowed{Shift: c.Shift})
	case Reprinted:
		b.Load(c.Loads)
		b.Reprint(c.After)
	case Padded:
		b.Load(c.Loads)
		b.Pad(c.Before, c.After)
	case Changed:
		b.Load(c.Loads)
		b.Changed(c.Before, c.After)
	case Overprint:
		b.Load(c.Loads)
		b.Pad(nil, c.After)
	default:
		return fmt.Errorf("strategy %q; expected cheapest, clear, pad or changed", strategy)
	}
	b.Leave(c.Cursor)
	return nil
}

// Played is a transition as the simulated module shows it.
type Played struct {
	Program  *sequence.Program
	Cost     Cost
	Wrong    time.Duration // for which some cell shows neither the first screen nor the second
	Glass    rig.Glass     // at the end
	Differs  []int         // cells that show something else than the second screen then
	Findings []finding.Finding
}

// Play makes the steps of a strategy and plays them into a module that shows the
// first screen.
func (p *Transition) Play(strategy Strategy, shift bool) (*Played, error) {
	program, err := p.Program(strategy, shift)
	if err != nil {
		return nil, err
	}
	hardware, err := rig.New(p.module, p.wired)
	if err != nil {
		return nil, bench.ProblemOf("/link", err)
	}
	start, err := sequence.Compile(p.module, p.wired, p.before, sequence.Options{Init: true, Glyphs: p.From.Bank, Cursor: p.stood, Brightness: p.options.Brightness})
	if err != nil {
		return nil, bench.ProblemOf("/link", err)
	}
	hardware.Follow(start)
	first := p.looks(hardware)
	out := &Played{Program: program, Cost: costOfProgram(program)}
	var seen [][]rig.ShownCell // after each step
	hardware.Play(program, func(int) { seen = append(seen, p.looks(hardware)) })
	last := p.looks(hardware)
	for i, cells := range seen {
		if i+1 == len(seen) {
			break
		}
		for k, c := range cells {
			if c != first[k] && c != last[k] {
				out.Wrong += program.Steps[i+1].End() - program.Steps[i].End()
				break
			}
		}
	}
	mo := hardware.Moment()
	out.Glass = mo.Glass(&p.module, p.contrast)
	for i, c := range out.Glass.Cells {
		if c.Code != p.after[i] {
			out.Differs = append(out.Differs, i)
		}
	}
	out.Findings = append(rig.Findings(hardware.Violations()), hardware.Judge()...)
	return out, nil
}

// looks is what the cells show, the cursor aside.
func (p *Transition) looks(hardware *rig.Rig) []rig.ShownCell {
	mo := hardware.Moment()
	for i := range mo.Controllers {
		mo.Controllers[i].CursorOn, mo.Controllers[i].BlinkOn = false, false
	}
	return mo.Glass(&p.module, p.contrast).Cells
}
