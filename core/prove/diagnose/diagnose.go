// Package diagnose finds causes from what is seen: it weighs every case of a fault
// index by how often it is met and by how well it explains what a maker sees, types
// and measures, and proposes the test that tells most about what is left for its
// minutes.
//
// It stands above fault, which simulates the cases, and below what asks: the page, the
// command line, and rounds of practice.
package diagnose

import (
	"cmp"
	"fmt"
	"math/bits"
	"slices"

	"slatebell/core/part/i2cbus"
	"slatebell/core/prove/fault"
	"slatebell/core/wire/glass"
)

// Seen is what is known of a glass. What was not said has its zero value.
type Seen struct {
	Class   glass.Class // what one would call it
	Pattern Pattern     // how it differs from what was sent
	Typed   []string    // what stands on the glass, row by row; nil where nothing was typed
	Read    []Read      // of each cell, what a photograph says in place of what was typed; nil where there is none
	Wrong   []int       // cells that are not as they ought to be, row by row; nil where none was pointed at
	Light   *bool       // lit from behind
	Results []Result    // of tests
}

// Result is what a test showed.
type Result struct {
	Test    string
	Outcome fault.Outcome
	Key     string           // in place of Outcome: its key, as Index.Key gives it
	MV      *int             // in place of Outcome: what was measured, in millivolts, for tests that read a voltage
	Scanned []i2cbus.Address // in place of Outcome: of a scan, which addresses answer; empty but not nil for none
	Read    []Read           // in place of Outcome: what a photograph says of each cell, for tests that one looks at the glass for
}

// Read is what a photograph says of a cell: the likeliest code and the next, each with how likely it is, 0–1. With Sure 0 it says nothing.
type Read struct {
	Code byte
	Sure float64
	Next byte
	Also float64
}

// Finder weighs the cases of an index.
type Finder struct {
	Index  *fault.Index
	Hosted bool      // a host with a bridge does what it can by itself
	prior  []float64 // of each case
	found  map[string]int
	tests  map[string]*fault.Test
	kinds  []Pattern // of each view that was asked for, by its index; "" where it was not
}

// New returns a finder. found counts the causes that were found before, by their
// codes: each counts as much as what is met usually.
func New(x *fault.Index, found map[string]int) *Finder {
	f := &Finder{Index: x, found: found, prior: make([]float64, len(x.Cases)), tests: map[string]*fault.Test{}}
	factor := make([]float64, len(x.Faults))
	for i := range x.Faults {
		factor[i] = 1 + float64(found[x.Faults[i].Code])
	}
	var total float64
	for i, c := range x.Cases {
		w := c.Weight * factor[c.A]
		if c.B >= 0 {
			w *= factor[c.B]
		}
		f.prior[i] = w
		total += w
	}
	for i := range f.prior {
		f.prior[i] /= total
	}
	for i := range x.Tests {
		f.tests[x.Tests[i].ID] = &x.Tests[i]
	}
	return f
}

// Test returns a test by its id.
func (f *Finder) Test(id string) (*fault.Test, bool) {
	t, ok := f.tests[id]
	return t, ok
}

// Cause is one case with how likely it is.
type Cause struct {
	Case     int     // index into the index's cases
	Share    float64 // of all that is possible, 0–1
	Explains float64 // part of the cells that matter which it would show so, 0–1
}

// Ranking is what is left, the likeliest first.
type Ranking struct {
	Causes []Cause // those that make up nearly all
	done   map[string]bool
}

// How likely it is that somebody says what a case does not show (ours): one looks
// away, types a wrong letter, reads a meter badly.
const (
	misseen    = 0.002 // a class
	halfSeen   = 0.1   // blank for faint, or faint for plain
	misread    = 0.001 // a test
	stranger   = 0.02  // an address answers that no part of the bench has
	otherSign  = 0.003 // a character
	inventSign = 3e-4  // a character where none is
	nearSign   = 0.04  // a character that looks much alike
	sameSign   = 0.98
	untyped    = 0.3  // characters of which it is said that they cannot be typed
	anySign    = 0.05 // of a cell that may hold anything: a character
	noSign     = 0.97 // and that it holds nothing
	unsaid     = 0.2  // faint characters that are typed, and not called faint
	mispointed = 0.05 // a cell
)

// excluded is how much less likely than the first a case is that is looked at no more.
const excluded = 1e-5

// most is how many causes a ranking keeps.
const most = 600

