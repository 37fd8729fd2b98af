package diagnose

import (
	"fmt"
	"math"
	"math/bits"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"periph.io/x/conn/v3/physic"

	"slatebell/core/part/charrom"
	"slatebell/core/part/module"
	"slatebell/core/prove/fault"
	"slatebell/core/text/screen"
	"slatebell/core/wire/glass"
	"slatebell/core/wire/link"
	"slatebell/core/wire/sequence"
)

// some are the links that a test goes through: in a short run the first.
func some(kinds ...link.Kind) []link.Kind {
	if testing.Short() {
		return kinds[:1]
	}
	return kinds
}

// index simulates the catalogue of a module on a link that shows some rows.
func index(t testing.TB, geometry string, kind link.Kind, rows ...string) *fault.Index {
	t.Helper()
	g, err := module.ParseGeometry(geometry)
	if err != nil {
		t.Fatal(err)
	}
	m := module.Module{Geometry: g, Technology: module.LCD, ROM: charrom.A00()}
	s := &fault.Subject{Module: m, Link: link.New(kind), Text: screen.Text{Rows: rows}}
	s.Fitting = fault.Fitting{Contrast: min(m.UsualContrast(), 1), Pot: 10_000 * physic.Ohm, Light: 220 * physic.Ohm, Lamp: module.UsualBacklight("green")}
	x, err := fault.New(s, nil)
	if err != nil {
		t.Fatal(err)
	}
	return x
}

// observed tells what every test shows of a case, so that cases that nobody can tell
// apart are equal.
func observed(t testing.TB, x *fault.Index, c *fault.Case) (out []fault.Outcome) {
	t.Helper()
	out, err := x.Probe(c).All()
	if err != nil {
		t.Fatal(err)
	}
	return out
}

// TestFirstThree gives each single fault its own symptom. Where characters can be read and
// are not those that were sent, what was typed is enough for one of the first three
// places; where others show the very same, so is all that can be seen and measured
// without another program.
func TestFirstThree(t *testing.T) {
	for _, kind := range some(link.ShiftReg, link.Backpack) {
		x := index(t, "16x2", kind, "Tide 3.2 m", "High 14:05")
		f := New(x, nil)
		seen := map[int][]fault.Outcome{}
		observe := func(i int) []fault.Outcome {
			if seen[i] == nil {
				seen[i] = observed(t, x, &x.Cases[i])
			}
			return seen[i]
		}
		place := func(s Seen, i int) int {
			r, err := f.Rank(&s)
			if err != nil {
				t.Fatal(err)
			}
			own := observe(i)
			before := 0
			for _, c := range r.Causes {
				if c.Case == i {
					return before
				}
				if !slices.Equal(observe(c.Case), own) {
					before++
				}
				if before > 2 {
					break
				}
			}
			return 3
		}
		typed := 0
		for i := range x.Faults {
			c := &x.Cases[i]
			s := f.Look(c)
			if p := f.pattern(c.View); p != Right && p != "none" && c.View != 0 {
				typed++
				if place(s, i) > 2 {
					t.Errorf("%s: typed %q, %s is not among the first three", kind, s.Typed, x.Faults[i].ID)
				}
			}
			probe := x.Probe(c)
			for k := range x.Tests {
				if test := &x.Tests[k]; !test.Upload {
					o, err := probe.Observe(test)
					if err != nil {
						t.Fatal(err)
					}
					s.Results = append(s.Results, Result{Test: test.ID, Outcome: o})
				}
			}
			if place(s, i) > 2 {
				t.Errorf("%s: with all that can be seen %s is not among the first three", kind, x.Faults[i].ID)
			}
		}
		if typed < 25 {
			t.Errorf("%s: %d faults show characters", kind, typed)
		}
	}
}

