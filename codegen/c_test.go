package codegen

import (
	"bufio"
	"fmt"
	"io"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"slatebell/codegen/c99"
	"slatebell/codegen/layout"
	"slatebell/core/bench"
	"slatebell/core/ship/firmware"
	"slatebell/core/ship/firmware/firmtest"
	"slatebell/core/text/field"
	"slatebell/core/wire/link"
	"slatebell/internal/soak"
)

// strict are the flags under which nothing is said of generated code.
var strict = []string{"-std=c99", "-Wall", "-Wextra", "-Wconversion", "-pedantic", "-Werror"}

// write puts a program's files into a new directory.
func write(t *testing.T, im *firmware.Image, as Language) (dir string, v *c99.View) {
	t.Helper()
	dir = t.TempDir()
	files, err := Files(im, as)
	if err != nil {
		t.Fatal(err)
	}
	for _, f := range files {
		if err := os.MkdirAll(filepath.Dir(filepath.Join(dir, f.Name)), 0o755); err != nil {
			t.Fatal(err)
		}
		if err := os.WriteFile(filepath.Join(dir, f.Name), []byte(f.Text), 0o644); err != nil {
			t.Fatal(err)
		}
	}
	if v, err = c99.New(im); err != nil {
		t.Fatal(err)
	}
	return dir, v
}

// defines tell the harness what a bench has.
func defines(v *c99.View) []string {
	names, stages := make([]string, len(v.Modules)), make([]string, len(v.Modules))
	for i, m := range v.Modules {
		names[i], stages[i] = "&"+m.Ident+"_display", "0"
		if m.Stage != nil {
			stages[i] = "&" + m.Ident + "_stage"
		}
	}
	out := []string{fmt.Sprintf("-DBENCH=%q", v.File+".h"), "-DDISPLAYS=" + strings.Join(names, ","), "-DSTAGES=" + strings.Join(stages, ",")}
	for name, is := range map[string]bool{
		"HAS_BUS": v.Has.Backpack, "HAS_POLL": v.Has.PollBus, "HAS_PINS": v.Has.Pins, "HAS_POLL_PINS": v.Has.PollPins, "HAS_LIGHT": v.Has.Light,
		"HAS_VALUES": v.Has.Values, "HAS_CLOCK": v.Has.Clock, "HAS_PLACES": v.Has.Places, "HAS_TWO": v.Has.Two, "HAS_FREE": v.Has.Free,
		"HAS_STAGE": v.Has.Stage.Any, "HAS_SERIAL": v.Has.Stage.Serial, "HAS_EDIT": v.Has.Stage.Edit,
	} {
		if is {
			out = append(out, "-D"+name)
		}
	}
	return out
}

// run runs a tool in a directory.
func run(t testing.TB, dir, tool string, args ...string) string {
	t.Helper()
	c := exec.Command(tool, args...)
	c.Dir = dir
	out, err := c.CombinedOutput()
	if err != nil {
		t.Fatalf("%s %s: %v\n%s", tool, strings.Join(args, " "), err, out)
	}
	return string(out)
}

// session is a program that runs and is joined to a wire.
type session struct {
	wire *wire
	in   io.Writer
	out  *bufio.Scanner
	gone map[byte]bool // addresses that do not answer
	tick time.Duration // a change of a pin takes so long

	asked func(n int) // what is asked by Q
	told  string      // by T; an empty one ends a line
}

// do sends a call and serves the host until it ends; it returns the call's status.
func (s *session) do(call string) (uint, error) {
	fmt.Fprintln(s.in, call)
	w := s.wire
	for s.out.Scan() {
		line := s.out.Text()
		var a, b uint
		switch line[0] {
		case '=':
			fmt.Sscanf(line, "= %d", &a)
			return a, nil
		case 'U':
			fmt.Sscanf(line, "U %d", &a)
			w.now += time.Duration(a) * time.Microsecond
		case 'P':
			fmt.Sscanf(line, "P %d %d", &a, &b)
			w.now += s.tick
			w.pin(int(a), b != 0)
		case 'T':
			if line == "T " {
				line = "T \n"
			}
			s.told += line[2:]
		case 'Q':
			fmt.Sscanf(line, "Q %d", &a)
			s.asked(int(a))
			fmt.Fprintln(s.in, 0)
		case 'N':
			fmt.Fprintln(s.in, w.now.Microseconds())
		case 'I':
			fmt.Sscanf(line, "I %d", &a)
			w.now += s.tick
			fmt.Fprintln(s.in, map[bool]int{true: 1}[w.level(int(a))])
		case 'W':
			fmt.Fprintln(s.in, s.written(strings.Fields(line)[1:]))
		case 'R':
			fmt.Sscanf(line, "R %d", &a)
			if part := w.parts[byte(a)]; part != nil {
				var b [1]byte
				part.Read(b[:])
				fmt.Fprintln(s.in, b[0])
				continue
			}
			one := w.at(byte(a))
			w.now += one.m.Link.TransactionTime(1)
			fmt.Fprintln(s.in, one.read())
		}
	}
	return 0, fmt.Errorf("the program ended: %w", s.out.Err())
}

