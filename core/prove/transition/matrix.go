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

// Table works out what every change on a module takes by the cheapest update, a row of it at a time. Its rows may be asked for at the same
// time.
type Table struct {
	setups  []testbed.Setup
	layouts []screen.Layout
	module  module.Module
	wired   link.Link
	costs   *update.Costs
	bench   *bench.Module
}

// NewTable composes every screen of a module. Its error is a bench.Problem where the module cannot be run.
func NewTable(b *bench.Bench, at int) (*Table, error) {
	if at < 0 || at >= len(b.Modules) {
		return nil, fmt.Errorf("module %d; this bench has modules 0–%d", at, len(b.Modules)-1)
	}
	first, err := testbed.Of(b, testbed.At{Module: at, Screen: 0})
	if err != nil {
		return nil, err
	}
	t := &Table{bench: &b.Modules[at]}
	if t.module, t.wired, err = first.Build(); err != nil {
		return nil, err
	}
	for i, s := range t.bench.Screens {
		setup := first
		setup.At.Screen, setup.Rows, setup.Fields, setup.Cursor, setup.Scroll = i, s.Rows, s.Fields, s.Cursor, s.Scroll
		setup.Library = screen.Named(s.Rows, s.Fields, b.Glyphs)
		t.setups = append(t.setups, setup)
		t.layouts = append(t.layouts, screen.Compose(&t.module, setup.Text(), setup.Sources()))
	}
	builder, err := sequence.NewBuilder(t.module, t.wired, sequence.Options{Waits: sequence.Waits(first.Link.Waits)})
	if err != nil {
		return nil, bench.Problem{Path: first.Pointer("/link"), What: err.Error()}
	}
	t.costs = builder.Costs()
	return t, nil
}

// Rows is how many rows the table has: one for each screen.
func (t *Table) Rows() int { return len(t.setups) }

// Row returns the changes from a screen to every other, in their order.
func (t *Table) Row(from int) ([]Change, error) {
	out := make([]Change, 0, len(t.setups)-1)
	for to := range t.setups {
		if to == from {
			continue
		}
		p, err := t.transition(from, to)
		if err != nil {
			return nil, err
		}
		program, err := p.Program(Cheapest, false)
		if err != nil {
			return nil, err
		}
		out = append(out, Change{from, to, costOfProgram(program), len(p.Left())})
	}
	return out, nil
}

// transition is the change from one screen to another.
func (t *Table) transition(from, to int) (*Transition, error) {
	p, err := newTransition(&t.setups[to], t.module, t.wired, t.layouts[from], t.setups[from].Cursor)
	if err != nil {
		return nil, err
	}
	p.costs = t.costs
	return p, nil
}

// Judged is what a module's fields take, and what is found of all changes.
type Judged struct {
	Fields   []FieldChange
	Findings []finding.Finding
}

// Judge returns what the fields take, and what is found of all changes.
func (t *Table) Judge() (*Judged, error) {
	j := &Judged{}
	for i := range t.setups {
		list, err := t.fields(i)
		if err != nil {
			return nil, err
		}
		j.Fields = append(j.Fields, list...)
	}
	j.rates(t)
	j.leftovers(t)
	return j, nil
}

// Check returns what is found of the changes on a module.
func Check(b *bench.Bench, at int) ([]finding.Finding, error) {
	t, err := NewTable(b, at)
	if err != nil {
		return nil, err
	}
	j, err := t.Judge()
	if err != nil {
		return nil, err
	}
	return j.Findings, nil
}

// fields computes what it takes to write each field of a screen anew.
func (t *Table) fields(at int) (out []FieldChange, err error) {
	s, l := &t.setups[at], &t.layouts[at]
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
			b, err := sequence.NewBuilder(t.module, t.wired, sequence.Options{Waits: sequence.Waits(s.Link.Waits)})
			if err != nil {
				return nil, bench.Problem{Path: s.Pointer("/link"), What: err.Error()}
			}
			b.Measured(t.costs)
			b.Know(before)
			b.Update(after, nil, sequence.Cursor{}, update.Allowed{})
			change.Cost = costOfProgram(b.Program())
			change.Rate = change.Cost.PerSecond()
		}
		out = append(out, change)
	}
	return out, nil
}

