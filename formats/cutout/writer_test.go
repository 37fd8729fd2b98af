package cutout

import (
	"encoding/xml"
	"math"
	"strings"
	"testing"

	"slatebell/core/part/module"
)

// sheet is what of a drawing is read back.
type sheet struct {
	Width   string `xml:"width,attr"`
	Height  string `xml:"height,attr"`
	ViewBox string `xml:"viewBox,attr"`
	Title   string `xml:"title"`
	Groups  []struct {
		ID    string `xml:"id,attr"`
		Rects []struct {
			ID string  `xml:"id,attr"`
			X  float64 `xml:"x,attr"`
			Y  float64 `xml:"y,attr"`
			W  float64 `xml:"width,attr"`
			H  float64 `xml:"height,attr"`
		} `xml:"rect"`
		Circles []struct {
			X float64 `xml:"cx,attr"`
			Y float64 `xml:"cy,attr"`
			R float64 `xml:"r,attr"`
		} `xml:"circle"`
		Texts []string `xml:"text"`
	} `xml:"g"`
}

// TestWrite draws the cut-out of every usual board and reads it back: a unit of
// the drawing is a millimetre, the opening is centred on the window and larger
// than it by the clearance, holes stand as far apart as the board says.
func TestWrite(t *testing.T) {
	drawn := 0
	for _, g := range module.Geometries {
		b := module.UsualBoard(g.Name)
		if b.Check() != nil {
			continue
		}
		drawn++
		if g.Name == "20x4" {
			b.Right, b.Up = module.MM(1.5), module.MM(-2)
		}
		var text strings.Builder
		if err := Write(&text, &b, Options{Name: "Boat <hall> & slip", Clearance: module.MM(0.5), UnitW: module.MM(8), UnitH: module.MM(9.6)}); err != nil {
			t.Fatalf("%s: %v", g.Name, err)
		}
		var s sheet
		if err := xml.Unmarshal([]byte(text.String()), &s); err != nil {
			t.Fatalf("%s: %v", g.Name, err)
		}
		if s.ViewBox != "0 0 "+strings.TrimSuffix(s.Width, "mm")+" "+strings.TrimSuffix(s.Height, "mm") || !strings.HasSuffix(s.Width, "mm") || s.Title != "Cut-out for Boat <hall> & slip" {
			t.Errorf("%s: %s × %s shows %s, %q", g.Name, s.Width, s.Height, s.ViewBox, s.Title)
		}
		panel := s.Groups[0]
		cut := panel.Rects[len(panel.Rects)-1]
		through := b.Window
		if !b.Bezel.Zero() {
			through = b.Bezel
		}
		mm := module.Millimetres
		off := math.Abs(cut.X+cut.W/2-mm(b.Outline.W)/2-mm(b.Right)) + math.Abs(cut.Y+cut.H/2-mm(b.Outline.H)/2+mm(b.Up)) + math.Abs(cut.W-mm(through.W)-1) + math.Abs(cut.H-mm(through.H)-1)
		if cut.ID != "cut" || off > 1e-9 {
			t.Errorf("%s: the opening is %+v for %s", g.Name, cut, through)
		}
		if b.Holes.Zero() != (len(panel.Circles) == 0) {
			t.Errorf("%s: %d holes", g.Name, len(panel.Circles))
		} else if c := panel.Circles; len(c) > 0 {
			off := math.Abs(c[1].X-c[0].X-mm(b.Holes.W)) + math.Abs(c[2].Y-c[0].Y-mm(b.Holes.H)) + math.Abs(c[0].X+c[3].X-mm(b.Outline.W)) + math.Abs(c[0].Y+c[3].Y-mm(b.Outline.H)) + math.Abs(2*c[0].R-mm(b.Hole))
			if len(c) != 4 || off > 1e-9 {
				t.Errorf("%s: holes %+v", g.Name, c)
			}
		}
		if g.Name == "16x2" && !strings.Contains(strings.Join(s.Groups[2].Texts, " "), "10 wide, 7.8 mm left over, and 3 high, 1.8 mm left over") {
			t.Errorf("16x2: %q", s.Groups[2].Texts)
		}
	}
	if drawn < 9 {
		t.Errorf("%d boards were drawn", drawn)
	}
	for _, c := range []struct {
		geometry  string
		clearance float64
		says      string
	}{{"8x1", 0.5, "measure its width"}, {"16x2", -0.1, "expected 0–20 mm"}, {"16x2", 20.1, "expected 0–20 mm"}} {
		b := module.UsualBoard(c.geometry)
		var text strings.Builder
		if err := Write(&text, &b, Options{Clearance: module.MM(c.clearance)}); err == nil || !strings.Contains(err.Error(), c.says) || text.Len() > 0 {
			t.Errorf("%s with %g mm: %v, %d bytes", c.geometry, c.clearance, err, text.Len())
		}
	}
}
