package photo

import (
	"fmt"
	"strings"

	"slatebell/core/part/module"
	"slatebell/core/text/screen"
)

// Unreadable and Block stand for cells that cannot be told, and for those all of whose dots are on.
const (
	Unreadable = '\uFFFD'
	Block      = '█'
)

// doubtful is how sure a cell must be to be told (ours).
const doubtful = 0.5

// Typed is what a cell shows as it is typed into a screen's rows: a character, a block, U+FFFD where it cannot be told, or a code as
// screen.CodeBase has it.
func (r *Reading) Typed(m *module.Module, cell int) rune {
	c := &r.Cells[cell]
	switch {
	case !r.Blank && c.Sure < doubtful:
		return Unreadable
	case c.full(m):
		return Block
	}
	return screen.Typed(m.ROM, c.Code)
}

// Text is what the rows show, as it is typed where the glass is asked for: \xHH is a code without a character, \\ a backslash. Spaces at the
// end of a row are left out.
func (r *Reading) Text(m *module.Module) (rows []string) {
	cols := m.Geometry.Cols
	for at := 0; at < len(r.Cells); at += cols {
		var row strings.Builder
		for i := range cols {
			switch ch := r.Typed(m, at+i); {
			case ch == '\\':
				row.WriteString(`\\`)
			case ch >= screen.CodeBase && ch < screen.CodeBase+256:
				fmt.Fprintf(&row, `\x%02X`, ch-screen.CodeBase)
			default:
				row.WriteRune(ch)
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
