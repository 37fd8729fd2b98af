package codegen

import (
	"fmt"
	"math/rand/v2"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"slatebell/core/bench"
	"slatebell/core/bench/show"
	"slatebell/core/part/i2cbus"
	"slatebell/core/ship/firmware"
	"slatebell/core/ship/play"
	"slatebell/core/table/setup"
	"slatebell/server/builds"
)

// TestBuilds makes every bench of the gallery, as C on a simulated ATmega328P or ATmega2560, as sketch and as
// MicroPython on an RP2040, while hands and sensors do things at the pins that its document states: in every quiet
// moment the glass of the first module is that of its show, played here with the same events. With SOAK (make soak)
// it goes on for so long, ten minutes at most.
func TestBuilds(t *testing.T) {
	for k, build := range builds.List() {
		if build.ID == "clock" { // TestClock has it, beside its chips
			continue
		}
		size, kind, part := "16x2", "backpack", "ATmega328P"
		if k%2 == 1 {
			size, kind, part = "20x4", "parallel4", "ATmega2560"
		}
		if build.ID == "eight" {
			size, kind, part = "16x2", "backpack", "ATmega328P"
		}
		for n, c := range []struct {
			as   Language
			part string
		}{{C, part}, {Sketch, "RP2040"}, {MicroPython, "RP2040"}} {
			t.Run(fmt.Sprintf("%s %s %s", build.ID, size, c.as), func(t *testing.T) {
				t.Parallel()
				b, err := builds.Make(build.ID, setup.Beginning{Geometry: size, Technology: "lcd", Link: kind, Host: c.part, Backpack: kind == "backpack"})
				if err != nil {
					t.Fatal(err)
				}
				for i := range b.Modules[0].Show.Inputs {
					b.Modules[0].Show.Inputs[i].Signal.Source = bench.Source{}
				}
				im, err := firmware.New(&b)
				if err != nil {
					t.Fatal(err)
				}
				until := int64(3_000)
				switch {
				case build.ID == "meter":
					until = 9_000
				case c.as != C:
					until = 6_000
				}
				until = soaked(until)
				h := atHand(t, &b, im, uint64(10*k+n), until)
				played, err := play.Play(h.m, h.events, until+2000)
				if err != nil {
					t.Fatal(err)
				}
				h.still(played.Frames)
				h.runs(im, c.as, until, played.Frames)
			})
		}
	}
}

// TestOthersMissing leaves seven of eight modules away: what the first one shows, second after second, goes on as
// if they were there, up to the time that beginning one of them again takes.
func TestOthersMissing(t *testing.T) {
	for _, c := range []struct {
		as   Language
		part string
	}{{C, "ATmega328P"}, {Sketch, "RP2040"}, {MicroPython, "RP2040"}} {
		t.Run(string(c.as), func(t *testing.T) {
			t.Parallel()
			b, err := builds.Make("eight", setup.Beginning{Geometry: "16x2", Technology: "lcd", Host: c.part})
			if err != nil {
				t.Fatal(err)
			}
			m := &b.Modules[0]
			m.Screens = append(m.Screens, bench.Screen{ID: "free", Name: "Free", Rows: []string{"Berth 1", "is free"}})
			m.Show.Scenes = []bench.Scene{
				{ID: "berth", Screen: m.Screens[0].ID, Ends: []bench.End{{AfterMs: 1400, Next: "free"}}},
				{ID: "free", Screen: "free", Ends: []bench.End{{AfterMs: 1100, Next: "berth"}}},
			}
			im, err := firmware.New(&b)
			if err != nil {
				t.Fatal(err)
			}
			h := &touched{t: t, doc: m, m: &im.Modules[0], gone: map[uint8]bool{}}
			for _, other := range im.Modules[1:] {
				h.gone[other.Link.Address] = true
			}
			const until = 12_000
			played, err := play.Play(h.m, nil, until+2000)
			if err != nil {
				t.Fatal(err)
			}
			for at := int64(700); at < until; at += 1250 { // half-way between two changes, or nearly
				h.quiet = append(h.quiet, at)
			}
			h.runs(im, c.as, until, played.Frames)
		})
	}
}

