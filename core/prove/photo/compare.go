package photo

import (
	"cmp"
	"fmt"
	"slices"

	"slatebell/core/finding"
	"slatebell/core/part/module"
	"slatebell/core/place"
	"slatebell/core/text/glyph"
)

// blocksAside is of how many cells one may be no block in a row of them (ours).
const blocksAside = 16

// How a contrast is judged (ours): that below which a glass is hard to read, of dots that are on, as a part of their ground's grey; from how much
// of the contrast on dots that are off are too dark; and how much stronger one side may be than another.
const (
	faintContrast = 0.15
	shadedFrom    = 0.4
	unevenFrom    = 2.2
)

// Findings says what a reading shows of the module itself: nothing on it, blocks, faintness, a dark half, and lines of dots that are missing
// in all cells.
func (r *Reading) Findings(m *module.Module) (out []finding.Finding) {
	if r.Blank {
		return []finding.Finding{{
			Code: "photo.blank", Severity: finding.Warning, What: "The photograph shows a glass without a dot.",
			Why: "It is not supplied, its display is off, its contrast is at the end of its range, or all cells are spaces.",
			Fix: "Turn the contrast from end to end, and photograph it again; with no change, go through first light.",
		}}
	}
	full := func(c *Cell) bool { return c.full(m) && c.Sure >= doubtful }
	var blocks []int // rows
	for row := range m.Geometry.Rows {
		n := 0
		for i := range m.Geometry.Cols {
			if full(&r.Cells[row*m.Geometry.Cols+i]) {
				n++
			}
		}
		if n >= m.Geometry.Cols-max(1, m.Geometry.Cols/blocksAside) { // the field may lie a cell aside
			blocks = append(blocks, row)
		}
	}
	if len(blocks) > 0 {
		says := "All rows are solid blocks."
		if len(blocks) < m.Geometry.Rows {
			says = fmt.Sprintf("%d of %d rows are solid blocks, and the others are not.", len(blocks), m.Geometry.Rows)
		}
		out = append(out, finding.Finding{
			Code: "photo.blocks", Severity: finding.Warning, What: says,
			Why:   "A controller that was switched on and never initialised shows one line so; blocks everywhere are a contrast that is too strong.",
			Fix:   "See whether the program's instructions reach the module; turn the contrast down where all rows are dark.",
			Cells: &finding.Cells{Row: blocks[0], Len: m.Geometry.Cols},
		})
	}
	if r.Contrast < faintContrast {
		out = append(out, finding.Finding{
			Code: "photo.faint", Severity: finding.Warning, What: fmt.Sprintf("Dots differ from their ground by %.0f %% of its brightness: the text is faint.", 100*r.Contrast),
			Why: "The voltage between VDD and VO is too small, or the glass is seen from the wrong side.", Fix: "Turn the contrast until the text is strong and the cells round it are not yet grey.",
		})
	}
	if r.Shade > shadedFrom {
		out = append(out, finding.Finding{
			Code: "photo.shaded", Severity: finding.Warning, What: fmt.Sprintf("Dots that are off are %.0f %% as strong as those that are on: the contrast is too strong.", 100*r.Shade),
			Why: "The voltage between VDD and VO is too large: VO is too near to ground.", Fix: "Turn the contrast back until the cells round the text are just not grey.",
		})
	}
	if r.Uneven > unevenFrom {
		out = append(out, finding.Finding{
			Code: "photo.uneven", Severity: finding.Note, What: fmt.Sprintf("The text is %.1f times as strong on one side of the glass as on another.", r.Uneven),
			Why: "The glass is seen from the side, light falls on a part of it, or its frame presses unevenly.", Fix: "Photograph it from straight ahead, without a lamp in it; with the same picture, look at the frame's tabs.",
		})
	}
	own := make([]uint64, len(r.Cells))
	for i := range r.Cells {
		own[i] = r.Cells[i].bits
	}
	halved := r.halved(m)
	if out = append(out, halved...); len(halved) == 0 {
		out = append(out, r.missing(m, own)...)
	}
	if len(blocks) > 0 {
		return out
	}
	return append(out, r.dark(m)...)
}