// TestIsolated follows the proposed tests from what each single fault shows: at the end
// it stands first, or beside what nobody can tell from it.
func TestIsolated(t *testing.T) {
	for _, kind := range some(link.Parallel4, link.Backpack) {
		x := index(t, "16x2", kind, "Tide 3.2 m", "High 14:05")
		f := New(x, nil)
		tests := 0
		known := map[string]node{} // what follows from what is seen, which many faults share
		for i := range x.Faults {
			c := &x.Cases[i]
			s := f.Look(c)
			path, probe := fmt.Sprint(c.View), x.Probe(c)
			n := node{}
			for steps := 0; ; steps++ {
				var ok bool
				if n, ok = known[path]; !ok {
					n = follow(t, f, &s)
					known[path] = n
				}
				if n.next == nil {
					break
				}
				o, err := probe.Observe(n.next)
				if err != nil {
					t.Fatal(err)
				}
				s.Results = append(s.Results, Result{Test: n.next.ID, Outcome: o})
				path += " " + x.Key(o)
				if tests++; steps > 15 {
					t.Fatalf("%s, %s: %d tests", kind, x.Faults[i].ID, steps)
				}
			}
			top := &x.Cases[n.top]
			if top.A == 0 && c.View == 0 {
				continue // the glass is as it ought to be: there is nothing to look for
			}
			if int(top.A) != i && !slices.Equal(observed(t, x, top), observed(t, x, c)) {
				t.Errorf("%s: %s is taken for %s after %d tests", kind, x.Faults[i].ID, x.Faults[top.A].ID, len(s.Results))
			}
		}
		t.Logf("%s: %.2f tests for a fault", kind, float64(tests)/float64(len(x.Faults)))
	}
}

// node is where the finder stands: the likeliest case, and the test it proposes; nil
// where it is sure, or nothing tells more.
type node struct {
	top  int
	next *fault.Test
}

// follow does what Plan does in one step.
func follow(t *testing.T, f *Finder, s *Seen) node {
	t.Helper()
	r, err := f.Rank(s)
	if err != nil {
		t.Fatal(err)
	}
	n := node{top: r.Causes[0].Case}
	if r.Causes[0].Share >= Sure {
		return n
	}
	next, err := f.Next(r, nil)
	if err != nil {
		t.Fatal(err)
	}
	if len(next) > 0 {
		n.next = next[0].Test
	}
	return n
}

// TestBestTree holds the finder's choices on small sets of causes against the best tree
// of tests, found by trying everything: on average they take at most a quarter more
// tests where each costs the same, and at most a quarter more minutes where they do not.
func TestBestTree(t *testing.T) {
	x := index(t, "16x2", link.Parallel4, "Tide 3.2 m", "High 14:05")
	f := New(x, nil)
	r := rand.New(rand.NewPCG(3, 4))
	var finder, best [2]float64
	for range 60 {
		const causes, tests = 7, 8
		var set []int
		for len(set) < causes {
			if i := 1 + r.IntN(len(x.Faults)-1); !slices.Contains(set, i) && x.Faults[i].Code != "nibble.lost" {
				set = append(set, i)
			}
		}
		var offered []*fault.Test
		for len(offered) < tests {
			if test := &x.Tests[r.IntN(len(x.Tests))]; !slices.Contains(offered, test) {
				offered = append(offered, test)
			}
		}
		weight := make([]float64, causes)
		seen := make([][]fault.Outcome, causes)
		for i, at := range set {
			weight[i] = x.Cases[at].Weight
			p := x.Probe(&x.Cases[at])
			for _, test := range offered {
				o, err := p.Observe(test)
				if err != nil {
					t.Fatal(err)
				}
				seen[i] = append(seen[i], o)
			}
		}
		for k, price := range []func(*fault.Test) float64{func(*fault.Test) float64 { return 1 }, func(test *fault.Test) float64 { return test.Minutes }} {
			tree := small{offered: offered, weight: weight, seen: seen, price: price, best: map[uint]float64{}}
			finder[k] += tree.followed(f, set, 1<<causes-1)
			best[k] += tree.least(1<<causes - 1)
		}
	}
	for k, what := range []string{"tests", "minutes"} {
		t.Logf("%s: the finder's %.3f, the best tree's %.3f: %.3f times", what, finder[k], best[k], finder[k]/best[k])
		if finder[k] > 1.25*best[k] {
			t.Errorf("%s: %.2f times the best tree's", what, finder[k]/best[k])
		}
	}
}

// small is a set of few causes with few tests; sets of causes are bits.
type small struct {
	offered []*fault.Test
	weight  []float64
	seen    [][]fault.Outcome // of each cause, by test
	price   func(*fault.Test) float64
	best    map[uint]float64
}