// runs makes a program and runs it while things are done to it, as C on a simulated ATmega, else on the stand-in of
// a board, and looks at its glass in every quiet moment.
func (h *touched) runs(im *firmware.Image, as Language, until int64, frames []play.Frame) {
	t := h.t
	t.Helper()
	dir, v := write(t, im, as)
	if as == C {
		markBegin(t, filepath.Join(dir, "main.c"))
		mcu := strings.ToLower(im.Host.Chip)
		if said := run(t, dir, "make", "-s", "AVR_CC=avr-gcc -Werror", mcu); said != "" {
			t.Errorf("make says %s", said)
		}
		h.onAVR(im, filepath.Join(dir, "firmware.elf"), mcu, until, frames)
		return
	}
	looked := 0
	look := func(s *session) {
		for a := range h.gone {
			s.gone[a] = true
		}
		s.asked = func(ms int) {
			if !t.Failed() {
				h.alike(int64(ms), s.wire.modules[0], frames)
			}
			looked++
		}
	}
	if as == Sketch {
		s := talk(t, im, exec.Command(sketched(t, dir, v, h, "begins();", "g++")))
		look(s)
		if _, err := s.do("go"); err != nil {
			t.Error(err)
		}
	} else {
		s, main := h.onBoard(im, dir, v)
		look(s)
		if status, _ := s.do(main); status == 0 {
			t.Errorf("the program ended: %s", s.out.Text())
		}
	}
	if looked < len(h.quiet) {
		t.Errorf("looked %d times of %d", looked, len(h.quiet))
	}
}

// atHand lets hands and sensors work whatever inputs the first module of a bench has, one after the other.
func atHand(t *testing.T, b *bench.Bench, im *firmware.Image, seed uint64, until int64) *touched {
	t.Helper()
	h := &touched{t: t, doc: &b.Modules[0], m: &im.Modules[0], bits: im.Host.Bits}
	r := rand.New(rand.NewPCG(seed, 31))
	var joined []int
	most := 1<<h.bits - 1
	reads := func(at int64, i, reading int) {
		scale := h.m.Show.Inputs[i].Scale
		h.at(float64(at), 'a', h.m.Joints[i].Number, reading)
		h.events = append(h.events, show.Event{At: at + 1, Input: i, Value: scale.Units(int64(reading) * scale.Average)})
	}
	for i := range h.m.Joints {
		if !h.m.Joints[i].Joined() {
			continue
		}
		joined = append(joined, i)
		if h.m.Show.Inputs[i].Kind == show.Signal {
			reads(0, i, most/2)
		}
	}
	for at := int64(400); at < until-1000; {
		if len(joined) > 0 {
			i := joined[r.IntN(len(joined))]
			in, j := &h.m.Show.Inputs[i], &h.m.Joints[i]
			switch in.Kind {
			case show.Button:
				for k, edge := range []int64{at, at + 2, at + 4, at + 120} { // pressed with a bounce, then let go
					h.at(float64(edge), 'p', j.Number, k%2)
					h.events = append(h.events, show.Event{At: edge, Input: i, Value: int64(1 - k%2)})
				}
				at += 200
			case show.Signal:
				reading := r.IntN(most + 1)
				if h.doc.Show.Inputs[i].Part != "" { // a stick, tilted to an end or let go
					reading = []int{0, most / 2, most}[r.IntN(3)]
				}
				reads(at, i, reading)
				at += 60
				if in.Meter != nil { // until its bar and its peak have come down
					at += 5000
				} else if reading == 0 || reading == most { // else a held key goes on
					at += 100
					reads(at, i, most/2)
					at += 60
				}
			case show.Serial:
				text := []string{"Regatta at noon", "Öl 7 °C", "No wind; boats stay in until the bell"}[r.IntN(3)]
				for k, e := range show.Typed(&h.doc.Show.Inputs[i], i, time.Duration(at)*time.Millisecond, []byte(text)) {
					h.at(float64(at)+float64(k)*10/9.6, 's', j.Line, int(text[k]))
					h.events = append(h.events, e)
				}
				at += int64(len(text))*10/9 + 300
			}
		}
		at += 150
		at += (250-at%250)%250 + 125 // half-way between two steps of what moves; never near a whole second
		if at%1000 < 120 || at%1000 > 900 {
			at += 250
		}
		h.quiet = append(h.quiet, at)
		at += 50 + r.Int64N(200)
	}
	slices.SortStableFunc(h.events, func(a, b show.Event) int { return int(a.Moment() - b.Moment()) })
	if len(h.quiet) < 2 {
		t.Fatal(fmt.Sprint("looked at too few moments: ", h.quiet))
	}
	return h
}

