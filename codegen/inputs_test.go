package codegen

import (
	"fmt"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"slatebell/codegen/c99"
	"slatebell/codegen/layout"
	"slatebell/codegen/source"
	"slatebell/core/bench"
	"slatebell/core/bench/show"
	"slatebell/core/part/host"
	"slatebell/core/ship/firmware"
	"slatebell/core/ship/play"
	"slatebell/core/table/pinout"
	"slatebell/core/text/field"
	"slatebell/core/wire/rig"
	"slatebell/internal/soak"
)

// pier is a bench whose show listens to an input of every kind that a program reads, on the pins
// of a host and behind either link.
func pier(t *testing.T, part, kind string) *bench.Bench {
	t.Helper()
	b := smallBench(t)
	b.Host.Part, b.Bus, b.Devices = part, bench.Bus{}, nil
	pins := map[string]string{"go": "D2", "down": "D3", "taps": "D4", "a": "D5", "b": "D6", "tide": "A0", "wind": "A1", "radio": "D0", "row": "A2"}
	switch part {
	case "RP2040", "RP2350":
		pins = map[string]string{"go": "GP2", "down": "GP3", "taps": "GP6", "a": "GP7", "b": "GP8", "tide": "GP26", "wind": "GP27", "radio": "GP5", "row": "GP28"}
	case "ESP32":
		pins = map[string]string{"go": "GPIO4", "down": "GPIO18", "taps": "GPIO19", "a": "GPIO25", "b": "GPIO26", "tide": "GPIO36", "wind": "GPIO39", "radio": "GPIO16", "row": "GPIO34"}
	case "STM32F103":
		pins = map[string]string{"go": "PB12", "down": "PB13", "taps": "PB14", "a": "PB15", "b": "PA8", "tide": "PA0", "wind": "PA1", "radio": "PA3", "row": "PA4"}
	case "ESP8266": // which reads one voltage
		pins = map[string]string{"go": "D5", "down": "D6", "taps": "D7", "tide": "A0", "radio": "RX"}
	case "ATtiny85": // which has three pins beside the bus
		pins = map[string]string{"go": "P1", "down": "P3", "tide": "P4"}
	case "ATmega32U4":
		pins = map[string]string{"go": "D5", "down": "D6", "taps": "D7", "a": "D8", "b": "D9", "tide": "A0", "wind": "D10", "radio": "D0", "row": "A3"}
	case "ATmega2560":
		pins = map[string]string{"go": "D30", "down": "D22", "taps": "D40", "a": "A15", "b": "D49", "tide": "A9", "wind": "A2", "radio": "D19", "row": "A12"}
	}
	m := &b.Modules[0]
	m.Display.Geometry = "20x4"
	if kind != "backpack" {
		m.Link = bench.Link{Kind: kind, Pins: map[string]string{"RS": "D7", "E": "D8", "D4": "D9", "D5": "D10", "D6": "D11", "D7": "D12"}}
		if part == "RP2040" {
			m.Link.Pins = map[string]string{"RS": "GP10", "E": "GP11", "D4": "GP12", "D5": "GP13", "D6": "GP14", "D7": "GP15"}
		}
	}
	number := func(name string, row, col, width, decimals int, low, high float64) field.Field {
		return field.Field{Name: name, Row: row, Col: col, Width: width, Kind: field.Number, Range: field.Range{Min: low, Max: high}, Digits: field.Digits{Decimals: decimals}, Sample: "1"}
	}
	fields := []field.Field{number("Tide", 0, 5, 4, 0, 0, 1023), number("Wind", 0, 15, 4, 1, -9.9, 20), number("Notch", 1, 6, 3, 0, 0, 999), number("Taps", 1, 15, 3, 0, 0, 999),
		{Name: "Word", Row: 2, Width: 12, Kind: field.Free, Sample: "Ahoy"}, number("Rows", 2, 15, 3, 0, 0, 9)}
	m.Screens = []bench.Screen{
		{ID: "day", Name: "Day", Rows: []string{"Tide      Wind", "Notch     Taps", "", "Day"}, Fields: fields},
		{ID: "night", Name: "Night", Rows: []string{"Tide      Wind", "Notch     Taps", "", "         Night"}, Fields: fields},
	}
	held := ""
	var reference int
	if kind != "backpack" {
		held = "down"
		if board := b.Host.Board(); len(board.References) > 0 {
			reference = board.References[len(board.References)-1]
		}
	}
	m.Show = bench.Show{
		Inputs: []bench.Input{
			{ID: "go", Kind: "button", Pin: pins["go"]},
			{ID: "back", Name: "Back", Kind: "button", Pin: pins["down"], Pull: "down", Button: bench.Button{DebounceMs: 10, LongMs: 300}},
			{ID: "taps", Kind: "counter", Pin: pins["taps"], Pull: "up", Counter: bench.Counter{Count: 1000}},
			{ID: "notch", Kind: "counter", Pin: pins["a"], PinB: pins["b"], Pull: held, Counter: bench.Counter{Count: 1000, Stops: true}},
			{ID: "tide", Kind: "signal", Pin: pins["tide"]},
			{ID: "wind", Kind: "signal", Pin: pins["wind"], Signal: bench.Sensor{Decimals: 1, Average: 4, ReferenceMV: reference, Scale: bench.Scale{From: bench.Point{Reading: 100, Value: -5}, To: bench.Point{Reading: 900, Value: 15.5}}}},
			{ID: "radio", Kind: "serial", Pin: pins["radio"], Serial: bench.Serial{Ends: "pause", PauseMs: 40}},
			{ID: "first", Kind: "button", Pin: pins["row"], Button: bench.Button{Ladder: true}},
			{ID: "second", Kind: "button", Pin: pins["row"], Button: bench.Button{Ladder: true}},
			{ID: "third", Kind: "button", Pin: pins["row"], Button: bench.Button{Ladder: true}},
			{ID: "rows", Kind: "counter", Counter: bench.Counter{Count: 10, Up: "first", Down: "third"}},
		},
		Scenes: []bench.Scene{
			{ID: "day", Screen: "day", Ends: []bench.End{{Input: "go", Next: "night"}, {Input: "tide", Level: 900, Next: "night"}}},
			{ID: "night", Screen: "night", Ends: []bench.End{{Input: "back", On: "long", Next: "day"}, {Input: "radio", Next: "day"}, {Input: "second", On: "release", Next: "day"}}},
		},
		Feeds: []bench.Feed{{Field: "Tide", Input: "tide"}, {Field: "Wind", Input: "wind"}, {Field: "Notch", Input: "notch"}, {Field: "Taps", Input: "taps"}, {Field: "Word", Input: "radio"}, {Field: "Rows", Input: "rows"}},
	}
	return &b
}

