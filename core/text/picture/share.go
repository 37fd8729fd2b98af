package picture

import (
	"slices"

	"slatebell/core/part/charrom"
	"slatebell/core/text/glyph"
)

// Target is what cells are to be shown by.
type Target struct {
	ROM   *charrom.ROM // characters that cost no slot; nil for none but the blank
	Plain bool         // of the ROM's characters only the full block is taken
	Tall  bool         // 5×10 font
	Slots int          // glyphs that there is room for, 0–8
}

// Tile is how one cell is shown.
type Tile struct {
	Code    byte          // of the ROM; where Glyph is not negative, that glyph's index
	Glyph   int           // index into Shared.Glyphs; -1 for a character of the ROM
	Shown   glyph.Pattern // what it shows
	Changed int           // dots that differ from what was wanted
}

// Shared is cells shown by few glyphs.
type Shared struct {
	Cells    []Tile
	Glyphs   []glyph.Pattern // in the order in which cells first show them
	Distinct int             // patterns that would need a slot if none were merged
	Changed  int             // dots that differ in all
	Least    bool            // proved: no choice of as many glyphs changes fewer dots
}

// exactPatterns is up to how many patterns merging is searched exhaustively: 3ⁿ
// choices are gone through.
const exactPatterns = 12

// Share shows cells by at most as many glyphs as there are slots. Blank cells and
// those that the ROM has cost none, equal ones share one; where more remain than
// there are slots, they are merged so that the fewest dots change: each set of
// merged cells shows the dots that most of them have, or a character of the ROM.
func Share(cells []glyph.Pattern, t Target) Shared {
	s := sharing{target: t, index: map[glyph.Pattern]int{}}
	s.readROM()
	for _, c := range cells {
		s.count(c)
	}
	clusters, least := s.merge()
	return s.result(cells, clusters, least)
}

// sharing is the work of Share.
type sharing struct {
	target Target
	free   []romPattern
	index  map[glyph.Pattern]int // into wanted; -1 for what the ROM has
	wanted []want
}

// romPattern is what a code of the ROM shows.
type romPattern struct {
	code byte
	dots glyph.Pattern
}

// want is a pattern that the ROM lacks.
type want struct {
	dots    glyph.Pattern
	cells   int        // that show it
	nearest romPattern // of the ROM
	toROM   int        // dots changed in all its cells if the nearest is shown
}

// readROM lists what costs no slot, the blank first.
func (s *sharing) readROM() {
	seen := map[glyph.Pattern]bool{{}: true}
	s.free = []romPattern{{code: ' '}}
	if s.target.ROM == nil {
		return
	}
	for c := range 256 {
		code := byte(c)
		if !s.target.ROM.Known(code) {
			continue
		}
		p := glyph.ROMPattern(s.target.ROM, code, s.target.Tall)
		if s.target.Plain && p != glyph.Full(glyph.Rows) {
			continue
		}
		if !seen[p] {
			seen[p] = true
			s.free = append(s.free, romPattern{code, p})
		}
	}
}

// nearest returns the character that differs least from a pattern.
func (s *sharing) nearest(p glyph.Pattern) (romPattern, int) {
	best := slices.MinFunc(s.free, func(a, b romPattern) int { return p.Distance(a.dots) - p.Distance(b.dots) })
	return best, p.Distance(best.dots)
}

func (s *sharing) count(p glyph.Pattern) {
	i, known := s.index[p]
	if !known {
		near, far := s.nearest(p)
		i = -1
		if far > 0 {
			i = len(s.wanted)
			s.wanted = append(s.wanted, want{dots: p, nearest: near, toROM: far})
		}
		s.index[p] = i
	}
	if i >= 0 {
		s.wanted[i].cells++
	}
}

// clustering gives each wanted pattern the cluster whose glyph shows it, counted
// from 0, or -1 where the ROM's nearest does.
type clustering []int

// merge finds which patterns share a glyph; least is whether none changes fewer
// dots.
func (s *sharing) merge() (best clustering, least bool) {
	n := len(s.wanted)
	for i := range s.wanted {
		s.wanted[i].toROM *= s.wanted[i].cells
	}
	switch {
	case n <= s.target.Slots:
		best = make(clustering, n)
		for i := range best {
			best[i] = i
		}
		return best, true
	case s.target.Slots == 0:
		best = make(clustering, n)
		for i := range best {
			best[i] = -1
		}
		return best, true
	case n <= exactPatterns:
		return s.exact(), true
	}
	return s.improved(), false
}

