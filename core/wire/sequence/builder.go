package sequence

import (
	"time"

	"slatebell/core/part/hd44780"
	"slatebell/core/part/module"
	"slatebell/core/wire/link"
	"slatebell/core/wire/update"
)

// Builder appends steps to a program.
type Builder struct {
	program  Program
	module   module.Module
	opts     Options
	coder    *link.Coder
	timeline link.Timeline
	readyAt  time.Duration // the controllers are free again, by the chosen waits
	buffer   []link.Word
	shadows  [2]shadow     // what the controllers hold
	last     update.Class  // of the last operation
	costs    *update.Costs // nil: not measured yet
}

// NewBuilder checks link and options and returns a builder for a module. The
// link's number of enables is set to the module's number of controllers.
func NewBuilder(m module.Module, l link.Link, o Options) (*Builder, error) {
	l.Enables = m.Geometry.Controllers
	coder, err := link.NewCoder(l)
	if err != nil {
		return nil, err
	}
	if err := CheckWaits(o.Waits, l); err != nil {
		return nil, err
	}
	if o.Waits == "" {
		o.Waits = WorstCase
	}
	b := &Builder{module: m, opts: o, coder: coder, timeline: link.NewTimeline(coder), last: update.Fresh}
	for i := range b.shadows {
		b.shadows[i] = newShadow(&m)
	}
	b.program.Coder = coder
	return b, nil
}

// Program ends the builder's work and returns what it built.
func (b *Builder) Program() *Program {
	b.close()
	p := &b.program
	_, p.Transactions = b.timeline.Words()
	p.WireTime, p.Finish = 0, b.readyAt
	for i := range p.Steps {
		p.WireTime += p.Steps[i].Wire
	}
	if n := len(p.Steps); n > 0 {
		p.Finish = max(p.Finish, p.Steps[n-1].End())
	}
	return p
}

// Restart begins another program: what the controllers hold, and the levels of RS
// and R/W, stay known, and times count from 0 again.
func (b *Builder) Restart() {
	b.program = Program{Coder: b.coder}
	b.timeline, b.readyAt = link.NewTimeline(b.coder), 0
}

// Forget begins another program that goes on where this one ends: its times count on.
func (b *Builder) Forget() { b.program = Program{Coder: b.coder} }

// all is the enable that reaches every controller of the module.
func (b *Builder) all() link.Enable {
	if b.module.Geometry.Controllers == 2 {
		return link.Both
	}
	return link.First
}

// execution is how long to wait after op.
func (b *Builder) execution(op hd44780.Operation) time.Duration {
	if b.opts.Hasty {
		return 0
	}
	if b.opts.Waits == Typical {
		return hd44780.ExecutionTime(op, b.module.Oscillator)
	}
	return hd44780.ExecutionTime(op, hd44780.MinOscillator)
}

// WaitFor appends a pure wait.
func (b *Builder) WaitFor(d time.Duration, meaning string) {
	b.close()
	b.program.Steps = append(b.program.Steps, Step{Kind: Wait, Meaning: meaning, Row: -1, Col: -1, First: len(b.program.Words), Start: b.timeline.Now(), Wait: d, Pause: d})
	b.timeline.Wait(d)
	b.readyAt = max(b.readyAt, b.timeline.Now())
}

// add appends a step that sends words, after a pause until the controllers are
// free. The step's Kind, Op, Half, Enable, Meaning, Row, Col and Wait are given.
func (b *Builder) add(s Step) {
	b.buffer = b.buffer[:0]
	status := s.Sends() && s.Op.Kind() == hd44780.ReadStatus // may come while the controller is busy
	switch s.Kind {
	case Park:
		b.buffer = b.coder.Park(b.buffer)
	case Raw:
		b.buffer = b.coder.Raw(b.buffer, s.Op.Byte)
	default:
		b.buffer = b.coder.Append(b.buffer, s.Op, s.Enable, s.Half)
	}
	if !status {
		b.pauseUntilReady()
	}
	p, wired := &b.program, b.coder.Link()
	s.First, s.Count, s.Start = len(p.Words), len(b.buffer), b.timeline.Now()
	p.Steps = append(p.Steps, s)
	for _, w := range b.buffer {
		at, marked := b.timeline.Send(w)
		p.Words, p.At = append(p.Words, marked), append(p.At, at)
		if wired.Grouping == link.PerByte {
			b.close()
		}
	}
	if wired.Grouping == link.PerOperation {
		b.close()
	}
	p.Steps[len(p.Steps)-1].Wire = b.timeline.Now() - s.Start
	if s.Sends() {
		b.track(&s)
	}
	if !status {
		b.readyAt = max(b.readyAt, b.lastFall()+s.Wait)
	}
}

