package charrom

import (
	"bytes"
	"fmt"
	"strings"
	"testing"
	"unicode/utf8"

	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/japanese"
)

// TestA00Codes checks A00 against general-purpose tables: ASCII, and for the
// katakana JIS X 0201 as golang.org/x/text decodes it within Shift JIS.
func TestA00Codes(t *testing.T) {
	rom := A00()
	for code := byte(0x20); code < 0x7E; code++ {
		want := rune(code)
		if code == 0x5C {
			want = '¥' // data sheet ADE-207-272(Z), table 4: ¥ stands where ASCII has \
		}
		if got, ok := rom.Rune(code); !ok || got != want {
			t.Errorf("code %02X is %q, want %q", code, got, want)
		}
	}
	for code := 0xA1; code <= 0xDF; code++ {
		text, err := japanese.ShiftJIS.NewDecoder().Bytes([]byte{byte(code)})
		if err != nil {
			t.Fatal(err)
		}
		want, _ := utf8.DecodeRune(text)
		if got, ok := rom.Rune(byte(code)); !ok || got != want {
			t.Errorf("code %02X is %q, want %q", code, got, want)
		}
	}
	// The rest of table 4, from memory.
	for code, want := range map[byte]rune{0x7E: '→', 0x7F: '←', 0xE0: 'α', 0xE1: 'ä', 0xE2: 'β', 0xE4: 'µ', 0xEF: 'ö', 0xF4: 'Ω', 0xF5: 'ü', 0xF7: 'π', 0xFD: '÷', 0xFF: '█'} {
		if got, _ := rom.Rune(code); got != want {
			t.Errorf("code %02X is %q, want %q", code, got, want)
		}
		if got, ok := rom.Code(want); !ok || got != code {
			t.Errorf("%q has code %02X, want %02X", want, got, code)
		}
	}
	if code, _ := rom.Code('°'); code != 0xDF {
		t.Errorf("the degree sign has code %02X, want DF", code)
	}
}

// TestA00Dots checks that no two characters share their dots, but for those
// that real ROMs draw alike, and that only the space is blank.
func TestA00Dots(t *testing.T) {
	rom := A00()
	seen := map[Dots]byte{}
	for c := range 256 {
		code := byte(c)
		if !rom.Known(code) {
			continue
		}
		d := rom.Dots(code)
		if blank := d == (Dots{}); blank != (code == 0x20 || code == 0xFE) {
			t.Errorf("code %02X: blank %v", code, blank)
		}
		if other, twice := seen[d]; twice && code != 0xFE {
			t.Errorf("codes %02X and %02X look alike", other, code)
		}
		seen[d] = code
	}
	if !rom.Dots('L').Lit(6, 4) || rom.Dots('L').Lit(0, 4) {
		t.Error("L has its foot at the wrong end")
	}
}

func TestNear(t *testing.T) {
	for ch, want := range map[rune]string{'é': "e", 'É': "E", 'Ä': "A", 'ß': "ss", '–': "-", '“': `"`, 'Ø': "O", '漢': "", '€': "EUR"} {
		near := A00().Near(ch)
		if len(near) > 1 && strings.EqualFold(near[0], near[1]) {
			t.Errorf("near %q is %q: one letter in both cases", ch, near)
		}
		if got := strings.Join(near[:min(1, len(near))], ""); got != want {
			t.Errorf("near %q is %q, want %q first", ch, near, want)
		}
	}
}

// TestLongCharts reads charts of a mebibyte, and none that is longer.
func TestLongCharts(t *testing.T) {
	chart := "rom X\n41=A\n" + strings.Repeat(".....\n", 8)
	for more, want := range map[int]bool{0: true, 1: false} {
		text := chart + strings.Repeat("#", 1<<20-len(chart)+more)
		if _, err := Parse(strings.NewReader(text)); (err == nil) != want {
			t.Errorf("%d bytes: %v", len(text), err)
		}
	}
}

// TestNearLists checks all that is offered, in its order.
func TestNearLists(t *testing.T) {
	for ch, want := range map[rune]string{
		'é': "e", 'Ø': "O", 'ß': "ss", 'ﬁ': "f", 'Å': "A", '½': "1", '…': ". ...", '~': "-", '漢': "", 'ω': "Ω", 'Δ': "d", 'Λ': "l", 'Ë': "E", 'Μ': "μ",
	} {
		if got := strings.Join(A00().Near(ch), " "); got != want {
			t.Errorf("near %c: %q, want %q", ch, got, want)
		}
	}
}

