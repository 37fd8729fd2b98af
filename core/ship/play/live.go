package play

import (
	"cmp"
	"fmt"
	"slices"
	"time"

	"slatebell/core/bench/show"
)

// Live is shows that are played while things happen to them.
type Live struct {
	free   time.Duration // from when on the host has nothing to do
	now    int64         // ms up to which was played
	stages []*stage
}

// Begin begins shows, the modules initialised one after the other.
func Begin(parts []Track) (*Live, error) {
	l := &Live{}
	for i := range parts {
		if err := l.join(&parts[i]); err != nil {
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

// Happens adds an event of a part. One that would lie in the past happens now.
func (l *Live) Happens(part int, e show.Event) {
	s := l.stages[part]
	if e.At < l.now {
		e.At, e.Later = l.now, 0
	}
	at, _ := slices.BinarySearchFunc(s.events, e.Moment()+1, func(o show.Event, m time.Duration) int { return cmp.Compare(o.Moment(), m) })
	s.events = slices.Insert(s.events, at, e)
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
func (l *Live) join(part *Track) error {
	for i := 1; i < len(part.Events); i++ {
		if before := part.Events[i-1].Moment(); part.Events[i].Moment() < before {
			return fmt.Errorf("event %d comes at %v, after one at %v; expected the order of their times", i+1, part.Events[i].Moment(), before)
		}
	}
	s, err := newStage(part)
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
