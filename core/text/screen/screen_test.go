package screen

import (
	"slices"
	"strings"
	"testing"

	"slatebell/core/part/charrom"
	"slatebell/core/part/module"
)

func gate(t testing.TB) *module.Module {
	t.Helper()
	g, err := module.ParseGeometry("16x2")
	if err != nil {
		t.Fatal(err)
	}
	return &module.Module{Geometry: g, Technology: module.LCD, ROM: charrom.A00()}
}

func TestFindings(t *testing.T) {
	for _, c := range []struct {
		rows   []string
		what   string   // "" for no finding
		remedy []string // rows after the first remedy
	}{
		{[]string{"Tide 3.2 m", "High 14:05"}, "", nil},
		{[]string{"1234567890123456   "}, "", nil}, // spaces beyond the end show nothing anyway
		{[]string{"1234567890123456abc"}, "Row 1 is 3 characters too long: “abc” is not shown.", []string{"1234567890123456", "abc"}},
		{[]string{"1234567890123456\uE000\uE0FF\uE100"}, "Row 1 is 3 characters too long: “\\x00\\xFF\uE100” is not shown.", []string{"1234567890123456", "\uE000\uE0FF\uE100"}},
		{[]string{"1234567890123456a", "x"}, "Row 1 is 1 character too long: “a” is not shown.", []string{"1234567890123456", "x"}},
		{[]string{"", "", "third"}, "Row 3 does not exist on a 16 × 2 module: “third” is not shown.", nil},
		{[]string{"café"}, "Row 1, column 4: ROM A00 has no 'é' (U+00E9).", []string{"cafe"}},
		{[]string{"cafe\u0301"}, "Row 1, column 4: ROM A00 has no 'é' (U+00E9).", []string{"cafe"}}, // decomposed
		{[]string{"a~b"}, "Row 1, column 2: ROM A00 has no '~' (U+007E).", []string{"a-b"}},
		{[]string{"ｱア°ä\uE0FF"}, "", nil},
		{[]string{"", " \uE00B\uE003"}, "Row 2, column 2 shows slot 3, and no glyph is drawn in it.", nil}, // 8–15 show 0–7 again
	} {
		l := Compose(gate(t), Text{Rows: c.rows}, Sources{Rows: "/rows", Glyphs: "/glyphs"})
		if c.what == "" {
			if len(l.Findings) > 0 {
				t.Errorf("%q: %s", c.rows, l.Findings[0].What)
			}
			continue
		}
		if len(l.Findings) != 1 || l.Findings[0].What != c.what {
			t.Errorf("%q: findings %+v, want %q", c.rows, l.Findings, c.what)
			continue
		}
		var first []string
		if r := l.Findings[0].Remedies; len(r) > 0 {
			first = r[0].Patch[1].Value.([]string)
			if test := r[0].Patch[0]; test.Op != "test" || !slices.Equal(test.Value.([]string), c.rows) {
				t.Errorf("%q: the remedy is made for %+v", c.rows, test)
			}
		}
		if !slices.Equal(first, c.remedy) {
			t.Errorf("%q: the first remedy leaves %q, want %q", c.rows, first, c.remedy)
		}
	}
}

func TestParse(t *testing.T) {
	for text, want := range map[string][]string{
		"a\nb":           {"a", "b"},
		"a\r\nb\n":       {"a", "b", ""},
		`21\xDFC`:        {"21\uE0DFC"},
		`\x0\xG1\\x41\n`: {`\x0\xG1\x41\n`},
		`\x00\x0A\xA0`:   {"\uE000\uE00A\uE0A0"},
		`\xfF\xg0\x0g\x`: {"\uE0FF\\xg0\\x0g\\x"},
		`\`:              {`\`},
		"":               {""},
	} {
		if got := Parse(text); !slices.Equal(got, want) {
			t.Errorf("%q: %q, want %q", text, got, want)
		}
	}
}

// FuzzCompose checks that nothing typed is lost silently: every character is in
// a cell, named as missing, or named as left over.
func FuzzCompose(f *testing.F) {
	f.Add("Tide 3.2 m\nHigh 14:05")
	f.Add("é~\\x\\xDF\n\n\n1234567890123456789")
	f.Fuzz(func(t *testing.T, text string) {
		if !strings.HasPrefix(strings.ToValidUTF8(text, ""), text) {
			return // not text
		}
		rows := Parse(text)
		l := Compose(gate(t), Text{Rows: rows}, Sources{})
		for r, row := range rows {
			shown := 0
			if r < l.Rows {
				for _, c := range l.Cells[r*l.Cols : (r+1)*l.Cols] {
					if c.Char != "" {
						shown++
					}
				}
			}
			if l.Over[r] == "" && len([]rune(strings.TrimRight(row, " "))) > max(shown, 0) && !decomposed(row) {
				t.Errorf("row %d %q: %d cells and nothing left over", r, row, shown)
			}
		}
	})
}

// decomposed reports whether a row may have fewer characters when composed.
func decomposed(row string) bool {
	return strings.IndexFunc(row, func(r rune) bool { return r > 0x2FF }) >= 0
}
