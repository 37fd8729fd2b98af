package hd44780

import (
	"slices"
	"testing"
	"time"

	"periph.io/x/conn/v3/physic"
)

// TestIndex compares the places of addresses with the data sheet ADE-207-272(Z),
// "Display data RAM": one line has 00–4F, two have 00–27 and 40–67; what lies
// beyond is taken modulo its line.
func TestIndex(t *testing.T) {
	one, two := State{}, State{TwoLine: true}
	for addr := range 256 {
		i, ok := one.Index(uint8(addr))
		if i != addr%80 || ok != (addr < 80) {
			t.Errorf("one line, 0x%02X: place %d, %v", addr, i, ok)
		}
		line, col := addr>>6&1, addr&0x3F
		i, ok = two.Index(uint8(addr))
		if i != 40*line+col%40 || ok != (addr < 0x80 && col < 40) {
			t.Errorf("two lines, 0x%02X: place %d, %v", addr, i, ok)
		}
		if back := two.Address(i); ok && back != uint8(addr) {
			t.Errorf("two lines, place %d: 0x%02X, want 0x%02X", i, back, addr)
		}
	}
}

// TestWraps steps the address counter over the ends of its memories, both ways
// (data sheet ADE-207-272(Z), "Display data RAM" and "Character generator RAM").
func TestWraps(t *testing.T) {
	for _, c := range []struct {
		function, address byte
		up, down          uint8
	}{
		{0x30, 0x80 | 0x4F, 0x00, 0x4E}, {0x30, 0x80, 0x01, 0x4F}, {0x30, 0x80 | 0x27, 0x28, 0x26}, {0x30, 0x80 | 0x28, 0x29, 0x27},
		{0x38, 0x80 | 0x27, 0x40, 0x26}, {0x38, 0x80 | 0x40, 0x41, 0x27}, {0x38, 0x80 | 0x67, 0x00, 0x66}, {0x38, 0x80, 0x01, 0x67}, {0x38, 0x80 | 0x4F, 0x50, 0x4E},
		{0x38, 0x40 | 0x3F, 0x00, 0x3E}, {0x38, 0x40, 0x01, 0x3F}, {0x38, 0x40 | 0x27, 0x28, 0x26},
	} {
		for entry, want := range map[byte]uint8{0x06: c.up, 0x04: c.down} {
			k := New(Config{}, nil)
			for i, b := range []byte{c.function, entry, c.address} {
				k.Execute(time.Duration(50+i)*time.Millisecond, Command(b))
			}
			k.Execute(60*time.Millisecond, Data(0x15))
			if k.AC != want || k.InCGRAM != (c.address < 0x80) {
				t.Errorf("function set %02X, entry %02X: behind %02X comes %02X, want %02X", c.function, entry, c.address, k.AC, want)
			}
		}
	}
}

// TestStatusBehindBusy reads the address counter around t_ADD: it still shows the
// one before until 4 µs behind the busy time (data sheet ADE-207-272(Z), note on
// t_ADD; from memory).
func TestStatusBehindBusy(t *testing.T) {
	k := New(Config{}, nil)
	k.Execute(50*time.Millisecond, Data('A'))
	shown := k.BusyUntil + 4*time.Microsecond
	for at, want := range map[time.Duration]byte{k.BusyUntil - 1: 0x80, k.BusyUntil: 0, shown - 1: 0, shown: 1} {
		if got := k.Status(at); got != want {
			t.Errorf("%s behind the busy time the status is %02X, want %02X", at-k.BusyUntil, got, want)
		}
	}
}

// TestBlink looks at both phases of the block, three times over.
func TestBlink(t *testing.T) {
	k := New(Config{}, nil)
	phase := BlinkPhase(0)
	for i := range 6 {
		at := time.Duration(i)*phase + phase/2
		if k.BlinkOn = false; k.BlinkOut(at) {
			t.Error("a block that does not blink is out")
		}
		if k.BlinkOn = true; k.BlinkOut(at) != (i%2 == 1) {
			t.Errorf("in phase %d the block is out: %v", i, k.BlinkOut(at))
		}
	}
}

// TestStatusIsOneSnapshot reads busy flag and address over four lines while the
// address counter takes its new value between the two nibbles: both are of the
// moment of the first.
func TestStatusIsOneSnapshot(t *testing.T) {
	const at = 60 * time.Millisecond
	k := New(Config{}, nil)
	for i, b := range []byte{0x20, 0x06, 0x80 | 0x0F} {
		k.Execute(time.Duration(50+i)*time.Millisecond, Command(b))
	}
	k.Execute(at, Data('A')) // 0x0F becomes 0x10, 41 µs later
	k.Drive(at+30*time.Microsecond, RW)
	var got byte
	for i, rise := range []time.Duration{38, 45} {
		k.Drive(at+rise*time.Microsecond, RW|E)
		out, driven := k.Bus()
		got |= out & 0xF0 >> (4 * i)
		if !driven {
			t.Error("the controller does not drive the bus")
		}
		k.Drive(at+(rise+1)*time.Microsecond, RW)
	}
	if got != 0x0F {
		t.Errorf("read %02X, want 0F of the first moment", got)
	}
	for i, want := range []byte{0x10, 0x00} { // and now the new one
		k.Drive(at+time.Duration(60+4*i)*time.Microsecond, RW|E)
		if out, _ := k.Bus(); out&0xF0 != want {
			t.Errorf("nibble %d of the new address: %02X", i, out)
		}
		k.Drive(at+time.Duration(62+4*i)*time.Microsecond, RW)
	}
}

