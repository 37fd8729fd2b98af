package rig

import (
	"slices"
	"strings"
	"time"

	"slatebell/core/part/charrom"
	"slatebell/core/part/hd44780"
	"slatebell/core/part/module"
	"slatebell/core/wire/link"
	"slatebell/core/wire/sequence"
)

// ShownCell is one character place of the glass.
type ShownCell struct {
	Code    byte         // what DDRAM holds for it
	Dots    charrom.Dots // what is lit, cursor and blink included
	Below   [3]byte      // rows 9–11 of a cell with 5×10 dots, the cursor's line last
	Scanned bool         // the duty reaches its line
}

// Glass is what the module shows: cells row by row, left to right.
type Glass struct {
	Cols, Rows int
	CellRows   int // rows of dots of a cell, 8 or 11
	Cells      []ShownCell
	On         bool            // the display is on
	Light      bool            // the backlight is fed
	Look       module.Look     // how strongly the dots stand out
	Short      bool            // of cells with 11 rows the duty reaches 8 only
	Cursor     sequence.Cursor // where it is seen; neither line nor block where it is not
}

// Glass draws a moment of a module. contrast is as in module.Look.
func (mo *Moment) Glass(m *module.Module, contrast float64) Glass {
	return mo.GlassIn(nil, m, contrast)
}

// GlassIn is Glass in the room of cells that are needed no more.
func (mo *Moment) GlassIn(room []ShownCell, m *module.Module, contrast float64) Glass {
	n := m.Geometry.Cells()
	room = slices.Grow(room[:0], n)[:n]
	clear(room)
	g := Glass{Cols: m.Geometry.Cols, Rows: m.Geometry.Rows, CellRows: m.CellRows(), Cells: room, Light: mo.Pins&link.Backlight != 0}
	for _, seg := range m.Geometry.Segments {
		c := &mo.Controllers[seg.Controller]
		g.On = g.On || c.DisplayOn
		scanned := c.TwoLine || seg.Start < 0x40
		here, _ := c.Index(c.AC)
		pointed := c.DisplayOn && !c.InCGRAM && (c.CursorOn || c.BlinkOn)
		for i := range seg.Len {
			cell := &g.Cells[seg.Row*g.Cols+seg.Col+i]
			cell.Scanned = scanned
			if !scanned {
				continue
			}
			place := c.Shown(seg.Start + uint8(i))
			cell.Code = c.DDRAM[place]
			if pointed && here == place {
				g.Cursor = sequence.Cursor{Line: c.CursorOn, Block: c.BlinkOn, Row: seg.Row, Col: seg.Col + i}
			}
			if c.DisplayOn {
				cell.Dots, cell.Below = mo.dots(m, seg.Controller, place, cell.Code)
			}
		}
	}
	first := &mo.Controllers[0]
	duty := hd44780.Duty(first.TwoLine, first.Tall)
	g.Short = m.Tall && duty == 8
	g.Look = m.Look(contrast, duty, first.Brightness)
	return g
}

// dots is what a place in DDRAM lights: the character, the underline cursor
// ORed into the last row of its font, and the blinking block. Rows 9–11 are lit
// in the 5×10 font only; a module whose cells lack them does not show them.
func (mo *Moment) dots(m *module.Module, controller, place int, code byte) (d charrom.Dots, below [3]byte) {
	c := &mo.Controllers[controller]
	tall := c.Tall && !c.TwoLine
	if _, ok := m.ROM.Slot(code); ok {
		d, below = pattern(c.CGRAM[:], code, tall)
	} else {
		d = m.ROM.Dots(code)
		more := m.ROM.Below(code)
		copy(below[:], more[:])
	}
	if here, _ := c.Index(c.AC); !c.InCGRAM && here == place {
		if c.BlinkOut(mo.At) {
			d, below = block, [3]byte(block[:3])
		} else if c.CursorOn && tall {
			below[2] |= 0x1F
		} else if c.CursorOn {
			d[7] |= 0x1F
		}
	}
	if !tall || !m.Tall {
		below = [3]byte{}
	}
	return d, below
}

// block is a cell with every dot lit.
var block = charrom.Dots{0x1F, 0x1F, 0x1F, 0x1F, 0x1F, 0x1F, 0x1F, 0x1F}

// pattern reads a user's pattern: eight of 5×8 dots, aliased at codes 8–15, or
// four of 5×10, of which the rows below the eighth come apart.
func pattern(cgram []byte, code byte, tall bool) (d charrom.Dots, below [3]byte) {
	base := int(code&7) * 8
	if tall {
		base = int(code>>1&3) * 16
		for i := range below {
			below[i] = cgram[base+8+i] & 0x1F
		}
	}
	for i := range d {
		d[i] = cgram[base+i] & 0x1F
	}
	return d, below
}

// Text returns the rows as characters, for reading and for comparison: codes
// without a character show as '\uFFFD', glyphs as '①' for slot 0 to '⑧' for
// slot 7; all spaces while the display is off.
func (g *Glass) Text(rom *charrom.ROM) []string {
	rows := make([]string, g.Rows)
	var b strings.Builder
	for r := range rows {
		b.Reset()
		for _, c := range g.Cells[r*g.Cols : (r+1)*g.Cols] {
			b.WriteRune(shownRune(rom, c, g.On))
		}
		rows[r] = b.String()
	}
	return rows
}

func shownRune(rom *charrom.ROM, c ShownCell, on bool) rune {
	if !on || !c.Scanned {
		return ' '
	}
	if ch, ok := rom.Rune(c.Code); ok {
		return ch
	}
	if slot, ok := rom.Slot(c.Code); ok {
		return '①' + rune(slot)
	}
	if rom.Dots(c.Code) == (charrom.Dots{}) {
		return ' '
	}
	return '\uFFFD'
}

// BlinkAt returns the moment at another time, memory unchanged: what blinks may
// then show its other side.
func (mo Moment) BlinkAt(at time.Duration) Moment {
	mo.At = at
	return mo
}

// Window returns, for each byte of a controller's DDRAM by its index, the cell
// of the glass that shows it, row by row; -1 for memory outside the window.
func (mo *Moment) Window(m *module.Module, controller int) []int {
	c := &mo.Controllers[controller]
	out := make([]int, len(c.DDRAM))
	for i := range out {
		out[i] = -1
	}
	for _, seg := range m.Geometry.Segments {
		if seg.Controller != controller || !c.TwoLine && seg.Start >= 0x40 {
			continue
		}
		for i := range seg.Len {
			out[c.Shown(seg.Start+uint8(i))] = seg.Row*m.Geometry.Cols + seg.Col + i
		}
	}
	return out
}
