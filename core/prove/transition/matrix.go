package transition

import (
	"fmt"
	"time"

	"slatebell/core/bench"
	"slatebell/core/finding"
	"slatebell/core/part/module"
	"slatebell/core/place"
	"slatebell/core/prove/testbed"
	"slatebell/core/say"
	"slatebell/core/text/field"
	"slatebell/core/text/screen"
	"slatebell/core/wire/link"
	"slatebell/core/wire/sequence"
	"slatebell/core/wire/update"
)

// Change is what it takes to turn one screen of a module into another.
type Change struct {
	From, To int // indexes of the screens
	Cost     Cost
	Left     int // cells that keep old characters where nothing clears them
}

// FieldChange is what it takes to write a field anew, every cell of it.
type FieldChange struct {
	Screen, Field int // indexes
	Cost          Cost
	Rate          float64 // how often a second that can be done; 0 for a field that is not written
	Wanted        float64 // how often it is to be done; 0: not said
}

// Matrix is what every change on a module takes.
type Matrix struct {
	Changes  []Change // from every screen to every other, by From, then To
	Fields   []FieldChange
	Findings []finding.Finding
}

// changer composes the screens of a module, and makes changes between them.
type changer struct {
	setups  []testbed.Setup
	layouts []screen.Layout
	module  module.Module
	wired   link.Link
	costs   *update.Costs
}

// newChanger composes every screen of a module.
func newChanger(b *bench.Bench, at int) (*changer, error) {
	if at < 0 || at >= len(b.Modules) {
		return nil, fmt.Errorf("module %d; this bench has modules 0–%d", at, len(b.Modules)-1)
	}
	first, err := testbed.Of(b, testbed.At{Module: at, Screen: 0})
	if err != nil {
		return nil, err
	}
	c := &changer{}
	if c.module, c.wired, err = first.Build(); err != nil {
		return nil, err
	}
	for i, s := range b.Modules[at].Screens {
		setup := first
		setup.At.Screen, setup.Rows, setup.Fields, setup.Cursor, setup.Scroll = i, s.Rows, s.Fields, s.Cursor, s.Scroll
		setup.Library = screen.Named(s.Rows, s.Fields, b.Glyphs)
		c.setups = append(c.setups, setup)
		c.layouts = append(c.layouts, screen.Compose(&c.module, setup.Text(), setup.Sources()))
	}
	builder, err := sequence.NewBuilder(c.module, c.wired, sequence.Options{Waits: sequence.Waits(first.Link.Waits)})
	if err != nil {
		return nil, bench.Problem{Path: first.Pointer("/link"), What: err.Error()}
	}
	c.costs = builder.Costs()
	return c, nil
}

// transition is the change from one screen to another.
func (c *changer) transition(from, to int) (*Transition, error) {
	p, err := newTransition(&c.setups[to], c.module, c.wired, c.layouts[from], c.setups[from].Cursor)
	if err != nil {
		return nil, err
	}
	p.costs = c.costs
	return p, nil
}

// NewMatrix computes every change on a module by the cheapest update. Its error is
// a bench.Problem where the module cannot be run.
func NewMatrix(b *bench.Bench, at int) (*Matrix, error) {
	c, err := newChanger(b, at)
	if err != nil {
		return nil, err
	}
	m := &Matrix{}
	for from := range c.setups {
		for to := range c.setups {
			if from == to {
				continue
			}
			p, err := c.transition(from, to)
			if err != nil {
				return nil, err
			}
			program, err := p.Program(Cheapest, false)
			if err != nil {
				return nil, err
			}
			m.Changes = append(m.Changes, Change{from, to, costOfProgram(program), len(p.Left())})
		}
	}
	return m, c.judge(m, &b.Modules[at])
}

// Check returns a matrix's findings, without the changes themselves.
func Check(b *bench.Bench, at int) ([]finding.Finding, error) {
	c, err := newChanger(b, at)
	if err != nil {
		return nil, err
	}
	m := &Matrix{}
	err = c.judge(m, &b.Modules[at])
	return m.Findings, err
}

// judge fills in the fields and the findings of a matrix.
func (c *changer) judge(m *Matrix, module *bench.Module) error {
	for i := range c.setups {
		list, err := c.fields(i)
		if err != nil {
			return err
		}
		m.Fields = append(m.Fields, list...)
	}
	m.judgeRates(c)
	c.judgeLeftovers(m, module)
	return nil
}

// fields computes what it takes to write each field of a screen anew.
func (c *changer) fields(at int) (out []FieldChange, err error) {
	s, l := &c.setups[at], &c.layouts[at]
	for i := range s.Fields {
		f := &s.Fields[i]
		change := FieldChange{Screen: at, Field: i, Wanted: f.PerSec}
		before, after, written := l.Codes(), l.Codes(), false
		for col := f.Col; col < min(f.Col+f.Width, l.Cols) && f.Row < l.Rows && f.Kind != field.Cursor; col++ {
			k := f.Row*l.Cols + col
			before[k] = after[k] + 1
			written = true
		}
		if written {
			b, err := sequence.NewBuilder(c.module, c.wired, sequence.Options{Waits: sequence.Waits(s.Link.Waits)})
			if err != nil {
				return nil, bench.Problem{Path: s.Pointer("/link"), What: err.Error()}
			}
			b.Measured(c.costs)
			b.Know(before)
			b.Update(after, nil, sequence.Cursor{}, update.Allowed{})
			change.Cost = costOfProgram(b.Program())
			change.Rate = change.Cost.PerSecond()
		}
		out = append(out, change)
	}
	return out, nil
}

