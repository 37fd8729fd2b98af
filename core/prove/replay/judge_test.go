package replay

import (
	"math/rand/v2"
	"slices"
	"testing"
	"time"

	"slatebell/core/finding"
	"slatebell/core/part/hd44780"
	"slatebell/core/prove/capture"
	"slatebell/core/prove/capture/capturetest"
	"slatebell/core/wire/link"
	"slatebell/core/wire/rig"
)

// opened is a recording with its lines found, and played into a 20×4.
func opened(t testing.TB, list []capture.Change) *Replay {
	t.Helper()
	return openedAt(t, list, time.Nanosecond)
}

// openedAt is opened for samples that lie so far apart.
func openedAt(t testing.TB, list []capture.Change, step time.Duration) *Replay {
	t.Helper()
	return openedIn(t, list, step, "20x4")
}

// openedIn is openedAt for a module of some size, "" for the likeliest.
func openedIn(t testing.TB, list []capture.Change, step time.Duration, size string) *Replay {
	t.Helper()
	m := capture.Memory{Names: capturetest.Names(), List: list, Step: step}
	r, err := Open(func() (capture.Source, error) { return m.Source(), nil })
	if err == nil {
		err = r.Find(nil)
	}
	if err != nil {
		t.Fatal(err)
	}
	if size == "" {
		if size, err = r.Size(); err != nil {
			t.Fatal(err)
		}
	}
	played, err := r.Play(capturetest.Module(t, size), -1, Watch{})
	if err != nil {
		t.Fatal(err)
	}
	return played
}

func codes(list []finding.Finding) (out []string) {
	for _, f := range list {
		out = append(out, f.Code)
	}
	slices.Sort(out)
	return out
}

// later is a recording of which all from a change on comes later, or earlier.
func later(list []capture.Change, i int, by time.Duration) []capture.Change {
	out := slices.Clone(list)
	for k := i; k < len(out); k++ {
		out[k].At += by
	}
	return out
}

// edges are the indexes of a channel's changes to a level.
func edges(list []capture.Change, channel int, level uint64) (out []int) {
	for i := 1; i < len(list); i++ {
		if (list[i].Levels^list[i-1].Levels)>>channel&1 == 1 && list[i].Levels>>channel&1 == level {
			out = append(out, i)
		}
	}
	return out
}

