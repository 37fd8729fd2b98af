package transition

import (
	"errors"
	"fmt"
	"slices"
	"time"

	"slatebell/core/bench"
	"slatebell/core/finding"
	"slatebell/core/part/module"
	"slatebell/core/place"
	"slatebell/core/prove/testbed"
	"slatebell/core/say"
	"slatebell/core/text/bank"
	"slatebell/core/text/glyph"
	"slatebell/core/text/screen"
	"slatebell/core/wire/link"
	"slatebell/core/wire/sequence"
	"slatebell/core/wire/update"
)

// Loading is how the glyphs of a module's screens come into CGRAM while the
// screens follow each other in their order.
type Loading struct {
	Needs    int   // different glyphs that the screens show by key, the ROM's and blank ones not counted
	Fixed    []int // slots that screens show by number: they keep their glyphs
	Holds    int   // slots left for the others
	Each     int   // glyphs loaded in a round if every screen loads all that it shows
	Plan     *bank.Plan
	Costs    []Cost // of the plan's steps
	Findings []finding.Finding
}

// Cost is what sending something takes.
type Cost struct {
	Operations int           // instructions and data
	Data       int           // of these, bytes to CGRAM or DDRAM
	Words      int           // on the wire
	Wire       time.Duration // the wire in use
	Done       time.Duration // until the controller is free again
}

// PerSecond is how often a second it can be done; 0 for what takes no time.
func (c Cost) PerSecond() float64 {
	if c.Done <= 0 {
		return 0
	}
	return float64(time.Second) / float64(c.Done)
}

// plus adds up costs.
func (c Cost) plus(d Cost) Cost {
	return Cost{c.Operations + d.Operations, c.Data + d.Data, c.Words + d.Words, c.Wire + d.Wire, c.Done + d.Done}
}

// Sum returns what steps cost together.
func Sum(costs []Cost) (sum Cost) {
	for _, c := range costs {
		sum = sum.plus(c)
	}
	return sum
}

// shown is what a screen of a module shows of glyphs.
type shown struct {
	layout screen.Layout
	slots  []int // by number
	page   bank.Page
}

// NewLoading plans the loading of a module's glyphs. Its error is a bench.Problem
// where the module cannot be run.
func NewLoading(b *bench.Bench, at int) (*Loading, error) {
	if at < 0 || at >= len(b.Modules) {
		return nil, fmt.Errorf("module %d; this bench has modules 0–%d", at, len(b.Modules)-1)
	}
	m := &b.Modules[at]
	l := &Loading{}
	var mod module.Module
	var wired link.Link
	screens := make([]shown, len(m.Screens))
	for i := range m.Screens {
		setup, err := testbed.Of(b, testbed.At{Module: at, Screen: i})
		if err != nil {
			return nil, err
		}
		if mod, wired, err = setup.Build(); err != nil {
			return nil, err
		}
		screens[i] = newShown(&mod, &setup)
		for _, slot := range screens[i].slots {
			if !slices.Contains(l.Fixed, slot) {
				l.Fixed = append(l.Fixed, slot)
			}
		}
	}
	slices.Sort(l.Fixed)
	o := bank.Options{Loop: m.Loading.Loop, OnGlass: m.Loading.OnGlass}
	for slot := 0; slot < glyph.Slots; slot += mod.SlotStep() {
		if !slices.Contains(l.Fixed, slot) {
			o.Slots = append(o.Slots, slot)
		}
	}
	l.Holds = len(o.Slots)
	pages := l.pages(screens, m.Glyphs)
	plan, err := bank.New(pages, o)
	if err != nil {
		l.judgeConflict(b, at, err)
		return l, nil
	}
	l.Plan = plan
	for _, step := range plan.Steps {
		cost, err := loadCost(mod, wired, step.Loads)
		if err != nil {
			return nil, err
		}
		l.Costs = append(l.Costs, cost)
	}
	if o.OnGlass {
		l.judgeShown(m, at, screens, pages, o)
	}
	return l, nil
}

// newShown composes a screen and gathers the glyphs on it.
func newShown(m *module.Module, s *testbed.Setup) shown {
	out := shown{layout: screen.Compose(m, s.Text(), s.Sources())}
	for _, c := range out.layout.Cells {
		if p := c.Pattern; c.Drawn {
			if _, inROM := glyph.Equal(m.ROM, p, m.Tall); !inROM && !slices.Contains(out.page, p) {
				out.page = append(out.page, p)
			}
		} else if slot, ok := m.Slot(c.Code); ok && !c.Named() && !slices.Contains(out.slots, slot) {
			out.slots = append(out.slots, slot)
		}
	}
	return out
}

