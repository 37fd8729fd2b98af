package codegen

import (
	"bufio"
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"math/rand/v2"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"periph.io/x/conn/v3/physic"

	"slatebell/codegen/layout"
	"slatebell/core/bench"
	"slatebell/core/part/i2cbus"
	"slatebell/core/prove/testbed"
	plan "slatebell/core/ship/bridge"
	"slatebell/core/ship/firmware"
	"slatebell/core/table/pinout"
	"slatebell/core/wire/link"
	"slatebell/internal/quantile"
	"slatebell/live/conduct"
	"slatebell/live/drive"
	serial "slatebell/live/ports"
	"slatebell/live/protocol"
	live "slatebell/live/session"
)

// board is a bridge that runs on a simulated ATmega, whose serial line is a pseudo-terminal.
type board struct {
	mu    sync.Mutex // of what it has done to its lines so far
	to    *target
	port  string
	heard time.Duration // when the first character came since it was 0
	did   time.Duration // when it did something to its lines last
}

// handedOver writes the bridge of a bench into a new directory.
func handedOver(t testing.TB, b *bench.Bench) (dir string) {
	t.Helper()
	p, err := plan.New(b)
	if err != nil {
		t.Fatal(err)
	}
	files, err := Bridge(p, firmware.Bare(b))
	if err != nil {
		t.Fatal(err)
	}
	dir = t.TempDir()
	for _, f := range files {
		name := filepath.Join(dir, f.Name)
		if err := errors.Join(os.MkdirAll(filepath.Dir(name), 0o755), os.WriteFile(name, []byte(f.Text), 0o644)); err != nil {
			t.Fatal(err)
		}
	}
	return dir
}

// sketchBridge builds the bridge as the editor does, its parts put together behind stand-ins of the editor's calls, and
// returns its firmware.
func sketchBridge(t testing.TB, dir, compiler string, flags ...string) string {
	t.Helper()
	folder := filepath.Join(dir, "bridge")
	text := "#include \"editor.h\"\n"
	for _, name := range []string{"bridge.ino", "port.ino"} {
		part, err := os.ReadFile(filepath.Join(folder, name))
		if err != nil {
			t.Fatal(err)
		}
		text += string(part)
	}
	for name, text := range map[string]string{"whole.cpp": text, "script.inc": "", "quiet.inc": ""} {
		if err := os.WriteFile(filepath.Join(folder, name), []byte(text), 0o644); err != nil {
			t.Fatal(err)
		}
	}
	stand, err := filepath.Abs("testdata")
	if err != nil {
		t.Fatal(err)
	}
	var objects []string
	for _, name := range []string{"bridge", "bridge_avr", "port_avr"} {
		run(t, folder, strings.Replace(compiler, "g++", "gcc", 1), append(append([]string{"-std=gnu11", "-Wall", "-Wextra", "-Werror", "-Os", "-c", "-o", name + ".o"}, flags...), name+".c")...)
		objects = append(objects, name+".o")
	}
	run(t, folder, compiler, append(append([]string{"-std=gnu++17", "-Wall", "-Wextra", "-Werror", "-Os", "-I", ".", "-I", stand, "-o", "sketch.elf"}, flags...), append([]string{"whole.cpp"}, objects...)...)...)
	return filepath.Join(folder, "sketch.elf")
}

