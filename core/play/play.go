// Package play plays a module's show at its real speed: what is wanted at each moment goes
// out by the calls of the program that is exported, as fast as wire and controller take it,
// and what the glass shows comes from the rig alone.
//
// It stands on top of core, above show and firmware.
package play

import (
	"fmt"
	"math"
	"slices"
	"time"

	"slatebell/core/bench"
	"slatebell/core/field"
	"slatebell/core/firmware"
	"slatebell/core/rig"
	"slatebell/core/sequence"
	"slatebell/core/show"
)

// Frame is a change of what is wanted, and when the glass shows it. Times count from when
// the show begins, which is when the module has been initialised.
type Frame struct {
	Wanted  time.Duration
	Scene   int
	Done    time.Duration // the wire is still and the controller free
	Waited  time.Duration // until the wire was free for it
	Glass   rig.Glass
	Dropped int // wishes before it that a newer one overtook
}

// Playing is a show that was played.
type Playing struct {
	Program *sequence.Program // from power-up
	Begun   time.Duration     // when the show begins
	Frames  []Frame
	Dropped int
	Wire    time.Duration // the wire in use, from the show's beginning on
}

// wish is what is wanted from a moment on.
type wish struct {
	at     int64
	scene  int
	screen int
	off    bool
	values []firmware.Told
}

func (w *wish) same(o *wish) bool {
	return w.screen == o.screen && w.off == o.off && slices.Equal(w.values, o.values)
}

// Play plays events, in the order of their times, up to a time in milliseconds. Its error is
// a bench.Problem where the module cannot be run, or names an event that comes before the
// one before it.
func Play(m *firmware.Module, s *show.Show, events []show.Event, until int64) (*Playing, error) {
	wishes, err := wanted(m, s, events, until)
	if err != nil {
		return nil, err
	}
	p, err := firmware.NewPlayer(m)
	if err != nil {
		return nil, err
	}
	p.Begin()
	out := &Playing{Begun: p.Done()}
	var ends []int // for each frame, how many steps were sent
	dark := false
	for i := 0; i < len(wishes); i++ {
		free := p.Done() - out.Begun
		first := i
		for i+1 < len(wishes) && moment(wishes[i+1].at) <= free { // a newer one is there already
			i++
		}
		w := &wishes[i]
		f := Frame{Wanted: moment(w.at), Scene: w.scene, Dropped: i - first, Waited: max(free-moment(w.at), 0)}
		p.Idle(out.Begun + f.Wanted)
		if w.off != dark && w.off {
			p.Dots(false)
		}
		give := p.Tell
		if w.screen != p.Screen() {
			give = p.Hold
		}
		for k, v := range w.values {
			give(k, v)
		}
		p.Show(w.screen)
		if w.off != dark && !w.off {
			p.Dots(true)
		}
		dark = w.off
		f.Done = p.Done() - out.Begun
		out.Dropped += f.Dropped
		out.Frames = append(out.Frames, f)
		ends = append(ends, p.Sent())
	}
	p.Idle(out.Begun + moment(until))
	out.Program = p.Program()
	return out, out.watch(m, ends)
}

func moment(ms int64) time.Duration { return time.Duration(ms) * time.Millisecond }

// watch plays the program into the rig, and looks at the glass after each frame.
func (out *Playing) watch(m *firmware.Module, ends []int) error {
	hardware, err := rig.New(m.Display, m.Link)
	if err != nil {
		return bench.Problem{Path: fmt.Sprintf("/modules/%d/link", m.At), What: err.Error()}
	}
	contrast := m.Display.UsualContrast()
	next := 0
	look := func(step int) {
		for ; next < len(ends) && ends[next] <= step+1; next++ {
			mo := hardware.Moment()
			out.Frames[next].Glass = mo.Glass(&m.Display, contrast)
		}
	}
	hardware.Play(out.Program, look)
	look(len(out.Program.Steps))
	for i := range out.Program.Steps {
		if s := &out.Program.Steps[i]; s.Start >= out.Begun {
			out.Wire += s.Wire
		}
	}
	return nil
}

// wanted lists what is wanted from when on, changes only.
func wanted(m *firmware.Module, s *show.Show, events []show.Event, until int64) (out []wish, err error) {
	feeds := feeds(m, s)
	st := s.Begin()
	note := func(at int64) {
		w := wish{at: at, scene: st.Scene, screen: s.Scenes[st.Scene].Screen, off: s.Scenes[st.Scene].Off, values: m.Starts()}
		for _, f := range feeds {
			w.values[f.value] = f.told(s.Gives(&st, f.input), w.values[f.value])
		}
		if n := len(out); n > 0 && out[n-1].at == at {
			out = out[:n-1] // it lasted no time
		}
		if n := len(out); n == 0 || !out[n-1].same(&w) {
			out = append(out, w)
		}
	}
	pass := func(to int64) { // what is due up to a time, each moment by itself
		for {
			at, ok := s.Next(&st)
			if !ok || at > to {
				break
			}
			st = s.Until(st, at)
			note(at)
		}
	}
	for i := 1; i < len(events); i++ {
		if before := events[i-1].At; events[i].At < before {
			return nil, fmt.Errorf("event %d comes at %d ms, after one at %d ms; expected the order of their times", i+1, events[i].At, before)
		}
	}
	note(0)
	for _, e := range s.Sampled(events, until) {
		if e.At > until {
			break
		}
		pass(e.At - 1)
		st = s.Take(st, e)
		note(e.At)
	}
	pass(until)
	return out, nil
}

// feed is a value of the program that an input gives.
type feed struct {
	value, input int
	kind         field.Kind
	scale        float64
	last         int64 // of its words
}

// told is what is told for what an input gives.
func (f *feed) told(v float64, before firmware.Told) firmware.Told {
	switch f.kind {
	case field.Text, field.Choice:
		before.Units = min(max(int64(v), 0), f.last)
	case field.Number, field.Elapsed, field.Bar:
		before.Units = int64(math.Round(v * f.scale))
	}
	return before
}

// feeds resolves the feeds of a show to the values of a program. One whose field is not on
// the glass gives nothing; show.Check says so where no screen has the field.
func feeds(m *firmware.Module, s *show.Show) (out []feed) {
	for _, f := range s.Feeds {
		for k, v := range m.Values {
			if v.Name == f.Field {
				out = append(out, feed{k, f.Input, v.Kind, math.Pow10(v.Decimals), int64(len(v.Words)) - 1})
			}
		}
	}
	return out
}
