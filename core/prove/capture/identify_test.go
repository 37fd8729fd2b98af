package capture_test

import (
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"time"

	"slatebell/core/prove/capture"
	"slatebell/core/prove/capture/capturetest"
	"slatebell/core/wire/link"
)

// recorded is a recording of our program for the demo's screen behind a link.
func recorded(t testing.TB, r *rand.Rand, kind link.Kind, step time.Duration) ([]capture.Change, capture.Lines) {
	m := capturetest.Of20x4(kind)
	return capturetest.Recorded(t, r, &m, capturetest.Demo, step)
}

// TestIdentify finds the lines of recordings of our own programs on each link, on channels in any order, from their beginning and from anywhere,
// sampled at several rates.
func TestIdentify(t *testing.T) {
	right, all := 0, 0
	for round := range 6 {
		for _, kind := range link.Kinds {
			for _, step := range []time.Duration{0, 10 * time.Nanosecond, 100 * time.Nanosecond, time.Microsecond} {
				r := rand.New(rand.NewPCG(27, uint64(round)))
				list, at := recorded(t, r, kind, step)
				if round%2 == 1 {
					list = list[r.IntN(len(list)/3):]
				}
				began := time.Now()
				found := capture.Identify(list, capturetest.Names(), nil)
				took := time.Since(began)
				all++
				if len(found) == 0 || found[0].Kind != kind || !capturetest.Same(found[0].Lines, at) || (kind == link.Backpack && found[0].Mapping != link.UsualMapping) || (kind == link.ShiftReg && found[0].Mapping.RS != link.UsualShiftMapping.RS) {
					t.Logf("%s, %v, round %d: %v: found %v; expected %v", kind, step, round, took, strings.TrimSpace(capturetest.Describe(found)), at)
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

// BenchmarkIdentify finds the lines of four data lines in a recording, and of eight where nobody recorded RS.
func BenchmarkIdentify(b *testing.B) {
	for _, c := range []struct {
		name string
		kind link.Kind
		lack bool
	}{{"four lines", link.Parallel4, false}, {"eight without RS", link.Parallel8, true}} {
		b.Run(c.name, func(b *testing.B) {
			list, at := recorded(b, rand.New(rand.NewPCG(1, 31)), c.kind, 0)
			if c.lack {
				list = capturetest.Only(list, ^(uint64(1) << at["RS"]))
				delete(at, "RS")
			}
			for b.Loop() {
				if found := capture.Identify(list, capturetest.Names(), nil); len(found) == 0 || !capturetest.Same(found[0].Lines, at) {
					b.Fatal(capturetest.Describe(found))
				}
			}
		})
	}
}

// disturbed is a recording with pulses of some width at places where nothing else changes.
func disturbed(r *rand.Rand, list []capture.Change, channels, n int, width time.Duration) []capture.Change {
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
		k, _ := slices.BinarySearchFunc(out, p.at, func(c capture.Change, at time.Duration) int { return int(c.At - at) })
		level := out[k-1].Levels
		out = slices.Insert(out, k, capture.Change{At: p.at, Levels: level ^ 1<<p.channel}, capture.Change{At: p.at + width, Levels: level})
	}
	return out
}

// TestQuiet takes disturbances out of recordings on each link, and nothing else: what is left is the recording without them, whose lines are found.
func TestQuiet(t *testing.T) {
	for _, kind := range link.Kinds {
		r := rand.New(rand.NewPCG(29, 1))
		list, at := recorded(t, r, kind, 0)
		loud := disturbed(r, list, 12, 200, 60*time.Nanosecond)
		if len(loud) < len(list)+100 {
			t.Fatalf("%s: only %d changes more", kind, len(loud)-len(list))
		}
		q := capture.NewQuiet((&capture.Memory{List: loud}).Source(), capture.Shortest(loud, 12))
		var got []capture.Change
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
		got, list = capturetest.Only(got, mask), capturetest.Only(list, mask)
		if !slices.Equal(got, list) || len(q.Finding()) != 1 {
			t.Errorf("%s: %d changes are left of %d, %d disturbances; expected %d", kind, len(got), len(loud), q.Disturbances, len(list))
		}
		if found := capture.Identify(whole, capturetest.Names(), nil); len(found) == 0 || !capturetest.Same(found[0].Lines, at) {
			t.Errorf("%s: found %s; expected %v", kind, capturetest.Describe(found), at)
		}
	}
}

// TestSecond finds both enables of modules with two controllers, bare and behind an expander.
func TestSecond(t *testing.T) {
	for _, kind := range []link.Kind{link.Parallel4, link.Parallel8, link.Backpack} {
		m := capturetest.Of20x4(kind)
		m.Display.Geometry = "40x4"
		if kind == link.Backpack {
			m.Link.Outputs.Mapping = &link.Mapping{RS: 0, RW: link.Open, E: 2, E2: 1, Backlight: 3, D4: 4, D5: 5, D6: 6, D7: 7}
		}
		list, at := capturetest.Recorded(t, rand.New(rand.NewPCG(42, 1)), &m, []string{"Tide 3.2 m rising at the slip", "High water 14:05, low 20:31", "Wind NW 4, gusts 6, from the sea", "Boats out 3 of 11, one overdue"}, 0)
		found := capture.Identify(list, capturetest.Names(), nil)
		if len(found) == 0 || found[0].Kind != kind || kind != link.Backpack && !capturetest.Same(found[0].Lines, at) || kind == link.Backpack && (found[0].Mapping.E2 == link.Open || found[0].Mapping.E == found[0].Mapping.E2) {
			t.Errorf("%s: found %s; expected %v", kind, capturetest.Describe(found), at)
		}
	}
}