// bridged exports the bridge of a bench, builds it with its Makefile or as a sketch, and runs it.
func bridged(t testing.TB, b *bench.Bench, mcu string, sketch, reads bool) *board {
	t.Helper()
	dir := handedOver(t, b)
	elf := filepath.Join(dir, "bridge.elf")
	if sketch {
		elf = sketchBridge(t, dir, "avr-g++", "-mmcu="+mcu, "-DF_CPU=16000000UL")
	} else if said := run(t, dir, "make", "-s", "AVR_CC=avr-gcc -Werror"); said != "" {
		t.Errorf("make says %s", said)
	}
	pinned := pinout.Pinned(b)
	im, err := firmware.New(&pinned)
	if err != nil {
		t.Fatal(err)
	}
	tool, err := recorder()
	if err != nil {
		t.Fatal(err)
	}
	script := filepath.Join(dir, "outside")
	if err := os.WriteFile(script, []byte(outside(b)), 0o644); err != nil {
		t.Fatal(err)
	}
	args := []string{elf, mcu, fmt.Sprint(3600 * clock), fmt.Sprint(layout.One(reads)), "0", script}
	for i := range im.Modules {
		if m := &im.Modules[i]; m.Link.Kind == link.Backpack {
			args = append(args, fmt.Sprint(m.Link.Address))
		}
	}
	for i := range b.Devices {
		args = append(args, fmt.Sprint(b.Devices[i].Address))
	}
	c := exec.Command(tool, args...)
	c.Env = append(os.Environ(), "PTY=1")
	one := &board{to: &target{t: t, wire: newWire(t, im), ask: reads}}
	one.to.wire.parts = map[byte]*i2cbus.Registers{}
	for i := range b.Devices {
		one.to.wire.parts[byte(b.Devices[i].Address)] = &i2cbus.Registers{}
	}
	one.to.in, one.to.out = piped(t, c)
	for one.port == "" && one.to.out.Scan() {
		fmt.Sscanf(one.to.out.Text(), "Y 0 %s", &one.port)
	}
	ended := make(chan struct{})
	t.Cleanup(func() { c.Process.Kill(); <-ended; c.Wait() })
	go func() {
		defer close(ended)
		for one.to.out.Scan() {
			one.mu.Lock()
			text := one.to.out.Text()
			one.to.event(text)
			switch {
			case text == "":
			case text[0] == 'H' && one.heard == 0:
				one.heard = one.to.wire.now
			case text[0] == 'B' || text[0] == 'E' || text[0] == 'P':
				one.did = one.to.wire.now
			}
			one.mu.Unlock()
		}
	}()
	return one
}

// Where the encoder of crossing's benches is joined, and how long one of its notches takes; how fast characters come over the
// other serial line of an ATmega2560.
const (
	encoderA, encoderB = "A1", "A2"
	notch              = 8 * time.Millisecond
	character          = 20 * time.Millisecond
	saying             = "Ebb 0.4 m. "
)

// outside is what hands do for the first simulated minutes: an encoder is turned evenly, with contacts that bounce, and characters come over
// serial line 1.
func outside(b *bench.Bench) string {
	board := b.Host.Board()
	a, _ := board.Number(encoderA)
	o, _ := board.Number(encoderB)
	var out strings.Builder
	at := func(d time.Duration, what byte, of, to int) {
		fmt.Fprintf(&out, "%d %c %d %d\n", d*clock/time.Second, what, of, to)
	}
	at(0, 'p', a, 1)
	at(0, 'p', o, 1)
	for now := notch; now < 3*time.Minute; now += notch {
		for i, change := range [][2]int{{a, 0}, {o, 0}, {a, 1}, {o, 1}} {
			when := now + time.Duration(i)*notch/4
			at(when, 'p', change[0], change[1])
			at(when+20*time.Microsecond, 'p', change[0], 1-change[1])
			at(when+40*time.Microsecond, 'p', change[0], change[1])
		}
		if b.Host.Part == "ATmega2560" && now%character < notch {
			at(now+notch-time.Microsecond, 's', 1, int(saying[int(now/character)%len(saying)]))
		}
	}
	return out.String()
}

// listens asks an ATmega's bridge for its encoder, its clock and its other serial line.
func listens(t *testing.T, c *conduct.Conductor, b *bench.Bench) {
	t.Helper()
	board := b.Host.Board()
	a, _ := board.Number(encoderA)
	o, _ := board.Number(encoderB)
	var said string
	current := false // what had come before is behind
	ask := func() (notches byte, at uint16) {
		asks := []protocol.Record{{Op: protocol.OpTurns, Pin: byte(a), PinB: byte(o), PullUp: true}, {Op: protocol.OpClock}}
		if b.Host.Part == "ATmega2560" {
			asks = append(asks, protocol.Record{Op: protocol.OpHeard, Line: 1, Count: 20})
		}
		var got []byte
		if err := c.Ask(t.Context(), func(ctx context.Context, s *live.Session) (err error) {
			got, err = s.Do(ctx, asks, nil)
			return err
		}); err != nil {
			t.Fatal(err)
		}
		if len(got) > 3 {
			if current {
				said += string(got[4 : 4+got[3]])
			}
			current = current || got[3] < 20
		}
		return got[0], uint16(got[1])<<8 | uint16(got[2])
	}
	before, from := ask()
	counted, passed := 0, time.Duration(0)
	for passed < time.Second {
		now, at := ask()
		counted, passed = counted+int(int8(now-before)), passed+time.Duration(at-from)*protocol.ClockStep
		before, from = now, at
	}
	if want := int(passed / notch); max(counted, -counted) < want-2 || max(counted, -counted) > want+2 {
		t.Errorf("in %v it counts %d notches; expected %d", passed, counted, want)
	}
	if b.Host.Part == "ATmega2560" && (len(said) < 20 || !strings.Contains(strings.Repeat(saying, 40), said)) {
		t.Errorf("over its serial line it hears %q", said)
	}
}

