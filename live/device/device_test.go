package device

import (
	"bytes"
	"testing"
	"time"

	"slatebell/live/protocol"
)

// counter is a host of one expander at 0x27, which counts what is carried out.
type counter struct {
	writes, rests int
	begun         int
	how           protocol.AtRest
}

func (c *counter) Begin()        { c.begun++ }
func (c *counter) Clock() uint16 { return 0xABCD }
func (c *counter) Turns(pin, pinB byte, pullUp, high bool) (byte, protocol.Status) {
	if pin != 2 || pinB != 3 || !pullUp || high {
		return 0, protocol.NotOurs
	}
	return 254, protocol.OK
}
func (c *counter) Heard(line byte, most int) ([]byte, protocol.Status) {
	return []byte("Ebb")[:min(most, 3)], protocol.OK
}

func (c *counter) Wait(uint16) {}
func (c *counter) Pulse(byte, uint16) (byte, bool, protocol.Status) {
	return 0, false, protocol.NotOurs
}
func (c *counter) Latch(byte, byte) protocol.Status { return protocol.NotOurs }
func (c *counter) LetGo(byte) protocol.Status       { return protocol.NotOurs }
func (c *counter) Read(_ byte, into []byte) protocol.Status {
	for i := range into {
		into[i] = 0x5A
	}
	return protocol.OK
}
func (c *counter) Level(byte, bool) (bool, protocol.Status) { return true, protocol.OK }
func (c *counter) Measure(byte) (uint16, protocol.Status)   { return 675, protocol.OK }
func (c *counter) Rest(how protocol.AtRest)                 { c.rests, c.how = c.rests+1, how }
func (c *counter) Write(address byte, _ []byte, _ bool) protocol.Status {
	if address != 0x27 {
		return protocol.NoAnswer
	}
	c.writes++
	return protocol.OK
}

func ask(t *testing.T, b *Bridge, f protocol.Frame) protocol.Frame {
	t.Helper()
	said := b.Handle(protocol.Piece{Frame: f})
	got, err := protocol.ParseFrame(bytes.TrimSuffix(said, []byte{0}))
	if err != nil {
		t.Fatalf("% X: %v", said, err)
	}
	return got
}

