package photo

import (
	"cmp"
	"errors"
	"math"
	"slices"
	"strings"

	"slatebell/core/part/charrom"
	"slatebell/core/part/module"
	"slatebell/core/text/glyph"
)

// Cell is what a cell shows by its picture.
type Cell struct {
	Code byte      // the likeliest
	Sure float64   // how likely it is, 0–1
	Line bool      // the cursor's line is under it
	Next byte      // the next best, of other dots
	Also float64   // how likely that is
	Dots []float64 // row by row, how far each is on: 0 off, 1 on; nil where the glass is blank

	bits uint64 // the dots of Code, a bit each
}

// Reading is what a photograph shows.
type Reading struct {
	Corners  Corners // as they were fitted
	Cells    []Cell  // row by row
	Dark     bool    // dots are darker than their ground
	Contrast float64 // of dots that are on, as a part of their ground's grey
	Shade    float64 // of dots that are off, as a part of those that are on
	Uneven   float64 // how much stronger the contrast is on one side than on another: 1 where it is even
	Blank    bool    // no dot stands out: the codes mean nothing

	field            field
	leak, spread     float64    // as Sight has them
	at               homography // of the field
	score, explained float64
}

// faintest is the contrast below which nothing is read, in standard deviations of the ground (ours).
const faintest = 4

// ErrSmall says that a picture has too few pixels to be read.
var ErrSmall = errors.New("the cells have fewer than 9 pixels across; take the photograph from nearer by")

// smallest is how many pixels a cell must have across.
const smallest = 9

// ErrNoGlass says that a picture shows nothing that can be read as a glass.
var ErrNoGlass = errors.New("no glass found; take the photograph nearer by, with the whole window in it, or give its four corners")

// Read reads the glass of a module from a picture, with the glyphs that its CGRAM may hold. at are corners near those of its cells or its
// window; where they are nil, the window is found. Its error says that the corners or the picture cannot be read.
func Read(g *Grey, at *Corners, m *module.Module, glyphs glyph.Bank) (*Reading, error) {
	_, r, err := ReadAny(g, at, []*module.Module{m}, glyphs)
	return r, err
}

// ReadUnknown reads a module whose ROM nobody knows, with a glyph in its first and one in its last cell: the cells are found by these, and by
// what they have in common with some ROMs; their dots are what counts.
func ReadUnknown(g *Grey, at *Corners, m *module.Module, glyphs glyph.Bank, like ...*charrom.ROM) (*Reading, error) {
	pyr := pyramid(g)
	q := newSearch(pyr, m, looksOf(m, glyphs, like...))
	q.least, q.looks.any = strangely, true
	for _, g := range glyphs {
		q.looks.ends = append(q.looks.ends, look{bits: bitsOf(g.Pattern(), m.CellRows())})
	}
	return read(at, found(pyr), q)
}

// ReadAny reads a picture as that of the likeliest of some modules, and returns which it is.
func ReadAny(g *Grey, at *Corners, modules []*module.Module, glyphs glyph.Bank) (is int, r *Reading, err error) {
	pyr := pyramid(g)
	windows := found(pyr)
	if len(modules) > 1 {
		is = likeliest(pyr, at, windows, modules, glyphs)
	}
	r, err = read(at, windows, newSearch(pyr, modules[is], looksOf(modules[is], glyphs)))
	return is, r, err
}

// closer is how many geometries are looked at more closely.
const closer = 4

// likeliest is which of some modules a picture is of: first by how much stands in their cells and not between them, then by how well they
// can be read. Of modules whose cells lie alike the first is taken.
func likeliest(pyr []*Grey, at *Corners, windows []Corners, modules []*module.Module, glyphs glyph.Bank) (is int) {
	type guess struct {
		of     int
		search *search
		likely float64
	}
	var list []guess
	for i, m := range modules {
		q := newSearch(pyr, m, looksOf(m, glyphs))
		if slices.ContainsFunc(list, func(g guess) bool { return g.search.field == q.field }) {
			continue
		}
		list = append(list, guess{i, q, q.stands(q.areas(at, windows))})
	}
	order := func() { slices.SortStableFunc(list, func(a, b guess) int { return cmp.Compare(b.likely, a.likely) }) }
	order()
	list = list[:min(len(list), closer)]
	for i := range list {
		g := &list[i]
		g.likely = math.Inf(-1)
		for _, c := range g.search.areas(at, windows) {
			if p, ok := g.search.in(c); ok {
				g.likely = math.Max(g.likely, p.score-p.unusual)
			}
		}
	}
	order()
	return list[0].of
}

