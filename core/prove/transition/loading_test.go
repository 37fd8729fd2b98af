package transition

import (
	"fmt"
	"math/rand/v2"
	"reflect"
	"slices"
	"strings"
	"testing"

	"slatebell/core/bench"
	"slatebell/core/finding"
	"slatebell/core/part/charrom"
	"slatebell/core/prove/run"
	"slatebell/core/prove/testbed"
	"slatebell/core/prove/testbed/bedtest"
	"slatebell/core/text/bank"
	"slatebell/core/text/glyph"
	"slatebell/core/text/meter"
	"slatebell/core/text/picture"
	"slatebell/core/text/screen"
	"slatebell/core/wire/rig"
	"slatebell/core/wire/sequence"
	"slatebell/core/wire/update"
)

// shownBy sets a module's screen to patterns, cell by cell from its first, each by
// a drawing of its own, and returns what the glass then shows in them.
func shownBy(t *testing.T, geometry, rom string, patterns []glyph.Pattern, cols int) []glyph.Pattern {
	t.Helper()
	s := bedtest.Slice("parallel4")
	s.Display.Geometry, s.Display.Controller.ROM = geometry, rom
	keys := map[glyph.Pattern]int{}
	var row strings.Builder
	for i, p := range patterns {
		if _, known := keys[p]; !known {
			keys[p] = len(keys) + 1
			s.Library = append(s.Library, glyph.Drawing{Key: keys[p], Rows: p.Ints()})
		}
		row.WriteString(bedtest.Key(keys[p]))
		if (i+1)%cols == 0 || i == len(patterns)-1 {
			s.Rows = append(s.Rows, row.String())
			row.Reset()
		}
	}
	r := ran(t, s, run.Options{})
	if w := finding.Worst(r.Findings); w != "" && w != finding.Note {
		t.Fatalf("%v", r.Findings[0].What)
	}
	g := r.Last().Glass(&r.Module, r.Contrast)
	out := make([]glyph.Pattern, len(patterns))
	for i := range patterns {
		out[i] = glyph.Of(g.Cells[i/cols*g.Cols+i%cols].Dots)
	}
	return out
}

// lengths counts, from the glass alone, how many dots in a row of dots (a column,
// upwards) are lit from the start, gaps left out.
func lengths(cells []glyph.Pattern, b meter.Bar, across int) (lit []bool) {
	for _, c := range cells {
		for along := range 5 + 3*vertical(b) {
			if b.Vertical {
				lit = append(lit, c.Lit(glyph.Rows-1-along, across))
			} else {
				lit = append(lit, c.Lit(across, along))
			}
		}
	}
	return lit
}

func vertical(b meter.Bar) int {
	if b.Vertical {
		return 1
	}
	return 0
}