// first wishes for the first screen of each module, and waits until they show it.
func (o *board) first(t testing.TB, c *conduct.Conductor, b *bench.Bench) (wishes []drive.Picture) {
	t.Helper()
	for i := range b.Modules {
		w, err := drive.Compose(b, testbed.At{Module: i})
		if err != nil {
			t.Fatal(err)
		}
		wishes = append(wishes, w)
		c.Wish(i, w)
	}
	o.shows(t, c, wishes)
	return wishes
}

// shows waits until every module shows what was wished for it.
func (o *board) shows(t testing.TB, c *conduct.Conductor, wishes []drive.Picture) {
	t.Helper()
	for end := time.Now().Add(60 * time.Second); ; time.Sleep(5 * time.Millisecond) {
		s := c.State()
		if !slices.ContainsFunc(s.Modules, func(m conduct.ModuleState) bool { return m.Waits || !m.Holds }) {
			break
		}
		if time.Now().After(end) {
			t.Fatalf("not all is sent: %+v", s)
		}
	}
	// What the board did is told over a pipe of its own, a little later.
	for end := time.Now().Add(5 * time.Second); ; time.Sleep(time.Millisecond) {
		wrong := o.differs(t, wishes)
		if wrong == "" {
			return
		}
		if time.Now().After(end) {
			t.Fatal(wrong)
		}
	}
}

// differs says where a glass is not as it was wished for; "" where all are.
func (o *board) differs(t testing.TB, wishes []drive.Picture) string {
	t.Helper()
	o.mu.Lock()
	defer o.mu.Unlock()
	for i, one := range o.to.wire.modules {
		if kept, _ := one.rig.Violations(); len(kept) > 0 {
			t.Fatalf("module %d: %+v", i, kept[0])
		}
		moment := one.rig.Moment()
		glass := moment.Glass(&one.m.Display, 1)
		for at, cell := range glass.Cells {
			if cell.Code != wishes[i].Cells[at] {
				return fmt.Sprintf("cell %d of module %d shows 0x%02X; expected 0x%02X", at, i, cell.Code, wishes[i].Cells[at])
			}
		}
	}
	return ""
}

// crossing are benches with every link, on both ATmegas.
func crossing() map[string]bench.Bench {
	small := bench.New("Ferry")
	small.Host.Part = "ATmega328P"
	small.Modules[0].Display.Geometry, small.Modules[0].Link.Kind, small.Modules[0].Link.Outputs.Address = "20x4", "backpack", 0x27
	small.Modules = append(small.Modules, bench.NewModule("quay", "Quay"), bench.NewModule("mast", "Mast"))
	small.Modules[1].Link.Kind, small.Modules[1].Link.ReadWrite = "parallel4", true
	small.Modules[2].Link.Kind = "shift"
	small.Devices = []bench.Device{{ID: "clock", Part: "DS3231", Address: 0x68}}
	large := bench.New("Lock keeper")
	large.Host.Part = "ATmega2560"
	large.Modules[0].Display.Geometry, large.Modules[0].Link.Kind, large.Modules[0].Link.ReadWrite = "40x4", "parallel8", true
	large.Modules = append(large.Modules, bench.NewModule("gauge", "Gauge"))
	large.Modules[1].Link.Kind, large.Modules[1].Link.Outputs.Address = "backpack", 0x3F
	large.Modules[1].Show.Inputs = []bench.Input{{ID: "sender", Kind: "serial", Pin: "D19"}}
	return map[string]bench.Bench{"atmega328p": small, "atmega2560": large}
}

