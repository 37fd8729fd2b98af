// Package photos reads the glass of a module from a photograph that the page sends. It stands beside the other subjects of the API; nothing
// is kept.
package photos

import (
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"slatebell/core/bench"
	"slatebell/core/finding"
	"slatebell/core/prove/photo"
	"slatebell/core/prove/testbed"
	"slatebell/core/text/screen"
	"slatebell/formats/photofile"
	"slatebell/server/api/answer"
)

// PhotographRequest is a photograph of a module of a bench, with the screen that should be on its glass.
type PhotographRequest struct {
	Bench   bench.Bench  `json:"bench"`
	Module  int          `json:"module" minimum:"0"`
	Screen  int          `json:"screen" minimum:"0"`
	Data    []byte       `json:"data" doc:"the file, JPEG or PNG"`
	Corners []PhotoPoint `json:"corners,omitempty" nullable:"false" minItems:"4" maxItems:"4" doc:"near those of the cells or the window, upper left, upper right, lower right, lower left; absent: the window is found"`
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
	Corners  []PhotoPoint      `json:"corners" nullable:"false" doc:"of the cells, as they were found"`
	Blank    bool              `json:"blank" doc:"no dot stands out"`
	Contrast float64           `json:"contrast" doc:"of dots that are on, as a part of their ground's grey"`
	Cells    []PhotoCell       `json:"cells" nullable:"false" doc:"row by row"`
	Findings []finding.Finding `json:"findings" nullable:"false"`
}

// PhotoCell is what a cell shows.
type PhotoCell struct {
	Typed string  `json:"typed" doc:"as it is typed: a character, U+2588 a block, U+FFFD where it cannot be told, U+E000 + code a code"`
	Code  int     `json:"code"`
	Sure  float64 `json:"sure" doc:"0–1"`
	Next  int     `json:"next" doc:"the next best code"`

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
	var at *photo.Corners
	if len(r.Corners) == 4 {
		at = new(photo.Corners)
		for i, p := range r.Corners {
			at[i] = photo.Point(p)
		}
	}
	l := screen.Compose(&m, setup.Text(), setup.Sources())
	got, err := photo.Read(g, at, &m, l.Bank)
	if err != nil {
		return nil, answer.Refused(err)
	}
	out := &Photograph{Width: g.W, Height: g.H, Blank: got.Blank, Contrast: got.Contrast, Findings: append(got.Findings(&m), got.Differences(&m, l.Bank, l.Codes())...)}
	if out.Findings == nil {
		out.Findings = []finding.Finding{}
	}
	out.Corners = points(got.Corners)
	for i := range got.Cells {
		c := &got.Cells[i]
		out.Cells = append(out.Cells, PhotoCell{string(got.Typed(&m, i)), int(c.Code), c.Sure, int(c.Next), points(got.Outline(i))})
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
	registerCharts(api)
}
