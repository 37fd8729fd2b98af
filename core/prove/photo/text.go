package photo

import (
	"fmt"
	"strings"

	"slatebell/core/part/module"
)

// Unreadable and Block stand for cells that cannot be told, and for those all of whose dots are on.
const (
	Unreadable = '\uFFFD'
	Block      = '█'
)

// doubtful is how sure a cell must be to be told (ours).
const doubtful = 0.5

// Text is what the rows show, as it is typed where the glass is asked for: \xHH is a code without a character, \\ a backslash. Spaces at the
// end of a row are left out.
func (r *Reading) Text(m *module.Module) (rows []string) {
	cols := m.Geometry.Cols
	for at := 0; at < len(r.Cells); at += cols {
		var row strings.Builder
		for _, c := range r.Cells[at : at+cols] {
			ch, known := m.ROM.Rune(c.Code)
			switch {
			case !r.Blank && c.Sure < doubtful:
				row.WriteRune(Unreadable)
			case c.full(m):
				row.WriteRune(Block)
			case ch == '\\':
				row.WriteString(`\\`)
			case known && c.Code >= ' ':
				row.WriteRune(ch)
			default:
				fmt.Fprintf(&row, `\x%02X`, c.Code)
			}
		}
		rows = append(rows, strings.TrimRight(row.String(), " "))
	}
	return rows
}

// full reports whether all dots of what a cell was read as are on.
func (c *Cell) full(m *module.Module) bool {
	if c.Code != blockCode {
		return false
	}
	d, known := m.ROM.Rune(blockCode)
	return !known || d == Block
}
