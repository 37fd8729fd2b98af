// Package module is a display as it is bought: its geometry, technology,
// controller family and character ROM, and the map from cells to the
// controller's memory.
//
// It stands above hd44780 and charrom; links, sequences and the rig are built
// for a Module.
package module

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"periph.io/x/conn/v3/physic"

	"slatebell/core/part/charrom"
	"slatebell/core/part/hd44780"
)

// Technology is what makes the dots visible.
type Technology string

// The technologies.
const (
	LCD Technology = "lcd" // liquid crystal: needs contrast, may have a backlight
	VFD Technology = "vfd" // vacuum fluorescent: shines by itself, no contrast input
)

// Segment is a run of cells that lie one after the other in DDRAM.
type Segment struct {
	Row, Col   int   // its first cell, 0-based
	Len        int   // cells
	Controller int   // 0, or 1 for the controller behind the second enable
	Start      uint8 // DDRAM address of the first cell
}

// Geometry is how cells lie on the glass and in memory.
type Geometry struct {
	Name        string // as "16x2"
	Title       string // for people, as "16 × 2"
	Note        string // what sets it apart, may be empty
	Cols, Rows  int
	TwoLine     bool // the function set's N
	Controllers int  // 1 or 2, each with its own enable
	Segments    []Segment
}

// rows makes one segment a row from row start addresses.
func rows(cols int, starts ...uint8) []Segment {
	s := make([]Segment, len(starts))
	for i, start := range starts {
		s[i] = Segment{Row: i, Len: cols, Start: start}
	}
	return s
}

// Geometries lists the geometries of the trade. The addresses are those of the
// HD44780U data sheet's "Display data RAM" for one and two lines; the order of
// rows on four-row modules, and the two kinds of 16×1, are common practice.
var Geometries = []Geometry{
	{"8x1", "8 × 1", "", 8, 1, false, 1, rows(8, 0x00)},
	{"8x2", "8 × 2", "", 8, 2, true, 1, rows(8, 0x00, 0x40)},
	{"16x1", "16 × 1", "one line in memory", 16, 1, false, 1, rows(16, 0x00)},
	{"16x1split", "16 × 1 split", "two lines in memory, eight columns of each", 16, 1, true, 1,
		[]Segment{{Len: 8, Start: 0x00}, {Col: 8, Len: 8, Start: 0x40}}},
	{"16x2", "16 × 2", "", 16, 2, true, 1, rows(16, 0x00, 0x40)},
	{"16x4", "16 × 4", "", 16, 4, true, 1, rows(16, 0x00, 0x40, 0x10, 0x50)},
	{"20x1", "20 × 1", "", 20, 1, false, 1, rows(20, 0x00)},
	{"20x2", "20 × 2", "", 20, 2, true, 1, rows(20, 0x00, 0x40)},
	{"20x4", "20 × 4", "", 20, 4, true, 1, rows(20, 0x00, 0x40, 0x14, 0x54)},
	{"24x2", "24 × 2", "", 24, 2, true, 1, rows(24, 0x00, 0x40)},
	{"40x1", "40 × 1", "", 40, 1, false, 1, rows(40, 0x00)},
	{"40x2", "40 × 2", "", 40, 2, true, 1, rows(40, 0x00, 0x40)},
	{"40x4", "40 × 4", "two controllers, two enables", 40, 4, true, 2,
		[]Segment{{Row: 0, Len: 40}, {Row: 1, Len: 40, Start: 0x40}, {Row: 2, Len: 40, Controller: 1}, {Row: 3, Len: 40, Controller: 1, Start: 0x40}}},
}

// ParseGeometry returns a geometry by name, or a custom one written as
// COLSxROWS@START,START,… with a hexadecimal DDRAM address for each row, as
// "12x3@00,40,0C".
func ParseGeometry(name string) (Geometry, error) {
	for _, g := range Geometries {
		if g.Name == name {
			return g, nil
		}
	}
	if size, starts, ok := strings.Cut(name, "@"); ok {
		return custom(name, size, starts)
	}
	names := make([]string, len(Geometries))
	for i, g := range Geometries {
		names[i] = g.Name
	}
	return Geometry{}, fmt.Errorf("geometry %q is not known; expected one of %s, or a custom one such as 12x3@00,40,0C", name, strings.Join(names, ", "))
}

