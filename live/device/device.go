// Package device is the bridge's end of the protocol: frames come in, records are carried out by the hands of a host, and
// answers go back. The stand-in and the computer's own pins are bridges made of it; the programs for microcontrollers do
// the same, and are held against it.
package device

import (
	"fmt"
	"io"
	"sync"
	"time"

	"slatebell/live/protocol"
)

// Hands is a host that carries records out. Modules count from 0 as the bridge's Identity has them.
type Hands interface {
	// Wait passes at least so many microseconds.
	Wait(micros uint16)
	// Pulse puts a word, laid out as link.Word is, on a module's lines with a pulse of E. Where its R/W is high it lets go
	// of the data lines first, and returns what stands on them, D7 in bit 7.
	Pulse(module byte, word uint16) (read byte, reads bool, s protocol.Status)
	// Latch puts a byte through a module's shift register.
	Latch(module byte, b byte) protocol.Status
	// LetGo makes all lines of a module inputs.
	LetGo(module byte) protocol.Status
	// Write is START, address, bytes, and STOP unless it is held.
	Write(address byte, data []byte, hold bool) protocol.Status
	// Read is START, address, as many bytes as there is room for, STOP.
	Read(address byte, into []byte) protocol.Status
	// Level is that of a pin, which becomes an input.
	Level(pin byte, pullUp bool) (high bool, s protocol.Status)
	// Measure is the voltage of a pin in steps of its converter.
	Measure(pin byte) (steps uint16, s protocol.Status)
	// Clock is the host's own, in steps of protocol.ClockStep, counted round.
	Clock() uint16
	// Turns is how many notches an encoder on two pins, which become inputs, was turned since Begin; it is looked at from then on.
	Turns(pin, pinB byte, pullUp, high bool) (notches byte, s protocol.Status)
	// Heard are characters that have come over a serial line of the host, at most so many.
	Heard(line byte, most int) (characters []byte, s protocol.Status)
	// Begin forgets what was asked for in an earlier session.
	Begin()
	// Rest lets the pins of all modules rest.
	Rest(how protocol.AtRest)
}

// Bridge answers frames. Make it with New.
type Bridge struct {
	identity protocol.Identity
	hands    Hands
	session  byte
	number   byte   // of the Run taken last
	answer   []byte // to it, said again where it comes again
	failed   bool
	greeting protocol.Greeting
}

// New returns a bridge that nobody has spoken to.
func New(i protocol.Identity, h Hands) *Bridge { return &Bridge{identity: i, hands: h} }

// Announce is what a bridge says by itself after a reset.
func (b *Bridge) Announce() []byte { return b.here(0) }

// Silence is after how much time without a frame the pins go to rest; 0 where they do not.
func (b *Bridge) Silence() time.Duration {
	if b.session == 0 {
		return 0
	}
	return b.greeting.Silence
}

// Quiet ends the session: nobody has spoken for as long as Silence.
func (b *Bridge) Quiet() {
	if b.session != 0 {
		b.session = 0
		b.hands.Rest(b.greeting.AtRest)
	}
}

// Handle carries out what a piece asks for, and returns the answer as it goes over the line.
func (b *Bridge) Handle(p protocol.Piece) []byte {
	f := &p.Frame
	if p.Err != nil {
		return b.wrong(f, protocol.Garbled)
	}
	if f.Kind == protocol.Hello {
		g, err := protocol.ParseGreeting(f.Body)
		if err != nil || f.Session == 0 {
			return b.wrong(f, protocol.Garbled)
		}
		b.greeting, b.session, b.number, b.failed, b.answer = g, f.Session, 0, false, nil
		b.hands.Begin()
		return b.here(f.Session)
	}
	if f.Kind >= protocol.Here {
		return nil // an echo, or another bridge
	}
	if f.Session != b.session || b.session == 0 {
		return b.wrong(f, protocol.NoSession)
	}
	switch f.Kind {
	case protocol.Ping:
		return b.say(protocol.Pong, f.Number, nil)
	case protocol.Rest:
		b.hands.Rest(b.greeting.AtRest)
		said := b.say(protocol.Ended, f.Number, nil)
		b.session = 0
		return said
	case protocol.Run:
		return b.run(f)
	}
	return b.wrong(f, protocol.Garbled)
}

// run carries a frame of records out, or says again what became of it.
func (b *Bridge) run(f *protocol.Frame) []byte {
	switch {
	case b.answer != nil && f.Number == b.number:
		return b.answer
	case f.Number != b.number+1:
		return b.wrong(f, protocol.OutOfTurn)
	case b.failed:
		return b.wrong(f, protocol.Failed)
	case len(f.Body) > int(b.identity.Body):
		return b.wrong(f, protocol.TooMuch)
	}
	o := b.carryOut(f.Body)
	b.number, b.failed = f.Number, o.Status != protocol.OK
	b.answer = b.say(protocol.Done, f.Number, o.Append(nil))
	return b.answer
}

