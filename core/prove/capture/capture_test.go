package capture

import (
	"io"
	"math"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"time"

	"slatebell/core/bench"
	"slatebell/core/part/module"
	"slatebell/core/prove/run"
	"slatebell/core/prove/testbed"
	"slatebell/core/wire/link"
	"slatebell/core/wire/wave"
)

// demo is a screen of a 20×4.
var demo = []string{"Tide 3.2 m  rising", "High water   14:05", "Wind NW 4  gusts 6", "Boats out  3 of 11"}

// recordable are the lines that somebody would record of a link.
func recordable(kind link.Kind) []string {
	switch kind {
	case link.Backpack:
		return []string{"SDA", "SCL"}
	case link.ShiftReg:
		return []string{"DATA", "CLOCK", "LATCH"}
	case link.Parallel4:
		return []string{"RS", "E", "D4", "D5", "D6", "D7"}
	}
	return []string{"RS", "E", "D0", "D1", "D2", "D3", "D4", "D5", "D6", "D7"}
}

// recorded is a recording of our own program for a screen on a 20×4, on channels of some order among others that carry nothing; sampled at a step, 0
// as it is.
func recorded(t testing.TB, r *rand.Rand, kind link.Kind, rows []string, step time.Duration) (list []Change, at Lines) {
	t.Helper()
	m := bench.NewModule("quay", "Quay")
	m.Link.Kind, m.Display.Geometry = string(kind), "20x4"
	return recordedOf(t, r, &m, rows, step)
}

// recordedOf is recorded for any module.
func recordedOf(t testing.TB, r *rand.Rand, m *bench.Module, rows []string, step time.Duration) (list []Change, at Lines) {
	t.Helper()
	kind := link.Kind(m.Link.Kind)
	played, err := run.Do(&testbed.Setup{Display: m.Display, Link: m.Link, Rows: rows}, run.Options{})
	if err != nil {
		t.Fatal(err)
	}
	trace := wave.Draw(played.Program, 0, len(played.Program.Steps), link.Hardware{})
	const channels = 12
	places := r.Perm(channels)
	at = Lines{}
	to := make([]int, len(trace.Signals))
	var levels uint64
	for i, name := range trace.Signals {
		to[i] = -1
		if k := slices.Index(recordable(kind), name); k >= 0 {
			to[i] = places[k]
			at[Role(name)] = places[k]
			if trace.Initial[i] {
				levels |= 1 << places[k]
			}
		}
	}
	levels |= 1 << places[channels-1] // one that is always high
	list = []Change{{0, levels}}
	for _, c := range trace.Changes {
		if to[c.Signal] < 0 {
			continue
		}
		levels &^= 1 << to[c.Signal]
		if c.High {
			levels |= 1 << to[c.Signal]
		}
		moment := c.At - trace.Begin
		if step > 0 {
			moment = (moment + step - 1) / step * step
		}
		if last := &list[len(list)-1]; last.At == moment {
			last.Levels = levels
		} else {
			list = append(list, Change{moment, levels})
		}
	}
	return list, at
}

// TestIdentify finds the lines of recordings of our own programs on each link, on channels in any order, from their beginning and from anywhere,
// sampled at several rates.
func TestIdentify(t *testing.T) {
	right, all := 0, 0
	for round := range 6 {
		for _, kind := range link.Kinds {
			for _, step := range []time.Duration{0, 10 * time.Nanosecond, 100 * time.Nanosecond, time.Microsecond} {
				r := rand.New(rand.NewPCG(27, uint64(round)))
				list, at := recorded(t, r, kind, demo, step)
				if round%2 == 1 {
					list = list[r.IntN(len(list)/3):]
				}
				began := time.Now()
				found := Identify(list, make([]string, 12), nil)
				took := time.Since(began)
				all++
				if len(found) == 0 || found[0].Kind != kind || !same(found[0].Lines, at) || (kind == link.Backpack && found[0].Mapping != link.UsualMapping) || (kind == link.ShiftReg && found[0].Mapping.RS != link.UsualShiftMapping.RS) {
					t.Logf("%s, %v, round %d: %v: found %v; expected %v", kind, step, round, took, strings.TrimSpace(describe(found)), at)
					continue
				}
				right++
			}
		}
	}
	t.Logf("%d of %d right", right, all)
	if right*100 < all*99 {
		t.Errorf("the lines of %d of %d recordings are found; expected 99 in 100", right, all)
	}
}

func same(a, b Lines) bool {
	for r, at := range b {
		if a.channel(r) != at {
			return false
		}
	}
	return true
}