// TestBarsFromGlass shows values by bars of every kind through the whole loop, and
// reads each back from the dots on the glass: from how many are lit, without
// asking the bar.
func TestBarsFromGlass(t *testing.T) {
	kinds := 0
	for _, b := range []meter.Bar{
		{Cells: 8}, {Cells: 8, Dots: 5}, {Cells: 4, Dots: 2, Gap: 1}, {Cells: 16, Gap: 1}, {Cells: 8, Dots: 3}, {Cells: 8, Dots: 4},
		{Cells: 2, Vertical: true}, {Cells: 2, Vertical: true, Dots: 2}, {Cells: 2, Vertical: true, Gap: 1, Dots: 1},
		{Cells: 6, Lanes: 2, Dots: 5}, {Cells: 6, Lanes: 2, Dots: 2, Gap: 1}, {Cells: 4, Lanes: 3, Dots: 5},
		{Cells: 16, Gap: 1, Peak: true}, {Cells: 6, Dots: 2, Gap: 1, Peak: true}, {Cells: 8, Centre: true}, {Cells: 7, Centre: true, Gap: 1},
		{Cells: 8, Dots: 5, Frame: true},
	} {
		set, err := meter.SetOf(b.Patterns(), charrom.A00(), glyph.Slots)
		if err != nil || len(set.Glyphs) > glyph.Slots {
			t.Errorf("%+v: %v", b, err)
			continue
		}
		kinds++
		low, high := b.Range()
		for v := low; v <= high; v++ {
			reading := meter.Reading{Value: v}
			if b.Peak && v < high-1 { // just above the bar it would be its end
				reading.Peak = high
			}
			readings := []meter.Reading{reading}
			if b.Lanes > 1 { // the others run against it
				readings = append(readings, meter.Reading{Value: high - v})
			}
			drawn := b.Draw(readings...)
			for _, p := range drawn {
				if _, known := set.Codes[p]; !known {
					t.Fatalf("%+v at %d draws %v, which is not among its patterns", b, v, p)
				}
			}
			geometry, cols := "16x2", b.Cells
			if b.Vertical { // bottom to top on the bar's side, top to bottom on the glass
				slices.Reverse(drawn)
				cols = 1
			}
			glass := shownBy(t, geometry, "A00", drawn, cols)
			if b.Vertical {
				slices.Reverse(glass)
			}
			for i, c := range glass { // a line runs round a framed bar
				if b.Frame && (c[0] != 0x1F || c[7] != 0x1F || (i == 0) != c.Lit(1, 0) || (i == b.Cells-1) != c.Lit(6, 4)) {
					t.Fatalf("%+v: cell %d of the frame is %v", b, i, c)
				}
			}
			for lane, want := range readings[:min(len(readings), max(b.Lanes, 1))] {
				across := [][]int{{0}, {0, 4}, {0, 3, 6}}[max(b.Lanes, 1)-1][lane] // a row of the lane's dots
				if b.Frame {
					across = 3
				}
				if got := valueOf(lengths(glass, b, across), b, high); got != want.Value {
					t.Fatalf("%+v: the glass shows %d, want %d\n%v", b, got, want.Value, glass)
				}
			}
		}
	}
	if kinds < 15 {
		t.Errorf("%d kinds of bar were shown", kinds)
	}
}

// valueOf reads a bar's value from its lit dots.
func valueOf(lit []bool, b meter.Bar, high int) int {
	long, dots := 5, max(b.Dots, 1)
	if b.Vertical {
		long = 8
	}
	var steps []bool // a step is lit if its first dot is
	for at := range lit {
		if in := at % long; in%(dots+b.Gap) == 0 && in+dots <= long {
			steps = append(steps, lit[at])
		}
	}
	if b.Frame { // its line lights the first dot: the second tells
		steps = steps[:0]
		for at := 1; at < len(lit); at += long {
			steps = append(steps, lit[at])
		}
	}
	n := 0
	for _, s := range steps {
		if s {
			n++
		}
	}
	if b.Peak && n < len(steps) && steps[len(steps)-1] { // the last step is the peak's
		n--
	}
	if b.Centre && n > 0 && steps[len(steps)/2-1] {
		return -n
	}
	return n
}

// TestPatternsNeeded counts the glyphs that usual bars need (worked out by hand:
// the empty cell is a space and the full one is in ROM A00).
func TestPatternsNeeded(t *testing.T) {
	for _, c := range []struct {
		bar          meter.Bar
		glyphs, most int
	}{
		{meter.Bar{Cells: 8}, 4, 40}, {meter.Bar{Cells: 8, Dots: 5}, 0, 8}, {meter.Bar{Cells: 4, Vertical: true}, 7, 32}, {meter.Bar{Cells: 16, Gap: 1}, 3, 48},
		{meter.Bar{Cells: 16, Gap: 1, Peak: true}, 6, 48}, {meter.Bar{Cells: 8, Centre: true}, 8, 20}, {meter.Bar{Cells: 8, Peak: true}, 14, 40}, {meter.Bar{Cells: 6, Lanes: 2, Dots: 5}, 3, 6},
	} {
		set, err := meter.SetOf(c.bar.Patterns(), charrom.A00(), 16)
		if _, high := c.bar.Range(); err != nil || len(set.Glyphs) != c.glyphs || high != c.most {
			t.Errorf("%+v: %d glyphs up to %d, %v; want %d up to %d", c.bar, len(set.Glyphs), high, err, c.glyphs, c.most)
		}
	}
	if _, err := meter.SetOf(meter.Bar{Cells: 8, Peak: true}.Patterns(), charrom.A00(), 8); err == nil || err.Error() != "it needs 14 glyphs, and 8 slots hold them" {
		t.Errorf("a bar that needs 14 glyphs: %v", err)
	}
	scale := meter.Bar{Cells: 8, Dots: 5}
	for value, want := range map[float64]int{-1: 0, 0: 0, 1.9: 1, 2: 1, 7.5: 4, 6.9: 3, 16: 8, 99: 8} {
		if got := scale.Step(value, 0, 16); got != want {
			t.Errorf("%v of 0–16 is step %d, want %d", value, got, want)
		}
	}
	for what, b := range map[string]meter.Bar{
		"0 cells": {}, "6 dots a step": {Cells: 1, Dots: 6}, "3 dark dots": {Cells: 1, Gap: 3}, "4 bars a cell": {Cells: 1, Lanes: 4}, "a frame runs": {Cells: 4, Frame: true, Vertical: true},
	} {
		if err := b.Check(); err == nil || !strings.Contains(err.Error(), what) {
			t.Errorf("%+v: %v, want %q", b, err, what)
		}
	}
}