// TestBridge drives the exported bridge, built with its Makefile and run on a simulated ATmega, over a pseudo-terminal, as the
// application drives a board: a hundred edits over every link, with limits kept; the bus scanned; what can be read is read; and
// again with bytes lost, doubled and changed on the line.
func TestBridge(t *testing.T) {
	t.Parallel()
	for mcu, b := range crossing() {
		t.Run(mcu, func(t *testing.T) {
			t.Parallel()
			one := bridged(t, &b, mcu, false, true)
			rng := rand.New(rand.NewPCG(25, uint64(len(mcu))))
			spoils := &spoiler{rng: rand.New(rand.NewPCG(25, 9))}
			c, err := conduct.New(&b, func(ctx context.Context) (io.ReadWriteCloser, error) {
				port, err := serial.Open(ctx, one.port)
				return &spoilt{port, spoils}, err
			}, live.Options{})
			if err != nil {
				t.Fatal(err)
			}
			ctx, stop := context.WithCancel(t.Context())
			ended := make(chan error, 1)
			go func() { ended <- c.Run(ctx) }()
			wishes := one.first(t, c, &b)
			for edit := range 100 {
				if edit == 50 {
					spoils.set(0.001)
				}
				at := rng.IntN(len(wishes))
				cells := slices.Clone(wishes[at].Cells)
				for range 1 + rng.IntN(3) {
					cells[rng.IntN(len(cells))] = byte(0x30 + rng.IntN(64))
				}
				wishes[at].Cells = cells
				c.Wish(at, wishes[at])
				if edit%10 == 0 {
					one.shows(t, c, wishes)
				}
			}
			one.shows(t, c, wishes)
			if s := c.State(); s.Errors == 0 {
				t.Error("nothing went wrong on a line that spoils bytes")
			}
			spoils.set(0)
			want := map[string][]i2cbus.Address{"atmega328p": {0x27, 0x68}, "atmega2560": {0x3F}}[mcu]
			if found, err := c.Scan(ctx); err != nil || !slices.Equal(found, want) {
				t.Errorf("a scan finds %v (%v); expected %v", found, err, want)
			}
			for i := range wishes {
				if c.State().Modules[i].Reads {
					one.remembers(t, c, i, wishes, func(at int) bool { return one.to.wire.modules[at].m.Link.Kind != link.Backpack })
				}
			}
			listens(t, c, &b)
			t.Logf("%s: %+v", mcu, c.State())
			stop()
			if err := <-ended; err != nil {
				t.Error(err)
			}
		})
	}
}

