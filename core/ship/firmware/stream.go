package firmware

import (
	"fmt"
	"strings"

	"slatebell/core/part/hd44780"
	"slatebell/core/wire/link"
	"slatebell/core/wire/sequence"
)

// Stream is operations as the program's tables hold them, ended by a 0:
//
//	01–0F        an instruction
//	1C–1E        what follows is for E, E2, both
//	20–3F n n…   1–32 characters, whose codes follow
//	40–5F at     1–32 characters that fields show, from a place of the shadow on
//	80–FF        a DDRAM address
//
// A clear and a home are instructions; a byte of data that belongs to no cell (the
// brightness of some VFDs) is a character.
type Stream []byte

// The marks of a stream.
const (
	EndMark     = 0x00
	EnableMark  = 0x1C
	TextMark    = 0x20
	FieldMark   = 0x40
	AddressMark = 0x80
	longestRun  = 32
)

// stream lays down the steps of a program that leads to a screen.
func (m *Module) stream(p *sequence.Program, to *Screen) Stream {
	var s Stream
	enable, kept := link.First, 0
	if m.Display.Geometry.Controllers == 2 {
		enable = link.Enable(0xFF) // none yet
	}
	run := -1 // where the mark of an open run stands
	for i := range p.Steps {
		step := &p.Steps[i]
		if !step.Sends() || step.Op.RW { // reads of the busy flag are the program's own
			continue
		}
		if step.Enable != enable && m.Display.Geometry.Controllers == 2 {
			enable, run = step.Enable, -1
			s = append(s, EnableMark+byte(enable))
		}
		if !step.Op.RS {
			s, run = append(s, step.Op.Byte), -1
			continue
		}
		place := 0
		if to != nil && step.Row >= 0 {
			place = to.owner[step.Row*m.Display.Geometry.Cols+step.Col]
		}
		if place > 0 {
			pl := &m.Places[place-1]
			at := pl.Offset + step.Col - pl.Col
			if run >= 0 && s[run] >= FieldMark && s[run] < FieldMark+longestRun-1 && at == kept {
				s[run]++
			} else {
				run = len(s)
				s = append(s, FieldMark, byte(at))
			}
			kept = at + 1
			continue
		}
		if run >= 0 && s[run] < TextMark+longestRun-1 {
			s[run]++
		} else {
			run = len(s)
			s = append(s, TextMark)
		}
		s = append(s, step.Op.Byte)
	}
	return append(s, EndMark)
}

// Explained is one operation of a stream, or a run of characters, with what it does.
type Explained struct {
	Bytes []byte
	Says  string
}

// Explain takes a stream apart, without its end.
func (m *Module) Explain(s Stream) (out []Explained) {
	enable := link.First
	for i := 0; i < len(s) && s[i] != EndMark; {
		mark, n := s[i], 1
		says := ""
		switch {
		case mark >= AddressMark:
			says = fmt.Sprintf("address 0x%02X", mark&^AddressMark)
			if row, col, ok := m.cellOf(int(enable), mark&^AddressMark); ok {
				says = fmt.Sprintf("row %d, column %d", row+1, col+1)
			}
		case mark >= FieldMark:
			n, says = 2, fmt.Sprintf("%d of what fields show", mark-FieldMark+1)
		case mark >= TextMark:
			n = 2 + int(mark-TextMark)
			says = m.spelled(s[i+1 : i+n])
		case mark >= EnableMark:
			enable = link.Enable(mark - EnableMark)
			says = "to " + enable.String()
		default:
			says = m.Display.Family.Explain(hd44780.Command(mark))
		}
		out = append(out, Explained{s[i : i+n], says})
		i += n
	}
	return out
}

// cellOf returns the cell at an address of a controller.
func (m *Module) cellOf(controller int, address uint8) (row, col int, ok bool) {
	for _, seg := range m.Display.Geometry.Segments {
		if i := int(address) - int(seg.Start); seg.Controller == controller && i >= 0 && i < seg.Len {
			return seg.Row, seg.Col + i, true
		}
	}
	return 0, 0, false
}

// spelled writes codes as the characters that they show.
func (m *Module) spelled(codes []byte) string {
	var b strings.Builder
	for _, code := range codes {
		if ch, ok := m.Display.ROM.Rune(code); ok {
			b.WriteRune(ch)
		} else {
			fmt.Fprintf(&b, `\x%02X`, code)
		}
	}
	return "\"" + b.String() + "\""
}