// cycle is a write cycle of E with the times of everything that moves in it.
type cycle struct{ selected, data, rise, fall, after, next time.Duration }

// drive plays a cycle on eight lines, after which RS or, with data, D0 moves, and
// raises E once more. It returns what was violated, without what a cycle as such
// brings about.
func (cy cycle) drive(supply physic.ElectricPotential, data bool) (found []Violation) {
	const begin = 60 * time.Millisecond
	c := New(Config{Supply: supply}, func(v Violation) {
		if v.Kind != StartOrder && v.Kind != WhileBusy {
			found = append(found, v)
		}
	})
	p := Pins(0)
	at := func(d time.Duration, change Pins) {
		p ^= change
		c.Drive(begin+d, p)
	}
	at(cy.selected, RS)
	at(cy.data, 0xFF)
	at(cy.rise, E)
	at(cy.fall, E)
	if data {
		at(cy.after, 1)
	} else {
		at(cy.after, RS)
	}
	at(cy.next, E)
	return found
}

// TestLimitsToTheNanosecond breaks each limit of the write cycle by a nanosecond
// and keeps it to the nanosecond (data sheet ADE-207-272(Z), "Bus timing
// characteristics", values from memory).
func TestLimitsToTheNanosecond(t *testing.T) {
	for supply, want := range map[physic.ElectricPotential][6]time.Duration{ // t_cycE, PW_EH, t_AS, t_AH, t_DSW, t_H
		5 * physic.Volt:             {500, 230, 40, 10, 80, 10},
		4500 * physic.MilliVolt:     {500, 230, 40, 10, 80, 10},
		4499 * physic.MilliVolt:     {1000, 450, 60, 20, 195, 10},
		3300 * physic.MilliVolt:     {1000, 450, 60, 20, 195, 10},
		physic.ElectricPotential(0): {500, 230, 40, 10, 80, 10},
	} {
		sound := cycle{selected: 0, data: 10, rise: 5000, fall: 10_000, after: 15_000, next: 20_000}
		if found := sound.drive(supply, false); len(found) > 0 {
			t.Fatalf("%s: a slow cycle breaks %+v", supply, found)
		}
		for kind, c := range map[ViolationKind]struct {
			limit time.Duration
			cut   func(cy *cycle, d time.Duration) // makes the time in question d
			data  bool
		}{
			Cycle:        {want[0], func(cy *cycle, d time.Duration) { cy.fall, cy.after, cy.next = 5450, 5480, 5000+d }, false},
			PulseWidth:   {want[1], func(cy *cycle, d time.Duration) { cy.fall = 5000 + d }, false},
			AddressSetup: {want[2], func(cy *cycle, d time.Duration) { cy.rise = d }, false},
			AddressHold:  {want[3], func(cy *cycle, d time.Duration) { cy.after = 10_000 + d }, false},
			DataSetup:    {want[4], func(cy *cycle, d time.Duration) { cy.data = 10_000 - d }, false},
			DataHold:     {want[5], func(cy *cycle, d time.Duration) { cy.after = 10_000 + d }, true},
		} {
			for _, short := range []time.Duration{0, 1} {
				cy := sound
				c.cut(&cy, c.limit-short)
				found := cy.drive(supply, c.data)
				broken := slices.ContainsFunc(found, func(v Violation) bool { return v.Kind == kind })
				if broken != (short > 0) {
					t.Errorf("%s, kind %d at %s: %+v", supply, kind, c.limit-short, found)
				}
				for _, v := range found {
					if v.Kind == kind && (v.Measured != c.limit-1 || v.Limit != c.limit) {
						t.Errorf("%s, kind %d: measured %s of %s, want %s of %s", supply, kind, v.Measured, v.Limit, c.limit-1, c.limit)
					}
				}
			}
		}
	}
}

