// Package meter draws values on the cells of a glass: bars and scales, large
// digits, signs that turn or fill. It gives patterns; which of them need a slot,
// picture.Share says.
//
// It stands above picture in the flow screen → cells → operations → wire traffic
// → rig → glass.
package meter

import (
	"fmt"
	"math"
	"slices"

	"slatebell/core/part/charrom"
	"slatebell/core/text/glyph"
	"slatebell/core/text/picture"
)

// Bar is a row (or a column) of cells on which values are shown by how many
// steps are lit. The zero value of a member is its usual one, but for Cells.
type Bar struct {
	Cells    int  // 1–40
	Vertical bool // it grows upwards, else to the right
	Dots     int  // that a step is long: 1–5, or 1–8 upwards; 0 means 1
	Gap      int  // dark dots after each step of a cell, 0–2
	Lanes    int  // bars side by side in each cell, 1–3; 0 means 1
	Peak     bool // a step of its own marks the highest value
	Centre   bool // it grows from the middle to both sides
	Frame    bool // a line runs round it; not upwards, and with one lane only
}

// MaxBar is how many cells a bar has at most.
const MaxBar = 40

// Check reports what of a bar cannot be.
func (b Bar) Check() error {
	long := b.long()
	switch {
	case b.Cells < 1 || b.Cells > MaxBar:
		return fmt.Errorf("%d cells; a bar has 1–%d", b.Cells, MaxBar)
	case b.Dots < 0 || b.Dots > long:
		return fmt.Errorf("%d dots a step; expected 1–%d", b.Dots, long)
	case b.Gap < 0 || b.Gap > 2:
		return fmt.Errorf("%d dark dots after a step; expected 0–2", b.Gap)
	case b.Lanes < 0 || b.Lanes > len(spans):
		return fmt.Errorf("%d bars a cell; expected 1–%d", b.Lanes, len(spans))
	case b.Frame && (b.Vertical || b.lanes() > 1):
		return fmt.Errorf("a frame runs round a bar that grows to the right and has its cells alone")
	}
	return nil
}

// long is how many dots of a cell lie in the bar's direction.
func (b Bar) long() int {
	if b.Vertical {
		return glyph.Rows
	}
	return glyph.Columns
}

func (b Bar) dots() int  { return max(b.Dots, 1) }
func (b Bar) lanes() int { return max(b.Lanes, 1) }

// perCell is how many steps a cell holds.
func (b Bar) perCell() int { return (b.long() + b.Gap) / (b.dots() + b.Gap) }

// Steps is how many steps the bar has in all.
func (b Bar) Steps() int { return b.Cells * b.perCell() }

// Range returns the lowest and the highest value in steps: 0 and Steps, or with
// Centre as much to either side.
func (b Bar) Range() (low, high int) {
	if b.Centre {
		return -(b.Steps() / 2), b.Steps() - b.Steps()/2
	}
	return 0, b.Steps()
}

// Step returns the step that comes nearest to a value on a scale from low to
// high, for a bar that shows low empty and high full; values beyond are shown as
// the ends. With Centre the middle of the scale is zero.
func (b Bar) Step(value, low, high float64) int {
	least, most := b.Range()
	if !(high > low) { // a scale without width, or not a number
		return least
	}
	share := (value - low) / (high - low)
	return min(max(least+int(math.Round(share*float64(b.Steps()))), least), most)
}

// Reading is what one lane shows, in steps.
type Reading struct {
	Value int
	Peak  int // the step that stays lit, counted as Value is; 0 for none
}

// spans lists the dots across the direction that each of one, two or three bars a
// cell takes, as masks: of rows from the top for bars to the right, of columns
// from the left for bars upwards.
var spans = [3]struct{ rows, cols [][2]int }{
	{[][2]int{{0, 8}}, [][2]int{{0, 5}}},
	{[][2]int{{0, 3}, {4, 7}}, [][2]int{{0, 2}, {3, 5}}},
	{[][2]int{{0, 2}, {3, 5}, {6, 8}}, [][2]int{{0, 1}, {2, 3}, {4, 5}}},
}

// frameRows are the rows that a bar takes inside its frame.
var frameRows = [2]int{2, 6}

// Draw returns the patterns of the bar's cells, left to right or bottom to top,
// for a reading a lane; a lane without one is dark.
func (b Bar) Draw(readings ...Reading) []glyph.Pattern {
	cells := make([]glyph.Pattern, b.Cells)
	for lane, r := range readings[:min(len(readings), b.lanes())] {
		for step := range b.Steps() {
			if b.lit(step, r) {
				b.light(cells, step, lane)
			}
		}
	}
	if b.Frame {
		for i := range cells {
			cells[i][0], cells[i][glyph.Rows-1] = 0x1F, 0x1F
		}
		for row := range glyph.Rows {
			cells[0][row] |= 0x10
			cells[b.Cells-1][row] |= 0x01
		}
	}
	return cells
}

