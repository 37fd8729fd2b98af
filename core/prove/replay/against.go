package replay

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"time"

	"slatebell/core/bench"
	"slatebell/core/finding"
	"slatebell/core/prove/capture"
	"slatebell/core/prove/fault"
	"slatebell/core/prove/run"
	"slatebell/core/prove/testbed"
	"slatebell/core/say"
	"slatebell/core/wire/link"
	"slatebell/core/wire/rig"
	"slatebell/core/wire/sequence"
	"slatebell/core/wire/wave"
)

// Pair is an operation of a program beside one of the recording, by their indexes; −1 where there is none. Both with different bytes: it was changed.
type Pair struct{ Program, Recorded int }

// Cause is what explains how a recording differs from a program.
type Cause struct {
	Fault    fault.Fault // the first of the catalogue, sound, is none
	Share    float64     // of all that explain it, 0–1
	Distance int         // operations that differ still, and kinds of broken limits
}

// Comparison is a recording beside the program that a bench sends.
type Comparison struct {
	Screen  int         // of the module, to which it is nearest
	Program []Operation // of that, with their times as it is sent
	Pairs   []Pair
	First   int // pair in which they differ first; −1 where they do not
	Before  int // operations of the program that come before the recording begins
	After   int // operations that were recorded after the program's last
	Missing int
	Added   int
	Changed int
	Causes  []Cause // the likeliest first

	replay *Replay
	kind   link.Kind // of the bench
}

// Of comparing (ours): how far two lists may differ, how much likelier a cause is by each operation that it explains, how many such a broken limit
// counts for, and how many causes are told.
const (
	mostEdits    = 800
	eachEdit     = 5.0
	eachLimit    = 4
	mostCauses   = 8
	beyondShares = 0.005
)

// Against holds the recording against what a module of a bench is sent for each of its screens, and finds which of them it is nearest to, where it
// differs, and which fault of the catalogue explains that. Its error is a bench.Problem where the module cannot be run.
func (r *Replay) Against(b *bench.Bench, module int) (*Comparison, error) {
	var subjects []*fault.Subject
	for screen := range b.Modules[module].Screens {
		s, err := run.SubjectOf(b, testbed.At{Module: module, Screen: screen})
		if err != nil {
			return nil, err
		}
		subjects = append(subjects, s)
	}
	return r.against(subjects)
}

func (r *Replay) against(subjects []*fault.Subject) (*Comparison, error) {
	var best *Comparison
	least := math.MaxInt
	for i, s := range subjects {
		c, err := r.beside(s, i)
		if err != nil {
			return nil, err
		}
		if d := c.Missing + c.Added + c.Changed; d < least {
			best, least = c, d
		}
	}
	if best == nil {
		return nil, fmt.Errorf("comparing a recording: the module has no screen")
	}
	return best, best.explain(subjects[best.Screen])
}

// beside aligns the recording with the program of a subject as it ought to be.
func (r *Replay) beside(s *fault.Subject, screen int) (*Comparison, error) {
	made, err := fault.Make(s, fault.Sound)
	if err != nil {
		return nil, fmt.Errorf("comparing a recording: %w", err)
	}
	sound, err := recordingOf(made, s)
	if err != nil {
		return nil, err
	}
	c := &Comparison{Screen: screen, Program: sound.Operations, First: -1, replay: r, kind: s.Link.Kind}
	c.align()
	return c, nil
}

// recordingOf is what a recording of a subject's program would show, with what was made of it: somebody knows the lines.
func recordingOf(made *fault.Made, s *fault.Subject) (*Replay, error) {
	l := made.Program.Coder.Link()
	trace := wave.Draw(made.Program, 0, len(made.Program.Steps), made.Hardware)
	drawn := capture.Drawn(&trace, trace.Signals...)
	lines := capture.Lines{}
	for i, name := range trace.Signals {
		lines[capture.Role(name)] = i
	}
	f := &capture.Found{Lines: lines, Kind: l.Kind, Mapping: l.Mapping, Address: l.Address}
	out, err := NewReplay(f, s.Module, drawn.List)
	if err != nil {
		return nil, err
	}
	return out, out.Play(drawn.Source(), -1)
}

// same reports whether two operations are.
func same(a, b *Operation) bool { return a.Operation == b.Operation && a.Enable == b.Enable }

// recorded are the operations that are compared with a program: no more than may still belong to it.
func (r *Replay) recorded(program int) []Operation {
	return r.Operations[:min(len(r.Operations), program+mostEdits)]
}

