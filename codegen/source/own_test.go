package source

import (
	"slices"
	"strings"
	"testing"
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
