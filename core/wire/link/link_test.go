package link

import (
	"math/rand/v2"
	"strings"
	"testing"
	"time"

	"periph.io/x/conn/v3/physic"

	"slatebell/core/part/hd44780"
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

// TestBehind checks wirings against truth tables of their own: lines exchanged,
// open, joined to a rail and to each other.
func TestBehind(t *testing.T) {
	four, eight := New(Parallel4), New(Parallel8)
	open := func(pin string) Joined {
		w := Straight(&eight)
		delete(w.Pins, pin)
		return w
	}
	set := func(pin, from string) Joined {
		w := Straight(&eight)
		w.Pins[pin] = from
		return w
	}
	for name, c := range map[string]struct {
		wiring Joined
		want   func(p Pins) Pins
	}{
		"straight":      {Straight(&eight), func(p Pins) Pins { return p }},
		"four":          {Straight(&four), func(p Pins) Pins { return p | 0x0F }},
		"D4 and D5":     {Straight(&eight).Swapped("D4", "D5"), func(p Pins) Pins { return p&^0x30 | p&0x10<<1 | p&0x20>>1 }},
		"E and RS":      {Straight(&eight).Swapped("E", "RS"), func(p Pins) Pins { return p&^0x500 | p&0x100<<2 | p&0x400>>2 }},
		"open R/W":      {open("RW"), func(p Pins) Pins { return p | hd44780.RW }},
		"open D7":       {open("D7"), func(p Pins) Pins { return p | 0x80 }},
		"open E":        {open("E"), func(p Pins) Pins { return p &^ hd44780.E }},
		"dark":          {open("BL"), func(p Pins) Pins { return p &^ Backlight }},
		"grounded":      {set("D3", "low"), func(p Pins) Pins { return p &^ 8 }},
		"shorted":       {set("D3", "D3+low"), func(p Pins) Pins { return p &^ 8 }},
		"fed":           {set("E", "high"), func(p Pins) Pins { return p | hd44780.E }},
		"pulled":        {set("E", "pulled"), func(p Pins) Pins { return p | hd44780.E }},
		"two lines":     {set("D0", "D0+E2"), func(p Pins) Pins { return p&^1 | p&1&(p>>11) }},
		"from afar":     {set("D0", "BL"), func(p Pins) Pins { return p&^1 | p>>12&1 }},
		"fed by a line": {set("D1", "D1+high"), func(p Pins) Pins { return p }},
	} {
		header, err := c.wiring.Compile()
		if err != nil {
			t.Fatal(err)
		}
		h := Hardware{Header: header}
		for p := range Pins(1 << 13) {
			if got, want := h.Behind(p), c.want(p); got != want {
				t.Fatalf("%s: %013b comes as %013b, want %013b", name, p, got, want)
			}
		}
	}
	for _, bad := range []Joined{{Pins: map[string]string{"VO": "low"}}, {Pins: map[string]string{"E": "up"}}, {Register: map[string]string{"QA": "data"}}} {
		if _, err := bad.Compile(); err == nil {
			t.Errorf("%v compiles", bad)
		}
	}
	sound := Hardware{}
	if p := Pins(0x1234); sound.Behind(p) != p || sound.Back(0x5A) != 0x5A {
		t.Error("sound hardware changes levels")
	}
	lost := Hardware{Lost: 3}
	if lost.Arrives(2) || !lost.Arrives(1) || !lost.Arrives(3) {
		t.Error("of words that get lost, not the third alone does not arrive")
	}
	crossed := Straight(&eight).Swapped("D4", "D5")
	header, _ := crossed.Compile()
	for bus := range 256 {
		h := Hardware{Header: header}
		if got, want := h.Back(byte(bus)), byte(bus&^0x30|bus&0x10<<1|bus&0x20>>1); got != want {
			t.Fatalf("%08b is read as %08b, want %08b", bus, got, want)
		}
	}
}

// TestDrives compiles headers drawn at random, and holds each level of each pin against
// what is said of drivers: ground wins, then a line that is low; what is left is high
// where anything or a pull-up drives it.
func TestDrives(t *testing.T) {
	r := rand.New(rand.NewPCG(8, 9))
	some := func(of int) (p Pins) { // each pin with a chance of one in some
		for i := range Lines {
			if r.IntN(of) == 0 {
				p |= 1 << i
			}
		}
		return p
	}
	for range 200 {
		d := Drives{Ground: some(4), High: some(2)}
		for i := range d.From {
			d.From[i] = some(8)
		}
		h := Hardware{Header: d.Compile()}
		for range 64 {
			lines := Pins(r.Uint32()) & 0x1FFF
			got, bus := h.Behind(lines), byte(r.Uint32())
			for i := range d.From {
				bit := Pins(1) << i
				pulled := bit&(hd44780.DataPins|hd44780.RS|hd44780.RW) != 0
				want := d.Ground&bit == 0 && d.From[i]&^lines == 0 && (d.From[i] != 0 || pulled || d.High&bit != 0)
				if got&bit != 0 != want {
					t.Fatalf("%+v: pin %d at lines %013b is %v", d, i, lines, got&bit != 0)
				}
				idle := d.Ground&bit == 0 && (pulled || d.High&bit != 0)
				if h.Header.Released()&bit != 0 != idle {
					t.Fatalf("%+v: pin %d is %v while nothing is driven", d, i, !idle)
				}
			}
			for line := range 8 {
				low := false
				for pin := range 8 {
					low = low || d.From[pin]>>line&1 != 0 && (bus>>pin&1 == 0 || d.Ground>>pin&1 != 0)
				}
				if h.Back(bus)>>line&1 == 0 != low {
					t.Fatalf("%+v: D%d is read as %d from %08b", d, line, h.Back(bus)>>line&1, bus)
				}
			}
		}
	}
}

// TestRegister shifts every byte through wirings of a 74HC595's inputs and holds
// what stands on its outputs against its function table (74HC595 data sheet, from
// memory): rising edges shift and latch, a low SRCLR empties, a high OE releases.
func TestRegister(t *testing.T) {
	plain := map[string]string{"SER": "data", "SRCLK": "clock", "RCLK": "latch", "OE": "low", "SRCLR": "high"}
	for name, c := range map[string]struct {
		pin, from string
		want      func(b, before byte) byte
	}{
		"plain":       {"OE", "low", func(b, _ byte) byte { return b }},
		"data open":   {"SER", "", func(byte, byte) byte { return 0 }},
		"data high":   {"SER", "high", func(byte, byte) byte { return 0xFF }},
		"no clock":    {"SRCLK", "low", func(byte, byte) byte { return 0 }},
		"no latch":    {"RCLK", "", func(byte, byte) byte { return 0 }},
		"cleared":     {"SRCLR", "low", func(byte, byte) byte { return 0 }},
		"one clock":   {"RCLK", "clock", func(b, _ byte) byte { return b >> 1 }}, // the latch is a pulse behind; 0 comes in from the byte before
		"off":         {"OE", "high", func(b, _ byte) byte { return b }},
		"two drivers": {"SER", "data+low", func(byte, byte) byte { return 0 }},
	} {
		wired := map[string]string{}
		for k, v := range plain {
			wired[k] = v
		}
		wired[c.pin] = c.from
		r, err := newRegister(wired)
		if err != nil {
			t.Fatal(err)
		}
		if got := r.plain(); got != (name == "plain") {
			t.Errorf("%s: plain is %v", name, got)
		}
		for b := range 256 {
			var st RegisterState
			var out byte
			var driven bool
			for _, edge := range ShiftEdges(nil, byte(b), time.Microsecond) {
				out, driven = r.Step(&st, edge)
			}
			if want := c.want(byte(b), 0); out != want || driven == (name == "off") {
				t.Fatalf("%s: %02X stands as %02X (driven %v), want %02X", name, b, out, driven, want)
			}
		}
	}
}

// TestFormat writes words with all their marks: none of them shows.
func TestFormat(t *testing.T) {
	for kind, want := range map[Kind][3]string{Backpack: {"5A", "5A", "0A"}, ShiftReg: {"5A", "5A", "0A"}, Parallel4: {"A", "5A", "A"}, Parallel8: {"5A", "35A", "0A"}} {
		c, err := NewCoder(New(kind))
		if err != nil {
			t.Fatal(err)
		}
		w := Word(0x5A)
		if kind == Parallel8 {
			w = 0x35A
		}
		got := [3]string{c.Format(w | Begin | Finish | Read), c.FormatFull(w | Begin | Finish | Read), c.FormatFull(0xA | Begin | Finish | Read)}
		if got != want {
			t.Errorf("%s: %q, want %q", kind, got, want)
		}
	}
	for _, en := range []Enable{First, Second, Both} {
		if back, ok := ParseEnable(en.String()); back != en || !ok {
			t.Errorf("%s reads back as %s, %v", en, back, ok)
		}
	}
	if en, ok := ParseEnable("E3"); en != First || ok {
		t.Errorf("E3 is %s, %v", en, ok)
	}
}

// TestPowerUp checks what stands on the header before the host drives anything
// (PCF8574 data sheet: outputs high; the others are taken to start low).
func TestPowerUp(t *testing.T) {
	for kind, want := range map[Kind]Pins{
		Backpack:  hd44780.RS | hd44780.RW | hd44780.E | Backlight | 0xFF,
		ShiftReg:  0x0F,
		Parallel4: Backlight,
		Parallel8: Backlight,
	} {
		c, err := NewCoder(New(kind))
		if err != nil {
			t.Fatal(err)
		}
		if got := c.PowerUp(); got != want {
			t.Errorf("%s: %013b, want %013b", kind, got, want)
		}
	}
}

// TestValidate checks the bounds of each setting of a link: the last that can be
// and the first that cannot.
func TestValidate(t *testing.T) {
	for _, c := range []struct {
		kind  Kind
		spoil func(l *Link)
		want  string // "" for none
	}{
		{Parallel4, func(l *Link) { l.PinTime = time.Millisecond }, ""},
		{Parallel4, func(l *Link) { l.PinTime = time.Millisecond + 1 }, "expected 0–1 ms"},
		{Parallel8, func(l *Link) { l.PinTime = -1 }, "expected 0–1 ms"},
		{Backpack, func(l *Link) { l.Speed = physic.KiloHertz }, ""},
		{Backpack, func(l *Link) { l.Speed = physic.KiloHertz - 1 }, "expected 1–400 kHz"},
		{Backpack, func(l *Link) { l.Speed = 400 * physic.KiloHertz }, ""},
		{Backpack, func(l *Link) { l.Speed = 400*physic.KiloHertz + 1 }, "expected 1–400 kHz"},
		{ShiftReg, func(l *Link) { l.Speed = physic.KiloHertz }, ""},
		{ShiftReg, func(l *Link) { l.Speed = physic.KiloHertz - 1 }, "expected 1 kHz–20 MHz"},
		{ShiftReg, func(l *Link) { l.Speed = 20 * physic.MegaHertz }, ""},
		{ShiftReg, func(l *Link) { l.Speed = 20*physic.MegaHertz + 1 }, "expected 1 kHz–20 MHz"},
		{Backpack, func(l *Link) { l.Address = 0x37 }, "an expander has 0x20–0x27"},
		{Backpack, func(l *Link) { l.Enables = 0 }, "0 enables"},
		{Backpack, func(l *Link) { l.Enables = 3 }, "3 enables"},
		{Backpack, func(l *Link) { l.Enables = 2 }, "E2 has no output"},
		{ShiftReg, func(l *Link) { l.Enables, l.Mapping.E2 = 2, 3 }, ""},
		{Backpack, func(l *Link) { l.Mapping.RW = Open }, "RW has no output"},
		{Backpack, func(l *Link) { l.Mapping.RW, l.ReadWrite = Open, false }, ""},
		{ShiftReg, func(l *Link) { l.ReadWrite = true }, ""}, // it has no inputs: R/W need not be driven
		{Backpack, func(l *Link) { l.Mapping.D7 = 8 }, "D7 on output 8"},
		{Backpack, func(l *Link) { l.Mapping.D7 = -2 }, "D7 on output -2"},
		{Backpack, func(l *Link) { l.Mapping.D7 = 0 }, "P0 drives both RS and D7"},
		{Backpack, func(l *Link) { l.Grouping = "line" }, "expected byte, operation or screen"},
		{ShiftReg, func(l *Link) { l.Setup = "late" }, "expected lawful, before or with-e"},
	} {
		l := New(c.kind)
		c.spoil(&l)
		if err := l.Validate(); (c.want == "") != (err == nil) || err != nil && !strings.Contains(err.Error(), c.want) {
			t.Errorf("%+v: %v, want %q", l, err, c.want)
		}
	}
}