// pages lists what each screen needs in slots that are not fixed.
func (l *Loading) pages(screens []shown, fixed glyph.Bank) []bank.Page {
	pages := make([]bank.Page, len(screens))
	different := map[glyph.Pattern]bool{}
	for i, s := range screens {
		for _, p := range s.page {
			kept := slices.ContainsFunc(fixed, func(g glyph.Glyph) bool { return slices.Contains(l.Fixed, g.Slot) && g.Pattern() == p })
			if !kept {
				pages[i] = append(pages[i], p)
				different[p] = true
			}
		}
		l.Each += len(pages[i])
	}
	l.Needs = len(different)
	return pages
}

// loadCost is what loading some slots takes on a module's link.
func loadCost(m module.Module, l link.Link, loads []bank.Load) (Cost, error) {
	return costOf(m, l, func(b *sequence.Builder) {
		var slots glyph.Bank
		for _, load := range loads {
			slots = append(slots, glyph.New(load.Slot, "", load.Glyph))
		}
		b.Load(slots)
	})
}

// costOf is what some steps take on a module's link, which is idle before.
func costOf(m module.Module, l link.Link, build func(*sequence.Builder)) (Cost, error) {
	b, err := sequence.NewBuilder(m, l, sequence.Options{})
	if err != nil {
		return Cost{}, err
	}
	build(b)
	return costOfProgram(b.Program()), nil
}

// costOfProgram is what a program takes that begins at time 0.
func costOfProgram(p *sequence.Program) Cost {
	c := Cost{Words: len(p.Words), Wire: p.WireTime, Done: p.Finish}
	for i := range p.Steps {
		if p.Steps[i].Sends() {
			c.Operations++
		}
		if p.Steps[i].Op.RS {
			c.Data++
		}
	}
	return c
}

// titleOf names a screen of a module for people.
func titleOf(m *bench.Module, at int) string {
	if name := m.Screens[at].Name; name != "" {
		return "“" + name + "”"
	}
	return fmt.Sprintf("screen %d", at+1)
}

// judgeConflict says why the screens cannot follow each other.
func (l *Loading) judgeConflict(b *bench.Bench, at int, err error) {
	var c *bank.Conflict
	if !errors.As(err, &c) {
		return
	}
	m := &b.Modules[at]
	l.Needs = max(l.Needs, c.Needs)
	f := finding.Finding{
		Code: "glyph.no-plan", Severity: finding.Warning, Path: fmt.Sprintf("/modules/%d/screens/%d", at, c.Page),
		Source: "HD44780U data sheet, ADE-207-272(Z), Character generator RAM",
	}
	if c.Before < 0 {
		f.What = fmt.Sprintf("%s shows %d glyphs, and there are %d slots for them.", titleOf(m, c.Page), c.Needs, c.Holds)
		f.Fix = "Show fewer different glyphs on it."
	} else {
		f.What = fmt.Sprintf("%s and %s show %d glyphs between them, and there are %d slots for them.", titleOf(m, c.Before), titleOf(m, c.Page), c.Needs, c.Holds)
		f.Why = "A slot would be loaded anew while the glass still shows it: its cells change before the screen does."
		f.Fix = "Let them change for that moment, show fewer different glyphs, or put a screen between the two."
		path := fmt.Sprintf("/modules/%d/loading", at)
		allowed := m.Loading
		allowed.OnGlass = true
		f.Remedies = []finding.Remedy{{Label: "Let slots change while they are on the glass", Patch: finding.Patch{finding.Test(fmt.Sprintf("/modules/%d/id", at), m.ID), finding.Add(path, allowed)}}}
	}
	if len(l.Fixed) > 0 {
		f.Fix += fmt.Sprintf(" Screens show %d slots by number, which cannot be used for others.", len(l.Fixed))
		if remedy, ok := l.unfixed(b, at); ok {
			f.Remedies = append(f.Remedies, remedy)
		}
	}
	l.Findings = append(l.Findings, f)
}

// unfixed offers to name the glyphs in fixed slots by the library, so that they
// can be in any slot. It returns false where a slot that is shown is empty.
func (l *Loading) unfixed(b *bench.Bench, at int) (finding.Remedy, bool) {
	m := &b.Modules[at]
	library := slices.Clone(b.Glyphs)
	keys := map[int]rune{}
	for _, slot := range l.Fixed {
		g, ok := m.Glyphs.In(slot)
		if !ok {
			return finding.Remedy{}, false
		}
		key := library.Free()
		library = append(library, glyph.Drawing{Key: key, Name: g.Name, Rows: g.Rows})
		keys[slot] = rune(screen.KeyBase + key)
	}
	patch := finding.Patch{finding.Test(fmt.Sprintf("/modules/%d/id", at), m.ID), finding.Add("/glyphs", library)}
	mod, err := m.Display.Module()
	if err != nil {
		return finding.Remedy{}, false
	}
	for i := range m.Screens {
		path := fmt.Sprintf("/modules/%d/screens/%d/rows", at, i)
		rows := screen.Rekeyed(&mod, m.Screens[i].Rows, keys)
		patch = append(patch, finding.Test(path, m.Screens[i].Rows), finding.Replace(path, rows))
	}
	return finding.Remedy{Label: "Name those glyphs by the library, so that they can be in any slot", Patch: patch}, true
}

