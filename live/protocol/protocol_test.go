package protocol

import (
	"bytes"
	"math/rand/v2"
	"reflect"
	"slices"
	"testing"
	"time"
)

// The check value of CRC-16/CCITT-FALSE (catalogue of CRC algorithms).
func TestCRC(t *testing.T) {
	if got := CRC([]byte("123456789")); got != 0x29B1 {
		t.Errorf("0x%04X; expected 0x29B1", got)
	}
}

// COBS by hand, from its definition (Cheshire, Baker, IEEE/ACM Transactions on Networking 7(2), 1999): each zero and the end are
// replaced by how far it is to them.
func TestCOBS(t *testing.T) {
	long := make([]byte, 255)
	for i := range long {
		long[i] = byte(i%255) + 1
	}
	for _, c := range []struct{ plain, stuffed []byte }{
		{[]byte{0}, []byte{1, 1}},
		{[]byte{0, 0}, []byte{1, 1, 1}},
		{[]byte{0x11, 0x22, 0, 0x33}, []byte{3, 0x11, 0x22, 2, 0x33}},
		{[]byte{0x11, 0, 0, 0}, []byte{2, 0x11, 1, 1, 1}},
		{long[:254], append([]byte{255}, long[:254]...)},
		{append([]byte{0}, long[:254]...), append([]byte{1, 255}, long[:254]...)},
		{long, append(append([]byte{255}, long[:254]...), 2, long[254])},
	} {
		if got := stuff(nil, c.plain); !bytes.Equal(got, c.stuffed) {
			t.Errorf("% X becomes % X; expected % X", c.plain, got, c.stuffed)
		}
		if got, err := unstuff(c.stuffed); err != nil || !bytes.Equal(got, c.plain) {
			t.Errorf("% X is read as % X (%v)", c.stuffed, got, err)
		}
	}
}

func randomBytes(rng *rand.Rand, most int) []byte {
	out := make([]byte, rng.IntN(most+1))
	for i := range out {
		if out[i] = byte(rng.IntN(256)); rng.IntN(3) == 0 {
			out[i] = 0
		}
	}
	return out
}

func randomRecord(rng *rand.Rand) Record {
	r := Record{Op: Op(1 + rng.IntN(12))}
	switch r.Op {
	case OpWait:
		r.Micros = uint16(rng.IntN(1 << 16))
	case OpPulse:
		r.Module, r.Word = byte(rng.IntN(8)), uint16(rng.IntN(1<<12))
	case OpLatch:
		r.Module, r.Word = byte(rng.IntN(8)), uint16(rng.IntN(256))
	case OpWrite:
		r.Address, r.Hold, r.Data = byte(rng.IntN(128)), rng.IntN(2) == 0, randomBytes(rng, MostData)
	case OpRead:
		r.Address, r.Count = byte(rng.IntN(128)), byte(1+rng.IntN(MostData))
	case OpLevel:
		r.Pin, r.PullUp = byte(rng.IntN(128)), rng.IntN(2) == 0
	case OpMeasure:
		r.Pin = byte(rng.IntN(256))
	case OpLetGo:
		r.Module = byte(rng.IntN(8))
	case OpTurns:
		r.Pin, r.PullUp, r.PinB, r.High = byte(rng.IntN(128)), rng.IntN(2) == 0, byte(rng.IntN(128)), rng.IntN(2) == 0
	case OpHeard:
		r.Line, r.Count = byte(rng.IntN(4)), byte(1+rng.IntN(MostData))
	}
	return r
}

func TestRecords(t *testing.T) {
	rng := rand.New(rand.NewPCG(25, 2))
	for range 2000 {
		var list []Record
		var body []byte
		for range rng.IntN(6) {
			r := randomRecord(rng)
			list, body = append(list, r), r.Append(body)
		}
		for i, rest := 0, body; len(rest) > 0; i++ {
			got, next, err := ParseRecord(rest)
			if len(got.Data) == 0 {
				got.Data = list[i].Data // nothing and none
			}
			if err != nil || !reflect.DeepEqual(got, list[i]) {
				t.Fatalf("%v is read as %v (%v)", &list[i], &got, err)
			}
			if n := list[i].Size(); n != len(rest)-len(next) {
				t.Fatalf("%v takes %d bytes, and says %d", &list[i], len(rest)-len(next), n)
			}
			for cut := range len(rest) - len(next) {
				if _, _, err := ParseRecord(rest[:cut]); err == nil {
					t.Fatalf("%v cut to %d bytes is taken", &list[i], cut)
				}
			}
			rest = next
		}
	}
}

