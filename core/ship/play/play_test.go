package play

import (
	"bytes"
	"fmt"
	"math"
	"math/big"
	"math/rand/v2"
	"slices"
	"strconv"
	"testing"
	"time"

	"slatebell/core/bench"
	"slatebell/core/bench/show"
	"slatebell/core/ship/firmware"
	"slatebell/core/ship/firmware/firmtest"
	"slatebell/core/text/field"
	"slatebell/core/wire/rig"
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
	firmtest.Stage(r, m)
	im, err := firmware.New(b)
	if err != nil {
		return nil, nil, nil
	}
	return &im.Modules[0], im.Modules[0].Show, firmtest.Script(r, m, 3000)
}

// expected is what a glass shows of what a show wants at a time, by a fresh look at it.
func expected(t *testing.T, m *firmware.Module, s *show.Show, st *show.State) []byte {
	values := m.Starts()
	for _, feed := range s.Feeds {
		for k, v := range m.Values {
			if v.Name != feed.Field || v.Kind == field.Tape {
				continue
			}
			gives := s.Gives(st, feed.Input)
			within := func(units int64) int64 {
				exact := new(big.Rat).SetFrac64(units*int64(math.Pow10(v.Decimals)), int64(math.Pow10(gives.Decimals)))
				rounded, err := strconv.ParseInt(exact.FloatString(0), 10, 64) // halves away from zero
				if err != nil {
					t.Fatal(err)
				}
				if v.Cut {
					rounded = new(big.Int).Quo(exact.Num(), exact.Denom()).Int64()
				}
				return min(max(rounded, v.Low), v.High)
			}
			switch {
			case v.Kind == field.Free:
				values[k].Codes = gives.Text
			case len(v.Words) > 0:
				values[k].Units = min(max(gives.Units, 0), int64(len(v.Words)-1))
			case v.Kind == field.Bar && feed.Peak:
				values[k].Units, values[k].Above = within(gives.Units), within(gives.Peak)-within(gives.Units)
			case feed.Peak:
				values[k].Units = within(gives.Peak)
			default:
				values[k].Units = within(gives.Units)
			}
		}
	}
	scene := s.Scenes[st.Scene]
	for i, e := range s.Edited {
		for k, v := range m.Values {
			if v.Name == e.Name && v.Kind == e.Kind && v.Decimals == e.Decimals && slices.Equal(v.Words, e.Words) {
				values[k].Units, values[k].Codes = st.Edited[i].Units, st.Edited[i].Codes
				if scene.Edit != nil && scene.Edit.Field == i {
					values[k].Units, values[k].Codes = st.Typing.Units, st.Typing.Codes
					if (st.Now-st.Typing.Began)%(scene.Edit.On+scene.Edit.Off) >= scene.Edit.On {
						values[k].Mark = firmware.EditPlace{Place: st.Typing.Place + 1, Code: scene.Edit.Mark}
					}
				}
			}
		}
	}
	effect := m.Effects[st.Scene]
	shift := 0
	if e := scene.Effect; e != nil {
		step := (st.Now - st.Since) / e.Every % e.Steps
		switch effect.Kind {
		case "walk", "scroll":
			values[effect.Value].Units = effect.Tape.Start(step)
		case "shift":
			if shift = int(step); effect.Back {
				shift = -shift
			}
		}
	}
	codes := m.Shows(scene.Screen, values)
	if shift == 0 {
		return codes
	}
	g := &m.Display.Geometry // what stands beyond the glass was cleared
	memory := [2][128]byte{}
	for i := range memory {
		for a := range memory[i] {
			memory[i][a] = ' '
		}
	}
	line, length := func(a uint8) int { return 0 }, 80
	if g.TwoLine {
		line, length = func(a uint8) int { return int(a &^ 0x3F) }, 40
	}
	for i, code := range codes {
		controller, a, _ := g.Locate(i/g.Cols, i%g.Cols)
		memory[controller][a] = code
	}
	for i := range codes {
		controller, a, _ := g.Locate(i/g.Cols, i%g.Cols)
		from := line(a)
		codes[i] = memory[controller][from+((int(a)-from+shift)%length+length)%length]
	}
	return codes
}