// Rank weighs all cases. Its error says what of what was seen cannot be.
func (f *Finder) Rank(s *Seen) (*Ranking, error) {
	x := f.Index
	weight := slices.Clone(f.prior)
	typed, err := f.typed(s.Typed)
	if err != nil {
		return nil, err
	}
	if typed, err = f.read(typed, s.Read); err != nil {
		return nil, err
	}
	l := &likelihood{f: f, seen: s, typed: typed, blank: blank(typed), views: map[viewLoose]float64{}}
	for i := range x.Cases {
		weight[i] *= l.of(&x.Cases[i])
	}
	r := &Ranking{done: map[string]bool{}}
	for _, res := range s.Results {
		t, ok := f.tests[res.Test]
		if !ok {
			return nil, fmt.Errorf("test %q; this module has %s", res.Test, f.testIDs())
		}
		r.done[res.Test] = true
		if err := f.weigh(weight, t, &res); err != nil {
			return nil, err
		}
	}
	var total float64
	order := make([]int, 0, len(weight))
	for i, w := range weight {
		total += w
		if w > 0 {
			order = append(order, i)
		}
	}
	slices.SortStableFunc(order, func(a, b int) int { return cmp.Compare(weight[b], weight[a]) })
	sum := 0.0
	for _, i := range order[:min(len(order), most)] {
		if sum > 0.9999*total {
			break
		}
		sum += weight[i]
		r.Causes = append(r.Causes, Cause{Case: i, Share: weight[i] / total, Explains: l.explains(&x.Cases[i])})
	}
	return r, nil
}

// doubtful is the part of what was typed below which nothing explains it well.
const doubtful = 0.8

// Doubt says that no case shows what was typed, or "".
func (r *Ranking) Doubt(s *Seen) string {
	if s.Typed == nil || len(r.Causes) == 0 || r.Causes[0].Explains >= doubtful {
		return ""
	}
	return "No fault of the catalogue shows this. Look whether each character was typed as it stands; the nearest are listed."
}

// weigh takes the result of a test into account. Cases that are as good as excluded
// are not simulated any more.
func (f *Finder) weigh(weight []float64, t *fault.Test, res *Result) error {
	top := slices.Max(weight)
	photo, err := f.read(nil, res.Read)
	if err != nil {
		return err
	}
	for i := range weight {
		if weight[i] < excluded*top {
			weight[i] = 0
			continue
		}
		o, err := f.Index.Probe(&f.Index.Cases[i]).Observe(t)
		if err != nil {
			return err
		}
		if photo != nil {
			weight[i] *= f.photographed(o, photo, f.Index.Loose(&f.Index.Cases[i]))
		} else if res.Scanned != nil {
			weight[i] *= f.scanned(o, res.Scanned)
		} else if !f.agrees(o, res) {
			weight[i] *= misread
		}
	}
	return nil
}

// photographed is how likely a glass is read so as an outcome shows it.
func (f *Finder) photographed(o fault.Outcome, photo []character, loose bool) float64 {
	v, ok := f.Index.ViewOf(o)
	if !ok {
		return misread
	}
	return shows(v, photo, loose)
}

// scanned is how likely a scan is, address by address: one more part on the real bus than on the
// bench makes no two causes alike.
func (f *Finder) scanned(o fault.Outcome, found []i2cbus.Address) float64 {
	answers, _ := f.Index.Answers(o)
	likely := 1.0
	for _, a := range answers {
		if !slices.Contains(found, a) {
			likely *= misread
		}
	}
	for _, a := range found {
		if !slices.Contains(answers, a) {
			likely *= stranger
		}
	}
	return likely
}

// agrees reports whether a test's result is what a case shows.
func (f *Finder) agrees(o fault.Outcome, res *Result) bool {
	switch {
	case res.Key != "":
		return f.Index.Key(o) == res.Key
	case res.MV == nil:
		return o == res.Outcome
	}
	const near = 250
	mv, ok := f.Index.MilliVolts(o)
	return ok && mv-*res.MV <= near && *res.MV-mv <= near
}

func (f *Finder) testIDs() string {
	out := ""
	for i := range f.Index.Tests {
		if i > 0 {
			out += ", "
		}
		out += f.Index.Tests[i].ID
	}
	return out
}

// likelihood is how likely it is that what was seen is seen of a view.
type likelihood struct {
	f     *Finder
	seen  *Seen
	typed []character
	blank bool // nothing was typed but blanks
	views map[viewLoose]float64
}

type viewLoose struct {
	view  int32
	loose bool
}

func (l *likelihood) of(c *fault.Case) float64 {
	loose := l.f.Index.Loose(c)
	k := viewLoose{c.View, loose}
	p, ok := l.views[k]
	if !ok {
		p = l.view(c.View, loose)
		l.views[k] = p
	}
	return p
}