// touched is what hands and sensors do at the pins, and what the show is told of it.
type touched struct {
	t      *testing.T
	doc    *bench.Module
	m      *firmware.Module
	bits   int // of the host's converter
	done   []deed
	events []show.Event
	gone   map[uint8]bool // addresses that do not answer
	quiet  []int64        // times at which nothing is under way, in ms
	code   *bench.Code    // lines of the bench's own; nil for none
}

// deed is a level, a reading or a character that comes to a pin or a serial line.
type deed struct {
	ms     float64
	what   byte // p, a, s
	of, to int
}

func (h *touched) at(ms float64, what byte, of, to int) {
	h.done = append(h.done, deed{ms, what, of, to})
}

// avr writes what is done for the simulated ATmega: readings as the least voltages that give them.
func (h *touched) avr() string {
	var b strings.Builder
	for _, d := range h.done {
		if d.what == 'a' {
			channel := d.of & 7
			if d.of>>3 == 9 { // port K
				channel += 8
			}
			reference := 5000
			for i := range h.m.Joints {
				if j := &h.m.Joints[i]; h.m.Show.Inputs[i].Kind == show.Signal && j.Number == d.of && j.ReferenceMV > 0 {
					reference = j.ReferenceMV
				}
			}
			d.of, d.to = channel, (d.to*reference+1022)/1023
		}
		fmt.Fprintf(&b, "%d %c %d %d\n", int64(d.ms*clock/1000), d.what, d.of, d.to)
	}
	return b.String()
}

// python writes what is done, and when to look, for the stand-in of a board's MicroPython.
func (h *touched) python() string {
	var b strings.Builder
	b.WriteString("script, quiet = [], []\n")
	for _, d := range h.done { // one by one: a list is made on the interpreter's stack
		fmt.Fprintf(&b, "script.append((%g, %q, %d, %d))\n", d.ms, d.what, d.of, d.to)
	}
	for _, ms := range h.quiet {
		fmt.Fprintf(&b, "quiet.append(%d)\n", ms)
	}
	return strings.ReplaceAll(b.String(), "'", "\"")
}

// touch lets hands and sensors do things at random until a time, with quiet between them.
func touch(t *testing.T, b *bench.Bench, im *firmware.Image, seed uint64, until int64) *touched {
	t.Helper()
	h := &touched{t: t, doc: &b.Modules[0], m: &im.Modules[0], bits: im.Host.Bits}
	j := h.m.Joints
	for i := range j {
		if in := &h.doc.Show.Inputs[i]; in.Pin != "" && !j[i].Joined() {
			t.Fatalf("input %d is not read at %s", i, in.Pin)
		}
	}
	h.at(0, 'p', j[1].Number, 0) // resistors hold what the host does not
	if j[2].Joined() {
		h.at(0, 'p', j[2].Number, 1)
	}
	if j[3].High {
		h.at(0, 'p', j[3].Number, 0)
		h.at(0, 'p', j[3].NumberB, 0)
	}
	for n := range 2 {
		if j[4+n].Joined() {
			h.at(0, 'a', j[4+n].Number, 0)
			h.events = append(h.events, show.Event{At: 1, Input: 4 + n, Value: h.m.Show.Inputs[4+n].Scale.Units(0)})
		}
	}
	if j[7].Joined() {
		h.at(0, 'a', j[7].Number, 1<<h.bits-1) // the ladder's top resistor
	}
	r := rand.New(rand.NewPCG(seed, 23))
	for at := int64(300); at < until; at += 20 + r.Int64N(300) {
		at = h.act(r, at) + 260
		h.quiet = append(h.quiet, at)
	}
	slices.SortStableFunc(h.events, func(a, b show.Event) int { return int(a.Moment() - b.Moment()) })
	return h
}