// split divides a set by what a test shows.
func (s *small) split(set uint, test int) map[fault.Outcome]uint {
	out := map[fault.Outcome]uint{}
	for i := range s.weight {
		if set>>i&1 != 0 {
			out[s.seen[i][test]] |= 1 << i
		}
	}
	return out
}

func (s *small) mass(set uint) (w float64) {
	for i := range s.weight {
		if set>>i&1 != 0 {
			w += s.weight[i]
		}
	}
	return w
}

// least is what the best tree costs on a set, weighed: each test counts for all that it
// is done for.
func (s *small) least(set uint) float64 {
	if v, ok := s.best[set]; ok || bits.OnesCount(set) < 2 {
		return v
	}
	best := math.Inf(1)
	for i := range s.offered {
		parts := s.split(set, i)
		if len(parts) < 2 {
			continue
		}
		cost := s.mass(set) * s.price(s.offered[i])
		for _, p := range parts {
			cost += s.least(p)
		}
		best = min(best, cost)
	}
	if math.IsInf(best, 1) {
		best = 0 // nothing tells them apart
	}
	s.best[set] = best
	return best
}

// followed is what the finder's own choices cost.
func (s *small) followed(f *Finder, all []int, set uint) float64 {
	if bits.OnesCount(set) < 2 {
		return 0
	}
	r := &Ranking{done: map[string]bool{}}
	var probes []*fault.Probe
	for i := range s.weight {
		if set>>i&1 != 0 {
			r.Causes = append(r.Causes, Cause{Case: all[i], Share: s.weight[i] / s.mass(set)})
			probes = append(probes, f.Index.Probe(&f.Index.Cases[all[i]]))
		}
	}
	chosen, gain := -1, least
	for i, test := range s.offered {
		p, err := f.propose(r, test, probes)
		if err != nil {
			return math.Inf(1)
		}
		if g := p.Bits / s.price(test); len(p.Branches) > 1 && (chosen < 0 || g > gain) {
			chosen, gain = i, g
		}
	}
	if chosen < 0 {
		return 0
	}
	cost := s.mass(set) * s.price(s.offered[chosen])
	for _, p := range s.split(set, chosen) {
		cost += s.followed(f, all, p)
	}
	return cost
}

// TestTyped reads what was typed, and says what of it cannot be.
func TestTyped(t *testing.T) {
	x := index(t, "16x2", link.Parallel4, "Tide 3.2 m", "High 14:05")
	f := New(x, nil)
	for _, c := range []struct {
		rows  []string
		first string // the first cause
		says  string // or the error
	}{
		{[]string{"Tide 3.2 m", "High 14:05"}, "sound", ""},
		{screen.Parse(`  o___ ? ? _`), "wire.swapped:D4,D5", ""},
		{[]string{" Tide 3.2 m", " High 14:05"}, "place.column", ""},
		{[]string{"T", "H"}, "entry.back", ""},
		{screen.Parse(`\x54ide 3.2 m` + "\nHigh 14:05   \x5c\x5c"), "", "row 2, column 14: '\\\\' is not in this module’s ROM"},
		{[]string{strings.Repeat(string(Block), 16)}, "start.none", ""},
		{[]string{"Tide 3.2 m" + string(Unreadable), "High 14:05"}, "text.left:other", ""},
		{[]string{"a", "b", "c"}, "", "3 rows seen; the glass has 2"},
		{[]string{"12345678901234567"}, "", "row 1: 17 characters seen; the glass has 16 columns"},
		{[]string{"Tide 3,2 m", "High 14:05"}, "sound", ""}, // a character that was read wrongly
		{[]string{"Oar, bell, buoy", "flag and wave"}, "", ""},
	} {
		r, err := f.Rank(&Seen{Typed: c.rows})
		switch {
		case err != nil && (c.says == "" || !strings.Contains(err.Error(), c.says)):
			t.Errorf("%q: %v, want %q", c.rows, err, c.says)
		case err == nil && c.says != "":
			t.Errorf("%q is taken; want %q", c.rows, c.says)
		case err == nil && (r.Doubt(&Seen{Typed: c.rows}) != "") != (c.first == ""):
			t.Errorf("%q: doubt %q", c.rows, r.Doubt(&Seen{Typed: c.rows}))
		case err == nil && c.first != "":
			if told := f.Tell(&Seen{Typed: c.rows}, r.Causes[0]); told.ID != c.first {
				t.Errorf("%q: first %s, want %s", c.rows, told.ID, c.first)
			}
		}
	}
	if _, err := f.Rank(&Seen{Results: []Result{{Test: "tea"}}}); err == nil || !strings.Contains(err.Error(), "contrast") {
		t.Errorf("an unknown test: %v", err)
	}
}

