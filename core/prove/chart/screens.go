// Package chart learns the character ROM of a module that nobody knows. Screens show all 256 codes, each with marks in its first and its last
// cell that say which screen it is; what photographs of them show is put together to a chart, dot by dot, and held against the ROMs that
// are known.
//
// It stands above photo, which reads one glass.
package chart

import (
	"fmt"
	"math/bits"
	"slices"

	"slatebell/core/part/charrom"
	"slatebell/core/part/module"
	"slatebell/core/prove/photo"
	"slatebell/core/text/glyph"
)

// Marks are the glyphs of which marks are made, one for each place of CGRAM: a frame, and in it a pattern that differs from each other one in
// eight dots or more (Walsh functions of nine blocks of two dots).
func Marks(m *module.Module) (out glyph.Bank) {
	for slot := 0; slot < glyph.Slots; slot += m.SlotStep() {
		p := glyph.Pattern{0x1F, 7: 0x1F}
		for row := 1; row < 7; row++ {
			p[row] = 0x11
			for col := range 3 {
				block := (row-1)/2*3 + col
				if block == 8 || bits.OnesCount(uint(slot&block))%2 == 1 {
					p[row] |= 8 >> col
				}
			}
		}
		out = append(out, glyph.New(slot, fmt.Sprintf("Mark %d", slot/m.SlotStep()), p))
	}
	return out
}

// marked are the marks of each of some screens, by the cells where they stand: digits of its number, each turned by those before it, so that a
// few screens show many marks.
func marked(m *module.Module, screens int) []map[int]byte {
	base, cells := glyph.Slots/m.SlotStep(), m.Geometry.Cells()
	places := []int{0, cells - 1}
	if screens > base*base {
		places = append(places, 1)
	}
	out := make([]map[int]byte, screens)
	for k := range out {
		out[k] = map[int]byte{}
		rest, turned := k, 0
		for i, at := range places {
			turned += rest%base + i*base/2
			out[k][at], rest = byte(turned%base*m.SlotStep()), rest/base
		}
	}
	return out
}

// Screens are the screens that show all codes, as few as hold them with their marks: the codes of their cells, row by row. Cells that are left
// over are spaces, 0x20.
func Screens(m *module.Module) [][]byte {
	for n := 1; ; n++ {
		if out := inScreens(m, n); out != nil {
			return out
		}
	}
}

// inScreens are the codes on some screens, as many on each; nil where they do not find room.
func inScreens(m *module.Module, n int) (out [][]byte) {
	marks, cells := marked(m, n), m.Geometry.Cells()
	var shown [256]bool
	for _, at := range marks {
		for _, code := range at {
			shown[code] = true
		}
	}
	var codes []byte
	for code, is := range shown {
		if !is {
			codes = append(codes, byte(code))
		}
	}
	each := (len(codes) + n - 1) / n
	if each > cells-len(marks[0]) {
		return nil
	}
	for k := range n {
		one, left := make([]byte, cells), min(each, len(codes))
		for at := range one {
			if mark, is := marks[k][at]; is {
				one[at] = mark
			} else if one[at] = ' '; left > 0 {
				one[at], codes, left = codes[0], codes[1:], left-1
			}
		}
		out = append(out, one)
	}
	return out
}

// Shown is what a photograph shows of one screen.
type Shown struct {
	Screen int           `json:"screen" minimum:"0"`
	Cells  []photo.Sight `json:"cells" nullable:"false" doc:"row by row"`
}

// Read reads a photograph of one of the screens. at are corners as photo.Read takes them. Its error says that no glass is found, or no mark.
func Read(g *photo.Grey, at *photo.Corners, m *module.Module) (s Shown, err error) {
	r, err := photo.ReadUnknown(g, at, m, Marks(m), charrom.A00(), charrom.A02())
	if err != nil {
		return s, err
	}
	return of(m, r)
}

// sureMark is how sure marks must be (ours).
const sureMark = 0.5

// of finds out which screen a reading is of.
func of(m *module.Module, r *photo.Reading) (s Shown, err error) {
	for k, marks := range marked(m, len(Screens(m))) {
		is := true
		for at, code := range marks {
			c := &r.Cells[at]
			is = is && !r.Blank && c.Code == code && c.Sure >= sureMark
		}
		if !is {
			continue
		}
		s.Screen = k
		for i := range r.Cells {
			s.Cells = append(s.Cells, r.Sight(i))
		}
		return s, nil
	}
	return s, fmt.Errorf("no mark of a screen of the chart is in its first and last cell; let the program of the chart show its screens, and photograph them with the whole glass in the picture")
}

// Check says what is wrong with what was kept of photographs.
func (s *Shown) Check(m *module.Module) error {
	if n := len(Screens(m)); s.Screen < 0 || s.Screen >= n {
		return fmt.Errorf("screen %d; the chart of a module of %s has screens 0–%d", s.Screen, m.Geometry.Name, n-1)
	}
	if len(s.Cells) != m.Geometry.Cells() {
		return fmt.Errorf("%d cells; a module of %s has %d", len(s.Cells), m.Geometry.Name, m.Geometry.Cells())
	}
	if i := slices.IndexFunc(s.Cells, func(c photo.Sight) bool { return len(c.Dots) != 5*m.CellRows() || c.Spread <= 0 }); i >= 0 {
		return fmt.Errorf("cell %d has %d dots and a spread of %g; expected %d dots, and a spread above 0", i, len(s.Cells[i].Dots), s.Cells[i].Spread, 5*m.CellRows())
	}
	return nil
}
