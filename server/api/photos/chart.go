package photos

import (
	"net/http"
	"strings"

	"github.com/danielgtaylor/huma/v2"

	"slatebell/core/bench"
	"slatebell/core/finding"
	"slatebell/core/part/module"
	"slatebell/core/prove/chart"
	"slatebell/core/prove/testbed"
	"slatebell/core/text/glyph"
	"slatebell/formats/photofile"
	"slatebell/server/api/answer"
)

// ChartScreensRequest asks for the screens that show the ROM of a module.
type ChartScreensRequest struct {
	Bench  bench.Bench `json:"bench"`
	Module int         `json:"module" minimum:"0"`
}

// ChartScreens are the screens, as they are shown on the glass.
type ChartScreens struct {
	Screens []testbed.Setup `json:"screens" nullable:"false"`
}

func (r *ChartScreensRequest) screens() (*ChartScreens, error) {
	b, err := chart.Bench(&r.Bench)
	if err != nil {
		return nil, answer.Invalid(err)
	}
	out := &ChartScreens{}
	for i := 0; len(b.Modules) > r.Module && i < len(b.Modules[r.Module].Screens); i++ {
		s, err := testbed.Of(b, testbed.At{Module: r.Module, Screen: i})
		if err != nil {
			return nil, answer.Invalid(err)
		}
		out.Screens = append(out.Screens, s)
	}
	if len(out.Screens) == 0 {
		return nil, huma.Error422UnprocessableEntity("no such module on this bench")
	}
	return out, nil
}

// ChartPhotoRequest is a photograph of one of the screens.
type ChartPhotoRequest struct {
	Display bench.Display `json:"display"`
	Data    []byte        `json:"data" doc:"the file, JPEG or PNG"`
}

func (r *ChartPhotoRequest) read() (*chart.Shown, error) {
	m, err := r.Display.Module()
	if err != nil {
		return nil, answer.Invalid(err)
	}
	g, err := photofile.Read(r.Data)
	if err != nil {
		return nil, answer.Refused(err)
	}
	s, err := chart.Read(g, nil, &m)
	if err != nil {
		return nil, answer.Refused(err)
	}
	return &s, nil
}

// ChartRequest asks for a chart, by what photographs show of its screens.
type ChartRequest struct {
	Display bench.Display `json:"display"`
	Name    string        `json:"name" maxLength:"40" pattern:"^[^\\r\\n]*$" doc:"of the ROM; absent: learnt"`
	Shown   []chart.Shown `json:"shown" nullable:"false" maxItems:"400" doc:"in any order, several of one screen too"`
	Seen    []SeenCode    `json:"seen,omitempty" nullable:"false" maxItems:"256" doc:"what an eye has seen, which counts before the photographs"`
}

// SeenCode is what a code shows.
type SeenCode struct {
	Code int   `json:"code" minimum:"0" maximum:"255"`
	Rows []int `json:"rows" nullable:"false" minItems:"8" maxItems:"11" doc:"rows of dots; bit 4 is the leftmost"`
}

// Chart is what is known of a ROM.
type Chart struct {
	Codes    []ChartCode       `json:"codes" nullable:"false" doc:"all 256"`
	Screens  int               `json:"screens" doc:"that show all codes"`
	Missing  []int             `json:"missing" nullable:"false" doc:"screens without a photograph"`
	Like     string            `json:"like" doc:"the known ROM that it has most in common with"`
	Chart    string            `json:"chart" doc:"as it is kept with the module"`
	Findings []finding.Finding `json:"findings" nullable:"false"`
}

// ChartCode is what a code shows, by the photographs.
type ChartCode struct {
	SeenCode
	Char     string  `json:"char,omitempty" doc:"its character, where some known ROM has one that looks so"`
	Sure     float64 `json:"sure" doc:"of its dots that which is least sure, 0–1"`
	Sights   int     `json:"sights" doc:"how many photographs show it"`
	Doubtful bool    `json:"doubtful" doc:"it needs an eye"`
	Slot     bool    `json:"slot" doc:"it shows a glyph of CGRAM"`
	Differs  bool    `json:"differs" doc:"from the ROM that the chart is like"`
}

func (r *ChartRequest) learn() (*Chart, error) {
	m, err := r.Display.Module()
	if err != nil {
		return nil, answer.Invalid(err)
	}
	for i := range r.Shown {
		if err := r.Shown[i].Check(&m); err != nil {
			return nil, answer.Refused(err)
		}
	}
	seen := map[byte]glyph.Pattern{}
	for _, s := range r.Seen {
		seen[byte(s.Code)] = glyph.FromInts(s.Rows)
	}
	return r.written(chart.Learn(&m, r.Shown, seen), &m)
}

// written is a chart as it is answered.
func (r *ChartRequest) written(c *chart.Chart, m *module.Module) (*Chart, error) {
	name := strings.TrimSpace(r.Name)
	if name == "" {
		name = "learnt"
	}
	var text strings.Builder
	if _, err := c.ROM(name).WriteTo(&text); err != nil {
		return nil, err
	}
	out := &Chart{Screens: c.Screens, Missing: append([]int{}, c.Missing...), Like: c.Like.ROM.Name, Chart: text.String(), Findings: append([]finding.Finding{}, c.Findings()...)}
	for code := range c.Codes {
		k := &c.Codes[code]
		var rows []int
		for _, bits := range k.Pattern[:m.CellRows()] {
			rows = append(rows, int(bits))
		}
		one := ChartCode{SeenCode: SeenCode{code, rows}, Sure: k.Certainty(), Sights: k.Sights, Doubtful: k.Doubtful(), Slot: k.Slot}
		for _, ch := range c.Characters(byte(code)) {
			one.Char = string(ch)
			break
		}
		out.Codes = append(out.Codes, one)
	}
	for _, code := range c.Like.Codes {
		out.Codes[code].Differs = true
	}
	return out, nil
}

// registerCharts registers the learning of ROMs.
func registerCharts(api huma.API) {
	post := func(id, path, summary string) huma.Operation {
		return huma.Operation{OperationID: id, Method: http.MethodPost, Path: path, Summary: summary, Errors: []int{422}}
	}
	huma.Register(api, post("list-chart-screens", "/api/charts/screens", "The screens that show the character ROM of a module"), answer.Answered((*ChartScreensRequest).screens))
	huma.Register(api, post("read-chart-photograph", "/api/charts/photographs", "Read a photograph of one of the screens that show a ROM"), answer.Answered((*ChartPhotoRequest).read))
	huma.Register(api, post("learn-chart", "/api/charts", "Put together what photographs show of a character ROM"), answer.Answered((*ChartRequest).learn))
}
