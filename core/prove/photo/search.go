package photo

import (
	"cmp"
	"math"
	"slices"

	"slatebell/core/part/module"
)

// search looks for a field in a picture.
type search struct {
	field
	pyr   []*Grey
	looks *looks
	pull  float64 // of places beside the middle
	least float64 // that must be explained
}

// What counts against a place beside the middle of a window, in dots for a cell squared, and of corners that somebody gave, which go round the
// cells (ours).
const (
	windowPull  = 3
	textPull    = 0.3 // of a text that was found by itself: nobody knows where in its line it stands
	cornersPull = 30
)

func newSearch(pyr []*Grey, m *module.Module, l looks) *search {
	return &search{field{cols: m.Geometry.Cols, rows: m.Geometry.Rows, height: m.CellRows(), gapX: 1, gapY: 1}, pyr, &l, windowPull, somehow}
}

// well is how much of what stands in the cells is explained where no other place needs to be looked at (ours).
const well = 0.65

// somehow is how much is explained at least where a glass was found by itself (ours).
const somehow = 0.4

// strangely is how much is explained at least of a ROM that nobody knows; that it is a glass, its marks say (ours).
const strangely = 0.1

// enough is how much must be explained at least, in dots, for it to be a text: that of two characters (ours).
const enough = 12

// explains reports whether a field was placed, and so much of what stands in its cells is explained there, of a text at least.
func (p *placed) explains(least float64) bool {
	return p.in != nil && p.explained >= least && p.score >= enough
}

// mostAreas is how many windows are looked into.
const mostAreas = 12

// near looks for the field near corners that somebody gave: those of its cells, or of the window round them.
func (q *search) near(c Corners, windows []Corners) (best placed, err error) {
	if _, err := span(c); err != nil {
		return best, err
	}
	if dist(c[0], c[1])/float64(q.cols) < smallest {
		return best, ErrSmall
	}
	best.score, q.pull = math.Inf(-1), cornersPull
	take := func(p placed, ok bool) {
		if ok && p.score > best.score {
			best = p
		}
	}
	for _, area := range append([]Corners{c, c.grown(0.08, 0.2)}, q.round(c, windows)...) {
		take(q.in(area))
	}
	take(q.at(c))
	if best.in == nil {
		return best, errFlat
	}
	if best = q.polished(best); !best.explains(q.least) { // nothing is written there, or what nobody can read
		return q.just(c)
	}
	return best, nil
}

// just is the field whose cells lie right at corners.
func (q *search) just(c Corners) (placed, error) {
	fl, err := flatten(q.pyr, c, q.cols*flatCell)
	if err != nil {
		return placed{}, err
	}
	p, ok := q.on(fl, 0, 0)
	if !ok {
		return p, errFlat
	}
	return p, nil
}

// on is the field in the middle of a flattened area, so many pixels from its sides and from its upper and lower edge.
func (q *search) on(fl *flat, x, y float64) (p placed, ok bool) {
	w, h := float64(fl.w), float64(fl.h)
	p = placed{
		field: q.field, looks: q.looks, in: fl, seen: new(seen), pull: q.pull, middle: Point{w / 2, h / 2},
		corners: Corners{{x, y}, {w - x, y}, {w - x, h - y}, {x, h - y}},
	}
	return p, p.moved()
}

// round are the windows that go round corners, a little larger than what they span.
func (q *search) round(c Corners, windows []Corners) (out []Corners) {
	w, h := c.sides()
	for _, o := range windows {
		if dist(c[0], o[0]) > dist(c[0], o[2]) {
			o = o.turned()
		}
		near := true
		for i := range c {
			near = near && math.Abs(c[i].X-o[i].X)+math.Abs(c[i].Y-o[i].Y) < 0.12*w+0.4*h
		}
		if near {
			out = append(out, o)
		}
	}
	return out
}