// touching is a pier at which hands and sensors do things, and what the show played with the same
// events shows.
func touching(t *testing.T, part, kind string, seed uint64, until int64) (*firmware.Image, *touched, []play.Frame) {
	t.Helper()
	b := pier(t, part, kind)
	im, err := firmware.New(b)
	if err != nil {
		t.Fatal(err)
	}
	h := touch(t, b, im, seed, until)
	played, err := play.Play(h.m, h.events, until+2000)
	if err != nil {
		t.Fatal(err)
	}
	h.still(played.Frames)
	return im, h, played.Frames
}

// shown is what the show played with the same events shows at a time.
func shown(t *testing.T, frames []play.Frame, ms int64) []rig.ShownCell {
	t.Helper()
	n := 0
	for n < len(frames) && frames[n].Wanted <= time.Duration(ms)*time.Millisecond {
		n++
	}
	return frames[n-1].Glass.Cells
}

// still keeps those of the quiet moments about which nothing on the glass changes: what blinks begins anew
// where a program reads a key, which is a little later than the show says.
func (h *touched) still(frames []play.Frame) {
	h.quiet = slices.DeleteFunc(h.quiet, func(ms int64) bool {
		now := shown(h.t, frames, ms)
		return !slices.Equal(now, shown(h.t, frames, ms-60)) || !slices.Equal(now, shown(h.t, frames, ms+60))
	})
	if len(h.quiet) == 0 {
		h.t.Fatal("no moment is quiet")
	}
}

// alike holds the glass of a module against what the show wants; it reports whether they are alike.
func (h *touched) alike(ms int64, one *wired, frames []play.Frame) bool {
	h.t.Helper()
	mo := one.rig.Moment()
	got, want := mo.Glass(&h.m.Display, 0.9).Cells, shown(h.t, frames, ms)
	if !slices.Equal(got, want) {
		h.t.Errorf("at %d ms: % X\nwant % X%s\n%v", ms, codesOf(got), codesOf(want), differing(got, want), h.events)
		return false
	}
	return true
}

// act does something at random, and returns when it is over.
func (h *touched) act(r *rand.Rand, from int64) int64 {
	j, start := h.m.Joints, float64(from)
	tell := func(at int64, input int, value int64) {
		h.events = append(h.events, show.Event{At: at, Input: input, Value: value})
	}
	level := func(input int, down bool) int { return layout.One(down == j[input].High) }
	what := r.IntN(8)
	for !j[[]int{0, 0, 2, 3, 4, 4, 6, 7}[what]].Joined() { // the input that it is done to
		what = r.IntN(8)
	}
	switch what {
	case 7: // a button of the ladder, whose levels a network solves (core/table/pinout TestLadders)
		n, held := r.IntN(3), []int64{60, 150}[r.IntN(2)]
		levels := pinout.Ladders(&bench.Bench{Host: bench.Host{Part: "ATmega328P"}, Modules: []bench.Module{*h.doc}})[0].Rungs
		h.at(start, 'a', j[7].Number, int(levels[n].Level*float64(int(1)<<h.bits-1)+0.5))
		h.at(start+float64(held), 'a', j[7].Number, 1<<h.bits-1)
		tell(from+2, 7+n, 1)
		tell(from+held+2, 7+n, 0)
		return from + held + 20
	case 0, 1: // a button, bouncing
		n := r.IntN(2)
		held := []int64{60, 150, 420}[r.IntN(3)]
		for _, edge := range []int64{from, from + held} {
			down := edge == from
			for k := range int64(3) {
				now := down == (k%2 == 0)
				h.at(float64(edge+2*k), 'p', j[n].Number, level(n, now))
				tell(edge+2*k, n, int64(layout.One(now)))
			}
		}
		return from + held + 10
	case 2: // a contact, and one that is too short
		h.at(start, 'p', j[2].Number, 0)
		h.at(start+12, 'p', j[2].Number, 1)
		h.at(start+50, 'p', j[2].Number, 0)
		h.at(start+100, 'p', j[2].Number, 1)
		tell(from+70, 2, 1)
		return from + 150
	case 3: // an encoder, open where it rests, forth or back by some notches, with a bounce
		by, first, second := int64(1), j[3].Number, j[3].NumberB
		if r.IntN(2) == 0 {
			by, first, second = -1, second, first
		}
		at := start
		for range 1 + r.IntN(3) {
			for k, pin := range []int{first, second, first, second} {
				open := layout.One(k >= 2 != j[3].High)
				h.at(at, 'p', pin, open)
				h.at(at+1.2, 'p', pin, 1-open)
				h.at(at+2.4, 'p', pin, open)
				at += 5
			}
			tell(int64(at)-2, 3, by)
		}
		return int64(at)
	case 4, 5: // a voltage
		n := 4 + r.IntN(2)
		if !j[n].Joined() {
			n = 4
		}
		reading := r.IntN(1 << h.bits)
		h.at(start, 'a', j[n].Number, reading)
		scale := h.m.Show.Inputs[n].Scale
		tell(from+1, n, scale.Units(int64(reading)*scale.Average))
		return from + 10
	}
	text := []string{"Ahoy", "Öl 7 °C → €", "rain", "x"}[r.IntN(4)]
	for i, e := range show.Typed(&h.doc.Show.Inputs[6], 6, time.Duration(from)*time.Millisecond, []byte(text)) {
		h.at(start+float64(i)*10/9.6, 's', j[6].Line, int(text[i]))
		h.events = append(h.events, e)
	}
	return from + int64(len(text))*10/9 + 50
}

