package web

import (
	"cmp"
	"os"
	"reflect"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"testing"

	"slatebell/core/bench"
	"slatebell/core/prove/run"
	"slatebell/core/prove/testbed"
	"slatebell/core/wire/rig"
	"slatebell/server/demo"
)

const manual = "../docs/handbook/"

var (
	linked   = regexp.MustCompile(`\]\(([^)]+)\)`)
	defined  = regexp.MustCompile(`(?m)^\[([^\]]+)\]: \.\./glossary\.md#(.+)$`)
	bracket  = regexp.MustCompile(`\[([^\]]+)\](?:\[([^\]]+)\]|[^(])`)
	pictured = regexp.MustCompile("(?s)```picture\n([^\n]+)\n(.+?)\n```")
	routed   = regexp.MustCompile(`(?m)^\s+path: "(\w+)"`)
	lazily   = regexp.MustCompile(`import\("\.\./views/(\w+)/`)
)

// manualPage is a page of the handbook.
type manualPage struct{ name, text string }

func manualPages(t *testing.T) (out []manualPage) {
	entries, err := os.ReadDir(manual)
	if err != nil {
		t.Fatal(err)
	}
	for _, e := range entries {
		data, err := os.ReadFile(manual + e.Name())
		if err != nil {
			t.Fatal(err)
		}
		out = append(out, manualPage{strings.TrimSuffix(e.Name(), ".md"), string(data)})
	}
	return out
}

// words reads the glossary: each word by the anchor that a page names it by.
func words(t *testing.T) map[string]string {
	data, err := os.ReadFile("../docs/glossary.md")
	if err != nil {
		t.Fatal(err)
	}
	out := map[string]string{}
	for line := range strings.Lines(string(data)) {
		cells := strings.Split(line, "|")
		if len(cells) < 4 || strings.Contains(cells[1], "---") || strings.TrimSpace(cells[1]) == "word" {
			continue
		}
		for w := range strings.SplitSeq(strings.TrimSpace(cells[1]), ", ") {
			out[strings.ReplaceAll(w, " ", "-")] = w
		}
	}
	return out
}

// TestHandbook looks for dead links, for views and words without a page, and for pictures of what the demo has not.
func TestHandbook(t *testing.T) {
	pages, words := manualPages(t), words(t)
	named := func(name string) bool {
		return slices.ContainsFunc(pages, func(p manualPage) bool { return p.name == name })
	}
	explained := map[string]bool{}
	listed := ""
	for _, p := range pages {
		if p.name == "README" {
			listed = p.text
		}
		if !strings.HasPrefix(p.text, "# ") {
			t.Errorf("%s begins with no title", p.name)
		}
		for _, m := range linked.FindAllStringSubmatch(p.text, -1) {
			if name := strings.TrimSuffix(m[1], ".md"); !named(name) && m[1] != "../glossary.md" {
				t.Errorf("%s leads to %s, which is not there", p.name, m[1])
			}
		}
		known := map[string]bool{}
		for _, m := range defined.FindAllStringSubmatch(p.text, -1) {
			known[m[1]] = true
			if words[m[2]] == "" {
				t.Errorf("%s explains %q, which the glossary does not", p.name, m[2])
			}
			explained[m[2]] = true
		}
		body := linked.ReplaceAllString(pictured.ReplaceAllString(defined.ReplaceAllString(p.text, ""), ""), "](")
		used := map[string]bool{}
		for _, m := range bracket.FindAllStringSubmatch(body, -1) {
			word := cmp.Or(m[2], m[1])
			used[word] = true
			if !known[word] {
				t.Errorf("%s has [%s], and does not say where it leads", p.name, word)
			}
		}
		for word := range known {
			if !used[word] {
				t.Errorf("%s says where [%s] leads, and has it nowhere", p.name, word)
			}
		}
	}
	for anchor, word := range words {
		if !explained[anchor] {
			t.Errorf("no page has %q", word)
		}
	}
	for _, p := range pages {
		if p.name != "README" && !strings.Contains(listed, "("+p.name+".md)") {
			t.Errorf("the contents do not list %s", p.name)
		}
	}

	views := []string{"live", "room"} // sheets of the top bar
	for file, at := range map[string]*regexp.Regexp{"src/app/views.ts": routed, "src/app/App.tsx": lazily, "src/app/Admitted.tsx": lazily, "src/app/hand/HandFrame.tsx": lazily} {
		data, err := os.ReadFile(file)
		if err != nil {
			t.Fatal(err)
		}
		found := at.FindAllStringSubmatch(string(data), -1)
		if len(found) == 0 && file != "src/app/hand/HandFrame.tsx" {
			t.Errorf("%s names no view", file)
		}
		for _, m := range found {
			views = append(views, m[1])
		}
	}
	for _, v := range views {
		if v != "handbook" && !named(v) {
			t.Errorf("the view %s has no page", v)
		}
	}
}

// TestHandbookPictures simulates what each picture shows: one of a fault differs from the screen without it.
func TestHandbookPictures(t *testing.T) {
	b := demo.Bench()
	for _, p := range manualPages(t) {
		for _, m := range pictured.FindAllStringSubmatch(p.text, -1) {
			if err := drawn(&b, strings.Fields(m[1])); err != "" {
				t.Errorf("%s: picture of %s: %s", p.name, m[1], err)
			}
		}
	}
}

// drawn says why a picture cannot be drawn; "" of one that can.
func drawn(b *bench.Bench, what []string) string {
	if what[0] == "glyphs" {
		for _, key := range what[1:] {
			n, err := strconv.Atoi(key)
			if _, drawn := b.Glyphs.Keyed(n); err != nil || !drawn {
				return "the demo has no glyph " + key
			}
		}
		return ""
	}
	if what[0] != "glass" || len(what) < 3 {
		return "expected glass MODULE SCREEN [FAULT] or glyphs KEY…"
	}
	i := slices.IndexFunc(b.Modules, func(m bench.Module) bool { return m.ID == what[1] })
	if i < 0 {
		return "the demo has no such module"
	}
	m := &b.Modules[i]
	n := slices.IndexFunc(m.Screens, func(s bench.Screen) bool { return s.ID == what[2] })
	if n < 0 {
		return "the module has no such screen"
	}
	s, err := testbed.Of(b, testbed.At{Module: i, Screen: n})
	if err != nil {
		return err.Error()
	}
	s.Joined = nil // as it ought to be
	shown := func(fault string) (rig.Glass, error) {
		r, err := run.Do(&s, run.Options{Fault: fault})
		if err != nil {
			return rig.Glass{}, err
		}
		return r.Last().Glass(&r.Module, r.Contrast), nil
	}
	sound, err := shown("")
	if err != nil {
		return err.Error()
	}
	if len(what) == 3 {
		return ""
	}
	faulty, err := shown(what[3])
	if err != nil {
		return err.Error()
	}
	if reflect.DeepEqual(faulty, sound) {
		return "the fault does not show"
	}
	return ""
}
