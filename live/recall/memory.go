// Package recall is what a module says of itself over a link that carries something back: what it holds, held against what it
// was sent; which of its data lines do not carry; and how fast its oscillator runs.
//
// It stands on drive, which knows what a module was sent. Its functions need the line for themselves.
package recall

import (
	"context"
	"fmt"
	"slices"

	"slatebell/core/part/hd44780"
	"slatebell/core/part/module"
	"slatebell/core/wire/link"
	"slatebell/core/wire/sequence"
	"slatebell/live/drive"
	"slatebell/live/session"
)

// Memory is what a module holds by its own word.
type Memory struct {
	DDRAM [][]byte // of each controller, by index: 80 bytes
	CGRAM [][]byte // of each controller, 64 bytes
}

// cgram is how many bytes a controller has for glyphs.
const cgram = 64

// Read makes a module tell its memory. Its address counters are unknown afterwards.
func Read(ctx context.Context, line *session.Session, m *drive.Module) (*Memory, error) {
	g := &m.Display.Geometry
	var ops []sequence.Aimed
	for c := range g.Controllers {
		en := enable(c)
		state, _ := m.Held(c)
		for from := 0; from < len(state.DDRAM); from += state.Columns() {
			ops = append(ops, sequence.Aimed{Op: hd44780.Command(hd44780.DDRAMBase | state.Address(from)), Enable: en})
			ops = append(ops, slices.Repeat([]sequence.Aimed{readData(en)}, state.Columns())...)
		}
		ops = append(ops, sequence.Aimed{Op: hd44780.Command(hd44780.CGRAMBase), Enable: en})
		ops = append(ops, slices.Repeat([]sequence.Aimed{readData(en)}, cgram)...)
	}
	got, err := m.Exchange(ctx, line, ops)
	if err != nil {
		return nil, err
	}
	out := &Memory{}
	for range g.Controllers {
		const n = len(hd44780.State{}.DDRAM)
		if len(got) < n+cgram {
			return nil, fmt.Errorf("%d bytes came back; expected %d of each controller", len(got), n+cgram)
		}
		out.DDRAM, out.CGRAM, got = append(out.DDRAM, got[:n]), append(out.CGRAM, got[n:n+cgram]), got[n+cgram:]
	}
	return out, nil
}

func enable(controller int) link.Enable { return []link.Enable{link.First, link.Second}[controller] }

func readData(en link.Enable) sequence.Aimed {
	return sequence.Aimed{Op: hd44780.Operation{RS: true, RW: true}, Enable: en}
}

// Window is what of the memory stands in a window while the glass is not shifted: row by row, a code a cell.
func (r *Memory) Window(g *module.Geometry) [][]byte {
	out := make([][]byte, g.Rows)
	for row := range out {
		out[row] = make([]byte, g.Cols)
		for col := range out[row] {
			if controller, at, ok := place(g, row, col); ok {
				out[row][col] = r.DDRAM[controller][at]
			}
		}
	}
	return out
}

// place is where the memory of a cell is: its controller, and its index in DDRAM.
func place(g *module.Geometry, row, col int) (controller, at int, ok bool) {
	controller, addr, ok := g.Locate(row, col)
	if !ok {
		return 0, 0, false
	}
	laid := hd44780.State{TwoLine: g.TwoLine}
	at, ok = laid.Index(addr)
	return controller, at, ok
}

// Differences are where a module holds something else than it was sent.
type Differences struct {
	Cells  []Cell // that are seen
	Hidden int    // bytes of DDRAM outside the window
	Slots  []Slot
}

// Cell is one that holds another code.
type Cell struct {
	Row, Col  int
	Want, Got byte
}

// Slot is a glyph whose dots differ.
type Slot struct {
	Controller, Slot int
	Rows             []int // from the top, counted from 0
}

// None reports whether there are none.
func (d *Differences) None() bool { return len(d.Cells)+d.Hidden+len(d.Slots) == 0 }

// Against holds a memory against what a module was sent, as far as that is known.
func (r *Memory) Against(m *drive.Module) (d Differences) {
	seen := make([][]bool, len(r.DDRAM))
	for c := range seen {
		seen[c] = make([]bool, len(r.DDRAM[c]))
	}
	g := &m.Display.Geometry
	for row := range g.Rows {
		for col := range g.Cols {
			c, at, ok := place(g, row, col)
			if !ok {
				continue
			}
			seen[c][at] = true
			if want, known := wanted(m, c, at); known && want != r.DDRAM[c][at] {
				d.Cells = append(d.Cells, Cell{row, col, want, r.DDRAM[c][at]})
			}
		}
	}
	for c := range r.DDRAM {
		for at, got := range r.DDRAM[c] {
			if want, known := wanted(m, c, at); known && !seen[c][at] && want != got {
				d.Hidden++
			}
		}
		d.Slots = append(d.Slots, slots(m, c, r.CGRAM[c])...)
	}
	return d
}

// wanted is what a place of DDRAM was sent.
func wanted(m *drive.Module, controller, at int) (code byte, known bool) {
	state, knows := m.Held(controller)
	return state.DDRAM[at], knows[at]
}

// dots are the bits of a byte of CGRAM that are shown.
const dots = 0x1F

// slots are the glyphs of a controller whose dots differ.
func slots(m *drive.Module, controller int, got []byte) (out []Slot) {
	state, _ := m.Held(controller)
	for _, g := range m.Loaded() {
		s := Slot{Controller: controller, Slot: g.Slot}
		for row := range m.Display.CellRows() {
			if at := 8*g.Slot + row; at < len(got) && (got[at]^state.CGRAM[at])&dots != 0 {
				s.Rows = append(s.Rows, row)
			}
		}
		if len(s.Rows) > 0 {
			out = append(out, s)
		}
	}
	return out
}
