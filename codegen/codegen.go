// Package codegen writes the image of a bench's displays as a program: C99 with ports for
// ATmega and for every other host, or a MicroPython module. All text comes from the
// templates beside it.
//
// It stands above core/ship/firmware, whose tables it lays out; the calls of every language
// send what firmware.Player sends.
package codegen

import (
	"bytes"
	"embed"
	"errors"
	"fmt"
	"strings"
	"text/template"

	"slatebell/core/quoting"
	"slatebell/core/ship/firmware"
	"slatebell/core/text/field"
)

// Language is a language that programs are written in.
type Language string

// The languages.
const (
	C           Language = "c"
	MicroPython Language = "micropython"
	Sketch      Language = "sketch" // C, with a file of setup and loop
)

// Languages lists them.
var Languages = []Language{C, Sketch, MicroPython}

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

//go:embed c/*.tmpl micropython/*.tmpl tools/*.tmpl shared/*.tmpl
var templates embed.FS

// written says in a file's head where it comes from.
const written = "Written by Slate Bell from the bench."

// keepsOwn says what is kept.
const keepsOwn = "Own sections are yours: what stands in one is kept when the file is\nwritten again. Everything else is replaced."

// Files writes a program. Its error says what the language cannot do.
func Files(im *firmware.Image, as Language) ([]File, error) {
	switch as {
	case C:
		return writeC(im)
	case Sketch:
		if why := sketchable(im); why != "" {
			return nil, errors.New(why)
		}
		return writeSketch(im)
	case MicroPython:
		return writeMicroPython(im)
	}
	return nil, fmt.Errorf("language %q; expected one of %v", as, Languages)
}

// render fills in the templates of a directory by their names, and takes the marks of
// regions out of what they give. A file bench.x gets the bench's own name.
func render(dir string, names []string, as commenter, bench string, view any, places func(module int, kind string, index int) []Region) ([]File, error) {
	funcs := template.FuncMap{
		"from": func(module int, kind string, index int) string {
			return fmt.Sprintf("\x02%d %s %d\x03", module, kind, index)
		},
		"to":  func() string { return "\x04" },
		"own": as.own,
		"doc": quoting.Docstring,
	}
	t, err := template.New(dir).Funcs(funcs).ParseFS(templates, dir+"/*.tmpl", "shared/*.tmpl")
	if err != nil {
		return nil, err
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

// regionOf is the field of a place; a tape belongs to its screen.
func regionOf(module int, p *firmware.Place) Region {
	r := Region{Module: module, Screen: p.Screen, Field: p.Field}
	if p.Spec.Kind == field.Tape {
		r.Field = -1
	}
	return r
}

// sources says which parts of a bench a mark stands for.
func sources(im *firmware.Image) func(module int, kind string, index int) []Region {
	return func(module int, kind string, index int) (out []Region) {
		var m *firmware.Module
		for i := range im.Modules {
			if im.Modules[i].At == module {
				m = &im.Modules[i]
			}
		}
		if m == nil {
			return nil
		}
		switch kind {
		case "screen":
			return []Region{{Module: module, Screen: index, Field: -1}}
		case "place":
			return []Region{regionOf(module, &m.Places[index])}
		case "value":
			for i := range m.Places {
				if p := &m.Places[i]; p.Value == index {
					out = append(out, regionOf(module, p))
				}
			}
			return out
		}
		return []Region{{Module: module, Screen: -1, Field: -1}}
	}
}