// TestDigitsFromGlass shows every digit in every size and style through the whole
// loop, all by at most eight glyphs, and reads it back from the glass: it is
// nearer to its own drawing than to any other, by at least four dots.
func TestDigitsFromGlass(t *testing.T) {
	for _, size := range meter.Sizes() {
		for _, style := range meter.Styles() {
			for _, rom := range []*charrom.ROM{charrom.A00(), charrom.A02()} {
				d, err := meter.NewDigits(size, style, rom, glyph.Slots)
				if err != nil || len(d.Glyphs) > glyph.Slots {
					t.Fatalf("%d × %d, %s: %d glyphs, %v", size.Cols, size.Rows, style, len(d.Glyphs), err)
				}
				for n := range 10 {
					var cells []glyph.Pattern
					for _, c := range d.Cells[n] {
						cells = append(cells, c.Shown)
					}
					glass := shownBy(t, "16x4", rom.Name, cells, size.Cols)
					far := make([]int, 10)
					for m := range 10 {
						for i := range glass {
							far[m] += glass[i].Distance(d.Wanted[m][i])
						}
					}
					for m := range 10 {
						if m != n && far[m] < far[n]+4 {
							t.Errorf("%d × %d, %s on %s: %d is %d dots from its drawing, %d from that of %d", size.Cols, size.Rows, style, rom.Name, n, far[n], far[m], m)
						}
					}
				}
			}
		}
	}
	if d, err := meter.NewDigits(meter.Sizes()[2], meter.Slab, charrom.A00(), 8); err != nil || d.Changed != 0 || d.Apart < 15 {
		t.Errorf("slab digits of 3 × 4 cells need no merging: %d dots changed, %d apart, %v", d.Changed, d.Apart, err)
	}
	if _, err := meter.NewDigits(picture.Block{Cols: 5, Rows: 5}, meter.Slab, charrom.A00(), 8); err == nil {
		t.Error("digits of 5 × 5 cells are drawn")
	}
	if _, err := meter.NewDigits(meter.Sizes()[0], "wavy", charrom.A00(), 8); err == nil {
		t.Error("an unknown style is drawn")
	}
	for _, s := range meter.Signs() {
		if set, err := meter.SetOf(s.Frames, charrom.A00(), glyph.Slots); err != nil || len(set.Codes) != len(s.Frames) {
			t.Errorf("%s: %d of %d frames are different, %v", s.Name, len(set.Codes), len(s.Frames), err)
		}
	}
}

// loop returns a bench with a module whose screens show some of a number of
// glyphs, and the glyphs.
func loop(rng *rand.Rand, screens, kinds, each int) bench.Bench {
	b := bench.New("tides")
	for k := range kinds {
		b.Glyphs = append(b.Glyphs, glyph.Drawing{Key: k + 1, Name: fmt.Sprintf("mark %d", k+1), Rows: []int{0, 17, k & 31, 21, k & 31, 17, 10, k >> 1 & 31}})
	}
	m := &b.Modules[0]
	m.Screens = nil
	for i := range screens {
		row := fmt.Sprintf("%d:", i)
		for _, k := range rng.Perm(kinds)[:each] {
			row += bedtest.Key(k+1) + "-"
		}
		m.Screens = append(m.Screens, bench.Screen{ID: fmt.Sprintf("screen-%d", i+1), Rows: []string{row}})
	}
	return b
}

