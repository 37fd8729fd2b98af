package photo

import (
	"cmp"
	"errors"
	"math"
	"slices"

	"slatebell/core/part/charrom"
	"slatebell/core/part/module"
	"slatebell/core/text/glyph"
)

// Cell is what a cell shows by its picture.
type Cell struct {
	Code byte      // the likeliest
	Sure float64   // how likely it is, 0–1
	Line bool      // the cursor's line is under it
	Half Half      // no more than that shows of it
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
	Colour   string  // of the glass: green, amber, blue, teal, grey; "" where it cannot be told

	field            field
	leak, spread     float64    // as Sight has them
	at               homography // of the field
	score, explained float64
	ground           []float64 // of each cell, grey
	glows            float64   // how bright the glass is against what lies round it; 0 unknown
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
	return read(at, found(pyr, usualLevels), q)
}

// ReadAny reads a picture as that of the likeliest of some modules, and returns which it is.
func ReadAny(g *Grey, at *Corners, modules []*module.Module, glyphs glyph.Bank) (is int, r *Reading, err error) {
	pyr := pyramid(g)
	windows := found(pyr, usualLevels)
	if len(modules) > 1 {
		is = likeliest(pyr, at, windows, modules, glyphs)
	}
	r, err = read(at, windows, newSearch(pyr, modules[is], looksOf(modules[is], glyphs)))
	return is, r, err
}

// closely is how many geometries are looked at more closely.
const closely = 4

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
	list = list[:min(len(list), closely)]
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

// read reads a picture, in windows where no corners are given. What may be something else by chance counts only where no window shows blocks or
// nothing at all.
func read(at *Corners, windows []Corners, q *search) (*Reading, error) {
	if at != nil {
		p, err := q.near(*at, windows)
		if err != nil {
			return nil, err
		}
		return q.reading(p, byHand)
	}
	p, err := q.anywhere(windows)
	if err == nil {
		r, err := q.reading(p, 0)
		if err != nil || q.least != somehow || !r.doubtful(q.pyr[0]) {
			return r, err
		}
	}
	if p, ok := q.solid(windows); ok {
		return q.reading(p, 0)
	}
	if p, ok := q.blank(found(q.pyr, manyLevels)); ok {
		r, err := q.reading(p, 0)
		if err == nil {
			r.bare(len(r.Cells))
		}
		return r, err
	}
	return nil, ErrNoGlass
}

// reading is what a field shows that lies where it was placed, surely by so much at least.
func (q *search) reading(p placed, surely float64) (*Reading, error) {
	out := &Reading{Corners: p.in.inPicture(p.corners), field: p.field, score: p.score, explained: p.explained}
	h, err := span(out.Corners)
	if err != nil {
		return nil, ErrNoGlass
	}
	out.at = h
	s := p.sample(q.pyr[0], &h)
	lit := scale(&s, out)
	out.tinted(q.pyr[0])
	if out.Blank {
		out.bare(len(s.dots))
		return out, nil
	}
	placed := math.Max(placedRight(p.explained), surely)
	out.leak, out.spread, out.Shade, out.Uneven, out.ground = lit.leak(s.dots), lit.spread, lit.shade(), lit.uneven(&s, p.cols), s.ground
	looks := withHalves(withLine(q.looks.known))
	shown := blurredLooks(looks, out.leak)
	for _, dots := range s.dots {
		c := lit.cell(dots, looks, shown)
		c.Sure *= placed
		c.Also *= placed
		out.Cells = append(out.Cells, c)
	}
	return out, nil
}

// bare makes of a reading that of a glass of so many cells with nothing on it.
func (r *Reading) bare(cells int) {
	r.Blank, r.Cells = true, slices.Repeat([]Cell{{Code: ' ', Sure: 0.5}}, cells)
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
