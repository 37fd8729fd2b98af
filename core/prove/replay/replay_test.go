package replay

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

// TestTexts identifies and replays recordings of modules of any size and mapping with a text: the glass shows it.
func TestTexts(t *testing.T) {
	for round := range 8 {
		for _, kind := range link.Kinds {
			r := rand.New(rand.NewPCG(uint64(round), 99))
			m, rows := capturetest.Any(r, kind)
			list, _ := capturetest.Recorded(t, r, &m, rows, 0)
			found, got := capture.Identify(list, capturetest.Names(), nil), []string(nil)
			if len(found) > 0 {
				_, got = shown(t, &found[0], m.Display.Geometry, list)
			}
			if !slices.Equal(got, rows) {
				t.Errorf("%s, %s: the glass shows %q; expected %q, found %s", kind, m.Display.Geometry, got, rows, capturetest.Describe(found))
			}
		}
	}
}

// TestReplay replays recordings of our own programs on each link: the operations are those of the program, the glass shows its text, no limit is
// broken; and from the middle on, what is written from there.
func TestReplay(t *testing.T) {
	for _, kind := range link.Kinds {
		for _, part := range []int{0, 2} { // from the beginning, from the middle
			r := rand.New(rand.NewPCG(28, 1))
			list, _ := recorded(t, r, kind, 0)
			if part > 0 {
				list = list[len(list)/part+r.IntN(50):]
			}
			found := capture.Identify(list, capturetest.Names(), nil)
			if len(found) == 0 {
				t.Fatalf("%s: nothing is found", kind)
			}
			replay, got := shown(t, &found[0], "20x4", list)
			findings := replay.Findings()
			if part == 0 {
				if !slices.Equal(got, capturetest.Demo) || len(findings) > 0 || replay.Within || GeometryOf(replay.Operations) != "20x4" {
					t.Errorf("%s: %q, %v, %s; expected %q", kind, got, findings, GeometryOf(replay.Operations), capturetest.Demo)
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
func shown(t *testing.T, f *capture.Found, geometry string, list []capture.Change) (r *Replay, rows []string) {
	t.Helper()
	r, err := NewReplay(f, capturetest.Module(t, geometry), list)
	if err != nil {
		t.Fatal(err)
	}
	if err := r.Play((&capture.Memory{List: list}).Source(), -1); err != nil {
		t.Fatal(err)
	}
	g := r.Glass()
	for _, row := range g.Text(r.module.ROM) {
		rows = append(rows, strings.TrimSpace(row))
	}
	return r, rows
}

// TestWithoutRS identifies and replays recordings from which RS is missing: it is filled in from what the bytes can mean, and that is said.
func TestWithoutRS(t *testing.T) {
	right, all := 0, 0
	for round := range 6 {
		for _, kind := range []link.Kind{link.Parallel4, link.Parallel8} {
			r := rand.New(rand.NewPCG(uint64(round), 31))
			list, at := recorded(t, r, kind, 0)
			list = capturetest.Only(list, ^(uint64(1) << at["RS"]))
			delete(at, "RS")
			found := capture.Identify(list, capturetest.Names(), nil)
			if all++; len(found) == 0 || !capturetest.Same(found[0].Lines, at) {
				t.Logf("%s, round %d: found %s; expected %v", kind, round, capturetest.Describe(found), at)
				continue
			}
			replay, got := shown(t, &found[0], "20x4", list)
			findings := replay.Findings()
			if !slices.Equal(got, capturetest.Demo) || len(findings) != 1 || findings[0].Code != "capture.no-rs" {
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

// BenchmarkReplay replays a recording of a backpack's bus, change by change.
func BenchmarkReplay(b *testing.B) {
	list, _ := recorded(b, rand.New(rand.NewPCG(28, 2)), link.Backpack, 0)
	found := capture.Identify(list, capturetest.Names(), nil)
	m := capturetest.Module(b, "20x4")
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

// TestSecond replays recordings of modules with two controllers.
func TestSecond(t *testing.T) {
	rows := []string{"Tide 3.2 m rising at the slip", "High water 14:05, low 20:31", "Wind NW 4, gusts 6, from the sea", "Boats out 3 of 11, one overdue"}
	for _, kind := range []link.Kind{link.Parallel4, link.Parallel8, link.Backpack} {
		m := capturetest.Of20x4(kind)
		m.Display.Geometry = "40x4"
		if kind == link.Backpack {
			m.Link.Outputs.Mapping = &link.Mapping{RS: 0, RW: link.Open, E: 2, E2: 1, Backlight: 3, D4: 4, D5: 5, D6: 6, D7: 7}
		}
		list, _ := capturetest.Recorded(t, rand.New(rand.NewPCG(42, 1)), &m, rows, 0)
		played := openedIn(t, list, time.Nanosecond, "")
		g := played.Glass()
		got := g.Text(played.module.ROM)
		for i := range got {
			got[i] = strings.TrimSpace(got[i])
		}
		turned := slices.Concat(got[2:], got[:2]) // which of the two is the first, nothing tells
		if !slices.Equal(got, rows) && !slices.Equal(turned, rows) || len(played.Findings()) > 0 {
			t.Errorf("%s: %q, %v", kind, got, codes(played.Findings()))
		}
	}
}

// spoilt is a recording as they are in practice: with disturbances, upside down, cut at both ends, whatever a random number says. cut says that its text
// is not whole.
func spoilt(r *rand.Rand, list []capture.Change) (out []capture.Change, what string, cut bool) {
	out = slices.Clone(list)
	if r.IntN(2) == 0 {
		what += "disturbed "
		for range 60 {
			width := time.Duration(10 + r.IntN(60))
			k := 1 + r.IntN(len(out)-2)
			if out[k+1].At-out[k].At > 5*width {
				at, levels := out[k].At+2*width, out[k].Levels
				out = slices.Insert(out, k+1, capture.Change{At: at, Levels: levels ^ 1<<r.IntN(capturetest.Channels)}, capture.Change{At: at + width, Levels: levels})
			}
		}
	}
	switch r.IntN(4) {
	case 0:
		what += "upside down "
		out = capturetest.Inverted(out, 1<<capturetest.Channels-1)
	case 1:
		what += "one channel upside down "
		out = capturetest.Inverted(out, 1<<r.IntN(capturetest.Channels))
	}
	if r.IntN(3) == 0 {
		what += "begun later "
		out, cut = out[r.IntN(len(out)/4):], true
	}
	if r.IntN(3) == 0 {
		what += "ended early "
		out, cut = out[:len(out)-1-r.IntN(len(out)/8)], true
	}
	return out, what, cut
}

// TestSpoilt finds the lines of recordings of our own programs on each link that are disturbed, upside down, cut at both ends and sampled at 1 to 100 MHz, all
// at once: of 99 in 100; and of those that are whole the glass shows the text.
func TestSpoilt(t *testing.T) {
	found, glass, all := 0, 0, 0
	for round := range 6 {
		for _, kind := range link.Kinds {
			r := rand.New(rand.NewPCG(uint64(round), 43))
			step := []time.Duration{0, 10, 20, 41, 100, 250, 500, 1000}[r.IntN(8)]
			list, at := recorded(t, r, kind, step)
			list, what, cut := spoilt(r, list)
			memory := capture.Memory{Names: capturetest.Names(), List: list, Step: step}
			of, err := Open(func() (capture.Source, error) { return memory.Source(), nil })
			if err != nil {
				t.Fatal(err)
			}
			all++
			if err := of.Find(nil); err != nil || of.Found[0].Kind != kind || !capturetest.Same(of.Found[0].Lines, at) {
				t.Logf("%s, samples %v apart, %s: found %s; expected %v", kind, step, what, capturetest.Describe(of.Found), at)
				continue
			}
			found++
			played, err := of.Play(capturetest.Module(t, "20x4"), -1, Watch{})
			if err != nil {
				t.Fatal(err)
			}
			g := played.Glass()
			if got := g.Text(played.module.ROM); cut || slices.EqualFunc(got, capturetest.Demo, func(a, b string) bool { return strings.TrimSpace(a) == b }) {
				glass++
			} else {
				t.Logf("%s, samples %v apart, %s: the glass shows %q", kind, step, what, got)
			}
		}
	}
	if t.Logf("%d of %d found, %d show what they should", found, all, glass); found*100 < all*99 || glass*100 < found*99 {
		t.Errorf("the lines of %d of %d recordings are found, the glass of %d is right; expected 99 in 100", found, all, glass)
	}
}
