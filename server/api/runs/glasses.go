package runs

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"slatebell/core/finding"
	"slatebell/core/prove/run"
	"slatebell/core/prove/testbed"
	"slatebell/server/api/answer"
	"slatebell/server/api/facts"
)

// GlassesRequest asks for the glasses of several screens at once.
type GlassesRequest struct {
	Screens []GlassRequest `json:"screens" nullable:"false" maxItems:"64"`
}

// GlassRequest asks for one of them.
type GlassRequest struct {
	testbed.Setup
	Fault string `json:"fault,omitempty" maxLength:"120" doc:"a fault to make on purpose, by its id in the catalogue that POST /api/faults lists"`
}

// Drawn is the glass of a screen.
type Drawn struct {
	Glass   *facts.Glass `json:"glass,omitempty" doc:"after the last step; absent where the screen cannot be run"`
	Open    int          `json:"open" doc:"findings, notes aside"`
	Problem string       `json:"problem,omitempty" doc:"why it cannot be run"`
}

// draw runs a screen, of which nothing is kept.
func (g *GlassRequest) draw() Drawn {
	r, err := run.Do(&g.Setup, run.Options{Fault: g.Fault})
	if err != nil {
		return Drawn{Problem: err.Error()}
	}
	glass := facts.GlassAt(r, r.Last())
	out := Drawn{Glass: &glass}
	for _, f := range r.Findings {
		if f.Severity != finding.Note {
			out.Open++
		}
	}
	return out
}

func registerGlasses(api huma.API) {
	huma.Register(api, huma.Operation{OperationID: "draw-glasses", Method: http.MethodPost, Path: "/api/glasses", Summary: "Run several screens, and tell what their glasses show", Errors: []int{422}},
		func(ctx context.Context, in *struct{ Body GlassesRequest }) (*answer.List[Drawn], error) {
			out := &answer.List[Drawn]{Body: make([]Drawn, len(in.Body.Screens))}
			for i := range in.Body.Screens {
				if ctx.Err() != nil {
					return nil, ctx.Err() // nobody waits for it
				}
				out.Body[i] = in.Body.Screens[i].draw()
			}
			return out, nil
		})
}
