package screen

import (
	"slices"
	"strings"

	"slatebell/core/part/module"
	"slatebell/core/text/glyph"
)

// SlotsShown returns the slots of CGRAM that the cells show.
func (l *Layout) SlotsShown(m *module.Module) (shown [glyph.Slots]bool) {
	for _, c := range l.Cells {
		if slot, ok := m.Slot(c.Code); ok {
			shown[slot] = true
		}
	}
	return shown
}

// Leftovers returns the cells, row by row, that keep a character of an old screen
// where a new one is written over it row by row, each up to its last character,
// and nothing is cleared.
func Leftovers(g *module.Geometry, before, after []byte) (left []int) {
	for r := range g.Rows {
		row := after[r*g.Cols : (r+1)*g.Cols]
		for c := g.Cols - 1; c >= 0 && row[c] == ' '; c-- {
			if i := r*g.Cols + c; before[i] != ' ' {
				left = append(left, i)
			}
		}
	}
	slices.Sort(left)
	return left
}

// Text returns what a row shows from a column on, as people read it, without the
// spaces at its end.
func (l *Layout) Text(row, col int) string {
	text := ""
	for _, c := range l.Cells[row*l.Cols+col : (row+1)*l.Cols] {
		if c.Char == "" {
			c.Char = " "
		}
		text += c.Char
	}
	return display(strings.TrimRight(text, " "))
}