// TestPlanted plants one violation in recordings of our own programs, which break nothing: it is found, at its time, and no other.
func TestPlanted(t *testing.T) {
	r := rand.New(rand.NewPCG(35, 1))
	four, at := recorded(t, r, link.Parallel4, 0)
	often := capturetest.Of20x4(link.Backpack)
	often.Link.Outputs.Transactions = "byte"
	bus, wires := capturetest.Recorded(t, r, &often, capturetest.Demo, 0)
	scl, sda := wires[capture.SCL], wires[capture.SDA]
	rises, falls := edges(four, at["E"], 1), edges(four, at["E"], 0)
	after := func(list []int, at int) int { return list[slices.IndexFunc(list, func(i int) bool { return i > at })] }
	const nth = 60 // a strobe in the text
	// A START, and the fall of the clock after it; a byte within a transaction.
	var starts []int
	for _, i := range edges(bus, sda, 0) {
		if bus[i].Levels>>scl&1 == 1 && bus[i-1].Levels>>scl&1 == 1 {
			starts = append(starts, i)
		}
	}
	start := starts[len(starts)-1]
	clockRises, clockFalls := edges(bus, scl, 1), edges(bus, scl, 0)
	inByte := clockRises[len(clockRises)/3]
	for clockFalls[0] < inByte {
		clockFalls = clockFalls[1:]
	}
	// The clear of the initialisation, and what comes after it.
	played := opened(t, four)
	clear := slices.IndexFunc(played.Operations, func(op Operation) bool { return op.Kind() == hd44780.Clear })
	next := played.Operations[clear+1].At
	early, _ := slices.BinarySearchFunc(four, next-50*time.Microsecond, func(c capture.Change, at time.Duration) int { return int(c.At - at) })
	for _, c := range []struct {
		name string
		list []capture.Change
		at   time.Duration // of the finding, about
		code string
	}{
		{"nothing", four, 0, ""}, {"nothing on a bus", bus, 0, ""},
		{"E is high for 100 ns", later(four, falls[nth], four[rises[nth]].At+100-four[falls[nth]].At), four[rises[nth]].At, "timing.pw-eh"},
		{"E is high for 40 ns", later(four, falls[nth], four[rises[nth]].At+40-four[falls[nth]].At), four[rises[nth]].At, "timing.pw-eh"},
		{"a byte comes during the clear", later(four, early, -time.Millisecond), next - time.Millisecond, "timing.while-busy"},
		{"the clock is low for 3 µs", later(bus, inByte, -time.Duration(int(bus[inByte].At-bus[inByte-1].At))+3*time.Microsecond), bus[inByte].At, "capture.t-low"},
		{"the clock is high for 2 µs", later(bus, clockFalls[0], bus[inByte].At+2000-bus[clockFalls[0]].At), bus[clockFalls[0]].At, "capture.t-high"},
		{"the clock falls 1 µs after START", later(bus, after(edges(bus, scl, 0), start), bus[start].At+1000-bus[after(edges(bus, scl, 0), start)].At), bus[start].At, "capture.t-hd-sta"},
		{"the bus is free for 1 µs", later(bus, start, -(bus[start].At - bus[start-1].At - 1000)), bus[start].At, "capture.t-buf"},
	} {
		got := opened(t, c.list).Findings()
		got = slices.DeleteFunc(got, func(f finding.Finding) bool {
			return f.Code == "capture.slow-oscillator" && c.code == "timing.while-busy"
		})
		switch {
		case c.code == "" && len(got) > 0:
			t.Errorf("%s: %v", c.name, codes(got))
		case c.code == "":
		case len(got) != 1 || got[0].Code != c.code:
			t.Errorf("%s: %v; expected %s", c.name, got, c.code)
		case got[0].AtNs == nil || (time.Duration(*got[0].AtNs)-c.at).Abs() > 20*time.Microsecond:
			t.Errorf("%s: at %v; expected about %v", c.name, time.Duration(*got[0].AtNs), c.at)
		}
	}
}

// TestHalves takes a strobe out of a recording on four lines: from there on the halves are out of step, and that is said with its time.
func TestHalves(t *testing.T) {
	r := rand.New(rand.NewPCG(36, 1))
	list, at := recorded(t, r, link.Parallel4, 0)
	rises, falls := edges(list, at["E"], 1), edges(list, at["E"], 0)
	for _, nth := range []int{41, 80} {
		without := slices.Clone(list)
		for i := rises[nth]; i < falls[nth]; i++ {
			without[i].Levels &^= 1 << at["E"]
		}
		played := opened(t, without)
		findings := played.Findings()
		k := slices.IndexFunc(findings, func(f finding.Finding) bool { return f.Code == "capture.halves" })
		if k < 0 {
			t.Errorf("without strobe %d: %v", nth, codes(findings))
			continue
		}
		if off := time.Duration(*findings[k].AtNs) - list[falls[nth]].At; off.Abs() > 300*time.Microsecond {
			t.Errorf("without strobe %d at %v: out of step from %v on", nth, list[falls[nth]].At, time.Duration(*findings[k].AtNs))
		}
	}
}

// TestCoarse plays a recording on four lines sampled each microsecond: limits that are shorter are not said to be broken, but that they cannot be seen.
func TestCoarse(t *testing.T) {
	list, _ := recorded(t, rand.New(rand.NewPCG(37, 1)), link.Parallel4, time.Microsecond)
	if got := codes(openedAt(t, list, time.Microsecond).Findings()); !slices.Equal(got, []string{"capture.coarse"}) {
		t.Errorf("%v; expected capture.coarse alone", got)
	}
}

