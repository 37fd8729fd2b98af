package sequence

import (
	"fmt"
	"strings"

	"slatebell/core/part/hd44780"
	"slatebell/core/part/module"
	"slatebell/core/place"
	"slatebell/core/text/glyph"
	"slatebell/core/wire/link"
)

// PowerUp appends the wait for the supply, and brings an expander's outputs to
// rest. The wait is the data sheet's for 2.7 V, since a host may start before
// its 5 V supply is up.
func (b *Builder) PowerUp() {
	b.WaitFor(hd44780.WaitAt3V, "Supply up: wait more than 40 ms")
	if b.coder.Expanded() {
		b.add(Step{Kind: Park, Enable: b.all(), Meaning: "Expander outputs to rest, E first", Row: -1, Col: -1})
	}
}

// Initialise appends the initialisation by instruction after PowerUp, data
// sheet figures 23 (8-bit) and 24 (4-bit).
func (b *Builder) Initialise() {
	wakeByte := hd44780.FuncBase | hd44780.EightBit
	b.wake(wakeByte, hd44780.WaitAfterFirst, "8-bit interface, first of three")
	b.wake(wakeByte, hd44780.WaitAfterSecond, "8-bit interface, second of three")
	b.wake(wakeByte, b.execution(hd44780.Command(wakeByte)), "8-bit interface, third of three")
	set := hd44780.FuncBase
	if b.coder.Width() == 8 {
		set |= hd44780.EightBit
	} else {
		b.wake(set, b.execution(hd44780.Command(set)), "4-bit interface from here on")
	}
	if b.module.Geometry.TwoLine {
		set |= hd44780.TwoLine
	} else if b.module.Tall {
		set |= hd44780.Tall
	}
	b.functionSet(set)
	b.setting(hd44780.DisplayOff)
	b.setting(hd44780.ClearByte)
	b.setting(hd44780.EntryBase | hd44780.Increment)
	b.setting(hd44780.DisplayOff | hd44780.DisplayOn)
}

// percent names a brightness in quarters below full.
func percent(brightness uint8) int { return 100 - 25*int(brightness&3) }

// functionSet appends the function set that fixes width and lines, and the
// brightness of a VFD where its family takes it.
func (b *Builder) functionSet(set byte) {
	dim := b.opts.Brightness & 3
	switch b.module.Family {
	case hd44780.VFDFunctionSet:
		b.setting(set | dim)
	case hd44780.VFDDataByte:
		b.setting(set)
		b.Do(Setting, hd44780.Data(dim), b.all(), fmt.Sprintf("Brightness %d %%, a data byte directly after the function set", percent(dim)))
	default:
		b.setting(set)
	}
}

func (b *Builder) setting(data byte) { b.set(data, b.all()) }

// Load appends what puts glyphs into CGRAM, slot after slot. It leaves the
// address counter in CGRAM; Update sets it before every run of cells.
func (b *Builder) Load(bank glyph.Bank) {
	b.eachSlot(bank, func(slot int, g *glyph.Glyph, addressed bool) {
		if addressed {
			b.cgramAddress(slot, 0)
		}
		rows := g.Pattern()
		for row := range b.module.CellRows() {
			b.glyphRow(g, rows[row], row)
		}
	})
}

// eachSlot goes through the slots that hold a glyph; addressed says that the one
// before it leaves the address counter elsewhere.
func (b *Builder) eachSlot(bank glyph.Bank, do func(slot int, g *glyph.Glyph, addressed bool)) {
	follows := -1 // slot at which the address counter stands
	for slot := range glyph.Slots {
		g, ok := bank.In(slot)
		if !ok {
			continue
		}
		do(slot, &g, slot != follows)
		if !b.module.Tall {
			follows = slot + 1
		}
	}
}

func (b *Builder) cgramAddress(slot, row int) {
	a := byte(slot*glyph.Rows + row)
	b.Do(Address, hd44780.Command(hd44780.CGRAMBase|a), b.all(), fmt.Sprintf("CGRAM address 0x%02X: slot %d", a, slot))
}

func (b *Builder) glyphRow(g *glyph.Glyph, bits byte, row int) {
	if b.opts.Mute {
		b.Do(Glyph, hd44780.Data(bits), b.all(), "")
		return
	}
	b.Do(Glyph, hd44780.Data(bits), b.all(), fmt.Sprintf("Row %d of %s, slot %d", row+1, g.Title(), g.Slot))
}

// Redraw appends what turns the pattern in a slot into another glyph, row by row
// where they differ: every cell that shows the slot changes with it. It leaves
// the address counter in CGRAM.
func (b *Builder) Redraw(shown glyph.Pattern, g *glyph.Glyph) {
	rows := g.Pattern()
	next, open := 0, false // row at which the address counter stands
	for row := range b.module.CellRows() {
		if shown[row] == rows[row] {
			continue
		}
		if !open || !b.Costs().Bridges(row-next) {
			b.cgramAddress(g.Slot, row)
			next, open = row, true
		}
		for ; next <= row; next++ {
			b.glyphRow(g, rows[next], next)
		}
	}
}

// Cursor is how the cursor is left once a screen is written; the zero value
// leaves none.
type Cursor struct {
	Line, Block bool
	Row, Col    int // 0-based
}

// Control is the display control that gives the cursor its looks.
func (k Cursor) Control() byte {
	set := hd44780.DisplayOff | hd44780.DisplayOn
	if k.Line {
		set |= hd44780.CursorOn
	}
	if k.Block {
		set |= hd44780.BlinkOn
	}
	return set
}

