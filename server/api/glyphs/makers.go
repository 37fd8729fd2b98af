package glyphs

import (
	"context"
	"errors"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"slatebell/core/bench"
	"slatebell/core/prove/testbed"
	"slatebell/core/prove/transition"
	"slatebell/core/text/glyph"
	"slatebell/core/text/meter"
	"slatebell/core/text/picture"
	"slatebell/server/api/answer"
	"slatebell/server/api/facts"
)

// BarRequest asks for the glyphs of a bar.
type BarRequest struct {
	Display  bench.Display `json:"display" doc:"whose ROM shows cells without a slot"`
	Cells    int           `json:"cells" minimum:"1" maximum:"40"`
	Vertical bool          `json:"vertical,omitempty" doc:"it grows upwards, else to the right"`
	Dots     int           `json:"dots" minimum:"1" maximum:"8" doc:"that a step is long: 1–5, or 1–8 upwards"`
	Gap      int           `json:"gap,omitempty" minimum:"0" maximum:"2" doc:"dark dots after each step of a cell"`
	Lanes    int           `json:"lanes,omitempty" minimum:"0" maximum:"3" doc:"bars side by side in each cell; absent: 1"`
	Peak     bool          `json:"peak,omitempty" doc:"a step of its own marks the highest value"`
	Centre   bool          `json:"centre,omitempty" doc:"it grows from the middle to both sides"`
	Frame    bool          `json:"frame,omitempty" doc:"a line runs round it"`
	Low      float64       `json:"low" doc:"value that the empty bar stands for"`
	High     float64       `json:"high" doc:"value that the full bar stands for"`
	Values   []float64     `json:"values" nullable:"false" maxItems:"3" doc:"what each lane shows"`
	PeakAt   float64       `json:"peakAt,omitempty" doc:"the value that the peak mark of the first lane stands at"`
}

// MadeGlyphs is glyphs that were made, and a sample of what they show.
type MadeGlyphs struct {
	Glyphs []Dots    `json:"glyphs" nullable:"false" doc:"that need a slot each"`
	Needs  int       `json:"needs" doc:"how many glyphs it takes"`
	Fits   bool      `json:"fits" doc:"the slots hold them"`
	Cells  []CutCell `json:"cells" nullable:"false" doc:"the sample: left to right, a bar upwards from its foot"`
	Steps  int       `json:"steps" doc:"that it can show beside empty"`
	Table  []CodeRow `json:"table" nullable:"false" doc:"the cells of each step, with glyphs in slots from 0 on"`
}

// CodeRow is what shows one value.
type CodeRow struct {
	Step  int     `json:"step"`
	Value float64 `json:"value" doc:"on the scale"`
	Codes []int   `json:"codes" nullable:"false"`
}

// make makes the bar.
func (r *BarRequest) make() (*MadeGlyphs, error) {
	m, err := r.Display.Module()
	if err != nil {
		return nil, answer.Invalid(err)
	}
	b := meter.Bar{Cells: r.Cells, Vertical: r.Vertical, Dots: r.Dots, Gap: r.Gap, Lanes: r.Lanes, Peak: r.Peak, Centre: r.Centre, Frame: r.Frame}
	if err := b.Check(); err != nil {
		return nil, answer.Refused(err)
	}
	if !(r.High > r.Low) {
		return nil, huma.Error422UnprocessableEntity("the scale: expected a highest value above the lowest")
	}
	patterns := b.Patterns()
	set, err := meter.SetOf(patterns, m.ROM, len(patterns))
	if err != nil {
		return nil, err
	}
	out := &MadeGlyphs{Glyphs: dotsOf(set.Glyphs), Needs: len(set.Glyphs), Fits: len(set.Glyphs) <= glyph.Slots/m.SlotStep(), Steps: b.Steps(), Cells: []CutCell{}, Table: []CodeRow{}}
	readings := make([]meter.Reading, len(r.Values))
	for i, v := range r.Values {
		readings[i].Value = b.Step(v, r.Low, r.High)
		if i == 0 && r.Peak {
			readings[i].Peak = b.Step(r.PeakAt, r.Low, r.High)
		}
	}
	for _, p := range b.Draw(readings...) {
		c := set.Codes[p]
		out.Cells = append(out.Cells, cutCell(picture.Tile{Glyph: c.Glyph, Code: c.ROM, Shown: p}, p))
	}
	low, high := b.Range()
	for v := low; v <= high; v++ {
		row := CodeRow{Step: v, Value: r.Low + (r.High-r.Low)*float64(v-low)/float64(high-low)}
		for _, p := range b.Draw(meter.Reading{Value: v}) {
			c := set.Codes[p]
			if c.Glyph >= 0 {
				row.Codes = append(row.Codes, c.Glyph*m.SlotStep())
			} else {
				row.Codes = append(row.Codes, int(c.ROM))
			}
		}
		out.Table = append(out.Table, row)
	}
	return out, nil
}