// TestCursor reads a glass on which a cursor stands: what is typed is the character above it.
func TestCursor(t *testing.T) {
	g, _ := module.ParseGeometry("16x2")
	m := module.Module{Geometry: g, Technology: module.LCD, ROM: charrom.A00()}
	s := &fault.Subject{Module: m, Link: link.New(link.Parallel4), Text: screen.Text{Rows: []string{"Tide 3.2 m"}}, Options: sequence.Options{Cursor: sequence.Cursor{Line: true, Col: 3}}}
	s.Fitting = fault.Fitting{Contrast: m.UsualContrast(), Pot: 10_000 * physic.Ohm, Light: 220 * physic.Ohm, Lamp: module.UsualBacklight("green")}
	x, err := fault.New(s, nil)
	if err != nil {
		t.Fatal(err)
	}
	if text := x.Text(x.View(0)); strings.TrimSpace(text[0]) != "Tide 3.2 m" {
		t.Errorf("with a cursor the glass reads %q", text)
	}
	f := New(x, nil)
	r, err := f.Rank(&Seen{Typed: []string{"Tide 3.2 m"}})
	if err != nil || r.Causes[0].Case != 0 || r.Causes[0].Explains != 1 {
		t.Errorf("%+v, %v", r.Causes[0], err)
	}
}

// TestSeen checks what else can be said of a glass: classes, patterns, cells pointed at,
// the light, voltages; and that what was found before stands higher.
func TestSeen(t *testing.T) {
	x := index(t, "16x2", link.Backpack, "Tide 3.2 m", "High 14:05")
	dark, mv := false, 0
	for _, c := range []struct {
		s     Seen
		found map[string]int
		code  string
	}{
		{Seen{Class: glass.Blank}, nil, "contrast.low"},
		{Seen{Class: glass.BlockRow}, nil, "bus.address"},
		{Seen{Class: glass.AllBlocks}, nil, "contrast.high"},
		{Seen{Class: glass.Faint}, nil, "contrast.weak"},
		{Seen{Class: glass.Characters, Pattern: Shifted}, nil, "place.column"},
		{Seen{Class: glass.Characters, Pattern: More}, nil, "text.left"},
		{Seen{Class: glass.Characters, Pattern: Right, Light: &dark}, nil, "light.jumper"},
		{Seen{Class: glass.Blank, Results: []Result{{Test: "supply", MV: &mv}}}, nil, "supply.rail"},
		{Seen{Wrong: []int{10, 11, 12, 13, 14, 15, 26, 27, 28, 29, 30, 31}}, nil, "text.left"},
		{Seen{Class: glass.BlockRow}, map[string]int{"bus.swapped": 3}, "bus.swapped"},
	} {
		f := New(x, c.found)
		r, err := f.Rank(&c.s)
		if err != nil {
			t.Fatal(err)
		}
		told := f.Tell(&c.s, r.Causes[0])
		if told.Code != c.code || c.found != nil && !strings.Contains(told.Why, "Found 3 times before") {
			t.Errorf("%+v: first %s (%s), want %s", c.s, told.Code, told.Why, c.code)
		}
		sum := 0.0
		for i, cause := range r.Causes {
			sum += cause.Share
			if i > 0 && cause.Share > r.Causes[i-1].Share+1e-12 {
				t.Errorf("%+v: causes are not in order", c.s)
			}
		}
		if sum > 1+1e-9 || sum < 0.5 {
			t.Errorf("%+v: shares add up to %f", c.s, sum)
		}
	}
	kinds := map[string]bool{}
	for _, l := range New(x, nil).Looks() {
		kinds[string(l.Class)+string(l.Pattern)] = true
	}
	for _, want := range []string{"blank", "row-of-blocks", "shaded", "faint", "signsright", "signsshifted", "signsmore", "signspartly", "signsgarbage", "signsrows"} {
		if !kinds[want] {
			t.Errorf("no picture of %s among %v", want, kinds)
		}
	}
}

