// Package runs answers for a module's screen on its way to the glass: runs with their moments and
// waves, operations by hand, and the ways to toggle E.
package runs

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"io"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"slatebell/core/prove/run"
	"slatebell/core/prove/testbed"
	"slatebell/formats/stepcsv"
	"slatebell/formats/vcd"
	"slatebell/formats/wirehex"
	"slatebell/server/api/answer"
)

// RunRequest asks for a run of one screen of a module.
type RunRequest struct {
	testbed.Setup
	Live  []LiveOperation `json:"live,omitempty" maxItems:"2000" nullable:"false" doc:"operations given by hand, after the screen"`
	Fault string          `json:"fault,omitempty" maxLength:"120" doc:"a fault to make on purpose, by its id in the catalogue that POST /api/faults lists"`
}

// options returns what the request asks of the run.
func (r *RunRequest) options() run.Options {
	o := run.Options{Fault: r.Fault}
	for i := range r.Live {
		o.Live = append(o.Live, r.Live[i].Aimed())
	}
	return o
}

// run computes a run, or finds it among those kept.
func (c *Runs) run(req RunRequest) (string, *run.Run, error) {
	doc, err := json.Marshal(req)
	if err != nil {
		return "", nil, err
	}
	sum := sha256.Sum256(doc)
	id := hex.EncodeToString(sum[:12])
	if r, ok := c.runs.Get(id); ok {
		return id, r, nil
	}
	r, err := run.Do(&req.Setup, req.options())
	if err != nil {
		return "", nil, answer.Invalid(err)
	}
	c.runs.Put(id, r, sizeOf(r))
	c.requests.Put(id, doc, len(doc))
	return id, r, nil
}

// Result runs a screen, or finds it among those kept, and describes what came of it.
func (c *Runs) Result(s *testbed.Setup) (*RunResult, error) {
	id, r, err := c.run(RunRequest{Setup: *s})
	if err != nil {
		return nil, err
	}
	out := newRunResult(id, r)
	return &out, nil
}

// Stops are steps at which a run is to stop.
type Stops struct {
	Steps  []int  `json:"steps" nullable:"false" doc:"0-based"`
	Sought string `json:"sought" doc:"what was looked for, in words"`
}

// RunPath is the path parameter that names a run.
type RunPath struct {
	Run string `path:"run"`
}

// find returns a run by its id. One that was dropped to save memory is computed
// again.
func (c *Runs) find(id string) (*run.Run, error) {
	if r, ok := c.runs.Get(id); ok {
		return r, nil
	}
	doc, asked := c.requests.Get(id)
	if !asked {
		return nil, huma.Error404NotFound("this run is not known; ask for it with POST /api/runs")
	}
	var req RunRequest
	if err := json.Unmarshal(doc, &req); err != nil {
		return nil, err
	}
	_, r, err := c.run(req)
	return r, err
}

func registerRuns(api huma.API, c *Runs) {
	huma.Register(api, huma.Operation{OperationID: "run-module", Method: http.MethodPost, Path: "/api/runs", Summary: "Compose, compile, simulate and judge a module's screen", Errors: []int{422}},
		func(_ context.Context, in *struct{ Body RunRequest }) (*struct{ Body RunResult }, error) {
			id, r, err := c.run(in.Body)
			if err != nil {
				return nil, err
			}
			return &struct{ Body RunResult }{newRunResult(id, r)}, nil
		})

	huma.Register(api, huma.Operation{OperationID: "get-moments", Method: http.MethodGet, Path: "/api/runs/{run}/moments", Summary: "Read what the module is like after each of some steps", Errors: []int{404}},
		func(_ context.Context, in *struct {
			RunPath
			From  int `query:"from" minimum:"0" doc:"steps done at the first moment"`
			Count int `query:"count" minimum:"1" maximum:"256" default:"1"`
		}) (*answer.List[Moment], error) {
			r, err := c.find(in.Run)
			if err != nil {
				return nil, err
			}
			out := &answer.List[Moment]{Body: []Moment{}}
			for i := in.From; i < min(in.From+in.Count, len(r.Moments)); i++ {
				out.Body = append(out.Body, newMoment(r, i))
			}
			return out, nil
		})

	huma.Register(api, huma.Operation{OperationID: "find-stops", Method: http.MethodGet, Path: "/api/runs/{run}/stops", Summary: "Find the steps at which a run is to stop", Errors: []int{404, 422}},
		func(_ context.Context, in *struct {
			RunPath
			At string `query:"at" maxLength:"200" doc:"a step's number, a DDRAM address such as 0x40, or a part of a meaning"`
		}) (*struct{ Body Stops }, error) {
			r, err := c.find(in.Run)
			if err != nil {
				return nil, err
			}
			steps, sought, err := r.Stops(in.At)
			if err != nil {
				return nil, answer.Refused(err)
			}
			return &struct{ Body Stops }{Stops{append([]int{}, steps...), sought}}, nil
		})

	text := func(kind, name string, write func(io.Writer, *run.Run) error) func(context.Context, *RunPath) (*answer.Download, error) {
		return func(_ context.Context, in *RunPath) (*answer.Download, error) {
			r, err := c.find(in.Run)
			if err != nil {
				return nil, err
			}
			return answer.File(kind, name, func(w io.Writer) error { return write(w, r) }), nil
		}
	}
	huma.Register(api, huma.Operation{OperationID: "get-steps-csv", Method: http.MethodGet, Path: "/api/runs/{run}/steps.csv", Summary: "The steps as CSV, RFC 4180", Errors: []int{404}},
		text("text/csv; charset=utf-8; header=present", "steps.csv", func(w io.Writer, r *run.Run) error { return stepcsv.Write(w, r.Program) }))
	huma.Register(api, huma.Operation{OperationID: "get-wire-hex", Method: http.MethodGet, Path: "/api/runs/{run}/wire.hex", Summary: "The wire bytes in hexadecimal, one step a line", Errors: []int{404}},
		text("text/plain; charset=utf-8", "wire.hex", func(w io.Writer, r *run.Run) error { return wirehex.Write(w, r.Program) }))
	huma.Register(api, huma.Operation{OperationID: "get-waves-vcd", Method: http.MethodGet, Path: "/api/runs/{run}/waves.vcd", Summary: "Header pins and wire as a value change dump, IEEE 1364", Errors: []int{404}},
		text("text/plain; charset=utf-8", "waves.vcd", func(w io.Writer, r *run.Run) error {
			return vcd.WriteBehind(w, r.Program, r.Hardware)
		}))
}

// Register registers runs, what is done in them by hand, and the ways to toggle E.
func Register(api huma.API, c *Runs) {
	registerRuns(api, c)
	registerGlasses(api)
	registerLive(api, c)
	registerWays(api)
}
