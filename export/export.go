// Package export is what a bench is handed over as: programs, the steps of its screens, its
// glyphs, its wires, as files of open formats, and how they come into a directory that may
// hold others already.
package export

import (
	"bytes"
	"fmt"
	"io"
	"slices"
	"strings"

	"slatebell/codegen"
	"slatebell/codegen/source"
	"slatebell/core/bench"
	"slatebell/core/finding"
	"slatebell/core/prove/run"
	"slatebell/core/prove/testbed"
	"slatebell/core/ship/bridge"
	"slatebell/core/ship/firmware"
	"slatebell/core/table/breadboard"
	"slatebell/core/table/pinout"
	"slatebell/core/text/glyph"
	"slatebell/core/text/screen"
	"slatebell/core/wire/link"
	"slatebell/core/wire/sequence"
	"slatebell/formats/glyphs"
	"slatebell/formats/program"
	"slatebell/formats/stepcsv"
	"slatebell/formats/vcd"
	"slatebell/formats/wirehex"
	"slatebell/formats/wirelist"
)

// Kinds lists what a bench can be exported as.
var Kinds = []string{"c", "sketch", "micropython", "scanner", "test", "chart-screens", "bridge", "csv", "hex", "json", "vcd", "bdf", "pbm", "wires"}

// All stands for all modules.
const All = -1

// steps write the steps of a screen.
var steps = map[string]func(io.Writer, *sequence.Program) error{"csv": stepcsv.Write, "hex": wirehex.Write, "json": program.Write, "vcd": vcd.Write}

// Files writes a bench, or one of its modules, in a kind of Kinds, and says where a program
// does otherwise than its user may expect. Its error is a bench.Problem where a part of the
// bench stands in the way.
func Files(b *bench.Bench, module int, kind string) (files []source.File, notes []finding.Finding, err error) {
	list := []int{module}
	if module == All {
		list = nil
		for i := range b.Modules {
			list = append(list, i)
		}
	}
	switch kind {
	case "c", "sketch", "micropython":
		im, files, err := Program(b, module, codegen.Language(kind))
		if err != nil {
			return nil, nil, err
		}
		return files, codegen.Notes(im, codegen.Language(kind)), nil
	case "scanner":
		files, err = codegen.Scanner(firmware.Bare(b))
	case "test":
		files, err = tester(b, module)
	case "chart-screens":
		files, err = chartScreens(b, module)
	case "bridge":
		files, err = bridgeOf(b)
	case "csv", "hex", "json", "vcd":
		files, err = programs(b, list, kind)
	case "bdf", "pbm":
		files, err = drawings(b, list, module == All, kind)
	case "wires":
		files, err = wires(b, list)
	default:
		err = fmt.Errorf("%q is no kind of export; expected one of %s", kind, strings.Join(Kinds, ", "))
	}
	return files, nil, err
}

// bridgeOf writes the bridge of a bench.
func bridgeOf(b *bench.Bench) ([]source.File, error) {
	p, err := bridge.New(b)
	if err != nil {
		return nil, err
	}
	return codegen.Bridge(p, firmware.Bare(b))
}

// Program writes a program, with what its user has added, and returns its image. Modules
// whose pins are not chosen get the next free ones.
func Program(b *bench.Bench, module int, as codegen.Language) (*firmware.Image, []source.File, error) {
	pinned := pinout.Pinned(b)
	var list []int
	if module != All {
		list = append(list, module)
	}
	im, err := firmware.New(&pinned, list...)
	if err != nil {
		return nil, nil, err
	}
	for i := range im.Modules {
		m := &im.Modules[i]
		for _, line := range m.Link.HostPins() {
			if m.Link.Kind != link.Backpack && m.Pins[line] == "" {
				return nil, nil, bench.Problem{Path: fmt.Sprintf("/modules/%d/link/pins", m.At), What: fmt.Sprintf("%s has no pin of the host, and too few are free; choose one in the wiring", line)}
			}
		}
	}
	files, err := codegen.Files(im, as)
	if err != nil {
		return nil, nil, err
	}
	for i := range files {
		files[i] = source.Fill(files[i], func(section string) string { return b.Code.In(files[i].Template, section) })
	}
	return im, files, nil
}

