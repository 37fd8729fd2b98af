package codegen

import (
	"bufio"
	"fmt"
	"io"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"sync"
	"testing"
	"time"

	"slatebell/codegen/c99"
	"slatebell/codegen/layout"
	"slatebell/core/bench"
	"slatebell/core/part/i2cbus"
	"slatebell/core/ship/firmware"
	"slatebell/core/ship/firmware/firmtest"
	"slatebell/core/text/field"
	"slatebell/core/wire/link"
	"slatebell/formats/benchjson"
	"slatebell/server/demo"
)

// clock is the frequency of the simulated ATmega.
const clock = 16_000_000

// recorder builds, once, the program that runs a firmware on a simulated ATmega.
var recorder = sync.OnceValues(func() (string, error) {
	dir, err := os.MkdirTemp("", "avr")
	if err != nil {
		return "", err
	}
	out := filepath.Join(dir, "avr")
	log, err := exec.Command("gcc", "-std=gnu99", "-O2", "-o", out, "testdata/avr.c", "-lsimavr", "-lelf").CombinedOutput()
	if err != nil {
		return "", fmt.Errorf("%w: %s", err, log)
	}
	return out, nil
})

// target is a firmware that runs on a simulated ATmega, joined to a wire.
type target struct {
	t    testing.TB
	wire *wire
	ask  bool
	in   io.Writer
	out  *bufio.Scanner
	said []byte // over serial line 0

	part *i2cbus.Registers // beside the modules, that is spoken to
	late time.Duration     // the bus is slower than the simulator has it
	to   *wired            // who is addressed
	end  func()
}

// boot runs a firmware. Nothing moves on a bus that is stuck.
func boot(t *testing.T, im *firmware.Image, elf, mcu string, seconds int, stuck bool, answering ...byte) *target {
	t.Helper()
	return bootWith(t, im, elf, mcu, seconds, stuck, "-", answering...)
}

// bootWith is boot with a script of what happens at the pins.
func bootWith(t *testing.T, im *firmware.Image, elf, mcu string, seconds int, stuck bool, script string, answering ...byte) *target {
	t.Helper()
	tool, err := recorder()
	if err != nil {
		t.Fatal(err)
	}
	s := &target{t: t, wire: newWire(t, im)}
	for i := range im.Modules {
		s.ask = s.ask || im.Modules[i].Polls && !im.Modules[i].Link.Expander()
	}
	args := []string{elf, mcu, fmt.Sprint(seconds * clock), fmt.Sprint(layout.One(s.ask)), fmt.Sprint(layout.One(stuck)), script}
	for _, a := range answering {
		args = append(args, fmt.Sprint(a))
	}
	c := exec.Command(tool, args...)
	s.in, s.out = piped(t, c)
	s.end = func() { c.Process.Kill(); c.Wait() }
	t.Cleanup(s.end)
	return s
}

// next serves one event, and returns what the program marked by it; false at the end. The
// simulator takes 9 µs for a byte at any speed, and nothing for START and STOP: the wire is
// late by what they really take.
func (s *target) next() (status int, marked, ok bool) {
	for s.out.Scan() {
		if status, marked, ok := s.event(s.out.Text()); ok {
			return status, marked, true
		}
	}
	return 0, false, false
}

