package dottext

import (
	"errors"
	"fmt"
	"math/rand/v2"
	"reflect"
	"strings"
	"testing"

	"slatebell/core/text/glyph"
)

// bell is what the table's texts show.
var bell = []int{0x04, 0x0E, 0x0E, 0x0E, 0x1F, 0x00, 0x04, 0x00}

// TestRead reads a glyph in the forms in which people paste it; the forms of
// numbers are those of C (ISO/IEC 9899, 6.4.4.1, and C23's 0b), of Python (The
// Python Language Reference, 2.4.5), of assemblers (common practice: 0Eh, $0E,
// %01110) and of sketches for boards with an ATmega328P (common practice: B01110).
func TestRead(t *testing.T) {
	for name, text := range map[string]string{
		"binary":                "0b00100, 0b01110, 0b01110, 0b01110, 0b11111, 0b00000, 0b00100, 0b00000",
		"binary with capital B": "B00100\nB01110\nB01110\nB01110\nB11111\nB00000\nB00100\nB00000\n",
		"bare binary":           "00100 01110 01110 01110 11111 00000 00100 00000",
		"eight bits":            "00000100\n00001110\n00001110\n00001110\n00011111\n00000000\n00000100\n00000000",
		"assembler's binary":    "%00100 %01110 %01110 01110b %11111 %00000 %00100 %00000",
		"hexadecimal":           "0x04 0x0E 0xE 0x0e 0X1F 0x0 0x04 0x00",
		"hexadecimal with h":    "04h, 0Eh, 0Eh, 0Eh, 1Fh, 0h, 04H, 00h",
		"hexadecimal with $":    "$04 $0E $0E $0E $1F $00 $04 $00",
		"decimal":               "4, 14, 14, 14, 31, 0, 4, 0",
		"decimal, aligned":      "4 14 14 14 31 0 4 0",
		"mixed":                 "4; 0x0E; B01110; 0Eh; 0b11111; 0; 0x4; 0",
		"a line of hexadecimal": "04 0E 0E 0E 1F 00 04 00",
		"without spaces":        "040E0E0E1F000400",
		"with commas":           "04,0e,0e,0e,1f,00,04,00",
		"C":                     "const uint8_t bell[8] = { 0x04, 0x0E, 0x0E, 0x0E, 0x1F, 0x00, 0x04, 0x00 };",
		"C with comments":       "// a bell, 8 rows\nbyte bell[8] PROGMEM = {\n  B00100, // top\n  B01110, /* {9} */\n  B01110,\n  B01110,\n  B11111,\n  B00000,\n  B00100,\n  B00000\n};",
		"C, octal":              "{04, 016, 016, 016, 037, 0, 4, 00}",
		"C with suffixes":       "{4u, 14U, 14uL, 0x0Eu, 31, 0, 4, 0}",
		"Python":                "bell = [0b00100, 0b01110, 0b01110, 0b01110, 0b11111, 0, 4, 0]",
		"Python with comments":  "# a bell\nbell = [\n    0b0_0100,  # top\n    0o16, 14, 14,\n    31, 0, 4, 0,\n]",
		"bytearray":             "bell = bytearray([0x04,0x0E,0x0E,0x0E,0x1F,0x00,0x04,0x00])",
		"bytes":                 `bell = b"\x04\x0e\x0e\x0e\x1f\x00\x04\x00"`,
		"dots":                  "..#..\n.###.\n.###.\n.###.\n#####\n.....\n..#..\n.....\n",
		"dots and blanks":       "  #\n ###\n ###\n ###\n#####\n\n  #\n\n",
		"dots with a margin":    "\t\t" + "\n" + strings.ReplaceAll("        --x--\n-xxx-\n-xxx-\n-xxx-\nxxxxx\n-----\n--x--\n-----", "\n", "\n        "),
		"blocks":                "··█··\r\n·███·\r\n·███·\r\n·███·\r\n█████\r\n·····\r\n··█··\r\n·····\r\n",
	} {
		if name == "dots with a margin" {
			text = strings.TrimPrefix(text, "\t\t\n")
		}
		got, err := Read(text)
		if err != nil || len(got.Glyphs) != 1 || !reflect.DeepEqual(got.Glyphs[0].Rows, bell) {
			t.Errorf("%s: %v, %v", name, got, err)
			continue
		}
		if want := map[bool]string{true: "bell"}[strings.Contains(text, "bell") && strings.Contains(text, "=")]; got.Glyphs[0].Name != want {
			t.Errorf("%s is named %q, want %q", name, got.Glyphs[0].Name, want)
		}
		if got.As == "" || got.As == "numbers in " {
			t.Errorf("%s was read as %q", name, got.As)
		}
	}
}

