// Package formats_test holds what the formats print against what was printed
// before.
package formats_test

import (
	"bytes"
	"io"
	"path/filepath"
	"testing"

	"slatebell/core/bench"
	"slatebell/core/part/hd44780"
	"slatebell/core/prove/run"
	"slatebell/core/prove/testbed"
	"slatebell/core/text/glyph"
	"slatebell/core/wire/link"
	"slatebell/core/wire/sequence"
	"slatebell/formats/program"
	"slatebell/formats/stepcsv"
	"slatebell/formats/vcd"
	"slatebell/formats/wirehex"
	"slatebell/internal/golden"
)

// TestPrinted prints one program over each link, with a glyph, reads of the busy
// flag where the link has them, and an operation by hand, in every format: not a
// byte differs from testdata, which was looked through when it was written. It
// keeps times, marks and levels that no other test has a reason to state.
func TestPrinted(t *testing.T) {
	for _, kind := range link.Kinds {
		m := bench.NewModule("gate", "Gate")
		m.Link.Kind, m.Link.ReadWrite = string(kind), kind == link.Parallel8
		m.Display.Geometry = "8x2"
		live := []sequence.Aimed{{Op: hd44780.Command(0x18)}}
		if kind == link.Parallel8 {
			m.Link.Waits = "poll"
		}
		if kind == link.Backpack {
			m.Link.Outputs.Transactions = "operation"
			live = append(live, sequence.Aimed{Op: hd44780.Operation{RW: true}}) // a read
		}
		setup := testbed.Setup{Display: m.Display, Link: m.Link, Rows: []string{"\uE002b", "→"}, Glyphs: glyph.Bank{glyph.New(2, "oar", glyph.Pattern{1, 2, 4, 8, 16, 8, 4, 31})}}
		r, err := run.Do(&setup, run.Options{Live: live})
		if err != nil {
			t.Fatal(err)
		}
		for ending, write := range map[string]func(io.Writer, *sequence.Program) error{"json": program.Write, "csv": stepcsv.Write, "hex": wirehex.Write, "vcd": vcd.Write} {
			var got bytes.Buffer
			if err := write(&got, r.Program); err != nil {
				t.Fatal(err)
			}
			golden.Check(t, filepath.Join("testdata", string(kind)+"."+ending), got.Bytes())
		}
	}
}
