package glass

import (
	"slatebell/core/finding"
	"slatebell/core/place"
	"slatebell/core/text/screen"
	"slatebell/core/wire/rig"
)

// Compare names the cells at which a glass shows another code than was
// composed, a finding for each row that differs.
func Compare(l *screen.Layout, g *rig.Glass) []finding.Finding {
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
		i, cells := r*l.Cols+first, "cells"
		if n == 1 {
			cells = "cell"
		}
		says := place.Sprintf("%P of the glass differs from the screen in %d %s, first in %P: 0x%02X is shown, 0x%02X was composed.",
			place.Row(r), n, cells, place.Column(first), g.Cells[i].Code, l.Cells[i].Code)
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
