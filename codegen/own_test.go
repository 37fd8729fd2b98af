package codegen

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"slatebell/core/bench"
	"slatebell/core/ship/firmware"
	"slatebell/core/text/field"
)

const twoSections = "a\n" +
	"/* ---- own section: first ---- */\n/* ---- end of own section: first ---- */\n" +
	"b\n" +
	"# ---- own section: second ----\nold\n# ---- end of own section: second ----\n" +
	"c\n"

// TestOwnSections keeps what stands in sections, moves regions with it, and says what is
// wrong with marks that were broken.
func TestOwnSections(t *testing.T) {
	fresh := File{Name: "f", Text: twoSections, Regions: []Region{{First: 1, Last: 1}, {First: 4, Last: 4}, {First: 8, Last: 8}}}
	old := File{Name: "f", Text: strings.Replace(strings.Replace(twoSections, "first ---- */\n", "first ---- */\nint mine;\nint too;\n", 1), "old\n", "", 1)}
	kept, err := Keep(old, fresh)
	if err != nil {
		t.Fatal(err)
	}
	if want := strings.Replace(twoSections, "first ---- */\n", "first ---- */\nint mine;\nint too;\n", 1); kept.Text != want {
		t.Errorf("kept:\n%s\nwant:\n%s", kept.Text, want)
	}
	for i, want := range []int{1, 6, 10} {
		if kept.Regions[i].First != want {
			t.Errorf("region %d is at line %d, want %d", i, kept.Regions[i].First, want)
		}
	}
	filled := Fill(fresh, func(section string) string { return map[string]string{"second": "new"}[section] })
	if want := strings.Replace(twoSections, "old\n", "new\n", 1); filled.Text != want {
		t.Errorf("filled:\n%s", filled.Text)
	}
	for text, says := range map[string]string{
		"/* ---- own section: a ---- */\n":        "does not end",
		"/* ---- end of own section: a ---- */\n": `line 1: end of own section "a"`,
		"# ---- own section: a ----\n# ---- end of own section: a ----\n# ---- own section: a ----\n# ---- end of own section: a ----": "there twice",
	} {
		if _, err := Keep(File{Name: "f", Text: text}, fresh); err == nil || !strings.Contains(err.Error(), says) {
			t.Errorf("%q: %v, want %q", text, err, says)
		}
	}
	gone := "# ---- own section: gone ----\nmine\n# ---- end of own section: gone ----\n"
	if _, err := Keep(File{Name: "f", Text: gone}, fresh); err == nil || !strings.Contains(err.Error(), `"gone" has no place`) {
		t.Errorf("a section that is no more: %v", err)
	}
}

// TestRegions finds the lines that come from parts of a bench: a mark at the end of its line means the
// lines from the next on, and one within a line means that line too.
func TestRegions(t *testing.T) {
	places := func(module int, kind string, index int) []Region {
		if kind == "none" {
			return nil
		}
		return []Region{{Module: module, Screen: index, Field: -1}}
	}
	for text, want := range map[string]struct {
		text  string
		lines [][3]int // first, last, screen
	}{
		"a\n\x020 screen 4\x03\nb\nc\x04\nd\n":                   {"a\n\nb\nc\nd\n", [][3]int{{3, 4, 4}}},
		"a\n\x020 screen 4\x03b\nc\x04\nd\n":                     {"a\nb\nc\nd\n", [][3]int{{2, 3, 4}}},
		"\x020 screen 1\x03a\x04\n\x020 screen 2\x03b\x04":       {"a\nb", [][3]int{{1, 1, 1}, {2, 2, 2}}},
		"\x020 screen 1\x03a\n\x020 screen 2\x03b\n\x04c\n\x04d": {"a\nb\nc\nd", [][3]int{{2, 3, 2}, {1, 4, 1}}},
		"\x020 none 0\x03a\x04\nb":                               {"a\nb", nil},
		"no mark\n":                                              {"no mark\n", nil},
	} {
		got, list := regions(text, places)
		var lines [][3]int
		for _, r := range list {
			lines = append(lines, [3]int{r.First, r.Last, r.Screen})
		}
		if got != want.text || !slices.Equal(lines, want.lines) {
			t.Errorf("%q: %q, %v; want %q, %v", text, got, lines, want.text, want.lines)
		}
	}
}

// FuzzSections takes any text apart: what it is put together from again is the same.
func FuzzSections(f *testing.F) {
	f.Add(twoSections)
	f.Add("/* ---- own section: x ---- */")
	f.Add("# ---- end of own section: ---- own section: ----\n\n")
	f.Fuzz(func(t *testing.T, text string) {
		own, _, err := Sections(text)
		if err != nil {
			return
		}
		kept, err := Keep(File{Text: text}, File{Text: text})
		if err != nil || kept.Text != text {
			t.Errorf("%q becomes %q, %v (%v)", text, kept.Text, err, own)
		}
	})
}

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

// TestNames writes names of people's words as both languages take them.
func TestNames(t *testing.T) {
	n := names{}
	for _, c := range [][2]string{
		{"Quillfish Landing", "quillfish_landing"}, {"Höhe über Null", "hohe_uber_null"}, {"Straße", "strasse"}, {"int", "the_int"}, {"2nd slip", "the_2nd_slip"},
		{"潮", "otherwise"}, {"Quillfish landing!", "quillfish_landing_2"}, {"__x--y", "x_y"}, {"", "otherwise_2"},
	} {
		if got := n.of(c[0], "otherwise"); got != c[1] {
			t.Errorf("%q becomes %q, want %q", c[0], got, c[1])
		}
	}
}
