// Package play plays shows at their real speed: what is wanted at each moment goes out by
// the calls of the program that is exported, as fast as wire and controllers take it, and
// what a glass shows comes from the rig alone. One host serves all modules; while it is
// busy with one of them the others wait.
//
// It stands on top of core, above show and firmware.
package play

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"time"

	"slatebell/core/bench"
	"slatebell/core/firmware"
	"slatebell/core/rig"
	"slatebell/core/sequence"
	"slatebell/core/show"
)

// Part is a module with its show, and what happens to it.
type Part struct {
	Module *firmware.Module
	Events []show.Event // in the order of their times
}

// Frame is a change of what is wanted, and when the glass shows it. Times count from when
// the show begins, which is when all modules have been initialised.
type Frame struct {
	Wanted  time.Duration
	Scene   int
	Waited  time.Duration // until the host was free for it
	Done    time.Duration // the wire is still and the controller free
	Wire    time.Duration // of it, the wire in use
	Bytes   int           // sent to the controllers
	Glass   rig.Glass
	Dropped int // wishes before it that a newer one overtook
}

// Playing is a show that was played.
type Playing struct {
	Program *sequence.Program // from power-up
	Begun   time.Duration     // when the show begins
	Frames  []Frame
	Scenes  []Entered
	Dropped int
	Lost    int           // characters of serial lines that came while the host could keep no more
	Wire    time.Duration // the wire in use, from the show's beginning on
}

// Entered is a scene that began.
type Entered struct {
	At    time.Duration
	Scene int
}

// Play plays the show of one module up to a time in milliseconds; see All.
func Play(m *firmware.Module, events []show.Event, until int64) (*Playing, error) {
	all, err := All([]Part{{m, events}}, until)
	if err != nil {
		return nil, err
	}
	return &all[0], nil
}

// All plays the shows of several modules on one host up to a time in milliseconds. Its
// error is a bench.Problem where a module cannot be run, or names an event that comes before
// the one before it.
func All(parts []Part, until int64) ([]Playing, error) {
	l, err := Begin(parts, until)
	if err != nil {
		return nil, err
	}
	l.play(until)
	l.serve(0, false)
	out := make([]Playing, len(l.stages))
	for i, s := range l.stages {
		s.player.Idle(s.out.Begun + moment(until))
		s.watch()
		out[i] = s.out
	}
	return out, nil
}

// Live is shows that are played while things happen to them.
type Live struct {
	free   time.Duration // from when on the host has nothing to do
	now    int64         // ms up to which was played
	stages []*stage
}

// Begin begins shows, the modules initialised one after the other. Sources of signals are
// sampled up to a time in milliseconds.
func Begin(parts []Part, until int64) (*Live, error) {
	l := &Live{}
	for i := range parts {
		if err := l.join(&parts[i], until); err != nil {
			return nil, err
		}
	}
	for _, s := range l.stages {
		s.out.Begun = l.free
	}
	l.free = 0
	return l, nil
}

// Now is up to when was played, in milliseconds.
func (l *Live) Now() int64 { return l.now }

// Happens adds an event of a part. One that would lie in the past happens now. From the
// first event of a signal on its source says no more.
func (l *Live) Happens(part int, e show.Event) {
	s := l.stages[part]
	if e.At < l.now {
		e.At, e.Later = l.now, 0
	}
	at, _ := slices.BinarySearchFunc(s.events, e.Moment()+1, func(o show.Event, m time.Duration) int { return cmp.Compare(o.Moment(), m) })
	s.events = slices.Insert(s.events, at, e)
	if in := &s.show.Inputs[e.Input]; in.Kind == show.Signal && in.Source.Given() && !s.byHand[e.Input] {
		s.byHand[e.Input] = true
		later := s.events[at+1:]
		s.events = s.events[:at+1+len(slices.DeleteFunc(later, func(o show.Event) bool { return o.Input == e.Input }))]
	}
}

// Until plays up to a time in milliseconds, and returns what became of each part since the
// last call. What the host cannot begin before then waits for the next call.
func (l *Live) Until(until int64) []Playing {
	l.play(until)
	l.now = max(l.now, until)
	return l.taken()
}

// Step plays on until the host has sent what is wanted next, but not beyond a time in
// milliseconds.
func (l *Live) Step(until int64) []Playing {
	for {
		at, ok := l.next(until)
		if l.serve(at, true) {
			break
		}
		if !ok {
			l.now = max(l.now, until)
			break
		}
		l.pass(at)
		l.now = max(l.now, int64(at/time.Millisecond))
	}
	return l.taken()
}