// align pairs the program's operations with the recorded ones so that as few as can be are missing or added.
func (c *Comparison) align() {
	a, b := c.Program, c.replay.recorded(len(c.Program))
	pairs := shortest(len(a), len(b), func(i, j int) bool { return same(&a[i], &b[j]) })
	// What comes after the program's last operation is no difference, nor what comes before a recording that begins later.
	last := -1
	for i, p := range pairs {
		if p.Program >= 0 && p.Recorded >= 0 {
			last = i
		}
	}
	for i := len(pairs) - 1; i > last && pairs[i].Program < 0; i-- {
		pairs = pairs[:i]
	}
	for _, p := range pairs {
		if p.Recorded >= c.After {
			c.After = p.Recorded + 1
		}
	}
	c.After = len(c.replay.Operations) - c.After
	for c.replay.Within && len(pairs) > 0 && pairs[0].Recorded < 0 {
		pairs = pairs[1:]
		c.Before++
	}
	c.Pairs = changed(pairs)
	for i, p := range c.Pairs {
		switch c.Kind(p) {
		case Missing:
			c.Missing++
		case Added:
			c.Added++
		case Changed:
			c.Changed++
		default:
			continue
		}
		if c.First < 0 {
			c.First = i
		}
	}
}

// How the operations of a pair stand to each other.
const (
	Same    = "same"
	Missing = "missing" // the program's was not recorded
	Added   = "added"   // the program does not send what was recorded
	Changed = "changed"
)

// Kind is how a pair's operations stand to each other.
func (c *Comparison) Kind(p Pair) string {
	switch {
	case p.Recorded < 0:
		return Missing
	case p.Program < 0:
		return Added
	case !same(&c.Program[p.Program], &c.replay.Operations[p.Recorded]):
		return Changed
	}
	return Same
}

// changed joins operations that are missing with as many that were added in their place.
func changed(pairs []Pair) (out []Pair) {
	for i := 0; i < len(pairs); {
		var missing, added []int
		for ; i < len(pairs) && (pairs[i].Program < 0 || pairs[i].Recorded < 0); i++ {
			if pairs[i].Recorded < 0 {
				missing = append(missing, pairs[i].Program)
			} else {
				added = append(added, pairs[i].Recorded)
			}
		}
		for k := range max(len(missing), len(added)) {
			p := Pair{-1, -1}
			if k < len(missing) {
				p.Program = missing[k]
			}
			if k < len(added) {
				p.Recorded = added[k]
			}
			out = append(out, p)
		}
		if i < len(pairs) {
			out = append(out, pairs[i])
			i++
		}
	}
	return out
}

// shortest is the alignment of two lists with the fewest that stand alone (E. W. Myers, "An O(ND) difference algorithm and its variations",
// Algorithmica 1, 1986). Lists that differ by more than mostEdits are paired one by one from there on.
func shortest(n, m int, same func(i, j int) bool) (out []Pair) {
	most := min(n+m, mostEdits)
	width := 2*most + 1
	reach := make([]int, width+1) // the furthest in the first list, by diagonal
	var steps [][]int
	found := false
	for d := 0; d <= most && !found; d++ {
		for k := -d; k <= d; k += 2 {
			at := k + most
			i := 0
			switch {
			case d == 0:
			case k == -d || k != d && reach[at-1] < reach[at+1]:
				i = reach[at+1]
			default:
				i = reach[at-1] + 1
			}
			for i < n && i-k < m && i-k >= 0 && same(i, i-k) {
				i++
			}
			reach[at] = i
			if k == n-m && i >= n {
				found = true
				break
			}
		}
		steps = append(steps, slices.Clone(reach[most-d:most+d+1]))
	}
	i, j := n, m
	if !found { // too far apart
		for k := range max(n, m) {
			p := Pair{-1, -1}
			if k < n {
				p.Program = k
			}
			if k < m {
				p.Recorded = k
			}
			out = append(out, p)
		}
		return out
	}
	for d := len(steps) - 1; d > 0; d-- {
		before := steps[d-1] // by k + d − 1
		at := func(k int) int {
			if k < -(d-1) || k > d-1 {
				return -1
			}
			return before[k+d-1]
		}
		k := i - j
		down := k == -d || k != d && at(k-1) < at(k+1)
		was := k - 1
		if down {
			was = k + 1
		}
		x := at(was)
		y := x - was
		from, edit := x+1, Pair{x, -1} // where the run of same ones begins, after what stands alone
		if down {
			from, edit = x, Pair{-1, y}
		}
		for i > from {
			i, j = i-1, j-1
			out = append(out, Pair{i, j})
		}
		out = append(out, edit)
		i, j = x, y
	}
	for i > 0 && j > 0 {
		i, j = i-1, j-1
		out = append(out, Pair{i, j})
	}
	slices.Reverse(out)
	return out
}

// apart is in how much a recording differs from another: operations that are missing or added, and kinds of limits that only one of them breaks.
func (r *Replay) apart(of *Replay) int {
	c := Comparison{Program: of.Operations, First: -1, replay: r}
	c.align()
	d := c.Missing + c.Added + c.Changed
	a, b := r.broken(), of.broken()
	for k := range a {
		if a[k] != b[k] {
			d += eachLimit
		}
	}
	return d
}

