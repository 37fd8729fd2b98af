package show

import (
	"math"
	"slices"
	"time"

	"slatebell/core/text/meter"
)

// State is where a show stands. It is a value: a step returns another.
type State struct {
	Now    int64 // up to which everything due was done
	Scene  int
	Since  int64 // when the scene began
	Inputs []InputState
	Edited []Text // what was typed on the device last
	Typing Typing // what is being edited
}

// InputState is what is known of an input.
type InputState struct {
	Raw     bool  // button: the level that is there
	Changed int64 // since when
	Down    bool  // the level that counts
	Pressed int64 // since when it is down
	Told    bool  // that the press is long
	Count   int64 // counter: its place; timer: ticks
	Due     int64 // timer: the next tick; meter: the next sample; serial: when silence ends a message, or gives up half of one
	Value   int64 // signal: in units
	Needle  meter.Needle
	Peak    int32  // meter: the highest level, in eighths of a unit
	Held    int64  // since when
	Line    Line   // serial
	Over    []bool // signal: for each end that listens to it, in the order of the scenes, whether it is above its level
}

// Event is what comes from outside: a button pressed (1) or released (0), a counter stepped
// by hand (+1, −1), a signal's value in units, a character of a serial line.
type Event struct {
	At    int64
	Input int
	Value int64
	Later time.Duration // serial: after At, less than a millisecond
}

// Moment is when an event comes, since the show began.
func (e *Event) Moment() time.Duration { return time.Duration(e.At)*time.Millisecond + e.Later }

// Begin is the state of a show that begins now.
func (s *Show) Begin() State {
	st := State{Scene: s.Start, Inputs: make([]InputState, len(s.Inputs))}
	for i, in := range s.Inputs {
		is := &st.Inputs[i]
		is.Value, is.Due = in.Start, never
		switch {
		case in.Kind == Timer:
			is.Due = in.Every
		case in.Meter != nil && in.Start != 0:
			is.Due = meter.SampleMs
		}
		for _, scene := range s.Scenes {
			for _, e := range scene.Ends {
				if e.After == 0 && e.Input == i && in.Kind == Signal {
					st.Inputs[i].Over = append(st.Inputs[i].Over, in.Start > e.Level || e.On == Below && in.Start == e.Level)
				}
			}
		}
	}
	for i := range s.Edited {
		st.Edited = append(st.Edited, s.Edited[i].Start)
	}
	s.enter(&st, s.Start)
	return st
}

// never is a time that does not come.
const never = math.MaxInt64

// Next is when something is due that no event brings: a level that has held, a press that is
// long, a tick, the end of a scene's time; false where nothing is.
func (s *Show) Next(st *State) (at int64, ok bool) {
	at = never
	for i := range s.Inputs {
		at = min(at, s.due(st, i))
	}
	at = min(at, s.ends(st), s.moves(st), s.typing(st))
	return at, at != never
}

// due is when something of an input is due.
func (s *Show) due(st *State, i int) int64 {
	in, is := &s.Inputs[i], &st.Inputs[i]
	at := int64(never)
	switch in.Kind {
	case Button:
		if is.Raw != is.Down {
			at = is.Changed + in.Debounce
		}
		if is.Down && !is.Told {
			at = min(at, is.Pressed+in.Long)
		}
	default:
		at = is.Due
	}
	return at
}

// ends is when the scene's time is over.
func (s *Show) ends(st *State) int64 {
	at := int64(never)
	for _, e := range s.Scenes[st.Scene].Ends {
		if e.After > 0 {
			at = min(at, st.Since+e.After)
		}
	}
	return at
}

// Until does all that is due up to a time, that time included. At one moment inputs come in
// their order, then the scene's time.
func (s *Show) Until(st State, to int64) State {
	st = st.clone()
	s.Pass(&st, to)
	return st
}

// Pass does the same to a state itself.
func (s *Show) Pass(st *State, to int64) {
	for {
		at, ok := s.Next(st)
		if !ok || at > to {
			break
		}
		st.Now = at
		s.next(st, at)
	}
	st.Now = max(st.Now, to)
}

// clone is a copy that shares nothing that is changed in place.
func (st State) clone() State {
	st.Inputs = slices.Clone(st.Inputs)
	st.Edited = slices.Clone(st.Edited)
	return st
}

// next does the first thing that is due at a time.
func (s *Show) next(st *State, at int64) {
	for i := range s.Inputs {
		if s.due(st, i) > at {
			continue
		}
		in, is := &s.Inputs[i], &st.Inputs[i]
		switch {
		case in.Kind == Timer:
			is.Due += in.Every
			is.Count++
			s.happens(st, i, Tick)
		case in.Kind == Serial:
			s.silent(st, i)
		case in.Meter != nil:
			in.Meter.sample(is, at)
		case is.Raw != is.Down && is.Changed+in.Debounce <= at:
			is.Down, is.Pressed, is.Told = is.Raw, at, false
			if is.Down {
				s.happens(st, i, Press)
			} else {
				s.happens(st, i, Release)
			}
		default:
			is.Told = true
			s.happens(st, i, Long)
		}
		return
	}
	for _, e := range s.Scenes[st.Scene].Ends {
		if e.After > 0 && st.Since+e.After <= at {
			s.enter(st, e.Next)
			return
		}
	}
	if s.typing(st) <= at {
		s.goOn(st, at)
	}
}