// event serves one event; ok is false where it is none that a program waits for.
func (s *target) event(text string) (status int, marked, ok bool) {
	f := strings.Fields(text)
	if len(f) < 2 || len(f[0]) != 1 {
		return 0, false, false // the simulator's own
	}
	cycle, _ := strconv.ParseInt(f[1], 10, 64)
	n := make([]int, 0, 3)
	for _, text := range f[2:] {
		v, _ := strconv.Atoi(text)
		n = append(n, v)
	}
	s.wire.now = time.Duration(cycle*125/2) + s.late // 62.5 ns each
	switch f[0] {
	case "=":
		return n[0] | n[1]<<8, true, true
	case "S":
		if s.part = s.wire.parts[byte(n[0]>>1)]; s.part != nil {
			return 0, false, false
		}
		bit := time.Duration(n[1]) * time.Second / clock
		if s.to = s.wire.at(byte(n[0] >> 1)); s.to != nil {
			if bit < s.to.m.Link.Speed.Period() {
				s.t.Errorf("a clock of %v on the bus; it bears %v at least", bit, s.to.m.Link.Speed.Period())
			}
			s.late += link.TimesAt(s.to.m.Link.Speed).HoldStart + s.byteTime() - 9*time.Microsecond
		}
	case "B":
		if s.part != nil {
			s.part.Write([]byte{byte(n[0])})
			return 0, false, false
		}
		s.to.put(s.wire.now+s.byteTime(), byte(n[0]))
		s.late += s.byteTime() - 9*time.Microsecond
	case "R":
		if s.part != nil {
			var b [1]byte
			s.part.Read(b[:])
			fmt.Fprintln(s.in, b[0])
			return 0, false, false
		}
		fmt.Fprintln(s.in, s.to.read())
		s.late += s.byteTime() - 9*time.Microsecond
	case "E":
		if s.to != nil && s.part == nil {
			times := link.TimesAt(s.to.m.Link.Speed)
			s.late += times.Low + times.SetupStop
		}
	case "T":
		s.said = append(s.said, byte(n[0]))
	case "P":
		s.pin(n[0], n[1] != 0, n[2] != 0)
	}
	return 0, false, true
}

// byteTime is how long a byte takes on the bus, as fast as it may be.
func (s *target) byteTime() time.Duration { return 9 * s.to.m.Link.Speed.Period() }

// pin takes a pin's change, and says what others read then.
func (s *target) pin(n int, high, driven bool) {
	for _, one := range s.wire.modules {
		if line := one.lines[n]; line != "" && (driven || line[0] == 'D') {
			s.wire.pin(n, high)
		}
	}
	if !s.ask {
		return
	}
	var answer []string
	for _, one := range s.wire.modules {
		for pin, line := range one.lines {
			if line[0] == 'D' {
				answer = append(answer, fmt.Sprintf("%d %d", pin, map[bool]int{true: 1}[s.wire.level(pin)]))
			}
		}
	}
	fmt.Fprintf(s.in, "%d %s\n", len(answer), strings.Join(answer, " "))
}

// mark runs until the program marks a status.
func (s *target) mark() int {
	for {
		status, marked, ok := s.next()
		if marked {
			return status
		}
		if !ok {
			s.t.Fatal("the firmware ended")
		}
	}
}

// written returns calls as C.
func written(c *c99.View, call *firmtest.Call, d int, m *firmware.Module) string {
	cm := &c.Modules[d]
	display := "&" + cm.Ident + "_display"
	switch {
	case call.Value >= 0:
		s := cm.Setters[call.Value]
		if t := call.Told.Time; m.Values[call.Value].Kind == field.Clock {
			return fmt.Sprintf("{static const struct slate_time t = {%d, %d, %d, %d, %d, %d}; mark(slate_set_time(%s, %d, &t));}", t.Year(), t.Month(), t.Day(), t.Hour(), t.Minute(), t.Second(), display, s.Number)
		}
		return fmt.Sprintf("mark(slate_set(%s, %d, %d));", display, s.Number, call.Told.Units)
	case call.Place >= 0:
		for _, mv := range cm.Moves {
			if mv.Index == call.Place {
				return fmt.Sprintf("mark(%s());", mv.Func)
			}
		}
	case call.Dots >= 0:
		return fmt.Sprintf("mark(slate_light(%s, %d));", display, call.Dots)
	case call.Screen == m.Blank():
		return fmt.Sprintf("mark(slate_clear(%s));", display)
	}
	return fmt.Sprintf("mark(slate_show(%s, %d));", display, call.Screen)
}

const marking = `
#include <avr/io.h>
static void mark(slate_status status)
{
    GPIOR1 = (uint8_t)status;
    GPIOR2 = (uint8_t)(status >> 8);
    GPIOR0 = 1;
}
int main(void)
{
    port_begin();
`

// crossed builds a main of calls for an ATmega, with the flags of the Makefile.
func crossed(t *testing.T, dir, mcu string, v *c99.View, calls []string) string {
	t.Helper()
	text := fmt.Sprintf("#include %q\n#include \"port.h\"\n%s    %s\n    for (;;) {\n    }\n}\n", v.File+".h", marking, strings.Join(calls, "\n    "))
	if err := os.WriteFile(filepath.Join(dir, "main.c"), []byte(text), 0o644); err != nil {
		t.Fatal(err)
	}
	if said := run(t, dir, "make", "-s", "AVR_CC=avr-gcc -Werror", mcu); said != "" {
		t.Errorf("make %s says %s", mcu, said)
	}
	return filepath.Join(dir, "firmware.elf")
}