// carryOut carries records out until one fails.
func (b *Bridge) carryOut(body []byte) (o protocol.Outcome) {
	for len(body) > 0 {
		r, rest, err := protocol.ParseRecord(body)
		if err != nil {
			o.Status = err.(*protocol.StatusError).Status
			return o
		}
		got, s := b.record(&r)
		if s == protocol.OK && len(o.Results)+len(got) > int(b.identity.Results) {
			s = protocol.Room
		}
		if s != protocol.OK {
			o.Status = s
			return o
		}
		o.Results = append(o.Results, got...)
		o.Record++
		body = rest
	}
	return o
}

func (b *Bridge) record(r *protocol.Record) (got []byte, s protocol.Status) {
	switch r.Op {
	case protocol.OpWait:
		b.hands.Wait(r.Micros)
	case protocol.OpPulse:
		read, reads, s := b.hands.Pulse(r.Module, r.Word)
		if reads {
			got = []byte{read}
		}
		return got, s
	case protocol.OpLatch:
		return nil, b.hands.Latch(r.Module, byte(r.Word))
	case protocol.OpLetGo:
		return nil, b.hands.LetGo(r.Module)
	case protocol.OpWrite:
		return nil, b.hands.Write(r.Address, r.Data, r.Hold)
	case protocol.OpRead:
		got = make([]byte, r.Count)
		return got, b.hands.Read(r.Address, got)
	case protocol.OpScan:
		return b.scan()
	case protocol.OpLevel:
		high, s := b.hands.Level(r.Pin, r.PullUp)
		if high {
			return []byte{1}, s
		}
		return []byte{0}, s
	case protocol.OpMeasure:
		steps, s := b.hands.Measure(r.Pin)
		return []byte{byte(steps >> 8), byte(steps)}, s
	case protocol.OpClock:
		now := b.hands.Clock()
		return []byte{byte(now >> 8), byte(now)}, protocol.OK
	case protocol.OpTurns:
		notches, s := b.hands.Turns(r.Pin, r.PinB, r.PullUp, r.High)
		return []byte{notches}, s
	case protocol.OpHeard:
		said, s := b.hands.Heard(r.Line, int(r.Count))
		return append([]byte{byte(len(said))}, append(said, make([]byte, int(r.Count)-len(said))...)...), s
	}
	return got, protocol.OK
}

// scan asks every address that is not reserved (UM10204 §3.1.12, from memory).
func (b *Bridge) scan() (found []byte, s protocol.Status) {
	found = make([]byte, 16)
	for a := byte(0x08); a < 0x78; a++ {
		switch s := b.hands.Write(a, nil, false); s {
		case protocol.OK:
			found[a/8] |= 1 << (a % 8)
		case protocol.NoAnswer:
		default:
			return nil, s
		}
	}
	return found, protocol.OK
}

func (b *Bridge) here(session byte) []byte {
	f := protocol.Frame{Kind: protocol.Here, Session: session, Body: b.identity.Append(nil)}
	return f.Append(nil)
}

func (b *Bridge) say(k protocol.Kind, number byte, body []byte) []byte {
	f := protocol.Frame{Kind: k, Session: b.session, Number: number, Body: body}
	return f.Append(nil)
}

func (b *Bridge) wrong(f *protocol.Frame, r protocol.Refusal) []byte {
	out := protocol.Frame{Kind: protocol.Wrong, Session: f.Session, Number: f.Number, Body: []byte{byte(r)}}
	return out.Append(nil)
}

// Serve speaks over a line until it ends, as a host does that has just been switched on: it announces itself first. When the
// line ends, or is silent for as long as the computer said, pins go to rest.
func (b *Bridge) Serve(line io.ReadWriter) error {
	var mu sync.Mutex // frames and silence
	quiet := time.AfterFunc(time.Hour, func() {
		mu.Lock()
		defer mu.Unlock()
		b.Quiet()
	})
	defer quiet.Stop()
	if _, err := line.Write(b.Announce()); err != nil {
		return fmt.Errorf("announcing: %w", err)
	}
	var split protocol.Splitter
	in := make([]byte, 512)
	for {
		n, err := line.Read(in)
		for _, p := range split.Feed(in[:n]) {
			mu.Lock()
			said := b.Handle(p)
			if s := b.Silence(); s > 0 {
				quiet.Reset(s)
			} else {
				quiet.Stop()
			}
			mu.Unlock()
			if _, err := line.Write(said); err != nil {
				return fmt.Errorf("answering: %w", err)
			}
		}
		if err != nil {
			mu.Lock()
			b.Quiet()
			mu.Unlock()
			if err == io.EOF {
				return nil
			}
			return err
		}
	}
}
