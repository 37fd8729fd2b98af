package codegen

import (
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
