package hd44780

import (
	"fmt"
	"testing"
	"time"

	"periph.io/x/conn/v3/physic"
)

// model is the controller a second time, by tables alone: memories keyed by
// address, and successor tables for the counters, written from the data sheet's
// table 6 and "Display data RAM" and sharing no code with Controller.
type model struct {
	ddram, cgram           map[int]byte
	ac                     int
	cg, dec, auto, d, c, b bool
	four, two, tall        bool
	shift                  int
}

// order lists the DDRAM addresses in the order in which the counter runs.
func order(two bool) (list []int) {
	if !two {
		for a := range 0x50 {
			list = append(list, a)
		}
		return list
	}
	for _, line := range []int{0x00, 0x40} {
		for a := range 0x28 {
			list = append(list, line+a)
		}
	}
	return list
}

func find(list []int, a int) int {
	for i, x := range list {
		if x == a {
			return i
		}
	}
	return -1
}

func (m *model) step(up bool) {
	list := order(m.two)
	if m.cg {
		list = nil
		for a := range 64 {
			list = append(list, a)
		}
	}
	i := find(list, m.ac)
	if up {
		m.ac = append(list, list[0])[i+1]
	} else {
		m.ac = append([]int{list[len(list)-1]}, list...)[i]
	}
}

func (m *model) turn(left bool) {
	n := map[bool]int{false: 80, true: 40}[m.two]
	if left {
		m.shift = (m.shift + 1) % n
	} else {
		m.shift = (m.shift + n - 1) % n
	}
}

// do carries out one operation; the first set bit of an instruction decides.
func (m *model) do(rs bool, b byte) {
	bit := func(i int) bool { return b>>i&1 == 1 }
	if rs {
		if m.cg {
			m.cgram[m.ac] = b
		} else {
			m.ddram[m.ac] = b
			if m.auto {
				defer m.turn(!m.dec)
			}
		}
		m.step(!m.dec)
		return
	}
	first := -1
	for i := 7; i >= 0 && first < 0; i-- {
		if bit(i) {
			first = i
		}
	}
	switch first {
	case 7:
		m.ac, m.cg = int(b)-0x80, false
	case 6:
		m.ac, m.cg = int(b)-0x40, true
	case 5:
		m.four, m.two, m.tall = !bit(4), bit(3), bit(2)
	case 4:
		if bit(3) {
			m.turn(!bit(2))
		} else {
			m.step(bit(2))
		}
	case 3:
		m.d, m.c, m.b = bit(2), bit(1), bit(0)
	case 2:
		m.dec, m.auto = !bit(1), bit(0)
	case 1:
		m.ac, m.cg, m.shift = 0, false, 0
	case 0:
		for _, a := range order(m.two) {
			m.ddram[a] = 0x20
		}
		m.ac, m.cg, m.shift, m.dec = 0, false, 0, false
	}
}

// differs names the first thing in which a controller differs from the model.
func (m *model) differs(c *Controller) string {
	if int(c.AC) != m.ac || c.InCGRAM != m.cg || int(c.Offset) != m.shift {
		return fmt.Sprintf("AC %02X, CGRAM %v, shift %d; want %02X, %v, %d", c.AC, c.InCGRAM, c.Offset, m.ac, m.cg, m.shift)
	}
	if c.Decrement != m.dec || c.AutoShift != m.auto || c.DisplayOn != m.d || c.CursorOn != m.c || c.BlinkOn != m.b || c.FourBit != m.four || c.TwoLine != m.two || c.Tall != m.tall {
		return fmt.Sprintf("modes %+v", c.State)
	}
	for i, a := range order(m.two) {
		if c.DDRAM[i] != m.ddram[a] {
			return fmt.Sprintf("DDRAM %02X holds %02X, want %02X", a, c.DDRAM[i], m.ddram[a])
		}
	}
	for a, b := range m.cgram {
		if c.CGRAM[a] != b {
			return fmt.Sprintf("CGRAM %02X holds %02X, want %02X", a, c.CGRAM[a], b)
		}
	}
	return ""
}

