package link

import (
	"testing"
	"time"

	"periph.io/x/conn/v3/physic"

	"slatebell/core/hd44780"
)

// receive latches what words put on the pins, as a controller of four data
// lines would: at each fall of E the nibble and RS before it.
func receive(c *Coder, words []Word) (nibbles []byte, rs []bool, lit bool) {
	before := c.Levels(words[0])
	for _, w := range words[1:] {
		now := c.Levels(w)
		if before&hd44780.E != 0 && now&hd44780.E == 0 {
			nibbles = append(nibbles, byte(before>>4)&15)
			rs = append(rs, before&hd44780.RS != 0)
		}
		before = now
	}
	return nibbles, rs, before&Backlight != 0
}

// TestEveryMapping sends a byte over each of the 40,320 wirings of eight lines
// to eight outputs, with either polarity of the backlight.
func TestEveryMapping(t *testing.T) {
	outputs := [8]int8{0, 1, 2, 3, 4, 5, 6, 7}
	count := 0
	var permute func(k int)
	permute = func(k int) {
		if k < 8 {
			for i := k; i < 8; i++ {
				outputs[k], outputs[i] = outputs[i], outputs[k]
				permute(k + 1)
				outputs[k], outputs[i] = outputs[i], outputs[k]
			}
			return
		}
		count++
		o := outputs
		l := New(Backpack)
		l.Mapping = Mapping{RS: o[0], RW: o[1], E: o[2], E2: Open, Backlight: o[3], D4: o[4], D5: o[5], D6: o[6], D7: o[7], BacklightLow: count%2 == 0}
		l.Backlight = count%3 != 0
		if back, err := ParseMapping(l.Mapping.String()); err != nil || back != l.Mapping {
			t.Fatalf("%s reads back as %+v, %v", l.Mapping, back, err)
		}
		c, err := NewCoder(l)
		if err != nil {
			t.Fatal(err)
		}
		b := byte(count)
		nibbles, rs, lit := receive(c, c.Append(c.Park(nil), hd44780.Data(b), First, false))
		if len(nibbles) != 2 || nibbles[0]<<4|nibbles[1] != b || !rs[0] || !rs[1] || lit != l.Backlight {
			t.Fatalf("%s: %02X arrives as %X, RS %v, lit %v", l.Mapping, b, nibbles, rs, lit)
		}
	}
	permute(0)
	if count != 40320 {
		t.Errorf("%d permutations", count)
	}
}

func TestAddresses(t *testing.T) {
	// PCF8574 and PCF8574A data sheets: 0100 A2 A1 A0 and 0111 A2 A1 A0.
	for a := range uint8(128) {
		part, ok := ValidAddress(a)
		want := map[uint8]string{0b0100: "PCF8574", 0b0111: "PCF8574A"}[a>>3]
		if part != want || ok != (want != "") {
			t.Errorf("address %02X: %q", a, part)
		}
	}
}

// TestTransactionTime checks UM10204's frame: START, nine clocks a byte, STOP
// and the bus free time, at both speeds.
func TestTransactionTime(t *testing.T) {
	l := New(Backpack)
	const µs = time.Microsecond
	if got, want := l.TransactionTime(4), 4*µs+5*90*µs+4700*time.Nanosecond+4*µs+4700*time.Nanosecond; got != want {
		t.Errorf("four bytes at 100 kHz take %s, want %s", got, want)
	}
	l.Speed = 400 * physic.KiloHertz
	if got, want := l.TransactionTime(4), 600+5*22500+1300+600+1300*time.Nanosecond; got != want {
		t.Errorf("four bytes at 400 kHz take %s, want %s", got, want)
	}
}
