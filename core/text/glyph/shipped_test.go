package glyph

import (
	"strings"
	"testing"
	"unicode"

	"golang.org/x/text/cases"
	"golang.org/x/text/language"
	"golang.org/x/text/unicode/runenames"
)

// TestShipped goes through the library that ships: every sign is drawn, named
// once and unlike all others; every letter of every language is there in both
// cases, under the name that golang.org/x/text has for it (Unicode Character
// Database, NamesList), with capitals as its case tables have them.
func TestShipped(t *testing.T) {
	if _, err := readSigns(signsChart); err != nil {
		t.Fatal(err)
	}
	lib := Shipped()
	seen, names, tags := map[Pattern]string{}, map[string]bool{}, map[string]int{}
	letters := map[rune]bool{}
	for _, d := range lib {
		p := d.Pattern()
		if other, twice := seen[p]; twice {
			t.Errorf("%s and %s look alike", other, d.Name)
		}
		if names[d.Name] || p.Count() == 0 || len(d.Name) > 40 || d.Name == "" {
			t.Errorf("%q: named twice, blank or not named well", d.Name)
		}
		seen[p], names[d.Name] = d.Name, true
		for _, tag := range d.Tags {
			tags[tag]++
		}
		if len(d.Tags) < 2 || d.Tags[1] != "letter" {
			continue
		}
		ch := []rune(d.Tags[0])[0]
		letters[ch] = true
		if d.Name != runenames.Name(ch) || !unicode.IsLetter(ch) {
			t.Errorf("%c is named %s, want %s", ch, d.Name, runenames.Name(ch))
		}
	}
	for _, tag := range []string{"arrow", "tide", "weather", "battery", "signal", "hand", "face", "unit", "card", "dice", "letter"} {
		if tags[tag] < 4 {
			t.Errorf("%d with the tag %s", tags[tag], tag)
		}
	}
	upper := cases.Upper(language.Und)
	for _, l := range Letters {
		for _, ch := range l.Letters {
			if !letters[ch] {
				t.Errorf("%s: %c is not drawn", l.Language, ch)
			}
			big := []rune(upper.String(string(ch)))
			if ch == 'ı' { // Turkish has its own pair: dotless I is I, and i has İ
				big = []rune("İ")
			}
			if len(big) == 1 && ch != 'ÿ' && !letters[big[0]] {
				t.Errorf("%s: %c is not drawn", l.Language, big[0])
			}
		}
	}
	if n := strings.Count(signsChart, ":"); tags["letter"] < 150 || len(lib)-tags["letter"] < 5*n {
		t.Errorf("%d letters and %d signs", tags["letter"], len(lib)-tags["letter"])
	}
	for _, bad := range []string{": one\n#...\n", ": one, two\n#....\n", ": one\n#....\n", ": one\nx....\n"} {
		if _, err := readSigns(bad); err == nil {
			t.Errorf("%q is read", bad)
		}
	}
}

// TestLibrary checks keys and places of drawings: what is free, what is found, and
// what cannot be.
func TestLibrary(t *testing.T) {
	rows := make([]int, 8)
	lib := Library{{Key: 3, Name: "b", Rows: rows, Part: &InPicture{"pair", 1, 0}}, {Name: "none", Rows: rows}, {Key: 7, Name: "a", Rows: rows, Part: &InPicture{"pair", 0, 0}}}
	if at, err := lib.Validate(); err != nil {
		t.Fatal(at, err)
	}
	if d, ok := lib.Keyed(7); !ok || d.Name != "a" {
		t.Errorf("key 7 is %v, %v", d, ok)
	}
	if _, ok := lib.Keyed(0); ok {
		t.Error("key 0 is found")
	}
	if n := lib.Free(); n != 8 {
		t.Errorf("the free key is %d, want 8", n)
	}
	full := append(Library{{Key: MaxKey, Rows: rows}}, lib...)
	if n := full.Free(); n != 1 {
		t.Errorf("below the highest key, %d is free, want 1", n)
	}
	for k := 1; k < MaxKey; k++ {
		full = append(full, Drawing{Key: k})
	}
	if n := full.Free(); n != 0 {
		t.Errorf("with all keys taken %d is free", n)
	}
	for want, c := range map[string]struct {
		at int
		l  Library
	}{
		"key 4096; expected 1–4095":        {0, Library{{Key: 4096, Rows: rows}}},
		"key 2 is drawing 1's":             {1, Library{{Key: 2, Rows: rows}, {Key: 2, Rows: rows}}},
		"7 rows of dots":                   {1, Library{{Rows: rows}, {Rows: rows[:7]}}},
		"row 1, column 2 of picture \"p\"": {1, Library{{Rows: rows, Part: &InPicture{"p", 1, 0}}, {Rows: rows, Part: &InPicture{"p", 1, 0}}}},
	} {
		if at, err := c.l.Validate(); err == nil || at != c.at || !strings.Contains(err.Error(), want) {
			t.Errorf("%d, %v; want %q", at, err, want)
		}
	}
}
