package module

import (
	"fmt"
	"math"

	"periph.io/x/conn/v3/physic"
)

// Size is a width and a height.
type Size struct {
	W, H physic.Distance
}

// Zero reports whether a size is not known.
func (s Size) Zero() bool { return s.W == 0 || s.H == 0 }

// Outline is the printed board that carries a module, for mounting. Sizes that are
// not known are zero; holes and window are centred on the outline unless Right and
// Up say otherwise.
type Outline struct {
	Outline Size
	Holes   Size            // between centres of the four holes
	Hole    physic.Distance // across one hole
	Window  Size            // what can be seen through
	Bezel   Size            // the metal frame around it
	Right   physic.Distance // of the window's centre from the outline's
	Up      physic.Distance
}

// MM returns a distance given in millimetres, to the micrometre.
func MM(v float64) physic.Distance {
	return physic.Distance(math.Round(v*1000)) * physic.MicroMetre
}

func size(w, h float64) Size { return Size{MM(w), MM(h)} }

// UsualHole is across a hole where nothing else is said (common practice: 2.5–3.2
// mm).
var UsualHole = MM(3)

// boards are the usual ones by geometry (common practice; each maker's differs).
var boards = map[string]Outline{
	"8x2":       {Outline: size(58, 32), Window: size(38, 16)},
	"16x1":      {Outline: size(80, 36), Holes: size(75, 31), Window: size(64.5, 13.8)},
	"16x1split": {Outline: size(80, 36), Holes: size(75, 31), Window: size(64.5, 13.8)},
	"16x2":      {Outline: size(80, 36), Holes: size(75, 31), Window: size(64.5, 13.8), Bezel: size(71.2, 26)},
	"16x4":      {Outline: size(87, 60), Holes: size(82, 55), Window: size(61.8, 25.2)},
	"20x2":      {Outline: size(116, 37), Window: size(83, 18.6)},
	"20x4":      {Outline: size(98, 60), Holes: size(93, 55), Window: size(76, 25.2)},
	"24x2":      {Outline: size(118, 36), Window: size(94.5, 17.8)},
	"40x2":      {Outline: size(182, 33.5), Holes: size(175, 26.5), Window: size(154, 16.5)},
	"40x4":      {Outline: size(190, 54), Holes: size(183, 47), Window: size(147, 29.5)},
}

// UsualBoard returns the board that modules of a geometry usually have; what is
// not known of it is zero.
func UsualBoard(geometry string) Outline {
	b := boards[geometry]
	if !b.Holes.Zero() {
		b.Hole = UsualHole
	}
	return b
}

// Check reports what of a board's figures cannot be, or is missing to cut a panel
// for it.
func (b *Outline) Check() error {
	switch {
	case b.Outline.Zero():
		return fmt.Errorf("the board's outline is not known; measure its width and height")
	case b.Window.Zero():
		return fmt.Errorf("the window is not known; measure the glass that can be seen")
	case b.Window.W > b.Outline.W || b.Window.H > b.Outline.H:
		return fmt.Errorf("the window of %s is larger than the board of %s", b.Window, b.Outline)
	case b.Holes.W > b.Outline.W || b.Holes.H > b.Outline.H:
		return fmt.Errorf("the holes, %s apart, lie outside of the board of %s", b.Holes, b.Outline)
	case !b.Bezel.Zero() && (b.Bezel.W < b.Window.W || b.Bezel.H < b.Window.H):
		return fmt.Errorf("the bezel of %s is smaller than the window of %s", b.Bezel, b.Window)
	case 2*abs(b.Right) > b.Outline.W-b.Window.W || 2*abs(b.Up) > b.Outline.H-b.Window.H:
		return fmt.Errorf("the window lies beyond the edge of the board")
	}
	return nil
}

func abs(d physic.Distance) physic.Distance { return max(d, -d) }

// String writes a size in millimetres: 80 × 36 mm.
func (s Size) String() string { return fmt.Sprintf("%g × %g mm", Millimetres(s.W), Millimetres(s.H)) }

// Millimetres returns a distance in millimetres.
func Millimetres(d physic.Distance) float64 { return float64(d) / float64(physic.MilliMetre) }

// Units is how many units of a grid a length takes, and what is left over of the
// last.
type Units struct {
	N    int
	Over physic.Distance
}

// InUnits returns how many units of a grid a length takes: what is left over of
// the last unit is at least clearance.
func InUnits(length, unit, clearance physic.Distance) Units {
	if unit <= 0 {
		return Units{}
	}
	n := (length + clearance + unit - 1) / unit
	return Units{int(n), n*unit - length}
}