// centre returns the dots that most cells of some patterns have, and how many
// dots they change in all. Where as many are lit as dark the first decides.
func (s *sharing) centre(of []int) (p glyph.Pattern, changed int) {
	all := 0
	for _, i := range of {
		all += s.wanted[i].cells
	}
	for row := range p {
		for col := range glyph.Columns {
			lit := 0
			for _, i := range of {
				if s.wanted[i].dots.Lit(row, col) {
					lit += s.wanted[i].cells
				}
			}
			if 2*lit > all || 2*lit == all && s.wanted[of[0]].dots.Lit(row, col) {
				p[row] |= 1 << (glyph.Columns - 1 - col)
			}
			changed += min(lit, all-lit)
		}
	}
	return p, changed
}

// exact goes through all clusterings, by the set of patterns that are left: the
// lowest of them goes to the ROM, or with any others into a cluster.
func (s *sharing) exact() clustering {
	n, slots := len(s.wanted), s.target.Slots
	sets := 1 << n
	cost := make([]int, sets) // of one cluster
	members := make([]int, 0, n)
	for set := 1; set < sets; set++ {
		members = members[:0]
		for i := range n {
			if set>>i&1 != 0 {
				members = append(members, i)
			}
		}
		_, cost[set] = s.centre(members)
	}
	const never = 1 << 30
	least := make([][]int, slots+1) // by clusters allowed, then set
	pick := make([][]int, slots+1)  // the cluster of the lowest; 0 for the ROM
	for k := range least {
		least[k], pick[k] = make([]int, sets), make([]int, sets)
		for set := 1; set < sets; set++ {
			low := set & -set
			least[k][set] = never
			rest := set &^ low
			if to := least[k][rest] + s.wanted[bitOf(low)].toROM; to < least[k][set] {
				least[k][set], pick[k][set] = to, 0
			}
			if k == 0 {
				continue
			}
			for sub := rest; ; sub = (sub - 1) & rest {
				if to := cost[low|sub] + least[k-1][rest&^sub]; to < least[k][set] {
					least[k][set], pick[k][set] = to, low|sub
				}
				if sub == 0 {
					break
				}
			}
		}
	}
	out := make(clustering, n)
	for set, k, cluster := sets-1, slots, 0; set != 0; {
		taken := pick[k][set]
		if taken == 0 {
			low := set & -set
			out[bitOf(low)] = -1
			set &^= low
			continue
		}
		for i := range n {
			if taken>>i&1 != 0 {
				out[i] = cluster
			}
		}
		set &^= taken
		k--
		cluster++
	}
	return out
}

// bitOf returns the place of a single bit.
func bitOf(bit int) (i int) {
	for bit > 1 {
		bit >>= 1
		i++
	}
	return i
}

// improved merges the pair that costs least until the slots suffice, then moves
// single patterns to other clusters or to the ROM for as long as that changes
// fewer dots.
func (s *sharing) improved() clustering {
	var clusters [][]int
	for i := range s.wanted {
		clusters = append(clusters, []int{i})
	}
	changed := func(of []int) int {
		if len(of) == 0 {
			return 0
		}
		_, n := s.centre(of)
		return n
	}
	costs := make([]int, len(clusters))
	pair := map[[2]int]int{} // what merging two clusters adds, by their ids
	ids := make([]int, len(clusters))
	for i := range ids {
		ids[i] = i
	}
	next := len(ids)
	var toROM []int
	for len(clusters) > s.target.Slots {
		best, at, with := -1, 0, -1
		for i, c := range clusters {
			drop := -costs[i]
			for _, m := range c {
				drop += s.wanted[m].toROM
			}
			if best < 0 || drop < best {
				best, at, with = drop, i, -1
			}
			for j := i + 1; j < len(clusters); j++ {
				key := [2]int{ids[i], ids[j]}
				add, known := pair[key]
				if !known {
					add = changed(slices.Concat(c, clusters[j])) - costs[i] - costs[j]
					pair[key] = add
				}
				if add < best {
					best, at, with = add, i, j
				}
			}
		}
		if with < 0 {
			toROM = append(toROM, clusters[at]...)
		} else {
			clusters[with] = append(clusters[with], clusters[at]...)
			costs[with] += costs[at] + best
			ids[with] = next
			next++
		}
		clusters, costs, ids = slices.Delete(clusters, at, at+1), slices.Delete(costs, at, at+1), slices.Delete(ids, at, at+1)
	}
	best := s.move(split{clusters, toROM}, changed)
	for range maxKicks {
		kicked, better := s.kick(best, changed)
		if !better {
			break
		}
		best = kicked
	}
	out := make(clustering, len(s.wanted))
	for _, i := range best.toROM {
		out[i] = -1
	}
	for k, c := range best.clusters {
		for _, i := range c {
			out[i] = k
		}
	}
	return out
}