// taken returns what was played since the last call, as the glass shows it.
func (l *Live) taken() []Playing {
	out := make([]Playing, len(l.stages))
	for i, s := range l.stages {
		s.watch()
		out[i] = s.out
		s.player.Forget()
		s.out = Playing{Begun: s.out.Begun}
		s.ends = s.ends[:0]
	}
	return out
}

// Forecast is which scenes of a part begin up to a time in milliseconds if nothing happens
// to its inputs.
func (l *Live) Forecast(part int, until int64) (out []Entered) {
	s := l.stages[part]
	ahead := s.show.Until(s.state, s.state.Now)
	scene, since := ahead.Scene, ahead.Since
	for {
		at, ok := s.show.Next(&ahead)
		if !ok || at > until || len(out) == maxForecast {
			return out
		}
		s.show.Pass(&ahead, at)
		if ahead.Scene != scene || ahead.Since != since {
			scene, since = ahead.Scene, ahead.Since
			out = append(out, Entered{moment(since), scene})
		}
	}
}

// maxForecast bounds how many scenes a forecast tells.
const maxForecast = 500

// State is where the show of a part stands; it must not be changed.
func (l *Live) State(part int) *show.State { return &l.stages[part].state }

// join begins a module, after those before it.
func (l *Live) join(part *Part, until int64) error {
	for i := 1; i < len(part.Events); i++ {
		if before := part.Events[i-1].Moment(); part.Events[i].Moment() < before {
			return fmt.Errorf("event %d comes at %v, after one at %v; expected the order of their times", i+1, part.Events[i].Moment(), before)
		}
	}
	s, err := newStage(part, until)
	if err != nil {
		return err
	}
	s.player.Idle(l.free)
	s.player.Begin()
	l.free = s.player.Done()
	l.stages = append(l.stages, s)
	return nil
}

// play goes from moment to moment up to a time: what happened is taken in, then the host
// sends what is wanted as long as nothing else comes.
func (l *Live) play(until int64) {
	for {
		at, ok := l.next(until)
		l.serve(at, true)
		if !ok {
			return
		}
		l.pass(at)
	}
}

// pass takes in what happens to all at a moment.
func (l *Live) pass(at time.Duration) {
	for _, s := range l.stages {
		if own, ok := s.next(int64(at / time.Millisecond)); ok && own == at {
			s.pass(at, l.free > at)
		}
	}
}

// next is the first moment up to a time in milliseconds at which something happens; where
// there is none it is that time.
func (l *Live) next(until int64) (first time.Duration, ok bool) {
	first = moment(until)
	for _, s := range l.stages {
		if at, there := s.next(until); there && (!ok || at < first) {
			first, ok = at, true
		}
	}
	return first, ok
}

// serve sends what is wanted before a moment, or all of it, what has waited longest first,
// and reports whether there was something.
func (l *Live) serve(before time.Duration, bounded bool) (sent bool) {
	for ; ; sent = true {
		var longest *stage
		for _, s := range l.stages {
			if s.waits && (longest == nil || s.wish.since < longest.wish.since) {
				longest = s
			}
		}
		if longest == nil {
			return sent
		}
		start := max(l.free, longest.wish.at)
		if bounded && start >= before {
			return sent
		}
		l.free = longest.send(start)
		for _, s := range l.stages {
			clear(s.kept)
		}
	}
}

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
	byHand  []bool        // signals whose source says no more
	out     Playing
	ends    []int // for each frame, how many steps were sent
}

func newStage(part *Part, until int64) (*stage, error) {
	p, err := firmware.NewPlayer(part.Module)
	if err != nil {
		return nil, err
	}
	hardware, err := rig.New(part.Module.Display, part.Module.Link)
	if err != nil {
		return nil, bench.Problem{Path: fmt.Sprintf("/modules/%d/link", part.Module.At), What: err.Error()}
	}
	s := &stage{
		rig: hardware, module: part.Module, shown: shown(part.Module), show: part.Module.Show, events: part.Module.Show.Sampled(part.Events, until),
		state: part.Module.Show.Begin(), player: p, kept: make([]int, len(part.Module.Show.Inputs)), byHand: make([]bool, len(part.Module.Show.Inputs)),
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
	if len(s.events) > 0 && s.events[0].At <= until {
		return min(next, s.events[0].Moment()), true
	}
	return next, ok
}

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
		s.show.Accept(&s.state, e)
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
			out.Frames[next].Glass = mo.Glass(&s.module.Display, contrast)
		}
	})
	for ; next < len(s.ends); next++ { // they had nothing to send
		mo := s.rig.Moment()
		out.Frames[next].Glass = mo.Glass(&s.module.Display, contrast)
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
