package play

import (
	"bytes"
	"fmt"
	"math"
	"slices"
	"strings"
	"testing"
	"time"

	"slatebell/core/bench"
	"slatebell/core/bench/edit"
	"slatebell/core/bench/show"
	"slatebell/core/say"
	"slatebell/core/ship/firmware"
	"slatebell/core/table/breadboard"
	"slatebell/core/text/field"
	"slatebell/core/text/glyph"
	"slatebell/core/wire/link"
)

// playOf plays the first module of a bench.
func playOf(t *testing.T, b *bench.Bench, events []show.Event, until int64) *Playing {
	t.Helper()
	im, err := firmware.New(b)
	if err != nil {
		t.Fatal(err)
	}
	p, err := Play(&im.Modules[0], events, until)
	if err != nil {
		t.Fatal(err)
	}
	return p
}

// TestMoves plays each effect: what is on the glass at each step, and the bytes of a step.
func TestMoves(t *testing.T) {
	drawing := func(key int, row byte) glyph.Drawing {
		return glyph.Drawing{Key: key, Name: fmt.Sprint(key), Rows: slices.Repeat([]int{int(row)}, glyph.Rows)}
	}
	for _, c := range []struct {
		effect bench.Effect
		row    int
		until  int64
		want   string
		most   int // bytes of a step
	}{
		{bench.Effect{Kind: "walk", Row: 1, Width: 5, Text: ">", EveryMs: 100}, 1, 550, ">bcde           /a>cde           /ab>de           /abc>e           /abcd>           />bcde           ", 4},
		{bench.Effect{Kind: "walk", Row: 1, Col: 1, Width: 4, Text: "<>", Back: true, EveryMs: 100}, 1, 450, "a<>de           /ab<>e           /abc<>           /ab<>e           /a<>de           ", 5},
		{bench.Effect{Kind: "scroll", Row: 0, Gap: 1, EveryMs: 250}, 0, 800, "High water at no/igh water at noo/gh water at noon/h water at noon ", 17},
		{bench.Effect{Kind: "scroll", Row: 1, Back: true, EveryMs: 100}, 1, 250, "eabcdeabcdeabcde/deabcdeabcdeabcd/cdeabcdeabcdeabc", 17},
		{bench.Effect{Kind: "shift", EveryMs: 100}, 1, 250, "abcde           /bcde            /cde             ", 1},
		{bench.Effect{Kind: "shift", Back: true, EveryMs: 100}, 1, 250, "abcde           / abcde          /  abcde         ", 1},
	} {
		b := bench.New("moves")
		b.Modules[0].Screens[0].Rows = []string{"High water at noon", "abcde"}
		b.Modules[0].Show.Scenes = []bench.Scene{{ID: "a", Screen: "screen-1", Effect: c.effect}}
		p := playOf(t, &b, nil, c.until)
		var got []string
		for i, f := range p.Frames {
			got = append(got, string(codes(&f.Glass)[c.row*16:(c.row+1)*16]))
			if i > 0 && (f.Bytes < 1 || f.Bytes > c.most) {
				t.Errorf("%s, step %d takes %d bytes, want at most %d", c.effect.Kind, i, f.Bytes, c.most)
			}
		}
		if text := strings.Join(got, "/"); text != c.want {
			t.Errorf("%+v:\n%s\nwant\n%s", c.effect, text, c.want)
		}
	}

	b := bench.New("slots")
	b.Glyphs = glyph.Library{drawing(1, 0x11), drawing(2, 0x0A), drawing(3, 0x04)}
	m := &b.Modules[0]
	m.Screens = []bench.Screen{{ID: "a", Rows: []string{"bell \uE101 \uE101"}}, {ID: "b", Rows: []string{"\uE101"}}}
	m.Show.Scenes = []bench.Scene{
		{ID: "a", Screen: "a", Effect: bench.Effect{Kind: "slots", Glyphs: []int{1, 2, 3}, EveryMs: 200}, Ends: []bench.End{{AfterMs: 500, Next: "b"}}},
		{ID: "b", Screen: "b"},
	}
	p := playOf(t, &b, nil, 1000)
	var got []byte
	for _, f := range p.Frames {
		dots := f.Glass.Cells[5].Dots
		if f.Scene == 1 {
			dots = f.Glass.Cells[0].Dots
		} else if f.Glass.Cells[7].Dots != dots {
			t.Error("two cells of one slot show different dots")
		}
		got = append(got, byte(glyph.Of(dots)[3]))
	}
	if want := []byte{0x11, 0x0A, 0x04, 0x11}; !bytes.Equal(got, want) {
		t.Errorf("slots show % X, want % X", got, want)
	}
}

