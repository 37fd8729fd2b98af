// Package replay plays what was recorded on a module's wires into the rig: the operations, the glass at every moment, which limits are broken
// where, how long the same screens take by the cheapest program, and what differs from a program of ours.
//
// It stands on capture, which says which channel is which line, and beside run, which plays programs. Recordings come in as sources; where they are
// read from, it does not know.
package replay

import (
	"errors"
	"fmt"
	"io"
	"slices"
	"time"

	"slatebell/core/bench"
	"slatebell/core/finding"
	"slatebell/core/part/module"
	"slatebell/core/prove/capture"
	"slatebell/core/wire/link"
	"slatebell/core/wire/rig"
)

// The errors of recordings of which nothing can be played.
var (
	ErrEmpty   = errors.New("nothing is recorded in it")
	ErrNoLines = errors.New("no channels are found that drive a module")
)

// firstChanges is how many changes are looked at before it is found what is what.
const firstChanges = 400_000

// Opener begins to read a recording from its beginning. It is called several times; the sources are read one after the other.
type Opener func() (capture.Source, error)

// Recording is one with what was found in it. Make it with Open, and find its lines before it is played.
type Recording struct {
	Names  []string        // of its channels
	Found  []capture.Found // what carries what, the likeliest first
	Broken error           // why no more of it is read; nil where it is read to its end

	open     Opener
	raw      []capture.Change   // its first changes, disturbances with them
	first    []capture.Change   // without them
	shortest [][2]time.Duration // pulses that are no disturbances
	step     time.Duration      // how far apart two times are at least
	untimed  bool               // its times are made up
}

// Open reads the beginning of a recording. Its error is what the opener says, why the file cannot be read, or ErrEmpty.
func Open(open Opener) (*Recording, error) {
	r := &Recording{open: open}
	source, err := open()
	if err != nil {
		return nil, err
	}
	r.Names = source.Channels()
	raw := r.begins(source)
	if len(raw) == 0 {
		if r.Broken != nil {
			return nil, r.Broken
		}
		return nil, ErrEmpty
	}
	if s, ok := source.(capture.Untimed); ok {
		r.untimed = s.Untimed()
	}
	if s, ok := source.(capture.Stepped); ok {
		r.step = s.Step()
	}
	if r.step == 0 {
		r.step = figures(raw)
	}
	r.shortest = capture.Shortest(raw, len(r.Names))
	r.raw = raw
	begun := capture.Memory{Names: r.Names, List: raw}
	r.first = r.begins(capture.NewQuiet(begun.Source(), r.shortest))
	return r, nil
}

// begins are the first changes of a source, up to where it is broken.
func (r *Recording) begins(source capture.Source) (list []capture.Change) {
	for len(list) < firstChanges {
		c, err := source.Next()
		if err != nil {
			if err != io.EOF {
				r.Broken = err
			}
			break
		}
		list = append(list, c)
	}
	return list
}

// figures is the last figure of the times, in nanoseconds: 1, 10, 100 and on, as somebody wrote them down.
func figures(list []capture.Change) time.Duration {
	step := time.Second
	for _, c := range list {
		for c.At%step != 0 {
			step /= 10
		}
	}
	return step
}

// Step is how far apart two of its times are at least; what is shorter, it cannot show.
func (r *Recording) Step() time.Duration { return r.step }

// Find finds which channel is which line; given are those that somebody named. Its error is ErrNoLines.
func (r *Recording) Find(given capture.Lines) error {
	r.Found = capture.Identify(r.first, r.Names, given)
	if len(r.Found) == 0 {
		return ErrNoLines
	}
	r.meant()
	return nil
}

// meant leaves the short pulses of E in where these make more sense than without: the host meant them, and they are to be judged.
func (r *Recording) meant() {
	f := &r.Found[0]
	e, bare := f.Lines["E"]
	if !bare {
		return
	}
	shortest := slices.Clone(r.shortest)
	shortest[e] = [2]time.Duration{}
	source := capture.Memory{Names: r.Names, List: r.raw}
	with := r.begins(capture.NewQuiet(source.Source(), shortest))
	if f.Weigh(with) > f.Weigh(r.first) {
		r.first, r.shortest = with, shortest
	}
}

// Size is the likeliest size of the module, by the first changes.
func (r *Recording) Size() (string, error) {
	if f := &r.Found[0]; f.Lines.Has("E2") || f.Mapping.E2 != link.Open && f.Mapping != (link.Mapping{}) {
		return "40x4", nil
	}
	m, err := ofSize("40x2")
	if err != nil {
		return "", err
	}
	played, err := NewReplay(&r.Found[0], m, r.first)
	if err != nil {
		return "", err
	}
	for _, c := range r.first {
		played.Take(c)
	}
	return GeometryOf(played.Operations), nil
}

// Learnt is a module of which nothing is known but what was recorded.
func Learnt() bench.Display {
	d := bench.NewModule("learnt", "Learnt").Display
	d.Geometry = ""
	return d
}

// ofSize is a module of some size.
func ofSize(geometry string) (module.Module, error) {
	d := Learnt()
	d.Geometry = geometry
	return d.Module()
}

// Watch is told of a recording while it is played; either may be nil.
type Watch struct {
	Pins   func(at time.Duration, p link.Pins) // whenever the header's pins change
	Change func(c capture.Change)              // of each change as it was recorded, disturbances with it
}

// Play plays the recording into a module, up to a time, or to its end where until is below 0.
func (r *Recording) Play(m module.Module, until time.Duration, watch Watch) (*Replay, error) {
	source, err := r.open()
	if err != nil {
		return nil, err
	}
	played, err := NewReplay(&r.Found[0], m, r.first)
	if err != nil {
		return nil, err
	}
	if played.Watch, played.step = watch.Pins, r.step; r.untimed {
		played.Untimed, played.pace = true, nil
	}
	if watch.Change != nil {
		source = &tee{source, watch.Change}
	}
	quiet := capture.NewQuiet(source, r.shortest)
	r.Broken = played.Play(quiet, until)
	played.Disturbances, played.more = quiet.Disturbances, quiet.Finding()
	if r.Broken != nil {
		played.more = append(played.more, finding.Finding{
			Code: "capture.broken", Severity: finding.Error, What: fmt.Sprintf("The recording is read up to %s: %s.", rig.Duration(played.Ends), r.Broken),
			Fix: "Record it again, or save it anew in the program that recorded it.",
		})
	}
	return played, nil
}

// tee tells of each change that is read.
type tee struct {
	capture.Source
	tell func(capture.Change)
}

func (t *tee) Next() (capture.Change, error) {
	c, err := t.Source.Next()
	if err == nil {
		t.tell(c)
	}
	return c, err
}
