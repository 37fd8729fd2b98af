package show

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"slatebell/core/bench"
	"slatebell/core/bench/edit"
	"slatebell/core/text/field"
)

// slow plays a show millisecond by millisecond, by the names of its document: it shares
// nothing with Show.
type slow struct {
	doc   *bench.Show
	scene string
	since int
	raw   map[string]bool
	held  map[string]int // how long the level has held
	down  map[string]bool
	press map[string]int // how long it is down; -1 once it was told that it is long
	ticks map[string]int
	count map[string]int
	value map[string]float64
	over  map[string]bool // by scene and number of the end
	came  map[string]bool // scenes that were entered
	taken map[string]bool // ends, as over

	shown, coming map[string]string // of serial lines
	silent        map[string]int    // since the last character
	returned      map[string]bool
	kept          string // what was typed on the device last
	typed         string // digits of what is being typed
	place, since0 int    // place from the left; when its character was shown anew
	key           int    // that is held
	repeats       []int  // when it is done again
}

// alarm is the field that random shows edit: three cells of digits, free text.
const alarm = "Alarm"

func newSlow(doc *bench.Show) *slow {
	s := &slow{doc, doc.Start, 0, map[string]bool{}, map[string]int{}, map[string]bool{}, map[string]int{}, map[string]int{}, map[string]int{}, map[string]float64{}, map[string]bool{}, map[string]bool{}, map[string]bool{},
		map[string]string{}, map[string]string{}, map[string]int{}, map[string]bool{}, "000", "000", 0, 0, -1, nil}
	if s.scene == "" {
		s.scene = doc.Scenes[0].ID
	}
	for _, in := range doc.Inputs {
		s.value[in.ID] = in.Signal.Start
	}
	s.levels("", in0)
	return s
}

// in0 stands for no input: all levels are looked at, and nothing ends.
const in0 = "\x00"

func (s *slow) in(id string) *bench.Input {
	for i := range s.doc.Inputs {
		if s.doc.Inputs[i].ID == id {
			return &s.doc.Inputs[i]
		}
	}
	return nil
}

func (s *slow) here() *bench.Scene {
	for i := range s.doc.Scenes {
		if s.doc.Scenes[i].ID == s.scene {
			return &s.doc.Scenes[i]
		}
	}
	return nil
}

// does lets an input do something; it reports whether the scene ended.
func (s *slow) does(input, what string, t int) bool {
	for k, e := range s.here().Ends {
		on := e.On
		if on == "" && e.Input != "" {
			on = map[string]string{"button": "press", "timer": "tick", "counter": "step", "signal": "above", "serial": "line"}[s.in(e.Input).Kind]
		}
		if e.Input == input && on == what {
			s.enter(k, e.Next, t)
			return true
		}
	}
	return false
}

// enter notes which end was taken.
func (s *slow) enter(end int, next string, t int) {
	s.taken[fmt.Sprint(s.scene, end)] = true
	s.scene, s.since, s.came[next] = next, t, true
	s.typed, s.place, s.since0, s.key, s.repeats = s.kept, 0, t, -1, nil
}

// char takes a character of a serial line.
func (s *slow) char(in *bench.Input, c byte, t int) {
	after := s.returned[in.ID]
	s.returned[in.ID], s.silent[in.ID] = c == 13, 0
	switch {
	case c == 10 && after:
	case c == 10 || c == 13:
		s.shown[in.ID], s.coming[in.ID] = s.coming[in.ID], ""
		s.does(in.ID, "line", t)
	case c == 12:
		s.shown[in.ID], s.coming[in.ID] = "", ""
	case c >= 32:
		if len(s.coming[in.ID]) < in.Serial.Longest {
			s.coming[in.ID] += string(rune(c))
		}
		if in.Serial.AsItComes {
			s.shown[in.ID] = s.coming[in.ID]
		}
	}
}