// read reads a picture, in windows where no corners are given.
func read(at *Corners, windows []Corners, q *search) (*Reading, error) {
	var p placed
	var err error
	if at != nil {
		p, err = q.near(*at, windows)
	} else {
		p, err = q.anywhere(windows)
	}
	if err != nil {
		return nil, err
	}
	out := &Reading{Corners: p.in.inPicture(p.corners), field: p.field, score: p.score, explained: p.explained}
	h, err := span(out.Corners)
	if err != nil {
		return nil, ErrNoGlass
	}
	out.at = h
	s := p.sample(q.pyr[0], &h)
	lit := scale(&s, out)
	if out.Blank {
		for range s.dots {
			out.Cells = append(out.Cells, Cell{Code: ' ', Sure: 0.5})
		}
		return out, nil
	}
	placed := placedRight(p.explained)
	if at != nil {
		placed = math.Max(placed, byHand)
	}
	out.leak, out.spread, out.Shade, out.Uneven = lit.leak(s.dots), lit.spread, lit.shade(&s), lit.uneven(&s, p.cols)
	looks := withLine(q.looks.known)
	shown := blurredLooks(looks, out.leak)
	for _, dots := range s.dots {
		c := lit.cell(dots, looks, shown)
		c.Sure *= placed
		c.Also *= placed
		out.Cells = append(out.Cells, c)
	}
	if at == nil && q.least == somehow && out.score < few {
		gaps, known := out.gaps(q.pyr[0], s.ground)
		if known && gaps < gapLeast || gaps < gapSurely && out.odd() {
			return nil, ErrNoGlass
		}
	}
	return out, nil
}

// placedRight is how likely a field lies where it was put, by how much of it is explained (ours, by photographs as TestSure's).
func placedRight(explained float64) float64 { return 1 / (1 + math.Exp((0.05-explained)/0.08)) }

// byHand is how likely a field lies where somebody put it (ours).
const byHand = 0.98

// Outline is where a cell lies in the picture.
func (r *Reading) Outline(cell int) Corners {
	col, row, height := cell%r.field.cols, cell/r.field.cols, float64(r.field.height)
	at := func(x, y float64) Point { return r.at.at(r.field.place(col, row, x, y)) }
	return Corners{at(0, 0), at(width, 0), at(width, height), at(0, height)}
}

// few is up to how much is explained, in dots, where chance may have made characters of something else; fewLeast how much must be explained
// then, and odder by how much more where all of them are such as texts hardly have (ours).
const (
	few      = 150
	fewLeast = 0.5
	odder    = 0.5
)

// lines are characters that edges of other things look like.
const lines = "_|-=.,'`\""

// odd reports whether what was read is hardly a text: few characters, and most of them such as are not in texts.
func (r *Reading) odd() bool {
	odd, all := 0.0, 1e-9
	for i, c := range r.Cells {
		if r.blocks(i / r.field.cols) {
			all++
			continue
		}
		if c.Code != ' ' {
			if all++; c.Code > '}' || c.Code < ' ' || strings.IndexByte(lines, c.Code) >= 0 {
				odd++
			}
		}
	}
	return r.explained-odder*odd/all < fewLeast
}

// blocks reports whether a row is solid blocks, as a controller shows it that was never initialised.
func (r *Reading) blocks(row int) bool {
	cells := r.Cells[row*r.field.cols : (row+1)*r.field.cols]
	return !slices.ContainsFunc(cells, func(c Cell) bool { return c.Code != blockCode })
}

// Lines that are drawn have no gaps between their dots. Of small texts they are looked for (ours): where dots have so many pixels, in so many
// pairs at least. They are that much fainter than the dots at least, as a part of their contrast; and where they are surely there, dots they are.
const (
	gapPixels = 6
	gapPairs  = 12
	gapLeast  = 0.03
	gapSurely = 0.08
)

// gaps is by how much what lies between two dots that are on is fainter than these, as a part of their contrast; known where there are enough
// of them, and enough pixels for gaps to be seen.
func (r *Reading) gaps(g *Grey, ground []float64) (fainter float64, known bool) {
	w, _ := r.field.size()
	var faint []float64
	for i := range r.Cells {
		at := func(x, y float64) float64 {
			p := r.at.at(r.field.place(i%r.field.cols, i/r.field.cols, x+0.5, y+0.5))
			return g.At(p.X, p.Y) - ground[i]
		}
		on := func(x, y int) bool { return r.Cells[i].bits>>(y*width+x)&1 == 1 }
		for y := range r.field.height {
			for x := range width {
				for _, by := range [2][2]int{{1, 0}, {0, 1}} {
					if x+by[0] >= width || y+by[1] >= r.field.height || !on(x, y) || !on(x+by[0], y+by[1]) {
						continue
					}
					dots := (at(float64(x), float64(y)) + at(float64(x+by[0]), float64(y+by[1]))) / 2
					if math.Abs(dots) > 1e-3 {
						faint = append(faint, 1-at(float64(x)+float64(by[0])/2, float64(y)+float64(by[1])/2)/dots)
					}
				}
			}
		}
	}
	if len(faint) < gapPairs {
		return 0, false
	}
	return median(faint), dist(r.Corners[0], r.Corners[1])/w >= gapPixels
}

