package play

import (
	"bytes"
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"testing"
	"time"

	"slatebell/core/bench"
	"slatebell/core/field"
	"slatebell/core/firmware"
	"slatebell/core/firmware/firmtest"
	"slatebell/core/rig"
	"slatebell/core/show"
)

func codes(g *rig.Glass) (out []byte) {
	for _, c := range g.Cells {
		out = append(out, c.Code)
	}
	return out
}

// staged returns a module with a show made for it at random, and events.
func staged(t *testing.T, r *rand.Rand) (*firmware.Module, *show.Show, []show.Event) {
	t.Helper()
	b := firmtest.Bench(r)
	b.Modules = b.Modules[:1]
	m := &b.Modules[0]
	if m.Link.Kind == "backpack" && r.IntN(2) == 0 {
		m.Link.Outputs.SpeedHz = 5000 // so that wishes overtake each other
	}
	m.Show = bench.Show{Inputs: []bench.Input{
		{ID: "go", Kind: "button"}, {ID: "clock", Kind: "timer", EveryMs: 20 + r.IntN(400)},
		{ID: "boats", Kind: "counter", Counter: bench.Counter{Count: 2 + r.IntN(6), Up: "clock", Down: "go"}}, {ID: "tide", Kind: "signal"},
	}}
	for i, s := range m.Screens {
		scene := bench.Scene{ID: fmt.Sprintf("s%d", i), Screen: s.ID, Off: r.IntN(6) == 0}
		for _, e := range []bench.End{{AfterMs: 50 + r.IntN(900)}, {Input: "go"}, {Input: "tide", Level: 5}} {
			if r.IntN(2) == 0 {
				e.Next = fmt.Sprintf("s%d", r.IntN(len(m.Screens)))
				scene.Ends = append(scene.Ends, e)
			}
		}
		m.Show.Scenes = append(m.Show.Scenes, scene)
		for _, f := range s.Fields {
			if f.Kind != field.Cursor && f.Kind != field.Clock {
				m.Show.Feeds = append(m.Show.Feeds, bench.Feed{Field: f.Name, Input: []string{"boats", "tide", "clock"}[r.IntN(3)]})
			}
		}
	}
	im, err := firmware.New(b)
	if err != nil {
		return nil, nil, nil
	}
	s, err := show.Of(m)
	if err != nil {
		t.Fatal(err)
	}
	var events []show.Event
	for at := int64(0); at < 3000; at += r.Int64N(300) {
		events = append(events, show.Event{At: at, Input: []int{0, 3}[r.IntN(2)], Value: float64(r.IntN(2) * (1 + r.IntN(9)))})
	}
	return &im.Modules[0], s, events
}

// TestPlay plays random shows on random modules: after every change the glass shows what a
// fresh look at the show wants then, no limit is broken, nothing is sent before it is wanted,
// and only wishes that a newer one overtook are left out.
func TestPlay(t *testing.T) {
	frames, dropped := 0, 0
	for seed := range uint64(250) {
		r := rand.New(rand.NewPCG(seed, 8))
		m, s, events := staged(t, r)
		if m == nil {
			continue
		}
		p, err := Play(m, s, events, 3000)
		if err != nil {
			t.Fatal(err)
		}
		before := time.Duration(0)
		for i := range p.Frames {
			f := &p.Frames[i]
			st := s.Begin()
			for _, e := range events {
				if moment(e.At) <= f.Wanted {
					st = s.Take(st, e)
				}
			}
			st = s.Until(st, int64(f.Wanted/time.Millisecond))
			values := m.Starts()
			for _, feed := range s.Feeds {
				for k, v := range m.Values {
					if v.Name != feed.Field {
						continue
					}
					gives := s.Gives(&st, feed.Input)
					if len(v.Words) > 0 {
						values[k].Units = min(max(int64(gives), 0), int64(len(v.Words)-1))
						continue
					}
					values[k].Units = int64(math.Round(gives * math.Pow10(v.Decimals)))
				}
			}
			scene := s.Scenes[st.Scene]
			if want := m.Shows(scene.Screen, values); !bytes.Equal(codes(&f.Glass), want) || f.Glass.On == scene.Off {
				t.Fatalf("seed %d, frame %d at %v: % X (on %v), want % X", seed, i, f.Wanted, codes(&f.Glass), f.Glass.On, want)
			}
			if f.Done < f.Wanted+f.Waited || f.Wanted+f.Waited < before || f.Waited > 0 && f.Wanted+f.Waited != before {
				t.Errorf("seed %d, frame %d: wanted %v, waited %v, done %v; the one before was done %v", seed, i, f.Wanted, f.Waited, f.Done, before)
			}
			before = f.Done
			dropped += f.Dropped
		}
		frames += len(p.Frames)
		if wishes, err := wanted(m, s, events, 3000); err != nil || len(wishes) != len(p.Frames)+p.Dropped {
			t.Errorf("seed %d: %d wishes are %d frames and %d dropped (%v)", seed, len(wishes), len(p.Frames), p.Dropped, err)
		}
		hardware, err := rig.New(m.Display, m.Link)
		if err != nil {
			t.Fatal(err)
		}
		hardware.Play(p.Program, nil)
		if v, _ := hardware.Violations(); len(v) > 0 {
			t.Errorf("seed %d: %+v", seed, v[0])
		}
	}
	if frames < 2000 || dropped < 20 {
		t.Errorf("%d frames, %d wishes dropped", frames, dropped)
	}
}

