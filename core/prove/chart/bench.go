package chart

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"slatebell/core/bench"
	"slatebell/core/text/screen"
)

// stays is how long each screen of a chart stays, for a photograph to be taken of it, in milliseconds.
const stays = 6000

// Bench returns a bench of the same modules, joined as they are, that shows all codes of their ROMs, a screen after the other, for
// ever, each with the marks that say which it is. Its error says that a module cannot be built.
func Bench(b *bench.Bench) (*bench.Bench, error) {
	out := *b
	out.Name, out.Glyphs, out.Code = cmp.Or(b.Name, "bench")+" chart", nil, bench.Code{}
	out.Modules = slices.Clone(b.Modules)
	id := func(k int) string { return fmt.Sprintf("chart-%d", k+1) }
	for i := range out.Modules {
		m := &out.Modules[i]
		mod, err := m.Display.Module()
		if err != nil {
			return nil, bench.ProblemOf(fmt.Sprintf("/modules/%d/display", i), err)
		}
		m.Glyphs, m.Loading, m.Screens, m.Show = Marks(&mod), bench.Loading{}, nil, bench.Show{}
		screens := Screens(&mod)
		for k, codes := range screens {
			one := bench.Screen{ID: id(k), Name: fmt.Sprintf("Chart %d of %d", k+1, len(screens))}
			for row := range slices.Chunk(codes, mod.Geometry.Cols) {
				var typed strings.Builder
				for _, code := range row {
					typed.WriteRune(screen.CodeBase + rune(code))
				}
				one.Rows = append(one.Rows, typed.String())
			}
			m.Screens = append(m.Screens, one)
			m.Show.Scenes = append(m.Show.Scenes, bench.Scene{ID: id(k), Screen: id(k), Ends: []bench.End{{AfterMs: stays, Next: id((k + 1) % len(screens))}}})
		}
	}
	return &out, nil
}
