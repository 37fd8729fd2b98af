package perform

import (
	"slices"
	"time"

	"periph.io/x/conn/v3/physic"

	"slatebell/core/bench/show"
	"slatebell/core/ship/bridge"
	"slatebell/core/ship/firmware"
	"slatebell/formats/eventcsv"
	"slatebell/live/protocol"
)

// listener listens to pins of the host, and tells the show what happens at them.
type listener interface {
	// ask is what the host is asked for, each time.
	ask() protocol.Record
	// hear takes its answer.
	hear(s *Show, got []byte, at int64)
	// forget takes it that what the host said before counts no more: a session has begun.
	forget()
	// inputs are the inputs that it is for.
	inputs() []int
}

// listeners are those for the inputs of a module that a bridge can listen to.
func listeners(p *bridge.Plan, m *firmware.Module) (out []listener) {
	for i := range m.Joints {
		j, in := &m.Joints[i], &m.Show.Inputs[i]
		if !j.Joined() {
			continue
		}
		switch {
		case j.Rung != (firmware.Rung{}):
			at := slices.IndexFunc(out, func(l listener) bool { k, is := l.(*ladder); return is && k.pin == byte(j.Number) })
			if at < 0 {
				at = len(out)
				out = append(out, &ladder{pin: byte(j.Number)})
			}
			l := out[at].(*ladder)
			l.rungs = append(l.rungs, rung{i, j.Rung})
		case in.Kind == show.Button, in.Kind == show.Counter && j.PinB == "":
			out = append(out, &contact{input: i, joint: j, button: in.Kind == show.Button})
		case in.Kind == show.Counter:
			out = append(out, &encoder{input: i, joint: j})
		case in.Kind == show.Signal:
			v := &voltage{input: i, pin: byte(j.Number), scale: in.Scale, most: 1<<p.Host.Resolution() - 1}
			if j.ReferenceMV > 0 {
				v.supply, v.reference = int64(p.Host.Logic/physic.MilliVolt), int64(j.ReferenceMV)
			}
			out = append(out, v)
		case in.Kind == show.Serial && p.Hears(j.Line):
			at := slices.IndexFunc(out, func(l listener) bool { k, is := l.(*line); return is && k.number == byte(j.Line) })
			if at < 0 {
				at = len(out)
				out = append(out, &line{number: byte(j.Line)})
			}
			l := out[at].(*line)
			l.of = append(l.of, i)
		}
	}
	return out
}

// contact is a button, or a counter of one contact.
type contact struct {
	input  int
	joint  *firmware.Joint
	button bool
	closed bool
	known  bool
}

func (c *contact) inputs() []int { return []int{c.input} }
func (c *contact) forget()       {}
func (c *contact) ask() protocol.Record {
	return protocol.Record{Op: protocol.OpLevel, Pin: byte(c.joint.Number), PullUp: c.joint.PullUp}
}

func (c *contact) hear(s *Show, got []byte, at int64) {
	closed := (got[0] != 0) == c.joint.High
	changed := c.known && closed != c.closed || !c.known && closed
	c.closed, c.known = closed, true
	switch {
	case !changed:
	case closed:
		s.happens(c.input, 1, 1, at)
	case c.button:
		s.happens(c.input, 0, 0, at)
	}
}

// voltage is a signal.
type voltage struct {
	input  int
	pin    byte
	scale  show.Scale
	most   int64 // that the converter gives
	sum, n int64 // of readings

	supply, reference int64 // mV: a bridge measures against the supply, a program against the reference; 0: both against the supply
	was               int64 // units
	known             bool
}

func (v *voltage) inputs() []int { return []int{v.input} }
func (v *voltage) forget()       {}
func (v *voltage) ask() protocol.Record {
	return protocol.Record{Op: protocol.OpMeasure, Pin: v.pin}
}

func (v *voltage) hear(s *Show, got []byte, at int64) {
	now := reading(got)
	if v.reference > 0 {
		now = min(now*v.supply/v.reference, v.most)
	}
	v.sum += now
	if v.n++; v.n < max(v.scale.Average, 1) {
		return
	}
	units := v.scale.Units(v.sum)
	v.sum, v.n = 0, 0
	if v.known && units == v.was {
		return
	}
	v.was, v.known = units, true
	value := float64(units)
	for range s.inputs[v.input].Signal.Decimals {
		value /= 10
	}
	s.happens(v.input, units, value, at)
}

func reading(got []byte) int64 { return int64(got[0])<<8 | int64(got[1]) }

// ladder is several buttons that a ladder of resistors tells apart at one pin.
type ladder struct {
	pin     byte
	rungs   []rung
	pressed int // input; counted from 1
}

type rung struct {
	input int
	firmware.Rung
}

func (l *ladder) inputs() (out []int) {
	for _, r := range l.rungs {
		out = append(out, r.input)
	}
	return out
}
func (l *ladder) forget() {}
func (l *ladder) ask() protocol.Record {
	return protocol.Record{Op: protocol.OpMeasure, Pin: l.pin}
}

func (l *ladder) hear(s *Show, got []byte, at int64) {
	now := 0
	for _, r := range l.rungs {
		if n := reading(got); int64(r.From) <= n && n < int64(r.To) {
			now = r.input + 1
		}
	}
	if now == l.pressed {
		return
	}
	if l.pressed > 0 {
		s.happens(l.pressed-1, 0, 0, at)
	}
	if now > 0 {
		s.happens(now-1, 1, 1, at)
	}
	l.pressed = now
}

// encoder is a counter of two contacts.
type encoder struct {
	input int
	joint *firmware.Joint
	was   byte
}

func (e *encoder) inputs() []int { return []int{e.input} }
func (e *encoder) forget()       { e.was = 0 } // the host counts anew
func (e *encoder) ask() protocol.Record {
	return protocol.Record{Op: protocol.OpTurns, Pin: byte(e.joint.Number), PinB: byte(e.joint.NumberB), PullUp: e.joint.PullUp, High: e.joint.High}
}

func (e *encoder) hear(s *Show, got []byte, at int64) {
	notches := int8(got[0] - e.was)
	e.was = got[0]
	step := int64(1)
	if notches < 0 {
		step = -1
	}
	for ; notches != 0; notches -= int8(step) {
		s.happens(e.input, step, float64(step), at)
	}
}

// line is a serial line of the host, other than the one to the computer.
type line struct {
	number  byte
	of      []int // inputs that hear it
	current bool  // what came before the show is behind
}

// together is how many characters are taken at once.
const together = 20

func (l *line) inputs() []int { return l.of }
func (l *line) forget()       { l.current = false }
func (l *line) ask() protocol.Record {
	return protocol.Record{Op: protocol.OpHeard, Line: l.number, Count: together}
}

func (l *line) hear(s *Show, got []byte, at int64) {
	said := got[1 : 1+min(int(got[0]), len(got)-1)]
	if l.current && len(said) > 0 {
		for _, input := range l.of {
			s.says(input, said, at)
		}
	}
	l.current = l.current || len(said) < together
}

// says lets characters come over a serial line, behind those that still come.
func (s *Show) says(input int, said []byte, at int64) {
	begins := max(time.Duration(at)*time.Millisecond, time.Duration(s.live.Now())*time.Millisecond, s.said[input])
	for _, e := range show.Typed(&s.inputs[input], input, begins, said) {
		s.live.Happens(0, e)
		s.said[input] = e.Moment()
	}
	s.rows = append(s.rows, eventcsv.Row{At: int64(begins / time.Millisecond), Input: input, Text: eventcsv.Escape(said)})
}
