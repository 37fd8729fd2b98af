// Package play plays shows at their real speed: what is wanted at each moment goes out by
// the calls of the program that is exported, as fast as wire and controllers take it, and
// what a glass shows comes from the rig alone. One host serves all modules; while it is
// busy with one of them the others wait.
//
// It stands on top of core, above show and firmware.
package play

import (
	"time"

	"slatebell/core/bench/show"
	"slatebell/core/ship/firmware"
	"slatebell/core/table/touch"
	"slatebell/core/wire/rig"
	"slatebell/core/wire/sequence"
)

// Track is a module with its show, and what happens to it.
type Track struct {
	Module *firmware.Module
	Events []show.Event // in the order of their times
	// Lines say what the program reads of inputs as they are wired, by their indexes; those that are not there work.
	Lines map[int]touch.Line
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
	CGRAM   [64]byte // of the first controller, as it is then
	Dropped int      // wishes before it that a newer one overtook
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
	all, err := All([]Track{{Module: m, Events: events}}, until)
	if err != nil {
		return nil, err
	}
	return &all[0], nil
}

// All plays the shows of several modules on one host up to a time in milliseconds. Its
// error is a bench.Problem where a module cannot be run, or names an event that comes before
// the one before it.
func All(parts []Track, until int64) ([]Playing, error) {
	l, err := Begin(parts)
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
