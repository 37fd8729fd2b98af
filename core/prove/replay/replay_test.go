package replay

import (
	"maps"
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

// TestInverted finds lines that are upside down: some one of them, or all; what is replayed is the same.
func TestInverted(t *testing.T) {
	for _, kind := range link.Kinds {
		r := rand.New(rand.NewPCG(30, 1))
		list, at := recorded(t, r, kind, 0)
		masks := []uint64{1<<12 - 1}
		for i, role := range slices.Sorted(maps.Keys(at)) {
			if i%3 == int(kind[0])%3 { // each third line: of eight lines they are many
				masks = append(masks, 1<<at[role])
			}
		}
		for _, mask := range masks {
			over := capturetest.Inverted(list, mask)
			found := capture.Identify(over, capturetest.Names(), nil)
			if len(found) == 0 || !capturetest.Same(found[0].Lines, at) {
				t.Errorf("%s, %012b turned over: found %s; expected %v", kind, mask, capturetest.Describe(found), at)
				continue
			}
			replay, got := shown(t, &found[0], "20x4", over)
			if !slices.Equal(got, capturetest.Demo) || len(replay.Findings()) > 0 {
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
