package export

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"slatebell/codegen"
	"slatebell/codegen/source"
	"slatebell/core/bench"
	"slatebell/core/ship/firmware"
	"slatebell/core/text/glyph"
	"slatebell/core/text/screen"
)

// Tester returns a bench of the same modules, joined as they are, that shows what tells whether they
// work: a block, a row of blocks, and letters of the ROM, a second each, as the steps of first light
// expect them. Its error says that a module cannot be built.
func Tester(b *bench.Bench) (*bench.Bench, error) {
	out := *b
	out.Name, out.Glyphs, out.Code = cmp.Or(b.Name, "bench")+" test", nil, bench.Code{}
	out.Modules = slices.Clone(b.Modules)
	for i := range out.Modules {
		m := &out.Modules[i]
		mod, err := m.Display.Module()
		if err != nil {
			return nil, bench.ProblemOf(fmt.Sprintf("/modules/%d/display", i), err)
		}
		g := &mod.Geometry
		block, ok := mod.ROM.Code('█')
		if !ok {
			block, _ = mod.ROM.Code('#')
		}
		one := string(rune(screen.CodeBase) + rune(block))
		letters := ""
		for code := 0x20; code < 0x100; code++ {
			if ch, ok := mod.ROM.Rune(byte(code)); ok && ch != ' ' {
				letters += string(rune(screen.CodeBase) + rune(code))
			}
		}
		m.Show, m.Glyphs = bench.Show{}, glyph.Bank{}
		m.Screens = []bench.Screen{{ID: "block", Name: "Block", Rows: []string{one}}, {ID: "row", Name: "Row", Rows: []string{strings.Repeat(one, g.Cols)}}, {ID: "letters", Name: "Letters", Rows: inRows(letters, g.Cols, g.Rows)}}
	}
	return &out, nil
}

// inRows writes a text into rows, as much as they take.
func inRows(text string, cols, rows int) (out []string) {
	runes := []rune(text)
	for len(out) < rows && len(runes) > 0 {
		n := min(cols, len(runes))
		out, runes = append(out, string(runes[:n])), runes[n:]
	}
	return out
}

// tester writes the first test of modules, in every form that the bench's host takes; the light of those
// that have one blinks beside.
func tester(b *bench.Bench, module int) (out []source.File, err error) {
	derived, err := Tester(b)
	if err != nil {
		return nil, err
	}
	return inForms(derived, module, func(im *firmware.Image, as codegen.Language, section string) string {
		if section == "each second" {
			return codegen.Blinks(im, as)
		}
		return ""
	})
}

// inForms writes a program in every form that the bench's host takes, that which suits it best first; own says what stands in a section of its
// user's.
func inForms(b *bench.Bench, module int, own func(im *firmware.Image, as codegen.Language, section string) string) (out []source.File, err error) {
	board := b.Host.Board()
	forms := []codegen.Language{codegen.Suits(&board)}
	for _, as := range codegen.Languages {
		if codegen.Runs(&board, as) && !slices.Contains(forms, as) {
			forms = append(forms, as)
		}
	}
	for _, as := range forms {
		im, files, err := Program(b, module, as)
		if err != nil {
			return nil, err
		}
		for i := range files {
			files[i] = source.Fill(files[i], func(section string) string { return own(im, as, section) })
		}
		out = append(out, files...)
	}
	return out, nil
}