// What a bridge carries out, what it refuses, and what it says again, as docs/live.md has it.
func TestRules(t *testing.T) {
	host := &counter{}
	b := New(protocol.Identity{Version: protocol.Version, Credits: 2, Body: 40, Results: 20, Part: "ATmega328P"}, host)
	run := func(session, number byte, records ...protocol.Record) protocol.Frame {
		var body []byte
		for i := range records {
			body = records[i].Append(body)
		}
		return protocol.Frame{Kind: protocol.Run, Session: session, Number: number, Body: body}
	}
	write := protocol.Record{Op: protocol.OpWrite, Address: 0x27, Data: []byte{1}}
	wrong := func(f protocol.Frame, why protocol.Refusal) {
		t.Helper()
		before := host.writes
		if got := ask(t, b, f); got.Kind != protocol.Wrong || protocol.Refusal(got.Body[0]) != why || host.writes != before {
			t.Errorf("%+v answers %+v after %d writes; expected %v", f, got, host.writes-before, why)
		}
	}
	done := func(f protocol.Frame, status protocol.Status, record byte, results ...byte) {
		t.Helper()
		o, err := protocol.ParseOutcome(ask(t, b, f).Body)
		if err != nil || o.Status != status || o.Record != record || !bytes.Equal(o.Results, results) {
			t.Errorf("%+v: %+v (%v); expected %v at record %d with % X", f, o, err, status, record, results)
		}
	}
	wrong(run(7, 1, write), protocol.NoSession)
	greeting := protocol.Greeting{AtRest: protocol.Inputs, Silence: time.Second}
	if got := ask(t, b, protocol.Frame{Kind: protocol.Hello, Session: 7, Body: greeting.Append(nil)}); got.Kind != protocol.Here || got.Session != 7 || b.Silence() != time.Second {
		t.Fatalf("%+v", got)
	}
	done(run(7, 1, write, write), protocol.OK, 2)
	done(run(7, 1, write, write), protocol.OK, 2) // twice on the way, once carried out
	if host.writes != 2 {
		t.Errorf("%d writes", host.writes)
	}
	wrong(run(7, 3, write), protocol.OutOfTurn)
	wrong(run(8, 2, write), protocol.NoSession)
	done(run(7, 2, protocol.Record{Op: protocol.OpRead, Address: 0x27, Count: 2}, protocol.Record{Op: protocol.OpMeasure}, protocol.Record{Op: protocol.OpLevel}), protocol.OK, 3, 0x5A, 0x5A, 675>>8, 675&0xFF, 1)
	done(run(7, 3, protocol.Record{Op: protocol.OpClock}, protocol.Record{Op: protocol.OpTurns, Pin: 2, PinB: 3, PullUp: true}, protocol.Record{Op: protocol.OpHeard, Line: 1, Count: 4}), protocol.OK, 3, 0xAB, 0xCD, 254, 3, 'E', 'b', 'b', 0)
	scan := make([]byte, 16)
	scan[4] = 1 << 7
	done(run(7, 4, protocol.Record{Op: protocol.OpScan}), protocol.OK, 1, scan...)
	done(run(7, 5, write, protocol.Record{Op: protocol.OpWrite, Address: 0x3F, Data: []byte{1}}, write), protocol.NoAnswer, 1)
	wrong(run(7, 6, write), protocol.Failed)
	if got := b.Handle(protocol.Piece{Frame: protocol.Frame{Kind: protocol.Done, Session: 7}}); got != nil {
		t.Errorf("an echo is answered: % X", got)
	}
	ask(t, b, protocol.Frame{Kind: protocol.Hello, Session: 9, Body: greeting.Append(nil)})
	wrong(protocol.Frame{Kind: protocol.Run, Session: 9, Number: 1, Body: make([]byte, 41)}, protocol.TooMuch)
	done(protocol.Frame{Kind: protocol.Run, Session: 9, Number: 1, Body: []byte{0x77}}, protocol.Unknown, 0)
	if got := ask(t, b, protocol.Frame{Kind: protocol.Rest, Session: 9}); got.Kind != protocol.Ended || host.rests != 1 || host.begun != 2 || host.how != protocol.Inputs {
		t.Errorf("%+v after %d rests", got, host.rests)
	}
	wrong(run(9, 2, write), protocol.NoSession)
	ask(t, b, protocol.Frame{Kind: protocol.Hello, Session: 3, Body: greeting.Append(nil)})
	if b.Quiet(); host.rests != 2 || b.Silence() != 0 {
		t.Error("silence does not end the session")
	}
}

// An encoder that is turned by notches with edges that bounce counts each notch once, up one way and down the other; half a
// notch and back is none.
func TestEncoder(t *testing.T) {
	quarters := [4][2]bool{{false, false}, {true, false}, {true, true}, {false, true}} // closed: A before B
	for _, high := range []bool{false, true} {
		e := &Encoder{High: high}
		look := func(closed [2]bool) { e.Look(closed[0] == high, closed[1] == high) }
		turn := func(by int) {
			for i := range 4 {
				at, from := quarters[((i+1)*by+8)%4], quarters[(i*by+8)%4]
				look(at)
				look(from)
				look(at)
			}
		}
		look(quarters[0])
		for range 300 {
			turn(1)
		}
		if e.Notches != 300-256 {
			t.Errorf("after 300 notches it counts %d", e.Notches)
		}
		for range 303 {
			turn(-1)
		}
		look(quarters[1])
		look(quarters[0])
		if e.Notches != 253 {
			t.Errorf("after 303 back it counts %d; expected 253", e.Notches)
		}
	}
}