func describe(list []Found) string {
	if len(list) == 0 {
		return "nothing"
	}
	f := list[0]
	var b strings.Builder
	for r, at := range f.Lines {
		b.WriteString(string(r) + "=" + string(rune('a'+at)) + " ")
	}
	return b.String() + string(f.Kind) + " " + f.Mapping.String()
}

// someModule is a module of any size and mapping with a text.
func someModule(r *rand.Rand, kind link.Kind) (m bench.Module, rows []string) {
	words := strings.Fields("Tide 3.2 m rising High water 14:05 Wind NW 4 gusts 6 Boats out 3 of 11 Slip clear afloat GATE open 21.5 C Humidity 47% pressure 1013 hPa Level 0815 OK")
	m = bench.NewModule("quay", "Quay")
	m.Link.Kind, m.Display.Geometry = string(kind), []string{"16x2", "20x4", "20x2", "16x4", "40x2", "16x1"}[r.IntN(6)]
	p := r.Perm(8)
	o := &m.Link.Outputs
	o.Mapping = &link.Mapping{RS: int8(p[0]), RW: int8(p[1]), E: int8(p[2]), E2: link.Open, Backlight: int8(p[3]), D4: int8(p[4]), D5: int8(p[5]), D6: int8(p[6]), D7: int8(p[7])}
	o.Setup, o.Transactions = []string{"lawful", "before", "with-e"}[r.IntN(3)], []string{"byte", "operation", "screen"}[r.IntN(3)]
	g, _ := module.ParseGeometry(m.Display.Geometry)
	for range g.Rows {
		row := ""
		for {
			word := words[r.IntN(len(words))]
			if len(row)+len(word) > g.Cols {
				break
			}
			row += word + " "
		}
		rows = append(rows, strings.TrimSpace(row))
	}
	return m, rows
}

// TestSeek holds the best assignment of a few channels against that of all there are, each weighed by itself.
func TestSeek(t *testing.T) {
	for round := range 12 {
		r := rand.New(rand.NewPCG(uint64(round), 5))
		list, at := recorded(t, r, link.Parallel4, demo[:1+r.IntN(3)], 0)
		strobes := strobesOf(list, at["E"])
		of := exchanges(strobes[:min(len(strobes), 30+r.IntN(60))], 4, round%2)
		channels := slices.DeleteFunc(movingOf(list, 12), func(c int) bool { return c == at["E"] })
		channels = append(channels, 0) // one that stands still, where it is none of them
		slices.Sort(channels)
		channels = slices.Compact(channels)
		best := math.Inf(-1)
		weigh := func(a assignment) {
			sum, alike := 0.0, map[int]bool{}
			for _, c := range append([]int{a.rs}, a.data[:4]...) {
				if alike[c] || c == a.rw || c == at["E"] {
					return
				}
				alike[c] = true
			}
			reads := false
			moves := map[int]bool{}
			for _, x := range of {
				bit := func(v strobe, c int) int { return int(v >> c & 1) }
				for c := range 12 {
					moves[c] = moves[c] || bit(x.high, c) != bit(of[0].high, c) || bit(x.low, c) != bit(of[0].high, c)
				}
				if a.rw >= 0 && bit(x.high, a.rw) == 1 {
					reads = true
					sum += readEvidence * x.n
				} else {
					k := bit(x.high, a.rs) << 8
					for i := range 4 {
						k |= bit(x.high, a.data[i])<<(7-i) | bit(x.low, a.data[i])<<(3-i)
					}
					sum += evidence[4][k] * x.n
				}
				if bit(x.high, a.rs) != bit(x.low, a.rs) {
					sum -= halvesDiffer * x.n
				}
				if a.rw >= 0 && bit(x.high, a.rw) != bit(x.low, a.rw) {
					sum -= halvesDiffer * x.n
				}
			}
			if a.rw >= 0 && !reads {
				return
			}
			if !moves[a.rs] {
				sum -= stillRS
			}
			for _, c := range a.data[:4] {
				if !moves[c] {
					sum -= stillLine
				}
			}
			best = math.Max(best, sum)
		}
		for _, rs := range channels {
			for _, rw := range append([]int{-1}, channels...) {
				for _, d7 := range channels {
					for _, d6 := range channels {
						for _, d5 := range channels {
							for _, d4 := range channels {
								weigh(assignment{rs: rs, rw: rw, data: [8]int{d7, d6, d5, d4}})
							}
						}
					}
				}
			}
		}
		got := seek(of, channels, nil, at["E"], 4, round%2, math.Inf(-1), false)
		most := math.Inf(-1)
		for _, a := range got {
			most = math.Max(most, a.score-inOrder*a.neighbours())
		}
		if math.Abs(most-best) > 1e-6 {
			t.Errorf("round %d: the best is worth %v; of all there are %v", round, most, best)
		}
	}
}