// TestLoadingOnGlass plays loading plans into a rig, screen after screen: before a
// screen's cells are written its loads leave every cell of the screen before as
// it was, unless that was allowed and is a finding; afterwards every cell has its
// glyph's dots.
func TestLoadingOnGlass(t *testing.T) {
	rng := rand.New(rand.NewPCG(9, 20))
	plans, touched := 0, 0
	for range 60 {
		b := loop(rng, 2+rng.IntN(5), 9+rng.IntN(6), 1+rng.IntN(5))
		m := &b.Modules[0]
		m.Loading = bench.Loading{Loop: rng.IntN(2) == 0, OnGlass: rng.IntN(2) == 0}
		if rng.IntN(2) == 0 { // one slot is shown by number
			m.Glyphs = glyph.Bank{glyph.New(3, "bell", glyph.Pattern{4, 14, 14, 14, 31, 0, 4})}
			m.Screens[0].Rows[0] += "\uE003"
		}
		if err := b.Validate(); err != nil {
			t.Fatal(err)
		}
		l, err := NewLoading(&b, 0)
		if err != nil {
			t.Fatal(err)
		}
		if l.Plan == nil {
			if len(l.Findings) != 1 || l.Findings[0].Code != "glyph.no-plan" {
				t.Fatalf("no plan, and %+v", l.Findings)
			}
			continue
		}
		plans++
		touched += play(t, &b, l)
	}
	if plans < 30 || touched == 0 {
		t.Errorf("%d plans were played, %d of them changed the glass", plans, touched)
	}
}

// play plays a plan; it returns 1 where loads changed what was on the glass.
func play(t *testing.T, b *bench.Bench, l *Loading) (touched int) {
	t.Helper()
	m := &b.Modules[0]
	first, _ := testbed.Of(b, testbed.At{})
	mod, wired, err := first.Build()
	if err != nil {
		t.Fatal(err)
	}
	hardware, err := rig.New(mod, wired)
	if err != nil {
		t.Fatal(err)
	}
	blank := slices.Repeat([]byte{' '}, mod.Geometry.Cells())
	start, err := sequence.Compile(mod, wired, blank, sequence.Options{Init: true, Glyphs: m.Glyphs})
	if err != nil {
		t.Fatal(err)
	}
	hardware.Follow(start)
	follow := func(build func(*sequence.Builder)) {
		s, err := sequence.NewBuilder(mod, wired, sequence.Options{})
		if err != nil {
			t.Fatal(err)
		}
		build(s)
		hardware.Follow(s.Program())
	}
	glass := func() []rig.ShownCell {
		mo := hardware.Moment()
		g := mo.Glass(&mod, 0.8)
		return g.Cells
	}
	said := slices.ContainsFunc(l.Findings, func(f finding.Finding) bool { return f.Code == "glyph.reload-shown" })
	for _, step := range l.Plan.Steps {
		before := glass()
		follow(func(s *sequence.Builder) {
			for _, load := range step.Loads {
				s.Load(glyph.Bank{glyph.New(load.Slot, "", load.Glyph)})
			}
		})
		if !reflect.DeepEqual(before, glass()) {
			touched = 1
			if !m.Loading.OnGlass || !said {
				t.Fatalf("the loads before screen %d change the glass; allowed %v, said %v", step.Page, m.Loading.OnGlass, said)
			}
		}
		setup, _ := testbed.Of(b, testbed.At{Module: 0, Screen: step.Page})
		s := newShown(&mod, &setup)
		codes := s.layout.Codes()
		for i, c := range s.layout.Cells {
			if c.Drawn {
				if slot, ok := step.Slots[c.Pattern]; ok {
					codes[i] = screen.CodeOf(&mod, slot)
				}
			}
		}
		follow(func(s *sequence.Builder) { s.Update(codes, nil, sequence.Cursor{}, update.Allowed{}) })
		for i, c := range glass() {
			want := mod.ROM.Dots(codes[i])
			if d, ok := setup.Library.Keyed(s.layout.Cells[i].Key); ok {
				want = d.Pattern().Dots()
			} else if slot, ok := mod.Slot(codes[i]); ok {
				g, _ := m.Glyphs.In(slot)
				want = g.Pattern().Dots()
			}
			if c.Dots != want {
				t.Fatalf("screen %d, cell %d shows %v, want %v", step.Page, i, c.Dots, want)
			}
		}
	}
	if said && touched == 0 {
		t.Errorf("a load is said to change the glass, and none does: %+v", l.Findings)
	}
	return touched
}

