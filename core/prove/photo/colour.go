package photo

import (
	"fmt"
	"math"
	"slices"

	"slatebell/core/finding"
)

// Chroma is how far the colours of a picture are from grey, on a coarser grid over all of it: Cb and Cr, −0.5 to 0.5 (ITU-R BT.601).
type Chroma struct {
	W, H   int
	Cb, Cr []float32 // row by row
}

// at is what lies at a part of the picture's width and height, 0–1.
func (c *Chroma) at(u, v float64) (cb, cr float64) {
	i := int(clamp(u*float64(c.W), float64(c.W-1))) + c.W*int(clamp(v*float64(c.H), float64(c.H-1)))
	return float64(c.Cb[i]), float64(c.Cr[i])
}

// tint is a colour of glasses, as a bench names it.
type tint struct {
	name, title string
	angle       float64 // of Cb and Cr, degrees
}

// tints are the colours of usual glasses, lit (common practice; the angles are ours, of mixtures as such glasses show).
var tints = []tint{{"green", "yellow-green", 180}, {"amber", "amber", 140}, {"blue", "blue", -27}, {"teal", "blue-green", -84}}

// Of colours (ours): how far from grey, as a part of its brightness, a glass is at most that is grey, and at least that has a colour.
const (
	greyMost   = 0.10
	colourFrom = 0.15
)

// colourAcross and colourDown are in how many places a cell is looked at for its colour.
const colourAcross, colourDown = 3, 4

// tinted finds the colour and the brightness of the glass, of ground and dots together; and how bright it is against what lies round the module.
func (r *Reading) tinted(g *Grey) {
	var cb, cr, bright float64
	n := 0
	for i := range r.field.cols * r.field.rows {
		for k := range colourAcross * colourDown {
			x, y := (float64(k%colourAcross)+0.5)/colourAcross*width, (float64(k/colourAcross)+0.5)/colourDown*float64(r.field.height)
			p := r.at.at(r.field.place(i%r.field.cols, i/r.field.cols, x, y))
			bright += g.At(p.X, p.Y)
			if n++; g.Chroma != nil {
				b, r := g.Chroma.at(p.X/float64(g.W), p.Y/float64(g.H))
				cb, cr = cb+b, cr+r
			}
		}
	}
	r.glows = r.lit(g, bright/float64(n))
	if g.Chroma == nil {
		return
	}
	switch away := math.Hypot(cb, cr) / math.Max(bright, 1e-3); {
	case away < greyMost:
		r.Colour = "grey"
	case away > colourFrom:
		angle := math.Atan2(cr, cb) * 180 / math.Pi
		off := func(t tint) float64 { return math.Abs(math.Remainder(angle-t.angle, 360)) }
		r.Colour = slices.MinFunc(tints, func(a, b tint) int { return int(math.Copysign(1, off(a)-off(b))) }).name
	}
}

// Of what lies round a module (ours): how far off one looks, as parts of the field's width and of its height; and in how many places of the picture
// at least.
const (
	roundAside = 0.5
	roundOver  = 2.5
	roundLeast = 8
)

// lit is how bright the glass is against what lies round the module: where dots are bright, these; 0 where the picture does not show enough.
func (r *Reading) lit(g *Grey, bright float64) float64 {
	if !r.Dark && !r.Blank {
		bright += r.Contrast * bright
	}
	var round []float64
	for k := range 21 {
		at := float64(k) / 20
		for _, p := range [4]Point{
			r.at.at(at, -roundOver), r.at.at(at, 1+roundOver), r.at.at(-roundAside, 2*at-0.5), r.at.at(1+roundAside, 2*at-0.5),
		} {
			if p.X >= 0 && p.Y >= 0 && p.X < float64(g.W) && p.Y < float64(g.H) {
				round = append(round, g.At(p.X, p.Y))
			}
		}
	}
	if len(round) < roundLeast {
		return 0
	}
	return bright / math.Max(median(round), 1e-3)
}

// unlitMost is how bright a glass is at most, as a part of what lies round it, whose backlight is off (ours).
const unlitMost = 0.35

// Colours says where the glass has another colour than its tint, "green", "amber", "blue", "teal" or "grey", and where it seems not to be lit.
func (r *Reading) Colours(tint string) (out []finding.Finding) {
	if r.glows > 0 && r.glows < unlitMost {
		out = append(out, finding.Finding{
			Code: "photo.unlit", Severity: finding.Note, What: fmt.Sprintf("The glass is %.0f %% as bright as what lies round it: its backlight seems to be off.", 100*r.glows),
			Why: "A backlight that is on makes a glass one of the brightest things of a room; a lamp on the table may outshine it.",
			Fix: "Look at A and K, at the backlight's resistor and at the backpack's jumper; photograph it again where it is darker.",
		})
		return out // without its light a glass has another colour
	}
	if r.Colour != "" && tint != "" && r.Colour != tint {
		out = append(out, finding.Finding{
			Code: "photo.colour", Severity: finding.Note, What: fmt.Sprintf("The glass is %s in the photograph; the module is said to be %s.", titleOf(r.Colour), titleOf(tint)),
			Why: "It may be another module; or the light of the room colours the picture.", Fix: "Choose the colour of the glass in the Module view, where it is the photograph that is right.",
		})
	}
	return out
}

// titleOf is a tint's name as it is read.
func titleOf(name string) string {
	if i := slices.IndexFunc(tints, func(t tint) bool { return t.name == name }); i >= 0 {
		return tints[i].title
	}
	return name
}