// act does what a key of the scene does; it reports whether the scene ended.
func (s *slow) act(k, t int) bool {
	digits := []rune(s.typed)
	mark := 40 // first the mark, for half of the time to the next step at most, then the character
	for _, at := range s.repeats {
		if at > t {
			mark = min(mark, (at-t)/2)
			break
		}
	}
	s.since0 = t - 110 + mark
	switch does := s.here().Edit.Keys[k].Does; {
	case does == "left" && s.place > 0:
		s.place--
	case does == "right" && s.place < 2, does == "next" && s.place < 2:
		s.place++
	case does == "up":
		if digits[s.place]++; digits[s.place] > '9' {
			digits[s.place] = '0'
		}
	case does == "down":
		if digits[s.place]--; digits[s.place] < '0' {
			digits[s.place] = '9'
		}
	case does == "accept", does == "next":
		s.kept = s.typed
		return s.does("", "accept", t)
	case does == "cancel":
		s.typed = s.kept
		return s.does("", "cancel", t)
	}
	s.typed = string(digits)
	return false
}

// press lets a button be a key; it reports whether the scene ended.
func (s *slow) press0(input, what string, t int) bool {
	for k, key := range s.here().Edit.Keys {
		if key.Input != input {
			continue
		}
		if what == "release" {
			if s.key == k {
				s.key, s.repeats = -1, nil
			}
			return false
		}
		s.key, s.repeats = k, nil
		if does := key.Does; does == "left" || does == "right" || does == "up" || does == "down" {
			for i, at := 0, t+60; i < 400; i++ { // after 60 ms, each 30, after three each 10
				s.repeats = append(s.repeats, at)
				at += 30
				if i >= 2 {
					at -= 20
				}
			}
		}
		return s.act(k, t)
	}
	return false
}

func (s *slow) steps(id string, by, t int, ended bool) bool {
	c := s.in(id).Counter
	n := max(len(c.Words), c.Count)
	before := s.count[id]
	for range max(by, -by) {
		next := s.count[id] + by/max(by, -by)
		switch {
		case n > 0 && next == n && c.Stops, n > 0 && next < 0 && c.Stops:
			next = s.count[id]
		case n > 0 && next == n:
			next = 0
		case n > 0 && next < 0:
			next = n - 1
		}
		s.count[id] = next
	}
	return s.count[id] != before && !ended && s.does(id, "step", t)
}

// and lets counters follow a button or a timer, before its own doing ends a scene.
func (s *slow) and(input, what string, t int) {
	ended := false
	if what == "press" || what == "tick" {
		for _, in := range s.doc.Inputs {
			if in.Counter.Up == input {
				ended = s.steps(in.ID, 1, t, ended) || ended
			}
			if in.Counter.Down == input {
				ended = s.steps(in.ID, -1, t, ended) || ended
			}
		}
	}
	if what == "press" {
		for _, in := range s.doc.Inputs {
			if in.Serial.Reset == input {
				s.shown[in.ID], s.coming[in.ID], s.silent[in.ID], s.returned[in.ID] = "", "", 0, false
			}
		}
	}
	if !ended && (what == "press" || what == "release") {
		ended = s.press0(input, what, t)
	}
	if !ended {
		s.does(input, what, t)
	}
}

// levels looks at a signal, or with in0 at all for the first time.
func (s *slow) levels(from, input string) (end int, next string) {
	for _, scene := range s.doc.Scenes {
		for k, e := range scene.Ends {
			if e.Input == "" || s.in(e.Input).Kind != "signal" || input != in0 && e.Input != input {
				continue
			}
			key := fmt.Sprint(scene.ID, k)
			v, h, was := s.value[e.Input], s.in(e.Input).Signal.Hysteresis, s.over[key]
			if input == in0 {
				h = 0
			}
			if e.On == "below" { // over: not below
				if v < e.Level {
					s.over[key] = false
				} else if v >= e.Level+h {
					s.over[key] = true
				}
				if was && !s.over[key] && scene.ID == from && next == "" {
					end, next = k, e.Next
				}
				continue
			}
			if v > e.Level {
				s.over[key] = true
			} else if v <= e.Level-h {
				s.over[key] = false
			}
			if !was && s.over[key] && scene.ID == from && next == "" {
				end, next = k, e.Next
			}
		}
	}
	return end, next
}