// DigitsRequest asks for large digits.
type DigitsRequest struct {
	Display bench.Display `json:"display" doc:"whose ROM shows cells without a slot"`
	Cols    int           `json:"cols" minimum:"2" maximum:"3"`
	Rows    int           `json:"rows" minimum:"2" maximum:"4"`
	Style   string        `json:"style" enum:"slab,round,fine"`
}

// MadeDigits is ten large digits.
type MadeDigits struct {
	Glyphs  []Dots       `json:"glyphs" nullable:"false" doc:"that need a slot each"`
	Digits  []DigitCells `json:"digits" nullable:"false" doc:"0 to 9"`
	Changed int          `json:"changed" doc:"dots that differ from the drawing, as there are not slots enough"`
	Apart   int          `json:"apart" doc:"every digit is nearer to its own drawing than to any other, by so many dots at least"`
}

// DigitCells is a block of cells, row by row.
type DigitCells struct {
	Cells []CutCell `json:"cells" nullable:"false"`
}

// make draws the digits.
func (r *DigitsRequest) make() (*MadeDigits, error) {
	m, err := r.Display.Module()
	if err != nil {
		return nil, answer.Invalid(err)
	}
	if m.Tall {
		return nil, huma.Error422UnprocessableEntity("large digits take rows of cells, and a module with 5×10 dots has one")
	}
	d, err := meter.NewDigits(picture.Block{Cols: r.Cols, Rows: r.Rows}, meter.Style(r.Style), m.ROM, glyph.Slots)
	if err != nil {
		return nil, answer.Refused(err)
	}
	out := &MadeDigits{Glyphs: dotsOf(d.Glyphs), Changed: d.Changed, Apart: d.Apart, Digits: make([]DigitCells, len(d.Cells))}
	for n, cells := range d.Cells {
		for i, c := range cells {
			out.Digits[n].Cells = append(out.Digits[n].Cells, cutCell(c, d.Wanted[n][i]))
		}
	}
	return out, nil
}

// MadeSign is a sign that fills or moves.
type MadeSign struct {
	Name   string `json:"name"`
	Frames []Dots `json:"frames" nullable:"false"`
}

// AnimateRequest asks what animating a glyph on a screen costs.
type AnimateRequest struct {
	Setup  testbed.Setup `json:"setup"`
	Frames []Dots        `json:"frames" nullable:"false" minItems:"2" maxItems:"64"`
	Cells  []int         `json:"cells" nullable:"false" maxItems:"160" doc:"that show it, counted row by row"`
}

// AnimationCosts compares two ways to animate.
type AnimationCosts struct {
	Cells  int            `json:"cells" doc:"that show the glyph"`
	Frames int            `json:"frames"`
	Slot   facts.WireCost `json:"slot" doc:"of all frames, by drawing the slot again"`
	Write  facts.WireCost `json:"write" doc:"of all frames, by writing the cells with another slot"`
	Slots  int            `json:"slots" doc:"that writing needs"`
	Fits   bool           `json:"fits" doc:"there are as many"`
}

func registerMakers(api huma.API, post func(id, path, summary string) huma.Operation) {
	huma.Register(api, huma.Operation{OperationID: "list-signs", Method: http.MethodGet, Path: "/api/glyphs/signs", Summary: "Signs that fill or move, frame by frame"},
		func(context.Context, *struct{}) (*answer.List[MadeSign], error) {
			out := &answer.List[MadeSign]{Body: []MadeSign{}}
			for _, s := range meter.Signs() {
				out.Body = append(out.Body, MadeSign{s.Name, dotsOf(s.Frames)})
			}
			return out, nil
		})
	huma.Register(api, post("make-bar", "/api/glyphs/bar", "The glyphs of a bar, and the codes of each value"), answer.Answered((*BarRequest).make))
	huma.Register(api, post("make-digits", "/api/glyphs/digits", "Large digits from at most eight glyphs"), answer.Answered((*DigitsRequest).make))
	huma.Register(api, post("animate-glyph", "/api/glyphs/animate", "What animating a glyph costs by its slot and by its cells"), answer.Answered(func(r *AnimateRequest) (*AnimationCosts, error) {
		a, err := transition.Animate(&r.Setup, patternsOf(r.Frames), r.Cells)
		var p bench.Problem
		switch {
		case errors.As(err, &p):
			return nil, answer.Invalid(err)
		case err != nil:
			return nil, answer.Refused(err)
		}
		return &AnimationCosts{a.Cells, a.Frames, facts.CostOf(a.Slot), facts.CostOf(a.Write), a.Slots, a.Fits}, nil
	}))
}