// TestEveryInstructionFromEveryMode sends each instruction byte and some data,
// from each line mode, entry mode, memory, edge address and shift. Left out are
// what the sheet leaves undefined: addresses that the memory lacks, and a
// change of the line mode with DDRAM in use.
func TestEveryInstructionFromEveryMode(t *testing.T) {
	checked := 0
	for _, two := range []bool{false, true} {
		for entry := byte(0); entry < 4; entry++ {
			for _, cg := range []bool{false, true} {
				starts := map[bool][]byte{false: {0, 1, 0x27, 0x28, 0x4F}, true: {0, 1, 0x27, 0x40, 0x67}}[two]
				if cg {
					starts = []byte{0, 1, 0x3F}
				}
				for _, start := range starts {
					for op := range 0x100 + 3 {
						rs, b := op >= 0x100, byte(op)
						if rs {
							b = []byte{0x00, 0x41, 0xFF}[op-0x100]
						}
						if !rs && (b >= 0x80 && find(order(two), int(b)-0x80) < 0 || b>>5 == 1 && b&0x08 != 0 != two) {
							continue
						}
						c := New(Config{}, nil)
						m := &model{ddram: map[int]byte{}, cgram: map[int]byte{}}
						for _, a := range order(two) {
							m.ddram[a] = 0x20
						}
						set := byte(0x30)
						if two {
							set = 0x38
						}
						address := 0x80 | start
						if cg {
							address = 0x40 | start
						}
						at := 20 * time.Millisecond
						for _, o := range []Operation{Command(set), Command(0x0F), Command(0x18), Command(address), Command(0x04 | entry), {RS: rs, Byte: b}, {RS: rs, Byte: b}} {
							at += 5 * time.Millisecond
							c.Execute(at, o)
							m.do(o.RS, o.Byte)
						}
						if text := m.differs(&c); text != "" {
							t.Fatalf("two lines %v, entry %d, address %02X, then twice RS %v %02X: %s", two, entry, address, rs, b, text)
						}
						checked++
					}
				}
			}
		}
	}
	if checked < 10_000 {
		t.Errorf("only %d cases", checked)
	}
}

// TestResynchronise proves that the initialisation by instruction brings a
// module back from every phase: either width, half a byte received or not, any
// nibble in it, a host that starts over while the module stays powered.
func TestResynchronise(t *testing.T) {
	for _, four := range []bool{false, true} {
		for half := -1; half < 16; half++ {
			if half >= 0 && !four {
				continue
			}
			for _, rs := range []Pins{0, RS} {
				c := New(Config{}, nil)
				c.FourBit, c.TwoLine, c.Tall, c.BusyUntil = four, half%2 == 0, half%3 == 0, 0
				at := time.Second
				pulse := func(rs Pins, n byte, wait time.Duration) {
					p := Pins(n)<<4 | 0x0F | rs
					c.Drive(at, p)
					c.Drive(at+time.Microsecond, p|E)
					c.Drive(at+2*time.Microsecond, p)
					at += wait
				}
				if half >= 0 {
					pulse(rs, byte(half), 2*time.Millisecond)
				}
				pulse(0, 3, 4100*time.Microsecond)
				pulse(0, 3, 100*time.Microsecond)
				pulse(0, 3, 100*time.Microsecond)
				pulse(0, 2, 100*time.Microsecond)
				for _, b := range []byte{0x28, 0x08, 0x01, 0x06, 0x0C} {
					pulse(0, b>>4, 10*time.Microsecond)
					pulse(0, b&15, 3*time.Millisecond)
				}
				if !c.FourBit || c.Low || !c.TwoLine || c.Tall || !c.DisplayOn || c.AC != 0 || c.InCGRAM || c.Offset != 0 || c.DDRAM[0] != ' ' {
					t.Errorf("four bits %v, half %d, RS %v: %+v", four, half, rs != 0, c.State)
				}
			}
		}
	}
}

