package play

import (
	"fmt"
	"math"
	"time"

	"slatebell/core/bench"
	"slatebell/core/bench/show"
	"slatebell/core/ship/firmware"
	"slatebell/core/table/touch"
	"slatebell/core/wire/rig"
)

// stage is one module while it is played.
type stage struct {
	module  *firmware.Module
	show    *show.Show
	shown   [][]bool // of each screen, the values that it shows
	events  []show.Event
	state   show.State
	player  *firmware.Player
	rig     *rig.Rig
	scene   int           // that was noted last
	since   time.Duration // when it began
	wish    wish          // the newest
	waits   bool          // to be sent
	sent    wish          // what the glass was told last
	overrun int           // wishes that were overtaken since then
	kept    []int         // characters of each input that came while the host was busy
	lines   map[int]touch.Line
	sample  []int64 // when the source of each signal says more; never from its first event on
	out     Playing
	ends    []int // for each frame, how many steps were sent
}

func newStage(part *Track) (*stage, error) {
	p, err := firmware.NewPlayer(part.Module)
	if err != nil {
		return nil, err
	}
	hardware, err := rig.New(part.Module.Display, part.Module.Link)
	if err != nil {
		return nil, bench.ProblemOf(fmt.Sprintf("/modules/%d/link", part.Module.At), err)
	}
	s := &stage{
		rig: hardware, module: part.Module, shown: shown(part.Module), show: part.Module.Show, events: part.Events, lines: part.Lines,
		state: part.Module.Show.Begin(), player: p, kept: make([]int, len(part.Module.Show.Inputs)), sample: make([]int64, len(part.Module.Show.Inputs)),
	}
	for i := range s.sample {
		if _, _, ok := s.show.Sample(i, 0); !ok {
			s.sample[i] = never
		}
	}
	for i, l := range s.lines {
		if e, ok := l.Begins(i); ok {
			s.show.Accept(&s.state, e)
		}
	}
	s.wish, s.waits = s.wanted(0), true
	s.scene = -1
	s.entered()
	return s, nil
}

// entered notes a scene that has begun.
func (s *stage) entered() {
	if s.state.Scene != s.scene || moment(s.state.Since) != s.since {
		s.scene, s.since = s.state.Scene, moment(s.state.Since)
		s.out.Scenes = append(s.out.Scenes, Entered{s.since, s.scene})
	}
}

// next is when something happens next, up to a time in milliseconds.
func (s *stage) next(until int64) (time.Duration, bool) {
	at, ok := s.show.Next(&s.state)
	next := moment(at)
	if ok = ok && at <= until; !ok {
		next = math.MaxInt64
	}
	for _, at := range s.sample {
		if at <= until {
			next, ok = min(next, moment(at)), true
		}
	}
	if len(s.events) > 0 && s.events[0].At <= until {
		return min(next, s.events[0].Moment()), true
	}
	return next, ok
}

// never is a time that does not come.
const never = math.MaxInt64

// pass takes in what happens at a moment, and notes what is wanted then. Characters that
// come while the host is busy are kept as long as it has room for them.
func (s *stage) pass(at time.Duration, busy bool) {
	for len(s.events) > 0 && s.events[0].Moment() == at {
		e := s.events[0]
		s.events = s.events[1:]
		if in := &s.show.Inputs[e.Input]; in.Kind == show.Serial && busy {
			if s.kept[e.Input]++; s.kept[e.Input] > in.Message.Buffer {
				s.out.Lost++
				continue
			}
		}
		if s.show.Inputs[e.Input].Kind == show.Signal {
			s.sample[e.Input] = never
		}
		s.tells(e)
	}
	for i, next := range s.sample {
		if next != never && moment(next) == at {
			e, next, _ := s.show.Sample(i, next)
			s.tells(e)
			s.sample[i] = next
		}
	}
	s.show.Pass(&s.state, int64(at/time.Millisecond))
	s.entered()
	w := s.wanted(at)
	if w.same(&s.wish, s.shown[w.screen]) {
		return
	}
	if s.waits {
		if s.wish.at < at { // else it lasted no time
			s.overrun++
		}
		w.since = s.wish.since
	}
	s.wish, s.waits = w, true
}

// tells tells the show what the program reads of an event, by the wires of its input.
func (s *stage) tells(e show.Event) {
	if l, wired := s.lines[e.Input]; wired {
		var told bool
		if e, told = l.Tell(e, s.state.Inputs[e.Input].Raw); !told {
			return
		}
	}
	s.show.Accept(&s.state, e)
}

// send sends the newest wish from a time on, and returns when the host has done it.
func (s *stage) send(start time.Duration) time.Duration {
	w, p := &s.wish, s.player
	p.Idle(s.out.Begun + start)
	s.tell(w)
	f := Frame{Wanted: w.at, Scene: w.scene, Dropped: s.overrun, Waited: start - w.at, Done: p.Done() - s.out.Begun}
	s.out.Dropped += s.overrun
	s.out.Frames = append(s.out.Frames, f)
	s.ends = append(s.ends, p.Sent())
	s.sent, s.waits, s.overrun = *w, false, 0
	return f.Done
}

// tell makes the calls that bring the glass from what it was told last to a wish.
func (s *stage) tell(w *wish) {
	p, was := s.player, &s.sent
	if w.off && !p.Dark() {
		p.Dots(false)
	}
	if was.slots != nil && (w.slots == nil || w.slots.Slot != was.slots.Slot) {
		p.Redraw(was.slots.Slot, was.slots.Glyphs[0])
	}
	if w.shift == 0 {
		p.Shift(0, false)
	}
	give := p.Tell
	if w.screen != p.Screen() {
		give = p.Hold
	}
	for k, v := range w.values {
		give(k, v)
	}
	p.Show(w.screen)
	if w.shift != 0 {
		p.Shift(w.shift, w.right)
	}
	if w.slots != nil {
		p.Redraw(w.slots.Slot, w.slots.Glyphs[w.step])
	}
	if !w.off && p.Dark() {
		p.Dots(true)
	}
}

func moment(ms int64) time.Duration { return time.Duration(ms) * time.Millisecond }

// watch plays what was sent into the rig, and looks at the glass after each frame.
func (s *stage) watch() {
	out := &s.out
	out.Program = s.player.Program()
	contrast := s.module.Display.UsualContrast()
	next := 0
	s.rig.Play(out.Program, func(step int) {
		for ; next < len(s.ends) && s.ends[next] <= step+1; next++ {
			mo := s.rig.Moment()
			out.Frames[next].Glass, out.Frames[next].CGRAM = mo.Glass(&s.module.Display, contrast), mo.Controllers[0].CGRAM
		}
	})
	for ; next < len(s.ends); next++ { // they had nothing to send
		mo := s.rig.Moment()
		out.Frames[next].Glass, out.Frames[next].CGRAM = mo.Glass(&s.module.Display, contrast), mo.Controllers[0].CGRAM
	}
	frame := 0
	for i := range out.Program.Steps {
		step := &out.Program.Steps[i]
		for frame < len(s.ends) && s.ends[frame] <= i {
			frame++
		}
		if step.Start >= out.Begun && frame < len(s.ends) {
			out.Wire += step.Wire
			out.Frames[frame].Wire += step.Wire
			if step.Wire > 0 {
				out.Frames[frame].Bytes++
			}
		}
	}
}
