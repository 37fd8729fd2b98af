package bank

import (
	"errors"
	"math/bits"
	"math/rand/v2"
	"testing"

	"slatebell/core/text/glyph"
)

// numbered returns pages of glyphs named by numbers.
func numbered(pages [][]int) []Page {
	out := make([]Page, len(pages))
	for i, page := range pages {
		for _, n := range page {
			out[i] = append(out[i], glyph.Pattern{byte(n + 1)})
		}
	}
	return out
}

func slots(n int) (out []int) {
	for i := range n {
		out = append(out, i)
	}
	return out
}

// least is the fewest loads by trying every way to fill the slots, over sets of
// glyphs held; -1 where the pages cannot follow each other. It keeps the rules on
// its own: what the page before shows stays while the next is loaded.
func least(pages [][]int, room int, onGlass bool) int {
	const never = 1 << 20
	cost := map[int]int{0: 0}
	before := 0
	for _, page := range pages {
		need := 0
		for _, n := range page {
			need |= 1 << n
		}
		next := map[int]int{}
		for held, paid := range cost {
			must := need
			if !onGlass {
				must |= before & held
			}
			// whatever of held stays, as long as all that must be there fits
			for keep := held; ; keep = (keep - 1) & held {
				after := keep | need
				if bits.OnesCount(uint(after)) <= room && after&must == must {
					to := paid + bits.OnesCount(uint(need&^keep))
					if old, ok := next[after]; !ok || to < old {
						next[after] = to
					}
				}
				if keep == 0 {
					break
				}
			}
		}
		cost, before = next, need
	}
	best := never
	for _, c := range cost {
		best = min(best, c)
	}
	if best == never {
		return -1
	}
	return best
}

// TestLeast holds plans of random lists, gone through once and round and round,
// against trying every way to fill the slots; a loop's for every number of rounds
// up to its repetition and beyond. It replays each plan: what a page shows is
// there, and nothing on the glass is touched unless that is allowed.
func TestLeast(t *testing.T) {
	rng := rand.New(rand.NewPCG(9, 1))
	conflicts, loops := 0, 0
	for range 3000 {
		room, kinds := 2+rng.IntN(3), 3+rng.IntN(5)
		pages := make([][]int, 1+rng.IntN(6))
		for i := range pages {
			pages[i] = rng.Perm(kinds)[:rng.IntN(min(room, kinds)+1)]
		}
		o := Options{Slots: slots(room), Loop: rng.IntN(2) == 0, OnGlass: rng.IntN(2) == 0}
		plan, err := New(numbered(pages), o)
		unrolled := pages
		if o.Loop {
			for len(unrolled) < 5*len(pages) {
				unrolled = append(unrolled, pages...)
			}
		}
		want := least(unrolled, room, o.OnGlass)
		if err != nil {
			conflicts++
			var c *Conflict
			if !errors.As(err, &c) || want >= 0 {
				t.Fatalf("%v, %+v: %v, want %d loads", pages, o, err, want)
			}
			continue
		}
		if want < 0 {
			t.Fatalf("%v, %+v: a plan of %d loads, want a conflict", pages, o, Count(plan.Steps))
		}
		replay(t, numbered(pages), o, plan)
		if !o.Loop {
			if got := Count(plan.Steps); got != want || plan.Rounds != 0 {
				t.Fatalf("%v, %+v: %d loads, want %d", pages, o, got, want)
			}
			continue
		}
		loops++
		// the steps of any number of rounds, gone on with the part that repeats
		steps := plan.Steps
		for len(steps) < 5*len(pages) {
			steps = append(steps, plan.Steps[plan.Cycle:]...)
		}
		for rounds := 1; rounds <= 5; rounds++ {
			n := rounds * len(pages)
			if got, want := Count(steps[:n]), least(unrolled[:n], room, o.OnGlass); got != want {
				t.Fatalf("%v, %+v: %d loads in %d rounds, want %d", pages, o, got, rounds, want)
			}
		}
	}
	if conflicts < 100 || loops < 500 {
		t.Errorf("%d conflicts and %d loops were seen", conflicts, loops)
	}
}

// replay loads as a plan says.
func replay(t *testing.T, pages []Page, o Options, plan *Plan) {
	t.Helper()
	held := map[int]glyph.Pattern{}
	var before Page
	for _, s := range plan.Steps {
		for _, l := range s.Loads {
			was, holds := held[l.Slot]
			onGlass := holds && shown(before, was) == 1
			if onGlass != l.Shown || onGlass && !o.OnGlass {
				t.Fatalf("slot %d is on the glass: %v; the load says %v", l.Slot, onGlass, l.Shown)
			}
			held[l.Slot] = l.Glyph
		}
		for _, g := range pages[s.Page] {
			if slot, ok := s.Slots[g]; !ok || held[slot] != g {
				t.Fatalf("page %d: glyph %v is not in slot %d", s.Page, g, slot)
			}
		}
		before = pages[s.Page]
	}
}

// TestNineInALoop goes round nine screens of a glyph each, worked out by hand: one
// glyph is always away. The one that goes is the one shown last, which comes back
// last, so that a load serves eight screens; where it may not go while it is on
// the glass, the one before it goes, and a load serves seven.
func TestNineInALoop(t *testing.T) {
	var pages [][]int
	for n := range 9 {
		pages = append(pages, []int{n})
	}
	for serves, onGlass := range map[int]bool{8: true, 7: false} {
		plan, err := New(numbered(pages), Options{Slots: slots(8), Loop: true, OnGlass: onGlass})
		if err != nil {
			t.Fatal(err)
		}
		if n, rounds := Count(plan.Steps[plan.Cycle:]), plan.Rounds; n*serves != rounds*9 || !plan.Least {
			t.Errorf("%d loads in %d rounds, want 9 in %d", n, rounds, serves)
		}
	}
}

// TestConflict names what cannot be: a page by itself, or after another.
func TestConflict(t *testing.T) {
	o := Options{Slots: slots(2)}
	for want, pages := range map[string][][]int{
		"page 2 shows 3 glyphs; there is room for 2":                                                              {{1}, {1, 2, 3}},
		"pages 1 and 2 show 3 glyphs between them; there is room for 2, so that a slot would change on the glass": {{1}, {2, 3}},
	} {
		if _, err := New(numbered(pages), o); err == nil || err.Error() != want {
			t.Errorf("%v: %v, want %q", pages, err, want)
		}
	}
}

// BenchmarkPlan plans the loads of 200 screens that show 4 of 60 glyphs each;
// the goal is 50 ms.
func BenchmarkPlan(b *testing.B) {
	rng := rand.New(rand.NewPCG(9, 2))
	var pages [][]int
	for range 200 {
		pages = append(pages, rng.Perm(60)[:4])
	}
	for name, loop := range map[string]bool{"once": false, "loop": true} {
		b.Run(name, func(b *testing.B) {
			list := numbered(pages)
			for b.Loop() {
				if _, err := New(list, Options{Slots: slots(8), Loop: loop}); err != nil {
					b.Fatal(err)
				}
			}
		})
	}
}
