// Package show is what a module shows when: scenes that follow each other by time, buttons,
// timers, counters, messages and signals; what is edited on the device while one lasts, and
// what moves. A show is a pure step: a state and what happens give the next state, and what
// the glass is wanted to show.
//
// It stands above bench, which keeps shows; play sends what is wanted to a module, and
// the programs that are exported take the same steps over the same tables. Times are whole
// milliseconds since the show began.
package show

import (
	"fmt"
	"math"
	"slices"

	"slatebell/core/bench"
	"slatebell/core/part/charrom"
)

// Show is a module's show, its names resolved to indexes.
type Show struct {
	Scenes []Scene
	Start  int
	Inputs []Input
	Feeds  []Feed
	Edited []Edited // fields that are edited on the device
}

// Scene is a screen until it ends.
type Scene struct {
	Name   string
	Screen int // index in the module's screens
	Off    bool
	Ends   []End
	Edit   *Edit   // nil where nothing is edited
	Effect *Effect // nil where nothing moves
}

// End is one way a scene ends: after a time, by a happening of an input, or by one of what
// is edited, which has no input.
type End struct {
	After int64 // ms; 0 where something else ends it
	Input int   // -1 for none
	On    Happening
	Level int64 // of a signal, in its units
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
	LineEnd Happening = "line"
	Tick    Happening = "tick"
	Above   Happening = "above"
	Below   Happening = "below"
	Accept  Happening = "accept" // of what is edited
	Cancel  Happening = "cancel"
)

// usual is what of an input ends a scene where nothing else is said.
var usual = map[Kind]Happening{Button: Press, Timer: Tick, Counter: Step, Serial: LineEnd, Signal: Above}

// may lists what an input of a kind does.
var may = map[Kind][]Happening{Button: {Press, Release, Long}, Timer: {Tick}, Counter: {Step}, Serial: {LineEnd}, Signal: {Above, Below}}

// What is usual where a document says nothing (common practice).
const (
	UsualDebounce = 20   // ms
	UsualLong     = 800  // ms
	UsualEvery    = 1000 // ms
)

// Input is what a show listens to. Times are in milliseconds.
type Input struct {
	ID, Name   string
	Kind       Kind
	Debounce   int64
	Long       int64
	Every      int64
	Steps      int64 // counter: how many there are; 0 for no end
	Stops      bool  // at its ends, rather than going round
	Up, Down   int   // inputs that step it; -1 for none
	Decimals   int   // signal: its units are of the last of so many digits
	Hysteresis int64 // units
	Start      int64 // units
	Source     Source
	Meter      *Meter // nil where fields show the signal itself
	Scale      Scale  // signal: what value a reading of its pin is
	Message    Message
}

// Feed lets fields of a name show what an input gives.
type Feed struct {
	Field string
	Input int
	Peak  bool // of a meter: the held peak, in bars beside the level
}

// Of resolves the show of a module. Its error is a bench.Problem.
func Of(m *bench.Module) (*Show, error) {
	r := resolver{module: m, show: &Show{}, inputs: map[string]int{"": -1}, scenes: map[string]int{}, screens: map[string]int{}}
	for i, in := range m.Show.Inputs {
		r.inputs[in.ID] = i
	}
	for i, one := range m.Show.Scenes {
		r.scenes[one.ID] = i
	}
	for i, one := range m.Screens {
		r.screens[one.ID] = i
	}
	for i := range m.Show.Inputs {
		if err := r.input(i); err != nil {
			return nil, err
		}
	}
	for i := range m.Show.Scenes {
		if err := r.scene(i); err != nil {
			return nil, err
		}
	}
	s := r.show
	if len(s.Scenes) == 0 { // its first screen, for ever
		s.Scenes = []Scene{{}}
	}
	s.Start = r.scenes[m.Show.Start]
	for i, f := range m.Show.Feeds {
		if f.Input == "" {
			return nil, bench.Problem{Path: fmt.Sprintf("/show/feeds/%d/input", i), What: fmt.Sprintf("nothing feeds %q; expected the id of an input", f.Field)}
		}
		s.Feeds = append(s.Feeds, Feed{f.Field, r.inputs[f.Input], f.Peak})
		if f.Peak && s.Inputs[r.inputs[f.Input]].Meter == nil {
			return nil, bench.Problem{Path: fmt.Sprintf("/show/feeds/%d/peak", i), What: fmt.Sprintf("%q has no meter; expected a signal with one", f.Input)}
		}
	}
	return s, nil
}

// resolver turns names into indexes.
type resolver struct {
	module                  *bench.Module
	rom                     *charrom.ROM // of the module, once a text is edited
	chart                   Chars        // of the module, once a serial line is read
	show                    *Show
	inputs, scenes, screens map[string]int
}

// kind is the kind of an input, "" where none is named.
func (r *resolver) kind(id string) Kind {
	if i := r.inputs[id]; i >= 0 {
		return Kind(r.module.Show.Inputs[i].Kind)
	}
	return ""
}