// TestSlow plays a recording of a program that waits by the typical oscillator: the slowest loses bytes.
func TestSlow(t *testing.T) {
	m := capturetest.Of20x4(link.Parallel4)
	m.Link.Waits = "typical"
	list, _ := capturetest.Recorded(t, rand.New(rand.NewPCG(38, 1)), &m, capturetest.Demo, 0)
	if got := codes(opened(t, list).Findings()); !slices.Equal(got, []string{"capture.slow-oscillator"}) {
		t.Errorf("%v; expected capture.slow-oscillator alone", got)
	}
}

// TestAt holds the module at any time of a recording against one into which the recording is played up to that time.
func TestAt(t *testing.T) {
	for _, kind := range link.Kinds {
		r := rand.New(rand.NewPCG(39, 1))
		list, _ := recorded(t, r, kind, 0)
		once := list
		for range 5 { // more than are kept at once
			begin := list[len(list)-1].At + time.Millisecond
			for _, c := range once {
				list = append(list, capture.Change{At: begin + c.At, Levels: c.Levels})
			}
		}
		m := capture.Memory{Names: capturetest.Names(), List: list}
		of, err := Open(func() (capture.Source, error) { return m.Source(), nil })
		if err == nil {
			err = of.Find(nil)
		}
		if err != nil {
			t.Fatal(err)
		}
		mod := capturetest.Module(t, "20x4")
		whole, err := of.Play(mod, -1, Watch{})
		if err != nil {
			t.Fatal(err)
		}
		for range 12 {
			until := time.Duration(r.Int64N(int64(whole.Ends)))
			part, err := of.Play(mod, until, Watch{})
			if err != nil {
				t.Fatal(err)
			}
			got, want := whole.GlassAt(until), part.Glass()
			a, b := whole.At(until).Controllers[0], part.rig.Moment().Controllers[0]
			if !slices.Equal(got.Cells, want.Cells) || got.On != want.On || got.Light != want.Light || a.State != b.State && a.AC != b.AC {
				t.Fatalf("%s at %v: %q, AC %02X; expected %q, AC %02X", kind, until, got.Text(mod.ROM), a.AC, want.Text(mod.ROM), b.AC)
			}
		}
	}
}

// TestCheaper compares recordings of a program that clears and prints each screen anew with the cheapest: what that sends shows the same screens,
// and takes less.
func TestCheaper(t *testing.T) {
	for _, kind := range link.Kinds {
		m := capturetest.Of20x4(kind)
		var list []capture.Change
		screens := [][]string{capturetest.Demo, {"Tide 3.3 m  rising", "High water   14:05", "Wind NW 5  gusts 7", "Boats out  2 of 11"}, {"Slip closed"}}
		for _, rows := range screens { // each from its power-up on: the same lines
			one, _ := capturetest.Recorded(t, rand.New(rand.NewPCG(40, 2)), &m, rows, 0)
			if len(list) == 0 {
				list = one
				continue
			}
			begin := list[len(list)-1].At + 30*time.Millisecond
			for _, c := range one {
				list = append(list, capture.Change{At: begin + c.At, Levels: c.Levels})
			}
		}
		played := opened(t, list)
		c, err := played.Cheaper()
		if err != nil {
			t.Fatal(err)
		}
		if c.Cheapest.Time >= c.Recorded.Time || c.Cheapest.Bytes >= c.Recorded.Bytes || len(c.Finding()) != 1 || c.Needless.Cleared == 0 {
			t.Errorf("%s: %d screens, recorded %+v, cheapest %+v, needless %+v", kind, len(c.Screens), c.Recorded, c.Cheapest, c.Needless)
		}
		hardware, err := rig.New(played.module, played.link)
		if err != nil {
			t.Fatal(err)
		}
		for i, p := range c.programs {
			hardware.Follow(p)
			mo := hardware.Moment()
			got, want := mo.Glass(&played.module, 1), played.GlassAt(c.Screens[i].At)
			if !slices.Equal(got.Text(played.module.ROM), want.Text(played.module.ROM)) || got.On != want.On {
				t.Errorf("%s, screen %d: %q; recorded is %q", kind, i, got.Text(played.module.ROM), want.Text(played.module.ROM))
			}
		}
	}
}