// TestBridgeServed lets the program itself, as it is served to a page, connect to the exported bridge on a simulated ATmega328P, over the
// pseudo-terminal that it is told of, and asks it as a page does: each module shows what was composed, edit by edit; then the bus is scanned.
func TestBridgeServed(t *testing.T) {
	t.Parallel()
	b := crossing()["atmega328p"]
	one := bridged(t, &b, "atmega328p", false, true)
	dir := t.TempDir()
	program := filepath.Join(dir, "slatebell")
	run(t, ".", "go", "build", "-o", program, "slatebell/cmd/slatebell")
	c := exec.Command(program, "serve", "--addr", "127.0.0.1:0", "--data", dir, "--port", one.port)
	out, err := c.StdoutPipe()
	if err == nil {
		err = c.Start()
	}
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { c.Process.Signal(os.Interrupt); c.Wait() })
	said, err := bufio.NewReader(out).ReadString('\n')
	if err != nil {
		t.Fatal(err)
	}
	_, rest, _ := strings.Cut(said, "http://")
	at, _, _ := strings.Cut(rest, "/")
	ask := func(path string, body any, into any) {
		t.Helper()
		text, err := json.Marshal(body)
		if err != nil {
			t.Fatal(err)
		}
		q, err := http.NewRequest(http.MethodPost, "http://"+at+"/api/table/"+path, bytes.NewReader(text))
		if err != nil {
			t.Fatal(err)
		}
		q.Header.Set("Content-Type", "application/json")
		q.Header.Set("Origin", "http://"+at) // as this machine's own page
		r, err := http.DefaultClient.Do(q)
		if err != nil {
			t.Fatal(err)
		}
		defer r.Body.Close()
		answer, err := io.ReadAll(r.Body)
		if err != nil || r.StatusCode != http.StatusOK {
			t.Fatalf("%s answers %s: %s (%v)", path, r.Status, answer, err)
		}
		if into != nil && json.Unmarshal(answer, into) != nil {
			t.Fatalf("%s answers %s", path, answer)
		}
	}
	ask("connect", map[string]any{"port": one.port, "by": "desk", "stored": 1, "bench": b}, nil)
	rng := rand.New(rand.NewPCG(25, 12))
	wishes := make([]drive.Picture, len(b.Modules))
	for edit := range 24 {
		for i := range b.Modules {
			if edit > 0 && i != edit%len(b.Modules) {
				continue
			}
			setup, err := testbed.Of(&b, testbed.At{Module: i})
			if err != nil {
				t.Fatal(err)
			}
			setup.Rows = []string{fmt.Sprintf("Edit %d, %c", edit, 'A'+rng.IntN(26))}
			if wishes[i], err = drive.ComposeSetup(&setup); err != nil {
				t.Fatal(err)
			}
			ask("show", map[string]any{"by": "desk", "setup": setup}, nil)
		}
		for end := time.Now().Add(30 * time.Second); ; time.Sleep(5 * time.Millisecond) {
			wrong := one.differs(t, wishes)
			if wrong == "" {
				break
			}
			if time.Now().After(end) {
				t.Fatalf("edit %d: %s", edit, wrong)
			}
		}
	}
	var scanned struct{ Found []int }
	if ask("scan", nil, &scanned); !slices.Equal(scanned.Found, []int{0x27, 0x68}) {
		t.Errorf("a scan finds %v", scanned.Found)
	}
}

// remembers reads a module's memory, and holds it against what was wished for; tries its data lines; and times its oscillator,
// which is judged where exact says so: the simulated ATmega's bus takes 9 µs a byte, whatever its clock.
func (o *board) remembers(t *testing.T, c *conduct.Conductor, at int, wishes []drive.Picture, exact func(at int) bool) {
	t.Helper()
	memory, differ, err := c.Memory(t.Context(), at)
	if err != nil {
		t.Errorf("module %d: %v", at, err)
		return
	}
	cols := o.to.wire.modules[at].m.Display.Geometry.Cols
	if got, want := memory.DDRAM[0][:cols], wishes[at].Cells[:cols]; !slices.Equal(got, want) {
		t.Errorf("module %d: its first row reads % X; expected % X", at, got, want)
	}
	if !differ.None() {
		t.Errorf("module %d: its memory differs from what it was sent: %+v", at, differ)
	}
	wrong, n, err := c.Lines(t.Context(), at)
	if err != nil || n > 0 {
		t.Errorf("module %d: of its data lines it is said %v, %d bytes differ (%v)", at, wrong, n, err)
	}
	o.shows(t, c, wishes)
	speed, err := c.Oscillator(t.Context(), at)
	if is := speed.Oscillator / physic.KiloHertz; err != nil || exact(at) && (is < 265 || is > 275) {
		t.Errorf("module %d: its oscillator runs at %v (%v); expected 270 kHz", at, speed, err)
	}
	t.Logf("module %d: a clear takes %v, by which its oscillator runs at %v", at, speed.Clear, speed.Oscillator)
	o.shows(t, c, wishes)
}

// spoiler says what happens to bytes on a line.
type spoiler struct {
	mu   sync.Mutex
	rng  *rand.Rand
	rate float64
}

func (s *spoiler) set(rate float64) {
	s.mu.Lock()
	defer s.mu.Unlock()
	s.rate = rate
}

func (s *spoiler) pass(data []byte) (out []byte) {
	s.mu.Lock()
	defer s.mu.Unlock()
	for _, b := range data {
		switch {
		case s.rng.Float64() >= s.rate:
			out = append(out, b)
		case s.rng.IntN(2) == 0:
			out = append(out, b, b)
		case s.rng.IntN(2) == 0:
			out = append(out, b^byte(1+s.rng.IntN(255)))
		}
	}
	return out
}