// at does everything of one millisecond: events first.
func (s *slow) at(t int, events []Event) {
	for _, in := range s.doc.Inputs {
		s.held[in.ID]++
		s.silent[in.ID]++
		if s.down[in.ID] && s.press[in.ID] >= 0 {
			s.press[in.ID]++
		}
	}
	for _, e := range events {
		in := &s.doc.Inputs[e.Input]
		switch in.Kind {
		case "button":
			if s.raw[in.ID] != (e.Value == 1) {
				s.raw[in.ID], s.held[in.ID] = e.Value == 1, 0
			}
		case "counter":
			if e.Value != 0 {
				s.steps(in.ID, int(e.Value), t, false)
			}
		case "serial":
			s.char(in, byte(e.Value), t)
		case "signal":
			s.value[in.ID] = float64(e.Value)
			if end, next := s.levels(s.scene, in.ID); next != "" {
				s.enter(end, next, t)
			}
		}
	}
	for _, in := range s.doc.Inputs {
		debounce, long, every := in.Button.DebounceMs, in.Button.LongMs, in.EveryMs
		if debounce == 0 {
			debounce = 20
		}
		if long == 0 {
			long = 800
		}
		if every == 0 {
			every = 1000
		}
		switch {
		case in.Kind == "serial" && in.Serial.Ends == "pause":
			if s.silent[in.ID] == in.Serial.PauseMs && s.coming[in.ID] != "" {
				s.shown[in.ID], s.coming[in.ID] = s.coming[in.ID], ""
				s.and(in.ID, "line", t)
			}
		case in.Kind == "serial" && in.Serial.TimeoutMs > 0 && s.silent[in.ID] >= in.Serial.TimeoutMs:
			s.coming[in.ID] = ""
		case in.Kind == "timer" && t > 0 && t%every == 0:
			s.ticks[in.ID]++
			s.and(in.ID, "tick", t)
		case in.Kind == "button" && s.raw[in.ID] != s.down[in.ID] && s.held[in.ID] >= debounce:
			s.down[in.ID], s.press[in.ID] = s.raw[in.ID], 0
			s.and(in.ID, map[bool]string{true: "press", false: "release"}[s.raw[in.ID]], t)
		case in.Kind == "button" && s.down[in.ID] && s.press[in.ID] >= long:
			s.press[in.ID] = -1
			s.and(in.ID, "long", t)
		}
	}
	for k, e := range s.here().Ends {
		if e.AfterMs > 0 && t-s.since >= e.AfterMs {
			s.enter(k, e.Next, t)
			return
		}
	}
	for len(s.repeats) > 0 && s.repeats[0] <= t {
		s.repeats = s.repeats[1:]
		s.act(s.key, t)
	}
}