func custom(name, size, starts string) (Geometry, error) {
	bad := func(format string, args ...any) (Geometry, error) {
		return Geometry{}, fmt.Errorf("custom geometry %q: %s; expected such as 12x3@00,40,0C", name, fmt.Sprintf(format, args...))
	}
	c, r, _ := strings.Cut(size, "x")
	cols, err1 := strconv.Atoi(c)
	count, err2 := strconv.Atoi(r)
	if err1 != nil || err2 != nil || cols < 1 || cols > 40 || count < 1 || count > 4 {
		return bad("%q is no size of 1–40 columns by 1–4 rows", size)
	}
	list := strings.Split(starts, ",")
	if len(list) != count {
		return bad("%d row start addresses for %d rows", len(list), count)
	}
	g := Geometry{Name: name, Title: fmt.Sprintf("%d × %d custom", cols, count), Note: "rows start at " + starts, Cols: cols, Rows: count, Controllers: 1}
	for i, s := range list {
		a, err := strconv.ParseUint(s, 16, 7)
		if err != nil {
			return bad("row start %q is no hexadecimal address 00–67", s)
		}
		g.Segments = append(g.Segments, Segment{Row: i, Len: cols, Start: uint8(a)})
		g.TwoLine = g.TwoLine || a >= 0x40
	}
	memory := hd44780.State{TwoLine: g.TwoLine}
	taken := map[int]int{}
	for _, s := range g.Segments {
		for col := range s.Len {
			i, ok := memory.Index(s.Start + uint8(col))
			if !ok {
				return bad("row %d needs address 0x%02X, which %d-line memory has not", s.Row+1, s.Start+uint8(col), memory.Lines())
			}
			if other, twice := taken[i]; twice {
				return bad("rows %d and %d share address 0x%02X", other+1, s.Row+1, s.Start+uint8(col))
			}
			taken[i] = s.Row
		}
	}
	return g, nil
}

// Cells is the number of cells on the glass.
func (g *Geometry) Cells() int { return g.Cols * g.Rows }

// Locate returns the controller and DDRAM address of a cell, 0-based. It
// returns false for a cell outside the glass.
func (g *Geometry) Locate(row, col int) (controller int, addr uint8, ok bool) {
	for _, s := range g.Segments {
		if s.Row == row && col >= s.Col && col < s.Col+s.Len {
			return s.Controller, s.Start + uint8(col-s.Col), true
		}
	}
	return 0, 0, false
}

// Follows returns, for each row, the row in which the controller goes on behind its last cell, were
// memory that is not shown passed over: by the order of addresses, from the last row to the first.
func (g *Geometry) Follows() []int {
	order := make([]int, g.Rows)
	for r := range order {
		order[r] = r
	}
	start := func(row int) int {
		controller, a, _ := g.Locate(row, 0)
		return controller<<8 | int(a)
	}
	slices.SortFunc(order, func(a, b int) int { return start(a) - start(b) })
	out := make([]int, g.Rows)
	for i, r := range order {
		out[r] = order[(i+1)%len(order)]
	}
	return out
}

// CellAt is the inverse of Locate: the cell at which a DDRAM address stands
// while the display is not shifted; false for memory outside the window.
func (g *Geometry) CellAt(controller int, addr uint8) (row, col int, ok bool) {
	for _, s := range g.Segments {
		if s.Controller == controller && addr >= s.Start && int(addr) < int(s.Start)+s.Len {
			return s.Row, s.Col + int(addr-s.Start), true
		}
	}
	return 0, 0, false
}

// Module is one display.
type Module struct {
	Geometry   Geometry
	Technology Technology
	Family     hd44780.Family
	ROM        *charrom.ROM
	Tall       bool                     // cells of 5×10 dots and a cursor line; one line only
	Oscillator physic.Frequency         // 0: 270 kHz
	Supply     physic.ElectricPotential // 0: 5 V
	Unlit      bool                     // an LCD without a backlight, read by the light of the room
	Short      bool                     // its header ends before A and K
}

// CellRows is how many rows of dots a cell has: 8, or 11 with the 5×10 font.
func (m *Module) CellRows() int {
	if m.Tall {
		return 11
	}
	return 8
}

// Slot is the slot of the user's glyph that a code shows; false for other codes.
// With the 5×10 font a glyph takes two slots, and its code's bit 0 is ignored.
func (m *Module) Slot(code byte) (slot int, ok bool) {
	slot, ok = m.ROM.Slot(code)
	if m.Tall {
		slot &^= 1
	}
	return slot, ok
}

// SlotStep is how many slots a glyph takes: 1, or 2 with the 5×10 font.
func (m *Module) SlotStep() int {
	if m.Tall {
		return 2
	}
	return 1
}

// Fed returns the supply voltage.
func (m *Module) Fed() physic.ElectricPotential {
	if m.Supply == 0 {
		return 5 * physic.Volt
	}
	return m.Supply
}

// Controller returns the configuration of the module's controllers.
func (m *Module) Controller() hd44780.Config {
	return hd44780.Config{Family: m.Family, Oscillator: m.Oscillator, Supply: m.Supply}
}
