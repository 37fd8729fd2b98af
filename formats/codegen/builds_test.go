package codegen

import (
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"slatebell/core/bench"
	"slatebell/core/firmware"
	"slatebell/core/plan"
	"slatebell/core/play"
	"slatebell/core/show"
	"slatebell/server/builds"
)

// TestBuilds builds every bench of the gallery as C and runs it on a simulated ATmega328P or ATmega2560, while
// hands and sensors do things at the pins that its document states: in every quiet moment the glass of
// the first module is that of its show, played here with the same events.
func TestBuilds(t *testing.T) {
	for k, build := range builds.List() {
		for n, c := range []struct{ size, kind, part string }{{"16x2", "backpack", "ATmega328P"}, {"20x4", "parallel4", "ATmega2560"}} {
			if n != k%2 && build.ID != "eight" || build.ID == "eight" && n > 0 || build.ID == "clock" { // whose chips TestClock has // each on one of them, and the one with most to do on both
				continue
			}
			t.Run(build.ID+" "+c.size, func(t *testing.T) {
				t.Parallel()
				b, err := builds.Make(build.ID, plan.Beginning{Geometry: c.size, Technology: "lcd", Link: c.kind, Host: c.part, Backpack: c.kind == "backpack"})
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
				until := int64(4_000)
				if build.ID == "meter" {
					until = 12_000
				}
				h := atHand(t, &b, im, uint64(10*k+n), until)
				played, err := play.Play(h.m, h.events, until+2000)
				if err != nil {
					t.Fatal(err)
				}
				dir, _ := write(t, im, C)
				markBegin(t, filepath.Join(dir, "main.c"))
				mcu := strings.ToLower(c.part)
				if said := run(t, dir, "make", "-s", "AVR_CC=avr-gcc -Werror", mcu); said != "" {
					t.Errorf("make says %s", said)
				}
				h.onAVR(im, filepath.Join(dir, "firmware.elf"), mcu, until, played.Frames)
			})
		}
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

// TestClock runs the build of a clock on a simulated ATmega328P beside stand-ins of its chips, registers that are
// written a number and read a byte: their time and temperature are on the glass, a second later the next.
func TestClock(t *testing.T) {
	b, err := builds.Make("clock", plan.Beginning{Geometry: "16x2", Technology: "lcd", Backpack: true})
	if err != nil {
		t.Fatal(err)
	}
	im, err := firmware.New(&b)
	if err != nil {
		t.Fatal(err)
	}
	dir, _ := write(t, im, C)
	file := filepath.Join(dir, "main.c")
	text, err := os.ReadFile(file)
	if err != nil {
		t.Fatal(err)
	}
	own := Fill(File{Text: string(text)}, func(section string) string { return b.Code.In("main.c", section) })
	if err := os.WriteFile(file, []byte(own.Text), 0o644); err != nil {
		t.Fatal(err)
	}
	if said := run(t, dir, "make", "-s", "AVR_CC=avr-gcc -Werror", "atmega328p"); said != "" {
		t.Errorf("make says %s", said)
	}
	s := boot(t, im, filepath.Join(dir, "firmware.elf"), "atmega328p", 5, false, im.Modules[0].Link.Address, 0x68, 0x48)
	clock, warmth := []byte{0x58, 0x59, 0x23}, []byte{0xF9} // 23:59:58, −7 °C
	s.registers = map[byte][]byte{0x68: clock, 0x48: warmth}
	shows := func() string {
		mo := s.wire.modules[0].rig.Moment()
		return string(codesOf(mo.Glass(&im.Modules[0].Display, 0.9).Cells))
	}
	for _, c := range []struct {
		until time.Duration
		wants []string
	}{{1800 * time.Millisecond, []string{"23:59:58", "Hall    -7 \xDFC"}}, {3600 * time.Millisecond, []string{"00:00:00", "Hall   125 \xDFC"}}} {
		for s.wire.now < c.until {
			if _, _, ok := s.next(); !ok {
				t.Fatal("the firmware ended")
			}
		}
		for _, want := range c.wants {
			if got := shows(); !strings.Contains(got, want) {
				t.Errorf("at %v the glass is %q, want %q", c.until, got, want)
			}
		}
		copy(clock, []byte{0x00, 0x00, 0x00})
		warmth[0] = 125
	}
}
