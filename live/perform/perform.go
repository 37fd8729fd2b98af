// Package perform plays the show of a module on a real host: its buttons, knobs and sensors are the events of the show, as
// the host's pins say, and what the simulated module shows at each moment is what the real one is to show.
package perform

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"sync"
	"time"

	"slatebell/core/bench"
	"slatebell/core/bench/show"
	"slatebell/core/ship/firmware"
	"slatebell/core/ship/play"
	"slatebell/core/table/pinout"
	"slatebell/formats/eventcsv"
	"slatebell/live/conduct"
	"slatebell/live/drive"
	"slatebell/live/protocol"
	"slatebell/live/session"
)

// Show is one module's show. Times are milliseconds since it began. Its methods may be called by several at once.
type Show struct {
	mu     sync.Mutex
	begun  time.Time // of Run
	module *firmware.Module
	inputs []bench.Input
	live   *play.Live
	heard  []heard
	rows   []eventcsv.Row
	counts int64 // when a button that was pressed on the page counts
}

// heard is what a pin said last.
type heard struct {
	input int
	level bool // whether it is a level, or a voltage
	was   int64
	known bool
	sum   int64 // of voltages
	n     int64
}

// New begins the show of a module. Its error is a bench.Problem where it cannot be played.
func New(b *bench.Bench, at int) (*Show, error) {
	pinned := pinout.Pinned(b)
	im, err := firmware.New(&pinned, at)
	if err != nil {
		return nil, err
	}
	m := &im.Modules[0]
	if len(m.Show.Scenes) == 0 {
		return nil, bench.Problem{Path: fmt.Sprintf("/modules/%d/show", at), What: "it has no scenes; make some in Scenes, or show a screen"}
	}
	s := &Show{module: m, inputs: b.Modules[at].Show.Inputs}
	if s.live, err = play.Begin([]play.Track{{Module: m}}); err != nil {
		return nil, err
	}
	for i := range m.Joints {
		if !m.Joints[i].Joined() || m.Joints[i].Rung != (firmware.Rung{}) || m.Joints[i].PinB != "" {
			continue
		}
		switch m.Show.Inputs[i].Kind {
		case show.Button, show.Counter:
			s.heard = append(s.heard, heard{input: i, level: true})
		case show.Signal:
			s.heard = append(s.heard, heard{input: i})
		}
	}
	return s, nil
}

// Unheard names the inputs whose pins a bridge does not listen to: those on no pin, serial lines, rotary encoders and ladders of
// buttons.
func (s *Show) Unheard() (out []string) {
	for i := range s.inputs {
		in := s.module.Show.Inputs[i]
		if in.Kind == show.Timer || in.Kind == show.Counter && (in.Up >= 0 || in.Down >= 0) {
			continue
		}
		there := false
		for k := range s.heard {
			there = there || s.heard[k].input == i
		}
		if !there {
			out = append(out, s.inputs[i].ID)
		}
	}
	return out
}

// Ask returns what asks the host for all pins of the show.
func (s *Show) Ask() (out []protocol.Record) {
	for i := range s.heard {
		j := &s.module.Joints[s.heard[i].input]
		if s.heard[i].level {
			out = append(out, protocol.Record{Op: protocol.OpLevel, Pin: byte(j.Number), PullUp: j.PullUp})
		} else {
			out = append(out, protocol.Record{Op: protocol.OpMeasure, Pin: byte(j.Number)})
		}
	}
	return out
}

// Hear takes what the host answered to Ask at a time.
func (s *Show) Hear(results []byte, at int64) error {
	s.mu.Lock()
	defer s.mu.Unlock()
	for i := range s.heard {
		h := &s.heard[i]
		n := 2
		if h.level {
			n = 1
		}
		if len(results) < n {
			return fmt.Errorf("%d bytes came back of %d pins; expected more", len(results), len(s.heard))
		}
		if h.level {
			s.contact(h, results[0] != 0, at)
		} else {
			s.voltage(h, int64(results[0])<<8|int64(results[1]), at)
		}
		results = results[n:]
	}
	return nil
}

