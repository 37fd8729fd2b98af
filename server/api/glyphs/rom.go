package glyphs

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"
	"golang.org/x/text/unicode/runenames"

	"slatebell/core/bench"
	"slatebell/core/part/charrom"
	"slatebell/core/text/glyph"
	"slatebell/core/text/screen"
	"slatebell/server/api/answer"
)

// ROMChart is a character ROM for people to pick from.
type ROMChart struct {
	Name  string     `json:"name"`
	Cells []ROMEntry `json:"cells" nullable:"false" doc:"256 codes in order"`
	Slots []SlotCode `json:"slots" nullable:"false" doc:"the slots that glyphs may take"`
}

// ROMEntry is one code of a ROM.
type ROMEntry struct {
	Code  int    `json:"code"`
	Char  string `json:"char,omitempty"`
	Name  string `json:"name,omitempty" doc:"Unicode name of the character"`
	Dots  []byte `json:"dots" doc:"eight rows; bit 4 is the leftmost dot"`
	Known bool   `json:"known" doc:"the ROM has the code; codes 0–7 are the user's glyphs"`
}

// SlotCode is a slot of CGRAM and what shows it.
type SlotCode struct {
	Slot int `json:"slot"`
	Code int `json:"code" doc:"never 0 where there is another, as code 0 ends a string in C"`
}

func registerROM(api huma.API) {
	huma.Register(api, huma.Operation{OperationID: "get-rom-chart", Method: http.MethodGet, Path: "/api/roms/{name}", Summary: "A built-in ROM as a chart, to begin one's own from", Errors: []int{404}},
		func(_ context.Context, in *struct {
			Name string `path:"name"`
		}) (*huma.StreamResponse, error) {
			rom, ok := charrom.ByName(in.Name)
			if !ok {
				return nil, huma.Error404NotFound("there is no such ROM")
			}
			return &huma.StreamResponse{Body: func(ctx huma.Context) {
				ctx.SetHeader("Content-Type", "text/plain; charset=utf-8")
				ctx.SetHeader("Content-Disposition", `attachment; filename="`+rom.Name+`.chart"`)
				rom.WriteTo(ctx.BodyWriter()) // the connection is gone where this fails
			}}, nil
		})

	huma.Register(api, huma.Operation{OperationID: "chart-rom", Method: http.MethodPost, Path: "/api/rom", Summary: "The character ROM of a display, code by code", Errors: []int{422}},
		func(_ context.Context, in *struct{ Body bench.Display }) (*struct{ Body ROMChart }, error) {
			m, err := in.Body.Module()
			if err != nil {
				return nil, answer.Invalid(err)
			}
			chart := ROMChart{Name: m.ROM.Name}
			for slot := 0; slot < glyph.Slots; slot += m.SlotStep() {
				chart.Slots = append(chart.Slots, SlotCode{slot, int(screen.CodeOf(&m, slot))})
			}
			for c := range 256 {
				code := byte(c)
				dots := m.ROM.Dots(code)
				e := ROMEntry{Code: c, Dots: dots[:], Known: m.ROM.Known(code)}
				if ch, ok := m.ROM.Rune(code); ok {
					e.Char, e.Name = string(ch), runenames.Name(ch)
				}
				chart.Cells = append(chart.Cells, e)
			}
			return &struct{ Body ROMChart }{chart}, nil
		})
}
