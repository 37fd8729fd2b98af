package sequence

import (
	"slices"

	"slatebell/core/part/hd44780"
	"slatebell/core/part/module"
	"slatebell/core/wire/link"
	"slatebell/core/wire/update"
)

// shadow is what a controller holds by what it was sent, as far as that is known.
type shadow struct {
	hd44780.Controller
	known  [80]bool // DDRAM, by index
	placed bool     // the address counter is known
}

// newShadow is a controller that was initialised for a module before; what it
// holds, and where its address counter stands, are not known.
func newShadow(m *module.Module) shadow {
	s := shadow{Controller: hd44780.New(hd44780.Config{Family: m.Family}, nil)}
	s.TwoLine, s.Tall, s.DisplayOn = m.Geometry.TwoLine, m.Tall && !m.Geometry.TwoLine, true
	return s
}

// sent takes note of an operation.
func (s *shadow) sent(op hd44780.Operation) {
	kind := op.Kind()
	switch {
	case op.RW:
		s.placed = s.placed && kind == hd44780.ReadStatus
		return
	case kind == hd44780.WriteData && !s.placed: // it may have gone anywhere
		s.known = [80]bool{}
		return
	case kind == hd44780.WriteData && !s.InCGRAM:
		i, _ := s.Index(s.AC)
		s.known[i] = true
	case kind == hd44780.Clear:
		for i := range s.known {
			s.known[i] = true
		}
		s.placed = true
	case kind == hd44780.Home, kind == hd44780.SetDDRAM, kind == hd44780.SetCGRAM:
		s.placed = true
	}
	s.Execute(0, op)
}

// memory is the layout of its DDRAM.
func (s *shadow) memory() update.Memory { return update.Memory{Lines: s.Lines(), Columns: s.Columns()} }

// state is what an update begins with, after an operation of a class.
func (s *shadow) state(before update.Class) update.State {
	u := update.State{Cells: make([]int, len(s.DDRAM)), At: update.Unknown, Decrement: s.Decrement, Offset: int(s.Offset), Before: before}
	for i, code := range s.DDRAM {
		u.Cells[i] = int(code)
		if !s.known[i] {
			u.Cells[i] = update.Unknown
		}
	}
	if s.placed && !s.InCGRAM {
		u.At, _ = s.Index(s.AC)
	}
	return u
}

// track lets the shadows follow a step.
func (b *Builder) track(s *Step) {
	if s.Half { // the interface is not known yet
		return
	}
	for i := range b.module.Geometry.Controllers {
		if s.Enable == link.Both || int(s.Enable) == i {
			b.shadows[i].sent(s.Op)
		}
	}
	if s.Op.Kind() != hd44780.ReadStatus {
		b.last = ClassOf(s.Op)
	}
}

// ClassOf is the class of an operation, by which the cost of the next one is told.
func ClassOf(op hd44780.Operation) update.Class {
	switch kind := op.Kind(); {
	case op.RS:
		return update.Data
	case kind == hd44780.Clear, kind == hd44780.Home:
		return update.Long
	}
	return update.Instruction
}

// Held is what a controller, 0 or 1, holds by what it was sent, and which places of its DDRAM, by index, are known.
func (b *Builder) Held(controller int) (*hd44780.State, []bool) {
	s := &b.shadows[controller]
	return &s.State, s.known[:]
}

// Know takes it that the glass shows some cells (row by row, a code each), that the
// rest of DDRAM holds spaces and the glass is not shifted. Where the address
// counters stand stays unknown.
func (b *Builder) Know(cells []byte) {
	g := &b.module.Geometry
	for i := range b.shadows {
		s := &b.shadows[i]
		for k := range s.known {
			s.DDRAM[k], s.known[k] = ' ', true
		}
		s.Offset, s.placed = 0, false
	}
	for _, seg := range g.Segments {
		s := &b.shadows[seg.Controller]
		for i := range seg.Len {
			at, _ := s.Index(seg.Start + uint8(i))
			s.DDRAM[at] = cells[seg.Row*g.Cols+seg.Col+i]
		}
	}
}

// Unsure takes it that what some cells show (row by row) is not known.
func (b *Builder) Unsure(cells []int) {
	g := &b.module.Geometry
	for _, seg := range g.Segments {
		s := &b.shadows[seg.Controller]
		for i := range seg.Len {
			if slices.Contains(cells, seg.Row*g.Cols+seg.Col+i) {
				at, _ := s.Index(seg.Start + uint8(i))
				s.known[at] = false
			}
		}
	}
}

// Stands takes it that a cursor stands in its cell; one that is none tells nothing.
func (b *Builder) Stands(k Cursor) {
	if !k.Line && !k.Block {
		return
	}
	if controller, addr, ok := b.module.Geometry.Locate(k.Row, k.Col); ok {
		s := &b.shadows[controller]
		s.placed, s.CursorOn, s.BlinkOn = true, k.Line, k.Block
		s.Execute(0, hd44780.Command(hd44780.DDRAMBase|addr))
	}
}
