package screen

import (
	"fmt"
	"testing"
	"unicode"

	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/japanese"
	"golang.org/x/text/width"

	"slatebell/core/part/charrom"
	"slatebell/core/text/field"
)

// TestSearchAlphabets searches for every letter of published alphabets by its other
// case (ISO 8859-1, -5 and -7 as golang.org/x/text has them), and for every katakana
// of JIS X 0201 by its full-width form (Shift JIS and UAX 11, from the same).
func TestSearchAlphabets(t *testing.T) {
	letters := 0
	for _, cm := range []*charmap.Charmap{charmap.ISO8859_1, charmap.ISO8859_5, charmap.ISO8859_7} {
		for b := 0x41; b < 0x100; b++ {
			ch := cm.DecodeByte(byte(b))
			other := unicode.ToUpper(ch)
			if other == ch {
				other = unicode.ToLower(ch)
			}
			if !unicode.IsLetter(ch) || other == ch {
				continue
			}
			letters++
			hits := Search(charrom.A00(), Text{Rows: []string{"12", "3" + string(ch) + "4"}}, string(other))
			if len(hits) != 1 || hits[0].Row != 1 || hits[0].Col != 1 || hits[0].Len != 1 {
				t.Errorf("%c by %c: %+v", ch, other, hits)
			}
		}
	}
	for b := 0xA6; b <= 0xDD; b++ {
		text, err := japanese.ShiftJIS.NewDecoder().Bytes([]byte{byte(b)})
		if err != nil {
			t.Fatal(err)
		}
		letters++
		// as a code of ROM A00, which has them at the places of JIS X 0201
		hits := Search(charrom.A00(), Text{Rows: []string{"x" + string(rune(CodeBase+b))}}, width.Widen.String(string(text)))
		if len(hits) != 1 || hits[0].Col != 1 {
			t.Errorf("%s: %+v", text, hits)
		}
	}
	if letters < 250 {
		t.Errorf("%d letters", letters)
	}
}

func TestSearch(t *testing.T) {
	text := Text{
		Rows:   []string{"Tide  tide", "Café \uE0DF", "ﾀｲﾄﾞ"},
		Fields: []field.Field{{Name: "Wind", Col: 3, Row: 1, Width: 2, Values: []string{"NW", "storm tide"}}},
	}
	for query, want := range map[string]string{
		"TIDE":   "[{0 0 4 0 Tide  tide} {0 6 4 0 Tide  tide} {1 3 2 1 storm tide}]",
		"e  t":   "[{0 3 4 0 Tide  tide}]",
		"cafe":   "[{1 0 4 0 Café \\xDF}]",
		"タイド":    "[{2 0 3 0 ﾀｲﾄﾞ}]",
		"w":      "[{1 3 2 1 Wind}]",
		"":       "[]",
		"ebb":    "[]",
		"\u0301": "[]",
	} {
		if got := fmt.Sprint(Search(charrom.A00(), text, query)); got != want {
			t.Errorf("%q: %s, want %s", query, got, want)
		}
	}
}
