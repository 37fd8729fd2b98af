// Package wiring answers for breadboards: what lies on them, a plan of it, the list of work, and what
// the module is mounted behind.
package wiring

import (
	"context"
	"io"
	"net/http"
	"strings"

	"github.com/danielgtaylor/huma/v2"

	"slatebell/core/bench"
	"slatebell/core/bench/edit"
	"slatebell/core/finding"
	"slatebell/core/part/module"
	"slatebell/core/prove/bringup"
	"slatebell/core/prove/testbed"
	"slatebell/core/table/breadboard"
	"slatebell/formats/cutout"
	"slatebell/formats/wirelist"
	"slatebell/server/api/answer"
	"slatebell/server/api/runs"
)

// CutoutResult is the drawing that a module is mounted behind.
type CutoutResult struct {
	SVG  string `json:"svg,omitempty" doc:"in millimetres; it prints true at 100 %"`
	Why  string `json:"why,omitempty" doc:"why it cannot be drawn: which figure is missing or cannot be"`
	Name string `json:"name" doc:"of the file"`
}

// CutoutRequest asks for a cut-out.
type CutoutRequest struct {
	Display     bench.Display `json:"display"`
	Name        string        `json:"name,omitempty" maxLength:"80"`
	ClearanceMM float64       `json:"clearanceMM" minimum:"0" maximum:"20"`
	UnitWidth   float64       `json:"unitWidthMM" minimum:"0" maximum:"500" doc:"of the case's grid; 0 for none"`
	UnitHeight  float64       `json:"unitHeightMM" minimum:"0" maximum:"500"`
}

// WiringRequest asks for what lies on the table.
type WiringRequest struct {
	bench.Bench
	Shown *testbed.Setup `json:"shown,omitempty" doc:"a screen of it that is run as its module is joined up there: who draws the table shows its glass, and need not ask twice"`
}

// Register registers what is asked of breadboards; runner runs a screen.
func Register(api huma.API, runner func(*testbed.Setup) (*runs.RunResult, error)) {
	post := func(id, path, summary string) huma.Operation {
		return huma.Operation{OperationID: id, Method: http.MethodPost, Path: path, Summary: summary, Errors: []int{422}}
	}
	huma.Register(api, post("wire-bench", "/api/wiring", "What lies on the table: boards, parts in holes, wires, what they join, and the plan"),
		func(_ context.Context, in *struct{ Body WiringRequest }) (*answer.Body[WiringResult], error) {
			if err := in.Body.Bench.Validate(); err != nil {
				return nil, answer.Invalid(err)
			}
			out := newWiring(&in.Body.Bench)
			if s := in.Body.Shown; s != nil && out.Laid && s.At.Module < len(out.Joined) {
				s.Joined = out.Joined[s.At.Module]
				out.Run, _ = runner(s) // why it cannot be is told to who asks for it alone
			}
			return &answer.Body[WiringResult]{Body: out}, nil
		})

	huma.Register(api, post("plan-wiring", "/api/wiring/plan", "The change that lays all parts and wires afresh, on the boards that are there and as many more as it takes"),
		func(_ context.Context, in *struct{ Body bench.Bench }) (*answer.Body[finding.Remedy], error) {
			if err := in.Body.Validate(); err != nil {
				return nil, answer.Invalid(err)
			}
			planned, err := breadboard.Plan(&in.Body)
			if err != nil {
				return nil, answer.Refused(err)
			}
			return &answer.Body[finding.Remedy]{Body: edit.Remedy(&in.Body, "Lay all as planned", edit.SetWiring{Wiring: planned})}, nil
		})

	type ofModule struct {
		Body struct {
			Bench  bench.Bench `json:"bench"`
			Module int         `json:"module" minimum:"0"`
		}
	}
	huma.Register(api, post("first-light", "/api/wiring/first-light", "The steps of a guided power-up of a module, with what one should see and what it means when one does not"),
		func(_ context.Context, in *ofModule) (*answer.List[FirstLightStep], error) {
			if err := in.Body.Bench.Validate(); err != nil {
				return nil, answer.Invalid(err)
			}
			steps, err := bringup.FirstLight(&in.Body.Bench, in.Body.Module)
			if err != nil {
				return nil, answer.Invalid(err)
			}
			return &answer.List[FirstLightStep]{Body: lightSteps(steps)}, nil
		})

	huma.Register(api, post("work-out-figures", "/api/wiring/figures", "Backlight resistor and contrast of a module worked out"),
		func(_ context.Context, in *struct{ Body bench.Module }) (*answer.Body[FiguresResult], error) {
			if _, err := in.Body.Display.Module(); err != nil {
				return nil, answer.Invalid(err)
			}
			return &answer.Body[FiguresResult]{Body: newFigures(&in.Body)}, nil
		})

	huma.Register(api, post("draw-cutout", "/api/wiring/cutout", "The drawing of the panel that a module is mounted behind"),
		func(_ context.Context, in *struct{ Body CutoutRequest }) (*answer.Body[CutoutResult], error) {
			board := in.Body.Display.Board()
			out := CutoutResult{Name: "cutout-" + in.Body.Display.Geometry + ".svg"}
			var svg strings.Builder
			err := cutout.Write(&svg, &board, cutout.Options{Name: in.Body.Name, Clearance: module.MM(in.Body.ClearanceMM), UnitW: module.MM(in.Body.UnitWidth), UnitH: module.MM(in.Body.UnitHeight)})
			if err != nil {
				out.Why = err.Error()
			} else {
				out.SVG = svg.String()
			}
			return &answer.Body[CutoutResult]{Body: out}, nil
		})

	csv := func(id, path, summary, name string, write func(io.Writer, *breadboard.Table) error) {
		huma.Register(api, post(id, path, summary),
			func(_ context.Context, in *struct{ Body bench.Bench }) (*answer.Download, error) {
				if err := in.Body.Validate(); err != nil {
					return nil, answer.Invalid(err)
				}
				t, err := breadboard.Shown(&in.Body)
				if err != nil {
					return nil, answer.Refused(err)
				}
				return answer.File("text/csv; charset=utf-8; header=present", name, func(w io.Writer) error { return write(w, t) }), nil
			})
	}
	csv("list-wires", "/api/wiring/wires.csv", "The wires as CSV, RFC 4180", "wires.csv", func(w io.Writer, t *breadboard.Table) error {
		return wirelist.WriteCSV(w, t.List())
	})
	csv("list-parts", "/api/wiring/parts.csv", "The parts as CSV, RFC 4180", "parts.csv", func(w io.Writer, t *breadboard.Table) error {
		return wirelist.WriteParts(w, t.Parts())
	})
}
