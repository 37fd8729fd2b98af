package show

import (
	"math"
	"math/rand/v2"

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

// Sample is what the source of a signal says at a time, and when it says more; false where it
// has none.
func (s *Show) Sample(input int, at int64) (e Event, next int64, ok bool) {
	in := &s.Inputs[input]
	if in.Kind != Signal || !in.Source.Given() {
		return e, 0, false
	}
	return Event{At: at, Input: input, Value: Units(in.Source.At(at), in.Decimals)}, at + in.Source.sample, true
}
