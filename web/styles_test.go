package web

import (
	"io/fs"
	"os"
	"path"
	"regexp"
	"slices"
	"strings"
	"testing"
)

var (
	sheetOf  = regexp.MustCompile(`import (\w+) from "(\.[^"]+\.module\.css)"`)
	classIn  = regexp.MustCompile(`\.([A-Za-z]\w*)`)
	composed = regexp.MustCompile(`composes: ([\w ]+?)(?: from "([^"]+)")?;`)
	unsaid   = regexp.MustCompile(`(?s)/\*.*?\*/|"[^"]*"|\.(Mui|hljs)\w*(-\w+)*`)
)

// TestStyles holds the style sheets against the components: every class that is asked of a sheet is in
// it, and none is in it that nothing asks for.
func TestStyles(t *testing.T) {
	src := os.DirFS("src")
	asked := map[string][]string{} // of each sheet
	sheets := map[string]string{}
	err := fs.WalkDir(src, ".", func(name string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() {
			return err
		}
		data, err := fs.ReadFile(src, name)
		if err != nil {
			return err
		}
		text := string(data)
		switch {
		case strings.HasSuffix(name, ".module.css"):
			sheets[name] = text
			for _, m := range composed.FindAllStringSubmatch(text, -1) {
				from := name
				if m[2] != "" {
					from = path.Join(path.Dir(name), m[2])
				}
				asked[from] = append(asked[from], strings.Fields(m[1])...)
			}
		case path.Ext(name) == ".tsx":
			for _, m := range sheetOf.FindAllStringSubmatch(text, -1) {
				from := path.Join(path.Dir(name), m[2])
				for _, use := range regexp.MustCompile(`\b`+m[1]+`\.(\w+)`).FindAllStringSubmatch(text, -1) {
					asked[from] = append(asked[from], use[1])
				}
			}
		}
		return nil
	})
	if err != nil {
		t.Fatal(err)
	}
	if len(sheets) < 40 {
		t.Fatalf("%d style sheets", len(sheets))
	}
	for name, text := range sheets {
		var there []string
		for _, rule := range strings.Split(unsaid.ReplaceAllString(text, ""), "{") {
			selector := rule[strings.LastIndexAny(rule, ";}")+1:]
			for _, m := range classIn.FindAllStringSubmatch(selector, -1) {
				there = append(there, m[1])
			}
		}
		for _, class := range asked[name] {
			if !slices.Contains(there, class) {
				t.Errorf("%s has no .%s, which is asked of it", name, class)
			}
		}
		for _, class := range there {
			if !slices.Contains(asked[name], class) {
				t.Errorf("%s has .%s, which nothing asks for", name, class)
			}
		}
	}
}
