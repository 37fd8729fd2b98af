// Package table answers for the table as a whole: pins, addresses, links, levels and supply, a scan of
// the bus, modules that are added, and hosts that are changed.
package table

import (
	"context"
	"errors"
	"net/http"
	"strings"

	"github.com/danielgtaylor/huma/v2"

	"slatebell/core/bench"
	"slatebell/core/bench/edit"
	"slatebell/core/finding"
	"slatebell/core/part/host"
	"slatebell/core/part/i2cbus"
	"slatebell/core/prove/check"
	"slatebell/core/prove/fault"
	"slatebell/core/prove/testbed"
	"slatebell/core/table/bus"
	"slatebell/core/table/pinout"
	"slatebell/core/table/setup"
	"slatebell/formats/program"
	"slatebell/formats/scantext"
	"slatebell/server/api/answer"
	"slatebell/server/api/facts"
)

func Register(api huma.API) {
	post := func(id, path, summary string) huma.Operation {
		return huma.Operation{OperationID: id, Method: http.MethodPost, Path: path, Summary: summary, Errors: []int{422}}
	}
	huma.Register(api, post("plan-bench", "/api/plan", "What a bench as a whole comes to: pins, addresses, electrics, levels, supply"),
		func(_ context.Context, in *struct{ Body bench.Bench }) (*answer.Body[PlanResult], error) {
			if err := in.Body.Validate(); err != nil {
				return nil, answer.Invalid(err)
			}
			return &answer.Body[PlanResult]{Body: newPlan(&in.Body)}, nil
		})

	huma.Register(api, post("compare-links", "/api/plan/links", "Ways to join a module to the host, one of them recommended"),
		func(_ context.Context, in *struct {
			Body struct {
				Bench  bench.Bench `json:"bench"`
				Module int         `json:"module" minimum:"0"`
			}
		}) (*answer.List[LinkChoice], error) {
			choices, err := check.Choices(&in.Body.Bench, testbed.At{Module: in.Body.Module})
			if err != nil {
				return nil, answer.Invalid(err)
			}
			now := in.Body.Bench.Modules[in.Body.Module].Link.Kind
			out := &answer.List[LinkChoice]{Body: make([]LinkChoice, len(choices))}
			for i, c := range choices {
				out.Body[i] = LinkChoice{
					Kind: string(c.Kind), Now: string(c.Kind) == now, Fits: c.Fits, Why: c.Why, Recommended: c.Recommended, Reason: c.Reason, Lines: c.Lines, Pins: c.Pins, Taken: c.Taken, Left: c.Left,
					Wires: c.Wires, Parts: append([]string{}, c.Parts...), For: append([]string{}, c.For...), Against: append([]string{}, c.Against...), WireWords: c.Words,
					WireUs: program.Microseconds(c.WireTime), FinishUs: program.Microseconds(c.Finish), UpdateUs: program.Microseconds(c.Update), Patch: edit.SetLink{Module: in.Body.Module, Link: c.Link}.Patch(&in.Body.Bench), Ways: waysOf(&in.Body.Bench, in.Body.Module, &c.Option),
				}
			}
			return out, nil
		})

	huma.Register(api, post("add-modules", "/api/plan/like", "The change that adds modules like one, each with a name, a screen, and an address or pins of its own"),
		func(_ context.Context, in *struct {
			Body struct {
				Bench  bench.Bench `json:"bench"`
				Module int         `json:"module" minimum:"0"`
				Count  int         `json:"count" minimum:"1" maximum:"64"`
			}
		}) (*answer.Body[AdditionResult], error) {
			a, err := setup.Like(&in.Body.Bench, in.Body.Module, in.Body.Count)
			if err != nil {
				return nil, answer.Refused(err)
			}
			return &answer.Body[AdditionResult]{Body: AdditionResult{append(finding.Patch{}, a.Edits().Patch(&in.Body.Bench)...), a.IDs(), a.Why, a.Would}}, nil
		})

	huma.Register(api, post("change-host", "/api/plan/host", "The change that puts another host on a bench, with pins of its own"),
		func(_ context.Context, in *struct {
			Body struct {
				Bench bench.Bench `json:"bench"`
				Host  bench.Host  `json:"host"`
			}
		}) (*answer.Body[finding.Remedy], error) {
			if _, err := host.ParseSerial(in.Body.Host.Facts.Serial); err != nil {
				return nil, answer.Refused(err)
			}
			return &answer.Body[finding.Remedy]{Body: edit.Remedy(&in.Body.Bench, "Change the host", setup.Rehost(&in.Body.Bench, in.Body.Host)...)}, nil
		})

	huma.Register(api, post("read-pins", "/api/plan/pins", "The change that puts a module's lines on pins, given in the order of the lines"),
		func(_ context.Context, in *struct {
			Body struct {
				Bench  bench.Bench `json:"bench"`
				Module int         `json:"module" minimum:"0"`
				Text   string      `json:"text" maxLength:"400" example:"12, 11, 5, 4, 3, 2" doc:"labels or numbers; … leaves a line as it is"`
			}
		}) (*answer.Body[finding.Remedy], error) {
			pins, err := pinout.Parse(&in.Body.Bench, in.Body.Module, in.Body.Text)
			if err != nil {
				return nil, answer.Refused(err)
			}
			return &answer.Body[finding.Remedy]{Body: edit.Remedy(&in.Body.Bench, "Put its lines on these pins", edit.SetPins{Module: in.Body.Module, Pins: pins})}, nil
		})

	huma.Register(api, post("plan-inputs", "/api/plan/inputs", "Where an input of a show can be joined to the host, and the change that joins all that are on no pin"),
		func(_ context.Context, in *struct{ Body InputRequest }) (*answer.Body[InputPlaces], error) {
			choices, err := pinout.ForInput(&in.Body.Bench, in.Body.Module, in.Body.Input)
			if err != nil {
				return nil, answer.Refused(err)
			}
			return &answer.Body[InputPlaces]{Body: inputPlaces(&in.Body, choices)}, nil
		})

	huma.Register(api, post("add-inputs", "/api/plan/inputs/group", "The change that adds several inputs which come as one, on free pins"), answer.Answered((*GroupRequest).add))

	huma.Register(api, post("scan-bus", "/api/plan/scan", "Scan the simulated bus of a bench, as planned or with a mistake made"),
		func(_ context.Context, in *struct {
			Body struct {
				Bench   bench.Bench `json:"bench"`
				Channel int         `json:"channel,omitempty" minimum:"0" maximum:"8"`
				Mistake string      `json:"mistake,omitempty" enum:"swapped,no-ground,no-pull-ups,wrong-pads,gone,twins"`
				Of      int         `json:"of,omitempty" minimum:"0" doc:"the part that the mistake is made on: index into the plan's nodes"`
			}
		}) (*answer.Body[ScanResult], error) {
			s, err := fault.ScanBus(&in.Body.Bench, in.Body.Channel, fault.Mistake(in.Body.Mistake), in.Body.Of)
			if err != nil {
				return nil, answer.Refused(err)
			}
			return &answer.Body[ScanResult]{Body: ScanResult{Found: facts.AllForms(s.Found), Print: s.Print, Why: s.Why, Matches: newMatches(&in.Body.Bench, in.Body.Channel, s.Found)}}, nil
		})

	huma.Register(api, post("read-scan", "/api/plan/printout", "Hold what a scanner printed against a bench"),
		func(_ context.Context, in *struct {
			Body struct {
				Bench   bench.Bench `json:"bench"`
				Channel int         `json:"channel,omitempty" minimum:"0" maximum:"8"`
				Text    string      `json:"text" maxLength:"65536"`
			}
		}) (*answer.Body[ScanResult], error) {
			var expected []i2cbus.Address
			for _, e := range bus.Expected(&in.Body.Bench, in.Body.Channel) {
				expected = append(expected, e.At)
			}
			r, err := scantext.Read(strings.NewReader(in.Body.Text), expected)
			if err != nil && !(errors.Is(err, scantext.ErrNone) && r.Silent) {
				return nil, answer.Refused(err)
			}
			if r.Silent {
				r.Notes = append(r.Notes, "The print-out says that nothing was found.")
			}
			return &answer.Body[ScanResult]{Body: ScanResult{Found: facts.AllForms(r.Found), Notes: r.Notes, Matches: newMatches(&in.Body.Bench, in.Body.Channel, r.Found)}}, nil
		})

	huma.Register(api, post("narrow-expander", "/api/plan/expander", "What a backpack's expander can be, by what is seen, tried or scanned of it"),
		func(_ context.Context, in *struct {
			Body struct {
				Printed string `json:"printed,omitempty" enum:",PCF8574,PCF8574A" doc:"on its chip"`
				Pads    string `json:"pads,omitempty" maxLength:"20" doc:"those that are closed, such as A0 A2, or none; absent: not known"`
				Answers string `json:"answers,omitempty" maxLength:"2000" doc:"what a scan printed with it alone on the bus"`
			}
		}) (*answer.Body[ExpanderAdvice], error) {
			e := i2cbus.Evidence{Printed: in.Body.Printed}
			if in.Body.Pads != "" {
				pads, err := i2cbus.ParsePads(in.Body.Pads)
				if err != nil {
					return nil, answer.Refused(err)
				}
				e.Pads = &pads
			}
			if strings.TrimSpace(in.Body.Answers) != "" {
				r, err := scantext.Read(strings.NewReader(in.Body.Answers), nil)
				if err != nil {
					return nil, answer.Refused(err)
				}
				e.Answers = r.Found
			}
			known, next := i2cbus.Advice(e)
			return &answer.Body[ExpanderAdvice]{Body: ExpanderAdvice{known, next}}, nil
		})
}