// light is how dots that are on and off look.
type light struct {
	sign, on, off float64 // of a dot against its ground
	spread        float64 // of either, as a part of on − off
}

// scale finds out how dots look that are on, and that are off.
func scale(s *sampled, r *Reading) light {
	var all []float64
	skew := 0.0
	for _, dots := range s.dots {
		for _, d := range dots {
			all = append(all, d)
			skew += d * math.Abs(d)
		}
	}
	l := light{sign: 1}
	if r.Dark = skew < 0; r.Dark {
		l.sign = -1
	}
	for i := range all {
		all[i] *= l.sign
	}
	slices.Sort(all)
	top := all[len(all)-max(3, len(all)/50):] // of fifty dots one is on at least, where anything is written
	strong := median(top)
	ons := all[firstAbove(all, strong/2):]
	offs := all[:firstAbove(all, strong/2)]
	l.on = median(ons)
	if len(offs) > 0 {
		l.off = median(offs)
	}
	ground := 0.0
	for _, g := range s.ground {
		ground += g / float64(len(s.ground))
	}
	r.Contrast = l.on / math.Max(ground, 1e-3)
	r.Blank = l.on < faintest*math.Max(s.noise, 1e-3)
	l.spread = math.Hypot(s.noise/math.Max(l.on-l.off, 1e-6), 0.12)
	return l
}

// shade is how strong dots that are off are, as a part of those that are on.
func (l *light) shade(s *sampled) float64 { return math.Max(0, l.off/math.Max(l.on, 1e-6)) }

// enoughOn is how many dots must be on in a part of the glass for its contrast to be known.
const enoughOn = 15

// uneven is how much stronger dots that are on are in one quarter of the glass's width than in another.
func (l *light) uneven(s *sampled, cols int) float64 {
	var parts [4][]float64
	for i, dots := range s.dots {
		part := &parts[i%cols*len(parts)/cols]
		for _, d := range dots {
			if l.value(d) > 0.5 || l.sign*d > 0.5*l.on {
				*part = append(*part, l.sign*d/math.Max(s.ground[i], 1e-3))
			}
		}
	}
	least, most := math.Inf(1), 0.0
	for _, p := range parts {
		if len(p) >= enoughOn {
			v := median(p)
			least, most = math.Min(least, v), math.Max(most, v)
		}
	}
	if most == 0 || least <= 0 {
		return 1
	}
	return most / least
}

func firstAbove(sorted []float64, v float64) int {
	i, _ := slices.BinarySearch(sorted, v)
	return i
}

// value is how far a dot is on: 0 off, 1 on.
func (l *light) value(d float64) float64 { return (l.sign*d - l.off) / (l.on - l.off) }

// look is what a code shows.
type look struct {
	code byte
	on   []float64 // dots, row by row, 1 or 0
	bits uint64    // the same, a bit each
	line bool      // with the cursor's line, which bits leave out
}

// looks are all that cells may show.
type looks struct {
	known []look
	ends  []look // of the first and the last cell; nil: any
	any   bool   // in the other cells are looks too that nobody knows
}

// patternOf is what a code shows, a glyph where it is that of a slot that has one.
func patternOf(m *module.Module, glyphs glyph.Bank, code byte) glyph.Pattern {
	if slot, ok := m.Slot(code); ok {
		for _, g := range glyphs {
			if g.Slot == slot {
				return g.Pattern()
			}
		}
		return glyph.Pattern{}
	}
	below := m.ROM.Below(code)
	return glyph.Of(m.ROM.Dots(code), below[:]...)
}

// bitsOf are the dots of a cell, row by row, a bit each.
func bitsOf(p glyph.Pattern, height int) (bits uint64) {
	for i := range width * height {
		if p.Lit(i/width, i%width) {
			bits |= 1 << i
		}
	}
	return bits
}

