// Package session is the computer's end of the protocol: it finds out whether a bridge is at a line, begins a session with
// it, sends records as fast as the bridge has room for them, and ends with the pins at rest.
package session

import (
	"bytes"
	"cmp"
	"context"
	"errors"
	"fmt"
	"io"
	"math/rand/v2"
	"strings"
	"sync"
	"sync/atomic"
	"time"
	"unicode"

	"slatebell/live/protocol"
)

// Options say how a session is begun.
type Options struct {
	Greeting protocol.Greeting
	// Patience is how long a board may take until it answers; 0 stands for usualPatience.
	Patience time.Duration
	// AnswerIn is how long the answer to a frame may take beyond what its records take; 0 stands for usualAnswer.
	AnswerIn time.Duration
}

const (
	// usualPatience is enough for a board that its loader holds back after a reset (common practice: 1–2 s).
	usualPatience = 6 * time.Second
	// usualAnswer is enough for a computer that is busy otherwise, and half of what a bridge waits for the next word.
	usualAnswer = 1500 * time.Millisecond
	// askEach is how often a line is asked, at most, whether a bridge is there.
	askEach = 250 * time.Millisecond
	// hearOut is how long who talks otherwise than a bridge is heard out.
	hearOut = 700 * time.Millisecond
	// forgiven is how many garbled frames may come before a bridge is understood.
	forgiven = 3
	// restarts is in what the loader of an ESP32 says at each start, before any program (from memory).
	restarts = "rst:0x"
)

// ErrNobody says that nothing at the line answers.
var ErrNobody = errors.New("nothing answers: is the bridge on the board, and is this its port?")

// ForeignError is a line at which something else talks.
type ForeignError struct{ Said []byte }

func (e *ForeignError) Error() string {
	text := strings.Map(func(r rune) rune {
		if unicode.IsPrint(r) {
			return r
		}
		return '·'
	}, string(e.Said[:min(len(e.Said), 40)]))
	return fmt.Sprintf("something else talks at this port (it says %q); it is left alone", text)
}

// RecordError is a record that a bridge could not carry out. Those behind it were not carried out.
type RecordError struct {
	Record int // of those given to Do, counted from 0
	Status protocol.Status
}

func (e *RecordError) Error() string { return fmt.Sprintf("record %d: %s", e.Record+1, e.Status) }

// BrokenError is a session that must be begun anew: what the modules hold is not known any more.
type BrokenError struct{ Err error }

func (e *BrokenError) Error() string { return e.Err.Error() }
func (e *BrokenError) Unwrap() error { return e.Err }

func broken(text string) error { return &BrokenError{errors.New(text)} }

// Session is a session with a bridge. Its methods are for one goroutine; Close may be called by another.
type Session struct {
	Bridge  protocol.Identity
	options Options
	line    io.ReadWriteCloser
	pieces  chan protocol.Piece // closed where the line ends
	lost    error               // why it ended
	number  byte
	id      byte
	known   bool // it is a bridge that is at the line
	sent    Counts
	once    sync.Once
	greeted atomic.Bool
	begun   int
}

// Counts is what has gone over the line.
type Counts struct{ Frames, Records, Bytes int }

// Begin begins a session over a line, which it owns from then on: it is closed where that fails. Its error is ErrNobody or
// a *ForeignError where there is no bridge.
func Begin(ctx context.Context, line io.ReadWriteCloser, o Options) (*Session, error) {
	o.Patience, o.AnswerIn = cmp.Or(o.Patience, usualPatience), cmp.Or(o.AnswerIn, usualAnswer)
	s := &Session{line: line, pieces: make(chan protocol.Piece, 64), options: o}
	go s.listen()
	if err := s.Again(ctx); err != nil {
		s.Close()
		return nil, err
	}
	return s, nil
}

// Again begins a new session over the same line, after one that is at its end.
func (s *Session) Again(ctx context.Context) error {
	s.greeted.Store(false)
	if err := s.greet(ctx, s.options); err != nil {
		return err
	}
	s.greeted.Store(true)
	s.number = 0
	s.begun++
	return nil
}

// errPending marks a piece that is not over yet; it is told while a bridge is looked for.
var errPending = errors.New("not over yet")

// listen takes what comes to pieces until the line ends.
func (s *Session) listen() {
	defer close(s.pieces)
	var split protocol.Splitter
	in := make([]byte, 512)
	for {
		n, err := s.line.Read(in)
		for _, p := range split.Feed(in[:n]) {
			s.pieces <- p
		}
		if begun := split.Pending(); len(begun) > 0 && !s.greeted.Load() {
			s.pieces <- protocol.Piece{Err: errPending, Raw: bytes.Clone(begun)}
		}
		if err != nil {
			s.lost = err
			return
		}
	}
}

