package fault

import (
	"maps"
	"slices"

	"slatebell/core/text/screen"
	"slatebell/core/wire/link"
)

// Wanted is how many cases an index holds at least, where its subject has that many.
const Wanted = 10_000

// twice is how much less often two faults are met at once than one (ours).
const twice = 0.02

// lister gathers the single faults of a subject.
type lister struct {
	x      *Index
	s      *Subject
	layout *screen.Layout
	list   []Fault
}

// add adds a fault at some pins.
func (l *lister) add(code string, args, pins []string, change func(*state)) *Fault {
	f := fault(code, args, change)
	f.Pins = pins
	l.list = append(l.list, f)
	return &l.list[len(l.list)-1]
}

// grouped adds a fault that excludes the others of its group.
func (l *lister) grouped(group, code string, args, pins []string, change func(*state)) *Fault {
	f := l.add(code, args, pins, change)
	f.group = group
	return f
}

// list fills Faults.
func (x *Index) list(layout *screen.Layout, orders bool) {
	l := &lister{x: x, s: x.subject, layout: layout, list: []Fault{fault(Sound, nil, nil)}}
	l.wires(orders)
	l.supply()
	if x.subject.Link.Kind == link.Backpack {
		l.bus()
	}
	if x.subject.Link.Kind == link.ShiftReg {
		l.register()
	}
	l.starts()
	l.places()
	l.glyphs()
	l.traffic()
	l.inputs()
	x.Faults = l.list
}

// Sound is the id of the case in which all is as it ought to be.
const Sound = "sound"

// pair makes the cases: each fault alone, then the likeliest two at once until there
// are enough.
func (x *Index) pair() {
	for i := range x.Faults {
		x.Cases = append(x.Cases, Case{A: int32(i), B: -1, Weight: x.Faults[i].Weight})
	}
	var total float64
	for i := range x.Faults {
		total += x.Faults[i].Weight
	}
	few := len(x.Faults) < Wanted/20 // beyond, there are enough without those that are seldom met with others
	var list []pair
	var classes []class
	of := map[float64]int32{}
	for i := 1; i < len(x.Faults); i++ {
		a := &x.Faults[i]
		for j := i + 1; j < len(x.Faults) && (few || !a.alone); j++ {
			b := &x.Faults[j]
			if b.alone && (a.alone || !few) || a.group != "" && a.group == b.group || overlap(a.Pins, b.Pins) {
				continue
			}
			w := twice * a.Weight * b.Weight / total
			k, ok := of[w]
			if !ok {
				k = int32(len(classes))
				of[w] = k
				classes = append(classes, class{weight: w})
			}
			classes[k].many++
			list = append(list, pair{int32(i), int32(j), k})
		}
	}
	first := len(x.Cases)
	last := first + min(len(list), max(Wanted+Wanted/20-first, Wanted/4))
	x.Cases = slices.Grow(x.Cases, last-first)[:last]
	for _, w := range slices.Backward(slices.Sorted(maps.Keys(of))) {
		k := &classes[of[w]]
		k.next, k.end = first, min(first+k.many, last)
		first = k.end
	}
	for _, p := range list {
		if k := &classes[p.class]; k.next < k.end {
			x.Cases[k.next] = Case{A: p.a, B: p.b, Weight: k.weight}
			k.next++
		}
	}
}

// pair is two faults at once.
type pair struct {
	a, b  int32 // indexes into Faults
	class int32
}

// class is all pairs of one weight, of which few differ.
type class struct {
	weight    float64
	many      int
	next, end int // where its next case stands, and behind its last one
}

// overlap reports whether two lists of pins share one.
func overlap(a, b []string) bool {
	return slices.ContainsFunc(a, func(p string) bool { return slices.Contains(b, p) })
}
