// Package bedtest has test beds and drawings for the tests of what stands above testbed.
package bedtest

import (
	"fmt"

	"slatebell/core/bench"
	"slatebell/core/prove/testbed"
	"slatebell/core/text/glyph"
	"slatebell/core/text/screen"
)

// Slice returns a module on a link with a screen.
func Slice(kind string, rows ...string) testbed.Setup {
	m := bench.NewModule("gate", "Gate")
	m.Link.Kind = kind
	return testbed.Setup{Display: m.Display, Link: m.Link, Rows: append([]string{}, rows...)}
}

// Key returns the character that names a drawing of the library in a row.
func Key(k int) string { return string(rune(screen.KeyBase + k)) }

// Marks is a library of four drawings, with the keys 1 to 4.
func Marks() (l glyph.Library) {
	for k := range 4 {
		l = append(l, glyph.Drawing{Key: k + 1, Name: fmt.Sprintf("mark %d", k), Rows: []int{k + 1, 31, 0, k, 31, 0, k, 31}})
	}
	return l
}