// spoilt is a line with a spoiler on it, both ways.
type spoilt struct {
	io.ReadWriteCloser
	by *spoiler
}

func (s *spoilt) Write(data []byte) (int, error) {
	if _, err := s.ReadWriteCloser.Write(s.by.pass(data)); err != nil {
		return 0, err
	}
	return len(data), nil
}

func (s *spoilt) Read(into []byte) (int, error) {
	part := make([]byte, max(1, len(into)/2))
	n, err := s.ReadWriteCloser.Read(part)
	return copy(into, s.by.pass(part[:n])), err
}

// interpreted is the MicroPython bridge under node: bytes that are written to it are fed to it, and what it sends is read.
type interpreted struct {
	s    *session
	mu   *sync.Mutex
	back chan []byte
	left []byte
}

func (o *interpreted) Write(data []byte) (int, error) {
	o.mu.Lock()
	defer o.mu.Unlock()
	o.s.told = ""
	if status, err := o.s.do(fmt.Sprintf("line.feed(bytes([%s]))", strings.ReplaceAll(strings.Trim(fmt.Sprint(data), "[]"), " ", ","))); err != nil || status != 0 {
		return 0, fmt.Errorf("feeding: status %d, %w", status, err)
	}
	var out []byte
	for text := o.s.told; len(text) >= 2; text = text[2:] {
		var b byte
		fmt.Sscanf(text[:2], "%02X", &b)
		out = append(out, b)
	}
	if len(out) > 0 {
		o.back <- out
	}
	return len(data), nil
}

func (o *interpreted) Read(into []byte) (int, error) {
	if len(o.left) == 0 {
		more, open := <-o.back
		if !open {
			return 0, io.EOF
		}
		o.left = more
	}
	n := copy(into, o.left)
	o.left = o.left[n:]
	return n, nil
}

func (o *interpreted) Close() error { return nil }

// served runs the loop of main.py over a line on which a greeting comes, and then what a tool sends to have the board back.
const served = `import sys, outside
class Other: pass
class Line:
    come = [%s, 13, 3]
    def read(self, n): return bytes([self.come.pop(0)])
    def write(self, data): outside.tell("T " + "".join(["%%02X" %% b for b in data]))
class Poll:
    def register(self, line, what): pass
    def poll(self, ms): return len(Line.come) > 0
fake, line, kinds, waits = Other(), Other(), Other(), Other()
line.buffer = Line()
fake.stdin = fake.stdout = line
kinds.kbd_intr = lambda n: outside.tell("T interrupts %%d" %% n)
waits.POLLIN, waits.poll = 1, Poll
sys.modules["sys"], sys.modules["micropython"], sys.modules["select"] = fake, kinds, waits
displays.serve()
`

// turned asks for an encoder on two pins, turns it by three notches up and one down with contacts that bounce, asks again, and
// asks for a serial line twice.
const turned = `class Contact:
    IN, PULL_UP, IRQ_RISING, IRQ_FALLING = 0, 1, 1, 2
    levels = {}
    def __init__(self, n, mode, pull=None): self.n = n
    def value(self): return self.levels.get(self.n, 1)
    def irq(self, handler, trigger=0): self.handler = handler
    def put(self, level):
        for to in (level, 1 - level, level):
            self.levels[self.n] = to
            self.handler(self)
displays.Pin = Contact
asks = bytes((11, 0x80 | %d, %d, 10, 12, %d, 6, 12, %d, 6))
def answers():
    body, out = asks, b""
    while body:
        status, read, body = displays.carry_out(body)
        assert status == 0, status
        out += read
    return out
import outside
displays.heard[%d].said = b"Ebb 0.4 m"
first = answers()
a, b = list(displays.encoders.values())[0][:2]
for order in ((a, b), (a, b), (a, b), (b, a)):
    for level in (0, 1):
        for pin in order: pin.put(level)
for read in (first, answers()): outside.tell("T " + " ".join([str(n) for n in read]) + "; ")
`