// Take does what is due before an event, then the event. Its time must not go back.
func (s *Show) Take(st State, e Event) State {
	st = st.clone()
	s.Accept(&st, e)
	return st
}

// Accept does the same to a state itself.
func (s *Show) Accept(st *State, e Event) {
	s.Pass(st, max(e.At, st.Now)-1)
	st.Now = max(e.At, st.Now)
	in, is := &s.Inputs[e.Input], &st.Inputs[e.Input]
	switch in.Kind {
	case Button:
		if down := e.Value != 0; down != is.Raw {
			is.Raw, is.Changed = down, st.Now
		}
	case Counter:
		s.step(st, e.Input, e.Value, false)
	case Serial:
		s.receive(st, e.Input, byte(e.Value))
	case Signal:
		is.Value = e.Value
		if in.Meter != nil && is.Due == never {
			is.Due, is.Held = (st.Now/meter.SampleMs+1)*meter.SampleMs, st.Now
		}
		s.cross(st, e.Input)
	}
}

// over reports whether a signal counts as above a level, by how it counted before: it must
// come back by the hysteresis to count anew.
func over(was bool, on Happening, value, level, hysteresis int64) bool {
	switch {
	case on == Above && value > level, on == Below && value >= level+hysteresis:
		return true
	case on == Above && value <= level-hysteresis, on == Below && value < level:
		return false
	}
	return was
}

// cross tells keys and ends that listen to a signal whether it has come above or below
// their levels.
func (s *Show) cross(st *State, input int) {
	in, is := &s.Inputs[input], &st.Inputs[input]
	is.Over = slices.Clone(is.Over)
	k, from := 0, st.Scene
	next := -1
	for scene := range s.Scenes {
		for _, e := range s.Scenes[scene].Ends {
			if e.After > 0 || e.Input != input {
				continue
			}
			now := over(is.Over[k], e.On, is.Value, e.Level, in.Hysteresis)
			if now != is.Over[k] && now == (e.On == Above) && scene == from && next < 0 {
				next = e.Next
			}
			is.Over[k] = now
			k++
		}
	}
	if s.crossKeys(st, input) && st.Scene != from {
		return // what was edited is accepted, and ended the scene
	}
	if next >= 0 {
		s.enter(st, next)
	}
}

// happens lets counters step, then ends the scene where it waits for that.
func (s *Show) happens(st *State, input int, on Happening) {
	ended := false // one happening ends one scene
	for i := range s.Inputs {
		if in := &s.Inputs[i]; in.Kind == Counter && (on == Press || on == Tick) {
			if in.Up == input {
				ended = s.step(st, i, 1, ended) || ended
			}
			if in.Down == input {
				ended = s.step(st, i, -1, ended) || ended
			}
		}
	}
	if on == Press {
		for i := range s.Inputs {
			if in := &s.Inputs[i]; in.Kind == Serial && in.Message.Reset == input {
				st.Inputs[i].Line, st.Inputs[i].Due = Line{}, never
			}
		}
	}
	if !ended && (on == Press || on == Release) {
		ended = s.key(st, input, on == Press)
	}
	if !ended {
		s.end(st, input, on)
	}
}

// step moves a counter, and reports whether that ended the scene; with still it does not.
func (s *Show) step(st *State, i int, by int64, still bool) bool {
	in, is := &s.Inputs[i], &st.Inputs[i]
	to := is.Count + by
	if n := in.Steps; n > 0 {
		if in.Stops {
			to = min(max(to, 0), n-1)
		} else {
			to = (to%n + n) % n
		}
	}
	if to == is.Count {
		return false
	}
	is.Count = to
	return !still && s.end(st, i, Step)
}

// end ends the scene where it waits for a happening, and reports whether it did.
func (s *Show) end(st *State, input int, on Happening) bool {
	for _, e := range s.Scenes[st.Scene].Ends {
		if e.After == 0 && e.Input == input && e.On == on {
			s.enter(st, e.Next)
			return true
		}
	}
	return false
}

// enter begins a scene.
func (s *Show) enter(st *State, scene int) {
	st.Scene, st.Since = scene, st.Now
	st.Typing = s.begins(st)
}

// Given is what an input gives to fields.
type Given struct {
	Units    int64 // a counter's place, a timer's time, a signal's or a meter's value, a button's level
	Decimals int   // of the units
	Peak     int64 // of a meter
	Text     string
}

// Gives is what an input gives to fields now.
func (s *Show) Gives(st *State, input int) Given {
	in, is := &s.Inputs[input], &st.Inputs[input]
	switch {
	case in.Kind == Counter:
		return Given{Units: is.Count}
	case in.Kind == Timer:
		return Given{Units: is.Count * in.Every, Decimals: 3}
	case in.Kind == Serial:
		return Given{Text: is.Line.Text}
	case in.Kind == Button && is.Down:
		return Given{Units: 1}
	case in.Meter != nil:
		return in.Meter.gives(is, in.Decimals)
	case in.Kind == Signal:
		return Given{Units: is.Value, Decimals: in.Decimals}
	}
	return Given{}
}