// randomShow returns a module with a show of every kind of scene and input.
func randomShow(r *rand.Rand) *bench.Module {
	m := bench.NewModule("m", "")
	m.Screens[0].Rows = []string{"a row that runs"}
	m.Screens[0].Fields = []field.Field{{Name: alarm, Kind: field.Free, Row: 1, Width: 3, Sample: "000"}}
	pick := func(of ...string) string { return of[r.IntN(len(of))] }
	var ids []string
	for i := range 1 + r.IntN(6) {
		id := fmt.Sprintf("i%d", i)
		in := bench.Input{ID: id, Kind: pick("button", "button", "timer", "counter", "counter", "signal", "serial")}
		switch in.Kind {
		case "button":
			in.Button = bench.Button{DebounceMs: r.IntN(3) * 10, LongMs: r.IntN(3) * 60}
		case "timer":
			in.EveryMs = 10 + r.IntN(90)
		case "counter":
			in.Counter = bench.Counter{Count: r.IntN(5), Stops: r.IntN(2) == 0}
			for _, other := range m.Show.Inputs {
				if other.Kind == "button" || other.Kind == "timer" {
					if r.IntN(2) == 0 {
						in.Counter.Up = other.ID
					} else {
						in.Counter.Down = other.ID
					}
				}
			}
		case "signal":
			in.Signal = bench.Sensor{Hysteresis: float64(r.IntN(3)), Start: float64(r.IntN(10))}
		}
		if in.Kind == "serial" {
			in.Serial = bench.Serial{Longest: 1 + r.IntN(6), AsItComes: r.IntN(2) == 0, TimeoutMs: r.IntN(3) * 40}
			if r.IntN(2) == 0 {
				in.Serial.Ends, in.Serial.PauseMs = "pause", 5+r.IntN(60)
			}
			for _, other := range m.Show.Inputs {
				if other.Kind == "button" && r.IntN(2) == 0 {
					in.Serial.Reset = other.ID
				}
			}
		}
		m.Show.Inputs = append(m.Show.Inputs, in)
		ids = append(ids, id)
	}
	n := 1 + r.IntN(5)
	for i := range n {
		s := bench.Scene{ID: fmt.Sprintf("s%d", i), Screen: "screen-1"}
		if r.IntN(3) == 0 {
			s.Edit = bench.Edit{Field: alarm, Takes: "digits", Mark: bench.EditMark{OnMs: 70, OffMs: 40}, Repeat: bench.Repeat{AfterMs: 60, EveryMs: 30, FastAfter: 3, FastMs: 10}}
			for k, in := range m.Show.Inputs {
				if in.Kind == "button" {
					s.Edit.Keys = append(s.Edit.Keys, bench.Key{Does: pick("left", "right", "up", "down", "next", "accept", "cancel"), Input: ids[k]})
				}
			}
			if r.IntN(2) == 0 {
				s.Ends = append(s.Ends, bench.End{On: pick("accept", "cancel"), Next: fmt.Sprintf("s%d", r.IntN(n))})
			}
		}
		if r.IntN(3) == 0 {
			s.Effect = bench.Effect{Kind: pick("scroll", "shift"), EveryMs: 5 + r.IntN(60), Gap: 2}
		}
		for range r.IntN(4) {
			e := bench.End{Next: fmt.Sprintf("s%d", r.IntN(n))}
			if r.IntN(3) == 0 {
				e.AfterMs = 1 + r.IntN(200)
			} else {
				k := r.IntN(len(ids))
				e.Input = ids[k]
				switch m.Show.Inputs[k].Kind {
				case "button":
					e.On = pick("", "press", "release", "long")
				case "signal":
					e.On, e.Level = pick("", "above", "below"), float64(r.IntN(10))
				}
			}
			s.Ends = append(s.Ends, e)
		}
		m.Show.Scenes = append(m.Show.Scenes, s)
	}
	if r.IntN(2) == 0 {
		m.Show.Start = fmt.Sprintf("s%d", r.IntN(n))
	}
	return &m
}