func TestMessages(t *testing.T) {
	g := Greeting{Inputs, 1230 * time.Millisecond}
	if got, err := ParseGreeting(g.Append(nil)); err != nil || got != g {
		t.Errorf("%+v (%v)", got, err)
	}
	i := Identity{Version, CanBus | CanLevel, 2, 200, 64, 3, 0xBEEF, "ATmega328P"}
	if got, err := ParseIdentity(i.Append(nil)); err != nil || got != i {
		t.Errorf("%+v (%v)", got, err)
	}
	i.Version = 9
	if _, err := ParseIdentity(i.Append(nil)); err == nil {
		t.Error("version 9 is taken")
	}
	o := Outcome{NoAnswer, 7, []byte{1, 0, 2}}
	if got, err := ParseOutcome(o.Append(nil)); err != nil || !reflect.DeepEqual(got, o) {
		t.Errorf("%+v (%v)", got, err)
	}
}

// Whatever happens to bytes on the way, a frame that comes out is one that went in: a few lost, doubled or changed bytes never
// make another one, and after a zero byte the next is read again.
func TestNoise(t *testing.T) {
	rng := rand.New(rand.NewPCG(25, 3))
	garbled := 0
	for range 3000 {
		var sent []Frame
		var line []byte
		for range 1 + rng.IntN(4) {
			f := Frame{Kind: Run, Session: byte(rng.IntN(256)), Number: byte(rng.IntN(256)), Body: randomBytes(rng, MaxBody)}
			sent, line = append(sent, f), f.Append(line)
		}
		for range rng.IntN(4) {
			at := rng.IntN(len(line))
			switch rng.IntN(3) {
			case 0:
				line = slices.Delete(line, at, at+1)
			case 1:
				line = slices.Insert(line, at, line[at])
			case 2:
				line[at] ^= byte(1 + rng.IntN(255))
			}
		}
		last := Frame{Kind: Ping, Session: 1}
		line = last.Append(append(line, 0))
		var s Splitter
		var got []Piece
		for len(line) > 0 {
			n := 1 + rng.IntN(len(line))
			got, line = append(got, s.Feed(line[:n])...), line[n:]
		}
		for _, p := range got[:len(got)-1] {
			if p.Err != nil {
				garbled++
				continue
			}
			if !slices.ContainsFunc(sent, func(f Frame) bool {
				return f.Kind == p.Frame.Kind && f.Session == p.Frame.Session && f.Number == p.Frame.Number && bytes.Equal(f.Body, p.Frame.Body)
			}) {
				t.Fatalf("a frame came out that nobody sent: %+v", p.Frame)
			}
		}
		if end := got[len(got)-1]; end.Err != nil || end.Frame.Kind != Ping {
			t.Fatalf("the frame after a zero byte is lost: %+v", end)
		}
	}
	if garbled < 1000 {
		t.Errorf("only %d frames were garbled", garbled)
	}
}

func FuzzFrames(f *testing.F) {
	hello := Frame{Kind: Hello, Session: 7, Body: (&Greeting{}).Append(nil)}
	f.Add(hello.Append(nil))
	f.Add([]byte("OK\r\n"))
	f.Add(bytes.Repeat([]byte{255}, 600))
	f.Fuzz(func(t *testing.T, data []byte) {
		var s Splitter
		for _, p := range s.Feed(data) {
			if p.Err != nil {
				continue
			}
			if again, err := ParseFrame(bytes.TrimSuffix(p.Frame.Append(nil), []byte{0})); err != nil || !bytes.Equal(again.Body, p.Frame.Body) {
				t.Fatalf("%+v is not read again as it was: %v", p.Frame, err)
			}
			for body := p.Frame.Body; len(body) > 0; {
				_, rest, err := ParseRecord(body)
				if err != nil {
					break
				}
				if len(rest) >= len(body) {
					t.Fatal("a record takes nothing")
				}
				body = rest
			}
		}
		if len(s.Pending()) > mostStuffed {
			t.Fatalf("%d bytes are held", len(s.Pending()))
		}
	})
}
