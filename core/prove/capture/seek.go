package capture

import (
	"cmp"
	"math"
	"slices"
)

// none is what no search lacks.
const none = -1

// seeker looks for the best assignments of channels to RS, R/W and the data lines: all of them, but for those that cannot come near to the best
// (branch and bound).
type seeker struct {
	list     []exchange // what counts most first
	channels []int      // that may be lines
	given    Lines      // that somebody named
	width    int
	missing  int // data line that was not recorded, counted from D7 down; none
	bounds   [][1024]float64
	opening  [][1024]float64     // of what the recording begins with
	among    [8][]int            // by depth: channels that the data line may be
	still    uint64              // channels on which no strobe differs from another
	alike    [MaxChannels]uint64 // of each channel those before it that stand as it does at all strobes; it is tried once they are lines
	used     uint64              // channels that are lines
	known    [][]int             // by depth: of each exchange RS and the known bits; −1 for a read
	worth    [][]float64         // by depth: the highest evidence that each can be with what is known
	now      assignment
	best     float64
	kept     []assignment
}

// inOrder is how much likelier it is that two neighbouring data lines lie on neighbouring channels, as a logarithm (common practice: wires are put on
// in their order).
const inOrder = 0.5

// neighbours is how often an assignment has such.
func (a *assignment) neighbours() (n float64) {
	for i := 1; i < a.width; i++ {
		if a.data[i-1] >= 0 && a.data[i] >= 0 && (a.data[i-1]-a.data[i] == 1 || a.data[i]-a.data[i-1] == 1) {
			n++
		}
	}
	return n
}

// lack is a line that nobody recorded; the zero value is none.
type lack struct {
	rs   bool
	data int // data line, counted from 1 at D7 down; 0 for none
}

// seek returns the likeliest assignments, the best first, without a line that nobody recorded.
func seek(list []exchange, channels []int, given Lines, e, width, from int, least float64, without lack) []assignment {
	s := &seeker{list: slices.Clone(list), channels: channels, given: given, width: width, missing: without.data - 1, best: least, now: assignment{e: e, width: width, from: from}}
	l := limits[width]()
	if s.bounds, s.opening = l.all, l.opening; s.missing != none {
		s.bounds = boundsWithout(width, s.missing)
	}
	s.now.bytes = counted(list)
	for range width + 1 {
		s.known, s.worth = append(s.known, make([]int, len(list))), append(s.worth, make([]float64, len(list)))
	}
	// What counts most comes first: the sooner a channel that cannot be a line is given up.
	slices.SortStableFunc(s.list, func(a, b exchange) int { return cmp.Compare(b.n, a.n) })
	s.compare()
	for depth := range width {
		s.among[depth] = given.among(dataRole(depth), channels)
	}
	selects := given.among("RS", channels)
	if without.rs && given.channel("RS") < 0 {
		selects = []int{-1}
	}
	for _, rs := range selects {
		writes := []int{-1}
		if given.channel("RW") >= 0 {
			writes = nil
		}
		for _, rw := range append(writes, given.among("RW", channels)...) {
			if (rw != rs || rw < 0) && (rw < 0 || s.reads(rw) || given.channel("RW") == rw) {
				s.begin(rs, rw)
			}
		}
	}
	for i := range s.kept {
		s.kept[i].score += inOrder * s.kept[i].neighbours()
	}
	slices.SortFunc(s.kept, func(a, b assignment) int { return cmp.Compare(b.score, a.score) })
	return s.kept
}

// compare finds channels that cannot be told from each other, and those that stand still.
func (s *seeker) compare() {
	for i, c := range s.channels {
		if !slices.ContainsFunc(s.list, func(x exchange) bool {
			return (x.high^s.list[0].high)>>c&1 == 1 || s.width == 4 && (x.low^s.list[0].high)>>c&1 == 1
		}) {
			s.still |= 1 << c
		}
		for _, other := range s.channels[:i] {
			if !s.given.names(c) && !s.given.names(other) && !slices.ContainsFunc(s.list, func(x exchange) bool { return ((x.high>>c^x.high>>other)|(x.low>>c^x.low>>other))&1 == 1 }) {
				s.alike[c] |= 1 << other
			}
		}
	}
}

