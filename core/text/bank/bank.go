// Package bank plans what the slots of CGRAM hold while screens follow each
// other: which glyph is loaded into which slot before which screen, with the
// fewest bytes.
//
// It stands above glyph in the flow screen → cells → operations → wire traffic →
// rig → glass: run gives it what each screen shows, and plays its loads.
package bank

import (
	"fmt"
	"maps"
	"slices"

	"slatebell/core/text/glyph"
)

// Page is what one screen needs: its glyphs, each once.
type Page []glyph.Pattern

// Options say how a list of pages is gone through.
type Options struct {
	Slots   []int // that may be loaded, ascending
	Loop    bool  // after the last page comes the first
	OnGlass bool  // a slot may be loaded while the page before still shows it
}

// Load is a glyph put into a slot.
type Load struct {
	Slot  int
	Glyph glyph.Pattern
	Shown bool // the page before still shows what the slot held
}

// Step is what is done before a page is shown, and where its glyphs are then.
type Step struct {
	Page  int // index into the pages
	Loads []Load
	Slots map[glyph.Pattern]int // of the page's glyphs
}

// Plan is the loading of a list of pages. A looped list begins with Steps[:Cycle];
// after Steps[Cycle:] CGRAM holds the same glyphs again, perhaps in other slots,
// and the same glyphs are loaded again for ever. A list that is gone through once
// has its Cycle at the end.
type Plan struct {
	Steps  []Step
	Cycle  int  // where what is repeated begins
	Rounds int  // how often the repeated part goes through the list; 0 without a loop
	Least  bool // proved: no plan loads fewer glyphs
}

// maxRounds bounds how many rounds of a loop are looked through for a repetition.
const maxRounds = 64

// Conflict says that two pages cannot follow each other.
type Conflict struct {
	Before, Page int // indexes into the pages; Before is -1 where the page alone needs too many
	Needs, Holds int // slots
}

func (c *Conflict) Error() string {
	if c.Before < 0 {
		return fmt.Sprintf("page %d shows %d glyphs; there is room for %d", c.Page+1, c.Needs, c.Holds)
	}
	return fmt.Sprintf("pages %d and %d show %d glyphs between them; there is room for %d, so that a slot would change on the glass", c.Before+1, c.Page+1, c.Needs, c.Holds)
}

// New returns the plan that loads the fewest glyphs. Where a slot is needed, the
// glyph goes that is shown again furthest in the future: for equal costs that is
// least (Belady, IBM Systems Journal 5, 1966), and stays so where some glyphs
// have to be kept. Its error is a *Conflict where the pages cannot follow each
// other.
//
// For a loop no plan loads fewer in any number of rounds; it may do so by loading
// other slots in one round than in the next.
func New(pages []Page, o Options) (*Plan, error) {
	p := planner{pages: pages, Options: o, uses: map[glyph.Pattern][]int{}, held: map[int]glyph.Pattern{}}
	for i, page := range pages {
		if len(page) > len(o.Slots) {
			return nil, &Conflict{-1, i, len(page), len(o.Slots)}
		}
		for _, g := range page {
			p.uses[g] = append(p.uses[g], i)
		}
	}
	plan := &Plan{Least: true}
	rounds := 1
	if o.Loop && len(pages) > 0 {
		rounds = maxRounds
	}
	var before []map[glyph.Pattern]bool // what was held when a round began
	for round := range rounds {
		held := map[glyph.Pattern]bool{}
		for _, g := range p.held {
			held[g] = true
		}
		if at := slices.IndexFunc(before, func(h map[glyph.Pattern]bool) bool { return maps.Equal(h, held) }); at > 0 {
			plan.Cycle, plan.Rounds = at*len(pages), round-at
			return plan, nil
		}
		before = append(before, held)
		for i := range pages {
			step, err := p.step(round, i)
			if err != nil {
				return nil, err
			}
			plan.Steps = append(plan.Steps, step)
		}
	}
	plan.Cycle = len(plan.Steps)
	if o.Loop && len(pages) > 0 { // it did not come round within what was looked through
		plan.Cycle, plan.Rounds = (maxRounds-1)*len(pages), 1
		plan.Least = false
	}
	return plan, nil
}

// planner goes through the pages.
type planner struct {
	Options
	pages []Page
	uses  map[glyph.Pattern][]int // pages that show a glyph, ascending
	held  map[int]glyph.Pattern   // by slot
}

// before returns the page that is shown before page i of a round; nil at the
// very beginning.
func (p *planner) before(round, i int) (Page, int) {
	switch {
	case i > 0:
		return p.pages[i-1], i - 1
	case round > 0:
		return p.pages[len(p.pages)-1], len(p.pages) - 1
	}
	return nil, -1
}

// wait returns how many pages after page i a glyph is shown again.
func (p *planner) wait(g glyph.Pattern, i int) int {
	uses := p.uses[g]
	at, _ := slices.BinarySearch(uses, i+1)
	switch {
	case at < len(uses):
		return uses[at] - i
	case p.Loop:
		return uses[0] + len(p.pages) - i
	}
	return len(p.pages) + 1
}

// step loads what page i needs.
func (p *planner) step(round, i int) (Step, error) {
	page := p.pages[i]
	before, at := p.before(round, i)
	slotOf := map[glyph.Pattern]int{}
	for slot, g := range p.held {
		slotOf[g] = slot
	}
	var missing []glyph.Pattern
	for _, g := range page {
		if _, ok := slotOf[g]; !ok {
			missing = append(missing, g)
		}
	}
	var open []int // slots without a glyph
	var goes []int // slots whose glyph may go
	for _, slot := range p.Slots {
		g, holds := p.held[slot]
		switch {
		case !holds:
			open = append(open, slot)
		case slices.Contains(page, g) || !p.OnGlass && slices.Contains(before, g):
		default:
			goes = append(goes, slot)
		}
	}
	if short := len(missing) - len(open) - len(goes); short > 0 {
		return Step{}, &Conflict{at, i, len(p.Slots) + short, len(p.Slots)}
	}
	if n := len(missing) - len(open); n > 0 {
		slices.SortStableFunc(goes, func(a, b int) int {
			if d := p.wait(p.held[b], i) - p.wait(p.held[a], i); d != 0 {
				return d
			}
			return shown(before, p.held[a]) - shown(before, p.held[b])
		})
		open = append(open, goes[:n]...)
	}
	slices.Sort(open)
	step := Step{Page: i, Slots: map[glyph.Pattern]int{}}
	for k, g := range missing {
		slot := open[k]
		was, holds := p.held[slot]
		step.Loads = append(step.Loads, Load{slot, g, holds && slices.Contains(before, was)})
		p.held[slot] = g
		slotOf[g] = slot
	}
	for _, g := range page {
		step.Slots[g] = slotOf[g]
	}
	return step, nil
}

// shown is 1 for a glyph of a page.
func shown(page Page, g glyph.Pattern) int {
	if slices.Contains(page, g) {
		return 1
	}
	return 0
}

// Count returns how many glyphs a list of steps loads.
func Count(steps []Step) (n int) {
	for _, s := range steps {
		n += len(s.Loads)
	}
	return n
}