// onAVR runs a firmware on a simulated ATmega, and looks at its glass in every quiet moment.
func (h *touched) onAVR(im *firmware.Image, elf, mcu string, until int64, frames []play.Frame) {
	t := h.t
	t.Helper()
	script := elf + ".script"
	if err := os.WriteFile(script, []byte(h.avr()), 0o644); err != nil {
		t.Fatal(err)
	}
	var answering []byte
	for i := range im.Modules {
		if a := im.Modules[i].Link.Address; !h.gone[a] {
			answering = append(answering, a)
		}
	}
	s := bootWith(t, im, elf, mcu, int(until/1000)+3, false, script, answering...)
	began := time.Duration(0)
	told := func() time.Duration { return s.wire.now - s.late }
	for _, ms := range h.quiet {
		for began == 0 || told() < began+time.Duration(ms)*time.Millisecond {
			_, marked, ok := s.next()
			if !ok {
				break
			}
			if marked && began == 0 {
				began = told()
			}
		}
		if began == 0 {
			t.Fatal("the program marks no beginning")
		}
		if !h.alike(ms, s.wire.modules[0], frames) {
			break
		}
	}
	if v, _ := s.wire.modules[0].rig.Violations(); len(v) > 0 {
		t.Errorf("%+v", v[0])
	}
}

// soaked is how many simulated milliseconds a program runs: as many as are usual, or as many as it is to
// soak, ten minutes at most.
func soaked(usual int64) int64 { return max(usual, min(soak.For().Milliseconds(), 600_000)) }

// TestInputs drives the pins, the converter and the serial line of a simulated ATmega328P and
// ATmega2560, whose program is the one that is handed over, by what hands and sensors do: at every
// quiet moment its glass is that of the show played with the same events.
func TestInputs(t *testing.T) {
	until := soaked(5_000)
	for seed, c := range []struct{ part, kind string }{{"ATmega328P", "backpack"}, {"ATmega2560", "parallel4"}, {"ATmega2560", "backpack"}, {"ATmega328P", "parallel4"}} {
		t.Run(c.part+" "+c.kind, func(t *testing.T) {
			t.Parallel()
			im, h, frames := touching(t, c.part, c.kind, uint64(seed), until)
			dir, _ := write(t, im, C)
			markBegin(t, filepath.Join(dir, "main.c"))
			if said := run(t, dir, "make", "-s", "AVR_CC=avr-gcc -Werror", strings.ToLower(c.part)); said != "" {
				t.Errorf("make says %s", said)
			}
			flash, ram := sizes(t, filepath.Join(dir, "firmware.elf"))
			t.Logf("%d bytes of flash, %d of RAM", flash, ram)
			h.onAVR(im, filepath.Join(dir, "firmware.elf"), strings.ToLower(c.part), until, frames)
		})
	}
}

// TestInputsPython does the same with the MicroPython that is handed over, on a stand-in of a
// board's pins, converters and serial lines.
func TestInputsPython(t *testing.T) {
	until := soaked(8000)
	for seed, kind := range []string{"backpack", "parallel4"} {
		t.Run(kind, func(t *testing.T) {
			im, h, frames := touching(t, "RP2040", kind, uint64(seed), until)
			dir, v := write(t, im, MicroPython)
			s, main := h.onBoard(im, dir, v)
			looked := 0
			s.asked = func(ms int) {
				if !t.Failed() {
					h.alike(int64(ms), s.wire.modules[0], frames)
				}
				looked++
			}
			if status, _ := s.do(main); status == 0 || looked < len(h.quiet) || looked < 10 {
				t.Errorf("looked %d times of %d: %s", looked, len(h.quiet), s.out.Text())
			}
		})
	}
}

// own are the bench's own lines of a file.
func (h *touched) own(file, section string) string {
	if h.code == nil {
		return ""
	}
	return h.code.In(file, section)
}

// onBoard starts a stand-in of a board with MicroPython, with what is done at its pins, and returns the line that
// runs the program until the last quiet moment.
func (h *touched) onBoard(im *firmware.Image, dir string, v *c99.View) (*session, string) {
	t := h.t
	t.Helper()
	var prelude string
	for _, name := range []string{"machine.py", "inputs.py"} {
		text, err := os.ReadFile(filepath.Join("testdata", name))
		if err != nil {
			t.Fatal(err)
		}
		prelude += string(text) + "\n"
	}
	file := filepath.Join(dir, "prelude.py")
	if err := os.WriteFile(file, []byte(prelude+h.python()), 0o644); err != nil {
		t.Fatal(err)
	}
	text, err := os.ReadFile(filepath.Join(dir, "main.py"))
	if err != nil {
		t.Fatal(err)
	}
	main := source.Fill(source.File{Text: string(text)}, func(section string) string {
		switch section {
		case "declarations":
			return "import machine\n" + h.own("main.py", section)
		case "what happens":
			return "                machine.start()"
		}
		return h.own("main.py", section)
	})
	return python(t, im, dir, v, file), fmt.Sprintf("__name__ = \"__main__\"; exec(%q)", main.Text)
}

