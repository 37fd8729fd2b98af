package replay

import (
	"strings"

	"slatebell/core/bench"
	"slatebell/core/part/hd44780"
	"slatebell/core/text/glyph"
	"slatebell/core/text/screen"
	"slatebell/core/wire/link"
)

// Bench is what a recording shows, as a bench: the link, its mapping and address, the glyphs that were loaded, and what the glass shows at the end
// as a screen. d is what is known of the module.
func (r *Replay) Bench(d bench.Display) bench.Bench {
	b := bench.New("Learnt from a recording")
	m := &b.Modules[0]
	m.ID, m.Name, m.Display = "learnt", "Learnt", d
	m.Link.Kind = string(r.found.Kind)
	if f := r.found; f.Kind == link.Backpack || f.Kind == link.ShiftReg {
		mapping := f.Mapping
		m.Link.Outputs.Mapping = &mapping
		if f.Address != 0 {
			m.Link.Outputs.Address = int(f.Address)
		}
	}
	loaded := map[int]bool{}
	inCGRAM, slot := false, 0
	for i := range r.Operations {
		op := &r.Operations[i]
		if op.RW {
			continue
		}
		switch op.Kind() {
		case hd44780.SetCGRAM:
			inCGRAM, slot = true, int(op.Byte&0x3F)
		case hd44780.SetDDRAM, hd44780.Clear, hd44780.Home:
			inCGRAM = false
		case hd44780.WriteData:
			if inCGRAM {
				loaded[slot/8%glyph.Slots] = true
				slot++
			}
		}
	}
	c := &r.rig.Controllers()[0]
	for slot := range glyph.Slots {
		if loaded[slot] {
			m.Glyphs = append(m.Glyphs, glyphOf(c, slot, glyph.Rows))
		}
	}
	g := r.Glass()
	rows := []string{}
	for row := range g.Rows {
		var text strings.Builder
		for _, cell := range g.Cells[row*g.Cols : (row+1)*g.Cols] {
			text.WriteRune(screen.Typed(r.module.ROM, cell.Code))
		}
		rows = append(rows, strings.TrimRight(text.String(), " "))
	}
	for len(rows) > 0 && rows[len(rows)-1] == "" {
		rows = rows[:len(rows)-1]
	}
	m.Screens[0].Rows = rows
	return b
}
