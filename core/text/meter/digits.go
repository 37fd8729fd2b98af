package meter

import (
	"fmt"
	"slices"

	"slatebell/core/part/charrom"
	"slatebell/core/text/glyph"
	"slatebell/core/text/picture"
)

// Style is how large digits look.
type Style string

// The styles.
const (
	Slab  Style = "slab"  // broad strokes, square
	Round Style = "round" // broad strokes, their outer corners taken off
	Fine  Style = "fine"  // strokes a dot or two wide
)

// Styles lists the styles.
func Styles() []Style { return []Style{Slab, Round, Fine} }

// Sizes lists the sizes of large digits, in cells.
func Sizes() []picture.Block {
	return []picture.Block{{Cols: 2, Rows: 2}, {Cols: 2, Rows: 3}, {Cols: 3, Rows: 4}}
}

// Digits is the ten digits drawn over a block of cells each.
type Digits struct {
	Size    picture.Block
	Glyphs  []glyph.Pattern     // at most as many as there are slots
	Cells   [10][]picture.Tile  // how each digit is shown, row by row
	Wanted  [10][]glyph.Pattern // as they were drawn, before cells were merged
	Changed int                 // dots that differ from that in all digits
	Apart   int                 // every digit is nearer to its own drawing than to any other, by so many dots at least
}

// strokes lists the seven strokes of each digit: a top, b and c right, d bottom,
// e and f left, g middle.
var strokes = [10]string{"abcdef", "bc", "abdeg", "abcdg", "bcfg", "acdfg", "acdefg", "abc", "abcdefg", "abcdfg"}

// NewDigits draws the digits over blocks of 2 × 2, 2 × 3 or 3 × 4 cells. Where
// they need more glyphs than there are slots, cells show the nearest of those
// chosen: that choice is taken for which the digits are told apart best, and of
// equal ones that which changes fewest dots.
func NewDigits(size picture.Block, style Style, rom *charrom.ROM, slots int) (Digits, error) {
	if !slices.Contains(Sizes(), size) {
		return Digits{}, fmt.Errorf("digits of %d × %d cells; expected 2 × 2, 2 × 3 or 3 × 4", size.Cols, size.Rows)
	}
	if !slices.Contains(Styles(), style) {
		return Digits{}, fmt.Errorf("style %q; expected slab, round or fine", style)
	}
	d := Digits{Size: size}
	for n := range 10 {
		plane := drawDigit(n, size, style)
		cells, err := size.Cut(&plane)
		if err != nil {
			return Digits{}, err
		}
		d.Wanted[n] = cells
	}
	d.choose(rom, slots)
	return d, nil
}

// pen is how a style draws on a block: how thick strokes are, and where.
type pen struct {
	across, down int // thickness of upright and of level strokes, in dots
	round        bool
}

var pens = map[Style]map[int]pen{ // by rows of cells
	Slab:  {2: {3, 2, false}, 3: {3, 3, false}, 4: {5, 4, false}},
	Round: {2: {3, 2, true}, 3: {3, 3, true}, 4: {5, 4, true}},
	Fine:  {2: {1, 1, false}, 3: {1, 1, false}, 4: {2, 2, false}},
}

// drawDigit draws a digit by its strokes.
func drawDigit(n int, size picture.Block, style Style) picture.Plane {
	w, h := size.Size()
	p := picture.NewPlane(w, h)
	k := pens[style][size.Rows]
	right := w // strokes end before the dots that part a digit from the next
	if size.Cols == 2 {
		right--
	}
	// the middle stroke lies at the foot of a cell, so that few cells differ
	middle := size.Rows/2*glyph.Rows - k.down
	fill := func(x0, y0, x1, y1 int) {
		for y := max(y0, 0); y < min(y1, h); y++ {
			for x := max(x0, 0); x < min(x1, right); x++ {
				p.Lit[y*w+x] = true
			}
		}
	}
	half := middle + k.down
	for _, stroke := range strokes[n] {
		switch stroke {
		case 'a':
			fill(0, 0, right, k.down)
		case 'b':
			fill(right-k.across, 0, right, half)
		case 'c':
			fill(right-k.across, middle, right, h)
		case 'd':
			fill(0, h-k.down, right, h)
		case 'e':
			fill(0, middle, k.across, h)
		case 'f':
			fill(0, 0, k.across, half)
		case 'g':
			fill(0, middle, right, half)
		}
	}
	if k.round {
		for _, x := range []int{0, right - 1} {
			for _, y := range []int{0, h - 1} {
				p.Lit[y*w+x] = false
			}
		}
	}
	return p
}
