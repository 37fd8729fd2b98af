package module

import (
	"strings"
	"testing"

	"periph.io/x/conn/v3/physic"
)

// TestBoards holds boards against common practice, in millimetres, and breaks
// each figure once.
func TestBoards(t *testing.T) {
	for _, g := range Geometries {
		b := UsualBoard(g.Name)
		known := !b.Outline.Zero()
		if want := map[string]bool{"8x1": false, "20x1": false}; known == false && want[g.Name] {
			continue
		}
		if known && (b.Check() != nil || b.Holes.Zero() != (b.Hole == 0)) {
			t.Errorf("%s: %v, %+v", g.Name, b.Check(), b)
		}
	}
	b := UsualBoard("16x2")
	if b.Outline.String() != "80 × 36 mm" || b.Holes.String() != "75 × 31 mm" || b.Window.String() != "64.5 × 13.8 mm" || b.Bezel.String() != "71.2 × 26 mm" || Millimetres(b.Hole) != 3 {
		t.Errorf("16x2: %+v", b)
	}
	for _, c := range []struct {
		says string
		make func(*Outline)
	}{
		{"", func(*Outline) {}},
		{"outline is not known", func(b *Outline) { b.Outline.H = 0 }},
		{"window is not known", func(b *Outline) { b.Window = Size{} }},
		{"larger than the board", func(b *Outline) { b.Window.W = MM(80.1) }},
		{"outside of the board", func(b *Outline) { b.Holes.H = MM(36.1) }},
		{"smaller than the window", func(b *Outline) { b.Bezel.H = MM(13.7) }},
		{"", func(b *Outline) { b.Right, b.Up = MM(7.75), MM(-11.1) }},
		{"", func(b *Outline) { b.Window, b.Bezel = b.Outline, Size{} }}, // each figure at its border
		{"", func(b *Outline) { b.Holes = b.Outline }},
		{"", func(b *Outline) { b.Bezel = b.Window }},
		{"larger than the board", func(b *Outline) { b.Window.H, b.Bezel = MM(36.1), Size{} }},
		{"outside of the board", func(b *Outline) { b.Holes.W = MM(80.1) }},
		{"smaller than the window", func(b *Outline) { b.Bezel.W = MM(64.4) }},
		{"beyond the edge", func(b *Outline) { b.Right = MM(-7.8) }},
		{"beyond the edge", func(b *Outline) { b.Up = MM(11.2) }},
	} {
		broken := UsualBoard("16x2")
		c.make(&broken)
		if err := broken.Check(); (err == nil) != (c.says == "") || err != nil && !strings.Contains(err.Error(), c.says) {
			t.Errorf("%+v: %v, want %q", broken, err, c.says)
		}
	}
}

// TestUnits lays a 16×2 into a grid of 8 mm by 9.6 mm (common practice: ten units
// wide, and three high for its bezel).
func TestUnits(t *testing.T) {
	b := UsualBoard("16x2")
	for _, c := range []struct {
		length, unit, clearance float64
		n                       int
		over                    float64
	}{
		{Millimetres(b.Outline.W), 8, 0, 10, 0}, {Millimetres(b.Bezel.H), 9.6, 0, 3, 2.8}, {Millimetres(b.Outline.H), 9.6, 0, 4, 2.4},
		{80, 8, 0.5, 11, 8}, {79.5, 8, 0.5, 10, 0.5}, {10, 0, 0, 0, 0},
	} {
		got := InUnits(MM(c.length), MM(c.unit), MM(c.clearance))
		if got.N != c.n || got.Over != MM(c.over) {
			t.Errorf("%g in units of %g: %d, %s over", c.length, c.unit, got.N, got.Over)
		}
	}
	if MM(0.55) != 550*physic.MicroMetre {
		t.Errorf("0.55 mm is %s", MM(0.55))
	}
}
