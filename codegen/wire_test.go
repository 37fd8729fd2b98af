package codegen

import (
	"bytes"
	"fmt"
	"slices"
	"testing"
	"time"

	"slatebell/core/part/hd44780"
	"slatebell/core/part/i2cbus"
	"slatebell/core/ship/firmware"
	"slatebell/core/wire/link"
	"slatebell/core/wire/rig"
)

// wire is what a host's lines are joined to while its program runs: a rig for each module,
// behind its expander, shift register or pins. It takes recorded traffic with its times.
type wire struct {
	t       testing.TB
	now     time.Duration
	modules []*wired
	parts   map[byte]*i2cbus.Registers // beside the modules on the bus, by address
}

// wired is one module on the wire.
type wired struct {
	m     *firmware.Module
	rig   *rig.Rig
	coder *link.Coder
	lines map[int]string // of the host's pins
	high  map[string]bool
	shift byte   // in the register
	out   byte   // last on the outputs
	bytes []byte // all that was put on the outputs
	ops   []string
}

func newWire(t testing.TB, im *firmware.Image) *wire {
	w := &wire{t: t}
	for i := range im.Modules {
		m := &im.Modules[i]
		hardware, err := rig.New(m.Display, m.Link)
		if err != nil {
			t.Fatal(err)
		}
		coder, err := link.NewCoder(m.Link)
		if err != nil {
			t.Fatal(err)
		}
		one := &wired{m: m, rig: hardware, coder: coder, lines: map[int]string{}, high: map[string]bool{}}
		for line, label := range m.Pins {
			if n, ok := im.Host.Number(label); ok && m.Link.Kind != link.Backpack {
				one.lines[n] = line
			}
		}
		w.modules = append(w.modules, one)
	}
	return w
}

// at returns the module whose expander has an address; nil for none.
func (w *wire) at(address byte) *wired {
	for _, one := range w.modules {
		if one.m.Link.Kind == link.Backpack && one.m.Link.Address == address {
			return one
		}
	}
	return nil
}

// put sets the outputs of an expander or register.
func (w *wired) put(at time.Duration, b byte) {
	w.out = b
	w.bytes = append(w.bytes, b)
	w.drive(at, w.coder.Levels(link.Word(b)))
}

// drive puts levels on the header, and notes what falls of E latch.
func (w *wired) drive(at time.Duration, p link.Pins) {
	before := w.rig.Pins()
	for i, e := range []link.Pins{hd44780.E, link.E2} {
		if before&e != 0 && p&e == 0 && before&hd44780.RW == 0 && at > 0 {
			w.ops = append(w.ops, fmt.Sprintf("%d:%d:%02X", i, before&hd44780.RS>>8, byte(before)))
		}
	}
	w.rig.Drive(at, p)
}

// read is what the expander reads on its outputs, which are high or low as it drives them.
func (w *wired) read() byte {
	b := w.out
	lines := w.rig.Lines()
	for i, output := range []int8{w.m.Link.Mapping.D4, w.m.Link.Mapping.D5, w.m.Link.Mapping.D6, w.m.Link.Mapping.D7} {
		if lines>>(4+i)&1 == 0 {
			b &^= 1 << output
		}
	}
	return b
}

// pin sets a pin of the host.
func (w *wire) pin(n int, high bool) {
	for _, one := range w.modules {
		line, ok := one.lines[n]
		if !ok {
			continue
		}
		was := one.high[line]
		one.high[line] = high
		if one.m.Link.Kind == link.ShiftReg {
			switch {
			case line == "clock" && high && !was:
				one.shift <<= 1
				if one.high["data"] {
					one.shift |= 1
				}
			case line == "latch" && high && !was:
				one.put(w.now, one.shift)
			}
			continue
		}
		p := link.Backlight
		if one.m.Link.Width() == 4 {
			p |= 0x0F
		}
		for i := range 8 {
			if one.high[fmt.Sprintf("D%d", i)] {
				p |= 1 << i
			}
		}
		for name, bit := range map[string]link.Pins{"RS": hd44780.RS, "R/W": hd44780.RW, "E": hd44780.E, "E2": link.E2} {
			if one.high[name] {
				p |= bit
			}
		}
		one.drive(w.now, p)
	}
}

// level reads a pin that the host lets go of.
func (w *wire) level(n int) bool {
	for _, one := range w.modules {
		var d int
		if line, ok := one.lines[n]; ok {
			if _, err := fmt.Sscanf(line, "D%d", &d); err == nil {
				return one.rig.Lines()>>d&1 != 0
			}
		}
	}
	return true
}

// check holds what a module shows, and what it was sent, against the player that made the
// same calls.
func (w *wired) check(p *firmware.Player) error {
	if want := p.Shows(); want != nil {
		if at := w.m.Differs(w.rig.Moment(), p.Screen(), want, p.Dark()); at >= 0 {
			return fmt.Errorf("cell %d of the glass differs from % X", at, want)
		}
	}
	if v, _ := w.rig.Violations(); len(v) > 0 {
		return fmt.Errorf("limit broken: %v", rig.Findings(v, 0)[0].What)
	}
	program := p.Program()
	if w.m.Polls { // how often the busy flag is read is the controller's to say
		return w.checkOps(program.Words, p)
	}
	if w.m.Link.Expander() {
		var want []byte
		for _, word := range program.Words {
			want = append(want, byte(word))
		}
		if !bytes.Equal(w.bytes, want) {
			return fmt.Errorf("bytes on the wire differ from byte %d of %d, %d wanted", differ(w.bytes, want), len(w.bytes), len(want))
		}
		return nil
	}
	return w.checkOps(program.Words, p)
}

func differ(a, b []byte) int {
	for i := range min(len(a), len(b)) {
		if a[i] != b[i] {
			return i
		}
	}
	return min(len(a), len(b))
}

// checkOps compares what falls of E latched; reads are left out.
func (w *wired) checkOps(words []link.Word, p *firmware.Player) error {
	shadow := &wired{m: w.m, coder: w.coder}
	hardware, err := rig.New(w.m.Display, w.m.Link)
	if err != nil {
		return err
	}
	shadow.rig = hardware
	for i, word := range words {
		if word&link.Read != 0 {
			continue
		}
		at := time.Duration(i+1) * time.Millisecond
		levels := w.coder.Levels(word)
		shadow.drive(at, levels)
		if pulsed := w.coder.Pulsed(word); pulsed != 0 {
			shadow.drive(at, levels|pulsed)
			shadow.drive(at, levels)
		}
	}
	if !slices.Equal(shadow.ops, w.ops) {
		for i := range min(len(shadow.ops), len(w.ops)) {
			if shadow.ops[i] != w.ops[i] {
				return fmt.Errorf("pulse %d of %d is %s, want %s (after %v)", i, len(w.ops), w.ops[i], shadow.ops[i], shadow.ops[max(0, i-8):i])
			}
		}
		return fmt.Errorf("%d pulses of E, want %d", len(w.ops), len(shadow.ops))
	}
	return nil
}