// at is the field whose cells lie right at corners, nearly.
func (q *search) at(c Corners) (best placed, ok bool) {
	const asideX, asideY = 0.08, 0.2
	fl, err := flatten(q.pyr, c.grown(asideX, asideY), int(float64(q.cols*flatCell)*(1+2*asideX)))
	if err != nil {
		return best, false
	}
	there, ok := q.on(fl, asideX/(1+2*asideX)*float64(fl.w), asideY/(1+2*asideY)*float64(fl.h))
	if !ok {
		return best, false
	}
	best.score = math.Inf(-1)
	for _, gapX := range []float64{0.7, 1, 1.4} {
		for _, gapY := range []float64{0.6, 1, 1.6, 2.2} {
			for _, dark := range []bool{false, true} {
				one := there
				one.gapX, one.gapY, one.dark = gapX, gapY, dark
				one.score = one.reads()
				if one.settle(4); one.score > best.score {
					best = one
				}
			}
		}
	}
	best.climb((*placed).reads, 0.5)
	best.settle(6)
	return best, true
}

// found are the windows of a picture, in its own pixels, at so many levels of grey.
func found(pyr []*Grey, levels int) (out []Corners) {
	last := pyr[len(pyr)-1]
	by := float64(int(1) << (len(pyr) - 1))
	for _, c := range windows(last, levels) {
		out = append(out, c.times(by))
		if c.cut(last) {
			c = c.squared()
			out = append(out, c.times(by))
		}
	}
	return out
}

// areas are where a field of this shape is looked for first.
func (q *search) areas(at *Corners, windows []Corners) (out []Corners) {
	if at != nil {
		return []Corners{*at}
	}
	return q.fitting(windows, mostAreas/3)
}

// fitting are the first of some windows that may hold cells as these.
func (q *search) fitting(windows []Corners, most int) (out []Corners) {
	for _, c := range windows {
		if q.fits(c) && len(out) < most {
			out = append(out, c)
		}
	}
	return out
}

// stands is how much stands in the cells and not between them, where they lie best in one of some areas: its mean, times the part of the area
// that they fill, less what counts against an unusual part.
func (q *search) stands(areas []Corners) float64 {
	best := math.Inf(-1)
	for _, c := range areas {
		fl, err := q.flat(c)
		if err != nil {
			continue
		}
		for _, p := range q.locate(fl) {
			w, h := p.size()
			across, down := p.corners.sides()
			dots := across * down / (w * h) / float64(fl.w*fl.h) // a dot's part of the area
			best = math.Max(best, p.stands()*dots*(1-0.1*p.fills()))
		}
	}
	return best
}

// unlikelyPlace is how much is explained at first where other areas are looked at before that one is looked at more closely; and mostUnlikely how
// many of those are looked at, where there is nothing better (ours).
const (
	unlikelyPlace = -0.3
	mostUnlikely  = 3
)

// anywhere looks for the field in windows, upright first.
func (q *search) anywhere(windows []Corners) (best placed, err error) {
	best.score = math.Inf(-1)
	areas := q.fitting(windows, mostAreas)
	type tried struct {
		area  Corners
		score float64
	}
	var list []tried
	var later [][]placed
	look := func(starts []placed) bool { // whether nothing better needs to be looked for
		p := q.closer(starts)
		if p.score-p.unusual > best.score-best.unusual {
			best = p
		}
		return best.explained > well && best.score > enough && best.unusual < usually
	}
	try := func(c Corners) bool {
		starts := q.begin(c)
		if len(starts) == 0 {
			return false
		}
		list = append(list, tried{c, starts[0].score})
		if starts[0].explained < unlikelyPlace {
			later = append(later, starts)
			return false
		}
		return look(starts)
	}
	if slices.ContainsFunc(areas, try) {
		return q.polished(best), nil
	}
	slices.SortFunc(list, func(a, b tried) int { return cmp.Compare(b.score, a.score) })
	for _, t := range list[:min(len(list), mostAreas/4)] { // it may lie upside down
		if try(t.area.turned()) {
			return q.polished(best), nil
		}
	}
	if !best.explains(well) {
		q.pull = textPull
		for _, c := range append(q.written(), wholes(q.pyr[0])...) {
			if q.fits(c) && (try(c) || try(c.turned())) {
				break
			}
		}
	}
	if !best.explains(q.least) {
		slices.SortFunc(later, func(a, b []placed) int { return better(a[0], b[0]) })
		for _, starts := range later[:min(len(later), mostUnlikely)] {
			if look(starts) {
				break
			}
		}
	}
	if best.in != nil {
		if best = q.polished(best); best.explains(q.least) {
			return best, nil
		}
	}
	return best, ErrNoGlass
}