// TestBridgePython drives the exported MicroPython bridge of an RP2040 and an ESP32, under node against recording pins and a
// recording bus: every link, edits, the bus scanned, what can be read is read.
func TestBridgePython(t *testing.T) {
	t.Parallel()
	for _, part := range []string{"RP2040", "ESP32"} {
		t.Run(part, func(t *testing.T) {
			t.Parallel()
			b := crossing()["atmega328p"]
			b.Host.Part = part
			for i := range b.Modules {
				b.Modules[i].Link.HostMV, b.Modules[i].Display.Supply.MilliVolts = 3300, 3300
			}
			free := map[string][2]int{"RP2040": {20, 21}, "ESP32": {34, 35}}
			b.Modules[0].Show.Inputs = []bench.Input{{ID: "sender", Kind: "serial", Pin: map[string]string{"RP2040": "GP17", "ESP32": "GPIO16"}[part]}}
			dir := handedOver(t, &b)
			pinned := pinout.Pinned(&b)
			im, err := firmware.New(&pinned)
			if err != nil {
				t.Fatal(err)
			}
			runtime, _ := filepath.Abs("../web/node_modules/@micropython/micropython-webassembly-pyscript/micropython.mjs")
			c := exec.Command("node", "testdata/micropython.mjs", runtime, dir, "bridge", "testdata/machine.py")
			c.Stderr = os.Stderr
			s := talk(t, im, c)
			s.tick = time.Microsecond // a pin takes that long at least
			s.wire.parts = map[byte]*i2cbus.Registers{0x68: {}}
			one := &board{to: &target{t: t, wire: s.wire}}
			line := &interpreted{s: s, mu: &one.mu, back: make(chan []byte, 64)}
			if status, err := s.do(`import outside; line = displays.Bridge(lambda data: outside.tell("T " + "".join(["%02X" % b for b in data])))`); err != nil || status != 0 {
				t.Fatalf("beginning: %d, %v", status, err)
			}
			conductor, err := conduct.New(&b, func(context.Context) (io.ReadWriteCloser, error) { return line, nil }, live.Options{AnswerIn: 20 * time.Second})
			if err != nil {
				t.Fatal(err)
			}
			go conductor.Run(t.Context())
			rng := rand.New(rand.NewPCG(25, 7))
			wishes := one.first(t, conductor, &b)
			for edit := range 30 {
				at := rng.IntN(len(wishes))
				cells := slices.Clone(wishes[at].Cells)
				cells[rng.IntN(len(cells))] = byte(0x30 + rng.IntN(64))
				wishes[at].Cells = cells
				conductor.Wish(at, wishes[at])
				if edit%5 == 4 {
					one.shows(t, conductor, wishes)
				}
			}
			if found, err := conductor.Scan(t.Context()); err != nil || !slices.Equal(found, []i2cbus.Address{0x27, 0x68}) {
				t.Errorf("a scan finds %v (%v)", found, err)
			}
			for i := range wishes {
				if conductor.State().Modules[i].Reads {
					one.remembers(t, conductor, i, wishes, func(int) bool { return true })
				}
			}
			if s := conductor.State(); s.Errors > 0 {
				t.Errorf("%d errors: %+v", s.Errors, s)
			}
			one.mu.Lock()
			defer one.mu.Unlock()
			s.told = ""
			board := b.Host.Board()
			uart, _ := board.Line(b.Modules[0].Show.Inputs[0].Pin)
			if status, err := s.do(fmt.Sprintf("exec(%q)", fmt.Sprintf(turned, free[part][0], free[part][1], uart.Number, uart.Number, uart.Number))); err != nil || status != 0 {
				t.Fatalf("turning: %d, %v", status, err)
			}
			first, then, _ := strings.Cut(s.told, "; ")
			for says, want := range map[string]string{first: "0 6 69 98 98 32 48 46 3 52 32 109 0 0 0", then: "2 0 0 0 0 0 0 0 0 0 0 0 0 0 0; "} {
				fields := strings.Split(says, " ")
				if got := strings.Join(slices.Delete(fields, 1, 3), " "); got != want { // but for the clock
					t.Errorf("its encoder and its line say %q; expected %q", got, want)
				}
			}
			hello := protocol.Frame{Kind: protocol.Hello, Session: 5, Body: (&protocol.Greeting{}).Append(nil)}
			s.told = ""
			if status, err := s.do(fmt.Sprintf("exec(%q)", fmt.Sprintf(served, strings.ReplaceAll(strings.Trim(fmt.Sprint(hello.Append([]byte{0})), "[]"), " ", ",")))); err != nil || status != 0 {
				t.Fatalf("serving: %d, %v", status, err)
			}
			here := protocol.Frame{Kind: protocol.Here, Session: 5}
			if begins := fmt.Sprintf("%02X", byte(here.Kind)); !strings.Contains(s.told, begins+"05") || !strings.HasSuffix(s.told, "interrupts 3") {
				t.Errorf("it serves %s; expected an answer to session 5, and the board given back", s.told)
			}
		})
	}
}

