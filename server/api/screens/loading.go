package screens

import (
	"github.com/danielgtaylor/huma/v2"

	"slatebell/core/bench"
	"slatebell/core/finding"
	"slatebell/core/prove/transition"
	"slatebell/core/text/bank"
	"slatebell/server/api/answer"
	"slatebell/server/api/facts"
)

// LoadingRequest asks for the loading of a module's glyphs.
type LoadingRequest struct {
	Bench  bench.Bench `json:"bench"`
	Module int         `json:"module" minimum:"0"`
}

// LoadingPlan is how a module's glyphs come into CGRAM while its screens follow
// each other.
type LoadingPlan struct {
	Needs    int               `json:"needs" doc:"different glyphs that the screens name from the library"`
	Fixed    []int             `json:"fixed" nullable:"false" doc:"slots that screens show by number"`
	Holds    int               `json:"holds" doc:"slots left for the others"`
	Each     int               `json:"each" doc:"glyphs loaded in a round if every screen loads all that it shows"`
	Planned  bool              `json:"planned" doc:"there is a plan; else the findings say why not"`
	Steps    []LoadingStep     `json:"steps" nullable:"false"`
	Cycle    int               `json:"cycle" doc:"step from which on it repeats"`
	Rounds   int               `json:"rounds" doc:"rounds that what repeats takes; 0 where the list is gone through once"`
	Loads    int               `json:"loads" doc:"glyphs loaded in what repeats, or in all"`
	Least    bool              `json:"least" doc:"proved: no plan loads fewer"`
	Sum      facts.WireCost    `json:"sum" doc:"of what repeats, or of all"`
	Findings []finding.Finding `json:"findings" nullable:"false"`
}

// LoadingStep is what is done before a screen is shown.
type LoadingStep struct {
	Screen int            `json:"screen" doc:"index"`
	Loads  []SlotLoad     `json:"loads" nullable:"false"`
	Held   []SlotHeld     `json:"held" nullable:"false" doc:"the screen's glyphs in their slots"`
	Cost   facts.WireCost `json:"cost"`
}

// SlotLoad is a glyph put into a slot.
type SlotLoad struct {
	Slot  int   `json:"slot"`
	Rows  []int `json:"rows" nullable:"false"`
	Shown bool  `json:"shown,omitempty" doc:"the screen before still shows what the slot held"`
}

// SlotHeld is a glyph in its slot.
type SlotHeld struct {
	Slot int   `json:"slot"`
	Rows []int `json:"rows" nullable:"false"`
}

// plan plans the loading.
func (r *LoadingRequest) plan() (*LoadingPlan, error) {
	if err := r.Bench.Validate(); err != nil {
		return nil, answer.Invalid(err)
	}
	l, err := transition.NewLoading(&r.Bench, r.Module)
	if err != nil {
		return nil, answer.Invalid(err)
	}
	out := &LoadingPlan{Needs: l.Needs, Fixed: append([]int{}, l.Fixed...), Holds: l.Holds, Each: l.Each, Planned: l.Plan != nil, Steps: []LoadingStep{}, Findings: append([]finding.Finding{}, l.Findings...)}
	if l.Plan == nil {
		return out, nil
	}
	p := l.Plan
	from := p.Cycle
	if p.Rounds == 0 {
		from = 0
	}
	out.Cycle, out.Rounds, out.Least, out.Loads, out.Sum = p.Cycle, p.Rounds, p.Least, bank.Count(p.Steps[from:]), facts.CostOf(transition.Sum(l.Costs[from:]))
	for i, s := range p.Steps {
		step := LoadingStep{Screen: s.Page, Loads: []SlotLoad{}, Held: []SlotHeld{}, Cost: facts.CostOf(l.Costs[i])}
		for _, load := range s.Loads {
			step.Loads = append(step.Loads, SlotLoad{load.Slot, load.Glyph.Ints(), load.Shown})
		}
		for slot := range 8 {
			for g, at := range s.Slots {
				if at == slot {
					step.Held = append(step.Held, SlotHeld{slot, g.Ints()})
				}
			}
		}
		out.Steps = append(out.Steps, step)
	}
	return out, nil
}

func registerLoading(api huma.API, post func(id, path, summary string) huma.Operation) {
	huma.Register(api, post("plan-loading", "/api/glyphs/loading", "How glyphs come into CGRAM while a module's screens follow each other"), answer.Answered((*LoadingRequest).plan))
}
