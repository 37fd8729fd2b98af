package capture

import "math"

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