// TestBlink measures a text that is on for 1 s and off for 0.5 s, as makers blink it (common
// practice), to the millisecond, and a counter that wraps to its first word.
func TestBlink(t *testing.T) {
	b := bench.New("blink")
	m := &b.Modules[0]
	m.Screens = []bench.Screen{
		{ID: "bell", Rows: []string{"Bell rings"}},
		{ID: "boat", Rows: []string{""}, Fields: []field.Field{{Name: "Boat", Width: 8, Kind: field.Choice, Values: []string{"Heron", "Otter", "Teal"}}}},
	}
	m.Show = bench.Show{
		Scenes: []bench.Scene{
			{ID: "on", Screen: "bell", Ends: []bench.End{{AfterMs: 1000, Next: "off"}, {Input: "next", Next: "list"}}},
			{ID: "off", Screen: "bell", Off: true, Ends: []bench.End{{AfterMs: 500, Next: "on"}, {Input: "next", Next: "list"}}},
			{ID: "list", Screen: "boat"},
		},
		Inputs: []bench.Input{{ID: "next", Kind: "button"}, {ID: "boats", Kind: "counter", Counter: bench.Counter{Words: []string{"Heron", "Otter", "Teal"}, Up: "next"}}},
		Feeds:  []bench.Feed{{Field: "Boat", Input: "boats"}},
	}
	im, err := firmware.New(&b)
	if err != nil {
		t.Fatal(err)
	}
	s, err := show.Of(m)
	if err != nil {
		t.Fatal(err)
	}
	var events []show.Event
	for at := int64(4800); at < 8000; at += 1000 {
		events = append(events, show.Event{At: at, Input: 0, Value: 1}, show.Event{At: at + 100, Input: 0})
	}
	p, err := Play(&im.Modules[0], s, events, 9000)
	if err != nil {
		t.Fatal(err)
	}
	var got []string
	for _, f := range p.Frames {
		text := "off"
		if f.Glass.On {
			text = string(bytes.TrimRight(codes(&f.Glass), " "))
		}
		got = append(got, fmt.Sprintf("%d %s", f.Wanted/time.Millisecond, text))
		if f.Done-f.Wanted > 30*time.Millisecond {
			t.Errorf("%s is done %v later", got[len(got)-1], f.Done-f.Wanted)
		}
	}
	want := []string{"0 Bell rings", "1000 off", "1500 Bell rings", "2500 off", "3000 Bell rings", "4000 off", "4500 Bell rings", "4820 Otter", "5820 Teal", "6820 Heron", "7820 Otter"}
	if !slices.Equal(got, want) {
		t.Errorf("%q\nwant %q", got, want)
	}
}

// BenchmarkHour plays an hour of a clock that counts each second and a signal ten times a
// second.
func BenchmarkHour(b *testing.B) {
	doc := bench.New("hour")
	m := &doc.Modules[0]
	m.Screens[0].Rows = []string{"Tide", "s"}
	m.Screens[0].Fields = []field.Field{
		{Name: "Tide", Col: 5, Width: 5, Kind: field.Number, Range: field.Range{Max: 999}, Digits: field.Digits{Decimals: 1}},
		{Name: "Seconds", Row: 1, Col: 2, Width: 5, Kind: field.Elapsed, Range: field.Range{Max: 3600}},
	}
	m.Show = bench.Show{
		Inputs: []bench.Input{{ID: "clock", Kind: "timer"}, {ID: "tide", Kind: "signal"}},
		Feeds:  []bench.Feed{{Field: "Tide", Input: "tide"}, {Field: "Seconds", Input: "clock"}},
	}
	im, err := firmware.New(&doc)
	if err != nil {
		b.Fatal(err)
	}
	s, err := show.Of(m)
	if err != nil {
		b.Fatal(err)
	}
	var events []show.Event
	for at := int64(0); at < 3_600_000; at += 100 {
		events = append(events, show.Event{At: at, Input: 1, Value: float64(at%99_000) / 100})
	}
	for b.Loop() {
		if p, err := Play(&im.Modules[0], s, events, 3_600_000); err != nil || len(p.Frames) < 36_000 {
			b.Fatal(err, len(p.Frames))
		}
	}
}