// contact takes the level of a contact.
func (s *Show) contact(h *heard, high bool, at int64) {
	closed := high == s.module.Joints[h.input].High
	var now int64
	if closed {
		now = 1
	}
	changed := h.known && now != h.was || !h.known && closed
	h.was, h.known = now, true
	switch {
	case !changed:
	case s.module.Show.Inputs[h.input].Kind == show.Button:
		s.happens(h.input, now, float64(now), at)
	case closed:
		s.happens(h.input, 1, 1, at)
	}
}

// voltage takes a reading of the converter.
func (s *Show) voltage(h *heard, reading, at int64) {
	in := &s.module.Show.Inputs[h.input]
	h.sum += reading
	if h.n++; h.n < max(in.Scale.Average, 1) {
		return
	}
	units := in.Scale.Units(h.sum)
	h.sum, h.n = 0, 0
	if h.known && units == h.was {
		return
	}
	h.was, h.known = units, true
	value := float64(units)
	for range s.inputs[h.input].Signal.Decimals {
		value /= 10
	}
	s.happens(h.input, units, value, at)
}

// Press tells of an input otherwise than by the host's pins, while Run runs: a value as an events file has it.
func (s *Show) Press(input int, value float64) error {
	s.mu.Lock()
	defer s.mu.Unlock()
	if input < 0 || input >= len(s.inputs) {
		return fmt.Errorf("input %d; the show has inputs 0–%d", input, len(s.inputs)-1)
	}
	if s.module.Show.Inputs[input].Kind == show.Serial {
		return fmt.Errorf("%s is a serial line, whose characters a bridge does not carry", s.inputs[input].ID)
	}
	at := time.Since(s.begun).Milliseconds()
	if in := &s.module.Show.Inputs[input]; in.Kind == show.Button { // one that is let go at once stays down until it counts
		if value != 0 {
			s.counts = at + in.Debounce + 1
		} else {
			at = max(at, s.counts)
		}
	}
	s.happens(input, show.Units(value, s.inputs[input].Signal.Decimals), value, at)
	return nil
}

func (s *Show) happens(input int, units int64, value float64, at int64) {
	s.live.Happens(0, show.Event{At: at, Input: input, Value: units})
	s.rows = append(s.rows, eventcsv.Row{At: max(at, s.live.Now()), Input: input, Value: value})
}

// Until plays up to a time, and returns the newest picture, if there is one that was not returned yet.
func (s *Show) Until(at int64) (p drive.Picture, changed bool) {
	s.mu.Lock()
	defer s.mu.Unlock()
	frames := s.live.Until(at)[0].Frames
	if len(frames) == 0 {
		return p, false
	}
	f := &frames[len(frames)-1]
	return drive.Of(&s.module.Display, &f.Glass, f.CGRAM), true
}

// Events are all that has happened so far, for an events file.
func (s *Show) Events() []eventcsv.Row {
	s.mu.Lock()
	defer s.mu.Unlock()
	return slices.Clone(s.rows)
}

// Scene is the index of the scene that is shown.
func (s *Show) Scene() int {
	s.mu.Lock()
	defer s.mu.Unlock()
	return s.live.State(0).Scene
}

// often is how often the inputs are read.
const often = 10 * time.Millisecond

// Run plays the show on a module of a table until the context ends: inputs are read, and each picture is wished for. told, which may be
// nil, gets what went wrong on the way.
func (s *Show) Run(ctx context.Context, c *conduct.Conductor, at int, told func(error)) {
	s.mu.Lock()
	s.begun = time.Now()
	begun := s.begun
	s.mu.Unlock()
	beat := time.NewTicker(often)
	defer beat.Stop()
	for {
		select {
		case <-ctx.Done():
			return
		case <-beat.C:
			if err := s.step(ctx, c, at, time.Since(begun).Milliseconds()); err != nil && !errors.Is(err, context.Canceled) && told != nil {
				told(err)
			}
		}
	}
}

// step reads the inputs once, and wishes for what the show wants.
func (s *Show) step(ctx context.Context, c *conduct.Conductor, at int, now int64) error {
	if asks := s.Ask(); len(asks) > 0 && c.State().Phase == conduct.Here {
		err := c.Ask(ctx, func(ctx context.Context, line *session.Session) error {
			got, err := line.Do(ctx, asks, nil)
			if err != nil {
				return err
			}
			return s.Hear(got, now)
		})
		if err != nil {
			return err
		}
	}
	if picture, changed := s.Until(now); changed {
		return c.Wish(at, picture)
	}
	return nil
}