// judgeShown names loads that change cells still on the glass, where that is
// allowed.
func (l *Loading) judgeShown(m *bench.Module, at int, screens []shown, pages []bank.Page, o bank.Options) {
	o.OnGlass = false
	_, err := bank.New(pages, o)
	possible := err == nil // without touching the glass
	held := map[int]glyph.Pattern{}
	before := -1
	said := map[[2]int]bool{}
	for i, step := range l.Plan.Steps {
		for _, load := range step.Loads {
			was := held[load.Slot]
			held[load.Slot] = load.Glyph
			if !load.Shown || said[[2]int{before, step.Page}] {
				continue
			}
			said[[2]int{before, step.Page}] = true
			cell := screens[before].cellOf(was)
			cols := screens[before].layout.Cols
			f := finding.Finding{
				Code: "glyph.reload-shown", Severity: finding.Warning,
				Why:  "A slot's dots are read for every picture of the glass: all cells that show it change with it.",
				Fix:  "Show fewer different glyphs on the two, put a screen between them, or clear the cells first.",
				Path: fmt.Sprintf("/modules/%d/screens/%d", at, before), Cells: &finding.Cells{Row: cell / cols, Col: cell % cols, Len: 1},
				Source: "HD44780U data sheet, ADE-207-272(Z), Character generator RAM",
			}
			f.Say(place.Sprintf("Before %s slot %d is loaded anew while %s still shows it in %P: for %s another glyph stands there.",
				titleOf(m, step.Page), load.Slot, titleOf(m, before), place.Cell(cell/cols, cell%cols), say.Milliseconds(l.Costs[i].Done)))
			if possible {
				path := fmt.Sprintf("/modules/%d/loading", at)
				kept := m.Loading
				kept.OnGlass = false
				f.Remedies = []finding.Remedy{{Label: "Never load a slot that is on the glass", Patch: finding.Patch{finding.Test(path, m.Loading), finding.Replace(path, kept)}}}
			}
			l.Findings = append(l.Findings, f)
		}
		before = step.Page
	}
}

// cellOf returns the first cell that shows a glyph; 0 where none does.
func (s *shown) cellOf(p glyph.Pattern) int {
	for i, c := range s.layout.Cells {
		if g, ok := s.layout.Bank.In(int(c.Code) % glyph.Slots); ok && c.Drawn && g.Pattern() == p {
			return i
		}
	}
	return 0
}

// Animation is what it costs to animate a glyph on a screen, a frame after the
// other, by drawing its slot again or by writing its cells with the next slot.
type Animation struct {
	Cells  int  // that show the glyph
	Slot   Cost // of all frames, by drawing the slot again where rows differ
	Write  Cost // of all frames, by writing the cells with another slot
	Slots  int  // that writing needs
	Fits   bool // there are as many
	Frames int
}

// Animate compares the two ways for frames of a glyph that stands in some cells of
// a screen (row by row, as in Layout.Cells).
func Animate(s *testbed.Setup, frames []glyph.Pattern, cells []int) (*Animation, error) {
	mod, wired, err := s.Build()
	if err != nil {
		return nil, err
	}
	if len(frames) < 2 {
		return nil, fmt.Errorf("%d frames; an animation has at least 2", len(frames))
	}
	a := &Animation{Cells: len(cells), Frames: len(frames)}
	different := map[glyph.Pattern]byte{}
	code := func(p glyph.Pattern) byte {
		if _, known := different[p]; !known {
			different[p] = byte(len(different))
		}
		return different[p]
	}
	for i, from := range frames {
		to := frames[(i+1)%len(frames)]
		redraw, err := costOf(mod, wired, func(b *sequence.Builder) {
			g := glyph.New(0, "", to)
			b.Redraw(from, &g)
		})
		if err != nil {
			return nil, err
		}
		before, after := slices.Repeat([]byte{' '}, mod.Geometry.Cells()), slices.Repeat([]byte{' '}, mod.Geometry.Cells())
		for _, c := range cells {
			if c < 0 || c >= len(before) {
				return nil, fmt.Errorf("cell %d; this module has cells 0–%d", c, len(before)-1)
			}
			before[c], after[c] = code(from), code(to)
		}
		write, err := costOf(mod, wired, func(b *sequence.Builder) {
			b.Know(before)
			b.Update(after, nil, sequence.Cursor{}, update.Allowed{})
		})
		if err != nil {
			return nil, err
		}
		a.Slot, a.Write = a.Slot.plus(redraw), a.Write.plus(write)
	}
	a.Slots = len(different)
	a.Fits = a.Slots <= glyph.Slots/mod.SlotStep()
	return a, nil
}
