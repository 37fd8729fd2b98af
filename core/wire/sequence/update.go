package sequence

import (
	"fmt"
	"slices"

	"slatebell/core/part/hd44780"
	"slatebell/core/part/module"
	"slatebell/core/text/glyph"
	"slatebell/core/wire/link"
	"slatebell/core/wire/update"
)

// Update appends the cheapest operations after which the glass shows cells, as
// far as it is known what it shows now, and the cursor stands in its cell; glyphs
// that are not in CGRAM yet are loaded on the way, before a cell shows them.
func (b *Builder) Update(cells []byte, glyphs glyph.Bank, k Cursor, a update.Allowed) {
	g, costs := &b.module.Geometry, b.Costs()
	var states [2]update.State
	var goals [2]update.Goal
	for i := range g.Controllers {
		s := &b.shadows[i]
		states[i] = s.state(b.last)
		goals[i] = update.Goal{Cells: slices.Repeat(update.Want{update.Any}, len(s.DDRAM)), Cursor: update.Unknown}
		seg, col, here := b.cursorOf(k, i)
		if here {
			goals[i].Cursor, _ = s.Index(seg.Start + uint8(col))
		}
		goals[i].Set = b.looks(i, here && k.Line, here && k.Block)
	}
	goals[0].Loads = b.loads(glyphs)
	for _, seg := range g.Segments {
		for i := range seg.Len {
			at, _ := b.shadows[seg.Controller].Index(seg.Start + uint8(i))
			goals[seg.Controller].Cells[at] = int(cells[seg.Row*g.Cols+seg.Col+i])
		}
	}
	var ops []update.Op
	if memory := b.shadows[0].memory(); g.Controllers == 2 {
		ops, _ = update.NewTwo(memory, states, goals, *costs, a)
	} else {
		ops, _ = update.New(memory, states[0], goals[0], *costs, a)
	}
	for _, o := range ops {
		b.planned(o, glyphs)
	}
}

// loads is what glyphs take to be loaded, and the codes that show them.
func (b *Builder) loads(glyphs glyph.Bank) (l update.Loads) {
	b.eachSlot(glyphs, func(slot int, _ *glyph.Glyph, addressed bool) {
		if addressed {
			l.Runs++
		}
		l.Bytes += b.module.CellRows()
		for code := range l.Codes {
			if at, ok := b.module.Slot(byte(code)); ok && at == slot {
				l.Codes[code] = true
			}
		}
	})
	return l
}

// planned appends an operation of an update.
func (b *Builder) planned(o update.Op, glyphs glyph.Bank) {
	enable := link.Enable(o.Which)
	switch o.Kind {
	case update.Load:
		b.Load(glyphs)
	case update.Clear:
		b.set(hd44780.ClearByte, enable)
	case update.Home:
		b.set(hd44780.HomeByte, enable)
	case update.Left:
		b.set(hd44780.ShiftBase|hd44780.ShiftGlass, enable)
	case update.Right:
		b.set(hd44780.ShiftBase|hd44780.ShiftGlass|hd44780.ShiftRight, enable)
	case update.Set:
		b.set(o.Code, enable)
	case update.Address:
		b.addressAt(o.Index, enable)
	case update.Write:
		b.write(o.Index, enable, o.Code)
	}
}

// cellAt returns the segment and the cell in it that show a place of a
// controller's DDRAM while the glass stands as it does; false for a place that is
// not on the glass.
func (b *Builder) cellAt(index, controller int) (seg module.Segment, i int, ok bool) {
	s := &b.shadows[controller]
	n := s.Columns()
	at := s.Address(index/n*n + (index%n-int(s.Offset)+n)%n)
	for _, seg := range b.module.Geometry.Segments {
		if i := int(at) - int(seg.Start); seg.Controller == controller && i >= 0 && i < seg.Len {
			return seg, i, true
		}
	}
	return seg, 0, false
}

// ShiftLeft appends an instruction that moves the glass of every controller one
// column over its memory: what it shows moves to the left.
func (b *Builder) ShiftLeft() { b.set(hd44780.ShiftBase|hd44780.ShiftGlass, b.all()) }

// Hidden appends what writes a code beyond the glass: into the place of memory that
// would stand in a column of a row if the row went on, 0-based. The address is left
// out where the counter stands there.
func (b *Builder) Hidden(row, col int, code byte) {
	for _, seg := range b.module.Geometry.Segments {
		if seg.Row != row {
			continue
		}
		s, enable := &b.shadows[seg.Controller], enableOf(seg)
		first, _ := s.Index(seg.Start)
		n := s.Columns()
		index := first/n*n + (first%n+col-seg.Col+int(s.Offset))%n
		if !s.placed || s.InCGRAM || s.AC != s.Address(index) {
			b.addressAt(index, enable)
		}
		b.write(index, enable, code)
		return
	}
}

// shownBy returns the address whose character a cell shows while the glass stands
// as it does.
func (b *Builder) shownBy(seg module.Segment, i int) uint8 {
	s := &b.shadows[seg.Controller]
	return s.Address(s.Shown(seg.Start + uint8(i)))
}

func (b *Builder) addressAt(index int, enable link.Enable) {
	controller := int(enable) % 2
	if seg, i, ok := b.cellAt(index, controller); ok && enable != link.Both {
		b.address(seg, i)
		return
	}
	a := b.shadows[controller].Address(index)
	where := "not on the glass"
	if enable == link.Both {
		where = "of both controllers"
	}
	b.Do(Address, hd44780.Command(hd44780.DDRAMBase|a), enable, fmt.Sprintf("DDRAM address 0x%02X: %s", a, where))
}

func (b *Builder) write(index int, enable link.Enable, code byte) {
	controller := int(enable) % 2
	if seg, i, ok := b.cellAt(index, controller); ok && enable != link.Both {
		b.character(seg, i, code)
		return
	}
	where := "not on the glass"
	if enable == link.Both {
		where = "of both controllers"
	}
	b.do(Step{Kind: Text, Op: hd44780.Data(code), Enable: enable, Row: -1, Col: -1,
		Meaning: fmt.Sprintf("%s: DDRAM 0x%02X, %s", b.name(code), b.shadows[controller].Address(index), where)})
}