func (l *likelihood) view(at int32, loose bool) float64 {
	v := l.f.Index.View(at)
	p := 1.0
	if s := l.seen; s.Class != "" {
		p *= alike(v.Class(), s.Class)
	}
	if l.seen.Pattern != "" && l.f.pattern(at) != l.seen.Pattern {
		p *= misseen
	}
	if l.seen.Light != nil && *l.seen.Light != v.Light {
		p *= misseen
	}
	if l.typed != nil {
		if v.Class() == glass.Faint && !l.blank && l.seen.Class == "" {
			p *= unsaid
		}
		p *= shows(v, l.typed, loose)
	}
	if l.seen.Wrong != nil {
		sound := l.f.Index.View(0)
		for i, c := range v.Cells {
			if (c.Dots() != sound.Cells[i].Dots() || c.Shade() != sound.Cells[i].Shade()) != slices.Contains(l.seen.Wrong, i) {
				p *= mispointed
			}
		}
	}
	return p
}

// shows is how likely the cells of a view are seen as characters.
func shows(v *glass.View, seen []character, loose bool) float64 {
	p := 1.0
	if (v.Class() == glass.Blank) != blank(seen) {
		p = misseen
	}
	for i, c := range v.Cells {
		p *= seen[i].fits(c, loose)
	}
	return p
}

// explains is the part of the cells that matter which a case shows as they were seen.
func (l *likelihood) explains(c *fault.Case) float64 {
	v := l.f.Index.View(c.View)
	sound := l.f.Index.View(0)
	right, all := 0, 0
	for i, cell := range v.Cells {
		switch {
		case l.typed != nil:
			if l.typed[i].blank() && cell == 0 && sound.Cells[i] == 0 {
				continue
			}
			all++
			if l.typed[i].fits(cell, l.f.Index.Loose(c)) >= anySign {
				right++
			}
		case l.seen.Wrong != nil:
			all++
			if (cell != sound.Cells[i]) == slices.Contains(l.seen.Wrong, i) {
				right++
			}
		}
	}
	if all > 0 {
		return float64(right) / float64(all)
	}
	if l.of(c) >= halfSeen {
		return 1
	}
	return 0
}

// alike is how likely a glass of one class is called another.
func alike(is, said glass.Class) float64 {
	switch {
	case is == said:
		return 1
	case is == glass.Faint && (said == glass.Blank || said == glass.Characters):
		return halfSeen
	case is == glass.Shaded && (said == glass.AllBlocks || said == glass.Characters):
		return halfSeen
	}
	return misseen
}

// character is what was typed for a cell.
type character struct {
	dots         []glass.Cell // each of which it may be
	block, other bool         // a block; dots that cannot be typed
	next         *character   // what it is as well, of a photograph
	sure, also   float64      // of a photograph, how likely this and that is; 0 where it was typed
}

func (s *character) blank() bool { return len(s.dots) == 1 && s.dots[0] == 0 }

// blank reports whether nothing stands in all cells.
func blank(seen []character) bool {
	return !slices.ContainsFunc(seen, func(s character) bool { return !s.blank() })
}

// fits is how likely a cell is seen as the character; of a photograph by how sure its readings are.
func (s *character) fits(c glass.Cell, loose bool) float64 {
	if s.next == nil {
		return s.typed(c, loose)
	}
	rest := character{other: true}
	return s.sure*s.typed(c, loose) + s.also*s.next.typed(c, loose) + max(0, 1-s.sure-s.also)*rest.typed(c, loose)
}

// typed is how likely a cell is typed as the character.
func (s *character) typed(c glass.Cell, loose bool) float64 {
	d := c.Dots()
	switch {
	case loose && d == fillerDots && s.blank():
		return noSign
	case loose && d == fillerDots:
		return anySign
	case s.block:
		if d == 0 && c.Shade() != 0 || d&allLit == allLit {
			return sameSign
		}
		return otherSign
	case s.other:
		if d != 0 {
			return untyped
		}
		return inventSign
	case s.blank() && d == 0 && c.Shade() == glass.Dark:
		return nearSign
	case d == 0 && c.Shade() != 0 && !s.blank():
		return otherSign
	case d == 0 && !s.blank():
		return inventSign
	}
	best := otherSign
	for _, want := range s.dots {
		if want == d || want == c.Bare() {
			return sameSign
		}
		if n := bits.OnesCount64(uint64(want ^ d)); n <= 3 && want != 0 && d != 0 {
			best = nearSign
		}
	}
	return best
}

// allLit is a cell of which all seven rows above the cursor's are lit.
const allLit glass.Cell = 1<<35 - 1