// lastFall is when E fell for the last time.
func (b *Builder) lastFall() time.Duration {
	at := b.program.At[len(b.program.At)-1]
	if !b.coder.Expanded() {
		setup, high, _ := b.coder.Pulse()
		at += setup + high
	}
	return at
}

// pauseUntilReady makes the host wait where the words in the buffer would let E
// rise before the controllers are free. No pause fits into a transaction, so
// one that is open ends first; its STOP may already take long enough.
func (b *Builder) pauseUntilReady() {
	early := func() time.Duration { return b.readyAt - b.timeline.Now() - b.timeline.FirstRise(b.buffer) }
	if early() <= 0 {
		return
	}
	b.close()
	switch d := early(); {
	case d > 0 && len(b.program.Steps) == 0: // a step that is forgotten made them busy
		b.WaitFor(d, "")
	case d > 0:
		b.program.Steps[len(b.program.Steps)-1].Pause += d
		b.timeline.Wait(d)
	}
}

// Now is the time up to which the wire is in use or the host has waited.
func (b *Builder) Now() time.Duration { return b.timeline.Now() }

// Sent is how many steps there are so far.
func (b *Builder) Sent() int { return len(b.program.Steps) }

// Settle ends an open transaction, as a host does that has nothing more to send.
func (b *Builder) Settle() { b.close() }

// close ends an open transaction; its STOP counts as wire time of the step
// before it.
func (b *Builder) close() {
	if !b.timeline.End() {
		return
	}
	p := &b.program
	p.Words[len(p.Words)-1] |= link.Finish
	last := &p.Steps[len(p.Steps)-1]
	last.Wire = b.timeline.Now() - last.Start
}

// Do appends an operation with the wait it needs. kind and meaning describe it.
func (b *Builder) Do(kind StepKind, op hd44780.Operation, en link.Enable, meaning string) {
	b.do(Step{Kind: kind, Op: op, Enable: en, Meaning: meaning, Row: -1, Col: -1})
}

func (b *Builder) do(s Step) {
	if b.opts.Waits != PollBusy || b.opts.Hasty || s.Op.Kind() == hd44780.ReadStatus {
		s.Wait = b.execution(s.Op)
		b.add(s)
		return
	}
	b.add(s)
	free := b.lastFall() + hd44780.ExecutionTime(s.Op, b.module.Oscillator)
	first, last := s.Enable, s.Enable
	if s.Enable == link.Both { // one after the other: two must not drive the bus at once
		first, last = link.First, link.Second
	}
	pause := hd44780.ExecutionTime(s.Op, b.module.Oscillator) / pollsPerOperation
	for en := first; en <= last; en++ {
		for polled := false; !polled || b.sampled() < free; polled = true {
			if polled && !b.coder.Expanded() { // an expander's reads are far enough apart
				poll := &b.program.Steps[len(b.program.Steps)-1]
				poll.Wait, poll.Pause = pause, pause
				b.timeline.Wait(pause)
			}
			b.add(Step{Kind: Poll, Op: hd44780.Operation{RW: true}, Enable: en, Meaning: "Read the busy flag", Row: -1, Col: -1})
		}
	}
}

// pollsPerOperation is into how many parts of its execution time the reads of
// the busy flag divide an operation: so often a host looks, without flooding the
// wire during a clear.
const pollsPerOperation = 8

// sampled is when the last step's first pulse of E rose.
func (b *Builder) sampled() time.Duration {
	p := &b.program
	s := &p.Steps[len(p.Steps)-1]
	for i := s.First; i < s.First+s.Count; i++ {
		if b.coder.Raises(p.Words[i]) {
			if b.coder.Expanded() {
				return p.At[i]
			}
			setup, _, _ := b.coder.Pulse()
			return p.At[i] + setup
		}
	}
	return b.timeline.Now()
}

// wake appends an instruction of the initialisation that is sent while the busy
// flag cannot be read: it has a fixed wait.
func (b *Builder) wake(data byte, wait time.Duration, meaning string) {
	b.add(Step{Kind: Wake, Op: hd44780.Command(data), Half: b.coder.Width() == 4, Enable: b.all(), Meaning: meaning, Row: -1, Col: -1, Wait: wait})
}
