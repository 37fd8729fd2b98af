package show

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"testing"

	"slatebell/core/bench"
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
}

func newSlow(doc *bench.Show) *slow {
	s := &slow{doc, doc.Start, 0, map[string]bool{}, map[string]int{}, map[string]bool{}, map[string]int{}, map[string]int{}, map[string]int{}, map[string]float64{}, map[string]bool{}}
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
	for _, e := range s.here().Ends {
		on := e.On
		if on == "" && e.Input != "" {
			on = map[string]string{"button": "press", "timer": "tick", "counter": "step", "signal": "above"}[s.in(e.Input).Kind]
		}
		if e.Input == input && on == what {
			s.scene, s.since = e.Next, t
			return true
		}
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
	if !ended {
		s.does(input, what, t)
	}
}

// levels looks at a signal, or with in0 at all for the first time.
func (s *slow) levels(from, input string) (next string) {
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
					next = e.Next
				}
				continue
			}
			if v > e.Level {
				s.over[key] = true
			} else if v <= e.Level-h {
				s.over[key] = false
			}
			if !was && s.over[key] && scene.ID == from && next == "" {
				next = e.Next
			}
		}
	}
	return next
}

// at does everything of one millisecond: events first.
func (s *slow) at(t int, events []Event) {
	for _, in := range s.doc.Inputs {
		s.held[in.ID]++
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
		case "signal":
			s.value[in.ID] = e.Value
			if next := s.levels(s.scene, in.ID); next != "" {
				s.scene, s.since = next, t
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
	for _, e := range s.here().Ends {
		if e.AfterMs > 0 && t-s.since >= e.AfterMs {
			s.scene, s.since = e.Next, t
			return
		}
	}
}

// randomShow returns a module with a show of every kind of scene and input.
func randomShow(r *rand.Rand) *bench.Module {
	m := bench.NewModule("m", "")
	pick := func(of ...string) string { return of[r.IntN(len(of))] }
	var ids []string
	for i := range 1 + r.IntN(6) {
		id := fmt.Sprintf("i%d", i)
		in := bench.Input{ID: id, Kind: pick("button", "button", "timer", "counter", "counter", "signal")}
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
		m.Show.Inputs = append(m.Show.Inputs, in)
		ids = append(ids, id)
	}
	n := 1 + r.IntN(5)
	for i := range n {
		s := bench.Scene{ID: fmt.Sprintf("s%d", i), Screen: "screen-1"}
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
// millisecond by millisecond: scene, levels, counters and ticks agree at every one of them.
func TestStep(t *testing.T) {
	changes := 0
	for seed := range uint64(400) {
		r := rand.New(rand.NewPCG(seed, 12))
		m := randomShow(r)
		s, err := Of(m)
		if err != nil {
			t.Fatal(err)
		}
		const end = 1500
		script := make([][]Event, end)
		for range r.IntN(60) {
			at, input := r.IntN(end), r.IntN(len(m.Show.Inputs))
			e := Event{At: int64(at), Input: input, Value: float64(r.IntN(2))}
			switch m.Show.Inputs[input].Kind {
			case "counter":
				e.Value = float64(r.IntN(5) - 2)
			case "signal":
				e.Value = float64(r.IntN(11))
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
			}
			if naive.scene != before {
				changes++
			}
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
	if changes < 1000 {
		t.Errorf("%d changes of scenes", changes)
	}
}