// looksOf are all that cells may show: each look once, under the code that is likeliest to be meant by it; and what other ROMs have.
func looksOf(m *module.Module, glyphs glyph.Bank, like ...*charrom.ROM) (out looks) {
	seen := map[uint64]bool{}
	add := func(code byte, p glyph.Pattern) {
		one := look{code: code, bits: bitsOf(p, m.CellRows())}
		if seen[one.bits] {
			return
		}
		seen[one.bits] = true
		for i := range width * m.CellRows() {
			one.on = append(one.on, float64(one.bits>>i&1))
		}
		out.known = append(out.known, one)
	}
	add(' ', glyph.Pattern{})
	for code := 0x20; code < 0x100; code++ {
		if m.ROM.Known(byte(code)) {
			add(byte(code), patternOf(m, nil, byte(code)))
		}
	}
	for code := range byte(0x20) { // the slots of CGRAM; and what some ROMs have below the space
		if _, ok := m.Slot(code); ok {
			add(code, patternOf(m, glyphs, code))
		} else if m.ROM.Known(code) {
			add(code, patternOf(m, nil, code))
		}
	}
	block := glyph.Pattern{}
	for row := range m.CellRows() {
		block[row] = 0x1F
	}
	add(blockCode, block)
	for _, rom := range like {
		for code := range 0x100 {
			add(byte(code), glyph.ROMPattern(rom, byte(code), m.Tall))
		}
	}
	return out
}

// lineUnlikely is how much less likely a cell with the cursor's line is than one without, as a logarithm: there is one at most (ours).
const lineUnlikely = 4

// withLine are looks, and each again that leaves the lowest row free, with the cursor's line there.
func withLine(looks []look) []look {
	out := slices.Clip(looks)
	for _, l := range looks {
		low := len(l.on) - width
		if slices.ContainsFunc(l.on[low:], func(v float64) bool { return v > 0 }) {
			continue
		}
		l.on = append(slices.Clone(l.on[:low]), slices.Repeat([]float64{1}, width)...)
		l.line = true
		out = append(out, l)
	}
	return out
}

// blockCode is what a cell is said to show all of whose dots are on, as ROM A00 has it (HD44780U data sheet, table 4).
const blockCode = 0xFF

// blurred is how far a dot of a look is on where each dot gives a part of its light to those beside it.
func blurred(on []float64, i int, leak float64) float64 {
	x, y, n, sum := i%width, i/width, len(on)/width, 0.0
	if x > 0 {
		sum += on[i-1]
	}
	if x < width-1 {
		sum += on[i+1]
	}
	if y > 0 {
		sum += on[i-width]
	}
	if y < n-1 {
		sum += on[i+width]
	}
	return (1-leak)*on[i] + leak*sum/4
}

// blurredLooks are the dots of all looks as they show.
func blurredLooks(looks []look, leak float64) [][]float64 {
	out := make([][]float64, len(looks))
	for k := range looks {
		for i := range looks[k].on {
			out[k] = append(out[k], blurred(looks[k].on, i, leak))
		}
	}
	return out
}

// leak finds how much light of a dot falls on those beside it, by the dots themselves, each taken for on or off.
func (l *light) leak(cells [][]float64) float64 {
	hard := make([][]float64, len(cells))
	for c, dots := range cells {
		hard[c] = make([]float64, len(dots))
		for i, d := range dots {
			if l.value(d) > 0.5 {
				hard[c][i] = 1
			}
		}
	}
	best, least := 0.0, math.Inf(1)
	for _, leak := range []float64{0, 0.1, 0.2, 0.3, 0.4} {
		sum := 0.0
		for c, dots := range cells {
			for i, d := range dots {
				off := l.value(d) - blurred(hard[c], i, leak)
				sum += off * off
			}
		}
		if sum < least {
			best, least = leak, sum
		}
	}
	return best
}

// together is how much of the likelihood of a cell's dots counts: what spoils one dot spoils those beside it too
// (ours; TestSure holds what comes of it against how often a reading is right).
const together = 0.8

// unlikely is how unlikely it is, as a logarithm, that a dot looks so where it should look otherwise. Its tails are heavy: one dot under a
// speck of dust settles nothing.
func unlikely(is, should, spread float64) float64 {
	off := (is - should) / spread
	return together * math.Log1p(off*off/4) * 2.5
}

// cell reads one cell: the likelihood of each look, with its dots as they show, is that of all its dots.
func (l *light) cell(dots []float64, looks []look, shown [][]float64) Cell {
	values := make([]float64, len(dots))
	for i, d := range dots {
		values[i] = l.value(d)
	}
	likely := make([]float64, len(looks))
	best, next := -1, -1
	for k := range looks {
		for i, v := range values {
			likely[k] -= unlikely(v, shown[k][i], l.spread)
		}
		if looks[k].line {
			likely[k] -= lineUnlikely
		}
		switch {
		case best < 0 || likely[k] > likely[best]:
			best, next = k, best
		case next < 0 || likely[k] > likely[next]:
			next = k
		}
	}
	sum := 0.0
	for _, v := range likely {
		sum += math.Exp(v - likely[best])
	}
	return Cell{
		Code: looks[best].code, bits: looks[best].bits, Line: looks[best].line, Sure: 1 / sum,
		Next: looks[next].code, Also: math.Exp(likely[next]-likely[best]) / sum,
		Dots: values,
	}
}
