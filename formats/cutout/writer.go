// Package cutout writes the drawing of a panel that a module is mounted behind,
// as SVG in millimetres: it prints true at 100 %.
package cutout

import (
	_ "embed"
	"fmt"
	"io"
	"strconv"
	"text/template"

	"periph.io/x/conn/v3/physic"

	"slatebell/core/part/module"
	"slatebell/core/quoting"
)

// Options say what is drawn beside the board's own figures.
type Options struct {
	Name      string          // of the module
	Clearance physic.Distance // around what shows through the panel, on every side
	UnitW     physic.Distance // of a grid that the case is built in; 0 for none
	UnitH     physic.Distance
}

// MaxClearance bounds the clearance.
const MaxClearance = 20 * physic.MilliMetre

// rect is a rectangle on the panel; its origin is the board's upper left corner.
type rect struct{ X, Y, W, H physic.Distance }

type hole struct{ X, Y, R physic.Distance }

type line struct {
	X, Y physic.Distance
	Text string
}

type drawing struct {
	Name, What       string
	W, H, X, Y       physic.Distance // of the sheet, and where the board's corner lies on it
	Board, Cut       rect
	Bezel            *rect
	Holes            []hole
	CentreX, CentreY physic.Distance
	ScaleY           physic.Distance
	Lines            []line
}

//go:embed cutout.svg.tmpl
var source string

var drawn = template.Must(template.New("cutout").Funcs(template.FuncMap{
	"mm":   func(d physic.Distance) string { return strconv.FormatFloat(module.Millimetres(d), 'f', -1, 64) },
	"text": quoting.XML,
}).Parse(source))

// margin is around the board on the sheet, and what the figures below it take a
// line.
const (
	margin = 10 * physic.MilliMetre
	leap   = 5 * physic.MilliMetre
)

// Write draws the cut-out for a board: the opening for its bezel, or for its
// window where it has none that is known, and its holes. Its error says what of
// the board is not known or cannot be.
func Write(w io.Writer, b *module.Outline, o Options) error {
	if err := b.Check(); err != nil {
		return err
	}
	if o.Clearance < 0 || o.Clearance > MaxClearance {
		return fmt.Errorf("clearance %g mm; expected 0–%g mm, usually 0.5", module.Millimetres(o.Clearance), module.Millimetres(MaxClearance))
	}
	d := drawing{Name: o.Name, X: margin, Y: margin, Board: rect{0, 0, b.Outline.W, b.Outline.H}}
	d.CentreX, d.CentreY = b.Outline.W/2+b.Right, b.Outline.H/2-b.Up
	around := func(s module.Size, more physic.Distance) rect {
		return rect{d.CentreX - s.W/2 - more, d.CentreY - s.H/2 - more, s.W + 2*more, s.H + 2*more}
	}
	through, what := b.Window, "window"
	if !b.Bezel.Zero() {
		bezel := around(b.Bezel, 0)
		d.Bezel = &bezel
		through, what = b.Bezel, "bezel"
	}
	d.Cut = around(through, o.Clearance)
	opening := module.Size{W: d.Cut.W, H: d.Cut.H}
	d.What = fmt.Sprintf("Opening %s for the %s of %s with %g mm around", opening, what, through, module.Millimetres(o.Clearance))
	texts := []string{o.Name, fmt.Sprintf("opening %s (%s %s)", opening, what, through), fmt.Sprintf("board %s, seen from the front", b.Outline)}
	if b.Holes.Zero() {
		texts = append(texts, "where its holes are is not known: measure them")
	} else {
		for _, side := range [4][2]physic.Distance{{-1, -1}, {1, -1}, {-1, 1}, {1, 1}} {
			d.Holes = append(d.Holes, hole{b.Outline.W/2 + side[0]*b.Holes.W/2, b.Outline.H/2 + side[1]*b.Holes.H/2, b.Hole / 2})
		}
		texts = append(texts, fmt.Sprintf("holes of %g mm, centres %s apart", module.Millimetres(b.Hole), b.Holes))
	}
	if o.UnitW > 0 && o.UnitH > 0 {
		across, up := module.InUnits(opening.W, o.UnitW, 0), module.InUnits(opening.H, o.UnitH, 0)
		texts = append(texts, fmt.Sprintf("in units of %s: %d wide, %g mm left over,", module.Size{W: o.UnitW, H: o.UnitH}, across.N, module.Millimetres(across.Over)),
			fmt.Sprintf("and %d high, %g mm left over", up.N, module.Millimetres(up.Over)))
	}
	y := 2*margin + b.Outline.H
	d.ScaleY = y
	for _, t := range texts {
		y += leap
		d.Lines = append(d.Lines, line{margin, y, t})
	}
	d.W, d.H = max(b.Outline.W, 110*physic.MilliMetre)+2*margin, y+margin
	return drawn.Execute(w, &d)
}
