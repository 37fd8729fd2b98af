package card

import (
	"fmt"
	"regexp"
	"strings"
	"testing"

	"slatebell/core/bench"
	"slatebell/core/part/module"
	"slatebell/core/prove/run"
	"slatebell/core/prove/testbed"
	"slatebell/core/wire/link"
	"slatebell/core/wire/sequence"
)

// TestCard writes a card for every geometry over every link: each address of the memory
// stands there once a cell, and the initialisation's bytes are those of the program.
func TestCard(t *testing.T) {
	cell := regexp.MustCompile(`<li>([0-9A-F]{2})</li>`)
	for _, g := range module.Geometries {
		for _, kind := range link.Kinds {
			b := bench.New("cards")
			m := &b.Modules[0]
			m.Display.Geometry, m.Link.Kind = g.Name, string(kind)
			m.Name = `Gate <1> & "2"`
			m.Screens[0].Rows = []string{"Tide → 3 ￫"}
			var out strings.Builder
			if err := Write(&out, &b, 0); err != nil {
				t.Fatal(err)
			}
			page := out.String()
			var want []string
			for _, seg := range g.Segments {
				for i := range seg.Len {
					want = append(want, fmt.Sprintf("%02X", int(seg.Start)+i))
				}
			}
			var got []string
			for _, c := range cell.FindAllStringSubmatch(page, -1) {
				got = append(got, c[1])
			}
			if strings.Join(got, " ") != strings.Join(want, " ") {
				t.Errorf("%s, %s: memory %v, want %v", g.Name, kind, got, want)
			}
			setup, _ := testbed.Of(&b, testbed.At{})
			r, err := run.Do(&setup, run.Options{})
			if err != nil {
				t.Fatal(err)
			}
			for i := range r.Program.Steps {
				s := &r.Program.Steps[i]
				if s.Kind == sequence.Setting && !strings.Contains(page, fmt.Sprintf(`<td class="code">%02X</td>`, s.Op.Byte)) {
					t.Errorf("%s, %s: the byte %02X is not on the card", g.Name, kind, s.Op.Byte)
				}
				if s.Kind == sequence.Address || s.Kind == sequence.Text {
					break
				}
			}
			if strings.Contains(page, "<1>") || !strings.Contains(page, "Gate &lt;1&gt;") {
				t.Errorf("%s: a name is written as it is", g.Name)
			}
			if !strings.Contains(page, "0x7E = 126") {
				t.Errorf("%s: the arrow's code is not on the card", g.Name)
			}
		}
	}
}