// halvedLeast is of how many cells no more than one half shows where these halves are dead (ours).
const halvedLeast = 3

// halved finds one half of all cells of the glass without a dot.
func (r *Reading) halved(m *module.Module) []finding.Finding {
	var shown [3]int
	for i := range r.Cells {
		if c := &r.Cells[i]; c.Code != ' ' {
			shown[c.Half]++
		}
	}
	for _, h := range []struct {
		of           Half
		shown, other string
	}{{Upper, "upper", "lower"}, {Lower, "lower", "upper"}} {
		if n := shown[h.of]; n >= halvedLeast && n >= shown[Whole] {
			return []finding.Finding{{
				Code: "photo.half-cells", Severity: finding.Error, What: fmt.Sprintf("Of %d cells no more than the %s half shows.", n, h.shown),
				Why: fmt.Sprintf("The common lines of the %s half are dead: contacts between board and glass, or a driver.", h.other),
				Fix: "Press on the frame at its left and right end: where the dots come back, seat the rubber strip anew, by the module's own instructions; else it is the module.",
			}}
		}
	}
	return nil
}

// Of a line of dots that is missing, so much is off that should be on, at least; and so many should be on.
const (
	missingShare = 0.85
	missingDots  = 5
)

// missing finds rows and columns of dots that are off wherever cells should have them on, along whole rows or columns of cells: a contact
// between board and glass that is broken. Where no cell of them has anything on, nothing is said.
func (r *Reading) missing(m *module.Module, want []uint64) (out []finding.Finding) {
	cols, height := m.Geometry.Cols, m.CellRows()
	check := func(of []int, is func(dot int) bool) bool { // among cells, at some dots of each
		should, off, others, othersOff := 0, 0, 0, 0
		for _, i := range of {
			for dot, v := range r.Cells[i].Dots {
				switch {
				case want[i]>>dot&1 == 0:
				case is(dot):
					if should++; v < 0.35 {
						off++
					}
				default:
					if others++; v < 0.35 {
						othersOff++
					}
				}
			}
		}
		return should >= missingDots && float64(off) >= missingShare*float64(should) && othersOff*5 < others
	}
	for col := range cols {
		var of []int
		for row := range m.Geometry.Rows {
			of = append(of, row*cols+col)
		}
		for x := range width {
			if check(of, func(dot int) bool { return dot%width == x }) {
				says := place.Sprintf("In %P the %s column of dots is missing in all cells.", place.Column(col), ordinal(x))
				out = append(out, finding.Finding{
					Code: "photo.missing-column", Severity: finding.Error, What: says.S, Places: says.Places,
					Why: "A segment line between board and glass has no contact: one of the rubber strip or of the flat cable.",
					Fix: "Press on the frame above and below that column: where the dots come back, seat the strip anew or press the cable on with a warm iron, by the module's own instructions; else it is the module.",
				})
			}
		}
	}
	for row := range m.Geometry.Rows {
		var of []int
		for col := range cols {
			of = append(of, row*cols+col)
		}
		for y := range height {
			if check(of, func(dot int) bool { return dot/width == y }) {
				says := place.Sprintf("In %P the %s line of dots is missing in all cells.", place.Row(row), ordinal(y))
				out = append(out, finding.Finding{
					Code: "photo.missing-row", Severity: finding.Error, What: says.S, Places: says.Places,
					Why: "A common line between board and glass has no contact: one of the rubber strip or of the flat cable.",
					Fix: "Press on the frame at the left and right end of that line: where the dots come back, seat the strip anew or press the cable on with a warm iron, by the module's own instructions; else it is the module.",
				})
			}
		}
	}
	return out
}

func ordinal(i int) string {
	names := []string{"first", "second", "third", "fourth", "fifth", "sixth", "seventh", "eighth", "ninth", "tenth", "eleventh"}
	return names[min(i, len(names)-1)]
}

