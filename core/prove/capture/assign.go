package capture

import (
	"cmp"
	"math"
	"math/bits"
	"slices"
	"sync"
)

// strobe is what stands on all channels when E falls.
type strobe = uint64

// exchange is a byte as it stands on the channels: both its halves on four lines, the first alone on eight; and how much it counts by how
// often it comes.
type exchange struct {
	high, low strobe
	n         float64
	opens     bool // the recording begins with it, several times over
}

// exchanges puts strobes together: two by two on four lines, beginning with one of them, or one by one. What comes again and again
// says less each time: lines that are no module's repeat themselves too.
func exchanges(list []strobe, width, from int) []exchange {
	var out tally
	step := 8 / width
	for i := from; i+step <= len(list); i += step {
		if step == 2 {
			out.add(list[i], list[i+1])
		} else {
			out.add(list[i], 0)
		}
	}
	if from == 0 && len(list) > 2 && list[0] == list[1] && list[1] == list[2] {
		out.list[0].opens = true
	}
	return out.weighed()
}

// tally counts exchanges, in the order in which they come first.
type tally struct {
	list []exchange
	at   map[[2]strobe]int
}

func (t *tally) add(high, low strobe) {
	k := [2]strobe{high, low}
	if n, ok := t.at[k]; ok {
		t.list[n].n++
		return
	}
	if t.at == nil {
		t.at = map[[2]strobe]int{}
	}
	t.at[k] = len(t.list)
	t.list = append(t.list, exchange{high: high, low: low, n: 1})
}

// weighed makes of how often exchanges come how much they count.
func (t *tally) weighed() []exchange {
	for i := range t.list {
		t.list[i].n = oftenCounts(int(t.list[i].n))
	}
	return t.list
}

// oftenCounts is how much something counts that comes so often.
func oftenCounts(n int) float64 { return 1 + math.Log(float64(n)) }

// counted is how much all exchanges count.
func counted(list []exchange) (n float64) {
	for _, x := range list {
		n += x.n
	}
	return n
}

// assignment says which channel is which line, by what the traffic then means.
type assignment struct {
	e, rs, rw int // rs and rw are −1 where none was found
	data      [8]int
	width     int
	from      int     // strobes before the first whole byte
	bytes     float64 // how many
	framed    float64 // what the pulses of E say of it
	score     float64 // how much likelier the traffic is than noise, as a logarithm
}

// What counts against an exchange whose halves differ in RS or R/W, as a logarithm; and up to how much less likely assignments are kept beside the
// best, and how many (ours).
const (
	halvesDiffer = 8
	keptMargin   = 9
	keptMost     = 64
)

// What counts against a line that stands still at all strobes, and against an RS that does, as a logarithm: a channel that carries nothing explains
// whatever one likes (ours).
const stillLine, stillRS = 5, 60

// masks are the bits of a byte that are known when so many of its lines are, from D7 down.
func masks(width int) (out []byte) {
	mask := byte(0)
	out = append(out, mask)
	for bit := 7; bit >= 8-width; bit-- {
		mask |= 1 << bit
		if width == 4 {
			mask |= 1 << (bit - 4)
		}
		out = append(out, mask)
	}
	return out
}

// bounds are the highest evidence that a byte can have of which some bits are known, for each number of known lines, by RS and those bits.
func bounds(width int, of *[512]float64) (out [][1024]float64) {
	for _, mask := range masks(width) {
		var best [1024]float64
		for i := range best {
			best[i] = math.Inf(-1)
		}
		for i, v := range of {
			known := i & (0x100 | int(mask))
			best[known] = math.Max(best[known], v)
			known = unrecorded | i&int(mask)
			best[known] = math.Max(best[known], v-eitherRS)
		}
		out = append(out, best)
	}
	return out
}

// openingShare is how often what a recording begins with three times over is the function set of an initialisation by instruction (ours; HD44780U data
// sheet, ADE-207-272(Z), figures 23 and 24).
const openingShare = 0.95

// opening is how much likelier, as a logarithm, a byte is where a recording begins with it three times over than among all bytes alike.
func opening(width int) (out [512]float64) {
	sets := 0
	is := func(i int) bool { return width == 8 && i&0x1F0 == 0x30 || i == 0x33 }
	for i := range out {
		if is(i) {
			sets++
		}
	}
	for i := range out {
		if is(i) {
			out[i] = math.Log(openingShare / float64(sets) * 512)
		} else {
			out[i] = math.Log((1 - openingShare) / float64(512-sets) * 512)
		}
	}
	return out
}

// limits are the bounds of all exchanges, and of what a recording opens with, by how many lines there are.
var limits = map[int]func() struct{ all, opening [][1024]float64 }{4: limitsOn(4), 8: limitsOn(8)}

func limitsOn(width int) func() struct{ all, opening [][1024]float64 } {
	return sync.OnceValue(func() (l struct{ all, opening [][1024]float64 }) {
		of, opens := evidence[width], opening(width)
		l.all, l.opening = bounds(width, &of), bounds(width, &opens)
		return l
	})
}

// boundsWithout are bounds where one data line, counted from D7 down, was not recorded: its bits are never known, and what is known of a byte is as likely as
// all that it can be together.
func boundsWithout(width, missing int) (out [][1024]float64) {
	unknown := byte(0x80 >> missing)
	if width == 4 {
		unknown |= unknown >> 4
	}
	for depth, mask := range masks(width) {
		var best [1024]float64
		for i := range best {
			best[i] = math.Inf(-1)
		}
		of := evidence[width]
		n := math.Pow(2, float64(bits.OnesCount8(unknown)))
		for i, v := range of {
			known := i & (0x100 | int(mask&^unknown))
			if depth < width {
				best[known] = math.Max(best[known], v)
			} else {
				best[known] = math.Log(math.Exp(best[known]) + math.Exp(v)/n)
			}
		}
		out = append(out, best)
	}
	return out
}

// none is what no search lacks.
const none = -1

// unrecorded marks a byte whose RS nobody recorded; eitherRS is what counts against each, and withoutRS against all together, as a logarithm (ours).
const (
	unrecorded = 0x200
	eitherRS   = 0.3
	withoutRS  = 5
)

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
		copy(s.known[depth+1], s.known[depth])
		before, after := sum(s.worth[depth]), s.weigh(depth+1)
		s.deeper(depth+1, most-before+after)
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

// learn takes a channel as a data line, by which one bit more of each exchange is known, or two on four lines. It returns what the highest score falls
// to by that, or −∞ as soon as that is too low; the rest is not known then.
func (s *seeker) learn(depth, c int, most float64) float64 {
	low := MaxChannels // a shift that leaves nothing: on eight lines there is no second half
	if s.width == 4 {
		low = c
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
func (s *seeker) weigh(depth int) float64 {
	for i, k := range s.known[depth] {
		s.worth[depth][i] = s.evidence(depth, k, &s.list[i])
	}
	return sum(s.worth[depth])
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

func sum(of []float64) (out float64) {
	for _, v := range of {
		out += v
	}
	return out
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