// sketched puts the parts of a sketch together as the editor does, its own sections filled in, and
// compiles it against stand-ins of the editor's calls.
func sketched(t *testing.T, dir string, v *c99.View, h *touched, begins, compiler string, flags ...string) string {
	t.Helper()
	folder := filepath.Join(dir, v.File)
	text := "#include \"editor.h\"\n"
	for _, name := range []string{v.File + ".ino", "port.ino"} {
		part, err := os.ReadFile(filepath.Join(folder, name))
		if err != nil {
			t.Fatal(err)
		}
		text += source.Fill(source.File{Text: string(part)}, func(section string) string {
			if section == "what happens" {
				return "        " + begins
			}
			return h.own("bench.ino", section)
		}).Text
	}
	var deeds strings.Builder
	for _, d := range h.done {
		fmt.Fprintf(&deeds, "{%g, %q, %d, %d},\n", d.ms, d.what, d.of, d.to)
	}
	for name, text := range map[string]string{"whole.cpp": text, "script.inc": deeds.String(), "quiet.inc": strings.Trim(strings.ReplaceAll(fmt.Sprint(h.quiet), " ", ", "), "[]") + ",\n"} {
		if err := os.WriteFile(filepath.Join(folder, name), []byte(text), 0o644); err != nil {
			t.Fatal(err)
		}
	}
	stand, err := filepath.Abs("testdata")
	if err != nil {
		t.Fatal(err)
	}
	sources := []string{v.File + ".c", "port_avr.c"}
	if strings.HasPrefix(compiler, "avr") {
		markWaits(t, filepath.Join(folder, "port_avr.c"))
	}
	if v.Reads.Any() {
		sources = append(sources, "inputs.c")
	}
	var objects []string
	for _, name := range sources {
		object := strings.TrimSuffix(name, ".c") + ".o"
		run(t, folder, strings.Replace(compiler, "g++", "gcc", 1), append(append([]string{"-std=gnu11", "-Wall", "-Wextra", "-Werror", "-Os", "-c", "-o", object}, flags...), name)...)
		objects = append(objects, object)
	}
	run(t, folder, compiler, append(append([]string{"-std=gnu++17", "-Wall", "-Wextra", "-Werror", "-Os", "-I", ".", "-I", stand, "-o", "sketch.elf"}, flags...), append([]string{"whole.cpp"}, objects...)...)...)
	return filepath.Join(folder, "sketch.elf")
}

// TestSketch builds sketches as the editor does and lets hands and sensors do things at their pins:
// on a simulated ATmega328P and ATmega2560, and by the editor's calls for hosts that have no port of
// their own. At every quiet moment the glass is that of the show played with the same events.
func TestSketch(t *testing.T) {
	until := soaked(4000)
	for seed, c := range []struct{ part, kind string }{{"ATmega328P", "parallel4"}, {"ATmega2560", "backpack"}, {"RP2040", "backpack"}, {"RP2040", "parallel4"}, {"RP2350", "backpack"}, {"ATmega32U4", "backpack"}, {"SAMD21", "parallel4"}, {"ATmega328P small", "parallel4"}, {"ESP32", "backpack"}, {"ESP8266", "backpack"}, {"STM32F103", "backpack"}, {"ATtiny85", "backpack"}} {
		t.Run(c.part+" "+c.kind, func(t *testing.T) {
			t.Parallel()
			im, h, frames := touching(t, c.part, c.kind, uint64(seed), until)
			dir, v := write(t, im, Sketch)
			if _, own := c99.UploadOf(im.Host.Chip); !own {
				usb := 0 // the first line's number: of a chip whose USB is Serial, the hardware's first is Serial1
				if !layout.IsPico(im.Host.Chip) {
					usb = 1
				}
				flags := []string{fmt.Sprintf("-DSERIAL1=%d", usb)}
				if im.Host.Chip == "STM32F103" { // the editor knows its pins by names
					for i := range im.Host.Pins {
						flags = append(flags, fmt.Sprintf("-D%s=%d", im.Host.Pins[i].Label, i))
					}
				}
				elf := sketched(t, dir, v, h, "begins();", "g++", flags...)
				looked := 0
				s := talk(t, im, exec.Command(elf))
				s.asked = func(ms int) {
					if !t.Failed() {
						h.alike(int64(ms), s.wire.modules[0], frames)
					}
					looked++
				}
				if _, err := s.do("go"); err != nil || looked < len(h.quiet) {
					t.Errorf("looked %d times of %d: %v", looked, len(h.quiet), err)
				}
				return
			}
			mcu := strings.ToLower(im.Host.Chip)
			elf := sketched(t, dir, v, h, "{ static uint8_t marked; if (!marked) { marked = 1; GPIOR0 = 1; } }", "avr-g++", "-mmcu="+mcu, "-DF_CPU=16000000UL")
			h.onAVR(im, elf, mcu, until, frames)
		})
	}
}

