package capture

import (
	"fmt"
	"io"
	"slices"
	"time"

	"slatebell/core/finding"
)

// Of pulses that are disturbances (ours): they are shorter than this, which no host's pulse is meant to be, and than a part of the channel's long
// pulses of that level.
const (
	disturbance     = 100 * time.Nanosecond
	disturbancePart = 5
)

// Shortest is how long a pulse on each channel must be at least, low and high, not to be taken for a disturbance: by the first changes of a
// recording. A channel all of whose pulses are short has none.
func Shortest(first []Change, channels int) [][2]time.Duration {
	out := make([][2]time.Duration, channels)
	for i := range out {
		var widths [2][]time.Duration
		since := time.Duration(-1)
		for k := 1; k < len(first); k++ {
			if (first[k].Levels^first[k-1].Levels)>>i&1 == 0 {
				continue
			}
			if since >= 0 {
				level := first[k-1].Levels >> i & 1
				widths[level] = append(widths[level], first[k].At-since)
			}
			since = first[k].At
		}
		for level, list := range widths {
			if len(list) > 0 {
				slices.Sort(list)
				out[i][level] = min(disturbance, list[len(list)*9/10]/disturbancePart)
			}
		}
	}
	return out
}

// Quiet is a source without pulses that are shorter than Shortest says.
type Quiet struct {
	Source
	Disturbances int // pulses that were left out

	shortest [][2]time.Duration
	longest  time.Duration
	queue    []Change // not yet returned; the first is what was returned last
	room     []Change // where the queue lies, at its end
	flipped  []time.Duration
	raw      uint64
	ended    bool
	begun    bool
}

// NewQuiet returns a source without its disturbances.
func NewQuiet(s Source, shortest [][2]time.Duration) *Quiet {
	q := &Quiet{Source: s, shortest: shortest, flipped: make([]time.Duration, len(shortest))}
	for i := range shortest {
		q.longest = max(q.longest, shortest[i][0], shortest[i][1])
		q.flipped[i] = -1
	}
	return q
}

// Next returns the next change that stays.
func (q *Quiet) Next() (Change, error) {
	for {
		for len(q.queue) > 1 && (q.ended || q.queue[len(q.queue)-1].At-q.queue[1].At >= q.longest) {
			was := q.queue[0].Levels
			q.queue = q.queue[1:]
			if c := q.queue[0]; c.Levels != was {
				return c, nil
			}
		}
		if q.ended {
			return Change{}, io.EOF
		}
		c, err := q.Source.Next()
		if err == io.EOF {
			q.ended = true
			continue
		}
		if err != nil {
			return c, err
		}
		if !q.begun {
			q.begun, q.raw = true, c.Levels
			q.queue = append(q.queue, c)
			return c, nil
		}
		q.take(c)
	}
}

// take puts a change at the end of the queue, and takes back the pulses that it ends too early.
func (q *Quiet) take(c Change) {
	moved := c.Levels ^ q.raw
	q.raw = c.Levels
	levels := q.queue[len(q.queue)-1].Levels ^ moved
	for i := range q.shortest {
		if moved>>i&1 == 0 {
			continue
		}
		was := (c.Levels>>i&1 ^ 1)
		if since := q.flipped[i]; since >= 0 && c.At-since < q.shortest[i][was] && since >= q.queue[0].At && len(q.queue) > 1 {
			for k := 1; k < len(q.queue); k++ {
				if q.queue[k].At >= since {
					q.queue[k].Levels ^= 1 << i
				}
			}
			q.Disturbances++
			q.flipped[i] = -1
			continue
		}
		q.flipped[i] = c.At
	}
	if len(q.queue) == cap(q.queue) { // back to the beginning of its room
		if len(q.queue) > len(q.room)/2 {
			q.room = make([]Change, 2*len(q.queue)+queueLeast)
		}
		q.queue = q.room[:copy(q.room, q.queue)]
	}
	q.queue = append(q.queue, Change{c.At, levels})
}

// queueLeast is for how many changes a queue has room, at least.
const queueLeast = 1024

// Finding says how many disturbances were left out; nothing where there was none.
func (q *Quiet) Finding() []finding.Finding {
	if q.Disturbances == 0 {
		return nil
	}
	return []finding.Finding{{
		Code: "capture.disturbed", Severity: finding.Note, What: fmt.Sprintf("%d pulses are shorter than %v, and than a fifth of the others on their channel: they are left out as disturbances.", q.Disturbances, disturbance),
		Why: "A module may see them all the same; a sampler sees them where its ground is poor or its wires lie along each other.", Fix: "Join the grounds of module, host and sampler by short wires, and record again.",
	}}
}
