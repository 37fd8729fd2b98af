// Package picture is dots in a plane: drawn over a block of cells, moved and
// turned, cut into the patterns of its cells, and merged where they are more than
// CGRAM holds.
//
// It stands above glyph in the flow screen → cells → operations → wire traffic →
// rig → glass: its patterns become glyphs, its map of cells a screen's text.
package picture

import (
	"fmt"

	"slatebell/core/text/glyph"
)

// MaxCells bounds a block, in cells: the largest glass.
const MaxCells = 160

// Plane is dots in rows, top row first, each left to right.
type Plane struct {
	W, H int // dots
	Lit  []bool
}

// NewPlane returns a dark plane of so many dots across and down.
func NewPlane(w, h int) Plane { return Plane{w, h, make([]bool, w*h)} }

// At reports whether a dot is lit; outside the plane all is dark.
func (p *Plane) At(x, y int) bool {
	return x >= 0 && y >= 0 && x < p.W && y < p.H && p.Lit[y*p.W+x]
}

// made returns a plane of the same size, dot by dot.
func (p *Plane) made(lit func(x, y int) bool) Plane {
	out := NewPlane(p.W, p.H)
	for y := range p.H {
		for x := range p.W {
			out.Lit[y*p.W+x] = lit(x, y)
		}
	}
	return out
}

// Mirrored returns the plane with left and right exchanged.
func (p *Plane) Mirrored() Plane {
	return p.made(func(x, y int) bool { return p.At(p.W-1-x, y) })
}

// Flipped returns the plane with top and bottom exchanged.
func (p *Plane) Flipped() Plane {
	return p.made(func(x, y int) bool { return p.At(x, p.H-1-y) })
}

// Turned returns the plane turned by a quarter clockwise about its middle; what
// then lies outside it is lost.
func (p *Plane) Turned() Plane {
	return p.made(func(x, y int) bool {
		// twice the distance from the middle, so that halves stay whole
		dx, dy := 2*x-(p.W-1), 2*y-(p.H-1)
		sx, sy := dy+p.W-1, -dx+p.H-1
		return p.At(floorHalf(sx), floorHalf(sy))
	})
}

func floorHalf(v int) int { return v >> 1 }

// Inverted returns the plane with lit and dark exchanged.
func (p *Plane) Inverted() Plane {
	return p.made(func(x, y int) bool { return !p.At(x, y) })
}

// Shifted returns the plane moved right by dx and down by dy; what leaves on one
// side comes in on the other.
func (p *Plane) Shifted(dx, dy int) Plane {
	wrap := func(v, n int) int { return ((v % n) + n) % n }
	return p.made(func(x, y int) bool { return p.At(wrap(x-dx, p.W), wrap(y-dy, p.H)) })
}

// Symmetric returns the plane with its left half mirrored onto its right one.
func (p *Plane) Symmetric() Plane {
	return p.made(func(x, y int) bool { return p.At(min(x, p.W-1-x), y) })
}

// Block is a block of cells on the glass.
type Block struct {
	Cols, Rows int  // cells
	CellRows   int  // rows of dots of a cell, 8 or 11; 0 means 8
	Gaps       bool // the plane has the dots hidden in the gaps between cells, one wide
}

func (b Block) height() int {
	if b.CellRows == 0 {
		return glyph.Rows
	}
	return b.CellRows
}

// Size returns how many dots a plane over the block has, across and down.
func (b Block) Size() (w, h int) {
	if b.Gaps {
		return b.Cols*(glyph.Columns+1) - 1, b.Rows*(b.height()+1) - 1
	}
	return b.Cols * glyph.Columns, b.Rows * b.height()
}

// Check reports a block that cannot be.
func (b Block) Check() error {
	if b.Cols < 1 || b.Rows < 1 || b.Cols*b.Rows > MaxCells {
		return fmt.Errorf("a block of %d × %d cells; expected at least 1 × 1 and at most %d cells", b.Cols, b.Rows, MaxCells)
	}
	if h := b.height(); h != glyph.Rows && h != glyph.MaxRows {
		return fmt.Errorf("cells of %d rows; expected 8, or 11 with the 5×10 font", h)
	}
	return nil
}

// origin returns the dot at which a cell begins.
func (b Block) origin(col, row int) (x, y int) {
	gap := 0
	if b.Gaps {
		gap = 1
	}
	return col * (glyph.Columns + gap), row * (b.height() + gap)
}

// Cut returns the patterns of a block's cells, row by row. Dots in gaps are lost;
// the plane must have the block's size.
func (b Block) Cut(p *Plane) ([]glyph.Pattern, error) {
	if err := b.Check(); err != nil {
		return nil, err
	}
	if w, h := b.Size(); p.W != w || p.H != h {
		return nil, fmt.Errorf("a picture of %d × %d dots; a block of %d × %d cells has %d × %d", p.W, p.H, b.Cols, b.Rows, w, h)
	}
	cells := make([]glyph.Pattern, b.Cols*b.Rows)
	for i := range cells {
		x0, y0 := b.origin(i%b.Cols, i/b.Cols)
		for y := range b.height() {
			for x := range glyph.Columns {
				if p.At(x0+x, y0+y) {
					cells[i][y] |= 1 << (glyph.Columns - 1 - x)
				}
			}
		}
	}
	return cells, nil
}

// Join is the inverse of Cut: the plane that cells make. Gaps stay dark.
func (b Block) Join(cells []glyph.Pattern) Plane {
	p := NewPlane(b.Size())
	for i, c := range cells {
		x0, y0 := b.origin(i%b.Cols, i/b.Cols)
		for y := range b.height() {
			for x := range glyph.Columns {
				if c.Lit(y, x) {
					p.Lit[(y0+y)*p.W+x0+x] = true
				}
			}
		}
	}
	return p
}