// written puts bytes on an expander, as fast as the bus allows, and says what comes of it.
func (s *session) written(numbers []string) int {
	var bytes []byte
	for _, n := range numbers {
		var b byte
		fmt.Sscan(n, &b)
		bytes = append(bytes, b)
	}
	if part := s.wire.parts[bytes[0]]; part != nil {
		part.Write(bytes[1:])
		return 0
	}
	one := s.wire.at(bytes[0])
	if one == nil || s.gone[bytes[0]] {
		return 1
	}
	bit := one.m.Link.Speed.Period()
	at := s.wire.now + link.TimesAt(one.m.Link.Speed).HoldStart + 9*bit
	for _, b := range bytes[1:] {
		at += 9 * bit
		one.put(at, b)
	}
	s.wire.now += one.m.Link.TransactionTime(len(bytes) - 1)
	return 0
}

// start builds the harness of a bench and runs it.
func start(t *testing.T, im *firmware.Image, dir string, v *c99.View) *session {
	t.Helper()
	harness, _ := filepath.Abs("testdata/host.c")
	args := append(strict[:len(strict):len(strict)], "-O1", "-I.")
	args = append(append(args, defines(v)...), "-o", "host", harness, v.File+".c", "port_calls.c")
	run(t, dir, "gcc", args...)
	return talk(t, im, exec.Command(filepath.Join(dir, "host")))
}

// talk starts a harness, which ends with its input.
func talk(t testing.TB, im *firmware.Image, c *exec.Cmd) *session {
	t.Helper()
	in, out := piped(t, c)
	t.Cleanup(func() { in.Close(); c.Wait() })
	return &session{wire: newWire(t, im), in: in, out: out, gone: map[byte]bool{}, tick: 100 * time.Nanosecond}
}

// piped starts a process, and returns its input and its output, line by line.
func piped(t testing.TB, c *exec.Cmd) (io.WriteCloser, *bufio.Scanner) {
	t.Helper()
	in, err := c.StdinPipe()
	if err != nil {
		t.Fatal(err)
	}
	out, err := c.StdoutPipe()
	if err != nil {
		t.Fatal(err)
	}
	if err := c.Start(); err != nil {
		t.Fatal(err)
	}
	return in, bufio.NewScanner(out)
}

// callText writes a call of a player as the harness takes it.
func callText(c *firmtest.Call, d int, m *firmware.Module, cm *layout.Display) string {
	switch {
	case c.Value >= 0:
		s := cm.Setters[c.Value]
		if t := c.Told.Time; m.Values[c.Value].Kind == field.Clock {
			return fmt.Sprintf("t %d %d %d %d %d %d %d %d", d, s.Number, t.Year(), t.Month(), t.Day(), t.Hour(), t.Minute(), t.Second())
		}
		if s.Text {
			return fmt.Sprintf("x %d %d %s 0", d, s.Number, strings.Trim(fmt.Sprint([]byte(c.Told.Codes)), "[]"))
		}
		return fmt.Sprintf("v %d %d %d", d, s.Number, c.Told.Units)
	case c.Place >= 0:
		for _, mv := range cm.Moves {
			if mv.Index == c.Place {
				return fmt.Sprintf("m %d %d %d %d", d, mv.Screen, mv.Address, mv.Enable)
			}
		}
	case c.Dots >= 0:
		return fmt.Sprintf("l %d %d", d, c.Dots)
	case c.Screen == m.Blank():
		return fmt.Sprintf("c %d", d)
	}
	return fmt.Sprintf("s %d %d", d, c.Screen)
}