// TestLoadingCosts checks what a plan says of itself: each glyph is an address and
// eight bytes, an address less where slots lie side by side.
func TestLoadingCosts(t *testing.T) {
	b := loop(rand.New(rand.NewPCG(9, 21)), 3, 9, 3)
	l, err := NewLoading(&b, 0)
	if err != nil {
		t.Fatal(err)
	}
	if sum := Sum(l.Costs); sum.Data != 8*bank.Count(l.Plan.Steps) || sum.Operations <= sum.Data || sum.Wire == 0 || sum.Done < sum.Wire {
		t.Errorf("%d loads cost %+v", bank.Count(l.Plan.Steps), sum)
	}
	if l.Each != 9 || l.Holds != 8 {
		t.Errorf("every screen loading its own takes %d glyphs; %d slots", l.Each, l.Holds)
	}
	if _, err := NewLoading(&b, 4); err == nil {
		t.Error("a module that is not there has a plan")
	}
}

// TestAnimate draws a slot anew on the rig: every cell that shows it changes to
// the next frame, with as many operations as Animate says; from some cells on
// that costs less than writing them.
func TestAnimate(t *testing.T) {
	sweep := meter.Signs()[1].Frames
	for cells := 1; cells <= 16; cells++ {
		s := bedtest.Slice("backpack", strings.Repeat("\uE001", cells))
		s.Glyphs = glyph.Bank{glyph.New(1, "line", sweep[0])}
		list := make([]int, cells)
		for i := range list {
			list[i] = i
		}
		a, err := Animate(&s, sweep, list)
		if err != nil || a.Slots != 4 || !a.Fits || a.Cells != cells {
			t.Fatalf("%+v, %v", a, err)
		}
		if want := 4 * (cells + 1); a.Write.Operations != want {
			t.Errorf("writing %d cells takes %d operations, want %d: an address and the cells, four times", cells, a.Write.Operations, want)
		}
		if cells >= 8 && a.Slot.Wire >= a.Write.Wire || cells == 1 && a.Slot.Wire <= a.Write.Wire {
			t.Errorf("%d cells: the slot takes %v, the cells %v", cells, a.Slot.Wire, a.Write.Wire)
		}
		mod, wired, _ := s.Build()
		hardware, _ := rig.New(mod, wired)
		program, _ := sequence.Compile(mod, wired, newCodes(&mod.Geometry.Cols, cells), sequence.Options{Init: true, Glyphs: s.Glyphs})
		hardware.Follow(program)
		operations := 0
		for i := range sweep {
			next := glyph.New(1, "line", sweep[(i+1)%len(sweep)])
			builder, _ := sequence.NewBuilder(mod, wired, sequence.Options{})
			builder.Redraw(sweep[i], &next)
			p := builder.Program()
			operations += len(p.Steps)
			hardware.Follow(p)
			mo := hardware.Moment()
			for c, cell := range mo.Glass(&mod, 0.8).Cells {
				if want := next.Pattern().Dots(); c < cells && cell.Dots != want {
					t.Fatalf("cell %d shows %v, want %v", c, cell.Dots, want)
				}
			}
		}
		if operations != a.Slot.Operations {
			t.Errorf("%d operations were sent, Animate says %d", operations, a.Slot.Operations)
		}
	}
	s := bedtest.Slice("backpack", "x")
	if _, err := Animate(&s, sweep[:1], []int{0}); err == nil {
		t.Error("one frame is animated")
	}
	if _, err := Animate(&s, sweep, []int{99}); err == nil {
		t.Error("a cell outside the glass is animated")
	}
}

// newCodes is a 16×2 screen that shows slot 1 in its first cells.
func newCodes(cols *int, cells int) []byte {
	codes := slices.Repeat([]byte{' '}, 2**cols)
	for i := range cells {
		codes[i] = 1
	}
	return codes
}

