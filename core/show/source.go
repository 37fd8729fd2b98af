package show

import (
	"cmp"
	"math"
	"math/rand/v2"
	"slices"

	"slatebell/core/bench"
)

// Source is a made-up course of a signal: a pure function of the time.
type Source struct {
	curve     string
	low, high float64
	period    int64 // ms
	levels    []float64
	seed      uint64
	sample    int64 // ms
}

// What is usual of a source where a document says nothing.
const (
	usualPeriod = 10_000 // ms
	usualSample = 100    // ms
)

func sourceOf(d *bench.Source) Source {
	return Source{d.Curve, d.Low, d.High, or(d.PeriodMs, usualPeriod), d.Levels, uint64(d.Seed), or(d.SampleMs, usualSample)}
}

// Given reports whether there is a course at all.
func (s *Source) Given() bool { return s.curve != "" }

// Tides: the share of the moon's and of the sun's half-daily tide, and how much shorter the
// sun's is, 12 h against 12.42 h (common practice; places differ).
const (
	moonShare = 0.75
	sunShare  = 1 - moonShare
	sunPeriod = 12.00 / 12.42
)

// At is the value at a time in milliseconds; noise has one for each sample.
func (s *Source) At(ms int64) float64 {
	middle, reach := (s.low+s.high)/2, (s.high-s.low)/2
	turn := 2 * math.Pi * float64(ms) / float64(s.period)
	switch s.curve {
	case "ramp":
		return s.low + (s.high-s.low)*float64(ms%s.period)/float64(s.period)
	case "sine":
		return middle + reach*math.Sin(turn)
	case "tide":
		return middle + reach*(moonShare*math.Sin(turn)+sunShare*math.Sin(turn/sunPeriod))
	case "steps":
		if len(s.levels) > 0 {
			return s.levels[ms/s.period%int64(len(s.levels))]
		}
	case "noise":
		r := rand.New(rand.NewPCG(s.seed, uint64(ms/s.sample)))
		return s.low + (s.high-s.low)*r.Float64()
	}
	return s.low
}

// Sampled puts the samples of the show's sources among events, up to a time; from the first
// event of a signal on its source says no more. At one moment events come first.
func (s *Show) Sampled(events []Event, until int64) []Event {
	taken := make([]int64, len(s.Inputs))
	for i := range taken {
		taken[i] = until + 1
	}
	for _, e := range slices.Backward(events) {
		taken[e.Input] = min(e.At, until+1)
	}
	out := events
	for i := range s.Inputs {
		source := &s.Inputs[i].Source
		if s.Inputs[i].Kind != Signal || !source.Given() {
			continue
		}
		if len(out) == len(events) {
			out = slices.Clone(events)
		}
		for at := int64(0); at < taken[i]; at += source.sample {
			out = append(out, Event{At: at, Input: i, Value: Units(source.At(at), s.Inputs[i].Decimals)})
		}
	}
	if len(out) > len(events) {
		slices.SortStableFunc(out, func(a, b Event) int { return cmp.Compare(a.Moment(), b.Moment()) })
	}
	return out
}
