package runs

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"slatebell/core/finding"
	"slatebell/core/prove/run"
	"slatebell/core/prove/testbed"
	"slatebell/formats/program"
	"slatebell/server/api/answer"
)

// Way is one way of toggling E over an expander or shift register.
type Way struct {
	Transactions string            `json:"transactions,omitempty" enum:"byte,operation,screen" doc:"absent on a shift register"`
	Setup        string            `json:"setup" enum:"lawful,before,with-e"`
	WireWords    int               `json:"wireWords" doc:"bytes on the outputs"`
	Starts       int               `json:"starts" doc:"I²C transactions"`
	WireUs       float64           `json:"wireUs" doc:"µs the wire is in use"`
	FinishUs     float64           `json:"finishUs" doc:"µs from power-up until the screen stands"`
	Breaks       []finding.Finding `json:"breaks" nullable:"false" doc:"limits that it breaks"`
	Best         bool              `json:"best,omitempty" doc:"the fastest of those that break nothing"`
}

func newWays(ways []run.Way) []Way {
	out := make([]Way, len(ways))
	for i, w := range ways {
		out[i] = Way{string(w.Grouping), string(w.Setup), w.Words, w.Transactions, program.Microseconds(w.WireTime), program.Microseconds(w.Finish), append([]finding.Finding{}, w.Breaks...), w.Best}
	}
	return out
}

func registerWays(api huma.API) {
	huma.Register(api, huma.Operation{OperationID: "compare-ways", Method: http.MethodPost, Path: "/api/ways", Summary: "What each way of toggling E costs for a module's screen, and what it breaks", Errors: []int{422}},
		func(_ context.Context, in *struct{ Body testbed.Setup }) (*answer.List[Way], error) {
			ways, err := run.Ways(&in.Body)
			if err != nil {
				return nil, answer.Invalid(err)
			}
			return &answer.List[Way]{Body: newWays(ways)}, nil
		})
}
