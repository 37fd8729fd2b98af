package bdf

import (
	"bytes"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"reflect"
	"strings"
	"testing"

	"slatebell/core/text/glyph"
	"slatebell/core/text/picture"
	"slatebell/formats/pbm"
)

// letters draws a random glyph for each of A to Z.
func letters(rng *rand.Rand, rows int) (out []glyph.Drawing) {
	for ch := 'A'; ch <= 'Z'; ch++ {
		var p glyph.Pattern
		for i := range rows {
			p[i] = byte(rng.IntN(32))
		}
		p[rows-1] |= 1
		out = append(out, glyph.Drawing{Name: string(ch), Rows: p.Ints()})
	}
	return out
}

func written(t *testing.T, list []glyph.Drawing) []byte {
	t.Helper()
	var b bytes.Buffer
	if err := Write(&b, list); err != nil {
		t.Fatal(err)
	}
	return b.Bytes()
}

func rowsOf(list []glyph.Drawing) (out [][]int) {
	for _, d := range list {
		out = append(out, d.Rows)
	}
	return out
}

// TestGeneralReaders hands fonts of random glyphs to general-purpose readers from
// Debian's packages: pbmtext (netpbm) prints each glyph, which comes back dot by
// dot; bdftopcf compiles the font, and what pcf2bdf makes of that is read again.
func TestGeneralReaders(t *testing.T) {
	for _, name := range []string{"pbmtext", "bdftopcf", "pcf2bdf"} {
		if _, err := exec.LookPath(name); err != nil {
			t.Skip(name + " is not installed: run make test")
		}
	}
	run := func(name string, args ...string) []byte {
		t.Helper()
		c := exec.Command(name, args...)
		var errs bytes.Buffer
		c.Stderr = &errs
		out, err := c.Output()
		if err != nil {
			t.Fatalf("%s: %v, %s", name, err, errs.String())
		}
		return out
	}
	rng := rand.New(rand.NewPCG(9, 10))
	for _, rows := range []int{glyph.Rows, glyph.MaxRows} {
		list := letters(rng, rows)
		dir := t.TempDir()
		file := filepath.Join(dir, "font.bdf")
		if err := os.WriteFile(file, written(t, list), 0o644); err != nil {
			t.Fatal(err)
		}
		for i := range list {
			p, err := pbm.Read(run("pbmtext", "-font", file, "-nomargins", list[i].Name))
			if err != nil {
				t.Fatal(err)
			}
			// pbmtext leaves the room of a line around; the glyph stands somewhere in it
			if !holds(&p, list[i].Pattern(), rows) {
				t.Fatalf("pbmtext prints %s otherwise: %+v, want %v", list[i].Name, p, list[i].Rows)
			}
		}
		pcf := filepath.Join(dir, "font.pcf")
		run("bdftopcf", "-o", pcf, file)
		got, err := Read(run("pcf2bdf", pcf))
		if err != nil || !reflect.DeepEqual(rowsOf(got), rowsOf(list)) {
			t.Fatalf("through PCF: %v, %v, want %v", got, err, list)
		}
	}
}

// holds reports whether a plane is a glyph's dots with dark margins.
func holds(p *picture.Plane, g glyph.Pattern, rows int) bool {
	lit := 0
	for _, l := range p.Lit {
		if l {
			lit++
		}
	}
	for y0 := -rows; y0 <= p.H; y0++ {
		for x0 := -glyph.Columns; x0 <= p.W; x0++ {
			same := lit == g.Count()
			for y := range rows {
				for x := range glyph.Columns {
					same = same && p.At(x0+x, y0+y) == g.Lit(y, x)
				}
			}
			if same {
				return true
			}
		}
	}
	return false
}