// TestEdgesTogether moves pins together with edges of E, as expanders do: with
// the rise there is no set-up time, with the fall no hold time, and a move of RS
// while E is high is named.
func TestEdgesTogether(t *testing.T) {
	for _, c := range []struct {
		name  string
		moves []Pins // toggled a microsecond apart
		want  []ViolationKind
	}{
		{"RS with the rise", []Pins{RS | E, E}, []ViolationKind{AddressSetup}},
		{"data with the rise", []Pins{0x30 | E, E}, nil},
		{"RS with the fall", []Pins{RS, E, E | RS}, []ViolationKind{AddressHold}},
		{"data with the fall", []Pins{0x30, E, E | 0x30}, []ViolationKind{DataHold}},
		{"RS in the middle", []Pins{E, RS, E}, []ViolationKind{SelectMoved}},
		{"data in the middle", []Pins{E, 0x30, E}, nil},
	} {
		var found []ViolationKind
		k := New(Config{}, func(v Violation) {
			if v.Kind != StartOrder && v.Kind != WhileBusy && v.Kind != OutsideMemory {
				found = append(found, v.Kind)
			}
		})
		p, at := Pins(0), 60*time.Millisecond
		for _, m := range c.moves {
			p ^= m
			at += time.Microsecond
			k.Drive(at, p)
		}
		if !slices.Equal(found, c.want) {
			t.Errorf("%s: %v, want %v", c.name, found, c.want)
		}
	}
}

// TestBeforeTheFirstEdge moves pins before E has ever risen: nothing is held.
func TestBeforeTheFirstEdge(t *testing.T) {
	k := New(Config{}, func(v Violation) { t.Errorf("%+v", v) })
	for i, p := range []Pins{0x30, 0, RS, 0} {
		k.Drive(time.Duration(1+i), p)
	}
}

// TestStart checks the waits of the initialisation by instruction to the
// nanosecond, and what comes out of its order (data sheet ADE-207-272(Z), figures
// 23 and 24, from memory).
func TestStart(t *testing.T) {
	type sent struct {
		at time.Duration
		b  byte
	}
	const ms = time.Millisecond
	begin := func(first, second, third time.Duration) []sent {
		return []sent{{first, 0x30}, {first + second, 0x30}, {first + second + third, 0x30}}
	}
	more := func(list []sent, bytes ...byte) []sent {
		at := list[len(list)-1].at
		for _, b := range bytes {
			at += 5 * ms
			list = append(list, sent{at, b})
		}
		return list
	}
	sound := begin(WaitAt5V, WaitAfterFirst, WaitAfterSecond)
	for _, c := range []struct {
		name   string
		supply physic.ElectricPotential
		family Family
		list   []sent
		want   []ViolationKind
	}{
		{"as the sheet has it", 0, LCD, more(sound, 0x38, 0x08, 0x01, 0x06, 0x0C), nil},
		{"four bits", 0, LCD, more(sound, 0x20, 0x28, 0x08, 0x01, 0x06, 0x0C), nil},
		{"first too early", 0, LCD, begin(WaitAt5V-1, WaitAfterFirst, WaitAfterSecond), []ViolationKind{StartEarly}},
		{"second too early", 0, LCD, begin(WaitAt5V, WaitAfterFirst-1, WaitAfterSecond), []ViolationKind{StartEarly}},
		{"third too early", 0, LCD, begin(WaitAt5V, WaitAfterFirst, WaitAfterSecond-1), []ViolationKind{StartEarly}},
		{"low supply, waits of 5 V", 3 * physic.Volt, LCD, sound, []ViolationKind{StartEarly}},
		{"low supply", 3 * physic.Volt, LCD, begin(WaitAt3V, WaitAfterFirst, WaitAfterSecond), nil},
		{"low supply, a nanosecond short", 3 * physic.Volt, LCD, begin(WaitAt3V-1, WaitAfterFirst, WaitAfterSecond), []ViolationKind{StartEarly}},
		{"text at once", 0, LCD, []sent{{50 * ms, 0x0C}, {60 * ms, 0x06}}, []ViolationKind{StartOrder}},
		{"short waits, four bits second", 0, LCD, []sent{{20 * ms, 0x30}, {20*ms + 100_000, 0x20}}, nil},
		{"lines changed late", 0, LCD, more(sound, 0x20, 0x28, 0x0C, 0x20), []ViolationKind{FunctionLate}},
		{"font changed late", 0, LCD, more(sound, 0x20, 0x20, 0x0C, 0x24), []ViolationKind{FunctionLate}},
		{"the same again", 0, LCD, more(sound, 0x20, 0x28, 0x0C, 0x28), nil},
		{"a host that starts over", 0, LCD, more(sound, 0x38, 0x0C, 0x30, 0x30, 0x38), nil},
		{"brightness of a VFD", 0, VFDFunctionSet, more(sound, 0x20, 0x28, 0x0C, 0x2A), nil},
	} {
		var found []ViolationKind
		k := New(Config{Supply: c.supply, Family: c.family}, func(v Violation) { found = append(found, v.Kind) })
		for _, s := range c.list {
			k.Execute(s.at, Command(s.b))
		}
		if !slices.Equal(found, c.want) {
			t.Errorf("%s: %v, want %v", c.name, found, c.want)
		}
	}
}
