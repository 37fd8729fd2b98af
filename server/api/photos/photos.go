// Package photos reads the glass of a module from a photograph that the page sends. It stands beside the other subjects of the API; nothing
// is kept.
package photos

import (
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"slatebell/core/bench"
	"slatebell/core/finding"
	"slatebell/core/part/module"
	"slatebell/core/prove/photo"
	"slatebell/core/prove/testbed"
	"slatebell/core/text/glyph"
	"slatebell/core/text/screen"
	"slatebell/formats/photofile"
	"slatebell/server/api/answer"
	"slatebell/server/api/facts"
)

// PhotographRequest is a photograph of a module of a bench, with the screen that should be on its glass.
type PhotographRequest struct {
	Bench   bench.Bench   `json:"bench"`
	Module  int           `json:"module" minimum:"0"`
	Screen  int           `json:"screen" minimum:"0"`
	Data    []byte        `json:"data" doc:"the file, JPEG or PNG"`
	Among   []facts.Glass `json:"among,omitempty" nullable:"false" maxItems:"40" doc:"what it may show, in place of the screen; the answer says which"`
	AnySize bool          `json:"anySize,omitempty" doc:"of whatever size is likeliest, not of that of the module alone"`
	Corners []PhotoPoint  `json:"corners,omitempty" nullable:"false" minItems:"4" maxItems:"4" doc:"near those of the cells or the window, upper left, upper right, lower right, lower left; absent: the window is found"`
}

// PhotoPoint is a place in a photograph.
type PhotoPoint struct {
	X float64 `json:"x" minimum:"-100000" maximum:"100000" doc:"pixels from the left, as the picture is seen"`
	Y float64 `json:"y" minimum:"-100000" maximum:"100000" doc:"pixels from the top"`
}

// Photograph is what one shows.
type Photograph struct {
	Width    int               `json:"width" doc:"pixels, as the picture is seen"`
	Height   int               `json:"height" doc:"pixels"`
	Geometry string            `json:"geometry" doc:"the size that it was read as"`
	Corners  []PhotoPoint      `json:"corners" nullable:"false" doc:"of the cells, as they were found"`
	GapX     float64           `json:"gapX" doc:"between cells, in dots"`
	GapY     float64           `json:"gapY" doc:"between rows, in dots"`
	Blank    bool              `json:"blank" doc:"no dot stands out"`
	Contrast float64           `json:"contrast" doc:"of dots that are on, as a part of their ground's grey"`
	Colour   string            `json:"colour,omitempty" enum:"green,blue,grey,amber,teal" doc:"of the glass; absent where it cannot be told"`
	Rows     []string          `json:"rows" nullable:"false" doc:"as text: \\xHH is a code without a character, U+2588 a block, U+FFFD what cannot be told"`
	Cells    []PhotoCell       `json:"cells" nullable:"false" doc:"row by row"`
	Real     facts.Glass       `json:"real" doc:"the dots as they are seen"`
	Composed *facts.Glass      `json:"composed,omitempty" doc:"the screen that should be there; absent for another size than the module's, and where others may be"`
	Is       *int              `json:"is,omitempty" doc:"which of those that it may show it does; absent for none"`
	Findings []finding.Finding `json:"findings" nullable:"false"`
}

// PhotoCell is what a cell shows.
type PhotoCell struct {
	Typed string  `json:"typed" doc:"as it is typed: a character, U+2588 a block, U+FFFD where it cannot be told, U+E000 + code a code"`
	Code  int     `json:"code"`
	Sure  float64 `json:"sure" doc:"0–1"`
	Next  int     `json:"next" doc:"the next best code"`
	Also  float64 `json:"also" doc:"how likely that is, 0–1"`
	Line  bool    `json:"line,omitempty" doc:"the cursor's line is under it"`
	Other bool    `json:"other,omitempty" doc:"it shows something else than was composed"`

	Outline []PhotoPoint `json:"outline" nullable:"false" doc:"where it lies in the picture"`
}

// read reads a photograph.
func read(r *PhotographRequest) (*Photograph, error) {
	setup, err := testbed.Of(&r.Bench, testbed.At{Module: r.Module, Screen: r.Screen})
	if err != nil {
		return nil, answer.Invalid(err)
	}
	m, _, err := setup.Build()
	if err != nil {
		return nil, answer.Invalid(err)
	}
	g, err := photofile.Read(r.Data)
	if err != nil {
		return nil, answer.Refused(err)
	}
	l := screen.Compose(&m, setup.Text(), setup.Sources())
	modules := []*module.Module{&m}
	if r.AnySize {
		modules = sizes(&r.Bench.Modules[r.Module].Display)
	}
	is, got, err := photo.ReadAny(g, cornersOf(r.Corners), modules, l.Bank)
	if err != nil {
		return nil, answer.Refused(err)
	}
	of := modules[is]
	out := &Photograph{
		Width: g.W, Height: g.H, Geometry: of.Geometry.Name, Corners: points(got.Corners), Blank: got.Blank, Contrast: got.Contrast, Colour: got.Colour, Rows: got.Text(of),
		Real: dotsOf(got.Drawn(), of), Findings: append(append([]finding.Finding{}, got.Findings(of)...), got.Colours(r.Bench.Modules[r.Module].Display.Tint)...),
	}
	out.GapX, out.GapY = got.Gaps()
	if len(r.Among) > 0 {
		var list [][]glyph.Pattern
		for i := range r.Among {
			list = append(list, cellsOf(&r.Among[i]))
		}
		if is := got.Among(list); is >= 0 {
			out.Is = &is
		}
	}
	differs := make([]bool, len(got.Cells))
	if of.Geometry.Name == m.Geometry.Name && len(r.Among) == 0 {
		differs = got.Differs(&m, l.Bank, l.Codes())
		composed := dotsOf(photo.Shown(&m, l.Bank, l.Codes()), &m)
		out.Composed, out.Findings = &composed, append(out.Findings, got.Differences(&m, l.Bank, l.Codes())...)
	}
	for i := range got.Cells {
		c := &got.Cells[i]
		out.Cells = append(out.Cells, PhotoCell{string(got.Typed(of, i)), int(c.Code), c.Sure, int(c.Next), c.Also, c.Line, differs[i], points(got.Outline(i))})
	}
	return out, nil
}

