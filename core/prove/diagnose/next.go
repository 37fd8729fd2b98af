package diagnose

import (
	"cmp"
	"math"
	"slices"

	"slatebell/core/prove/fault"
)

// Proposal is a test with what it would tell.
type Proposal struct {
	Test     *fault.Test
	ByHost   bool    // a host does it by itself: it takes neither a meter nor another program
	Minutes  float64 // what it takes so
	Bits     float64 // information that it gives, as expected
	Branches []Branch
}

// PerMinute is the information for its minutes.
func (p *Proposal) PerMinute() float64 { return p.Bits / p.Minutes }

// Branch is what a test may show.
type Branch struct {
	Outcome fault.Outcome
	Chance  float64
	Causes  []int // indexes into the ranking's causes that show it, likeliest first
}

// atOnce is what a test takes that a host does by itself: a press, and a look (ours).
const atOnce = 0.2

// byHost reports whether a host that has a bridge does a test by itself. A voltage takes a wire, and is no less work than with a meter.
func (f *Finder) byHost(t *fault.Test) bool {
	return f.Hosted && t.Act != "" && t.Act != fault.ActMeasure
}

// least is the information below which a test tells nothing, in bits.
const least = 0.01

// Next lists the tests that tell something, the one with the most information per
// minute first. allow may be nil, and is not asked of tests that a host does by itself; tests whose result is known are left out.
func (f *Finder) Next(r *Ranking, allow func(*fault.Test) bool) ([]Proposal, error) {
	probes := make([]*fault.Probe, len(r.Causes))
	for i, c := range r.Causes {
		probes[i] = f.Index.Probe(&f.Index.Cases[c.Case])
	}
	var out []Proposal
	for i := range f.Index.Tests {
		f.Index.Watch.Tell("Playing what tests would show", i, len(f.Index.Tests))
		t := &f.Index.Tests[i]
		if r.done[t.ID] || allow != nil && !f.byHost(t) && !allow(t) {
			continue
		}
		p, err := f.propose(r, t, probes)
		if err != nil {
			return nil, err
		}
		if p.Bits >= least {
			out = append(out, p)
		}
	}
	slices.SortStableFunc(out, func(a, b Proposal) int { return cmp.Compare(b.PerMinute(), a.PerMinute()) })
	return out, nil
}

// propose works out what a test would show of each cause that is left.
func (f *Finder) propose(r *Ranking, t *fault.Test, probes []*fault.Probe) (Proposal, error) {
	p := Proposal{Test: t, Minutes: t.Minutes}
	if f.byHost(t) {
		p.ByHost, p.Minutes = true, min(t.Minutes, atOnce)
	}
	at := map[fault.Outcome]int{}
	for i := range r.Causes {
		c := &r.Causes[i]
		o, err := probes[i].Observe(t)
		if err != nil {
			return p, err
		}
		b, ok := at[o]
		if !ok {
			b = len(p.Branches)
			at[o] = b
			p.Branches = append(p.Branches, Branch{Outcome: o})
		}
		p.Branches[b].Chance += c.Share
		p.Branches[b].Causes = append(p.Branches[b].Causes, i)
	}
	var total float64
	for i := range p.Branches {
		total += p.Branches[i].Chance
	}
	for i := range p.Branches {
		b := &p.Branches[i]
		b.Chance /= total
		p.Bits -= b.Chance * math.Log2(b.Chance)
	}
	slices.SortStableFunc(p.Branches, func(a, b Branch) int { return cmp.Compare(b.Chance, a.Chance) })
	return p, nil
}

// Sure is the share from which a cause is taken as found.
const Sure = 0.95

// Step is one test of a plan.
type Step struct {
	Test    *fault.Test
	Outcome fault.Outcome
}

// Plan follows the finder's own proposals for a case that one does not know, from what
// is seen at first until a cause is as good as sure or nothing is left that tells
// more. It returns the tests with their outcomes, and the ranking at the end.
func (f *Finder) Plan(s Seen, hidden int) (steps []Step, end *Ranking, err error) {
	s.Results = slices.Clone(s.Results)
	for {
		if end, err = f.Rank(&s); err != nil {
			return nil, nil, err
		}
		if len(end.Causes) > 0 && end.Causes[0].Share >= Sure {
			return steps, end, nil
		}
		next, err := f.Next(end, nil)
		if err != nil || len(next) == 0 {
			return steps, end, err
		}
		t := next[0].Test
		o, err := f.Index.Probe(&f.Index.Cases[hidden]).Observe(t)
		if err != nil {
			return nil, nil, err
		}
		steps = append(steps, Step{t, o})
		s.Results = append(s.Results, Result{Test: t.ID, Outcome: o})
	}
}