// rates names fields that are to be written more often than the link can.
func (j *Judged) rates(t *Table) {
	for at := range t.setups {
		share := 0.0 // of all time
		for _, f := range j.Fields {
			if f.Screen != at || f.Rate == 0 || f.Wanted == 0 {
				continue
			}
			share += f.Wanted / f.Rate
			if f.Wanted <= f.Rate {
				continue
			}
			s := &t.setups[at]
			one := &s.Fields[f.Field]
			path := fmt.Sprintf("%s/%d", s.Sources().Fields, f.Field)
			slower := max(float64(int(f.Rate)), 0.1)
			next := *one
			next.PerSec = slower
			j.Findings = append(j.Findings, finding.Finding{
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
			s := &t.setups[at]
			j.Findings = append(j.Findings, finding.Finding{
				Code: "screen.rates", Severity: finding.Error, Path: s.Sources().Fields,
				What: fmt.Sprintf("The fields of screen %d are to be written so often that the link is in use for %.0f %% of the time.", at+1, share*100),
				Fix:  "Write some of them less often, or join the module by a faster link.",
			})
		}
	}
}

// leftovers names screens that leave characters behind when the next is
// written over them, as long as it is not decided that they are not.
func (j *Judged) leftovers(t *Table) {
	severity := finding.Note
	switch t.bench.Changes {
	case "", string(Overprint):
		if t.bench.Changes != "" {
			severity = finding.Warning
		}
	case string(Reprinted), string(Cheapest):
		j.blinks(t)
		return
	default:
		return
	}
	for from := range t.setups {
		to := (from + 1) % len(t.setups)
		if to == from || to == 0 && !t.bench.Loading.Loop {
			continue
		}
		left := screen.Leftovers(&t.module.Geometry, t.layouts[from].Codes(), t.layouts[to].Codes())
		if len(left) == 0 {
			continue
		}
		first, cols := left[0], t.module.Geometry.Cols
		says := place.Sprintf("Written over %s, %s leaves “%s” of it in %P; cells with old characters: %d.", titleOf(t.bench, from), titleOf(t.bench, to), t.layouts[from].Text(first/cols, first%cols), place.Row(first/cols), len(left))
		j.Findings = append(j.Findings, finding.Finding{
			Code: "screen.leftovers", Severity: severity, Path: t.setups[to].Sources().Rows,
			What: says.S, Places: says.Places,
			Why:      "The module never clears by itself; a shorter text leaves the end of the old one.",
			Fix:      "Write what differs, spaces too: the cheapest update without a clear does, and nothing blinks.",
			Cells:    &finding.Cells{Row: first / cols, Col: first % cols, Len: 1},
			Remedies: []finding.Remedy{changed(t.setups[0].At.Module, t.bench, Steady, "Write what differs, without a clear"), changed(t.setups[0].At.Module, t.bench, Padded, "Write spaces up to the old length")},
		})
	}
}

// blinks says what a clear between screens looks like.
func (j *Judged) blinks(t *Table) {
	var worst time.Duration
	from := 0
	for at := range len(t.setups) - 1 {
		p, err := t.transition(at, at+1)
		if err != nil {
			continue
		}
		if played, err := p.Play(Strategy(t.bench.Changes), false); err == nil && played.Wrong > worst {
			worst, from = played.Wrong, at
		}
	}
	if worst == 0 {
		return
	}
	j.Findings = append(j.Findings, finding.Finding{
		Code: "screen.blinks", Severity: finding.Note, Path: t.setups[from+1].Sources().Rows,
		What:     fmt.Sprintf("From %s to %s the glass blinks: for %s some cell shows neither the one nor the other.", titleOf(t.bench, from), titleOf(t.bench, from+1), say.Milliseconds(worst)),
		Why:      "It is cleared first, and characters are written one after the other.",
		Fix:      "Change screens without a clear; it takes a little longer.",
		Remedies: []finding.Remedy{changed(t.setups[0].At.Module, t.bench, Steady, "Change screens without a clear")},
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