// TestPlay plays random shows on random modules: after every change the glass shows what a
// fresh look at the show wants then, no limit is broken, nothing is sent before it is wanted,
// and only wishes that a newer one overtook are left out.
func TestPlay(t *testing.T) {
	frames, dropped, kinds := 0, 0, map[string]int{}
	for seed := range uint64(250) {
		r := rand.New(rand.NewPCG(seed, 8))
		m, s, events := staged(t, r)
		if m == nil {
			continue
		}
		p, err := Play(m, events, 3000)
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
			scene := s.Scenes[st.Scene]
			if want := expected(t, m, s, &st); !bytes.Equal(codes(&f.Glass), want) || f.Glass.On == scene.Off {
				t.Fatalf("seed %d, frame %d at %v: % X (on %v), want % X", seed, i, f.Wanted, codes(&f.Glass), f.Glass.On, want)
			}
			if f.Done < f.Wanted+f.Waited || f.Wanted+f.Waited < before || f.Waited > 0 && f.Wanted+f.Waited != before {
				t.Errorf("seed %d, frame %d: wanted %v, waited %v, done %v; the one before was done %v", seed, i, f.Wanted, f.Waited, f.Done, before)
			}
			before = f.Done
			kinds[m.Effects[st.Scene].Kind]++
			if scene.Edit != nil {
				kinds["edit"]++
			}
			dropped += f.Dropped
		}
		frames += len(p.Frames)
		// with a host that takes no time every wish is a frame
		st, err := newStage(&Track{Module: m, Events: events})
		if err != nil {
			t.Fatal(err)
		}
		wishes := 1
		for at, ok := st.next(3000); ok; at, ok = st.next(3000) {
			st.waits = false
			if st.pass(at, false); st.waits && at > 0 {
				wishes++
			}
		}
		if wishes != len(p.Frames)+p.Dropped {
			t.Errorf("seed %d: %d wishes are %d frames and %d dropped", seed, wishes, len(p.Frames), p.Dropped)
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
	for _, kind := range []string{"walk", "scroll", "shift", "slots", "edit"} {
		if kinds[kind] < 100 {
			t.Errorf("%d frames of %s", kinds[kind], kind)
		}
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
	var events []show.Event
	for at := int64(4800); at < 8000; at += 1000 {
		events = append(events, show.Event{At: at, Input: 0, Value: 1}, show.Event{At: at + 100, Input: 0})
	}
	p, err := Play(&im.Modules[0], events, 9000)
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
		Inputs: []bench.Input{{ID: "clock", Kind: "timer"}, {ID: "tide", Kind: "signal", Signal: bench.Sensor{Decimals: 1}}},
		Feeds:  []bench.Feed{{Field: "Tide", Input: "tide"}, {Field: "Seconds", Input: "clock"}},
	}
	im, err := firmware.New(&doc)
	if err != nil {
		b.Fatal(err)
	}
	var events []show.Event
	for at := int64(0); at < 3_600_000; at += 100 {
		events = append(events, show.Event{At: at, Input: 1, Value: at % 99_000 / 10})
	}
	for b.Loop() {
		if p, err := Play(&im.Modules[0], events, 3_600_000); err != nil || len(p.Frames) < 36_000 {
			b.Fatal(err, len(p.Frames))
		}
	}
}

// TestLive plays random shows in pieces, with their events as they come: frames, glass and
// bytes are those of the same show played at once. A step stops where something else is
// wanted.
func TestLive(t *testing.T) {
	pieces, stepped := 0, 0
	for seed := range uint64(120) {
		r := rand.New(rand.NewPCG(seed, 21))
		m, _, events := staged(t, r)
		if m == nil {
			continue
		}
		whole, err := Play(m, events, 3000)
		if err != nil {
			t.Fatal(err)
		}
		live, err := Begin([]Track{{Module: m}})
		if err != nil {
			t.Fatal(err)
		}
		var frames []Frame
		lost := 0
		for now := int64(0); now < 4000; {
			next := now + 1 + r.Int64N(200)
			for _, e := range events {
				if e.At >= now && e.At < next && e.At <= 3000 {
					live.Happens(0, e)
				}
			}
			pieces++
			if r.IntN(3) == 0 && next < 3000 {
				got := live.Step(next - 1)
				frames = append(frames, got[0].Frames...)
				lost += got[0].Lost
				stepped += len(got[0].Frames)
			}
			got := live.Until(min(max(next-1, live.Now()), 3000))
			frames = append(frames, got[0].Frames...)
			lost += got[0].Lost
			now = max(next, live.Now()+1)
		}
		live.serve(0, false)
		frames = append(frames, live.taken()[0].Frames...)
		if len(frames) != len(whole.Frames) || lost != whole.Lost {
			t.Fatalf("seed %d: %d frames and %d lost in pieces, %d and %d at once", seed, len(frames), lost, len(whole.Frames), whole.Lost)
		}
		for i := range frames {
			a, b := &frames[i], &whole.Frames[i]
			if a.Wanted != b.Wanted || a.Done != b.Done || a.Bytes != b.Bytes || a.Wire != b.Wire || a.Dropped != b.Dropped || !slices.Equal(a.Glass.Cells, b.Glass.Cells) {
				t.Fatalf("seed %d, frame %d: %v–%v, %d bytes in pieces; %v–%v, %d bytes at once", seed, i, a.Wanted, a.Done, a.Bytes, b.Wanted, b.Done, b.Bytes)
			}
		}
	}
	if pieces < 1000 || stepped < 100 {
		t.Errorf("%d pieces, %d frames by steps", pieces, stepped)
	}
}