// TestClock runs the build of a clock beside the stand-ins of its chips (core/part/i2cbus): as C on a simulated
// ATmega328P, as a sketch and as MicroPython on an RP2040. Their time and temperature are on the glass, and what
// they say later is, two seconds later.
func TestClock(t *testing.T) {
	for _, c := range []struct {
		as   Language
		part string
	}{{C, "ATmega328P"}, {Sketch, "RP2040"}, {Sketch, "ATtiny85"}, {MicroPython, "RP2040"}} {
		t.Run(string(c.as)+" "+c.part, func(t *testing.T) {
			t.Parallel()
			b, err := builds.Make("clock", setup.Beginning{Geometry: "16x2", Technology: "lcd", Backpack: true, Host: c.part})
			if err != nil {
				t.Fatal(err)
			}
			im, err := firmware.New(&b)
			if err != nil {
				t.Fatal(err)
			}
			parts := map[byte]*i2cbus.Registers{0x68: i2cbus.ClockAt(time.Date(2026, 3, 7, 23, 59, 58, 0, time.UTC)), 0x48: i2cbus.ThermometerAt(-7 * 8)}
			h := &touched{t: t, doc: &b.Modules[0], m: &im.Modules[0], bits: 10, code: &b.Code, quiet: []int64{1700, 3700}}
			looks := 0
			look := func(w *wire) {
				mo := w.modules[0].rig.Moment()
				got := string(codesOf(mo.Glass(&im.Modules[0].Display, 0.9).Cells))
				for _, want := range [][]string{{"23:59:58", "Hall    -7 \xDFC"}, {"00:00:01", "Hall   125 \xDFC"}}[looks] {
					if !strings.Contains(got, want) {
						t.Errorf("look %d: the glass is %q, want %q", looks+1, got, want)
					}
				}
				*parts[0x68], *parts[0x48] = *i2cbus.ClockAt(time.Date(2026, 3, 8, 0, 0, 1, 0, time.UTC)), *i2cbus.ThermometerAt(125*8 + 7)
				looks++
			}
			dir, v := write(t, im, c.as)
			switch c.as {
			case C:
				ownLines(t, filepath.Join(dir, "main.c"), func(section string) string { return b.Code.In("main.c", section) })
				if said := run(t, dir, "make", "-s", "AVR_CC=avr-gcc -Werror", "atmega328p"); said != "" {
					t.Errorf("make says %s", said)
				}
				s := boot(t, im, filepath.Join(dir, "firmware.elf"), "atmega328p", 5, false, im.Modules[0].Link.Address, 0x68, 0x48)
				s.wire.parts = parts
				for _, ms := range h.quiet {
					for s.wire.now < time.Duration(ms)*time.Millisecond {
						if _, _, ok := s.next(); !ok {
							t.Fatal("the firmware ended")
						}
					}
					look(s.wire)
				}
			case Sketch:
				s := talk(t, im, exec.Command(sketched(t, dir, v, h, "begins();", "g++")))
				s.wire.parts = parts
				s.asked = func(int) { look(s.wire) }
				if _, err := s.do("go"); err != nil {
					t.Error(err)
				}
			case MicroPython:
				s, main := h.onBoard(im, dir, v)
				s.wire.parts = parts
				s.asked = func(int) { look(s.wire) }
				if status, _ := s.do(main); status == 0 {
					t.Error(s.out.Text())
				}
			}
			if looks != len(h.quiet) {
				t.Errorf("looked %d times", looks)
			}
		})
	}
}