// programs writes the steps of each screen, from power-up on.
func programs(b *bench.Bench, list []int, kind string) (files []source.File, err error) {
	for _, at := range list {
		m := &b.Modules[at]
		for i := range m.Screens {
			setup, err := testbed.Of(b, testbed.At{Module: at, Screen: i})
			if err != nil {
				return nil, err
			}
			r, err := run.Do(&setup, run.Options{})
			if err != nil {
				return nil, err
			}
			var out bytes.Buffer
			if err := steps[kind](&out, r.Program); err != nil {
				return nil, err
			}
			files = append(files, source.File{Name: fmt.Sprintf("%s-%s.%s", m.ID, m.Screens[i].ID, kind), Text: out.String()})
		}
	}
	return files, nil
}

// drawings writes the glyphs of modules: a font a module, or a picture a glyph; with the
// whole bench its library too.
func drawings(b *bench.Bench, list []int, whole bool, kind string) (files []source.File, err error) {
	add := func(name string, glyphsOf []glyph.Drawing) error {
		if len(glyphsOf) == 0 {
			return nil
		}
		if kind == "bdf" {
			var out bytes.Buffer
			files = append(files, source.File{Name: name + ".bdf"})
			err := glyphs.Write(&out, kind, glyphsOf)
			files[len(files)-1].Text = out.String()
			return err
		}
		for i := range glyphsOf {
			var out bytes.Buffer
			if err := glyphs.Write(&out, kind, glyphsOf[i:i+1]); err != nil {
				return err
			}
			files = append(files, source.File{Name: fmt.Sprintf("%s-%02d%s.pbm", name, i+1, dashed(glyphsOf[i].Name)), Text: out.String()})
		}
		return nil
	}
	for _, at := range list {
		m := &b.Modules[at]
		var of []glyph.Drawing
		for _, g := range m.Glyphs {
			of = append(of, glyph.Drawing{Key: len(of) + 1, Name: g.Name, Rows: g.Rows})
		}
		for _, s := range m.Screens {
			for _, d := range screen.Named(s.Rows, s.Fields, b.Glyphs) {
				if !slices.ContainsFunc(of, func(o glyph.Drawing) bool { return o.Name == d.Name && slices.Equal(o.Rows, d.Rows) }) {
					d.Key = len(of) + 1
					of = append(of, d)
				}
			}
		}
		if err := add(m.ID, of); err != nil {
			return nil, err
		}
	}
	if whole {
		if err := add("library", b.Glyphs); err != nil {
			return nil, err
		}
	}
	if len(files) == 0 {
		return nil, bench.Problem{Path: "/glyphs", What: "there are no glyphs to export; draw one, or show one of the library on a screen"}
	}
	return files, nil
}

// dashed writes a name for a file: small letters, digits and dashes, a dash before it.
func dashed(name string) string {
	out := strings.Map(func(r rune) rune {
		switch {
		case r >= 'a' && r <= 'z' || r >= '0' && r <= '9':
			return r
		case r >= 'A' && r <= 'Z':
			return r - 'A' + 'a'
		}
		return '-'
	}, name)
	if out = strings.Trim(out, "-"); out == "" {
		return ""
	}
	return "-" + out
}

// wires writes the wires of modules to work from, and the parts to buy.
func wires(b *bench.Bench, list []int) ([]source.File, error) {
	table, err := breadboard.Shown(b)
	if err != nil {
		return nil, fmt.Errorf("no plan: %w", err)
	}
	items := table.List()
	if len(list) < len(b.Modules) {
		id := b.Modules[list[0]].ID
		items = slices.DeleteFunc(items, func(i breadboard.Item) bool {
			return !strings.HasPrefix(i.From, id+"/") && !strings.HasPrefix(i.To, id+"/")
		})
	}
	var csv, text, parts bytes.Buffer
	if err := wirelist.WriteCSV(&csv, items); err != nil {
		return nil, err
	}
	if err := wirelist.WriteText(&text, items); err != nil {
		return nil, err
	}
	if err := wirelist.WriteParts(&parts, table.Parts()); err != nil {
		return nil, err
	}
	files := []source.File{{Name: "wires.csv", Text: csv.String()}, {Name: "wires.txt", Text: text.String()}}
	if len(list) == len(b.Modules) {
		files = append(files, source.File{Name: "parts.csv", Text: parts.String()})
	}
	return files, nil
}