// greet asks until the bridge answers.
func (s *Session) greet(ctx context.Context, o Options) error {
	s.id = byte(1 + rand.IntN(255))
	hello := protocol.Frame{Kind: protocol.Hello, Session: s.id, Body: o.Greeting.Append(nil)}
	end, again := time.NewTimer(o.Patience), time.NewTimer(0)
	defer end.Stop()
	defer again.Stop()
	var foreign, begun []byte // what came and is no frame; what has come of the next one
	var tell <-chan time.Time
	garbled := 0
	asked := 2 // a port that was just opened is left alone after the first question
	if s.known {
		asked = 0
	}
	for {
		select {
		case <-ctx.Done():
			return ctx.Err()
		case <-end.C:
			if len(foreign)+len(begun) > 0 {
				return &ForeignError{append(foreign, begun...)}
			}
			return ErrNobody
		case <-tell:
			said := append(foreign, begun...)
			if len(said) > 0 && !s.known && !bytes.Contains(said, []byte(restarts)) {
				return &ForeignError{said}
			}
			foreign, begun, tell = nil, nil, nil
		case <-again.C:
			again.Reset(gap(asked, o.AnswerIn))
			asked++
			if len(foreign)+len(begun) > 0 {
				continue // who talks like that is not asked
			}
			if _, err := s.line.Write(hello.Append([]byte{0})); err != nil {
				return fmt.Errorf("writing to the port: %w", err)
			}
		case p, more := <-s.pieces:
			if !more {
				return fmt.Errorf("the port was closed: %w", s.lost)
			}
			begun = nil
			switch {
			case p.Err == errPending:
				begun = p.Raw
			case p.Err != nil: // a bridge's own frame may be garbled on the way; its zero byte says so much
				if garbled++; garbled > forgiven && !s.known {
					foreign = append(foreign, p.Raw...)
				}
			}
			if p.Err != nil {
				if tell == nil && len(foreign)+len(begun) > 0 {
					tell = time.After(hearOut)
				}
				continue
			}
			foreign, tell = nil, nil // what came before a frame was a loader, or the end of an old one
			switch i, err := protocol.ParseIdentity(p.Frame.Body); {
			case p.Frame.Kind == protocol.Hello:
				return &ForeignError{[]byte("what it is sent, over again")}
			case p.Frame.Kind != protocol.Here:
			case err != nil:
				return err
			case p.Frame.Session != s.id: // it has just been switched on
				again.Reset(0)
			default:
				s.Bridge, s.known = i, true
				return nil
			}
		}
	}
}

// gap is how long a bridge is left alone after some questions: three come soon after each other, and then none for a while. Loaders of
// boards that were reset stay while they are spoken to; the bridge announces itself behind them.
func gap(asked int, answerIn time.Duration) time.Duration {
	each := min(askEach, answerIn/2)
	if asked%3 == 2 {
		return 10 * each
	}
	return each
}

// Begun is how often it was begun: what a bridge counts begins anew each time.
func (s *Session) Begun() int { return s.begun }

// Counts returns what was sent so far.
func (s *Session) Counts() Counts { return s.sent }

// flight is a frame whose answer has not come.
type flight struct {
	number  byte
	first   int // its first record, of those given to Do
	records int
	due     time.Time
}

// Reads says of a pulse whether it reads.
type Reads func(*protocol.Record) bool

// Do sends records in their order and returns the bytes that they read, all in a row; reads may be nil where no pulse
// reads. It does not return before all are carried out. Its error is a *RecordError where the bridge could not carry one
// out, and a *BrokenError where the session is at its end: after either nothing more is carried out, and a new session
// must be begun.
func (s *Session) Do(ctx context.Context, records []protocol.Record, reads Reads) (results []byte, err error) {
	var air []flight
	for next := 0; next < len(records) || len(air) > 0; {
		for next < len(records) && len(air) < int(s.Bridge.Credits) {
			f, err := s.launch(records[next:], reads)
			if err != nil {
				return results, err
			}
			if n := len(air); n > 0 && f.due.Before(air[n-1].due) {
				f.due = air[n-1].due
			}
			f.first = next
			next += f.records
			air = append(air, f)
		}
		o, err := s.outcome(ctx, &air[0])
		results = append(results, o.Results...)
		if err != nil {
			return results, err
		}
		air = air[1:]
		for i := range air { // it begins only now
			air[i].due = air[i].due.Add(s.options.AnswerIn)
		}
	}
	return results, nil
}