// maxKicks bounds how often improved begins again from another start.
const maxKicks = 4

// split is patterns in clusters, and those left to the ROM.
type split struct {
	clusters [][]int
	toROM    []int
}

func (s *sharing) cost(of split, changed func([]int) int) (n int) {
	for _, c := range of.clusters {
		n += changed(c)
	}
	for _, i := range of.toROM {
		n += s.wanted[i].toROM
	}
	return n
}

// kick gives each pattern in turn a glyph of its own, merges the two clusters for
// which that costs least, and moves patterns from there; it returns the best that
// came of it, and whether that is better than what it began with.
func (s *sharing) kick(from split, changed func([]int) int) (best split, better bool) {
	least := s.cost(from, changed)
	for i := range s.wanted {
		var rest [][]int
		for _, c := range from.clusters {
			if c = without(c, i); len(c) > 0 {
				rest = append(rest, c)
			}
		}
		if len(rest) >= s.target.Slots {
			alone := make([]int, len(rest))
			for x := range rest {
				alone[x] = changed(rest[x])
			}
			least, a, b := -1, 0, 0
			for x := range rest {
				for y := x + 1; y < len(rest); y++ {
					if add := changed(slices.Concat(rest[x], rest[y])) - alone[x] - alone[y]; least < 0 || add < least {
						least, a, b = add, x, y
					}
				}
			}
			rest[a] = slices.Concat(rest[a], rest[b])
			rest = slices.Delete(rest, b, b+1)
		}
		tried := s.move(split{append(rest, []int{i}), without(from.toROM, i)}, changed)
		if n := s.cost(tried, changed); n < least {
			best, least, better = tried, n, true
		}
	}
	return best, better
}

// without returns a cluster without a pattern.
func without(c []int, i int) []int {
	return slices.DeleteFunc(slices.Clone(c), func(m int) bool { return m == i })
}

// move moves single patterns between clusters, and to and from the ROM, while
// that helps.
func (s *sharing) move(of split, changed func([]int) int) split {
	clusters, toROM := slices.Clone(of.clusters), of.toROM
	for better := true; better; {
		better = false
		for i := range s.wanted {
			from := slices.IndexFunc(clusters, func(c []int) bool { return slices.Contains(c, i) })
			gain := s.wanted[i].toROM
			if from >= 0 {
				gain = changed(clusters[from]) - changed(without(clusters[from], i))
			}
			best, to := gain, from
			if from >= 0 && s.wanted[i].toROM < best {
				best, to = s.wanted[i].toROM, -1
			}
			for k, c := range clusters {
				if k == from {
					continue
				}
				if add := changed(append(slices.Clone(c), i)) - changed(c); add < best {
					best, to = add, k
				}
			}
			if to == from {
				continue
			}
			better = true
			if from >= 0 {
				clusters[from] = without(clusters[from], i)
			} else {
				toROM = without(toROM, i)
			}
			if to >= 0 {
				clusters[to] = append(slices.Clone(clusters[to]), i)
			} else {
				toROM = append(slices.Clone(toROM), i)
			}
		}
	}
	return split{clusters, toROM}
}

// result shows the cells by the clusters.
func (s *sharing) result(cells []glyph.Pattern, clusters clustering, least bool) Shared {
	out := Shared{Cells: make([]Tile, len(cells)), Distinct: len(s.wanted), Least: least}
	members := map[int][]int{}
	for i, k := range clusters {
		members[k] = append(members[k], i)
	}
	centres := map[int]romPattern{} // by cluster; a centre may be a character of the ROM
	for k, of := range members {
		if k >= 0 {
			p, _ := s.centre(of)
			near, far := s.nearest(p)
			if far > 0 {
				near = romPattern{dots: p}
			}
			centres[k] = near
		}
	}
	number := map[glyph.Pattern]int{}
	for i, c := range cells {
		cell := Tile{Glyph: -1}
		at := s.index[c]
		switch {
		case at < 0:
			near, _ := s.nearest(c)
			cell.Code, cell.Shown = near.code, c
		case clusters[at] < 0:
			cell.Code, cell.Shown = s.wanted[at].nearest.code, s.wanted[at].nearest.dots
		default:
			centre := centres[clusters[at]]
			cell.Code, cell.Shown = centre.code, centre.dots
			if centre.code == 0 {
				k, known := number[centre.dots]
				if !known {
					k = len(out.Glyphs)
					number[centre.dots] = k
					out.Glyphs = append(out.Glyphs, centre.dots)
				}
				cell.Code, cell.Glyph = byte(k), k
			}
		}
		cell.Changed = c.Distance(cell.Shown)
		out.Changed += cell.Changed
		out.Cells[i] = cell
	}
	return out
}
