package hd44780

import (
	"strings"
	"testing"
	"time"

	"periph.io/x/conn/v3/physic"
)

// sheetStep is a step of a worked example: what is sent, and what the display
// then shows, with the cursor's column (-1: none or outside).
type sheetStep struct {
	op     Operation
	shows  string
	cursor int
}

// window returns what n columns from an address show, and the cursor's column.
func window(c *Controller, start uint8, n int) (text string, cursor int) {
	cursor = -1
	var b strings.Builder
	for i := range n {
		place := c.Shown(start + uint8(i))
		if here, _ := c.Index(c.AC); here == place && c.CursorOn {
			cursor = i
		}
		b.WriteByte(c.DDRAM[place])
	}
	if !c.DisplayOn {
		return strings.Repeat(" ", n), -1
	}
	return b.String(), cursor
}

func play(t *testing.T, c *Controller, n int, steps []sheetStep) {
	t.Helper()
	at := 50 * time.Millisecond
	for i, s := range steps {
		at += 5 * time.Millisecond
		c.Execute(at, s.op)
		text, cursor := window(c, 0, n)
		if text != s.shows || cursor != s.cursor {
			t.Fatalf("step %d, %s: shows %q with the cursor at %d, want %q at %d", i+2, s.op.Explain(), text, cursor, s.shows, s.cursor)
		}
	}
}

// TestEightBitOneLine follows the HD44780U data sheet ADE-207-272(Z), table 11,
// "8-bit operation, 8-digit × 1-line display example with internal reset", from
// memory. The sheet's first word is a maker's name; another of seven letters
// stands in its place.
func TestEightBitOneLine(t *testing.T) {
	c := New(Config{}, nil)
	play(t, &c, 8, []sheetStep{
		{Command(0x30), "        ", -1}, // function set
		{Command(0x0E), "        ", 0},  // display on, cursor
		{Command(0x06), "        ", 0},  // entry mode: increment, no shift
		{Data('B'), "B       ", 1},
		{Data('O'), "BO      ", 2},
		{Data('A'), "BOA     ", 3},
		{Data('T'), "BOAT    ", 4},
		{Data('M'), "BOATM   ", 5},
		{Data('E'), "BOATME  ", 6},
		{Data('N'), "BOATMEN ", 7},
		{Command(0x07), "BOATMEN ", 7}, // entry mode: shift at the time of write
		{Data(' '), "OATMEN  ", 7},
		{Data('M'), "ATMEN M ", 7},
		{Data('I'), "TMEN MI ", 7},
		{Data('C'), "MEN MIC ", 7},
		{Data('R'), "EN MICR ", 7},
		{Data('O'), "N MICRO ", 7},
		{Data('K'), " MICROK ", 7},
		{Data('O'), "MICROKO ", 7},
		{Command(0x10), "MICROKO ", 6}, // cursor shift to the left
		{Command(0x10), "MICROKO ", 5},
		{Data('C'), "ICROCO  ", 5},     // corrects K; the display moves to the left
		{Command(0x1C), "MICROCO ", 6}, // display and cursor shift to the right
		{Command(0x14), "MICROCO ", 7}, // cursor shift to the right
		{Data('M'), "ICROCOM ", 7},
		{Command(0x02), "BOATMEN ", 0}, // return home
	})
}