// TestReadSeveral reads texts with more than one glyph, and glyphs of the 5×10
// font.
func TestReadSeveral(t *testing.T) {
	ten := "0,1,2,3,4,5,6,7,8,9"
	for text, want := range map[string]struct{ glyphs, rows int }{
		"static const uint8_t waves[2][8] = {{1,2,3,4,5,6,7,8}, {8,7,6,5,4,3,2,1}};": {2, 8},
		"a = [1,2,3,4,5,6,7,8]\nb = [8,7,6,5,4,3,2,1]\nc = [0,0,0,0,0,0,0,1]":        {3, 8},
		"{1,2,3,4,5,6,7,8,9,10,11,12,13,14,15,16}":                                   {2, 8},
		"00 01 02 03 04 05 06 07\n":                                                  {1, 8},
		"0001020304050607\n1011121314151617":                                         {2, 8},
		"{" + ten + "}":                                                              {1, 11},
		"[" + ten + ",10]":                                                           {1, 11},
		"00010203040506070809":                                                       {1, 11},
		"0001020304050607080910":                                                     {1, 11},
		"..#..\n.###.\n.###.\n.###.\n#####\n.....\n..#..\n.....\n\n..#..\n.###.\n.###.\n.###.\n#####\n.....\n..#..\n....#": {2, 8},
		strings.Repeat("#...#\n", 11): {1, 11},
	} {
		got, err := Read(text)
		if err != nil || len(got.Glyphs) != want.glyphs || len(got.Glyphs[0].Rows) != want.rows {
			t.Errorf("%q: %v, %v; want %d glyphs of %d rows", text, got, err, want.glyphs, want.rows)
		}
	}
	if got, _ := Read("static const uint8_t low_water[2][8] = {{1,2,3,4,5,6,7,8}, {8,7,6,5,4,3,2,1}};"); got.Glyphs[1].Name != "low water 2" {
		t.Errorf("the second of an array is named %q", got.Glyphs[1].Name)
	}
}

// TestUnreadable points at what cannot be read, and says what would be right.
func TestUnreadable(t *testing.T) {
	for text, want := range map[string]string{
		"0b01110, 0b01210, 0, 0, 0, 0, 0, 0":       `line 1, column 10: "0b01210" is no row of dots; expected such as 0b01110`,
		"byte bell[8] = {\n  B00100,\n  B0111O,\n": `line 3, column 3: "B0111O" is no row of dots`,
		"byte bell[8] = {\n  B00100,\n":            "line 1, column 16: a bracket opens and is not closed",
		"{\n  B00100,\n  B0111O, 0,0,0,0,0,0}":     `line 3, column 3: "B0111O" is no row of dots`,
		"1, 2, 3, 4, 5, 6, 7, 32":                  "line 1, column 22: 32 has more than the five dots of a row; expected 0–31",
		"0x20 0 0 0 0 0 0 0":                       "line 1, column 1: 32 has more",
		"1 2 3":                                    "line 1, column 5: 3 rows end here; a glyph has 8",
		"1, -2, 3, 4, 5, 6, 7, 8":                  `line 1, column 4: "-2" is no row`,
		"":                                         "line 1, column 1: no value is here",
		"// nothing":                               "no value is here",
		"[1,2,3)":                                  "line 1, column 7: ')' closes what '[' opened",
		"1,2,3]":                                   "line 1, column 6: a bracket closes that was not opened",
		"{1,2,3,4,5,6,7,8}}":                       "line 1, column 18: a bracket closes",
		"{1,2,3,4,5,6,7,089}":                      `column 16: "089" is no row`,
		"..#..\n.###.\n.####.\n.....\n.....\n.....\n.....\n.....": "line 3, column 6: 6 dots in a row; expected 5",
		"..#..\n.###\n.....\n.....\n.....\n.....\n.....\n.....":   "line 2, column 5: 4 dots in a row",
		"..#..\n.###.\n":             "line 2, column 1: 2 lines of dots; a glyph has 8",
		strings.Repeat("#...#\n", 9): "line 9, column 1: a ninth line of dots",
		"é, 2":                       `line 1, column 1: "é" is no row`,
	} {
		_, err := Read(text)
		var place *Error
		if !errors.As(err, &place) || !strings.Contains(err.Error(), want) {
			t.Errorf("%q: %v, want %q", text, err, want)
		}
	}
	if _, err := Read(strings.Repeat("1,", MaxText)); err == nil {
		t.Error("an endless text is read")
	}
}