// markBegin fills an example's own sections so that it marks the moment at which its shows begin, and
// says how long it waits.
func markBegin(t *testing.T, file string) {
	t.Helper()
	ownLines(t, file, func(section string) string {
		switch section {
		case "declarations":
			return "#include <avr/io.h>"
		case "what happens":
			return "            { static uint8_t marked; if (!marked) { marked = 1; GPIOR0 = 1; } }"
		}
		return ""
	})
	markWaits(t, filepath.Join(filepath.Dir(file), "port_avr.c"))
}

// markWaits lets a program tell how long it waits, which the simulator then passes over: in EEDR, how many
// steps of its timer are left of the millisecond.
func markWaits(t *testing.T, file string) {
	t.Helper()
	const waits = "    return ms;\n"
	text, err := os.ReadFile(file)
	if err != nil || strings.Count(string(text), waits) != 1 {
		t.Fatalf("%s waits nowhere: %v", file, err)
	}
	marked := strings.Replace(string(text), waits, "    if (ms == 0) { EEDR = (uint8_t)(F_CPU / 64000UL - (uint16_t)(TCNT1 - before)); }\n"+waits, 1)
	if err := os.WriteFile(file, []byte(marked), 0o644); err != nil {
		t.Fatal(err)
	}
}

// ownLines fills the own sections of a file.
func ownLines(t *testing.T, file string, own func(section string) string) {
	t.Helper()
	text, err := os.ReadFile(file)
	if err != nil {
		t.Fatal(err)
	}
	if err := os.WriteFile(file, []byte(source.Fill(source.File{Text: string(text)}, own).Text), 0o644); err != nil {
		t.Fatal(err)
	}
}

// TestFlood sends characters without end over the serial line, each as soon as the one before has come: a
// button that is pressed and bounces meanwhile does what it does, and once the flood is over so does a message.
func TestFlood(t *testing.T) {
	b := pier(t, "ATmega328P", "backpack")
	b.Modules[0].Show.Inputs[6].Serial.Baud = 115200
	im, err := firmware.New(b)
	if err != nil {
		t.Fatal(err)
	}
	h := &touched{t: t, doc: &b.Modules[0], m: &im.Modules[0], bits: 10}
	h.at(0, 'p', h.m.Joints[1].Number, 0)
	h.at(0, 'p', h.m.Joints[2].Number, 1)
	for i, pressed := 0, 0; i < 11_500; i++ { // a second
		ms := 300 + float64(i)*10/115.2
		for _, edge := range []float64{700, 702, 704, 850} {
			if pressed < 4 && ms >= edge && []float64{700, 702, 704, 850}[pressed] == edge {
				h.at(ms, 'p', h.m.Joints[0].Number, pressed%2)
				pressed++
			}
		}
		h.at(ms, 's', 0, 'x')
	}
	h.at(1700, 's', 0, 'A')
	h.at(1701, 's', 0, 'y')
	dir, _ := write(t, im, C)
	markBegin(t, filepath.Join(dir, "main.c"))
	run(t, dir, "make", "-s", "atmega328p")
	script := filepath.Join(dir, "script")
	if err := os.WriteFile(script, []byte(h.avr()), 0o644); err != nil {
		t.Fatal(err)
	}
	s := bootWith(t, im, filepath.Join(dir, "firmware.elf"), "atmega328p", 3, false, script, h.m.Link.Address)
	began := time.Duration(0)
	seen := map[string]bool{}
	for {
		_, marked, ok := s.next()
		if !ok {
			break
		}
		now := s.wire.now - s.late
		if marked && began == 0 {
			began = now
		}
		mo := s.wire.modules[0].rig.Moment()
		cells := codesOf(mo.Glass(&h.m.Display, 0.9).Cells)
		if at := now - began; began > 0 && at < 1290*time.Millisecond && strings.HasPrefix(string(cells[60:]), "         Night") {
			seen["night"] = true
		}
		if began > 0 && strings.HasPrefix(string(cells[40:]), "Ay    ") {
			seen["message"] = true
		}
	}
	if !seen["night"] || !seen["message"] {
		t.Errorf("of the button in the flood and the message after it was seen: %v", seen)
	}
}

// TestUpload sends programs to a stand-in of avrdude: it is told the part, its loader, the port and
// the file, which holds what was built; without a port nothing is sent, and it is said what is missing.
func TestUpload(t *testing.T) {
	for part, want := range map[string]string{
		"ATmega328P": "-p m328p -c arduino -P /dev/ttyACM7 -b 115200 -D -U flash:w:firmware.hex:i",
		"ATmega2560": "-p m2560 -c wiring -P /dev/ttyACM7 -b 57600 -D -U flash:w:firmware.hex:i",
	} {
		im, err := firmware.New(pier(t, part, "backpack"))
		if err != nil {
			t.Fatal(err)
		}
		dir, _ := write(t, im, C)
		makes := uploads(t, dir, "firmware")
		if part == "ATmega2560" {
			makes = append(makes, "BAUD=57600")
		}
		c := exec.Command("make", makes...)
		c.Dir = dir
		if said, err := c.CombinedOutput(); err == nil || !strings.Contains(string(said), "make upload PORT=/dev/tty") {
			t.Errorf("%s: no port, and make says %s", part, said)
		}
		sends(t, dir, "firmware", makes, want)
	}
}

