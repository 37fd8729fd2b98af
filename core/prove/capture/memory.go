package capture

import (
	"io"
	"slices"
	"time"

	"slatebell/core/wire/link"
	"slatebell/core/wire/sequence"
	"slatebell/core/wire/wave"
)

// Memory is a recording that is held in memory.
type Memory struct {
	Names []string // of its channels
	List  []Change
	Step  time.Duration // how far apart its times are at least; 0: a nanosecond
}

// Drawn is a recording of some signals of a trace, a channel each in the order of their names; its times count from the trace's beginning.
func Drawn(t *wave.Trace, names ...string) Memory {
	m := Memory{Names: names, List: make([]Change, 1, len(t.Changes)+1)}
	to := make([]int, len(t.Signals))
	for i, name := range t.Signals {
		to[i] = slices.Index(names, name)
		if to[i] >= 0 && t.Initial[i] {
			m.List[0].Levels |= 1 << to[i]
		}
	}
	for _, c := range t.Changes {
		if to[c.Signal] < 0 {
			continue
		}
		last := &m.List[len(m.List)-1]
		levels := last.Levels &^ (1 << to[c.Signal])
		if c.High {
			levels |= 1 << to[c.Signal]
		}
		if at := c.At - t.Begin; at > last.At {
			m.List = append(m.List, Change{at, levels})
		} else {
			last.Levels = levels
		}
	}
	return m
}

// OfProgram is what somebody would record of a program: SDA and SCL, or DATA, CLOCK and LATCH, or the header's lines that the host drives, as they are
// behind some hardware.
func OfProgram(p *sequence.Program, h link.Hardware) Memory {
	trace := wave.Draw(p, 0, len(p.Steps)-1, h)
	var names []string
	switch p.Coder.Link().Kind {
	case link.Backpack:
		names = []string{string(SDA), string(SCL)}
	case link.ShiftReg:
		names = []string{string(Data), string(Clock), string(Latch)}
	default:
		names = trace.Signals
	}
	return Drawn(&trace, names...)
}

// Source reads it from its beginning.
func (m *Memory) Source() Source { return &inMemory{m.Names, m.List, max(1, m.Step)} }

type inMemory struct {
	names []string
	left  []Change
	step  time.Duration
}

func (s *inMemory) Channels() []string { return s.names }

func (s *inMemory) Step() time.Duration { return s.step }

func (s *inMemory) Next() (c Change, err error) {
	if len(s.left) == 0 {
		return c, io.EOF
	}
	c, s.left = s.left[0], s.left[1:]
	return c, nil
}