// TestWritten writes random glyphs in every form and reads them back, rows and
// names.
func TestWritten(t *testing.T) {
	rng := rand.New(rand.NewPCG(9, 8))
	for range 200 {
		var list []glyph.Drawing
		for i := range 1 + rng.IntN(4) {
			rows := make([]int, []int{8, 11}[rng.IntN(2)])
			for r := range rows {
				rows[r] = rng.IntN(32)
			}
			rows[len(rows)-1] |= 1 // so that eleven rows stay eleven
			list = append(list, glyph.Drawing{Name: fmt.Sprintf("wave %d", i), Rows: rows})
		}
		for _, kind := range []Form{C, Python, Hex, Bits} {
			var b strings.Builder
			if err := Write(&b, kind, list[:1]); err != nil {
				t.Fatal(err)
			}
			got, err := Read(b.String())
			if err != nil || len(got.Glyphs) != 1 || !reflect.DeepEqual(got.Glyphs[0].Rows, list[0].Rows) {
				t.Fatalf("%s\n%s%v, %v", kind, b.String(), got, err)
			}
			if kind != C && kind != Python {
				continue
			}
			b.Reset()
			if err := Write(&b, kind, list); err != nil {
				t.Fatal(err)
			}
			got, err = Read(b.String())
			if err != nil || !reflect.DeepEqual(got.Glyphs, list) {
				t.Fatalf("%s\n%s%v, %v, want %v", kind, b.String(), got, err, list)
			}
		}
	}
	if err := Write(&strings.Builder{}, "pascal", nil); err == nil {
		t.Error("an unknown form is written")
	}
	ids := map[string]bool{}
	for i, c := range []struct{ name, id string }{{"Rising tide", "rising_tide"}, {"rising-tide", "rising_tide_2"}, {"4 of 7", "glyph_3_4_of_7"}, {"é", "glyph_4"}, {"for", "for_glyph"}, {"*/", "glyph_6"}} {
		if got := identifier(c.name, i, ids); got != c.id {
			t.Errorf("%q is written %s, want %s", c.name, got, c.id)
		}
	}
	var b strings.Builder
	if err := Write(&b, C, []glyph.Drawing{{Name: "ends */ here", Rows: bell}}); err != nil || strings.Count(b.String(), "*/") != 1 {
		t.Errorf("a name ends the comment: %s, %v", b.String(), err)
	}
}

// FuzzRead reads anything: it answers with glyphs that are whole and can be
// written and read again, or with a place in the text.
func FuzzRead(f *testing.F) {
	for _, seed := range []string{"0b01110, B01110 0x0E 14 0Eh 0 0 0", "{{1,2,3,4,5,6,7,8}}", "x = [1,2]", "..#..\n", `b"\x04\x0e"`, "/* {", "#\n#\n#\n", "040E0E0E1F000400"} {
		f.Add(seed)
	}
	f.Fuzz(func(t *testing.T, text string) {
		got, err := Read(text)
		if err != nil {
			var place *Error
			if !errors.As(err, &place) || place.Line < 1 || place.Col < 1 || place.Line > strings.Count(text, "\n")+strings.Count(text, "\r")+1 || place.What == "" {
				t.Fatalf("%q: %v", text, err)
			}
			return
		}
		if len(got.Glyphs) == 0 {
			t.Fatalf("%q: no glyph and no error", text)
		}
		for _, kind := range []Form{C, Python} {
			var b strings.Builder
			if err := Write(&b, kind, got.Glyphs); err != nil {
				t.Fatal(err)
			}
			again, err := Read(b.String())
			if err != nil || len(again.Glyphs) != len(got.Glyphs) {
				t.Fatalf("%q, written as\n%s: %v, %v", text, b.String(), again, err)
			}
			for i := range got.Glyphs {
				if err := glyph.CheckRows(got.Glyphs[i].Rows); err != nil || !reflect.DeepEqual(again.Glyphs[i].Rows, got.Glyphs[i].Rows) {
					t.Fatalf("%q: %v comes back as %v, %v", text, got.Glyphs[i], again.Glyphs[i], err)
				}
			}
		}
	})
}