// reads reports whether a channel is ever high at a strobe, as R/W is where something is read.
func (s *seeker) reads(rw int) bool {
	return slices.ContainsFunc(s.list, func(x exchange) bool { return x.high>>rw&1 == 1 })
}

// taken reports whether a channel cannot be the next data line: it is another line, or one before it that is alike is not.
func (s *seeker) taken(c int) bool { return s.used>>c&1 == 1 || s.alike[c]&^s.used != 0 }

// begin takes RS and R/W as given, and goes on to the data lines.
func (s *seeker) begin(rs, rw int) {
	s.now.rs, s.now.rw = rs, rw
	against := 0.0
	if rs < 0 {
		against = withoutRS
	} else if s.still>>rs&1 == 1 {
		against = stillRS
	}
	for i, x := range s.list {
		if s.known[0][i] = unrecorded; rs >= 0 {
			s.known[0][i] = int(x.high>>rs&1) << 8
			if s.width == 4 && (x.high^x.low)>>rs&1 == 1 {
				against += halvesDiffer * x.n
			}
		}
		if rw >= 0 {
			if x.high>>rw&1 == 1 {
				s.known[0][i] = -1
			}
			if s.width == 4 && (x.high^x.low)>>rw&1 == 1 {
				against += halvesDiffer * x.n
			}
		}
	}
	s.used = 0
	for _, c := range []int{rs, rw} {
		if c >= 0 {
			s.used |= 1 << c
		}
	}
	s.deeper(0, s.weigh(0)-against)
}

// deeper tries all channels for the next data line, from D7 down, where an assignment may have so high a score.
func (s *seeker) deeper(depth int, most float64) {
	if most < s.best-keptMargin {
		return
	}
	if depth == s.width {
		s.keep(most)
		return
	}
	if depth == s.missing {
		s.now.data[depth] = none
		s.deeper(depth+1, s.learn(depth, nowhere, most))
		return
	}
	for _, c := range s.among[depth] {
		if s.taken(c) {
			continue
		}
		from := most
		if s.still>>c&1 == 1 {
			from -= stillLine
		}
		s.now.data[depth] = c
		s.used |= 1 << c
		s.deeper(depth+1, s.learn(depth, c, from))
		s.used &^= 1 << c
	}
}

// nowhere is a channel that carries nothing: shifted by so much, no bit of a strobe is left.
const nowhere = MaxChannels

// learn takes a channel as a data line, by which one bit more of each exchange is known, or two on four lines. It returns what the highest score falls
// to by that, or −∞ as soon as that is too low; the rest is not known then.
func (s *seeker) learn(depth, c int, most float64) float64 {
	low := c
	if s.width == 8 {
		low = nowhere // there is no second half
	}
	known, worth, least := s.known[depth+1], s.worth[depth+1], s.best-keptMargin
	before := s.worth[depth]
	for i, k := range s.known[depth] {
		x := &s.list[i]
		if k >= 0 {
			k |= int(x.high>>c&1)<<(7-depth) | int(x.low>>low&1)<<((3-depth)&7)
		}
		known[i], worth[i] = k, s.evidence(depth+1, k, x)
		if most += worth[i] - before[i]; most < least {
			return math.Inf(-1)
		}
	}
	return most
}

// weigh works out what all exchanges can be with what is known, and returns the sum.
func (s *seeker) weigh(depth int) (sum float64) {
	for i, k := range s.known[depth] {
		s.worth[depth][i] = s.evidence(depth, k, &s.list[i])
		sum += s.worth[depth][i]
	}
	return sum
}

// evidence is the highest that an exchange can be of which so much is known.
func (s *seeker) evidence(depth, known int, x *exchange) float64 {
	if known < 0 {
		return readEvidence * x.n
	}
	if x.opens && s.missing == none {
		return s.bounds[depth][known]*x.n + s.opening[depth][known]
	}
	return s.bounds[depth][known] * x.n
}

func (s *seeker) keep(score float64) {
	s.now.score = score
	s.best = math.Max(s.best, score)
	s.kept = append(s.kept, s.now)
	if len(s.kept) > 4*keptMost {
		slices.SortFunc(s.kept, func(a, b assignment) int { return cmp.Compare(b.score, a.score) })
		s.kept = s.kept[:keptMost]
	}
}
