package codegen

import (
	"fmt"
	"math/rand/v2"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"slatebell/codegen/layout"
	"slatebell/core/bench"
	"slatebell/core/bench/show"
	"slatebell/core/ship/firmware"
	"slatebell/core/ship/firmware/firmtest"
	"slatebell/core/ship/play"
	"slatebell/core/text/field"
	"slatebell/core/wire/link"
	"slatebell/core/wire/rig"
	"slatebell/server/demo"
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

// TestStage plays random shows by the interpreter in C with the same events, ticks as
// long as what happens lies apart: at every change the glass is that of the show played here, as soon as
// that has been sent.
func TestStage(t *testing.T) {
	frames := 0
	stagedImages(t, 0, 10, func(seed uint64, p *played) {
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
	if frames < 150 {
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
		next, at := 0, int64(-1) // what was done up to now
		until := func(ms int64) {
			if ms > at {
				do(call("k", d, ms-at))
				s.wire.now += time.Duration(ms-at) * time.Millisecond
				at = ms
			}
		}
		for _, ms := range p.moments(d) {
			for _, e := range p.events[d] {
				if e.At == ms {
					until(ms - 1)
					do(call("e", d, int64(e.Input), kindOfInput(m, e.Input), e.Value))
				}
			}
			until(ms)
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

// moments are when something happens, or another glass is wanted, and some between, in
// milliseconds.
func (p *played) moments(d int) []int64 {
	list := []int64{0, playedUntil / 3, playedUntil}
	for _, e := range p.events[d] {
		list = append(list, e.At)
	}
	for i := range p.playing[d].Frames {
		if at := int64(p.playing[d].Frames[i].Wanted / time.Millisecond); at <= playedUntil {
			list = append(list, at)
		}
	}
	slices.Sort(list)
	return slices.Compact(list)
}

func kindOfInput(m *firmware.Module, input int) int64 {
	return int64(slices.Index(layout.InputKinds, m.Show.Inputs[input].Kind))
}

func codesOf(cells []rig.ShownCell) (out []byte) {
	for _, c := range cells {
		out = append(out, c.Code)
	}
	return out
}

// TestExampleStage builds the demo's example as its user would, and runs it for eight seconds on
// a simulated ATmega328P: each display plays its show, the screens one after the other.
func TestExampleStage(t *testing.T) {
	b := demo.Bench()
	im, err := firmware.New(&b)
	if err != nil {
		t.Fatal(err)
	}
	dir, _ := write(t, im, C)
	markWaits(t, filepath.Join(dir, "port_avr.c"))
	if said := run(t, dir, "make", "-s", "AVR_CC=avr-gcc -Werror", "atmega328p"); said != "" {
		t.Errorf("make says %s", said)
	}
	flash, ram := sizes(t, filepath.Join(dir, "firmware.elf"))
	t.Logf("%d bytes of flash, %d of RAM", flash, ram)
	s := boot(t, im, filepath.Join(dir, "firmware.elf"), "atmega328p", 10, false, im.Modules[0].Link.Address)
	seen := make([][]string, len(im.Modules))
	look := func() {
		for d, one := range s.wire.modules {
			mo := one.rig.Moment()
			glass := mo.Glass(&one.m.Display, 0.9)
			text := string(codesOf(glass.Cells[:10]))
			if list := seen[d]; glass.On && (len(list) == 0 || list[len(list)-1] != text) && s.wire.now > time.Second/2 {
				seen[d] = append(list, text)
			}
		}
	}
	before := time.Duration(0)
	for s.wire.now < 8500*time.Millisecond {
		if _, _, ok := s.next(); !ok {
			break
		}
		if s.wire.now-before > 50*time.Millisecond { // what was sent before is whole
			look()
		}
		before = s.wire.now
	}
	look()
	for d, want := range [][]string{{"QUILLFISH ", "\x08 14:05 \x01 "}, {"\x01 Tide 2.0"}, {"Slip clear", "Wind at th"}} {
		if d == 1 {
			seen[d] = seen[d][:1] // no signal is read: the tide stands still
		}
		if !slices.Equal(seen[d], want) {
			t.Errorf("%s shows %q, want %q", im.Modules[d].Name, seen[d], want)
		}
	}
	for d, one := range s.wire.modules {
		if v, _ := one.rig.Violations(); len(v) > 0 {
			t.Errorf("%s: %+v", im.Modules[d].Name, v[0])
		}
	}
}

// TestStageMicroPython plays random shows by the interpreter in MicroPython, as TestStage does.
func TestStageMicroPython(t *testing.T) {
	frames := 0
	stagedImages(t, 100, 5, func(seed uint64, p *played) {
		t.Run(fmt.Sprint(seed), func(t *testing.T) {
			dir, v := write(t, p.im, MicroPython)
			numbered(t, p.im, filepath.Join(dir, v.File+".py"))
			s := python(t, p.im, dir, v, "testdata/machine.py")
			frames += p.follow(t, s, func(call string, d int, a ...int64) string {
				name := "displays." + v.Modules[d].Ident + "_"
				switch call {
				case "b":
					return name + "begin()"
				case "p":
					return name + "play()"
				case "k":
					return fmt.Sprintf("%stick(%d)", name, a[0])
				}
				return fmt.Sprintf("%sstage.%s(%d, %d)", name, layout.InputKinds[a[1]], a[0], a[2])
			})
		})
	})
	if frames < 100 {
		t.Errorf("%d changes of glasses", frames)
	}
}

// TestEditCalls edits a number by calls of the program, in both languages: within its limits, accepted
// and cancelled.
func TestEditCalls(t *testing.T) {
	b := smallBench(t)
	m := &b.Modules[0]
	m.Screens[0].Fields = []field.Field{{Name: "Alarm", Kind: field.Number, Width: 4, Range: field.Range{Min: 0.5, Max: 12}, Digits: field.Digits{Decimals: 1}, Sample: "9.8"}}
	m.Show = bench.Show{Scenes: []bench.Scene{
		{ID: "set", Screen: m.Screens[0].ID, Edit: bench.Edit{Field: "Alarm", Mark: bench.EditMark{OnMs: 10000}}, Ends: []bench.End{{On: "cancel", Next: "set"}, {On: "accept", Next: "set"}}},
	}}
	im, err := firmware.New(&b)
	if err != nil {
		t.Fatal(err)
	}
	const left, right, up, down, next, accept, cancel = 0, 1, 2, 3, 4, 5, 6
	for _, as := range []Language{C, MicroPython} {
		dir, v := write(t, im, as)
		ident := v.Modules[0].Ident
		var s *session
		begin, tick, edit := "b 0", "k 0 110", "e 0 0 5 %d" // behind the mark that a step shows first
		if as == C {
			s = start(t, im, dir, v)
		} else {
			s = python(t, im, dir, v, "testdata/machine.py")
			begin, tick, edit = "displays."+ident+"_begin()", "displays."+ident+"_tick(110)", "displays."+ident+"_edit(%d)"
		}
		for _, call := range []string{begin, map[Language]string{C: "p 0", MicroPython: "displays." + ident + "_play()"}[as]} {
			if status, err := s.do(call); err != nil || status != 0 {
				t.Fatalf("%s: %v: %s", call, err, s.out.Text())
			}
		}
		for i, c := range []struct {
			does int
			want string
		}{{up, "12.0"}, {cancel, " 9.8"}, {right, " 9.8"}, {up, "10.8"}, {right, "10.8"}, {down, "10.7"}, {right, "10.7"}, {accept, "10.7"}, {down, " 0.7"}, {down, " 0.5"}, {left, " 0.5"}, {next, " 0.5"}, {next, " 0.5"}, {next, " 0.5"}, {up, "10.5"}} {
			for _, call := range []string{fmt.Sprintf(edit, c.does), tick} {
				if status, err := s.do(call); err != nil || status != 0 {
					t.Fatalf("%s, %s: %v: %s", as, call, err, s.out.Text())
				}
			}
			mo := s.wire.modules[0].rig.Moment()
			if got := string(codesOf(mo.Glass(&im.Modules[0].Display, 0.9).Cells[:4])); got != c.want {
				t.Errorf("%s, call %d: %q, want %q", as, i, got, c.want)
			}
		}
	}
}

// TestStageNoAllocation plays random shows with MicroPython's heap locked: no tick and nothing
// that happens allocates.
func TestStageNoAllocation(t *testing.T) {
	stagedImages(t, 300, 5, func(seed uint64, p *played) {
		dir, v := write(t, p.im, MicroPython)
		s := python(t, p.im, dir, v, "testdata/quiet.py")
		do := func(call string) {
			t.Helper()
			if status, err := s.do(call); err != nil || status != 0 {
				t.Fatalf("seed %d, %s: %v: %s", seed, call, err, s.out.Text())
			}
		}
		for d := range p.im.Modules {
			name := "displays." + v.Modules[d].Ident + "_"
			do(name + "begin()")
			do(fmt.Sprintf("locked(lambda: %splay())", name))
			at := int64(0)
			for _, e := range p.events[d] {
				do(fmt.Sprintf("locked(lambda: %stick(%d))", name, e.At-at))
				do(fmt.Sprintf("locked(lambda: %sstage.%s(%d, %d))", name, layout.InputKinds[kindOfInput(&p.im.Modules[d], e.Input)], e.Input, e.Value))
				at = e.At
			}
			do(fmt.Sprintf("locked(lambda: %stick(1000))", name))
		}
	})
}

// differing tells the first cell that differs.
func differing(got, want []rig.ShownCell) string {
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
	stagedImages(t, 500, 5, func(seed uint64, p *played) {
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
