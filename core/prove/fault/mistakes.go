package fault

import (
	"fmt"
	"strings"

	"slatebell/core/part/charrom"
	"slatebell/core/part/hd44780"
	"slatebell/core/part/module"
	"slatebell/core/wire/sequence"
)

// starts lists what can be wrong with how a program begins and waits.
func (l *lister) starts() {
	s := l.s
	four := s.Link.Width() == 4
	l.grouped("start", "start.none", nil, nil, func(st *state) { st.program.start = noStart })
	if four {
		l.grouped("start", "start.bytes", nil, nil, func(st *state) { st.program.start = byteStart })
		l.grouped("start", "start.again", []string{"in the middle of a byte"}, nil, func(st *state) { st.program.start = halfStart }).Passing = true
		l.list[len(l.list)-1].ID = "start.again:byte"
		l.grouped("start", "start.again", []string{"between two bytes"}, nil, func(st *state) { st.program.start = evenStart }).Passing = true
		l.list[len(l.list)-1].ID = "start.again:between"
	}
	l.grouped("set", "start.lines", nil, nil, func(st *state) { st.program.set ^= hd44780.TwoLine })
	width := "8"
	if !four {
		width = "4"
	}
	l.grouped("set", "start.width", []string{width}, nil, func(st *state) { st.program.set ^= hd44780.EightBit })
	if s.Module.Technology == module.LCD {
		l.grouped("set", "start.font", nil, nil, func(st *state) { st.program.set ^= hd44780.Tall })
	}
	l.grouped("waits", "wait.none", nil, nil, func(st *state) { st.program.waits = noWaits })
	l.grouped("waits", "wait.clear", nil, nil, func(st *state) { st.program.waits = clearShort })
	l.grouped("clock", "clock.slow", nil, nil, func(st *state) { st.slow = true })
	l.grouped("entry", "entry.back", nil, nil, func(st *state) { st.program.entry = hd44780.Increment })
	l.grouped("entry", "entry.shift", nil, nil, func(st *state) { st.program.entry = hd44780.AutoShift })
	l.add("display.off", nil, nil, func(st *state) { st.program.off = true })
}

// titleOf names a geometry for people.
func titleOf(g *module.Geometry) string {
	if g.Note != "" {
		return g.Title + " (" + g.Note + ")"
	}
	return g.Title
}

// places lists what can be wrong with where a program writes.
func (l *lister) places() {
	g := &l.s.Module.Geometry
	for i, other := range module.Geometries {
		if other.Name != g.Name && other.Controllers == g.Controllers && !(l.s.Module.Tall && other.TwoLine) {
			l.grouped("place", "place.geometry", []string{titleOf(&other)}, nil, func(st *state) { st.program.geometry = int8(i + 1) }).ID = "place.geometry:" + other.Name
		}
	}
	fits := true
	for _, seg := range g.Segments {
		st := hd44780.State{TwoLine: g.TwoLine}
		_, ok := st.Index(seg.Start + uint8(seg.Len))
		fits = fits && ok
	}
	if fits {
		l.grouped("place", "place.column", nil, nil, func(st *state) { st.program.right = true })
	}
	if g.Rows > 1 {
		l.grouped("place", "place.row", nil, nil, func(st *state) { st.program.down = true })
		l.grouped("place", "place.wrap", nil, nil, func(st *state) { st.program.wrap = true })
		l.grouped("place", "place.onward", nil, nil, func(st *state) { st.program.onward = true })
	}
	for row, over := range l.layout.Over {
		if over != "" && row < g.Rows && !l.s.Text.Scroll.Runs(row) {
			f := l.grouped("place", "text.long", []string{strings.TrimSpace(l.layout.Text(row, 0)) + "…"}, nil, func(st *state) { st.program.uncut = true })
			f.ID = fmt.Sprintf("text.long:%d", row+1)
			f.Weight, l.list[0].Weight = l.list[0].Weight, f.Weight // it is so: what fits is not all that was sent
			break
		}
	}
	others := min(len(l.s.Others), 100)
	for i := range others {
		f := l.grouped("place", "text.left", []string{fmt.Sprintf("screen %d", i+1)}, nil, func(st *state) { st.program.before = int8(i + 1) })
		f.ID = fmt.Sprintf("text.left:%d", i+1)
		f.Weight /= float64(others) // with many screens a text is not left more often
	}
	l.grouped("place", "text.left", []string{"of some other text"}, nil, func(st *state) { st.program.before = everything }).ID = leftOver
}

// glyphs lists what can be wrong with glyphs and characters.
func (l *lister) glyphs() {
	for _, c := range l.layout.Codes() {
		if _, ok := l.s.Module.ROM.Slot(c); ok {
			l.grouped("glyph", "glyph.slot", nil, nil, func(st *state) { st.program.slot = true })
			l.grouped("glyph", "glyph.missing", nil, nil, func(st *state) { st.program.unloaded = true })
			break
		}
	}
	for i, name := range charrom.Names() {
		if rom, _ := charrom.ByName(name); rom != l.s.Module.ROM {
			l.grouped("rom", "rom.other", []string{name}, nil, func(st *state) { st.rom = int8(i + 1) })
		}
	}
}

// traffic lists pulses of E that go missing.
func (l *lister) traffic() {
	s, err := l.x.compile(program{}, nil)
	if err != nil {
		return // New has said so
	}
	for i := range s.main.Steps {
		step := &s.main.Steps[i]
		nth := 0
		for w := step.First; w < step.First+step.Count; w++ {
			if !s.main.Coder.Raises(s.main.Words[w]) {
				continue
			}
			nth++
			place := fmt.Sprint(i + 1)
			if nth > 1 {
				place += " (its second nibble)"
			}
			f := l.grouped("traffic", "nibble.lost", []string{place}, nil, func(st *state) { st.lost = int32(w + 1) })
			f.ID = fmt.Sprintf("nibble.lost:%d.%d", i+1, nth)
			f.Passing, f.alone = true, true
			if step.Kind == sequence.Text {
				f.Weight /= 4
			}
		}
	}
}
