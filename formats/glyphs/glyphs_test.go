package glyphs

import (
	"bytes"
	"reflect"
	"strings"
	"testing"

	"slatebell/core/text/glyph"
)

// TestConverted writes glyphs of the library that ships in every form and reads
// each by its content: dots always come back, names where the form has them.
func TestConverted(t *testing.T) {
	list := glyph.Shipped()[:20]
	for _, kind := range Kinds {
		var b bytes.Buffer
		if err := Write(&b, kind, list); err != nil {
			t.Fatal(err)
		}
		got, err := Read(b.Bytes())
		if kind == "bits" || kind == "hex" { // many rows are so many glyphs
			err = nil
		}
		if err != nil || len(got.Glyphs) != len(list) || got.As == "" {
			t.Errorf("%s: %d glyphs of %d, as %q: %v", kind, len(got.Glyphs), len(list), got.As, err)
			continue
		}
		for i, d := range list {
			if !reflect.DeepEqual(got.Glyphs[i].Rows, d.Rows) {
				t.Errorf("%s: %s comes back as %v, want %v", kind, d.Name, got.Glyphs[i].Rows, d.Rows)
			}
			if named := kind == "json" || kind == "bdf" || kind == "c" || kind == "python"; named && got.Glyphs[i].Name != d.Name {
				t.Errorf("%s: %s comes back as %q", kind, d.Name, got.Glyphs[i].Name)
			}
		}
	}
	tall := []glyph.Drawing{{Name: "mast", Rows: []int{4, 4, 4, 4, 4, 4, 4, 4, 4, 14, 0}}}
	for _, kind := range Kinds {
		var b bytes.Buffer
		if err := Write(&b, kind, tall); err != nil {
			t.Fatal(err)
		}
		if got, err := Read(b.Bytes()); err != nil || len(got.Glyphs) != 1 || !reflect.DeepEqual(got.Glyphs[0].Rows, tall[0].Rows) {
			t.Errorf("%s of 5×10 dots: %v, %v", kind, got, err)
		}
	}
}

// TestRefused says what is wrong with a document, and where.
func TestRefused(t *testing.T) {
	for text, want := range map[string]string{
		`{"format":"x","version":1,"glyphs":[]}`:                `/format: "x"; expected "slatebell-glyphs"`,
		`{"format":"slatebell-glyphs","version":2,"glyphs":[]}`: "/version: 2; this program reads version 1",
		`{"glyphs":[]}`:                                                     "/glyphs: there are none",
		`{"glyphs":[{"name":"a","rows":[1,2]}]}`:                            "/glyphs/0/rows: 2 rows of dots; expected 8",
		`{"glyphs":[{"name":"a","rows":[1,2,3,4,5,6,7,64]}]}`:               "/glyphs/0/rows: row 8 is 64; expected 0–31",
		"{\"glyphs\":[\n {\"name\":\"a\",\"rows\":[1,2,3,4,5,6,7,\"8\"]}]}": "line 2, column",
		"{\"glyphs\":\n[}":                                                  "line 2, column 2: invalid character '}'",
		`[{"name":"a","row":[]}]`:                                           `unknown field "row"`,
		"P1\n6 8\n" + strings.Repeat("0", 48):                               "a picture of 6 × 8 dots; expected a whole number of cells",
		`{"glyphs":[{"name":"` + strings.Repeat("a", 41) + `","rows":[1,2,3,4,5,6,7,8]}]}`: "/glyphs/0/name: 41 characters",
		"STARTFONT 2.1\nENDFONT\n": "line 2: the font has no glyphs",
	} {
		if _, err := Read([]byte(text)); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%q: %v, want %q", text, err, want)
		}
	}
	if err := Write(&bytes.Buffer{}, "gif", nil); err == nil {
		t.Error("an unknown form is written")
	}
}

// FuzzRead reads glyphs of any form, and of none: what is read can be written and read again.
func FuzzRead(f *testing.F) {
	for _, kind := range Kinds {
		var b bytes.Buffer
		Write(&b, kind, glyph.Shipped()[:2])
		f.Add(b.Bytes())
	}
	f.Add([]byte(`[{"name":"a","rows":[1,2,3,4,5,6,7,8]}]`))
	f.Add([]byte("P1 10 8 " + strings.Repeat("0110111010", 8)))
	f.Fuzz(func(t *testing.T, data []byte) {
		got, err := Read(data)
		if err != nil || len(got.Glyphs) == 0 {
			return
		}
		var b bytes.Buffer
		if err := Write(&b, "json", got.Glyphs); err != nil {
			t.Fatal(err)
		}
		again, err := Read(b.Bytes())
		if err != nil || len(again.Glyphs) != len(got.Glyphs) {
			t.Fatalf("%d glyphs, written as %s: %d, %v", len(got.Glyphs), b.Bytes(), len(again.Glyphs), err)
		}
		for i := range again.Glyphs {
			if !reflect.DeepEqual(again.Glyphs[i].Rows, got.Glyphs[i].Rows) {
				t.Errorf("glyph %d: %v comes back as %v", i, got.Glyphs[i].Rows, again.Glyphs[i].Rows)
			}
		}
	})
}