// TestPatterns names how a glass differs from what was sent.
func TestPatterns(t *testing.T) {
	rom := charrom.A00()
	view := func(rows ...string) *glass.View {
		v := &glass.View{Cols: 12, Rows: 2}
		for _, row := range rows {
			for i := range 12 {
				c := byte(' ')
				if i < len(row) {
					c = row[i]
				}
				v.Cells = append(v.Cells, glass.Of(rom.Dots(c), [3]byte{}))
			}
		}
		return v
	}
	sent := view("Tide 3.2 m", "High 14:05")
	for _, c := range []struct {
		top, bottom string
		want        Pattern
	}{
		{"Tide 3.2 m", "High 14:05", Right},
		{"  Tide 3.2 m", "High 14:05", Shifted},
		{"High 14:05", "Tide 3.2 m", RowsOff},
		{"", "Tide 3.2 m", RowsOff},
		{"Tide 3.2 mAB", "High 14:05", More},
		{"T d  3 2", "H g  1 : 5", EveryOther},
		{"Tide 3.2", "High", Partly},
		{"T", "H", Partly},
		{"o___ ? ?", "", Garbage},
		{"", "", "none"},
	} {
		if got := patternOf(view(c.top, c.bottom), sent); got != c.want {
			t.Errorf("%q, %q: %s, want %s", c.top, c.bottom, got, c.want)
		}
	}
}

// BenchmarkFirst is BenchmarkNext on a catalogue that was just made: whatever tests show
// is played for the first time.
func BenchmarkFirst(b *testing.B) {
	for b.Loop() {
		b.StopTimer()
		x := index(b, "16x2", link.Parallel4, "Tide 3.2 m", "High 14:05")
		f := New(x, nil)
		if _, err := x.TestText(); err != nil {
			b.Fatal(err)
		}
		b.StartTimer()
		r, err := f.Rank(&Seen{Class: glass.Blank})
		if err != nil {
			b.Fatal(err)
		}
		if _, err := f.Next(r, nil); err != nil {
			b.Fatal(err)
		}
	}
}

// BenchmarkNext ranks the causes of a blank glass, and works out what every test would
// tell of them: the next best test, with what was played before kept.
func BenchmarkNext(b *testing.B) {
	x := index(b, "16x2", link.Parallel4, "Tide 3.2 m", "High 14:05")
	f := New(x, nil)
	if _, err := x.TestText(); err != nil {
		b.Fatal(err)
	}
	for b.Loop() {
		r, err := f.Rank(&Seen{Class: glass.Blank})
		if err != nil {
			b.Fatal(err)
		}
		if _, err := f.Next(r, nil); err != nil {
			b.Fatal(err)
		}
	}
}

// TestHosted lets a host do what it can by itself: such tests take next to no time and no other program, and come before others that tell
// as much; a voltage takes a wire as before.
func TestHosted(t *testing.T) {
	f := New(index(t, "16x2", link.Backpack, "Tide 3.2 m", "High 14:05"), nil)
	if _, err := f.Index.TestText(); err != nil {
		t.Fatal(err)
	}
	r, err := f.Rank(&Seen{Class: glass.AllBlocks})
	if err != nil {
		t.Fatal(err)
	}
	nothing := func(of *fault.Test) bool { return !of.Meter && !of.Upload }
	seen := map[string]bool{}
	for _, f.Hosted = range []bool{false, true} {
		next, err := f.Next(r, nothing)
		if err != nil {
			t.Fatal(err)
		}
		for _, p := range next {
			of := p.Test
			alone := f.Hosted && of.Act != "" && of.Act != fault.ActMeasure
			if p.ByHost != alone || !alone && p.Minutes != of.Minutes || alone && p.Minutes > atOnce {
				t.Errorf("%s, hosted %v: by itself %v, %v minutes", of.ID, f.Hosted, p.ByHost, p.Minutes)
			}
			if seen[of.ID] = f.Hosted; !alone && (of.Meter || of.Upload) {
				t.Errorf("%s is proposed, which takes what is not there", of.ID)
			}
		}
	}
	if !seen["scan"] || !seen["text"] || seen["lines"] {
		t.Errorf("with a host and no meter these are proposed: %v", seen)
	}
}