// judgeRates names fields that are to be written more often than the link can.
func (m *Matrix) judgeRates(c *changer) {
	for at := range c.setups {
		share := 0.0 // of all time
		for _, f := range m.Fields {
			if f.Screen != at || f.Rate == 0 || f.Wanted == 0 {
				continue
			}
			share += f.Wanted / f.Rate
			if f.Wanted <= f.Rate {
				continue
			}
			s := &c.setups[at]
			one := &s.Fields[f.Field]
			path := fmt.Sprintf("%s/%d", s.Sources().Fields, f.Field)
			slower := max(float64(int(f.Rate)), 0.1)
			next := *one
			next.PerSec = slower
			m.Findings = append(m.Findings, finding.Finding{
				Code: "field.rate", Severity: finding.Error, Path: path,
				What: fmt.Sprintf("The field “%s” is to be written %g times a second; this link writes it %.0f times at most, in %s each.", one.Name, f.Wanted, f.Rate, say.Milliseconds(f.Cost.Done)),
				Why:  "The wire is in use, or the controller is busy, for longer than there is time.",
				Fix:  "Write it less often, make it narrower, or join the module by a faster link.",
				Remedies: []finding.Remedy{{Label: fmt.Sprintf("Write it %g times a second", slower),
					Patch: finding.Patch{finding.Test(path, *one), finding.Replace(path, next)}}},
			})
			share = 0 // that is said now
			break
		}
		if share > 1 {
			s := &c.setups[at]
			m.Findings = append(m.Findings, finding.Finding{
				Code: "screen.rates", Severity: finding.Error, Path: s.Sources().Fields,
				What: fmt.Sprintf("The fields of screen %d are to be written so often that the link is in use for %.0f %% of the time.", at+1, share*100),
				Fix:  "Write some of them less often, or join the module by a faster link.",
			})
		}
	}
}

// judgeLeftovers names screens that leave characters behind when the next is
// written over them, as long as it is not decided that they are not.
func (c *changer) judgeLeftovers(m *Matrix, module *bench.Module) {
	severity := finding.Note
	switch module.Changes {
	case "", string(Overprint):
		if module.Changes != "" {
			severity = finding.Warning
		}
	case string(Reprinted), string(Cheapest):
		c.judgeBlinks(m, module)
		return
	default:
		return
	}
	for from := range c.setups {
		to := (from + 1) % len(c.setups)
		if to == from || to == 0 && !module.Loading.Loop {
			continue
		}
		left := screen.Leftovers(&c.module.Geometry, c.layouts[from].Codes(), c.layouts[to].Codes())
		if len(left) == 0 {
			continue
		}
		first, cols := left[0], c.module.Geometry.Cols
		says := place.Sprintf("Written over %s, %s leaves “%s” of it in %P; cells with old characters: %d.", titleOf(module, from), titleOf(module, to), c.layouts[from].Text(first/cols, first%cols), place.Row(first/cols), len(left))
		m.Findings = append(m.Findings, finding.Finding{
			Code: "screen.leftovers", Severity: severity, Path: c.setups[to].Sources().Rows,
			What: says.S, Places: says.Places,
			Why:      "The module never clears by itself; a shorter text leaves the end of the old one.",
			Fix:      "Write what differs, spaces too: the cheapest update without a clear does, and nothing blinks.",
			Cells:    &finding.Cells{Row: first / cols, Col: first % cols, Len: 1},
			Remedies: []finding.Remedy{changed(c.setups[0].At.Module, module, Steady, "Write what differs, without a clear"), changed(c.setups[0].At.Module, module, Padded, "Write spaces up to the old length")},
		})
	}
}

// judgeBlinks says what a clear between screens looks like.
func (c *changer) judgeBlinks(m *Matrix, module *bench.Module) {
	var worst time.Duration
	from := 0
	for at := range len(c.setups) - 1 {
		p, err := c.transition(at, at+1)
		if err != nil {
			continue
		}
		if played, err := p.Play(Strategy(module.Changes), false); err == nil && played.Wrong > worst {
			worst, from = played.Wrong, at
		}
	}
	if worst == 0 {
		return
	}
	m.Findings = append(m.Findings, finding.Finding{
		Code: "screen.blinks", Severity: finding.Note, Path: c.setups[from+1].Sources().Rows,
		What:     fmt.Sprintf("From %s to %s the glass blinks: for %s some cell shows neither the one nor the other.", titleOf(module, from), titleOf(module, from+1), say.Milliseconds(worst)),
		Why:      "It is cleared first, and characters are written one after the other.",
		Fix:      "Change screens without a clear; it takes a little longer.",
		Remedies: []finding.Remedy{changed(c.setups[0].At.Module, module, Steady, "Change screens without a clear")},
	})
}

// changed is the remedy that decides how a module's screens are changed.
func changed(at int, m *bench.Module, strategy Strategy, label string) finding.Remedy {
	path := fmt.Sprintf("/modules/%d", at)
	patch := finding.Patch{finding.Test(path+"/id", m.ID)}
	if m.Changes != "" {
		patch = append(patch, finding.Test(path+"/changes", m.Changes))
	}
	return finding.Remedy{Label: label, Patch: append(patch, finding.Add(path+"/changes", string(strategy)))}
}
