package replay

import (
	"math/rand/v2"
	"slices"
	"strconv"
	"strings"
	"testing"

	"slatebell/core/bench"
	"slatebell/core/prove/capture"
	"slatebell/core/prove/capture/capturetest"
	"slatebell/core/prove/fault"
	"slatebell/core/prove/run"
	"slatebell/core/prove/testbed"
	"slatebell/core/wire/link"
)

// benchOf is a bench with a 20×4 behind a link, and some screens.
func benchOf(kind link.Kind, screens ...[]string) bench.Bench {
	b := bench.New("Quay")
	b.Modules[0] = capturetest.Of20x4(kind)
	b.Modules[0].Screens = nil
	for i, rows := range screens {
		b.Modules[0].Screens = append(b.Modules[0].Screens, bench.Screen{ID: "screen-" + strconv.Itoa(i), Rows: rows})
	}
	return b
}

// TestAgainst holds recordings of a program beside the program itself, and beside recordings of faults: with nothing wrong they are the same; of each
// fault that shows in a recording the cause is among those that are told, and where another explains it as well, it is as near.
func TestAgainst(t *testing.T) {
	for _, kind := range link.Kinds {
		r := rand.New(rand.NewPCG(33, 1))
		list, _ := recorded(t, r, kind, 0)
		found := capture.Identify(list, capturetest.Names(), nil)
		played, _ := shown(t, &found[0], "20x4", list)
		b := benchOf(kind, append([]string{"Slip"}, capturetest.Demo[1:]...), capturetest.Demo)
		c, err := played.Against(&b, 0)
		if err != nil {
			t.Fatal(err)
		}
		if c.Screen != 1 || c.First >= 0 || c.After > 0 || len(c.Causes) == 0 || c.Causes[0].Fault.ID != fault.Sound || c.Findings()[0].Code != "capture.as-sent" {
			t.Errorf("%s: the recording of a program differs from it: screen %d, %d missing, %d added, %d changed, %d after; %+v", kind, c.Screen, c.Missing, c.Added, c.Changed, c.After, c.Causes)
		}
	}
	b := benchOf(link.Backpack, capturetest.Demo)
	s, err := run.SubjectOf(&b, testbed.At{})
	if err != nil {
		t.Fatal(err)
	}
	x, err := fault.Listed(s)
	if err != nil {
		t.Fatal(err)
	}
	kinds, first := map[string]bool{}, 0
	for i, f := range x.Faults {
		if kinds[f.Code] {
			continue
		}
		wrong, err := x.Made(&fault.Case{A: int32(i), B: -1})
		if err != nil {
			t.Fatal(err)
		}
		made, err := recordingOf(wrong, s)
		if err != nil {
			continue
		}
		c, err := made.beside(s, 0)
		if err != nil {
			t.Fatalf("%s: %v", f.ID, err)
		}
		if c.First < 0 && made.Refused == 0 { // nothing of it is in the recording
			continue
		}
		c, err = made.against([]*fault.Subject{s})
		if err != nil {
			t.Fatalf("%s: %v", f.ID, err)
		}
		kinds[f.Code] = true
		at := slices.IndexFunc(c.Causes, func(one Cause) bool { return one.Fault.ID == f.ID })
		if at == 0 {
			first++
		}
		if at < 0 && c.Causes[0].Distance > 0 || at >= 0 && c.Causes[at].Distance != 0 {
			t.Errorf("%s: %d missing, %d added, %d changed; told are %+v", f.ID, c.Missing, c.Added, c.Changed, c.Causes[0])
		}
	}
	if t.Logf("%d kinds of faults show in a recording; %d are told first", len(kinds), first); len(kinds) < 8 {
		t.Errorf("%d kinds of faults show in a recording", len(kinds))
	}
}

// TestShortest holds alignments against the longest common part of two short lists, worked out by its recurrence.
func TestShortest(t *testing.T) {
	r := rand.New(rand.NewPCG(34, 1))
	for range 300 {
		word := func() string {
			var b strings.Builder
			for range r.IntN(12) {
				b.WriteByte("abc"[r.IntN(3)])
			}
			return b.String()
		}
		a, b := word(), word()
		common := make([][]int, len(a)+1)
		for i := range common {
			common[i] = make([]int, len(b)+1)
			for j := 1; i > 0 && j <= len(b); j++ {
				if common[i][j] = max(common[i-1][j], common[i][j-1]); a[i-1] == b[j-1] {
					common[i][j] = common[i-1][j-1] + 1
				}
			}
		}
		pairs := shortest(len(a), len(b), func(i, j int) bool { return a[i] == b[j] })
		both, i, j := 0, 0, 0
		for _, p := range pairs {
			if p.Program >= 0 && p.Recorded >= 0 && a[p.Program] == b[p.Recorded] {
				both++
			}
			if p.Program >= 0 && p.Program != i || p.Recorded >= 0 && p.Recorded != j {
				t.Fatalf("%q, %q: %v is not in order", a, b, pairs)
			}
			if p.Program >= 0 {
				i++
			}
			if p.Recorded >= 0 {
				j++
			}
		}
		if both != common[len(a)][len(b)] || i != len(a) || j != len(b) {
			t.Errorf("%q, %q: %v pairs %d; the longest common part has %d", a, b, pairs, both, common[len(a)][len(b)])
		}
	}
}