// TestAVR runs random calls on random benches on a simulated ATmega328P or ATmega2560 at 16 MHz, and holds
// bytes, pin edges with their times, and glass against the player.
func TestAVR(t *testing.T) {
	images(1000, 10, func(seed uint64, r *rand.Rand, im *firmware.Image) {
		t.Run(fmt.Sprint(seed), func(t *testing.T) {
			dir, v := write(t, im, C)
			type made struct {
				d    int
				call firmtest.Call
			}
			var order []made
			var calls []string
			var answering []byte
			players := make([]*firmware.Player, len(im.Modules))
			for d := range im.Modules {
				m := &im.Modules[d]
				players[d], _ = firmware.NewPlayer(m)
				calls = append(calls, fmt.Sprintf("mark(slate_begin(&%s_display));", v.Modules[d].Ident))
				if m.Link.Kind == link.Backpack {
					answering = append(answering, m.Link.Address)
				}
			}
			for d := range im.Modules {
				for _, c := range firmtest.Calls(r, &im.Modules[d], 10) {
					order = append(order, made{d, c})
					calls = append(calls, written(v, &c, d, &im.Modules[d]))
				}
			}
			mcu := strings.ToLower(im.Host.Part)
			s := boot(t, im, crossed(t, dir, mcu, v, calls), mcu, 60, false, answering...)
			for d := range im.Modules {
				if status := s.mark(); status != 0 {
					t.Fatalf("module %d: begin: %#x", d, status)
				}
				players[d].Begin()
			}
			for n, o := range order {
				if status := s.mark(); status != 0 {
					t.Fatalf("call %d: %#x", n, status)
				}
				o.call.Do(players[o.d], &im.Modules[o.d])
				if err := s.wire.modules[o.d].check(players[o.d]); err != nil {
					t.Fatalf("call %d, module %d (%s, %s): %v", n, o.d, im.Modules[o.d].Display.Geometry.Name, im.Modules[o.d].Link.Kind, err)
				}
			}
			s.end()
		})
	})
}

// TestNoAnswer asks a module that is not there, and one on a bus on which
// nothing moves: both end in an error that says what and where, and neither hangs.
func TestNoAnswer(t *testing.T) {
	im, v, dir := small(t)
	calls := []string{"mark(gate_begin());", "mark(gate_show(GATE_OPEN));", "mark(gate_set_tide(12));"}
	elf := crossed(t, dir, "atmega328p", v, calls)
	for _, c := range []struct {
		says  string
		stuck bool
		want  int
	}{
		{"nobody acknowledges", false, 0x0127},
		{"a line is held low", true, 0x0327},
	} {
		s := boot(t, im, elf, "atmega328p", 20, c.stuck)
		if got := s.mark(); got != c.want {
			t.Errorf("%s: begin returns %#04x, want %#04x", c.says, got, c.want)
		}
		if got := s.mark(); got != 0x0500 {
			t.Errorf("%s: show returns %#04x, want 0x0500: not begun", c.says, got)
		}
		if got := s.mark(); got != 0 {
			t.Errorf("%s: set returns %#04x; it keeps the value for later", c.says, got)
		}
		s.end()
	}
}

// smallBench is a 16×2 behind a backpack with two screens and a field.
func smallBench(t *testing.T) bench.Bench {
	t.Helper()
	f, err := os.Open("testdata/small.json")
	if err != nil {
		t.Fatal(err)
	}
	defer f.Close()
	b, err := benchjson.Read(f)
	if err != nil {
		t.Fatal(err)
	}
	return b
}

// small is the program of smallBench.
func small(t *testing.T) (*firmware.Image, *c99.View, string) {
	t.Helper()
	b := smallBench(t)
	im, err := firmware.New(&b)
	if err != nil {
		t.Fatal(err)
	}
	dir, v := write(t, im, C)
	return im, v, dir
}