// TestTexts identifies and replays recordings of modules of any size and mapping with a text: the glass shows it. A short text on eight lines may
// leave some of them open.
func TestTexts(t *testing.T) {
	right, all := 0, 0
	for round := range 8 {
		for _, kind := range link.Kinds {
			r := rand.New(rand.NewPCG(uint64(round), 99))
			m, rows := someModule(r, kind)
			list, _ := recordedOf(t, r, &m, rows, 0)
			found, got := Identify(list, make([]string, 12), nil), []string(nil)
			if len(found) > 0 {
				_, got = shown(t, &found[0], m.Display.Geometry, list)
			}
			if all++; slices.Equal(got, rows) {
				right++
			} else if kind != link.Parallel8 {
				t.Errorf("%s, %s: the glass shows %q; expected %q, found %s", kind, m.Display.Geometry, got, rows, describe(found))
			}
		}
	}
	if t.Logf("%d of %d right", right, all); right*100 < all*95 {
		t.Errorf("%d of %d recordings show their text", right, all)
	}
}

// inMemory is a source that is in memory.
type inMemory struct {
	list  []Change
	names []string
}

func (s *inMemory) Channels() []string { return s.names }

func (s *inMemory) Next() (c Change, err error) {
	if len(s.list) == 0 {
		return c, io.EOF
	}
	c, s.list = s.list[0], s.list[1:]
	return c, nil
}

// TestReplay replays recordings of our own programs on each link: the operations are those of the program, the glass shows its text, no limit is
// broken; and from the middle on, what is written from there.
func TestReplay(t *testing.T) {
	for _, kind := range link.Kinds {
		for _, part := range []int{0, 2} { // from the beginning, from the middle
			r := rand.New(rand.NewPCG(28, 1))
			list, _ := recorded(t, r, kind, demo, 0)
			if part > 0 {
				list = list[len(list)/part+r.IntN(50):]
			}
			found := Identify(list, make([]string, 12), nil)
			if len(found) == 0 {
				t.Fatalf("%s: nothing is found", kind)
			}
			replay, got := shown(t, &found[0], "20x4", list)
			findings := replay.Findings()
			if part == 0 {
				if !slices.Equal(got, demo) || len(findings) > 0 || replay.Within || GeometryOf(replay.Operations) != "20x4" {
					t.Errorf("%s: %q, %v, %s; expected %q", kind, got, findings, GeometryOf(replay.Operations), demo)
				}
				continue
			}
			if !replay.Within || !strings.HasSuffix(got[3], "11") || len(findings) != 1 {
				t.Errorf("%s, from the middle: %q, %v", kind, got, findings)
			}
		}
	}
}

// shown is a recording as it is replayed into a module, and the rows that its glass shows at the end, without the spaces round them.
func shown(t *testing.T, f *Found, geometry string, list []Change) (r *Replay, rows []string) {
	t.Helper()
	r, err := NewReplay(f, moduleOf(t, geometry), list)
	if err != nil {
		t.Fatal(err)
	}
	if err := r.Play(&inMemory{list: list}, -1); err != nil {
		t.Fatal(err)
	}
	g := r.Glass()
	for _, row := range g.Text(r.module.ROM) {
		rows = append(rows, strings.TrimSpace(row))
	}
	return r, rows
}

func moduleOf(t testing.TB, geometry string) module.Module {
	t.Helper()
	d := bench.NewModule("quay", "Quay").Display
	d.Geometry = geometry
	m, err := d.Module()
	if err != nil {
		t.Fatal(err)
	}
	return m
}

// TestInverted finds lines that are upside down: one of them, or all; what is replayed is the same.
func TestInverted(t *testing.T) {
	for _, kind := range link.Kinds {
		r := rand.New(rand.NewPCG(30, 1))
		list, at := recorded(t, r, kind, demo, 0)
		masks := []uint64{1<<12 - 1}
		for _, c := range at {
			masks = append(masks, 1<<c)
		}
		for _, mask := range masks {
			over := inverted(list, mask)
			found := Identify(over, make([]string, 12), nil)
			if len(found) == 0 || !same(found[0].Lines, at) {
				t.Errorf("%s, %012b turned over: found %s; expected %v", kind, mask, describe(found), at)
				continue
			}
			replay, got := shown(t, &found[0], "20x4", over)
			if !slices.Equal(got, demo) || len(replay.Findings()) > 0 {
				t.Errorf("%s, %012b turned over: %q, %v", kind, mask, got, replay.Findings())
			}
		}
	}
}

