package capture

import (
	"math"
	"math/rand/v2"
	"slices"
	"testing"
)

// someStrobes are the strobes of a text with its addresses on four lines, among seven channels of which one stands still.
func someStrobes(r *rand.Rand, n int) (e int, out []strobe) {
	p := r.Perm(7)
	put := func(rs, nibble int) {
		v := strobe(rs) << p[1]
		for bit := range 4 {
			v |= strobe(nibble>>bit&1) << p[2+bit]
		}
		out = append(out, v|1<<p[0])
	}
	text := []int{0x28, 0x0C, 0x01, 0x06, 0x80}
	for _, c := range "Tide 3.2 m rising, High water 14:05" {
		text = append(text, 0x100|int(c))
	}
	for from := r.IntN(8); len(out) < n; from++ {
		b := text[from%len(text)]
		put(b>>8, b>>4&15)
		put(b>>8, b&15)
	}
	return p[0], out
}

// TestSeek holds the best assignment of a few channels against that of all there are, each weighed by itself.
func TestSeek(t *testing.T) {
	for round := range 12 {
		r := rand.New(rand.NewPCG(uint64(round), 5))
		e, strobes := someStrobes(r, 30+r.IntN(60))
		of := exchanges(strobes, 4, round%2)
		channels := slices.DeleteFunc([]int{0, 1, 2, 3, 4, 5, 6}, func(c int) bool { return c == e }) // one of them stands still
		best := math.Inf(-1)
		weigh := func(a assignment) {
			sum, alike := 0.0, map[int]bool{}
			for _, c := range append([]int{a.rs}, a.data[:4]...) {
				if alike[c] || c == a.rw || c == e {
					return
				}
				alike[c] = true
			}
			reads := false
			moves := map[int]bool{}
			for _, x := range of {
				bit := func(v strobe, c int) int { return int(v >> c & 1) }
				for c := range 12 {
					moves[c] = moves[c] || bit(x.high, c) != bit(of[0].high, c) || bit(x.low, c) != bit(of[0].high, c)
				}
				if a.rw >= 0 && bit(x.high, a.rw) == 1 {
					reads = true
					sum += readEvidence * x.n
				} else {
					k := bit(x.high, a.rs) << 8
					for i := range 4 {
						k |= bit(x.high, a.data[i])<<(7-i) | bit(x.low, a.data[i])<<(3-i)
					}
					sum += evidence[4][k] * x.n
				}
				if bit(x.high, a.rs) != bit(x.low, a.rs) {
					sum -= halvesDiffer * x.n
				}
				if a.rw >= 0 && bit(x.high, a.rw) != bit(x.low, a.rw) {
					sum -= halvesDiffer * x.n
				}
			}
			if a.rw >= 0 && !reads {
				return
			}
			if !moves[a.rs] {
				sum -= stillRS
			}
			for _, c := range a.data[:4] {
				if !moves[c] {
					sum -= stillLine
				}
			}
			best = math.Max(best, sum)
		}
		for _, rs := range channels {
			for _, rw := range append([]int{-1}, channels...) {
				for _, d7 := range channels {
					for _, d6 := range channels {
						for _, d5 := range channels {
							for _, d4 := range channels {
								weigh(assignment{rs: rs, rw: rw, data: [8]int{d7, d6, d5, d4}})
							}
						}
					}
				}
			}
		}
		got := seek(of, channels, nil, e, 4, round%2, math.Inf(-1), lack{})
		most := math.Inf(-1)
		for _, a := range got {
			most = math.Max(most, a.score-inOrder*a.neighbours())
		}
		if math.Abs(most-best) > 1e-6 {
			t.Errorf("round %d: the best is worth %v; of all there are %v", round, most, best)
		}
	}
}
