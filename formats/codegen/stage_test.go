package codegen

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"time"

	"slatebell/core/firmware"
	"slatebell/core/firmware/firmtest"
	"slatebell/core/link"
	"slatebell/core/play"
	"slatebell/core/rig"
	"slatebell/core/show"
)

// played is a random bench with shows, what happens in them, and what their glasses show.
type played struct {
	im      *firmware.Image
	events  [][]show.Event
	playing []play.Playing
}

// playedUntil is how long random shows are played, in milliseconds.
const playedUntil = 2000

// stagedImages makes images of random benches with shows that can be made, and plays them
// one by one.
func stagedImages(t *testing.T, from, n uint64, do func(seed uint64, p *played)) {
	for seed := from; n > 0; seed++ {
		r := rand.New(rand.NewPCG(seed, 12))
		b := firmtest.Bench(r)
		b.Modules = b.Modules[:min(len(b.Modules), 2)]
		for i := range b.Modules {
			firmtest.Stage(r, &b.Modules[i])
			for k := range b.Modules[i].Screens { // a block blinks by the controller's own clock
				if c := &b.Modules[i].Screens[k].Cursor; c.Kind == "block" {
					c.Kind = "line"
				}
			}
		}
		im, err := firmware.New(b)
		if err != nil {
			continue
		}
		p := &played{im: im}
		for i := range im.Modules {
			events := firmtest.Script(r, &b.Modules[i], playedUntil)
			playing, err := play.Play(&im.Modules[i], events, playedUntil)
			if err != nil {
				t.Fatal(err)
			}
			p.events, p.playing = append(p.events, events), append(p.playing, *playing)
		}
		do(seed, p)
		n--
	}
}

// TestStage plays random shows by the interpreter in C, millisecond by millisecond, with the
// same events: at every one of them the glass is that of the show played here, as soon as
// that has been sent.
func TestStage(t *testing.T) {
	frames := 0
	stagedImages(t, 0, 16, func(seed uint64, p *played) {
		t.Run(fmt.Sprint(seed), func(t *testing.T) {
			dir, v := write(t, p.im, C)
			for _, name := range []string{"main.c", "port_avr.c"} {
				run(t, dir, "gcc", append(strict[:len(strict):len(strict)], "-Os", "-c", "-o", "x.o", name)...)
			}
			s := start(t, p.im, dir, v)
			frames += p.follow(t, s, func(call string, d int, a ...int64) string {
				return fmt.Sprintf("%s %d %s", call, d, joined(a))
			})
		})
	})
	if frames < 300 {
		t.Errorf("%d changes of glasses", frames)
	}
}

func joined(a []int64) (out string) {
	for _, n := range a {
		out += fmt.Sprint(n, " ")
	}
	return out
}

// follow lets a program play the shows, and holds each glass, and returns how many changes
// it saw.
func (p *played) follow(t *testing.T, s *session, call func(call string, d int, a ...int64) string) (frames int) {
	t.Helper()
	for d := range p.im.Modules {
		m := &p.im.Modules[d]
		wired := s.wire.modules[d]
		do := func(text string) {
			t.Helper()
			if status, err := s.do(text); err != nil || status != 0 {
				t.Fatalf("module %d, %q: %#x, %v", d, text, status, err)
			}
		}
		do(call("b", d))
		do(call("p", d))
		next := 0
		for ms := int64(0); ms <= playedUntil; ms++ {
			for _, e := range p.events[d] {
				if e.At == ms {
					do(call("e", d, int64(e.Input), kindOfInput(m, e.Input), e.Value))
				}
			}
			do(call("k", d, 1))
			s.wire.now += time.Second / 2000 // there is time to spare
			list := p.playing[d].Frames
			for next < len(list) && list[next].Wanted <= time.Duration(ms)*time.Millisecond {
				next++
			}
			if next == 0 || next < len(list) && list[next].Dropped > 0 {
				continue
			}
			frames++
			glass := wired.rig.Moment()
			got := glass.Glass(&m.Display, m.Display.UsualContrast())
			want := &list[next-1].Glass
			if got.On != want.On || !slices.Equal(got.Cells, want.Cells) {
				t.Fatalf("module %d (%s, %s) at %d ms, scene %d, frame %d: on %v, want %v\n% X\nwant\n% X%s", d, m.Display.Geometry.Name, m.Effects[list[next-1].Scene].Kind, ms, list[next-1].Scene, next-1, got.On, want.On, codesOf(got.Cells), codesOf(want.Cells), differing(got.Cells, want.Cells))
			}
		}
		if v, _ := wired.rig.Violations(); len(v) > 0 {
			t.Fatalf("module %d: limit broken: %+v", d, v[0])
		}
	}
	return frames
}