// TestRead reads fonts as others write them, after the examples of "Glyph Bitmap
// Distribution Format (BDF) Specification", version 2.1 (written from memory), and
// says where one cannot be read.
func TestRead(t *testing.T) {
	head := "STARTFONT 2.1\nCOMMENT tides\nFONT x\nSIZE 8 75 75\nFONTBOUNDINGBOX 5 8 0 -1\nCHARS 1\n"
	char := "STARTCHAR high_tide\nENCODING 9650\nSWIDTH 1 0\nDWIDTH 6 0\n"
	font := head + char + "BBX 3 2 1 2\nBITMAP\n40\nE0\nENDCHAR\nENDFONT\n"
	got, err := Read([]byte(strings.ReplaceAll(font, "\n", "\r\n")))
	want := []glyph.Drawing{{Name: "high tide", Rows: []int{0, 0, 0, 0b00100, 0b01110, 0, 0, 0}, Tags: []string{"▲"}}}
	if err != nil || !reflect.DeepEqual(got, want) {
		t.Errorf("%v, %v, want %v", got, err, want)
	}
	for text, what := range map[string]string{
		"FONT x": "line 1: \"FONT\"; expected STARTFONT",
		head + char + "BBX 9 2 0 0\nBITMAP\n0080\nFF80\nENDCHAR\nENDFONT": `glyph "high tide" has a dot in row 6, column 9; a cell has 5 × 8`,
		head + char + "BBX 3 2 1 2\nBITMAP\n40\nENDCHAR\nENDFONT":         "has 1 rows; its BBX says 2",
		head + char + "BBX 3 2 1 2\nBITMAP\n4x\nE0\nENDCHAR\nENDFONT":     `line 13: "4x" is no row of 3 dots`,
		head + char + "BBX 3 2\nBITMAP\n40\nE0\nENDCHAR\nENDFONT":         "line 11: BBX has 2 numbers; expected 4",
		head + char + "BBX 3 two 1 2\nBITMAP\n40\nE0\nENDCHAR\nENDFONT":   `BBX: "two" is no number`,
		head + char + "BBX 3 2 1 2\nBITMAP\n40\nE0\n":                     "the font ends within glyph",
		head + "ENDFONT":                      "the font has no glyphs",
		head + "BITMAP\n":                     "BITMAP without STARTCHAR",
		head + char + char:                    "a glyph begins within glyph",
		head + char + "ENDCHAR\n":             "ENDCHAR without a BITMAP",
		strings.TrimSuffix(font, "ENDFONT\n"): "without ENDFONT",
	} {
		if _, err := Read([]byte(text)); err == nil || !strings.Contains(err.Error(), what) {
			t.Errorf("%q: %v, want %q", text, err, what)
		}
	}
}

// TestWritten writes the library that ships and reads it again: dots, names and
// the letters' own characters.
func TestWritten(t *testing.T) {
	list := glyph.Shipped()
	got, err := Read(written(t, list))
	if err != nil || !reflect.DeepEqual(rowsOf(got), rowsOf(list)) {
		t.Fatalf("%d glyphs of %d come back: %v", len(got), len(list), err)
	}
	unnamed := written(t, []glyph.Drawing{{Rows: make([]int, 8)}, {Name: "a b", Rows: make([]int, 8)}})
	for _, line := range []string{"STARTCHAR unnamed\nENCODING 57344\n", "STARTCHAR a_b\nENCODING 57345\n"} {
		if !strings.Contains(string(unnamed), line) {
			t.Errorf("without %q: %s", line, unnamed)
		}
	}
	for i, d := range list {
		if got[i].Name != d.Name || len(d.Tags) > 1 && !reflect.DeepEqual(got[i].Tags, d.Tags[:1]) {
			t.Errorf("%s %v comes back as %s %v", d.Name, d.Tags, got[i].Name, got[i].Tags)
		}
	}
}

// FuzzRead reads anything without falling over; what it reads can be written and
// read again.
func FuzzRead(f *testing.F) {
	f.Add([]byte("STARTFONT 2.1\nFONTBOUNDINGBOX 5 8 0 -1\nSTARTCHAR a\nENCODING 65\nBBX 3 2 1 2\nBITMAP\n40\nE0\nENDCHAR\nENDFONT\n"))
	f.Fuzz(func(t *testing.T, data []byte) {
		got, err := Read(data)
		if err != nil {
			return
		}
		again, err := Read(written(t, got))
		if err != nil || len(again) != len(got) {
			t.Fatalf("%q: %v comes back as %v, %v", data, got, again, err)
		}
		for i := range got {
			if again[i].Rows[0] != got[i].Rows[0] {
				t.Fatalf("%v comes back as %v", got[i], again[i])
			}
		}
	})
}
