package codegen

import (
	"context"
	"errors"
	"fmt"
	"io"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"slatebell/codegen/layout"
	"slatebell/core/bench"
	"slatebell/core/part/i2cbus"
	"slatebell/core/prove/testbed"
	plan "slatebell/core/ship/bridge"
	"slatebell/core/ship/firmware"
	"slatebell/core/table/pinout"
	"slatebell/core/wire/link"
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
	args := []string{elf, mcu, fmt.Sprint(3600 * clock), fmt.Sprint(layout.One(reads)), "0", "-"}
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
					one.remembers(t, c, i, &wishes[i])
				}
			}
			t.Logf("%s: %+v", mcu, c.State())
			stop()
			if err := <-ended; err != nil {
				t.Error(err)
			}
		})
	}
}

// remembers reads a module's memory, and holds the first row against what was wished for.
func (o *board) remembers(t *testing.T, c *conduct.Conductor, at int, wish *drive.Picture) {
	t.Helper()
	memory, err := c.Memory(t.Context(), at)
	if err != nil {
		t.Errorf("module %d: %v", at, err)
		return
	}
	cols := o.to.wire.modules[at].m.Display.Geometry.Cols
	if got, want := memory.DDRAM[0][:cols], wish.Cells[:cols]; !slices.Equal(got, want) {
		t.Errorf("module %d: its first row reads % X; expected % X", at, got, want)
	}
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
					one.remembers(t, conductor, i, &wishes[i])
				}
			}
			if s := conductor.State(); s.Errors > 0 {
				t.Errorf("%d errors: %+v", s.Errors, s)
			}
			one.mu.Lock()
			defer one.mu.Unlock()
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
	slices.Sort(took)
	b.ReportMetric(float64(took[(len(took)*95+99)/100-1])/1e6, "ms-p95")
	b.ReportMetric(float64(took[len(took)/2])/1e6, "ms-p50")
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
		if err := os.WriteFile(filepath.Join(dir, "avrdude"), []byte("#!/bin/sh\necho \"$@\" > sent\ncp bridge.hex sent.hex\n"), 0o755); err != nil {
			t.Fatal(err)
		}
		if said := run(t, dir, "make", "-s", "AVR_CC=avr-gcc -Werror", "AVRDUDE=./avrdude", "upload", "PORT=/dev/ttyACM7"); said != "" {
			t.Errorf("%s: make says %s", mcu, said)
		}
		sent, err := os.ReadFile(filepath.Join(dir, "sent"))
		if err != nil || strings.TrimSpace(string(sent)) != want {
			t.Errorf("%s: avrdude %s, %v; want %s", mcu, sent, err, want)
		}
		run(t, dir, "avr-objcopy", "-I", "ihex", "-O", "binary", "sent.hex", "sent.bin")
		run(t, dir, "avr-objcopy", "-O", "binary", "-R", ".eeprom", "bridge.elf", "built.bin")
		run(t, dir, "cmp", "sent.bin", "built.bin")
	}
}