// TestWithoutRS identifies and replays recordings from which RS is missing: it is filled in from what the bytes can mean, and that is said.
func TestWithoutRS(t *testing.T) {
	right, all := 0, 0
	for round := range 6 {
		for _, kind := range []link.Kind{link.Parallel4, link.Parallel8} {
			r := rand.New(rand.NewPCG(uint64(round), 31))
			list, at := recorded(t, r, kind, demo, 0)
			list = only(list, ^(uint64(1) << at["RS"]))
			delete(at, "RS")
			found := Identify(list, make([]string, 12), nil)
			if all++; len(found) == 0 || !same(found[0].Lines, at) {
				t.Logf("%s, round %d: found %s; expected %v", kind, round, describe(found), at)
				continue
			}
			replay, got := shown(t, &found[0], "20x4", list)
			findings := replay.Findings()
			if !slices.Equal(got, demo) || len(findings) != 1 || findings[0].Code != "capture.no-rs" {
				t.Logf("%s, round %d: %q, %v", kind, round, got, findings)
				continue
			}
			right++
		}
	}
	if right < all-1 {
		t.Errorf("%d of %d recordings without RS are read", right, all)
	}
}

// disturbed is a recording with pulses of some width at places where nothing else changes.
func disturbed(r *rand.Rand, list []Change, channels, n int, width time.Duration) []Change {
	type pulse struct {
		at      time.Duration
		channel int
	}
	var pulses []pulse
	for range n {
		k := 1 + r.IntN(len(list)-2)
		if list[k+1].At-list[k].At > 4*width && list[k].At-list[k-1].At > 4*width {
			pulses = append(pulses, pulse{list[k].At + 2*width, r.IntN(channels)})
		}
	}
	slices.SortFunc(pulses, func(a, b pulse) int { return int(a.at - b.at) })
	pulses = slices.CompactFunc(pulses, func(a, b pulse) bool { return (a.at - b.at).Abs() < 4*width })
	out := slices.Clone(list)
	for _, p := range pulses {
		k, _ := slices.BinarySearchFunc(out, p.at, func(c Change, at time.Duration) int { return int(c.At - at) })
		level := out[k-1].Levels
		out = slices.Insert(out, k, Change{p.at, level ^ 1<<p.channel}, Change{p.at + width, level})
	}
	return out
}

// TestQuiet takes disturbances out of recordings on each link, and nothing else: what is left is the recording without them, whose lines are found.
func TestQuiet(t *testing.T) {
	for _, kind := range link.Kinds {
		r := rand.New(rand.NewPCG(29, 1))
		list, at := recorded(t, r, kind, demo, 0)
		loud := disturbed(r, list, 12, 200, 60*time.Nanosecond)
		if len(loud) < len(list)+100 {
			t.Fatalf("%s: only %d changes more", kind, len(loud)-len(list))
		}
		q := NewQuiet(&inMemory{list: loud}, Shortest(loud, 12))
		var got []Change
		for {
			c, err := q.Next()
			if err != nil {
				break
			}
			got = append(got, c)
		}
		whole := got
		var mask uint64 // of the lines
		for _, c := range at {
			mask |= 1 << c
		}
		got, list = only(got, mask), only(list, mask)
		if !slices.Equal(got, list) || len(q.Finding()) != 1 {
			t.Errorf("%s: %d changes are left of %d, %d disturbances; expected %d", kind, len(got), len(loud), q.Disturbances, len(list))
		}
		if found := Identify(whole, make([]string, 12), nil); len(found) == 0 || !same(found[0].Lines, at) {
			t.Errorf("%s: found %s; expected %v", kind, describe(found), at)
		}
	}
}

// only are the changes of some channels.
func only(list []Change, mask uint64) (out []Change) {
	for _, c := range list {
		if c.Levels &= mask; len(out) == 0 || out[len(out)-1].Levels != c.Levels {
			out = append(out, c)
		}
	}
	return out
}

// BenchmarkReplay replays a recording of a backpack's bus, change by change.
func BenchmarkReplay(b *testing.B) {
	list, _ := recorded(b, rand.New(rand.NewPCG(28, 2)), link.Backpack, demo, 0)
	found := Identify(list, make([]string, 12), nil)
	m := moduleOf(b, "20x4")
	for b.Loop() {
		r, err := NewReplay(&found[0], m, list)
		if err != nil {
			b.Fatal(err)
		}
		for _, c := range list {
			r.Take(c)
		}
	}
	b.ReportMetric(float64(b.N*len(list))/b.Elapsed().Seconds(), "changes/s")
}
