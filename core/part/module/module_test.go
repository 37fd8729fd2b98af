package module

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"periph.io/x/conn/v3/physic"

	"slatebell/core/part/hd44780"
)

// TestRowStarts checks where rows begin in DDRAM: data sheet ADE-207-272(Z),
// "Display data RAM", for one and two lines, and common practice for the order
// of four rows and the split 16×1.
func TestRowStarts(t *testing.T) {
	for name, want := range map[string]string{
		"8x1": "00", "16x1": "00", "20x1": "00", "40x1": "00",
		"8x2": "00 40", "16x2": "00 40", "20x2": "00 40", "24x2": "00 40", "40x2": "00 40",
		"16x4": "00 40 10 50", "20x4": "00 40 14 54", "40x4": "00 40 00' 40'", "12x3@00,40,0C": "00 40 0C",
	} {
		g, err := ParseGeometry(name)
		if err != nil {
			t.Fatal(err)
		}
		var got []string
		for row := range g.Rows {
			controller, a, ok := g.Locate(row, 0)
			if !ok {
				t.Fatalf("%s: row %d is nowhere", name, row)
			}
			got = append(got, fmt.Sprintf("%02X%s", a, strings.Repeat("'", controller)))
		}
		if text := strings.Join(got, " "); text != want {
			t.Errorf("%s: rows start at %s, want %s", name, text, want)
		}
	}
	split, _ := ParseGeometry("16x1split")
	if _, left, _ := split.Locate(0, 7); left != 0x07 {
		t.Errorf("split 16×1: column 7 at %02X", left)
	}
	if _, right, _ := split.Locate(0, 8); right != 0x40 {
		t.Errorf("split 16×1: column 8 at %02X", right)
	}
}

// TestCellsAndAddresses checks that Locate and CellAt are inverses, that every
// cell lies in memory that the controller has, and no two share an address.
func TestCellsAndAddresses(t *testing.T) {
	for _, g := range Geometries {
		memory := hd44780.State{TwoLine: g.TwoLine}
		seen := map[[2]int]bool{}
		for row := range g.Rows {
			for col := range g.Cols {
				controller, a, ok := g.Locate(row, col)
				if _, there := memory.Index(a); !ok || !there || controller >= g.Controllers {
					t.Fatalf("%s: row %d, column %d at %02X of controller %d", g.Name, row, col, a, controller)
				}
				if r, c, ok := g.CellAt(controller, a); !ok || r != row || c != col {
					t.Errorf("%s: %02X shows row %d, column %d, want %d, %d", g.Name, a, r, c, row, col)
				}
				key := [2]int{controller, int(a)}
				if seen[key] {
					t.Errorf("%s: %02X is shown twice", g.Name, a)
				}
				seen[key] = true
			}
		}
		if len(seen) != g.Cells() {
			t.Errorf("%s: %d cells, want %d", g.Name, len(seen), g.Cells())
		}
		if _, _, ok := g.Locate(g.Rows, 0); ok {
			t.Errorf("%s has a row beyond its last", g.Name)
		}
		if _, _, ok := g.CellAt(0, 0x7F); ok {
			t.Errorf("%s shows address 7F", g.Name)
		}
	}
}

func TestCustomGeometry(t *testing.T) {
	for name, want := range map[string]string{
		"17x2":          "geometry \"17x2\" is not known",
		"0x1@00":        "\"0x1\" is no size of 1–40 columns by 1–4 rows",
		"41x1@00":       "is no size",
		"4x5@0,1,2,3,4": "is no size",
		"8x2@00":        "1 row start addresses for 2 rows",
		"8x1@zz":        "\"zz\" is no hexadecimal address",
		"8x2@00,04":     "rows 1 and 2 share address 0x04",
		"9x2@20,40":     "row 1 needs address 0x28, which 2-line memory has not",
		"8x1@60,":       "2 row start addresses for 1 rows",
		"4x0@":          "is no size",
		"8@00":          "is no size",
		"8xx@00":        "is no size",
		"x1@00":         "is no size",
		"1x1@80":        "\"80\" is no hexadecimal address",
	} {
		if _, err := ParseGeometry(name); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%s: error %v, want %q in it", name, err, want)
		}
	}
	for name, want := range map[string][3]int{"1x1@00": {1, 1, 0}, "40x1@00": {40, 1, 0}, "1x4@00,01,02,03": {1, 4, 0}, "40x2@00,40": {40, 2, 1}, "1x1@7f": {0, 0, 0}} {
		g, err := ParseGeometry(name)
		if want[0] == 0 {
			if err == nil || !strings.Contains(err.Error(), "row 1 needs address 0x7F") {
				t.Errorf("%s: %v", name, err)
			}
			continue
		}
		if err != nil || g.Cols != want[0] || g.Rows != want[1] || g.TwoLine != (want[2] == 1) || g.Controllers != 1 || g.Cells() != want[0]*want[1] {
			t.Errorf("%s: %+v, %v", name, g, err)
		}
	}
}