// TestBridgeSketch builds the bridge as the editor for hobby boards does: for an ATmega328P it is run and drives the glass, for
// other boards it is compiled against the editor's calls.
func TestBridgeSketch(t *testing.T) {
	t.Parallel()
	b := crossing()["atmega328p"]
	one := bridged(t, &b, "atmega328p", true, true)
	c, err := conduct.New(&b, func(ctx context.Context) (io.ReadWriteCloser, error) { return serial.Open(ctx, one.port) }, live.Options{})
	if err != nil {
		t.Fatal(err)
	}
	ctx, stop := context.WithCancel(t.Context())
	ended := make(chan error, 1)
	go func() { ended <- c.Run(ctx) }()
	one.first(t, c, &b)
	stop()
	if err := <-ended; err != nil {
		t.Error(err)
	}
	for _, part := range []string{"ESP32", "ESP8266", "RP2040"} {
		b := crossing()["atmega328p"]
		b.Host.Part = part
		if part == "ESP8266" {
			b.Modules = b.Modules[:1] // it has few pins
		}
		sketchBridge(t, handedOver(t, &b), "g++", "-DSERIAL1=1")
	}
}

// BenchmarkLiveEdit changes single cells of a 20×4 behind a backpack, and reports what passes on the simulated ATmega328P from the
// first character that it hears to the last byte on its bus: the line's time, the bridge's and the bus's.
func BenchmarkLiveEdit(b *testing.B) {
	doc := crossing()["atmega328p"]
	doc.Modules = doc.Modules[:1]
	one := bridged(b, &doc, "atmega328p", false, false)
	c, err := conduct.New(&doc, func(ctx context.Context) (io.ReadWriteCloser, error) { return serial.Open(ctx, one.port) }, live.Options{})
	if err != nil {
		b.Fatal(err)
	}
	go c.Run(b.Context())
	wish, err := drive.Compose(&doc, testbed.At{})
	if err != nil {
		b.Fatal(err)
	}
	c.Wish(0, wish)
	one.shows(b, c, []drive.Picture{wish})
	rng := rand.New(rand.NewPCG(25, 11))
	var took []time.Duration
	for b.Loop() {
		cells := slices.Clone(wish.Cells)
		cells[rng.IntN(len(cells))] = byte(0x30 + rng.IntN(64))
		wish.Cells = cells
		one.mu.Lock()
		one.heard = 0
		one.mu.Unlock()
		c.Wish(0, wish)
		one.shows(b, c, []drive.Picture{wish})
		one.mu.Lock()
		if one.heard > 0 && one.did > one.heard {
			took = append(took, one.did-one.heard)
		}
		one.mu.Unlock()
	}
	b.ReportMetric(float64(quantile.Of(took, .95))/1e6, "ms-p95")
	b.ReportMetric(float64(quantile.Of(took, .5))/1e6, "ms-p50")
}

// TestBridgeUpload lets the Makefile hand the bridge to a stand-in of avrdude.
func TestBridgeUpload(t *testing.T) {
	t.Parallel()
	for mcu, want := range map[string]string{
		"atmega328p": "-p m328p -c arduino -P /dev/ttyACM7 -b 115200 -D -U flash:w:bridge.hex:i",
		"atmega2560": "-p m2560 -c wiring -P /dev/ttyACM7 -b 115200 -D -U flash:w:bridge.hex:i",
	} {
		b := crossing()[mcu]
		dir := handedOver(t, &b)
		sends(t, dir, "bridge", uploads(t, dir, "bridge"), want)
	}
}