// lit reports whether a step, counted from 0, is lit.
func (b Bar) lit(step int, r Reading) bool {
	at := func(v int) int { return v - 1 } // the step that a value ends with
	if b.Centre {
		middle := b.Steps() / 2
		at = func(v int) int {
			if v < 0 {
				return middle + v
			}
			return middle + v - 1
		}
		if b.Peak && r.Peak != 0 && step == at(r.Peak) {
			return true
		}
		return r.Value > 0 && step >= middle && step < middle+r.Value || r.Value < 0 && step < middle && step >= middle+r.Value
	}
	return step < r.Value || b.Peak && r.Peak > 0 && step == at(r.Peak)
}

// light lights a step of a lane.
func (b Bar) light(cells []glyph.Pattern, step, lane int) {
	cell, from := step/b.perCell(), step%b.perCell()*(b.dots()+b.Gap)
	taken := spans[b.lanes()-1]
	if b.Vertical {
		span := taken.cols[lane]
		for y := from; y < from+b.dots(); y++ {
			for x := span[0]; x < span[1]; x++ {
				cells[cell][glyph.Rows-1-y] |= 1 << (glyph.Columns - 1 - x)
			}
		}
		return
	}
	span := taken.rows[lane]
	if b.Frame {
		span = frameRows
	}
	for y := span[0]; y < span[1]; y++ {
		for x := from; x < from+b.dots(); x++ {
			cells[cell][y] |= 1 << (glyph.Columns - 1 - x)
		}
	}
}

// Patterns returns every pattern that a cell of the bar ever shows, each once,
// emptiest first.
func (b Bar) Patterns() []glyph.Pattern {
	// a long bar shows no other patterns than a short one with the same middle
	if b.Cells > 4 {
		b.Cells = 4 - b.Cells%2
	}
	// what one lane can show, by cell; lanes are then laid over each other
	var states [][]glyph.Pattern
	for lane := range b.lanes() {
		var of []glyph.Pattern
		for _, r := range b.readings() {
			all := make([]Reading, lane+1) // the lanes before it show nothing
			all[lane] = r
			for _, p := range b.Draw(all...) {
				if !slices.Contains(of, p) {
					of = append(of, p)
				}
			}
		}
		states = append(states, of)
	}
	out := []glyph.Pattern{{}}
	for _, of := range states {
		var next []glyph.Pattern
		for _, have := range out {
			for _, p := range of {
				q := have
				for row := range q {
					q[row] |= p[row]
				}
				if !slices.Contains(next, q) {
					next = append(next, q)
				}
			}
		}
		out = next
	}
	slices.SortStableFunc(out, func(a, c glyph.Pattern) int { return a.Count() - c.Count() })
	return out
}

// readings lists every reading of one lane.
func (b Bar) readings() (out []Reading) {
	low, high := b.Range()
	for v := low; v <= high; v++ {
		out = append(out, Reading{Value: v})
		if !b.Peak {
			continue
		}
		for p := low; p <= high; p++ {
			if beyond := p > 0 && p > v || p < 0 && p < v; beyond {
				out = append(out, Reading{v, p})
			}
		}
	}
	return out
}

// Set is what is shown by glyphs and characters of a ROM.
type Set struct {
	Glyphs []glyph.Pattern // that need a slot each
	Codes  map[glyph.Pattern]Code
}

// Code is what shows a pattern.
type Code struct {
	Glyph int  // index into the set's glyphs; -1 for a character of the ROM
	ROM   byte // its code
}

// TooMany says that patterns need more glyphs than there are slots.
type TooMany struct{ Needs, Holds int }

func (e *TooMany) Error() string {
	return fmt.Sprintf("it needs %d glyphs, and %d slots hold them", e.Needs, e.Holds)
}

// SetOf returns how patterns are shown on a ROM; its error is a *TooMany where
// there are not slots enough.
func SetOf(patterns []glyph.Pattern, rom *charrom.ROM, slots int) (Set, error) {
	shared := picture.Share(patterns, picture.Target{ROM: rom, Slots: len(patterns)})
	if n := len(shared.Glyphs); n > slots {
		return Set{}, &TooMany{n, slots}
	}
	set := Set{Glyphs: shared.Glyphs, Codes: map[glyph.Pattern]Code{}}
	for i, c := range shared.Cells {
		code := Code{Glyph: c.Glyph}
		if c.Glyph < 0 {
			code.ROM = c.Code
		}
		set.Codes[patterns[i]] = code
	}
	return set, nil
}