// TestTyping edits a number on the glass: each stroke sends the changed cells alone, an
// address and at most two characters; it shows the mark first, and then blinks with its times.
func TestTyping(t *testing.T) {
	b := bench.New("alarm")
	m := &b.Modules[0]
	m.Screens[0].Rows = []string{"Alarm at      m"}
	m.Screens[0].Fields = []field.Field{{Name: "Alarm", Kind: field.Number, Col: 9, Width: 4, Range: field.Range{Min: 0, Max: 12}, Digits: field.Digits{Decimals: 1}, Sample: "9.8"}}
	m.Show = bench.Show{
		Scenes: []bench.Scene{{ID: "set", Screen: "screen-1", Edit: bench.Edit{Field: "Alarm", Mark: bench.EditMark{Code: '_'},
			Keys: []bench.Key{{Does: "up", Input: "up"}, {Does: "right", Input: "right"}}}}},
		Inputs: []bench.Input{{ID: "up", Kind: "button"}, {ID: "right", Kind: "button"}},
	}
	stroke := func(at int64, input int) []show.Event {
		return []show.Event{{At: at, Input: input, Value: 1}, {At: at + 50, Input: input}}
	}
	p := playOf(t, &b, slices.Concat(stroke(980, 1), stroke(1180, 0), stroke(1380, 0), stroke(1580, 0)), 2500)
	want := []string{"0  9.8", "500 _9.8", "800  9.8", "1000  _.8", "1100  9.8", "1200 1_.8", "1300 10.8", "1400 1_.8", "1500 11.8", "1600 1_.0", "1700 12.0", "2200 1_.0", "2500 12.0"}
	var got []string
	for i, f := range p.Frames {
		got = append(got, fmt.Sprintf("%d %s", f.Wanted/time.Millisecond, codes(&f.Glass)[9:13]))
		if i > 0 && f.Bytes > 4 {
			t.Errorf("%s takes %d bytes", got[i], f.Bytes)
		}
	}
	if !slices.Equal(got, want) {
		t.Errorf("%q\nwant %q", got, want)
	}
}

// TestMeter: a bar follows e^(−t/RC), step by step, and holds its peak; a tone of a tenth
// stands 20 dB below.
func TestMeter(t *testing.T) {
	b := bench.New("meter")
	m := &b.Modules[0]
	m.Screens[0].Fields = []field.Field{
		{Name: "Level", Kind: field.Bar, Width: 16, Range: field.Range{Max: 800}},
		{Name: "Volume", Kind: field.Number, Row: 1, Width: 6, Range: field.Range{Min: -99, Max: 20}, Digits: field.Digits{Decimals: 1}},
	}
	meter := func(reads string) bench.Input {
		return bench.Input{ID: reads, Kind: "signal", Signal: bench.Sensor{Meter: bench.Meter{Reads: reads, Reference: 800, FallMs: 330, HoldMs: 400}}}
	}
	m.Show = bench.Show{
		Inputs: []bench.Input{meter("linear"), meter("decibels")},
		Feeds:  []bench.Feed{{Field: "Level", Input: "linear", Peak: true}, {Field: "Volume", Input: "decibels"}},
	}
	p := playOf(t, &b, []show.Event{{At: 0, Input: 0, Value: 800}, {At: 0, Input: 1, Value: 80}, {At: 100, Input: 0, Value: 0}}, 2000)
	full := 0
	for _, f := range p.Frames {
		lit := make([]int, 16) // columns of each cell
		for i := range lit {
			for col := range 5 {
				if f.Glass.Cells[i].Dots[0]&(0x10>>col) != 0 {
					lit[i]++
				}
			}
		}
		ms := float64(f.Wanted / time.Millisecond)
		level := 80.0
		if ms > 100 {
			level = 80 * math.Exp(-(ms-100)/330)
		}
		whole := int(level / 5)
		if ms >= 500 || whole == 16 { // no peak beside it
			if got := sum(lit); ms >= 10 && math.Abs(float64(got)-level) > 2.5 {
				t.Errorf("%v ms: %d steps, want %.1f (%v)", ms, got, level, lit)
			}
		} else if ms > 100 && lit[15] != 5 {
			t.Errorf("%v ms: the peak is not marked: %v", ms, lit)
		} else {
			full++
		}
		if volume := strings.TrimSpace(string(codes(&f.Glass)[16:22])); ms > 20 && volume != "-20.0" {
			t.Errorf("%v ms: a tenth reads %s dB", ms, volume)
		}
	}
	if len(p.Frames) < 40 || full < 10 {
		t.Errorf("%d frames, %d with a peak", len(p.Frames), full)
	}
}

