package recordings

import (
	"time"

	"slatebell/core/prove/capture"
)

// Part is what a recording shows from a time to another, as it is drawn.
type Part struct {
	Channels   []ChannelLevels     `json:"channels" nullable:"false" doc:"each of the recording's"`
	Operations []RecordedOperation `json:"operations" nullable:"false" doc:"in it, where they are few enough to be drawn; else none"`
	Many       bool                `json:"many,omitempty" doc:"there are more of them"`
	Bytes      []RecordedByte      `json:"bytes" nullable:"false" doc:"on the bus or into the register, likewise"`
}

// ChannelLevels are the levels of a channel over a part.
type ChannelLevels struct {
	High  bool    `json:"high" doc:"at its beginning"`
	Turns []int64 `json:"turns" nullable:"false" doc:"times at which it changes, ns"`
	Busy  []int64 `json:"busy" nullable:"false" doc:"pairs of times between which it changes more often than can be drawn, ns"`
}

// RecordedByte is one on the bus, or into the register.
type RecordedByte struct {
	FromNs  int64 `json:"fromNs" doc:"about"`
	AtNs    int64 `json:"atNs" doc:"its end"`
	Value   int   `json:"value"`
	Address bool  `json:"address,omitempty" doc:"it is the address after a START, with the direction in bit 0"`
	Refused bool  `json:"refused,omitempty" doc:"nobody acknowledged it"`
}

// mostDrawn is how many operations, or bytes, of a part are listed.
const mostDrawn = 300

// part is what is recorded from a time to another, in so many columns.
func (r *reading) part(from, to time.Duration, columns int) (*Part, error) {
	spans, err := r.trace.Spans(from, to, columns)
	if err != nil {
		return nil, err
	}
	out := &Part{Operations: []RecordedOperation{}, Bytes: []RecordedByte{}}
	for i := range r.answer.Channels {
		out.Channels = append(out.Channels, levels(spans, i, to))
	}
	if r.played == nil {
		return out, nil
	}
	first, last := r.played.Until(from-1), r.played.Until(to)
	if out.Many = last-first > mostDrawn; !out.Many {
		for i := first; i < min(last+1, len(r.played.Operations)); i++ { // and the next, which may begin in it
			out.Operations = append(out.Operations, r.operation(i))
		}
	}
	bit := 10 * time.Microsecond
	if hz := r.answer.ClockHz; hz > 0 {
		bit = time.Second / time.Duration(hz)
	}
	list := r.played.Came(from, to)
	if len(list) > mostDrawn {
		return out, nil
	}
	for _, b := range list {
		begin := b.At - 9*bit
		if n := len(out.Bytes); n > 0 {
			begin = max(begin, time.Duration(out.Bytes[n-1].AtNs))
		}
		out.Bytes = append(out.Bytes, RecordedByte{begin.Nanoseconds(), b.At.Nanoseconds(), int(b.Value), b.First, !b.Ack})
	}
	return out, nil
}

// levels are those of one channel.
func levels(spans []capture.Span, channel int, to time.Duration) ChannelLevels {
	out := ChannelLevels{Turns: []int64{}, Busy: []int64{}}
	if len(spans) == 0 {
		return out
	}
	high := spans[0].Levels>>channel&1 == 1
	out.High = high
	for i, s := range spans {
		if now := s.Levels>>channel&1 == 1; now != high {
			high = now
			out.Turns = append(out.Turns, s.At.Nanoseconds())
		}
		if s.Moved>>channel&1 == 0 {
			continue
		}
		end := to
		if i+1 < len(spans) {
			end = spans[i+1].At
		}
		if n := len(out.Busy); n > 0 && out.Busy[n-1] == s.At.Nanoseconds() {
			out.Busy[n-1] = end.Nanoseconds()
		} else {
			out.Busy = append(out.Busy, s.At.Nanoseconds(), end.Nanoseconds())
		}
	}
	return out
}