// input resolves an input.
func (r *resolver) input(i int) error {
	in := &r.module.Show.Inputs[i]
	c, d := &in.Counter, in.Signal.Decimals
	for _, by := range []struct{ member, id, wants string }{{"counter/up", c.Up, "a button or a timer"}, {"counter/down", c.Down, "a button or a timer"}, {"serial/reset", in.Serial.Reset, "a button"}} {
		if by.id != "" && r.kind(by.id) != Button && (r.kind(by.id) != Timer || by.wants == "a button") {
			return bench.Problem{Path: fmt.Sprintf("/show/inputs/%d/%s", i, by.member), What: fmt.Sprintf("%q is a %s; expected %s", by.id, r.kind(by.id), by.wants)}
		}
	}
	out := Input{
		ID: in.ID, Name: in.Name, Kind: Kind(in.Kind), Debounce: or(in.Button.DebounceMs, UsualDebounce), Long: or(in.Button.LongMs, UsualLong), Every: or(in.EveryMs, UsualEvery),
		Steps: int64(max(len(c.Words), c.Count)), Stops: c.Stops, Up: r.inputs[c.Up], Down: r.inputs[c.Down],
		Decimals: d, Hysteresis: Units(in.Signal.Hysteresis, d), Start: Units(in.Signal.Start, d), Source: sourceOf(&in.Signal.Source),
		Message: messageOf(&in.Serial, r.inputs[in.Serial.Reset]),
	}
	if out.Kind == Serial && in.Serial.Text != "codes" {
		if err := r.chars(&out.Message, in.Serial.Missing, fmt.Sprintf("/show/inputs/%d/serial/missing", i)); err != nil {
			return err
		}
	}
	if out.Kind == Signal {
		var err error
		if out.Scale, err = ScaleOf(&in.Signal); err != nil {
			return bench.ProblemOf(fmt.Sprintf("/show/inputs/%d/signal/scale", i), err)
		}
	}
	if out.Kind == Signal && in.Signal.Meter.Reads != "" {
		out.Meter = meterOf(&in.Signal.Meter, d)
	}
	r.show.Inputs = append(r.show.Inputs, out)
	return nil
}

// chars resolves what a line's UTF-8 shows.
func (r *resolver) chars(m *Message, missing, path string) error {
	if err := r.table(); err != nil {
		return err
	}
	if r.chart == nil {
		r.chart = charsOf(r.module, r.rom)
	}
	m.Chars, m.Missing = r.chart, '?'
	for _, ch := range missing {
		code, ok := m.Chars.Code(ch)
		if !ok {
			return bench.Problem{Path: path, What: fmt.Sprintf("the module has no '%c' (U+%04X); expected a character that it shows", ch, ch)}
		}
		m.Missing = code
	}
	return nil
}

// scene resolves a scene.
func (r *resolver) scene(i int) error {
	d := &r.module.Show.Scenes[i]
	out := Scene{Name: d.Name, Screen: r.screens[d.Screen], Off: d.Off}
	path := fmt.Sprintf("/show/scenes/%d", i)
	var err error
	if d.Edit.Field != "" {
		if out.Edit, err = r.edit(&d.Edit, &r.module.Screens[out.Screen], path+"/edit"); err != nil {
			return err
		}
	}
	if d.Effect.Kind != "" {
		if out.Effect, err = r.effect(&d.Effect, &r.module.Screens[out.Screen], path+"/effect"); err != nil {
			return err
		}
	}
	for k := range d.Ends {
		end, err := r.end(&d.Ends[k], out.Edit != nil, fmt.Sprintf("%s/ends/%d", path, k))
		if err != nil {
			return err
		}
		out.Ends = append(out.Ends, end)
	}
	r.show.Scenes = append(r.show.Scenes, out)
	return nil
}

// end resolves an end of a scene.
func (r *resolver) end(d *bench.End, edits bool, at string) (e End, err error) {
	e = End{After: int64(d.AfterMs), Input: r.inputs[d.Input], On: Happening(d.On), Next: r.scenes[d.Next]}
	if e.On == Accept || e.On == Cancel {
		switch {
		case !edits:
			return e, bench.Problem{Path: at + "/on", What: "nothing is edited in this scene; expected a time or an input that ends it"}
		case d.Input != "" || e.After > 0:
			return e, bench.Problem{Path: at, What: fmt.Sprintf("%s comes from what is edited; expected neither a time nor an input beside it", e.On)}
		}
		return e, nil
	}
	if (e.After > 0) == (e.Input >= 0) {
		return e, bench.Problem{Path: at, What: "expected either a time or an input that ends the scene"}
	}
	if e.Input < 0 {
		return e, nil
	}
	in := &r.show.Inputs[e.Input]
	if e.On == "" {
		e.On = usual[in.Kind]
	}
	if !slices.Contains(may[in.Kind], e.On) {
		return e, bench.Problem{Path: at + "/on", What: fmt.Sprintf("a %s has no %q; expected one of %v", in.Kind, e.On, may[in.Kind])}
	}
	e.Level = Units(d.Level, in.Decimals)
	return e, nil
}

func or(v, usual int) int64 {
	if v == 0 {
		return int64(usual)
	}
	return int64(v)
}

// Units rounds a value to whole numbers of the last of so many decimals.
func Units(v float64, decimals int) int64 {
	const most = 1e9
	return int64(math.Round(min(max(v, -most), most) * math.Pow10(decimals)))
}

// Rescale turns units of one number of decimals into those of another: halves go away from zero,
// or what is less than a unit is cut off.
func Rescale(v int64, from, to int, cut bool) int64 {
	for ; from < to; from++ {
		v *= 10
	}
	scale := int64(1)
	for ; from > to; from-- {
		scale *= 10
	}
	half := scale / 2
	if cut {
		half = 0
	}
	if v < 0 {
		return -((-v + half) / scale)
	}
	return (v + half) / scale
}
