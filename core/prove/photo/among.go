package photo

import "slatebell/core/text/glyph"

// Of glasses that a photograph may show (ours): how many dots of a cell may be otherwise for it to be that cell, and how many of the cells must be
// those of a glass.
const (
	dotsAside  = 3
	cellsThere = 0.9
)

// Among is which of some glasses a photograph shows, each the dots of its cells, row by row: that with the most cells as they are seen, the first
// of those that have as many. It is −1 where none is near.
func (r *Reading) Among(glasses [][]glyph.Pattern) int {
	is, best := -1, cellsThere*float64(len(r.Cells))
	seen := r.Drawn()
	for i, g := range glasses {
		if len(g) != len(seen) {
			continue
		}
		there := 0.0
		for k, p := range g {
			if seen[k].Distance(p) <= dotsAside {
				there++
			}
		}
		if there >= best && (is < 0 || there > best) {
			is, best = i, there
		}
	}
	return is
}