// TestGeometries checks each size that is sold against what follows from its rows:
// two lines where one begins in the second, as many controllers as its segments
// name, and every cell once.
func TestGeometries(t *testing.T) {
	for _, g := range Geometries {
		two, controllers := false, 0
		cells := map[[2]int]bool{}
		for _, s := range g.Segments {
			two = two || s.Start >= 0x40
			controllers = max(controllers, s.Controller+1)
			for i := range s.Len {
				cells[[2]int{s.Row, s.Col + i}] = true
			}
		}
		if g.TwoLine != two || g.Controllers != controllers || len(cells) != g.Cols*g.Rows || !strings.HasPrefix(g.Name, fmt.Sprintf("%dx%d", g.Cols, g.Rows)) {
			t.Errorf("%+v", g)
		}
	}
}

// TestLook checks what contrast does: at its usual setting every geometry reads
// well at either supply, well below nothing shows, at the far end all is blocks;
// and that VO goes below ground where 3.3 V do not reach (common practice).
func TestLook(t *testing.T) {
	for _, g := range Geometries {
		for _, supply := range []physic.ElectricPotential{0, 3300 * physic.MilliVolt} {
			m := Module{Geometry: g, Technology: LCD, Supply: supply}
			duty := 8
			if g.TwoLine {
				duty = 16
			}
			usual := m.UsualContrast()
			if l := m.Look(usual, duty, 0); l.Lit < 0.95 || l.Dark > 0.15 {
				t.Errorf("%s fed %s: %+v at its usual contrast", g.Name, m.Fed(), l)
			}
			if l := m.Look(usual*0.6, duty, 0); l.Lit > 0.05 {
				t.Errorf("%s fed %s: %+v at 0.6 of it", g.Name, m.Fed(), l)
			}
			if l := m.Look(usual*1.3, duty, 0); l.Dark < 0.9 {
				t.Errorf("%s fed %s: %+v at 1.3 of it", g.Name, m.Fed(), l)
			}
			if vo := m.VO(usual); (vo < 0) != (supply != 0) {
				t.Errorf("%s fed %s: VO %s", g.Name, m.Fed(), vo)
			}
		}
	}
	vfd := Module{Geometry: Geometries[6], Technology: VFD}
	for quarters, want := range []float64{1, 0.75, 0.5, 0.25} {
		if l := vfd.Look(0, 16, uint8(quarters)); l.Lit != want || l.Dark != 0 {
			t.Errorf("VFD %d quarters down: %+v", quarters, l)
		}
	}
}

// TestNeeds checks the currents against what the trade measures: a 16×2 with
// backpack and backlight draws about 23 mA, 1 mA without (common practice).
func TestNeeds(t *testing.T) {
	lcd := Module{Geometry: Geometries[4], Technology: LCD}
	n := lcd.Needs()
	if n.Current < 22*physic.MilliAmpere || n.Current > 24*physic.MilliAmpere || n.Bare != physic.MilliAmpere {
		t.Errorf("16×2: %s, %s bare", n.Current, n.Bare)
	}
	vfd := Module{Geometry: Geometries[7], Technology: VFD}
	if v := vfd.Needs(); v.Current <= PortCurrent || v.Min <= n.Min {
		t.Errorf("VFD: %+v", v)
	}
}

// TestFollows holds the order in which rows follow each other against counting addresses up, as the
// controller does (HD44780U data sheet, ADE-207-272(Z), Display data RAM: 27 is followed by 40, 67 by
// 00, 4F of one line by 00): the next address that is shown is the first of the row that follows.
func TestFollows(t *testing.T) {
	for name, want := range map[string][]int{"16x1": {0}, "16x2": {1, 0}, "20x4": {2, 3, 1, 0}, "16x4": {2, 3, 1, 0}, "40x4": {1, 2, 3, 0}} {
		g, err := ParseGeometry(name)
		if err != nil {
			t.Fatal(err)
		}
		got := g.Follows()
		if !slices.Equal(got, want) {
			t.Errorf("%s: %v, want %v", name, got, want)
		}
		if g.Controllers > 1 {
			continue // each counts round its own
		}
		memory := hd44780.State{TwoLine: g.TwoLine}
		for row, to := range got {
			_, a, _ := g.Locate(row, g.Cols-1)
			for shown := false; !shown; _, _, shown = g.CellAt(0, a) {
				i, _ := memory.Index(a)
				a = memory.Address((i + 1) % 80)
			}
			if at, col, _ := g.CellAt(0, a); at != to || col != 0 {
				t.Errorf("%s: behind row %d comes cell %d of row %d, want row %d", name, row, col, at, to)
			}
		}
	}
}