// launch sends a frame with as many records as it takes.
func (s *Session) launch(records []protocol.Record, reads Reads) (f flight, err error) {
	var body []byte
	takes, results := s.options.AnswerIn, 0
	whole := 0 // records up to the last place where a frame may end
	for i := range records {
		r := &records[i]
		if !r.Joins {
			whole = i
		}
		size, gives := r.Size(), r.Results(reads != nil && reads(r))
		if len(body)+size > int(s.Bridge.Body) || results+gives > int(s.Bridge.Results) {
			if whole == 0 {
				return f, fmt.Errorf("a record of %d bytes with %d of results; the bridge takes %d and %d", size, gives, s.Bridge.Body, s.Bridge.Results)
			}
			break
		}
		body = r.Append(body)
		results += gives
		takes += lasts(r)
		f.records++
	}
	if f.records < len(records) {
		f.records, body = whole, nil
		for i := range whole {
			body = records[i].Append(body)
		}
	}
	s.number++
	f.number = s.number
	frame := protocol.Frame{Kind: protocol.Run, Session: s.id, Number: s.number, Body: body}
	line := frame.Append(nil)
	if _, err := s.line.Write(line); err != nil {
		return f, &BrokenError{fmt.Errorf("writing to the port: %w", err)}
	}
	f.due = time.Now().Add(takes)
	s.sent.Frames++
	s.sent.Records += f.records
	s.sent.Bytes += len(line)
	return f, nil
}

// lasts is how long a record takes at most, its bytes on the serial line included.
func lasts(r *protocol.Record) time.Duration {
	d := 2*time.Millisecond + time.Duration(r.Micros)*time.Microsecond
	if r.Op == protocol.OpScan {
		d += time.Second
	}
	return d + time.Duration(len(r.Data)+int(r.Count))*500*time.Microsecond
}

// outcome waits for what became of a frame.
func (s *Session) outcome(ctx context.Context, f *flight) (o protocol.Outcome, err error) {
	for {
		answer, err := s.answer(ctx, f.due)
		if err != nil {
			return o, err
		}
		if answer.Kind != protocol.Done || answer.Number != f.number {
			continue
		}
		switch o, err := protocol.ParseOutcome(answer.Body); {
		case err != nil:
			return o, &BrokenError{err}
		case o.Status != protocol.OK:
			return o, &RecordError{f.first + int(o.Record), o.Status}
		case int(o.Record) != f.records:
			return o, &BrokenError{fmt.Errorf("%d records of %d were carried out", o.Record, f.records)}
		default:
			return o, nil
		}
	}
}

// answer waits for a frame of this session. Its error is a *BrokenError, or the context's.
func (s *Session) answer(ctx context.Context, due time.Time) (f protocol.Frame, err error) {
	wait := time.NewTimer(time.Until(due))
	defer wait.Stop()
	for {
		select {
		case <-ctx.Done():
			return f, ctx.Err()
		case <-wait.C:
			return f, broken("the bridge does not answer any more")
		case p, more := <-s.pieces:
			switch f := p.Frame; {
			case !more:
				return f, &BrokenError{fmt.Errorf("the port is gone: %w", s.lost)}
			case p.Err == errPending:
			case p.Err != nil:
				return f, &BrokenError{fmt.Errorf("what came back was garbled: %w", p.Err)}
			case f.Kind == protocol.Here && f.Session == 0:
				return f, broken("the board was reset")
			case f.Session != s.id && f.Kind != protocol.Wrong: // of a session before
			case f.Kind == protocol.Wrong && len(f.Body) == 1:
				return f, broken(protocol.Refusal(f.Body[0]).String())
			default:
				return f, nil
			}
		}
	}
}

// Ping lets the bridge know that the computer is still there, and takes note of a reset.
func (s *Session) Ping(ctx context.Context) error { return s.ask(ctx, protocol.Ping, protocol.Pong) }

// Rest lets the pins rest, and ends the session.
func (s *Session) Rest(ctx context.Context) error {
	defer s.Close()
	return s.ask(ctx, protocol.Rest, protocol.Ended)
}

// ask sends a frame that has one answer.
func (s *Session) ask(ctx context.Context, kind, answer protocol.Kind) error {
	f := protocol.Frame{Kind: kind, Session: s.id, Number: s.number}
	if _, err := s.line.Write(f.Append(nil)); err != nil {
		return &BrokenError{fmt.Errorf("writing to the port: %w", err)}
	}
	for due := time.Now().Add(s.options.AnswerIn); ; {
		got, err := s.answer(ctx, due)
		if err != nil || got.Kind == answer {
			return err
		}
	}
}

// Close closes the line.
func (s *Session) Close() (err error) {
	s.once.Do(func() { err = s.line.Close() })
	return err
}
