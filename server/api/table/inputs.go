package table

import (
	"fmt"
	"strings"

	"slatebell/core/bench"
	"slatebell/core/bench/edit"
	"slatebell/core/finding"
	"slatebell/core/table/pinout"
	"slatebell/core/table/setup"
	"slatebell/server/api/answer"
)

// InputRequest names an input of a module's show.
type InputRequest struct {
	Bench  bench.Bench `json:"bench"`
	Module int         `json:"module" minimum:"0"`
	Input  int         `json:"input" minimum:"0"`
}

// InputPlaces are the host's pins as places for an input.
type InputPlaces struct {
	Pins []InputPin      `json:"pins" nullable:"false" doc:"along the far edge from the left, then along the near one"`
	Join *finding.Remedy `json:"join,omitempty" doc:"gives a pin to every input that has none"`
	Left []string        `json:"left,omitempty" nullable:"false" doc:"names of those for which none is free"`
	Says []string        `json:"says" nullable:"false" doc:"of its electrics: values of parts, voltages, readings, times"`
	Most int             `json:"most" doc:"reading that the host's converter gives at most"`

	References []int `json:"references" nullable:"false" doc:"voltages of the host's own that its converter can compare with, in millivolts"`

	Findings []finding.Finding `json:"findings" nullable:"false" doc:"about where this input is joined"`
}

// InputPin is a pin of the host as a place for an input.
type InputPin struct {
	Label   string `json:"label"`
	Place   int    `json:"place,omitempty" doc:"counted along the board, on boards that count their pins"`
	Edge    int    `json:"edge" doc:"0: the far one, 1: the near one"`
	Col     int    `json:"col" doc:"along that edge"`
	Can     string `json:"can,omitempty" doc:"what it can do beside a level"`
	Not     string `json:"not,omitempty" doc:"why it cannot read the input"`
	Careful string `json:"careful,omitempty" doc:"what is to be minded"`
	Taken   string `json:"taken,omitempty" doc:"what else it serves"`
}

func inputPlaces(r *InputRequest, choices []pinout.PinChoice) InputPlaces {
	b := &r.Bench
	board := b.Host.Board()
	out := InputPlaces{Pins: []InputPin{}, Says: append([]string{}, pinout.Says(b, r.Module, r.Input)...), Most: 1<<board.Resolution() - 1, References: append([]int{}, board.References...), Findings: []finding.Finding{}}
	own := edit.InputPath(r.Module, r.Input)
	for _, f := range setup.Check(b) {
		if f.Path == own {
			out.Findings = append(out.Findings, f)
		}
	}
	for _, c := range choices {
		out.Pins = append(out.Pins, InputPin(c))
	}
	joined, left := pinout.JoinInputs(b)
	out.Left = left
	if len(joined) > 0 {
		var pins []string
		var edits edit.List
		for _, e := range joined {
			pins, edits = append(pins, e.Pin), append(edits, e)
		}
		join := edit.Remedy(b, fmt.Sprintf("Give all %d that have none a pin: %s", len(joined), strings.Join(pins, ", ")), edits...)
		out.Join = &join
	}
	return out
}

// GroupRequest asks for several inputs that come as one.
type GroupRequest struct {
	Bench  bench.Bench `json:"bench"`
	Module int         `json:"module" minimum:"0"`
	Group  string      `json:"group" enum:"stick,encoder,row" doc:"a stick of two ways and a press; a rotary encoder with a press; a row of three buttons on one pin"`
}

func (r *GroupRequest) add() (*finding.Remedy, error) {
	add, err := setup.AddInputs(&r.Bench, r.Module, setup.Group(r.Group))
	if err != nil {
		return nil, answer.Refused(err)
	}
	remedy := edit.Remedy(&r.Bench, "Add them", add)
	return &remedy, nil
}
