package screen

import (
	"slices"
	"strings"

	"slatebell/core/finding"
	"slatebell/core/glyph"
	"slatebell/core/module"
	"slatebell/core/place"
	"slatebell/core/rig"
)

// Compare names the cells at which a glass shows another code than was
// composed, a finding for each row that differs.
func (l *Layout) Compare(g *rig.Glass) []finding.Finding {
	if !g.On {
		return []finding.Finding{{
			Code: "glass.off", Severity: finding.Error,
			What: "The simulated module shows no text: its display is off.",
			Why:  "No display-on instruction reached the controller.",
			Fix:  "Initialise the module before the text, at the address and link it really has, and keep its waits.",
		}}
	}
	var out []finding.Finding
	for r := range l.Rows {
		first, n := -1, 0
		for c := range l.Cols {
			if cell := g.Cells[r*l.Cols+c]; cell.Code != l.Cells[r*l.Cols+c].Code || !cell.Scanned {
				n++
				if first < 0 {
					first = c
				}
			}
		}
		if n == 0 {
			continue
		}
		i := r*l.Cols + first
		says := place.Sprintf("%P of the glass differs from the screen in %d %s, first in %P: 0x%02X is shown, 0x%02X was composed.",
			place.Row(r), n, plural(n, "cell"), place.Column(first), g.Cells[i].Code, l.Cells[i].Code)
		out = append(out, finding.Finding{
			Code: "glass.differs", Severity: finding.Error,
			What: says.S, Places: says.Places,
			Why:   "What the controller's memory holds is not what was composed.",
			Fix:   "Look at the findings about the wire, and step through the bytes to where it goes wrong.",
			Cells: &finding.Cells{Row: r, Col: first, Len: n},
		})
	}
	return out
}

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