func sum(list []int) (n int) {
	for _, v := range list {
		n += v
	}
	return n
}

// TestSerial sends long texts at two speeds to a module behind a slow and a quick link, shown
// as they come. What is lost is computed anew: the host keeps so many characters while it
// is busy, by the times at which it was.
func TestSerial(t *testing.T) {
	lost := map[string]int{}
	for _, c := range []struct {
		name         string
		baud, buffer int
		kind         string
	}{{"slow", 9600, 0, "backpack"}, {"fast", 115200, 0, "backpack"}, {"small", 115200, 8, "backpack"}, {"none", 9600, 4, "parallel-4bit"}} {
		b := bench.New("radio")
		m := &b.Modules[0]
		if c.kind != "backpack" {
			m.Link = bench.Link{Kind: string(link.Parallel4), Pins: map[string]string{"RS": "D2", "E": "D3", "D4": "D4", "D5": "D5", "D6": "D6", "D7": "D7"}}
		}
		m.Screens[0].Fields = []field.Field{
			{Name: "Message", Kind: field.Free, Width: 16, Look: field.Look{TooLong: "scroll"}},
			{Name: "Message", Kind: field.Free, Row: 1, Width: 16, Look: field.Look{TooLong: "scroll"}},
		}
		in := bench.Input{ID: "radio", Kind: "serial", Serial: bench.Serial{Baud: c.baud, Buffer: c.buffer, Longest: 200, AsItComes: true}}
		m.Show = bench.Show{Inputs: []bench.Input{in}, Feeds: []bench.Feed{{Field: "Message", Input: "radio"}}}
		text := strings.Repeat("Heron is back, Otter is out. ", 6)
		events := show.Typed(&in, 0, 0, []byte(text))
		p := playOf(t, &b, events, 3000)
		keeps := c.buffer
		if keeps == 0 {
			keeps = 64 // common practice
		}
		var read []byte
		for _, e := range events { // busy from when a frame begins until it is done
			kept := 0
			busy := false
			for _, f := range p.Frames {
				if begins := f.Wanted + f.Waited; begins < e.Moment() && e.Moment() < f.Done {
					busy = true
					for _, o := range events {
						if o.Moment() > begins && o.Moment() <= e.Moment() {
							kept++
						}
					}
				}
			}
			if busy && kept > keeps {
				lost[c.name]++
			} else {
				read = append(read, byte(e.Value))
			}
		}
		if p.Lost != lost[c.name] {
			t.Errorf("%s: %d characters lost, want %d", c.name, p.Lost, lost[c.name])
		}
		want := fmt.Sprintf("%-32s", read[(len(read)-32+15)/16*16:]) // rows move up
		if got := string(codes(&p.Frames[len(p.Frames)-1].Glass)); got != want {
			t.Errorf("%s: in the end\n%q, want\n%q", c.name, got, want)
		}
	}
	if lost["slow"] != 0 || lost["none"] != 0 || lost["small"] < 20 {
		t.Errorf("%v", lost)
	}
}

// TestSource lets a signal follow its made-up course until it is moved by hand, and not beyond.
func TestSource(t *testing.T) {
	b := bench.New("tide")
	m := &b.Modules[0]
	m.Screens[0].Fields = []field.Field{{Name: "Tide", Kind: field.Number, Width: 4, Range: field.Range{Max: 99}, Digits: field.Digits{Decimals: 1}}}
	m.Show = bench.Show{
		Inputs: []bench.Input{{ID: "tide", Kind: "signal", Signal: bench.Sensor{Decimals: 1, Source: bench.Source{Curve: "ramp", High: 10, PeriodMs: 1000, SampleMs: 250}}}},
		Feeds:  []bench.Feed{{Field: "Tide", Input: "tide"}},
	}
	p := playOf(t, &b, []show.Event{{At: 600, Input: 0, Value: 42}, {At: 610, Input: 0, Value: 51}}, 2000)
	var got []string
	for _, f := range p.Frames {
		got = append(got, fmt.Sprintf("%d %s", f.Wanted/time.Millisecond, codes(&f.Glass)[:4]))
	}
	if want := []string{"0  0.0", "250  2.5", "500  5.0", "600  4.2", "610  5.1"}; !slices.Equal(got, want) {
		t.Errorf("%q, want %q", got, want)
	}
}

