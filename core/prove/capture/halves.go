package capture

import "slices"

// Half is what one strobe takes on four lines: half of a byte.
type Half struct {
	Bits      byte // of D7 to D4
	RS, Reads bool
}

// Of halves that belong together, as logarithms (ours): what counts against a half that stands alone, and against two that differ in RS or R/W.
const aloneCosts, differCosts = 24, 12

// Alone are the halves that belong to no byte, by what the bytes then mean: of all ways to put neighbours together the likeliest.
func Alone(list []Half) (out []int) {
	best := make([]float64, len(list)+1)
	pairs := make([]bool, len(list)+1)
	for i := 1; i <= len(list); i++ {
		best[i] = best[i-1] - aloneCosts
		if i < 2 {
			continue
		}
		a, b := &list[i-2], &list[i-1]
		of := 0.0
		if !a.Reads && !b.Reads {
			of = Evidence(4, a.RS, a.Bits<<4|b.Bits)
		}
		if a.RS != b.RS || a.Reads != b.Reads {
			of -= differCosts
		}
		if v := best[i-2] + of; v > best[i] {
			best[i], pairs[i] = v, true
		}
	}
	for i := len(list); i > 0; {
		if pairs[i] {
			i -= 2
			continue
		}
		i--
		out = append(out, i)
	}
	slices.Reverse(out)
	return out
}

// half is what a strobe takes by an assignment.
func (a *assignment) half(s strobe) (h Half) {
	for i, c := range a.data[:4] {
		if c < 0 {
			continue
		}
		h.Bits |= byte(s>>c&1) << (3 - i)
	}
	h.RS = a.rs >= 0 && s>>a.rs&1 == 1
	h.Reads = a.rw >= 0 && s>>a.rw&1 == 1
	return h
}

// through follows an assignment on four lines through all strobes, also where the halves of bytes come out of step, and weighs it by the bytes that
// are whole.
func (a *assignment) through(strobes []strobe) {
	list := make([]Half, len(strobes))
	for i, s := range strobes {
		list[i] = a.half(s)
	}
	stand := Alone(list)
	var whole tally
	for i, k := 0, 0; i+1 < len(strobes); {
		if k < len(stand) && stand[k] == i {
			i, k = i+1, k+1
			continue
		}
		whole.add(strobes[i], strobes[i+1])
		i += 2
	}
	of := whole.weighed()
	a.from = 0
	if len(stand) > 0 && stand[0] == 0 {
		a.from = 1
	}
	a.weigh(of)
	a.score -= aloneCosts * float64(len(stand)-a.from)
	a.score += inOrder * a.neighbours()
	for i, c := range append([]int{a.rs}, a.data[:4]...) {
		switch still := stands(strobes, c); {
		case still && i == 0:
			a.score -= stillRS
		case still:
			a.score -= stillLine
		}
	}
}

// weigh makes of exchanges what they say of an assignment.
func (a *assignment) weigh(list []exchange) {
	a.bytes, a.score = counted(list), 0
	for _, x := range list {
		b, reads, differ := a.byteOf(x)
		switch {
		case differ:
			a.score -= halvesDiffer * x.n
		case reads:
			a.score += readEvidence * x.n
		default:
			a.score += evidence[a.width][b] * x.n
		}
	}
}

// byteOf is what an exchange carries, with RS as bit 8; differ says that its halves differ in RS or R/W.
func (a *assignment) byteOf(x exchange) (b int, reads, differ bool) {
	if a.width == 4 {
		high, low := a.half(x.high), a.half(x.low)
		b = int(high.Bits)<<4 | int(low.Bits)
		if high.RS {
			b |= 0x100
		}
		return b, high.Reads, high.RS != low.RS || high.Reads != low.Reads
	}
	for i, c := range a.data {
		b |= int(x.high>>c&1) << (7 - i)
	}
	if a.rs >= 0 {
		b |= int(x.high>>a.rs&1) << 8
	}
	return b, a.rw >= 0 && x.high>>a.rw&1 == 1, false
}

// stands reports whether a channel is alike at all strobes.
func stands(strobes []strobe, channel int) bool {
	return !slices.ContainsFunc(strobes, func(s strobe) bool { return (s^strobes[0])>>channel&1 == 1 })
}

// Of recordings whose halves come out of step (ours): the parts of the strobes in which lines are sought, in quarters, and how many of the best are
// followed through all.
var (
	partsOf     = [][2]int{{0, 2}, {2, 4}, {1, 3}, {0, 1}, {3, 4}}
	followedFew = 4
)

// outOfStepGain is how much likelier traffic must be by halves that come out of step than without, as a logarithm (ours).
const outOfStepGain = 10

// outOfStep are the likeliest assignments on four lines where a strobe is missing, or one is too many: they are sought in parts of the strobes.
func outOfStep(strobes []strobe, others []int, given Lines, e int, least float64) (best []assignment) {
	for _, part := range partsOf {
		some := strobes[len(strobes)*part[0]/4 : len(strobes)*part[1]/4]
		if len(some) < 2*strobesLeast {
			continue
		}
		for from := range 2 {
			got := seek(exchanges(some, 4, from), others, given, e, 4, from, 0, lack{})
			for _, a := range got[:min(len(got), followedFew)] {
				if a.through(strobes); a.beyondChance() > least+outOfStepGain {
					best = append(best, a)
				}
			}
		}
	}
	return best
}
