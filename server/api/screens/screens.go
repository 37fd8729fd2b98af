// Package screens answers for screens that follow each other: transitions, rows that run, the loading
// of glyphs, and texts that are looked for.
package screens

import (
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"slatebell/core/bench"
	"slatebell/core/finding"
	"slatebell/core/prove/testbed"
	"slatebell/core/prove/transition"
	"slatebell/core/text/screen"
	"slatebell/formats/program"
	"slatebell/server/api/answer"
	"slatebell/server/api/facts"
)

// TransitionRequest asks for the change from one screen of a module to another.
type TransitionRequest struct {
	From  testbed.Setup `json:"from"`
	To    testbed.Setup `json:"to"`
	Shift bool          `json:"shift,omitempty" doc:"the cheapest may move the glass over its memory"`
}

// Transition is a change by every strategy.
type Transition struct {
	Left       []int            `json:"left" nullable:"false" doc:"cells, row by row, that keep old characters where nothing clears them"`
	Over       facts.Glass      `json:"over" doc:"the glass after the second screen is written over the first"`
	Changed    []int            `json:"changed" nullable:"false" doc:"cells that differ"`
	Strategies []StrategyResult `json:"strategies" nullable:"false" doc:"the cheapest first"`
}

// StrategyResult is what one strategy takes and looks like.
type StrategyResult struct {
	Strategy string           `json:"strategy" enum:"cheapest,steady,changed,pad,clear"`
	Cost     facts.WireCost   `json:"cost"`
	WrongUs  float64          `json:"wrongUs" doc:"for how long some cell shows neither the first screen nor the second, µs"`
	PerSec   float64          `json:"perSecond" doc:"how often a second the change could be made; 0 where nothing changes"`
	Program  program.Document `json:"program"`
}

// play plays every strategy.
func (r *TransitionRequest) play() (*Transition, error) {
	p, err := transition.New(&r.From, &r.To)
	if err != nil {
		return nil, answer.Invalid(err)
	}
	out := &Transition{Left: append([]int{}, p.Left()...), Changed: append([]int{}, p.Changes()...), Strategies: []StrategyResult{}}
	for _, strategy := range transition.Strategies {
		played, err := p.Play(strategy, r.Shift)
		if err != nil {
			return nil, answer.Invalid(err)
		}
		out.Strategies = append(out.Strategies, StrategyResult{string(strategy), facts.CostOf(played.Cost), program.Microseconds(played.Wrong), played.Cost.PerSecond(), program.New(played.Program)})
	}
	over, err := p.Play(transition.Overprint, false)
	if err != nil {
		return nil, answer.Invalid(err)
	}
	out.Over = facts.GlassOf(over.Glass, p.ROM())
	return out, nil
}

// ScrollResult is a row that runs through the glass, over one round.
type ScrollResult struct {
	Text     int               `json:"text" doc:"characters, the gap included: so many steps until the row is as it was"`
	Begin    facts.WireCost    `json:"begin" doc:"what puts the text into the memory, before the first step"`
	Step     facts.WireCost    `json:"step" doc:"the dearest step"`
	Sum      facts.WireCost    `json:"sum" doc:"all steps of a round"`
	Turns    []int             `json:"turns" nullable:"false" doc:"other rows, 0-based, that move with it"`
	Frames   []facts.Glass     `json:"frames" nullable:"false" doc:"the glass before the first step and after each; none where the way cannot be"`
	Findings []finding.Finding `json:"findings" nullable:"false"`
}

// maxFrames bounds the frames of an answer; a longer round is cut off there.
const maxFrames = 200

func scroll(s *testbed.Setup) (*ScrollResult, error) {
	sc, err := transition.NewScrolled(s)
	if err != nil {
		return nil, answer.Invalid(err)
	}
	mod, _, err := s.Build()
	if err != nil {
		return nil, answer.Invalid(err)
	}
	out := &ScrollResult{Text: sc.Text, Begin: facts.CostOf(sc.Begin), Step: facts.CostOf(sc.Worst()), Sum: facts.CostOf(transition.Sum(sc.Steps)), Turns: append([]int{}, sc.Turns...),
		Frames: []facts.Glass{}, Findings: append([]finding.Finding{}, sc.Findings...)}
	for _, g := range sc.Frames[:min(len(sc.Frames), maxFrames)] {
		out.Frames = append(out.Frames, facts.GlassOf(g, mod.ROM))
	}
	return out, nil
}

// SearchRequest asks where a text stands on the screens of a bench.
type SearchRequest struct {
	Bench bench.Bench `json:"bench"`
	Text  string      `json:"text" maxLength:"400"`
}

// SearchHits is where it stands.
type SearchHits struct {
	Hits []SearchHit `json:"hits" nullable:"false"`
}

// SearchHit is one place.
type SearchHit struct {
	Module int    `json:"module" doc:"index"`
	Screen int    `json:"screen" doc:"index"`
	Row    int    `json:"row"`
	Col    int    `json:"col"`
	Len    int    `json:"len" doc:"cells"`
	Field  int    `json:"field" doc:"counted from 1, of the field that was found; 0 for the row's own text"`
	Text   string `json:"text" doc:"the row, or what of the field was found"`
}

func (r *SearchRequest) search() (*SearchHits, error) {
	if err := r.Bench.Validate(); err != nil {
		return nil, answer.Invalid(err)
	}
	out := &SearchHits{Hits: []SearchHit{}}
	for m := range r.Bench.Modules {
		mod, err := r.Bench.Modules[m].Display.Module()
		if err != nil {
			return nil, answer.Invalid(err)
		}
		for i, s := range r.Bench.Modules[m].Screens {
			for _, h := range screen.Search(mod.ROM, screen.Text{Rows: s.Rows, Fields: s.Fields}, r.Text) {
				out.Hits = append(out.Hits, SearchHit{m, i, h.Row, h.Col, h.Len, h.Field, h.Text})
			}
		}
	}
	return out, nil
}

func Register(api huma.API) {
	post := func(id, path, summary string) huma.Operation {
		return huma.Operation{OperationID: id, Method: http.MethodPost, Path: path, Summary: summary, Errors: []int{422}}
	}
	huma.Register(api, post("change-screen", "/api/screens/transition", "Change one screen into another by every strategy"), answer.Answered((*TransitionRequest).play))
	registerMatrix(api, post)
	huma.Register(api, post("scroll-screen", "/api/screens/scroll", "Let a row run through the glass"), answer.Answered(scroll))
	huma.Register(api, post("guess-field", "/api/screens/field", "A field for cells of a screen, which shows what stands in them"), answer.Answered((*FieldRequest).guess))
	registerLoading(api, post)
	huma.Register(api, post("search-screens", "/api/screens/search", "Find a text on the screens of a bench"), answer.Answered((*SearchRequest).search))
}