// dark finds a half of the glass without a dot, beside one with text: that of another controller or driver.
func (r *Reading) dark(m *module.Module) []finding.Finding {
	cols, rows := m.Geometry.Cols, m.Geometry.Rows
	written := func(rowFrom, rowTo, colFrom, colTo int) (n int) {
		for row := rowFrom; row < rowTo; row++ {
			for col := colFrom; col < colTo; col++ {
				if c := &r.Cells[row*cols+col]; c.Code != ' ' && c.Sure >= doubtful {
					n++
				}
			}
		}
		return n
	}
	const enough = 6 // characters on the other half, for its emptiness to say anything
	type half struct {
		name         string
		empty, other int
	}
	left, right := written(0, rows, 0, cols/2), written(0, rows, cols/2, cols)
	upper, lower := written(0, rows/2, 0, cols), written(rows/2, rows, 0, cols)
	halves := []half{{"left", left, right}, {"right", right, left}}
	if rows > 1 {
		halves = append(halves, half{"upper", upper, lower}, half{"lower", lower, upper})
	}
	halves = slices.DeleteFunc(halves, func(h half) bool { return h.empty > 0 || h.other < enough })
	if len(halves) == 0 {
		return nil
	}
	h := slices.MaxFunc(halves, func(a, b half) int { return cmp.Compare(a.other, b.other) })
	return []finding.Finding{{
		Code: "photo.half", Severity: finding.Note, What: fmt.Sprintf("The %s half of the glass is without a dot.", h.name),
		Why: "It may be composed so; else a second controller, a second driver or the line E2 of that half does nothing.",
		Fix: "Where text belongs there: look at the wires of E and E2, and at a module of one line that is made of two halves.",
	}}
}

// Differs says of each cell whether it shows something else than a screen of codes. Cells that show alike are alike, and doubtful ones differ in
// nothing; glyphs are what the slots hold while the screen is shown.
func (r *Reading) Differs(m *module.Module, glyphs glyph.Bank, screen []byte) []bool {
	out := make([]bool, len(r.Cells))
	for i, want := range wanted(m, glyphs, screen) {
		out[i] = r.Cells[i].bits != want && r.Cells[i].Sure >= doubtful
	}
	return out
}

// wanted are the dots that the cells of a screen of codes ought to have on.
func wanted(m *module.Module, glyphs glyph.Bank, screen []byte) (out []uint64) {
	for _, code := range screen {
		out = append(out, bitsOf(patternOf(m, glyphs, code), m.CellRows()))
	}
	return out
}

// Differences says where the glass shows something else than a screen of codes, as Differs has it: a finding for each row, and one for each line
// of dots that is missing.
func (r *Reading) Differences(m *module.Module, glyphs glyph.Bank, screen []byte) (out []finding.Finding) {
	cols, differs := m.Geometry.Cols, r.Differs(m, glyphs, screen)
	for row := range m.Geometry.Rows {
		first, n := -1, 0
		for col := range cols {
			if !differs[row*cols+col] {
				continue
			}
			if n++; first < 0 {
				first = col
			}
		}
		if n == 0 {
			continue
		}
		c, cells := &r.Cells[row*cols+first], "cells"
		if n == 1 {
			cells = "cell"
		}
		says := place.Sprintf("%P of the photographed glass differs from the screen in %d %s, first in %P: 0x%02X is seen (%s sure), 0x%02X was composed.",
			place.Row(row), n, cells, place.Column(first), c.Code, fmt.Sprintf("%.0f %%", 100*c.Sure), screen[row*cols+first])
		out = append(out, finding.Finding{
			Code: "photo.differs", Severity: finding.Error, What: says.S, Places: says.Places,
			Why: "The module shows something else than was composed.", Fix: "Give what is seen to the fault finder; with another text on the glass, choose the screen that is on it.",
			Cells: &finding.Cells{Row: row, Col: first, Len: n},
		})
	}
	if r.Blank {
		return out
	}
	return append(out, r.missing(m, wanted(m, glyphs, screen))...)
}