// TestGlyphFindings has each judgement on glyphs in a case of its own, and applies
// its first remedy by hand: the finding is gone then.
func TestGlyphFindings(t *testing.T) {
	bell := glyph.Pattern{4, 14, 14, 14, 31, 0, 4}
	low := glyph.Pattern{4, 4, 4, 4, 4, 4, 4, 4}
	nine := func() (s testbed.Setup) {
		s = bedtest.Slice("backpack", "")
		for k := 1; k <= 9; k++ {
			s.Library = append(s.Library, glyph.Drawing{Key: k, Name: fmt.Sprintf("mark %d", k), Rows: []int{k, 31, 0, k, 31, 0, k, 31}})
			s.Rows[0] += bedtest.Key(k)
		}
		return s
	}
	for code, s := range map[string]testbed.Setup{
		"glyph.too-many": nine(),
		"glyph.lost":     bedtest.Slice("backpack", "a"+bedtest.Key(7)),
		"glyph.slot-differs": func() testbed.Setup {
			s := bedtest.Slice("backpack", "\uE003")
			s.Glyphs = glyph.Bank{glyph.New(2, "bell", bell)}
			return s
		}(),
		"glyph.code-zero": func() testbed.Setup {
			s := bedtest.Slice("backpack", "\uE000")
			s.Glyphs = glyph.Bank{glyph.New(0, "bell", bell)}
			return s
		}(),
		"glyph.in-rom": func() testbed.Setup {
			s := bedtest.Slice("backpack", "\uE001")
			s.Glyphs = glyph.Bank{glyph.New(1, "an A", glyph.Of(charrom.A00().Dots('A')))}
			return s
		}(),
		"glyph.odd-slot": func() testbed.Setup {
			s := bedtest.Slice("backpack", "x")
			s.Display.Geometry, s.Display.Controller.Font = "16x1", "5x10"
			s.Glyphs = glyph.Bank{glyph.New(3, "bell", bell)}
			return s
		}(),
		"glyph.cursor-line": func() testbed.Setup {
			s := bedtest.Slice("backpack", "ab\uE001")
			s.Glyphs, s.Cursor = glyph.Bank{glyph.New(1, "mast", low)}, screen.Cursor{Kind: "line", Col: 2}
			return s
		}(),
	} {
		r := ran(t, s, run.Options{})
		i := slices.IndexFunc(r.Findings, func(f finding.Finding) bool { return f.Code == code })
		if i < 0 {
			t.Errorf("%s is not found: %v", code, codesOf(r))
			continue
		}
		f := r.Findings[i]
		if f.What == "" || f.Fix == "" || f.Path == "" || len(f.Remedies) == 0 {
			t.Errorf("%s: %+v", code, f)
			continue
		}
		for _, remedy := range f.Remedies {
			mended := s
			mended.Glyphs = slices.Clone(s.Glyphs)
			for _, op := range remedy.Patch[1:] {
				switch {
				case strings.HasSuffix(op.Path, "/rows"):
					mended.Rows = op.Value.([]string)
				case strings.HasSuffix(op.Path, "/cursor/kind"):
					mended.Cursor.Kind = op.Value.(string)
				case strings.HasSuffix(op.Path, "/slot"):
					mended.Glyphs[0].Slot = op.Value.(int)
				default:
					t.Fatalf("%s changes %s", code, op.Path)
				}
			}
			if after := ran(t, mended, run.Options{}); strings.Contains(codesOf(after), code) {
				t.Errorf("%s: “%s” leaves it: %v", code, remedy.Label, codesOf(after))
			}
		}
	}
	// what the findings say is so on the glass: an odd slot is not shown by its code
	odd := bedtest.Slice("backpack", "\uE003")
	odd.Display.Geometry, odd.Display.Controller.Font = "16x1", "5x10"
	odd.Glyphs = glyph.Bank{glyph.New(3, "bell", bell)}
	r := ran(t, odd, run.Options{})
	if g := r.Last().Glass(&r.Module, r.Contrast); g.Cells[0].Dots == bell.Dots() {
		t.Error("the glyph in an odd slot is shown by its code")
	}
	// a cell without its drawing says so
	if r := ran(t, bedtest.Slice("backpack", bedtest.Key(7)), run.Options{}); !r.Layout.Cells[0].Missing || r.Layout.Cells[0].Code != ' ' {
		t.Errorf("%+v", r.Layout.Cells[0])
	}
	// and nine glyphs show eight
	s := nine()
	r = ran(t, s, run.Options{})
	g := r.Last().Glass(&r.Module, r.Contrast)
	for i := range 9 {
		want := s.Library[i].Pattern().Dots()
		if i == 8 {
			want = charrom.Dots{}
		}
		if g.Cells[i].Dots != want {
			t.Errorf("cell %d of nine shows %v, want %v", i, g.Cells[i].Dots, want)
		}
	}
}

