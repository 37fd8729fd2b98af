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
	"slatebell/core/ship/bridge"
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
	ears   []listener
	rows   []eventcsv.Row
	said   map[int]time.Duration // of serial lines: until when what came is coming
	counts int64                 // when a button that was pressed on the page counts

	session begun // that its inputs were asked in; of Run
}

// begun is a session, and how often it was begun.
type begun struct {
	line  *session.Session
	times int
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
	s := &Show{module: m, inputs: b.Modules[at].Show.Inputs, said: map[int]time.Duration{}}
	if s.live, err = play.Begin([]play.Track{{Module: m}}); err != nil {
		return nil, err
	}
	plan, err := bridge.New(b)
	if err != nil {
		return nil, err
	}
	s.ears = listeners(plan, m)
	return s, nil
}

// Unheard names the inputs that a bridge does not listen to: those on no pin, and serial lines that are the one to the computer.
func (s *Show) Unheard() (out []string) {
	for i := range s.inputs {
		in := s.module.Show.Inputs[i]
		if in.Kind == show.Timer || in.Kind == show.Counter && (in.Up >= 0 || in.Down >= 0) {
			continue
		}
		if !slices.ContainsFunc(s.ears, func(l listener) bool { return slices.Contains(l.inputs(), i) }) {
			out = append(out, s.inputs[i].ID)
		}
	}
	return out
}

// Ask returns what asks the host for all pins of the show.
func (s *Show) Ask() (out []protocol.Record) {
	for _, l := range s.ears {
		out = append(out, l.ask())
	}
	return out
}

// Hear takes what the host answered to Ask at a time.
func (s *Show) Hear(results []byte, at int64) error {
	s.mu.Lock()
	defer s.mu.Unlock()
	for _, l := range s.ears {
		asked := l.ask()
		n := asked.Results(false)
		if len(results) < n {
			return fmt.Errorf("%d bytes came back of %d inputs; expected more", len(results), len(s.ears))
		}
		l.hear(s, results[:n], at)
		results = results[n:]
	}
	return nil
}

// forget takes it that a session has begun.
func (s *Show) forget() {
	s.mu.Lock()
	defer s.mu.Unlock()
	for _, l := range s.ears {
		l.forget()
	}
}

// Press tells of an input otherwise than by the host's pins, while Run runs: a value as an events file has it.
func (s *Show) Press(input int, value float64) error {
	s.mu.Lock()
	defer s.mu.Unlock()
	if input < 0 || input >= len(s.inputs) {
		return fmt.Errorf("input %d; the show has inputs 0–%d", input, len(s.inputs)-1)
	}
	if s.module.Show.Inputs[input].Kind == show.Serial {
		return fmt.Errorf("%s is a serial line; expected characters", s.inputs[input].ID)
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

// Say lets characters, with the escapes of an events file, come over a serial line otherwise than by the host's pins, while Run runs.
func (s *Show) Say(input int, text string) error {
	s.mu.Lock()
	defer s.mu.Unlock()
	if input < 0 || input >= len(s.inputs) || s.module.Show.Inputs[input].Kind != show.Serial {
		return fmt.Errorf("input %d is no serial line", input)
	}
	said, err := eventcsv.Unescape(text)
	if err == nil {
		s.says(input, said, time.Since(s.begun).Milliseconds())
	}
	return err
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
			if now := (begun{line, line.Begun()}); now != s.session {
				s.session = now
				s.forget()
			}
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