// TestStep holds shows and scripts of events at random against an interpreter that goes
// millisecond by millisecond: scene, levels, counters, ticks, messages, what is
// edited and what moves agree at every one of them.
func TestStep(t *testing.T) {
	changes, judged, typed := 0, 0, 0
	for seed := range uint64(400) {
		r := rand.New(rand.NewPCG(seed, 12))
		m := randomShow(r)
		s, err := Of(m)
		if err != nil {
			t.Fatal(err)
		}
		edits := -1
		if len(s.Edited) > 0 {
			edits = 0
		}
		const end = 1500
		script := make([][]Event, end)
		for range r.IntN(60) {
			at, input := r.IntN(end), r.IntN(len(m.Show.Inputs))
			e := Event{At: int64(at), Input: input, Value: int64(r.IntN(2))}
			switch m.Show.Inputs[input].Kind {
			case "counter":
				e.Value = int64(r.IntN(5) - 2)
			case "signal":
				e.Value = int64(r.IntN(11))
			case "serial":
				e.Value = int64([]byte("AB\n\r\f\t")[r.IntN(6)])
			}
			script[at] = append(script[at], e)
		}
		fast, naive := s.Begin(), newSlow(&m.Show)
		for ms := range end {
			before := naive.scene
			for _, e := range script[ms] {
				fast = s.Take(fast, e)
			}
			fast = s.Until(fast, int64(ms))
			naive.at(ms, script[ms])
			if got := m.Show.Scenes[fast.Scene].ID; got != naive.scene {
				t.Fatalf("seed %d, %d ms: scene %s, want %s (%+v)", seed, ms, got, naive.scene, m.Show)
			}
			for i, in := range m.Show.Inputs {
				is := &fast.Inputs[i]
				if is.Down != naive.down[in.ID] || in.Kind == "counter" && int(is.Count) != naive.count[in.ID] || in.Kind == "timer" && int(is.Count) != naive.ticks[in.ID] {
					t.Fatalf("seed %d, %d ms: %s is %+v; down %v, count %d, ticks %d", seed, ms, in.ID, *is, naive.down[in.ID], naive.count[in.ID], naive.ticks[in.ID])
				}
				if is.Line.Text != naive.shown[in.ID] || is.Line.Coming != naive.coming[in.ID] {
					t.Fatalf("seed %d, %d ms: %s shows %q, %q is coming; want %q, %q", seed, ms, in.ID, is.Line.Text, is.Line.Coming, naive.shown[in.ID], naive.coming[in.ID])
				}
			}
			if here := naive.here(); edits >= 0 {
				if fast.Edited[edits].Codes != naive.kept {
					t.Fatalf("seed %d, %d ms: %q was typed, want %q", seed, ms, fast.Edited[edits].Codes, naive.kept)
				}
				if here.Edit.Field != "" && (fast.Typing.Codes != naive.typed || fast.Typing.Place != naive.place || s.Marked(&fast) != ((ms-naive.since0)%110 >= 70)) {
					t.Fatalf("seed %d, %d ms: %+v (marked %v), want %q at %d since %d", seed, ms, fast.Typing, s.Marked(&fast), naive.typed, naive.place, naive.since0)
				}
				typed += max(strings.Compare(naive.kept, "000"), 0)
			}
			if e := naive.here().Effect; e.Kind != "" {
				if steps := map[string]int{"scroll": 17, "shift": 80}[e.Kind]; s.Step(&fast) != int64((ms-naive.since)/e.EveryMs%steps) {
					t.Fatalf("seed %d, %d ms: step %d of %+v since %d", seed, ms, s.Step(&fast), e, naive.since)
				}
			}
			if naive.scene != before {
				changes++
			}
		}
		b := bench.New("")
		b.Modules[0] = *m
		for _, f := range Check(&b, 0) {
			var scene, end int
			n, _ := fmt.Sscanf(f.Path, "/modules/0/show/scenes/%d/ends/%d", &scene, &end)
			id := m.Show.Scenes[max(scene, 0)].ID
			if f.Code == "show.unreached" && (naive.came[id] || id == m.Show.Scenes[s.Start].ID) || f.Code == "show.never" && n == 2 && naive.taken[fmt.Sprint(id, end)] {
				t.Errorf("seed %d: %s at %s, and it came (%+v)", seed, f.Code, f.Path, m.Show)
			}
			judged++
		}
		// the same in one go: what is due between events does not depend on who looks
		whole := s.Begin()
		for _, e := range slices.Concat(script...) {
			whole = s.Take(whole, e)
		}
		if whole = s.Until(whole, end-1); whole.Scene != fast.Scene || whole.Since != fast.Since {
			t.Errorf("seed %d: in one go scene %d since %d, step by step %d since %d", seed, whole.Scene, whole.Since, fast.Scene, fast.Since)
		}
	}
	if changes < 1000 || judged < 400 || typed < 1000 {
		t.Errorf("%d changes of scenes, %d findings, something typed for %d ms", changes, judged, typed)
	}
}

