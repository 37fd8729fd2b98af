// Package glass is what a person sees of a glass: which dots stand out from their
// cell, how dark the cells are, and what one would call the whole. Two glasses that
// nobody can tell apart are the same here. It holds a glass against the screen that was composed.
//
// It stands above rig, which draws the glass, and screen, which says what it is to show, and below
// fault, which compares what is seen with what faults would show.
package glass

import (
	"slatebell/core/part/charrom"
	"slatebell/core/part/module"
	"slatebell/core/wire/rig"
)

// What can be told apart on the glass (ours): dots weaker than Faintest are not
// seen; cells whose dark dots are stronger than Darkest are blocks.
const Faintest, Darkest = 0.3, 0.6

// plain is the strength from which dots are no longer called faint.
const plain = 0.7

// Class is what one would call a glass at a look.
type Class string

// The classes.
const (
	Blank      Class = "blank"         // nothing can be seen
	BlockRow   Class = "row-of-blocks" // some rows of solid blocks, the others empty
	AllBlocks  Class = "all-blocks"    // every cell is a block
	Shaded     Class = "shaded"        // characters that can be read, on cells that are faintly shaded
	Faint      Class = "faint"         // characters, hardly to be seen
	Characters Class = "signs"         // characters that can be read
)

// Readable reports whether characters can be told on such a glass, however hardly.
func (c Class) Readable() bool { return c == Characters || c == Faint || c == Shaded }

// Classes lists the classes.
var Classes = []Class{Blank, BlockRow, AllBlocks, Shaded, Faint, Characters}

// Cell is what one cell looks like: its dots in the low 55 bits, eight rows of
// five and three more of a tall cell, bit 4 of each leftmost; above them how dark
// it is where no dot is. A cell whose dots do not stand out has none.
type Cell uint64

// Shades of a cell.
const (
	faintDots Cell = 1 << 60
	Grey      Cell = 1 << 61
	Dark      Cell = 1 << 62
	shades         = Grey | Dark
	dotsOf    Cell = 1<<55 - 1
)

// Of packs dots that stand out clearly on an empty cell.
func Of(d charrom.Dots, below [3]byte) (c Cell) {
	for i, row := range d {
		c |= Cell(row&0x1F) << (5 * i)
	}
	for i, row := range below {
		c |= Cell(row&0x1F) << (40 + 5*i)
	}
	return c
}

// Unpack is the inverse of Of, for the dots alone.
func (c Cell) Unpack() (d charrom.Dots, below [3]byte) {
	for i := range d {
		d[i] = byte(c>>(5*i)) & 0x1F
	}
	for i := range below {
		below[i] = byte(c>>(40+5*i)) & 0x1F
	}
	return d, below
}

// Faint reports whether the cell's dots are hardly to be seen.
func (c Cell) Faint() bool { return c&faintDots != 0 }

// CursorLine is the eighth row of a cell, all of it: the underline cursor.
const CursorLine Cell = 0x1F << 35

// Bare is the cell's dots without a cursor that stands under them.
func (c Cell) Bare() Cell {
	if d := c.Dots(); d&CursorLine == CursorLine {
		return d &^ CursorLine
	}
	return c.Dots()
}

// Dots is the cell's dots alone, as Of packs them.
func (c Cell) Dots() Cell { return c & dotsOf }

// Shade is how dark the cell is where no dot is: 0, Grey or Dark.
func (c Cell) Shade() Cell { return c & shades }

// View is what is seen of a glass, row by row.
type View struct {
	Cols, Rows int
	Cells      []Cell
	Light      bool // from behind
	Shaded     bool // all cells are, faintly, behind what they show
}

// See looks at a glass. What is appended to cells, which may be nil, holds the
// view's cells.
func See(g *rig.Glass, tech module.Technology, cells []Cell) View {
	v := View{Cols: g.Cols, Rows: g.Rows, Light: g.Light}
	lit, dark, unused := shade(g.Look.Lit), shade(g.Look.Dark), shade(g.Look.Unused)
	faint := g.Look.Lit < plain
	if tech == module.VFD { // it shines: weaker is not fainter
		lit, dark, unused, faint = Dark, 0, 0, false
	}
	if g.On && dark == Grey && lit == Dark {
		v.Shaded, dark = true, 0
	}
	for i := range g.Cells {
		c := &g.Cells[i]
		switch {
		case !c.Scanned:
			cells = append(cells, unused)
			continue
		case !g.On || lit == dark:
			cells = append(cells, dark)
			continue
		}
		cell := Of(c.Dots, c.Below)
		if cell != 0 && faint {
			cell |= faintDots
		}
		cells = append(cells, cell|dark)
	}
	v.Cells = cells
	return v
}

// shade is how dark a dot of some strength makes a cell.
func shade(strength float64) Cell {
	switch {
	case strength < Faintest:
		return 0
	case strength < Darkest:
		return Grey
	}
	return Dark
}

// Class is what one would call the glass.
func (v *View) Class() Class {
	clear, characters, faint := 0, false, false
	for _, c := range v.Cells {
		if c.Shade() == 0 {
			clear++
		}
		if c.Dots() != 0 {
			characters = true
			faint = faint || c&faintDots != 0
		}
	}
	switch {
	case clear == 0, v.Shaded && !characters:
		return AllBlocks
	case v.Shaded:
		return Shaded
	case faint:
		return Faint
	case characters:
		return Characters
	case clear == len(v.Cells):
		return Blank
	}
	return BlockRow
}

// Key tells views apart: equal for equal ones, and hardly ever for others
// (a hash of 64 bits).
func (v *View) Key() uint64 {
	const prime = 0x9E3779B97F4A7C15
	h := uint64(len(v.Cells))
	if v.Light {
		h |= 1 << 32
	}
	if v.Shaded {
		h |= 1 << 33
	}
	for _, c := range v.Cells {
		h = (h ^ uint64(c)) * prime
		h ^= h >> 29
	}
	return h
}
