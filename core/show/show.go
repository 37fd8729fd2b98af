// Package show is what a module shows when: scenes that follow each other by time, buttons,
// timers, counters and signals. A show is a pure step: a state and what happens give the
// next state, and what the glass is wanted to show.
//
// It stands above bench, which keeps shows; play sends what is wanted to a module, and
// the programs that are exported take the same steps over the same tables. Times are whole
// milliseconds since the show began.
package show

import (
	"fmt"
	"slices"

	"slatebell/core/bench"
)

// Show is a module's show, its names resolved to indexes.
type Show struct {
	Scenes []Scene
	Start  int
	Inputs []Input
	Feeds  []Feed
}

// Scene is a screen until it ends.
type Scene struct {
	Name   string
	Screen int // index in the module's screens
	Off    bool
	Ends   []End
}

// End is one way a scene ends: after a time, or by a happening of an input.
type End struct {
	After int64 // ms; 0 where an input ends it
	Input int
	On    Happening
	Level float64
	Next  int
}

// Kind is the kind of an input.
type Kind string

// The kinds.
const (
	Button  Kind = "button"
	Timer   Kind = "timer"
	Counter Kind = "counter"
	Serial  Kind = "serial"
	Signal  Kind = "signal"
)

// Happening is what an input does.
type Happening string

// The happenings.
const (
	Press   Happening = "press"
	Release Happening = "release"
	Long    Happening = "long"
	Step    Happening = "step"
	Line    Happening = "line"
	Tick    Happening = "tick"
	Above   Happening = "above"
	Below   Happening = "below"
)

// usual is what of an input ends a scene where nothing else is said.
var usual = map[Kind]Happening{Button: Press, Timer: Tick, Counter: Step, Serial: Line, Signal: Above}

// may lists what an input of a kind does.
var may = map[Kind][]Happening{Button: {Press, Release, Long}, Timer: {Tick}, Counter: {Step}, Serial: {Line}, Signal: {Above, Below}}

// What is usual where a document says nothing (common practice).
const (
	UsualDebounce = 20   // ms
	UsualLong     = 800  // ms
	UsualEvery    = 1000 // ms
)

// Input is what a show listens to. Times are in milliseconds.
type Input struct {
	Name       string
	Kind       Kind
	Debounce   int64
	Long       int64
	Every      int64
	Steps      int  // counter: how many there are; 0 for no end
	Stops      bool // at its ends, rather than going round
	Up, Down   int  // inputs that step it; -1 for none
	Hysteresis float64
	Start      float64
	Source     Source
}

// Feed lets fields of a name show what an input gives.
type Feed struct {
	Field string
	Input int
}

// Of resolves the show of a module. Its error is a bench.Problem.
func Of(m *bench.Module) (*Show, error) {
	s := &Show{}
	inputs, scenes, screens := map[string]int{"": -1}, map[string]int{}, map[string]int{}
	for i, in := range m.Show.Inputs {
		inputs[in.ID] = i
	}
	for i, one := range m.Show.Scenes {
		scenes[one.ID] = i
	}
	for i, one := range m.Screens {
		screens[one.ID] = i
	}
	for i, in := range m.Show.Inputs {
		steps := max(len(in.Counter.Words), in.Counter.Count)
		s.Inputs = append(s.Inputs, Input{
			Name: in.Name, Kind: Kind(in.Kind), Debounce: or(in.Button.DebounceMs, UsualDebounce), Long: or(in.Button.LongMs, UsualLong), Every: or(in.EveryMs, UsualEvery),
			Steps: steps, Stops: in.Counter.Stops, Up: inputs[in.Counter.Up], Down: inputs[in.Counter.Down], Hysteresis: in.Signal.Hysteresis, Start: in.Signal.Start, Source: sourceOf(&in.Signal.Source),
		})
		for _, by := range []int{inputs[in.Counter.Up], inputs[in.Counter.Down]} {
			if by >= 0 && m.Show.Inputs[by].Kind != string(Button) && m.Show.Inputs[by].Kind != string(Timer) {
				return nil, bench.Problem{Path: fmt.Sprintf("/show/inputs/%d/counter", i), What: fmt.Sprintf("%q does not step it; expected a button or a timer", m.Show.Inputs[by].ID)}
			}
		}
	}
	if len(m.Show.Scenes) == 0 { // its first screen, for ever
		s.Scenes = []Scene{{Screen: 0}}
	}
	for i, one := range m.Show.Scenes {
		scene := Scene{Name: one.Name, Screen: screens[one.Screen], Off: one.Off}
		for k, e := range one.Ends {
			end := End{After: int64(e.AfterMs), Input: inputs[e.Input], On: Happening(e.On), Level: e.Level, Next: scenes[e.Next]}
			at := fmt.Sprintf("/show/scenes/%d/ends/%d", i, k)
			switch {
			case (end.After > 0) == (end.Input >= 0):
				return nil, bench.Problem{Path: at, What: "expected either a time or an input that ends the scene"}
			case end.Input >= 0:
				kind := s.Inputs[end.Input].Kind
				if end.On == "" {
					end.On = usual[kind]
				}
				if !slices.Contains(may[kind], end.On) {
					return nil, bench.Problem{Path: at + "/on", What: fmt.Sprintf("a %s has no %q; expected one of %v", kind, end.On, may[kind])}
				}
			}
			scene.Ends = append(scene.Ends, end)
		}
		s.Scenes = append(s.Scenes, scene)
	}
	s.Start = scenes[m.Show.Start]
	for _, f := range m.Show.Feeds {
		s.Feeds = append(s.Feeds, Feed{f.Field, inputs[f.Input]})
	}
	return s, nil
}

func or(v, usual int) int64 {
	if v == 0 {
		return int64(usual)
	}
	return int64(v)
}