// cornersOf are corners that were given; nil where none were.
func cornersOf(list []PhotoPoint) *photo.Corners {
	if len(list) != 4 {
		return nil
	}
	at := new(photo.Corners)
	for i, p := range list {
		at[i] = photo.Point(p)
	}
	return at
}

// sizes are a display in all sizes that it may have.
func sizes(d *bench.Display) (out []*module.Module) {
	for _, g := range module.Geometries {
		one := *d
		one.Geometry = g.Name
		if m, err := one.Module(); err == nil {
			out = append(out, &m)
		}
	}
	return out
}

// dotsOf draws cells by their dots.
func dotsOf(cells []glyph.Pattern, m *module.Module) facts.Glass {
	out := facts.Glass{Cols: m.Geometry.Cols, Rows: m.Geometry.Rows, CellRows: m.CellRows(), On: true, Light: true, Lit: 1, Text: []string{}, Codes: make([]byte, len(cells))}
	for _, p := range cells {
		out.Dots = append(out.Dots, p[:m.CellRows()]...)
	}
	return out
}

// darkFrom is from how strong dots that are off are they look as if they were on.
const darkFrom = 0.5

// cellsOf are the dots of a glass that one sees, cell by cell.
func cellsOf(g *facts.Glass) (out []glyph.Pattern) {
	if g.CellRows < 1 || g.CellRows > glyph.MaxRows {
		return nil
	}
	for i := 0; i < g.Cols*g.Rows && (i+1)*g.CellRows <= len(g.Dots); i++ {
		var p glyph.Pattern
		copy(p[:], g.Dots[i*g.CellRows:(i+1)*g.CellRows])
		if !g.On {
			p = glyph.Pattern{}
		}
		if g.Dark >= darkFrom && (g.Bare == nil || i < len(g.Bare) && !g.Bare[i]) {
			p = glyph.Full(g.CellRows)
		}
		out = append(out, p)
	}
	return out
}

// PhotoGridRequest asks where the cells of a module lie between corners.
type PhotoGridRequest struct {
	Display bench.Display `json:"display"`
	Corners []PhotoPoint  `json:"corners" nullable:"false" minItems:"4" maxItems:"4" doc:"of the cells"`
	GapX    float64       `json:"gapX" minimum:"0" maximum:"5" doc:"between cells, in dots"`
	GapY    float64       `json:"gapY" minimum:"0" maximum:"10" doc:"between rows, in dots"`
}

// PhotoGrid is where each cell lies, row by row.
type PhotoGrid struct {
	Cells []PhotoOutline `json:"cells" nullable:"false"`
}

// PhotoOutline is where a cell lies.
type PhotoOutline struct {
	Outline []PhotoPoint `json:"outline" nullable:"false"`
}

func (r *PhotoGridRequest) place() (*PhotoGrid, error) {
	m, err := r.Display.Module()
	if err != nil {
		return nil, answer.Invalid(err)
	}
	list, err := photo.Grid(&m, *cornersOf(r.Corners), r.GapX, r.GapY)
	if err != nil {
		return nil, answer.Refused(err)
	}
	out := &PhotoGrid{}
	for _, c := range list {
		out.Cells = append(out.Cells, PhotoOutline{points(c)})
	}
	return out, nil
}

func points(c photo.Corners) (out []PhotoPoint) {
	for _, p := range c {
		out = append(out, PhotoPoint(p))
	}
	return out
}

// Register registers the reading of photographs.
func Register(api huma.API) {
	huma.Register(api, huma.Operation{OperationID: "read-photograph", Method: http.MethodPost, Path: "/api/photographs", Summary: "Read the glass of a module from a photograph", Errors: []int{422}},
		answer.Answered(read))
	huma.Register(api, huma.Operation{OperationID: "place-cells", Method: http.MethodPost, Path: "/api/photographs/grid", Summary: "Where the cells of a module lie between corners in a photograph", Errors: []int{422}},
		answer.Answered((*PhotoGridRequest).place))
	registerCharts(api)
}
