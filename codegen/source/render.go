// Package source is the text of programs: files from templates, which of their lines come from which
// part of a bench, and the own sections of those who go on writing in them.
package source

import (
	"bytes"
	"embed"
	"fmt"
	"strings"
	"text/template"

	"slatebell/core/quoting"
)

// File is one file of a program.
type File struct {
	Name     string
	Template string // its name before the bench's stands in it: bench.c, main.c, …
	Text     string
	Regions  []Region
}

// Region is lines of a file that come from a part of the bench.
type Region struct {
	First, Last int // lines, counted from 1
	Module      int // in the bench
	Screen      int // in the module; -1 for none
	Field       int // in the screen; -1 for none
}

// Written says in a file's head where it comes from.
const Written = "Written by Slate Bell from the bench."

// KeepsOwn says what is kept.
const KeepsOwn = "Own sections are yours: what stands in one is kept when the file is\nwritten again. Everything else is replaced."

// Render fills in templates of some directories by their names, and takes the marks of regions
// out of what they give. A file bench.x gets the bench's own name.
func Render(from []embed.FS, names []string, as Comments, bench string, view any, places func(module int, kind string, index int) []Region) ([]File, error) {
	funcs := template.FuncMap{
		"from": begins,
		"to":   func() string { return ends },
		"own":  as.own,
		"doc":  quoting.Docstring,
	}
	t := template.New("").Funcs(funcs)
	for _, dir := range from {
		if _, err := t.ParseFS(dir, "*.tmpl"); err != nil {
			return nil, err
		}
	}
	files := make([]File, len(names))
	for i, name := range names {
		var b bytes.Buffer
		if err := t.ExecuteTemplate(&b, name+".tmpl", view); err != nil {
			return nil, err
		}
		f := &files[i]
		f.Template, f.Name = name, strings.Replace(name, "bench.", bench+".", 1)
		f.Text, f.Regions = regions(b.String(), places)
	}
	return files, nil
}

// regions takes the marks out of a text. A mark begins with \x02 and the part that
// follows comes from, up to \x03; \x04 ends the part.
func regions(text string, places func(module int, kind string, index int) []Region) (string, []Region) {
	var out strings.Builder
	var list []Region
	var open [][]Region
	line := 1
	for len(text) > 0 {
		i := strings.IndexAny(text, "\x02\x04\n")
		if i < 0 {
			out.WriteString(text)
			break
		}
		out.WriteString(text[:i])
		switch text[i] {
		case '\n':
			out.WriteByte('\n')
			line++
		case '\x02':
			mark, rest, _ := strings.Cut(text[i+1:], "\x03")
			var module, index int
			var kind string
			fmt.Sscanf(mark, "%d %s %d", &module, &kind, &index)
			from := places(module, kind, index)
			first := line
			if strings.HasPrefix(rest, "\n") {
				first++
			}
			for k := range from {
				from[k].First = first
			}
			open = append(open, from)
			text = rest
			continue
		case '\x04':
			if n := len(open); n > 0 {
				for _, r := range open[n-1] {
					r.Last = line
					list = append(list, r)
				}
				open = open[:n-1]
			}
		}
		text = text[i+1:]
	}
	return out.String(), list
}

// ends is the mark behind it.
const ends = "\x04"

// begins is the mark before what comes from a part.
func begins(module int, kind string, index int) string {
	return fmt.Sprintf("\x02%d %s %d\x03", module, kind, index)
}

// Mark puts the marks of a region round a text.
func Mark(module int, kind string, index int, text string) string {
	return begins(module, kind, index) + text + ends
}