// wholes are all of a picture, looked at straight, and from the left or the right.
func wholes(g *Grey) (out []Corners) {
	const x, y = 0.03, 0.15 // more round it, as cells may fill it
	w, h := float64(g.W), float64(g.H)
	for _, lean := range []float64{0, 0.06, -0.06, 0.12, -0.12} {
		l, r := h*(y+lean/2), h*(y-lean/2)
		out = append(out, Corners{{-x * w, -l}, {w + x*w, -r}, {w + x*w, h + r}, {-x * w, h + l}})
	}
	return out
}

// written are areas of the picture that may be the text itself.
func (q *search) written() (out []Corners) {
	by := float64(int(1) << (len(q.pyr) - 1))
	for _, c := range texts(q.pyr[len(q.pyr)-1]) {
		if c = c.times(by); q.fits(c) && len(out) < mostAreas/2 {
			c = aligned(q.pyr, c, q.across())
			out = append(out, c.grown(-tighterX, -tighterY), c)
		}
	}
	return out
}

// How much tighter a text is looked at first, as parts of its width and height: what is round it may be as busy (ours).
const tighterX, tighterY = 0.06, 0.18

// fits reports whether a window may hold cells as these, by its sides.
func (q *search) fits(c Corners) bool {
	w, h := c.sides()
	if w < smallest*float64(q.cols) {
		return false
	}
	shape := q.shape(w, h)
	return shape > 0.35 && shape < 1.7
}

// shape is how much wider an area is than the cells by themselves: 1 as much. Dots are a little higher than wide (common practice).
func (q *search) shape(w, h float64) float64 {
	return w / h / (float64(q.cols) * 6 / (float64(q.rows) * 9.5 * 1.15))
}

// across is how many pixels an area has across once it is flattened, if its cells fill it as they usually do.
func (q *search) across() int { return int(float64(q.cols*flatCell) / usualW) }

// flat is an area, flattened.
func (q *search) flat(area Corners) (*flat, error) { return flatten(q.pyr, area, q.across()) }

// in is where the field lies best in an area.
func (q *search) in(area Corners) (best placed, ok bool) {
	starts := q.begin(area)
	if len(starts) == 0 {
		return best, false
	}
	return q.closer(starts), true
}

// begin is where the field may lie in an area, the likeliest two.
func (q *search) begin(area Corners) []placed {
	fl, err := q.flat(area)
	if err != nil {
		return nil
	}
	return q.beginIn(fl)
}

// beginIn is begin in an area that is flattened.
func (q *search) beginIn(fl *flat) []placed {
	starts := q.locate(fl)
	for i := range starts {
		p := &starts[i]
		p.pull, p.looks = q.pull, q.looks
		p.score = p.reads()
		p.stretch()
		p.settle(3)
		p.climb((*placed).reads, 0.5)
	}
	slices.SortFunc(starts, better)
	return starts[:min(len(starts), 2)]
}

// better orders places by how well they can be read, the best first.
func better(a, b placed) int { return cmp.Compare(b.score, a.score) }

// closer looks more closely at where a field may lie, and returns the best place.
func (q *search) closer(starts []placed) placed {
	for i := range starts {
		p := &starts[i]
		p.settle(6)
		p.slide()
		for _, step := range []float64{1.2, 0.6} {
			p.climb((*placed).reads, step)
			p.settle(6)
		}
	}
	best := slices.MinFunc(starts, better)
	best.unusual = unusual * best.fills()
	return best
}

// fills is how far the field fills more or less of the window than is usual, squared: 1 is within what is common.
func (p *placed) fills() float64 {
	across, down := p.corners.sides()
	x, y := (across/float64(p.in.w)-usualW)/0.06, (down/float64(p.in.h)-linesIn.usual)/0.12
	return min(8, x*x+y*y)
}

// usually is up to what a place is usual enough for no other to be looked at.
const usually = 3 * unusual

// unusual is what counts against a geometry whose cells fill the window more or less than they usually do, in dots (ours).
const unusual = 4