// broken says which kinds of limits are broken; the last is an acknowledge that is missing.
func (r *Replay) broken() (out [16]bool) {
	for _, v := range r.Violations() {
		out[v.Kind] = true
	}
	out[15] = r.Refused > 0
	return out
}

// explain weighs the faults of the catalogue by how near a recording of each would be to this one.
func (c *Comparison) explain(s *fault.Subject) error {
	x, err := fault.Listed(s)
	if err != nil {
		return fmt.Errorf("comparing a recording: %w", err)
	}
	type sent struct { // what a recording of a bus or a register depends on
		program *sequence.Program
		noAck   bool
	}
	known, all := map[sent]int{}, 0.0
	for i := range x.Faults {
		made, err := x.Made(&fault.Case{A: int32(i), B: -1})
		if err != nil {
			continue // it cannot be sent at all
		}
		key := sent{made.Program, made.Hardware.NoAck}
		distance, seen := known[key]
		if !seen || !s.Link.Expander() {
			other, err := recordingOf(made, s)
			if err != nil {
				continue
			}
			distance = c.replay.apart(other)
			known[key] = distance
		}
		c.Causes = append(c.Causes, Cause{Fault: x.Faults[i], Distance: distance})
	}
	least := math.MaxInt
	for i := range c.Causes {
		least = min(least, c.Causes[i].Distance)
	}
	for i := range c.Causes {
		one := &c.Causes[i]
		one.Share = one.Fault.Weight * math.Exp(-eachEdit*float64(one.Distance-least))
		all += one.Share
	}
	for i := range c.Causes {
		c.Causes[i].Share /= all
	}
	slices.SortStableFunc(c.Causes, func(a, b Cause) int { return cmp.Compare(b.Share, a.Share) })
	if n := slices.IndexFunc(c.Causes, func(one Cause) bool { return one.Share < beyondShares }); n >= 0 {
		c.Causes = c.Causes[:n]
	}
	c.Causes = c.Causes[:min(len(c.Causes), mostCauses)]
	return nil
}

// FirstAt is when they differ first, of the recording; false where they do not, or what is missing comes after its end.
func (c *Comparison) FirstAt() (at time.Duration, ok bool) {
	if c.First < 0 {
		return 0, false
	}
	for _, p := range c.Pairs[c.First:] {
		if p.Recorded >= 0 {
			return c.replay.Operations[p.Recorded].At, true
		}
	}
	return 0, false
}

// Says is what an operation of the program or of the recording means to the module.
func (c *Comparison) Says(op *Operation) string { return c.replay.Says(op) }

// Findings says where they differ first, and why that may be.
func (c *Comparison) Findings() (out []finding.Finding) {
	if c.kind != c.replay.found.Kind {
		out = append(out, finding.Finding{
			Code: "capture.other-link", Severity: finding.Note, What: fmt.Sprintf("Recorded is a module on %s; on the bench it is on %s.", named[c.replay.found.Kind], named[c.kind]),
			Fix: "Change the module's link, or choose the module that was recorded.",
		})
	}
	f := finding.Finding{Code: "capture.as-sent", Severity: finding.Note}
	if len(c.Causes) > 0 && c.Causes[0].Fault.ID != fault.Sound {
		f.Why = fmt.Sprintf("Likeliest, by %.0f %%: %s", 100*c.Causes[0].Share, c.Causes[0].Fault.What())
		f.Fix = c.Causes[0].Fault.Fix()
	}
	if c.First < 0 {
		f.What = fmt.Sprintf("The recording holds the %d %s that the bench's program sends, and no other.", len(c.Pairs), say.Plural(len(c.Pairs), "operation"))
		if f.Why != "" {
			f.What = fmt.Sprintf("The recording holds the %d %s that the bench's program sends, but not as it sends them: other limits are broken, or other bytes refused.", len(c.Pairs), say.Plural(len(c.Pairs), "operation"))
		}
		return append(out, f)
	}
	p := c.Pairs[c.First]
	f.Code = "capture.differs"
	when, seen := c.FirstAt()
	if seen {
		f = at(when, f)
	}
	what := ""
	switch {
	case p.Recorded < 0:
		what = fmt.Sprintf("%q is missing", c.Says(&c.Program[p.Program]))
	case p.Program < 0:
		what = fmt.Sprintf("%q was added at %s", c.Says(&c.replay.Operations[p.Recorded]), rig.Duration(when))
	default:
		what = fmt.Sprintf("in place of %q came %q at %s", c.Says(&c.Program[p.Program]), c.Says(&c.replay.Operations[p.Recorded]), rig.Duration(when))
	}
	f.What = fmt.Sprintf("The recording differs from the bench's program: first %s. Of %d operations %d are missing and %d changed, %d were added.", what, len(c.Program), c.Missing, c.Changed, c.Added)
	return append(out, f)
}

// named are links in words.
var named = map[link.Kind]string{link.Backpack: "an I²C backpack", link.ShiftReg: "a shift register", link.Parallel4: "four data lines", link.Parallel8: "eight data lines"}