// uploads puts a stand-in of avrdude beside a program, which keeps what it was told and the file it was given, and returns what make is
// called with to upload to it.
func uploads(t *testing.T, dir, program string) (makes []string) {
	t.Helper()
	script := "#!/bin/sh\necho \"$@\" > sent\ncp " + program + ".hex sent.hex\n"
	if err := os.WriteFile(filepath.Join(dir, "avrdude"), []byte(script), 0o755); err != nil {
		t.Fatal(err)
	}
	return []string{"-s", "AVR_CC=avr-gcc -Werror", "AVRDUDE=./avrdude", "upload"}
}

// sends lets make upload a program to a port: avrdude is told what is wanted, and given what was built.
func sends(t *testing.T, dir, program string, makes []string, want string) {
	t.Helper()
	if said := run(t, dir, "make", append(makes, "PORT=/dev/ttyACM7")...); said != "" {
		t.Errorf("make says %s; avrdude was to be told %s", said, want)
	}
	sent, err := os.ReadFile(filepath.Join(dir, "sent"))
	if err != nil || strings.TrimSpace(string(sent)) != want {
		t.Errorf("avrdude %s, %v; want %s", sent, err, want)
	}
	run(t, dir, "avr-objcopy", "-I", "ihex", "-O", "binary", "sent.hex", "sent.bin")
	run(t, dir, "avr-objcopy", "-O", "binary", "-R", ".eeprom", program+".elf", "built.bin")
	run(t, dir, "cmp", "sent.bin", "built.bin")
}

// TestCPlusPlus calls the library from C++, on this computer, where the port is given as calls.
func TestCPlusPlus(t *testing.T) {
	im, err := firmware.New(pier(t, "RP2040", "backpack"))
	if err != nil {
		t.Fatal(err)
	}
	dir, v := write(t, im, C)
	text := fmt.Sprintf("#include \"%s.h\"\n#include \"inputs.h\"\n#include \"port.h\"\n#include \"port_calls.h\"\n"+
		"int main(int n, char **) { if (n > 1) { port_begin(); inputs_begin(); inputs_read(1); return gate_begin() || gate_play() || gate_tick(1); } return 0; }\n", v.File)
	if err := os.WriteFile(filepath.Join(dir, "uses.cpp"), []byte(text), 0o644); err != nil {
		t.Fatal(err)
	}
	run(t, dir, "gcc", append(strict[:len(strict):len(strict)], "-c", v.File+".c", "inputs.c", "port_calls.c")...)
	run(t, dir, "g++", "-Wall", "-Wextra", "-Werror", "-o", "uses", "uses.cpp", v.File+".o", "inputs.o", "port_calls.o")
	run(t, dir, "./uses")
}

// TestSteps says what brings a program onto each host: commands for that host, with the files that are
// there, and what hangs on its loader's pins is unplugged first.
func TestSteps(t *testing.T) {
	for _, c := range []struct {
		part  string
		as    Language
		wants []string // in this order
		not   string
	}{
		{"ATmega328P", C, []string{"“radio” from D0", "make upload PORT=/dev/ttyUSB0", "first screen"}, "mpremote"},
		{"ATmega2560", C, []string{"“Beacon” TXD from D0", "make upload PORT=/dev/ttyACM0"}, "“radio”"},
		{"ATmega328P", Sketch, []string{"“radio” from D0", "quillfish_landing.ino", "ATmega328P"}, "package"},
		{"RP2040", Sketch, []string{"quillfish_landing.ino", "package", "RP2040"}, "Unplug"},
		{"RP2040", MicroPython, []string{".uf2", "mpremote connect PORT cp quillfish_landing.py inputs.py main.py :", "mpremote connect PORT reset"}, "esptool"},
		{"ESP32", MicroPython, []string{"esptool --port PORT write_flash 0x1000", "mpremote"}, "Unplug"},
		{"RP2350", MicroPython, []string{".uf2", "mpremote"}, "esptool"},
		{"RP2040", C, []string{"make check", "port_calls.h"}, "make upload"},
		{"ATmega328P small", C, []string{"“radio” from D0", "make upload PORT=/dev/ttyUSB0", "BAUD=57600"}, "mpremote"},
		{"ATmega32U4", Sketch, []string{"reset twice", "ATmega32U4"}, "package"},
		{"SAMD21", Sketch, []string{"package", "reset twice", "SAMD21"}, "Unplug"},
	} {
		b := pier(t, c.part, "backpack")
		if c.part == "ATmega2560" { // whose second line listens
			b.Parts = []bench.OwnPart{{ID: "radio", Name: "Beacon", Pins: []bench.OwnPin{{Name: "TXD", To: "D0", Drives: true}, {Name: "VCC", To: "5V"}}}}
		}
		im, err := firmware.New(b)
		if err != nil {
			t.Fatal(err)
		}
		steps, err := Steps(im, c.as)
		if err != nil {
			t.Fatal(err)
		}
		text := ""
		for _, s := range steps {
			text += s.Do + "\n" + s.Command + "\n" + s.See + "\n"
		}
		rest := text
		for _, want := range c.wants {
			at := strings.Index(rest, want)
			if at < 0 {
				t.Errorf("%s as %s: no %q in\n%s", c.part, c.as, want, text)
				continue
			}
			rest = rest[at:]
		}
		if strings.Contains(text, c.not) {
			t.Errorf("%s as %s: %q in\n%s", c.part, c.as, c.not, text)
		}
	}
	for part, want := range map[string]Language{"ATmega328P": C, "RP2040": MicroPython, "ESP32": MicroPython, "ESP32 small": MicroPython, "RP2350": MicroPython, "ATmega328P small": C, "ATmega32U4": Sketch, "ATtiny85": Sketch, "SAMD21": Sketch, "STM32F103": Sketch, "mine": C} {
		board, _ := host.ByPart(part)
		if got := Suits(&board); got != want {
			t.Errorf("%q suits %s, want %s", part, got, want)
		}
	}
}

