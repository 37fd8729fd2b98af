package codegen

import (
	"fmt"
	"strings"
	"testing"

	"slatebell/core/bench"
	"slatebell/core/ship/firmware"
	"slatebell/core/text/field"
)

// TestNotes says of each thing that a program does otherwise.
func TestNotes(t *testing.T) {
	b := bench.New("notes")
	m := &b.Modules[0]
	m.Screens[0].Rows = []string{"Wind    from"}
	m.Screens[0].Fields = []field.Field{
		{Name: "Wind", Col: 5, Width: 2, Kind: field.Number, Range: field.Range{Max: 120}, Look: field.Look{TooLong: "shift"}},
		{Name: "From", Col: 13, Width: 2, Kind: field.Choice, Values: []string{"N", "S"}},
	}
	for range 21 {
		m.Screens = append(m.Screens, bench.Screen{ID: fmt.Sprintf("s%d", len(m.Screens)), Rows: []string{}})
	}
	im, err := firmware.New(&b)
	if err != nil {
		t.Fatal(err)
	}
	var codes []string
	for _, f := range Notes(im, MicroPython) {
		codes = append(codes, f.Code)
	}
	if got := strings.Join(codes, " "); got != "code.no-micropython code.many-screens code.cut" {
		t.Errorf("notes %s", got)
	}
	m.Screens, m.Screens[0].Fields = m.Screens[:1], m.Screens[0].Fields[:1] // the last field of its row moves what follows
	if im, err = firmware.New(&b); err != nil || len(Notes(im, C)) > 0 {
		t.Errorf("%v, notes %+v", err, Notes(im, C))
	}
}