// Leave appends what puts the cursor into its cell and gives it its looks, or turns
// it off; what is so already is left out. A cursor outside the glass is none.
func (b *Builder) Leave(k Cursor) {
	for i := range b.module.Geometry.Controllers {
		seg, col, here := b.cursorOf(k, i)
		if s := &b.shadows[i]; here && (!s.placed || s.InCGRAM || s.AC != b.shownBy(seg, col)) {
			b.address(seg, col)
		}
		if set := b.looks(i, here && k.Line, here && k.Block); set != 0 {
			b.set(set, link.Enable(i))
		}
	}
}

// cursorOf returns the segment and the cell in it where a cursor stands; false
// where it is none, or stands on another controller or outside the glass.
func (b *Builder) cursorOf(k Cursor, controller int) (seg module.Segment, i int, ok bool) {
	for _, seg := range b.module.Geometry.Segments {
		if seg.Controller == controller && seg.Row == k.Row && k.Col >= seg.Col && k.Col < seg.Col+seg.Len {
			return seg, k.Col - seg.Col, k.Line || k.Block
		}
	}
	return seg, 0, false
}

// looks returns the display control that gives a controller's cursor its looks; 0
// where it has them.
func (b *Builder) looks(controller int, line, block bool) byte {
	s := &b.shadows[controller]
	if s.CursorOn == line && s.BlinkOn == block {
		return 0
	}
	return Cursor{Line: line, Block: block}.Control()
}

// set appends an instruction of the controller's settings.
func (b *Builder) set(data byte, enable link.Enable) {
	op := hd44780.Command(data)
	b.Do(Setting, op, enable, b.module.Family.Explain(op))
}

func enableOf(seg module.Segment) link.Enable {
	if seg.Controller == 1 {
		return link.Second
	}
	return link.First
}

func (b *Builder) address(seg module.Segment, i int) {
	a := b.shownBy(seg, i)
	var says place.Text
	if !b.opts.Mute {
		says = place.Sprintf("DDRAM address 0x%02X: %P", a, place.Cell(seg.Row, seg.Col+i))
	}
	b.do(Step{Kind: Address, Op: hd44780.Command(hd44780.DDRAMBase | a), Enable: enableOf(seg), Meaning: says.S, Places: says.Places, Row: -1, Col: -1})
}

func (b *Builder) character(seg module.Segment, i int, code byte) {
	row, col := seg.Row, seg.Col+i
	var says place.Text
	if !b.opts.Mute {
		says = place.Sprintf("%s: %P", b.name(code), place.Cell(row, col))
	}
	b.do(Step{Kind: Text, Op: hd44780.Data(code), Enable: enableOf(seg), Row: row, Col: col, Meaning: says.S, Places: says.Places})
}

// name says in words what a code shows.
func (b *Builder) name(code byte) string {
	if code == ' ' {
		return "space"
	}
	if ch, ok := b.module.ROM.Rune(code); ok {
		return "'" + string(ch) + "'"
	}
	if slot, ok := b.module.Slot(code); ok {
		if g, drawn := b.opts.Glyphs.In(slot); drawn {
			return fmt.Sprintf("glyph %s, slot %d", g.Title(), slot)
		}
		return fmt.Sprintf("glyph in slot %d", slot)
	}
	return fmt.Sprintf("code 0x%02X", code)
}

// raw appends a byte for the outputs of an expander or shift register. What the controllers make of
// it is not tracked; they get the time of their slowest instruction for it.
func (b *Builder) raw(data byte) error {
	if !b.coder.Expanded() {
		return fmt.Errorf("raw byte 0x%02X: this link has no expander that takes one; expected an instruction", data)
	}
	b.add(Step{Kind: Raw, Op: hd44780.Operation{Byte: data}, Enable: b.all(), Row: -1, Col: -1, Wait: b.execution(hd44780.Command(0x01)),
		Meaning: fmt.Sprintf("Raw byte 0x%02X to the outputs: %s", data, outputsHigh(b.coder.Link(), data))})
	return nil
}

// outputsHigh lists the outputs that a byte puts high: P7 P5 of an expander, QH QF of a register.
func outputsHigh(l link.Link, data byte) string {
	var high []string
	for bit := 7; bit >= 0; bit-- {
		if data>>bit&1 != 0 {
			high = append(high, l.Output(bit))
		}
	}
	if high == nil {
		return "all low"
	}
	return strings.Join(high, " ") + " high"
}

// ByHand appends an operation given by hand. Its error says why the link cannot carry it.
func (b *Builder) ByHand(a Aimed) error {
	if a.Raw {
		return b.raw(a.Op.Byte)
	}
	if b.module.Geometry.Controllers == 1 {
		a.Enable = link.First
	}
	if wired := b.coder.Link(); a.Op.RW && !wired.ReadWrite {
		return fmt.Errorf("%s: R/W is not joined to the host on this link, so that nothing can be read; expected a write", a.Op.Lookup().Name)
	}
	if a.Op.RW && a.Enable == link.Both {
		return fmt.Errorf("%s: with both enables high two controllers would drive the bus against each other; expected E or E2", a.Op.Lookup().Name)
	}
	meaning := b.module.Family.Explain(a.Op)
	if a.Op.RW { // the byte is not known before it is read
		meaning = a.Op.Lookup().Name
	}
	b.Do(Live, a.Op, a.Enable, meaning)
	return nil
}