// images makes images of random benches that can be made.
func images(from uint64, n int, do func(seed uint64, r *rand.Rand, im *firmware.Image)) {
	seed := soak.Seed(from)
	for range soak.Rounds(n) {
		for made := false; !made; seed++ {
			r := rand.New(rand.NewPCG(seed, 11))
			if im, err := firmware.New(firmtest.Bench(r)); err == nil {
				made = true
				do(seed, r, im)
			}
		}
	}
}

// TestC compiles the C of random benches without a warning, makes random calls, and feeds
// what it sends to the rig, with a bus that is as fast as it may be and a host whose pins
// take 100 ns: after every call each glass shows what it is to show, no limit is broken, and
// the bytes are those of the player.
func TestC(t *testing.T) {
	images(0, 12, func(seed uint64, r *rand.Rand, im *firmware.Image) {
		t.Run(fmt.Sprint(seed), func(t *testing.T) {
			dir, v := write(t, im, C)
			for _, name := range []string{"main.c", "port_avr.c"} {
				run(t, dir, "gcc", append(strict[:len(strict):len(strict)], "-Os", "-c", "-o", "x.o", name)...)
			}
			s := start(t, im, dir, v)
			players := make([]*firmware.Player, len(im.Modules))
			for d := range im.Modules {
				players[d], _ = firmware.NewPlayer(&im.Modules[d])
				players[d].Begin()
				if status, err := s.do(fmt.Sprintf("b %d", d)); err != nil || status != 0 {
					t.Fatalf("module %d: begin: %#x, %v", d, status, err)
				}
			}
			for n := range 12 {
				for d := range im.Modules {
					m := &im.Modules[d]
					for _, c := range firmtest.Calls(r, m, 3) {
						call := callText(&c, d, m, v.Modules[d].Display)
						status, err := s.do(call)
						if err != nil || status != 0 {
							t.Fatalf("module %d, %q: %#x, %v", d, call, status, err)
						}
						c.Do(players[d], m)
						if err := s.wire.modules[d].check(players[d]); err != nil {
							t.Fatalf("round %d, module %d (%s, %s, waits %v), %q: %v", n, d, m.Display.Geometry.Name, m.Link.Kind, m.Pauses, call, err)
						}
					}
				}
			}
		})
	})
}

// TestTrouble asks a module that does not answer, and one whose busy flag never clears: the
// calls of both languages say so, with the address, and afterwards begin works again.
func TestTrouble(t *testing.T) {
	im, v, dir := small(t)
	s := start(t, im, dir, v)
	pdir, _ := write(t, im, MicroPython)
	p := python(t, im, pdir, v, "testdata/machine.py")
	expect := func(s *session, call string, want uint, says string) {
		t.Helper()
		status, err := s.do(call)
		if err != nil || status != want || !strings.Contains(s.out.Text(), says) {
			t.Errorf("%q: %#04x, %v: %s; want %#04x and %q", call, status, err, s.out.Text(), want, says)
		}
	}
	expect(s, "b 0", 0, "")
	expect(s, "s 0 9", 0x0600, "")
	expect(p, "displays.gate_show(0)", 1, "call begin first")
	expect(p, "displays.gate_begin()", 0, "")
	s.gone[0x27], p.gone[0x27] = true, true
	expect(s, "s 0 1", 0x0127, "")
	expect(s, "s 0 1", 0x0500, "")
	expect(s, "b 0", 0x0127, "")
	expect(p, "displays.gate_show(1)", 1, "no answer from the display at 0x27")
	s.gone[0x27], p.gone[0x27] = false, false
	for _, call := range []string{"b 0", "s 0 1", "s 0 0", "v 0 0 -99"} {
		expect(s, call, 0, "")
	}
	for _, call := range []string{"displays.gate_begin()", "displays.gate_show(displays.GATE_OPEN)"} {
		expect(p, call, 0, "")
	}

	// the busy flag is read on R/W that the module never answers: it floats high
	b := bench.New("busy")
	b.Modules[0].Link = bench.Link{Kind: "parallel4", ReadWrite: true, Waits: "poll", Pins: map[string]string{"RS": "D2", "E": "D3", "R/W": "D4", "D4": "D5", "D5": "D6", "D6": "D7", "D7": "D8"}}
	im, err := firmware.New(&b)
	if err != nil {
		t.Fatal(err)
	}
	dir, v = write(t, im, C)
	s = start(t, im, dir, v)
	s.wire.modules[0].lines = map[int]string{} // nothing is plugged in
	expect(s, "b 0", 0x0400, "")
}