// TestKeyedGlyphs composes drawings by key: those that the ROM has and blank ones
// take no slot, equal ones share one, slots that the screen does not show are
// taken, and glyphs of the 5×10 font have all their rows on the glass.
func TestKeyedGlyphs(t *testing.T) {
	s := bedtest.Slice("backpack", bedtest.Key(1)+bedtest.Key(2)+bedtest.Key(3)+bedtest.Key(4)+"A\uE005")
	drawn := glyph.Pattern{1, 2, 4, 8, 16, 8, 4, 2}
	s.Library = glyph.Library{{Key: 1, Rows: glyph.Of(charrom.A00().Dots('A')).Ints()}, {Key: 2, Rows: make([]int, 8)}, {Key: 3, Rows: drawn.Ints()}, {Key: 4, Rows: drawn.Ints()}}
	for slot := range glyph.Slots {
		s.Glyphs = append(s.Glyphs, glyph.New(slot, "", glyph.Pattern{byte(slot + 1), 9}))
	}
	r := ran(t, s, run.Options{})
	if got := r.Layout.Codes()[:6]; !reflect.DeepEqual(got, []byte{'A', ' ', 8, 8, 'A', 5}) {
		t.Errorf("codes % X", got)
	}
	g := r.Last().Glass(&r.Module, r.Contrast)
	if g.Cells[2].Dots != drawn.Dots() || g.Cells[5].Dots != (charrom.Dots{6, 9}) {
		t.Errorf("shows %v and %v", g.Cells[2].Dots, g.Cells[5].Dots)
	}
	tall := bedtest.Slice("parallel4", bedtest.Key(1)+"\uE004")
	tall.Display.Geometry, tall.Display.Controller.Font = "16x1", "5x10"
	mast := glyph.Pattern{1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11}
	tall.Library = glyph.Library{{Key: 1, Rows: mast.Ints()}}
	tall.Glyphs = glyph.Bank{glyph.New(4, "buoy", glyph.Pattern{31, 0, 31, 0, 31, 0, 31, 0, 31, 0, 31})}
	r = ran(t, tall, run.Options{})
	g = r.Last().Glass(&r.Module, r.Contrast)
	if c := g.Cells[0]; c.Dots != mast.Dots() || c.Below != [3]byte{9, 10, 11} {
		t.Errorf("the tall glyph shows %v, %v", c.Dots, c.Below)
	}
	if c := g.Cells[1]; c.Below != [3]byte{31, 0, 31} {
		t.Errorf("rows 9–11 in slot 4 are %v", c.Below)
	}
	// a cursor that is left on the screen
	under := bedtest.Slice("backpack", "ab")
	under.Cursor = screen.Cursor{Kind: "line", Row: 1, Col: 3}
	r = ran(t, under, run.Options{})
	g = r.Last().Glass(&r.Module, r.Contrast)
	if g.Cells[19].Dots[7] != 0x1F || len(r.Findings) > 0 {
		t.Errorf("the cursor's cell shows %v, %+v", g.Cells[19].Dots, r.Findings)
	}
	under.Display.Geometry, under.Cursor = "16x1split", screen.Cursor{Kind: "line", Col: 11}
	r = ran(t, under, run.Options{})
	if g = r.Last().Glass(&r.Module, r.Contrast); g.Cells[11].Dots[7] != 0x1F {
		t.Errorf("behind the split the cursor's cell shows %v", g.Cells[11].Dots)
	}
	for _, k := range []screen.Cursor{{Kind: "line", Row: 1}, {Kind: "block", Col: 16}} { // outside the glass there is none
		under.Cursor = k
		r = ran(t, under, run.Options{})
		if c := r.Last().Controllers[0]; c.CursorOn || c.BlinkOn || len(r.Findings) > 0 {
			t.Errorf("%+v: a cursor outside the glass, %+v", k, r.Findings)
		}
	}
}

// ran runs a test bed, which must be possible.
func ran(t *testing.T, s testbed.Setup, o run.Options) *run.Run {
	t.Helper()
	r, err := run.Do(&s, o)
	if err != nil {
		t.Fatal(err)
	}
	return r
}

// codesOf joins the codes of what was found in a run.
func codesOf(r *run.Run) string {
	var out []string
	for _, f := range r.Findings {
		out = append(out, f.Code)
	}
	return strings.Join(out, " ")
}