// TestTogether plays two modules on one bus: the host serves one at a time, what has waited
// longest first, and each glass shows what its own show wants.
func TestTogether(t *testing.T) {
	b := bench.New("two")
	b.Modules = append(b.Modules, bench.NewModule("second", ""))
	b.Modules[1].Link.Outputs.Address = 0x26
	b.Bus.SpeedHz = 20_000
	for i := range b.Modules {
		m := &b.Modules[i]
		m.Screens[0].Fields = []field.Field{{Name: "Tide", Kind: field.Number, Width: 5, Range: field.Range{Max: 9999}}}
		m.Show = bench.Show{Inputs: []bench.Input{{ID: "tide", Kind: "signal", Signal: bench.Sensor{Source: bench.Source{Curve: "ramp", High: 9999, PeriodMs: 5000, SampleMs: 3}}}}, Feeds: []bench.Feed{{Field: "Tide", Input: "tide"}}}
	}
	im, err := firmware.New(&b)
	if err != nil {
		t.Fatal(err)
	}
	var parts []Track
	for i := range b.Modules {
		parts = append(parts, Track{Module: &im.Modules[i]})
	}
	all, err := All(parts, 2000)
	if err != nil {
		t.Fatal(err)
	}
	type span struct{ from, to time.Duration }
	var busy []span
	for i := range all {
		if n := len(all[i].Frames); n < 100 || all[i].Dropped < 20 {
			t.Errorf("module %d: %d frames, %d overtaken", i, n, all[i].Dropped)
		}
		for _, f := range all[i].Frames {
			busy = append(busy, span{f.Wanted + f.Waited, f.Done})
		}
		last := all[i].Frames[len(all[i].Frames)-1]
		if got := strings.TrimSpace(string(codes(&last.Glass))); got != "3996" {
			t.Errorf("module %d shows %s in the end", i, got)
		}
	}
	slices.SortFunc(busy, func(a, b span) int { return int(a.from - b.from) })
	for i := 1; i < len(busy); i++ {
		if busy[i].from < busy[i-1].to {
			t.Errorf("the host sends %v while it sends %v", busy[i], busy[i-1])
		}
	}
}

// TestJudge says by how much updates fall behind and what a line loses; what it proposes
// brings just what its label says.
func TestJudge(t *testing.T) {
	b := bench.New("behind")
	m := &b.Modules[0]
	b.Bus.SpeedHz = 10_000
	m.Link.Outputs.Transactions = "byte"
	m.Screens[0].Fields = []field.Field{{Name: "Tide", Kind: field.Number, Width: 5, Range: field.Range{Max: 9999}}, {Name: "Message", Kind: field.Free, Row: 1, Width: 16}}
	radio := bench.Input{ID: "radio", Kind: "serial", Serial: bench.Serial{Baud: 9600, Buffer: 4, AsItComes: true}}
	m.Show = bench.Show{
		Inputs: []bench.Input{{ID: "tide", Kind: "signal", Signal: bench.Sensor{Source: bench.Source{Curve: "ramp", High: 9999, SampleMs: 5}}}, radio},
		Feeds:  []bench.Feed{{Field: "Tide", Input: "tide"}, {Field: "Message", Input: "radio"}},
	}
	events := show.Typed(&radio, 1, 0, []byte("Otter has passed the weir\n"))
	found, err := Judge(&b, 0, events, 1000, nil)
	if err != nil {
		t.Fatal(err)
	}
	p := playOf(t, &b, events, 1000)
	late, longest := 0, time.Duration(0)
	for _, f := range p.Frames {
		if f.Waited > 0 {
			late++
		}
		longest = max(longest, f.Waited)
	}
	if len(found) != 2 || found[0].Code != "play.behind" || found[1].Code != "play.lost" {
		t.Fatalf("%+v", found)
	}
	for _, want := range []string{fmt.Sprintf("%d of %d changes waited", late, len(p.Frames)), say.Milliseconds(longest), fmt.Sprintf("%d were overtaken", p.Dropped)} {
		if !strings.Contains(found[0].What, want) {
			t.Errorf("%s: no %q", found[0].What, want)
		}
	}
	if want := fmt.Sprintf("%d characters of a serial line", p.Lost); !strings.HasPrefix(found[1].What, want) {
		t.Errorf("%s, want %s", found[1].What, want)
	}
	played := 0
	for _, f := range found {
		if len(f.Remedies) < 1 {
			t.Errorf("%s has %d remedies", f.Code, len(f.Remedies))
		}
		for _, r := range f.Remedies {
			mended, err := edit.Remedied(&b, r)
			if err != nil {
				t.Fatalf("%s: %v", r.Label, err)
			}
			p := playOf(t, &mended, events, 1000)
			says := fmt.Sprintf(": %d overtaken", p.Dropped)
			if f.Code == "play.lost" {
				says = fmt.Sprintf(": %d lost", p.Lost)
			}
			if !strings.Contains(r.Label, says) {
				t.Errorf("%s, yet%s", r.Label, says)
			}
			played++
		}
	}
	if played < 3 {
		t.Errorf("%d remedies", played)
	}
}

