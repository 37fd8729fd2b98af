package setup

import (
	"fmt"
	"slices"

	"slatebell/core/bench"
	"slatebell/core/bench/edit"
	"slatebell/core/bench/show"
	"slatebell/core/part/host"
	"slatebell/core/table/pinout"
)

// Group is several inputs that come as one.
type Group string

// The groups.
const (
	StickGroup   Group = "stick"   // two ways and a press
	EncoderGroup Group = "encoder" // a turn and a press
	RowGroup     Group = "row"     // three buttons of a ladder
)

// AddInputs returns the edit that adds a group to what a module's show listens to, on free pins as far
// as there are some. Its error says what would be right.
func AddInputs(b *bench.Bench, module int, group Group) (edit.Edit, error) {
	if module < 0 || module >= len(b.Modules) {
		return nil, fmt.Errorf("there is no module %d; expected 0 to %d", module, len(b.Modules)-1)
	}
	board := b.Host.Board()
	taken := b.Modules[module].Show.Inputs
	free := func(wish string) string {
		return edit.NewID(wish, func(id string) bool {
			return slices.ContainsFunc(taken, func(in bench.Input) bool { return in.ID == id || in.Part == id })
		})
	}
	var fresh []bench.Input
	switch group {
	case StickGroup:
		id := free("stick")
		fresh = []bench.Input{StickWay(&board, id+"-x", "Stick left and right"), StickWay(&board, id+"-y", "Stick up and down"), {ID: id + "-press", Name: "Stick pressed", Kind: string(show.Button)}}
		for i := range fresh {
			fresh[i].Part = id
		}
	case EncoderGroup:
		id := free("wheel")
		fresh = []bench.Input{{ID: id + "-turn", Name: "Wheel turned", Kind: string(show.Counter), Part: id, Counter: bench.Counter{Count: 100, Stops: true}}, {ID: id + "-press", Name: "Wheel pressed", Kind: string(show.Button), Part: id}}
	case RowGroup:
		for n := range 3 {
			fresh = append(fresh, bench.Input{ID: free(fmt.Sprintf("row-%d", n+1)), Name: fmt.Sprintf("Button %d of the row", n+1), Kind: string(show.Button), Button: bench.Button{Ladder: true}})
		}
	default:
		return nil, fmt.Errorf("%q is no group of inputs; expected stick, encoder or row", group)
	}
	if len(taken)+len(fresh) > MostInputs {
		return nil, fmt.Errorf("a show listens to %d inputs at most, and this one has %d", MostInputs, len(taken))
	}
	other := *b
	other.Modules = slices.Clone(b.Modules)
	for i := range fresh {
		other.Modules[module].Show.Inputs = slices.Concat(taken, fresh[:i+1])
		in := &other.Modules[module].Show.Inputs[len(taken)+i]
		in.Pin, _ = pinout.BestPin(&other, in)
		if in.Kind == string(show.Counter) && in.Pin != "" {
			in.PinB, _ = pinout.BestPin(&other, in)
		}
		fresh[i] = *in
	}
	return edit.AddInputs{Module: module, Inputs: fresh}, nil
}

// MostInputs is how many inputs a show listens to.
const MostInputs = 64

// StickWay is a way of a stick, which rests half-way.
func StickWay(board *host.Board, id, name string) bench.Input {
	in := bench.Input{ID: id, Name: name, Kind: string(show.Signal)}
	most := 1<<board.Resolution() - 1
	s := show.StickOf(0, most/2, most)
	in.Signal.Start, in.Signal.Hysteresis = float64(most/2), float64(s.Hysteresis)
	return in
}