// sizes returns flash and RAM of a firmware.
func sizes(t *testing.T, elf string) (flash, ram int) {
	t.Helper()
	lines := strings.Split(run(t, ".", "avr-size", elf), "\n")
	var text, data, bss int
	fmt.Sscan(lines[1], &text, &data, &bss)
	return text + data, data + bss
}

// TestSize holds the example of a 16×2 behind a backpack with two screens and a field
// within 2 KiB of flash and 80 bytes of RAM.
func TestSize(t *testing.T) {
	_, _, dir := small(t)
	run(t, dir, "make", "-s", "atmega328p")
	flash, ram := sizes(t, filepath.Join(dir, "firmware.elf"))
	t.Logf("%d bytes of flash, %d of RAM", flash, ram)
	if flash > 2048 || ram > 80 {
		t.Errorf("%d bytes of flash, %d of RAM", flash, ram)
	}
}

// TestEight holds that eight displays cost eight tables, not eight drivers.
func TestEight(t *testing.T) {
	b := smallBench(t)
	var flash [3]int
	for i, n := range []int{2, 8} {
		eight := b
		eight.Modules = nil
		for k := range n {
			m := b.Modules[0]
			m.ID, m.Name = fmt.Sprintf("m%d", k), fmt.Sprintf("Gate %d", k)
			m.Link.Outputs.Address = 0x20 + k
			eight.Modules = append(eight.Modules, m)
		}
		im, err := firmware.New(&eight)
		if err != nil {
			t.Fatal(err)
		}
		dir, _ := write(t, im, C)
		run(t, dir, "make", "-s", "atmega328p")
		flash[i], _ = sizes(t, filepath.Join(dir, "firmware.elf"))
	}
	each := (flash[1] - flash[0]) / 6
	t.Logf("two displays: %d bytes, eight: %d, %d for each more", flash[0], flash[1], each)
	if each > 300 {
		t.Errorf("each display costs %d bytes; its tables are about 200", each)
	}
}

// unstaged is the demo without its shows.
func unstaged() bench.Bench {
	b := demo.Bench()
	for i := range b.Modules {
		b.Modules[i].Show = bench.Show{}
	}
	return b
}

// TestExample builds the demo's example as its user would, and runs it: each display shows
// each of its screens for a second, and counts.
func TestExample(t *testing.T) {
	b := unstaged()
	im, err := firmware.New(&b)
	if err != nil {
		t.Fatal(err)
	}
	dir, v := write(t, im, C)
	if said := run(t, dir, "make", "-s", "AVR_CC=avr-gcc -Werror", "atmega328p"); said != "" {
		t.Errorf("make says %s", said)
	}
	const rounds = 5
	s := boot(t, im, filepath.Join(dir, "firmware.elf"), "atmega328p", rounds+2, false, im.Modules[0].Link.Address)
	values := make([][]firmware.Told, len(im.Modules))
	for d := range im.Modules {
		values[d] = im.Modules[d].Starts()
	}
	before := time.Duration(0)
	for round := 0; round < rounds; {
		seen := make([][]byte, len(im.Modules))
		for d, one := range s.wire.modules {
			mo := one.rig.Moment()
			glass := mo.Glass(&one.m.Display, 0.9)
			for _, c := range glass.Cells {
				seen[d] = append(seen[d], c.Code)
			}
		}
		if _, _, ok := s.next(); !ok {
			t.Fatalf("the example ended in round %d", round)
		}
		if s.wire.now-before > 900*time.Millisecond {
			for d := range im.Modules {
				m := &im.Modules[d]
				for _, c := range v.Counts {
					for _, set := range v.Modules[d].Setters {
						if set.Func == c.Func {
							values[d][set.Index].Units = c.Start + int64(round)
						}
					}
				}
				screen := round % len(m.Screens)
				if want := m.Shows(screen, values[d]); string(seen[d]) != string(want) {
					t.Errorf("round %d, %s: % X, want % X", round, m.Name, seen[d], want)
				}
			}
			round++
		}
		before = s.wire.now
	}
	for d, one := range s.wire.modules {
		if v, _ := one.rig.Violations(); len(v) > 0 {
			t.Errorf("%s: %+v", im.Modules[d].Name, v[0])
		}
	}
}