// TestFourBitOneLine follows table 12 of the same sheet, "4-bit operation,
// 8-digit × 1-line display example with internal reset": the first function
// set completes with one write, every later instruction takes two.
func TestFourBitOneLine(t *testing.T) {
	c := New(Config{}, func(v Violation) {
		if v.Kind != FunctionLate { // the sheet's own second function set restores N and F
			t.Errorf("violation %+v", v)
		}
	})
	at := 20 * time.Millisecond
	nibble := func(rs Pins, n byte) {
		at += time.Millisecond
		p := Pins(n)<<4 | 0x0F | rs // D3–D0 are open, pulled high
		c.Drive(at, p)
		c.Drive(at+time.Microsecond, p|E)
		c.Drive(at+2*time.Microsecond, p)
	}
	nibble(0, 0x2)
	if !c.FourBit || c.Low {
		t.Fatalf("after the first nibble: FourBit %v, Low %v; want the 4-bit interface at a byte's start", c.FourBit, c.Low)
	}
	for _, b := range []byte{0x20, 0x0E, 0x06} {
		nibble(0, b>>4)
		nibble(0, b&15)
	}
	nibble(RS, 'H'>>4)
	nibble(RS, 'H'&15)
	if text, cursor := window(&c, 0, 8); text != "H       " || cursor != 1 || c.TwoLine || c.Tall {
		t.Errorf("shows %q with the cursor at %d, two lines %v, tall %v", text, cursor, c.TwoLine, c.Tall)
	}
}

// TestResetState checks the data sheet's "Reset function": the state after
// power-up and 10 ms of busy.
func TestResetState(t *testing.T) {
	c := New(Config{}, nil)
	want := State{BusyUntil: 10 * time.Millisecond}
	for i := range want.DDRAM {
		want.DDRAM[i] = ' '
	}
	if c.State != want {
		t.Errorf("reset state %+v", c.State)
	}
	if !c.Busy(10*time.Millisecond-1) || c.Busy(10*time.Millisecond) {
		t.Error("busy until another time than 10 ms")
	}
}

// TestExecutionTimes checks the execution times of table 6, and the note under
// it: "37 µs × 270/250 = 40 µs" at 250 kHz.
func TestExecutionTimes(t *testing.T) {
	const µs = time.Microsecond
	for _, c := range []struct {
		op   Operation
		osc  physic.Frequency
		want time.Duration
	}{
		{Command(0x01), 0, 1520 * µs},
		{Command(0x02), 0, 1520 * µs},
		{Command(0x03), 0, 1520 * µs},
		{Command(0x06), 0, 37 * µs},
		{Command(0x0C), 0, 37 * µs},
		{Command(0x1C), 0, 37 * µs},
		{Command(0x38), 0, 37 * µs},
		{Command(0x40), 0, 37 * µs},
		{Command(0x80), 0, 37 * µs},
		{Data('A'), 0, 37 * µs},
		{Operation{RS: true, RW: true}, 0, 37 * µs},
		{Operation{RW: true}, 0, 0},
		{Command(0x80), 250 * physic.KiloHertz, 40 * µs},
		{Command(0x80), 190 * physic.KiloHertz, 52600 * time.Nanosecond},
		{Command(0x80), 999 * physic.Hertz, 37 * 270 * µs}, // no slower than at 1 kHz
		{Command(0x80), physic.KiloHertz, 37 * 270 * µs},
		{Command(0x80), 2 * physic.KiloHertz, 37 * 135 * µs},
		{Command(0x80), -physic.KiloHertz, 37 * µs},
	} {
		got := ExecutionTime(c.op, c.osc)
		if got.Round(100*time.Nanosecond) != c.want {
			t.Errorf("%s at %s takes %s, want %s", c.op.Explain(), c.osc, got, c.want)
		}
	}
	if got := BlinkPhase(250 * physic.KiloHertz); got != 409600*µs {
		t.Errorf("blink phase at 250 kHz %s, want 409.6 ms", got)
	}
	if got := ExecutionTime(Command(0x80), 190*physic.KiloHertz); got != 52579*time.Nanosecond { // 52578.9…, rounded up
		t.Errorf("37 µs at 190 kHz take %s", got)
	}
	if got := Scale(addressDelay, 0); got != 4*µs {
		t.Errorf("t_ADD is %s", got)
	}
	if got := BlinkPhase(0).Round(100 * µs); got != 379300*µs && got != 379200*µs {
		t.Errorf("blink phase at 270 kHz %s, want 379.2 ms", got)
	}
}