// BenchmarkEight plays a second of eight modules behind backpacks on one host, as a page asks for it: a
// bar and a number each, moved sixty times a second.
func BenchmarkEight(b *testing.B) {
	doc := bench.New("eight")
	doc.Modules = nil
	for i := range 8 {
		m := bench.NewModule(fmt.Sprintf("m%d", i), "")
		m.Link.Outputs.Address = 0x20 + i
		m.Screens[0].Fields = []field.Field{{Name: "Level", Kind: field.Bar, Width: 12, Range: field.Range{Max: 1000}}, {Name: "Tide", Row: 1, Kind: field.Number, Width: 5, Range: field.Range{Max: 999}}}
		m.Show = bench.Show{
			Scenes: []bench.Scene{{ID: "a", Screen: "screen-1"}},
			Inputs: []bench.Input{{ID: "level", Kind: "signal"}},
			Feeds:  []bench.Feed{{Field: "Level", Input: "level"}, {Field: "Tide", Input: "level"}},
		}
		doc.Modules = append(doc.Modules, m)
	}
	im, err := firmware.New(&doc)
	if err != nil {
		b.Fatal(err)
	}
	frames := 0
	var live *Live
	for b.Loop() {
		if live == nil || live.Now() > 3_500_000 {
			var parts []Track
			for i := range im.Modules {
				parts = append(parts, Track{Module: &im.Modules[i]})
			}
			if live, err = Begin(parts); err != nil {
				b.Fatal(err)
			}
		}
		for n := range int64(60) { // as a page asks for them
			at := live.Now() + 16
			for part := range 8 {
				live.Happens(part, show.Event{At: at, Value: (n*37 + int64(part)*111) % 1000})
			}
			for _, p := range live.Until(at) {
				frames += len(p.Frames)
			}
		}
	}
	b.ReportMetric(float64(frames)/b.Elapsed().Seconds(), "frames/s")
}

// TestWiredInputs plays a button by its wires as they lie: one whose contact is always closed turns the show at
// the beginning and never again, one whose wire is open never turns it.
func TestWiredInputs(t *testing.T) {
	b := bench.New("Landing")
	m := bench.NewModule("hall", "Hall")
	m.Screens = []bench.Screen{{ID: "day", Rows: []string{"Day"}}, {ID: "night", Rows: []string{"Night"}}}
	m.Show.Inputs = []bench.Input{{ID: "bell", Kind: "button", Pin: "D2"}}
	m.Show.Scenes = []bench.Scene{{ID: "day", Screen: "day", Ends: []bench.End{{Input: "bell", Next: "night"}}}, {ID: "night", Screen: "night", Ends: []bench.End{{Input: "bell", Next: "day"}}}}
	b.Modules = []bench.Module{m}
	laid, err := breadboard.Plan(&b)
	if err != nil {
		t.Fatal(err)
	}
	im, err := firmware.New(&b)
	if err != nil {
		t.Fatal(err)
	}
	var events []show.Event
	for at := int64(500); at < 3000; at += 500 {
		events = append(events, show.Event{At: at, Value: 1}, show.Event{At: at + 100})
	}
	for _, c := range []struct {
		name   string
		change func(w *bench.Wiring)
		scenes int
	}{
		{"as planned", func(*bench.Wiring) {}, 6},
		{"both of its legs on one strip", func(w *bench.Wiring) {
			w.Wires = append(w.Wires, bench.Wire{From: "host/D2", To: "host/GND2"})
		}, 2},
		{"its wire is taken away", func(w *bench.Wiring) {
			w.Wires = slices.DeleteFunc(w.Wires, func(w bench.Wire) bool { return w.From == "host/D2" || w.To == "host/D2" })
		}, 1},
	} {
		other := b
		other.Wiring = laid
		other.Wiring.Wires = slices.Clone(laid.Wires)
		c.change(&other.Wiring)
		played, err := All([]Track{{Module: &im.Modules[0], Events: events, Lines: breadboard.Lay(&other).Lines(0)}}, 4000)
		if err != nil {
			t.Fatal(err)
		}
		if got := len(played[0].Scenes); got != c.scenes {
			t.Errorf("%s: %d scenes, want %d", c.name, got, c.scenes)
		}
	}
}
