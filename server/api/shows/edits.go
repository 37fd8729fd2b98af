package shows

import (
	"fmt"
	"slices"

	"slatebell/core/bench"
	"slatebell/core/bench/edit"
	"slatebell/core/bench/show"
	"slatebell/core/finding"
	"slatebell/server/api/answer"
)

// EditRequest asks for a change of a module's show.
type EditRequest struct {
	Bench  bench.Bench `json:"bench"`
	Module int         `json:"module" minimum:"0" doc:"index"`
	Do     string      `json:"do" enum:"turn,add-scene,remove-scene,add-input,remove-input" doc:"turn: a scene for each screen, one after the other, over and over"`
	ID     string      `json:"id,omitempty" maxLength:"40" doc:"of what is taken away"`
	Name   string      `json:"name,omitempty" maxLength:"80" doc:"of what is added"`
	Screen string      `json:"screenId,omitempty" maxLength:"40" doc:"of a scene that is added"`
	Kind   string      `json:"kind,omitempty" enum:"button,timer,counter,serial,signal" doc:"of an input that is added"`
}

// ShowEdit is a change of a show.
type ShowEdit struct {
	finding.Remedy
	ID string `json:"id,omitempty" doc:"of what is added"`
}

// edit makes the change. What goes away takes along whatever names it.
func (r *EditRequest) edit() (*ShowEdit, error) {
	m, err := answer.Module(&r.Bench, r.Module)
	if err != nil {
		return nil, err
	}
	scene := func(id string) bool {
		return slices.ContainsFunc(m.Show.Scenes, func(s bench.Scene) bool { return s.ID == id })
	}
	input := func(id string) bool {
		return slices.ContainsFunc(m.Show.Inputs, func(in bench.Input) bool { return in.ID == id })
	}
	done := func(label, id string, e edit.Edit) (*ShowEdit, error) {
		return &ShowEdit{edit.Remedy(&r.Bench, label, e), id}, nil
	}
	switch r.Do {
	case "turn":
		return done("Turn over all screens", "", edit.SetShow{Module: r.Module, Show: show.Turning(m)})
	case "add-scene":
		id := edit.NewID(r.Name, scene)
		return done("Add a scene", id, edit.AddScene{Module: r.Module, Scene: bench.Scene{ID: id, Name: r.Name, Screen: r.Screen}})
	case "remove-scene":
		if !scene(r.ID) {
			return nil, answer.Refused(fmt.Errorf("there is no scene %q", r.ID))
		}
		return done("Take the scene away", "", edit.RemoveScene{Module: r.Module, ID: r.ID})
	case "add-input":
		id := edit.NewID(r.Name, input)
		return done("Add an input", id, edit.AddInputs{Module: r.Module, Inputs: []bench.Input{{ID: id, Name: r.Name, Kind: r.Kind}}})
	}
	if !input(r.ID) {
		return nil, answer.Refused(fmt.Errorf("there is no input %q", r.ID))
	}
	return done("Take the input away", "", edit.RemoveInput{Module: r.Module, ID: r.ID})
}