func kindOfInput(m *firmware.Module, input int) int64 {
	return int64(slices.Index(inputKinds, m.Show.Inputs[input].Kind))
}

func codesOf(cells []rig.Cell) (out []byte) {
	for _, c := range cells {
		out = append(out, c.Code)
	}
	return out
}

// differing tells the first cell that differs.
func differing(got, want []rig.Cell) string {
	for i := range got {
		if got[i] != want[i] {
			return fmt.Sprintf("\ncell %d is %+v, want %+v", i, got[i], want[i])
		}
	}
	return ""
}

// TestStageAVR plays random shows on a simulated ATmega328P or ATmega2560: ticks of any length
// between what happens; after each the glass is that of the show played here.
func TestStageAVR(t *testing.T) {
	looked := 0
	stagedImages(t, 500, 8, func(seed uint64, p *played) {
		t.Run(fmt.Sprint(seed), func(t *testing.T) {
			dir, v := write(t, p.im, C)
			type look struct {
				d  int
				at int64
			}
			var calls []string
			var order []look
			var answering []byte
			r := rand.New(rand.NewPCG(seed, 13))
			for d := range p.im.Modules {
				m := &p.im.Modules[d]
				stage := "&" + v.Modules[d].Ident + "_stage"
				calls = append(calls, fmt.Sprintf("mark(slate_begin(&%s_display));", v.Modules[d].Ident), fmt.Sprintf("mark(slate_play(%s));", stage))
				if m.Link.Kind == link.Backpack {
					answering = append(answering, m.Link.Address)
				}
				at := int64(-1) // what was done up to now
				until := func(ms int64) {
					if ms > at {
						calls = append(calls, fmt.Sprintf("mark(slate_tick(%s, %d));", stage, ms-at))
						order = append(order, look{d, ms})
						at = ms
					}
				}
				for _, e := range p.events[d] {
					until(e.At - 1)
					name := map[int64]string{0: "button", 2: "counter", 3: "serial", 4: "signal"}[kindOfInput(m, e.Input)]
					calls = append(calls, fmt.Sprintf("slate_%s(%s, %d, %d);", name, stage, e.Input, e.Value))
					if r.IntN(2) == 0 && !slices.ContainsFunc(p.events[d], func(o show.Event) bool { return o.At == e.At && o != e }) {
						until(e.At)
					}
				}
				until(playedUntil)
			}
			mcu := strings.ToLower(p.im.Host.Part)
			s := boot(t, p.im, crossed(t, dir, mcu, v, calls), mcu, 60, false, answering...)
			defer s.end()
			begun := -1
			next := func() {
				if status := s.mark(); status != 0 {
					t.Fatalf("%#x", status)
				}
			}
			for _, l := range order {
				if l.d != begun {
					next()
					next()
					begun = l.d
				}
				next()
				list := p.playing[l.d].Frames
				n := 0
				for n < len(list) && list[n].Wanted <= time.Duration(l.at)*time.Millisecond {
					n++
				}
				if n == 0 || n < len(list) && list[n].Dropped > 0 {
					continue
				}
				looked++
				m := &p.im.Modules[l.d]
				mo := s.wire.modules[l.d].rig.Moment()
				got, want := mo.Glass(&m.Display, m.Display.UsualContrast()), &list[n-1].Glass
				if got.On != want.On || !slices.Equal(got.Cells, want.Cells) {
					t.Fatalf("module %d at %d ms: % X, want % X%s", l.d, l.at, codesOf(got.Cells), codesOf(want.Cells), differing(got.Cells, want.Cells))
				}
			}
		})
	})
	if looked < 150 {
		t.Errorf("looked at %d glasses", looked)
	}
}