// TestReads checks reading in both widths: the busy flag with the address, and
// data after an address set, against what was written.
func TestReads(t *testing.T) {
	for _, four := range []bool{false, true} {
		var broken []Violation
		c := New(Config{}, func(v Violation) { broken = append(broken, v) })
		at := 50 * time.Millisecond
		c.Execute(at, Command(map[bool]byte{false: 0x38, true: 0x28}[four]))
		at += time.Millisecond
		half := func(p Pins) byte {
			c.Drive(at, p)
			c.Drive(at+time.Microsecond, p|E)
			got, driven := c.Bus()
			if driven != (p&RW != 0) {
				t.Fatal("the bus is driven at the wrong time")
			}
			c.Drive(at+2*time.Microsecond, p)
			at += 3 * time.Microsecond
			return got
		}
		transfer := func(p Pins, b byte) byte {
			if !four {
				return half(p | Pins(b))
			}
			return half(p|Pins(b&0xF0)|0x0F)&0xF0 | half(p|Pins(b<<4)|0x0F)>>4
		}
		transfer(0, 0xC0)
		if got := transfer(RW, 0xFF); got != 0xC0 { // busy, address 0x40
			t.Errorf("four bits %v: status %02X, want C0", four, got)
		}
		at += 50 * time.Microsecond
		transfer(RS, 'A')
		at += 50 * time.Microsecond
		if got := transfer(RW, 0xFF); got != 0x41 {
			t.Errorf("four bits %v: status %02X after a write, want 41", four, got)
		}
		transfer(0, 0xC0)
		at += 50 * time.Microsecond
		if got := transfer(RS|RW, 0xFF); got != 'A' {
			t.Errorf("four bits %v: data %02X, want %02X", four, got, 'A')
		}
		for _, v := range broken {
			t.Errorf("four bits %v: %+v", four, v)
		}
	}
}

// TestEightBitTwoLines follows the data sheet ADE-207-272(Z), table 13, "8-bit
// operation, 8-digit × 2-line display example with internal reset", from
// memory, with another first word as in TestEightBitOneLine.
func TestEightBitTwoLines(t *testing.T) {
	c := New(Config{}, nil)
	at := 50 * time.Millisecond
	do := func(ops ...Operation) {
		for _, op := range ops {
			at += 5 * time.Millisecond
			c.Execute(at, op)
		}
	}
	shows := func(first, second string) {
		t.Helper()
		a, _ := window(&c, 0x00, 8)
		b, _ := window(&c, 0x40, 8)
		if a != first || b != second {
			t.Errorf("shows %q and %q, want %q and %q", a, b, first, second)
		}
	}
	text := func(s string) (ops []Operation) {
		for _, b := range []byte(s) {
			ops = append(ops, Data(b))
		}
		return ops
	}
	do(Command(0x38), Command(0x0E), Command(0x06))
	do(text("BOATMEN")...)
	do(Command(0xC0))
	do(text("MICROCO")...)
	shows("BOATMEN ", "MICROCO ")
	do(Command(0x07), Data('M')) // both lines shift together
	shows("OATMEN  ", "ICROCOM ")
	do(Command(0x02))
	shows("BOATMEN ", "MICROCOM")
}

// TestBrightness checks both VFD families: bits 1–0 of the function set, or of
// a data byte directly after one.
func TestBrightness(t *testing.T) {
	for b := byte(0); b < 4; b++ {
		c := New(Config{Family: VFDFunctionSet}, nil)
		c.Execute(time.Second, Command(0x38|b))
		d := New(Config{Family: VFDDataByte, Oscillator: 190 * physic.KiloHertz}, nil)
		d.Execute(time.Second, Command(0x38))
		d.Execute(2*time.Second, Data(b))
		d.Execute(3*time.Second, Data('A')) // text again
		if text := VFDFunctionSet.Explain(Command(0x38 | b)); text != fmt.Sprintf("Function set: 8-bit interface, two lines, brightness %d %%", 100-25*int(b)) {
			t.Errorf("brightness %d is explained as %q", b, text)
		}
		if c.Brightness != b || d.Brightness != b || d.DDRAM[0] != 'A' || d.AC != 1 {
			t.Errorf("brightness %d: %d in the function set, %d after it, DDRAM %02X", b, c.Brightness, d.Brightness, d.DDRAM[0])
		}
	}
}