func TestParseErrors(t *testing.T) {
	cell := "41=A\n" + strings.Repeat(".....\n", 8)
	for text, want := range map[string]string{
		"":                                      "no line \"rom NAME\"",
		"rom X\n":                               "no cells",
		"rom X\n4G=A\n":                         "line 2: \"4G=A\" is no cell",
		"rom X\n" + cell + cell:                 "line 11: code 41 stands in the chart twice",
		"rom X\n41=A\n.....\n":                  "ends after 1 of 8",
		"rom X\n41=A\n....\n":                   "line 3: cell 41: row \"....\" has 4 dots",
		"rom X\n41=A\n....x\n":                  "has 'x', expected # for a lit dot",
		"rom X\n41=A 42=B\n.....\n":             "dots of 1 cells under a head of 2",
		"rom X\n41=U+110000\n":                  "is no character",
		"rom X\n" + cell + "below 41 42\n":      "line 11: below: \"42\" is no code of a cell",
		"rom X\n" + cell + "below 41\n.....\n":  "ends after 1 of 2",
		"rom X\n" + strings.Repeat("41=A ", 17): "17 cells side by side",
	} {
		if _, err := Parse(strings.NewReader(text)); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%q: error %v, want %q in it", text, err, want)
		}
	}
}

func FuzzParse(f *testing.F) {
	f.Add([]byte(a00Chart))
	f.Add([]byte("rom X\n20=U+0020 23=#\n..... #####\n"))
	f.Fuzz(func(t *testing.T, chart []byte) {
		rom, err := Parse(bytes.NewReader(chart))
		if err != nil {
			return
		}
		var first, second bytes.Buffer
		rom.WriteTo(&first)
		again, err := Parse(bytes.NewReader(first.Bytes()))
		if err != nil {
			t.Fatalf("what was written cannot be read: %v\n%s", err, first.Bytes())
		}
		again.WriteTo(&second)
		if first.String() != second.String() {
			t.Error("a chart changes by being read and written")
		}
	})
}

// TestA02Codes checks A02 against ASCII and ISO 8859-1 as golang.org/x/text has
// it, but for the places where the data sheet's table 4 differs (from memory).
func TestA02Codes(t *testing.T) {
	differ := map[byte]rune{0xA8: 'ƒ', 0xAC: 'Ю', 0xAD: 'Я', 0xAF: '‘', 0xB4: '₧', 0xB8: 'ω', 0xD8: 'Φ', 0xF8: 'φ'}
	rom := A02()
	for c := range 256 {
		code := byte(c)
		if c < 0x20 || c >= 0x7F && c < 0xA0 {
			continue
		}
		want := charmap.ISO8859_1.DecodeByte(code)
		if other, ok := differ[code]; ok {
			want = other
		}
		if got, ok := rom.Rune(code); !ok || got != want {
			t.Errorf("code %02X is %q, want %q", code, got, want)
		}
	}
	for code, want := range map[byte]rune{0x10: '▶', 0x1A: '→', 0x1F: '▼', 0x80: 'Б', 0x8F: 'Э', 0x90: 'α', 0x9C: '∞'} {
		if got, _ := rom.Rune(code); got != want {
			t.Errorf("code %02X is %q, want %q", code, got, want)
		}
	}
	seen := map[Dots]byte{}
	for c := range 256 {
		if code := byte(c); rom.Known(code) && code != 0xA0 {
			if other, twice := seen[rom.Dots(code)]; twice {
				t.Errorf("codes %02X and %02X look alike", other, code)
			}
			seen[rom.Dots(code)] = code
		}
	}
}

// BenchmarkParse reads charts of two sizes: time a byte is the same.
func BenchmarkParse(b *testing.B) {
	var whole bytes.Buffer
	A00().WriteTo(&whole)
	for _, comments := range []int{0, 5_000} {
		text := whole.String() + strings.Repeat("# the boathouse's own dots, after the sheet\n", comments)
		b.Run(fmt.Sprintf("%dkB", len(text)/1000), func(b *testing.B) {
			b.SetBytes(int64(len(text)))
			for b.Loop() {
				if _, err := Parse(strings.NewReader(text)); err != nil {
					b.Fatal(err)
				}
			}
		})
	}
}