// TestFreeTextAlone builds a bench whose only field is free text that a scene edits, by buttons at the
// pins, in each form: no part of the interpreter is missing, and none is there in vain.
func TestFreeTextAlone(t *testing.T) {
	b := pier(t, "ATmega328P", "backpack")
	m := &b.Modules[0]
	m.Screens = m.Screens[:1]
	m.Screens[0].Rows, m.Screens[0].Fields = []string{"Name"}, m.Screens[0].Fields[4:]
	m.Show.Feeds, m.Show.Inputs = nil, m.Show.Inputs[:2]
	m.Show.Scenes = []bench.Scene{{ID: "day", Screen: "day", Edit: bench.Edit{Field: "Word", Keys: []bench.Key{{Does: "up", Input: "go"}, {Does: "accept", Input: "back"}}}}}
	im, err := firmware.New(b)
	if err != nil {
		t.Fatal(err)
	}
	dir, v := write(t, im, C)
	if said := run(t, dir, "make", "-s", "AVR_CC=avr-gcc -Werror", "atmega328p"); said != "" {
		t.Errorf("make says %s", said)
	}
	run(t, dir, "gcc", append(strict[:len(strict):len(strict)], "-c", v.File+".c", "inputs.c", "port_calls.c")...)
}

// TestPressDuringWrite closes a contact twice for 38 ms while a slow wire writes a whole glass of 20 × 4, which takes
// longer than both: each counts, and what is written then is as the show wants it.
func TestPressDuringWrite(t *testing.T) {
	for as, part := range map[Language]string{C: "ATmega328P", MicroPython: "RP2040"} {
		t.Run(string(as), func(t *testing.T) {
			t.Parallel()
			pressDuringWrite(t, as, part)
		})
	}
}

func pressDuringWrite(t *testing.T, as Language, part string) {
	b := pier(t, part, "backpack")
	m := &b.Modules[0]
	m.Link.Outputs.SpeedHz = 20_000
	taps := m.Screens[0].Fields[3]
	taps.Row, taps.Col = 3, 17
	for i, sign := range []string{"a", "b"} {
		row := strings.Repeat(sign, 20)
		m.Screens[i].Rows, m.Screens[i].Fields = []string{row, row, row, row[:16]}, []field.Field{taps}
	}
	m.Show.Inputs = m.Show.Inputs[:3]
	m.Show.Scenes = []bench.Scene{{ID: "day", Screen: "day", Ends: []bench.End{{Input: "go", Next: "night"}}}, {ID: "night", Screen: "night", Ends: []bench.End{{Input: "back", Next: "day"}}}}
	m.Show.Feeds = []bench.Feed{{Field: "Taps", Input: "taps"}}
	im, err := firmware.New(b)
	if err != nil {
		t.Fatal(err)
	}
	h := &touched{t: t, doc: m, m: &im.Modules[0], bits: im.Host.Bits}
	h.at(0, 'p', h.m.Joints[1].Number, 0)
	h.at(0, 'p', h.m.Joints[2].Number, 1)
	h.at(300, 'p', h.m.Joints[0].Number, 0) // written from 320 on
	h.at(800, 'p', h.m.Joints[0].Number, 1)
	h.events = append(h.events, show.Event{At: 300, Input: 0, Value: 1}, show.Event{At: 800, Input: 0})
	for _, at := range []int64{330, 390} { // a pause of 20 ms between the two, which is as long as it must hold
		h.at(float64(at), 'p', h.m.Joints[2].Number, 0)
		h.at(float64(at)+38, 'p', h.m.Joints[2].Number, 1)
		h.events = append(h.events, show.Event{At: at + 20, Input: 2, Value: 1})
	}
	h.at(1200, 'p', h.m.Joints[1].Number, 1) // back, itself no longer than a write
	h.at(1225, 'p', h.m.Joints[1].Number, 0)
	h.events = append(h.events, show.Event{At: 1200, Input: 1, Value: 1}, show.Event{At: 1225, Input: 1})
	slices.SortStableFunc(h.events, func(a, b show.Event) int { return int(a.Moment() - b.Moment()) })
	slices.SortStableFunc(h.done, func(a, b deed) int { return int(a.ms - b.ms) })
	h.quiet = []int64{700, 1900}
	played, err := play.Play(h.m, h.events, 2000)
	if err != nil {
		t.Fatal(err)
	}
	for _, f := range played.Frames {
		if f.Wanted > 300*time.Millisecond && f.Wanted < 330*time.Millisecond && f.Done < 430*time.Millisecond {
			t.Errorf("the glass is written within %v, which both contacts must lie in", f.Done-f.Wanted)
		}
	}
	h.runs(im, as, 2000, played.Frames)
}
