package meter

import (
	"slices"

	"slatebell/core/part/charrom"
	"slatebell/core/text/glyph"
	"slatebell/core/text/picture"
)

// apart is by how many dots digits ought to differ: more than that is as good.
const apart = 6

// choice is the search for the glyphs that show the digits.
type choice struct {
	wanted [10][]int // patterns of each digit's cells, by index
	all    []glyph.Pattern
	cells  []int // how many cells want each
	free   []picture.Tile
	near   [][]int // dots between what can be shown (all, then free) and each of all
}

// choose picks the glyphs that show the digits.
func (d *Digits) choose(rom *charrom.ROM, slots int) {
	c := newChoice(d, rom)
	best, bestApart, bestChanged := []int(nil), -1<<30, 0
	c.subsets(min(slots, len(c.all)), func(chosen []int) {
		shown := c.nearest(chosen)
		changed := c.changed(shown)
		if best != nil && changed >= bestChanged && bestApart >= apart {
			return
		}
		margin := min(c.margin(shown, min(bestApart, apart-1)), apart)
		if margin > bestApart || margin == bestApart && changed < bestChanged {
			best, bestApart, bestChanged = slices.Clone(chosen), margin, changed
		}
	})
	c.keep(d, best)
}

// newChoice gathers what the digits want. Patterns that the ROM's blank, block and
// level lines show cost no glyph.
func newChoice(d *Digits, rom *charrom.ROM) *choice {
	c := &choice{}
	c.free = []picture.Tile{{Code: ' ', Glyph: -1}}
	for code := range 256 {
		if p := glyph.Of(rom.Dots(byte(code))); rom.Known(byte(code)) && level(p) {
			c.free = append(c.free, picture.Tile{Code: byte(code), Glyph: -1, Shown: p})
		}
	}
	index := map[glyph.Pattern]int{}
	var free []int // patterns that cost nothing
	for n, cells := range d.Wanted {
		for _, p := range cells {
			i, known := index[p]
			if !known {
				i = len(c.all)
				index[p] = i
				c.all = append(c.all, p)
				c.cells = append(c.cells, 0)
				if slices.ContainsFunc(c.free, func(f picture.Tile) bool { return f.Shown == p }) {
					free = append(free, i)
				}
			}
			c.cells[i]++
			c.wanted[n] = append(c.wanted[n], i)
		}
	}
	// those that cost nothing come last, and are not chosen among
	order := make([]int, len(c.all))
	var sorted []glyph.Pattern
	var counts []int
	for _, costs := range []bool{true, false} {
		for i, p := range c.all {
			if slices.Contains(free, i) != costs {
				order[i] = len(sorted)
				sorted, counts = append(sorted, p), append(counts, c.cells[i])
			}
		}
	}
	c.all, c.cells = sorted, counts
	for n := range c.wanted {
		for k, i := range c.wanted[n] {
			c.wanted[n][k] = order[i]
		}
	}
	for _, from := range c.all {
		c.near = append(c.near, c.distances(from))
	}
	for _, f := range c.free {
		c.near = append(c.near, c.distances(f.Shown))
	}
	c.all = c.all[:len(c.all)-len(free)]
	return c
}

// level reports whether a pattern is of whole rows, the block among them.
func level(p glyph.Pattern) bool {
	for _, bits := range p {
		if bits != 0 && bits != 0x1F {
			return false
		}
	}
	return p.Count() > 0
}

func (c *choice) distances(from glyph.Pattern) (out []int) {
	for _, to := range c.all {
		out = append(out, from.Distance(to))
	}
	return out
}

// subsets calls a function with every set of n patterns that cost a glyph.
func (c *choice) subsets(n int, do func(chosen []int)) {
	chosen := make([]int, 0, n)
	var grow func(from int)
	grow = func(from int) {
		if len(chosen) == n {
			do(chosen)
			return
		}
		for i := from; i <= len(c.all)-(n-len(chosen)); i++ {
			chosen = append(chosen, i)
			grow(i + 1)
			chosen = chosen[:len(chosen)-1]
		}
	}
	grow(0)
}

// wants is how many patterns the digits want, those that cost nothing included.
func (c *choice) wants() int { return len(c.cells) }

// nearest returns for every pattern that is wanted what shows it: an index into
// near, of a chosen pattern or a free one.
func (c *choice) nearest(chosen []int) []int {
	shown := make([]int, c.wants())
	first := len(c.near) - len(c.free)
	for i := range shown {
		best := first
		for k := first; k < len(c.near); k++ {
			if c.near[k][i] < c.near[best][i] {
				best = k
			}
		}
		for _, k := range chosen {
			if c.near[k][i] <= c.near[best][i] {
				best = k
			}
		}
		shown[i] = best
	}
	return shown
}

func (c *choice) changed(shown []int) (n int) {
	for i, k := range shown {
		n += c.cells[i] * c.near[k][i]
	}
	return n
}

// margin returns by how many dots at least every digit is nearer to its own
// drawing than to any other; it stops where that falls to a bound.
func (c *choice) margin(shown []int, bound int) int {
	least := 1 << 30
	for n := range 10 {
		own := 0
		for _, i := range c.wanted[n] {
			own += c.near[shown[i]][i]
		}
		for m := range 10 {
			if m == n {
				continue
			}
			far := -own
			for k, i := range c.wanted[n] {
				far += c.near[shown[i]][c.wanted[m][k]]
			}
			if least = min(least, far); least < bound {
				return least
			}
		}
	}
	return least
}

// keep shows the digits by the chosen patterns.
func (c *choice) keep(d *Digits, chosen []int) {
	shown := c.nearest(chosen)
	first := len(c.near) - len(c.free)
	number := map[int]int{}
	for n := range 10 {
		d.Cells[n] = make([]picture.Tile, len(c.wanted[n]))
		for k, i := range c.wanted[n] {
			at := shown[i]
			cell := picture.Tile{Changed: c.near[at][i]}
			if at >= first {
				cell = c.free[at-first]
				cell.Changed = c.near[at][i]
			} else {
				g, known := number[at]
				if !known {
					g = len(d.Glyphs)
					number[at] = g
					d.Glyphs = append(d.Glyphs, c.all[at])
				}
				cell.Code, cell.Glyph, cell.Shown = byte(g), g, c.all[at]
			}
			d.Cells[n][k] = cell
			d.Changed += cell.Changed
		}
	}
	d.Apart = c.margin(shown, -1<<30)
}