// TestCheck finds each thing once, and its remedies settle it.
func TestCheck(t *testing.T) {
	good := func() *bench.Bench {
		b := bench.New("")
		m := &b.Modules[0]
		m.Screens[0].Fields = []field.Field{{Name: "Boats", Width: 2, Kind: field.Number}, {Name: "Notice", Col: 4, Width: 6, Kind: field.Free}}
		m.Show = bench.Show{
			Scenes: []bench.Scene{
				{ID: "a", Screen: "screen-1", Ends: []bench.End{{AfterMs: 500, Next: "b"}, {Input: "key", Next: "b"}}},
				{ID: "b", Screen: "screen-1", Ends: []bench.End{{Input: "key", On: "long", Next: "a"}}},
			},
			Inputs: []bench.Input{{ID: "key", Kind: "button"}, {ID: "clock", Kind: "timer"}, {ID: "boats", Kind: "counter", Counter: bench.Counter{Up: "key"}}},
			Feeds:  []bench.Feed{{Field: "Boats", Input: "boats"}},
		}
		return &b
	}
	for _, c := range []struct {
		want string
		make func(s *bench.Show)
	}{
		{"", func(*bench.Show) {}},
		{"show.unreached", func(s *bench.Show) {
			s.Scenes = append(s.Scenes, bench.Scene{ID: "c", Screen: "screen-1", Ends: []bench.End{{AfterMs: 1, Next: "a"}}})
		}},
		{"show.dead-end", func(s *bench.Show) { s.Scenes[1].Ends = nil }},
		{"show.never", func(s *bench.Show) { s.Scenes[0].Ends[1] = bench.End{AfterMs: 500, Next: "a"} }},
		{"show.never", func(s *bench.Show) {
			s.Scenes[0].Ends = append(s.Scenes[0].Ends, bench.End{Input: "key", On: "press", Next: "a"})
		}},
		{"show.never", func(s *bench.Show) { // the key steps the counter, which ends the scene before
			s.Scenes[0].Ends[0] = bench.End{Input: "boats", Next: "b"}
		}},
		{"", func(s *bench.Show) {
			s.Scenes[0].Ends[0] = bench.End{Input: "boats", Next: "b"}
			s.Inputs[2].Counter.Count, s.Inputs[2].Counter.Stops = 3, true
		}},
		{"show.race", func(s *bench.Show) { s.Scenes[0].Ends[1] = bench.End{Input: "clock", Next: "a"} }},
		{"show.no-field", func(s *bench.Show) { s.Feeds[0].Field = "Boat" }},
		{"show.feed-kind", func(s *bench.Show) {
			s.Inputs = append(s.Inputs, bench.Input{ID: "radio", Kind: "serial", Serial: bench.Serial{Ends: "line"}})
			s.Feeds[0].Input = "radio"
		}},
		{"show.message-end", func(s *bench.Show) { s.Inputs = append(s.Inputs, bench.Input{ID: "radio", Kind: "serial"}) }},
		{"", func(s *bench.Show) {
			s.Inputs = append(s.Inputs, bench.Input{ID: "radio", Kind: "serial", Serial: bench.Serial{Ends: "pause", Longest: 6}})
			s.Feeds[0] = bench.Feed{Field: "Notice", Input: "radio"}
		}},
		{"show.message-cut", func(s *bench.Show) {
			s.Inputs = append(s.Inputs, bench.Input{ID: "radio", Kind: "serial", Serial: bench.Serial{Ends: "pause", Longest: 7}})
			s.Feeds[0] = bench.Feed{Field: "Notice", Input: "radio"}
		}},
		{"show.no-accept", func(s *bench.Show) {
			s.Scenes[0].Edit = bench.Edit{Field: "Boats", Keys: []bench.Key{{Does: "up", Input: "key"}}}
			s.Feeds = nil
		}},
		{"show.fed-and-edited", func(s *bench.Show) {
			s.Scenes[0].Edit = bench.Edit{Field: "Boats", Keys: []bench.Key{{Does: "next", Input: "key"}}}
		}},
		{"", func(s *bench.Show) { s.Scenes[0].Effect.Kind = "shift" }},
		{"show.wrong", func(s *bench.Show) { s.Scenes[0].Ends[1].On = "tick" }},
		{"show.wrong", func(s *bench.Show) { s.Scenes[0].Ends[1].AfterMs = 5 }},
		{"show.wrong", func(s *bench.Show) { s.Inputs[2].Counter.Down = "boats" }},
	} {
		b := good()
		c.make(&b.Modules[0].Show)
		var codes []string
		for _, f := range Check(b, 0) {
			codes = append(codes, f.Code)
			for _, r := range f.Remedies {
				mended, err := edit.Remedied(b, r)
				if err != nil {
					t.Errorf("%s, %q: %v", f.Code, r.Label, err)
				} else if left := Check(&mended, 0); len(left) > 0 {
					t.Errorf("%s, %q leaves %+v", f.Code, r.Label, left)
				}
			}
		}
		if got := strings.Join(codes, " "); got != c.want {
			t.Errorf("found %q, want %q", got, c.want)
		}
	}
}
