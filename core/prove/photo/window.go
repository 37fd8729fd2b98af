package photo

import (
	"cmp"
	"math"
	"slices"
)

// Windows are looked for in a picture of that many pixels along its longer side, or fewer.
const seekSide = 720

// half is the picture at half its size, each pixel the mean of four.
func (g *Grey) half() *Grey {
	out := &Grey{W: max(1, g.W/2), H: max(1, g.H/2)}
	out.Pix = make([]float32, out.W*out.H)
	for j := range out.H {
		up, low := g.Pix[2*j*g.W:], g.Pix[min(2*j+1, g.H-1)*g.W:]
		row := out.Pix[j*out.W : (j+1)*out.W]
		for i := range row {
			k := min(2*i+1, g.W-1)
			row[i] = (up[2*i] + up[k] + low[2*i] + low[k]) / 4
		}
	}
	return out
}

// pyramid is a picture, its half, the half of that and so on, down to one in which windows are looked for.
func pyramid(g *Grey) []*Grey {
	list := []*Grey{g}
	for max(g.W, g.H) > seekSide {
		g = g.half()
		list = append(list, g)
	}
	return list
}

// times are corners in a picture that is larger by a factor.
func (c Corners) times(by float64) Corners {
	for i := range c {
		c[i].X *= by
		c[i].Y *= by
	}
	return c
}

// grown are corners with more round them, as parts of the width and the height.
func (c *Corners) grown(x, y float64) Corners {
	h, err := span(*c)
	if err != nil {
		return *c
	}
	return Corners{h.at(-x, -y), h.at(1+x, -y), h.at(1+x, 1+y), h.at(-x, 1+y)}
}

// area is that of the four-sided figure, below 0 where it goes round the other way.
func (c *Corners) area() float64 { return areaOf(c[:]) }

// sides are the lengths of its upper and lower, and of its left and right edges, as means.
func (c *Corners) sides() (w, h float64) {
	return (dist(c[0], c[1]) + dist(c[3], c[2])) / 2, (dist(c[0], c[3]) + dist(c[1], c[2])) / 2
}

func dist(a, b Point) float64 { return math.Hypot(a.X-b.X, a.Y-b.Y) }

// lying turns corners so that the longer edges are above and below and the figure stands as upright as it can.
func (c Corners) lying() Corners {
	if w, h := c.sides(); h > w {
		c = Corners{c[1], c[2], c[3], c[0]}
	}
	if c[1].X-c[0].X+c[2].X-c[3].X < 0 {
		c = c.turned()
	}
	return c
}

// turned are the corners of the same figure upside down.
func (c Corners) turned() Corners { return Corners{c[2], c[3], c[0], c[1]} }

// A window is far from square, and its opposite edges are nearly of one length (ours: 40° of slant from an arm's length).
const (
	leastLying  = 1.15
	leastEdges  = 0.45
	leastAcross = 40  // pixels of the picture that is searched
	leastFilled = 0.5 // of a hull, by pixels of one kind: characters take some away
	leastCorner = 0.85
)

// plausible reports whether a figure may be a window that is looked at from the side.
func (c *Corners) plausible() bool {
	w, h := c.sides()
	if w < leastLying*h || w < leastAcross || h < 6 || c.area() <= 0 {
		return false
	}
	return c.edgesAlike(leastEdges)
}

// edgesAlike reports whether of opposite edges the shorter is longer than a part of the other.
func (c *Corners) edgesAlike(part float64) bool {
	alike := func(a, b float64) bool { return min(a, b) > part*max(a, b) }
	return alike(dist(c[0], c[1]), dist(c[3], c[2])) && alike(dist(c[0], c[3]), dist(c[1], c[2]))
}

// windows are the areas with four corners that may be the glass: those brighter or darker than what is round them, at any of some
// levels of grey. The list begins with the largest that the picture does not cut off.
func windows(g *Grey, levels int) []Corners {
	sorted := slices.Clone(g.Pix)
	slices.Sort(sorted)
	var out []Corners
	var badly []float64 // of each, how far its area is from that of its hull
	region := newRegions(g)
	last := float32(-1)
	for _, v := range levelsOf(sorted, levels) {
		if math.Abs(float64(v-last)) < 0.01 {
			continue
		}
		last = v
		for _, bright := range []bool{true, false} {
			region.each(v, bright, func(hull []Point, pixels int) {
				c, off, ok := figureOf(hull, pixels)
				if c = c.lying(); !ok || !c.plausible() {
					return
				}
				if i := slices.IndexFunc(out, c.near); i < 0 {
					out, badly = append(out, c), append(badly, off)
				} else if off < badly[i] {
					out[i], badly[i] = c, off
				}
			})
		}
	}
	slices.SortFunc(out, func(a, b Corners) int { return cmp.Compare(b.area(), a.area()) })
	cuts := 0
	rank := map[Corners]int{}
	for _, c := range out {
		switch cut := c.cut(g); {
		case !cut && c.area() >= large*float64(g.W*g.H):
			rank[c] = 0
		case c.area() > nearlyAll*float64(g.W*g.H):
			rank[c] = 4
		case cut && cuts < cutFirst:
			rank[c] = 1
			cuts++
		case !cut: // single cells look like windows too
			rank[c] = 2
		default:
			rank[c] = 3
		}
	}
	slices.SortStableFunc(out, func(a, b Corners) int { return rank[a] - rank[b] })
	return out
}

// large is from which part of the picture on a window is looked at before those that the picture cuts off, of which so many come next; what is
// nearly all of the picture comes last.
const (
	large     = 0.03
	nearlyAll = 0.85
	cutFirst  = 3
)

// cut reports whether the edges of a picture cut a figure off.
func (c *Corners) cut(g *Grey) bool {
	return slices.ContainsFunc(c[:], func(p Point) bool { return p.X < 2 || p.Y < 2 || p.X > float64(g.W-2) || p.Y > float64(g.H-2) })
}

// squared is a figure between the same upper and lower edge whose left and right edges stand upright on these, and go round it: what the edges
// of a picture cut off has theirs.
func (c *Corners) squared() Corners {
	along := Point{c[1].X - c[0].X + c[2].X - c[3].X, c[1].Y - c[0].Y + c[2].Y - c[3].Y}
	if by := math.Hypot(along.X, along.Y); by > 0 {
		along.X, along.Y = along.X/by, along.Y/by
	}
	far := func(p Point) float64 { return p.X*along.X + p.Y*along.Y }
	on := func(a, b Point, at float64) Point { // where the line through two points is so far along
		if by := far(b) - far(a); by > 0 {
			at = (at - far(a)) / by
			return Point{a.X + at*(b.X-a.X), a.Y + at*(b.Y-a.Y)}
		}
		return a
	}
	left, right := math.Min(far(c[0]), far(c[3])), math.Max(far(c[1]), far(c[2]))
	return Corners{on(c[0], c[1], left), on(c[0], c[1], right), on(c[3], c[2], right), on(c[3], c[2], left)}
}

// usualLevels is how many levels of grey are tried, by how often they occur and again evenly; and valleys how many more, that hardly occur while
// brighter and darker ones do.
const (
	usualLevels = 7
	manyLevels  = 24 // where nothing was read
	valleys     = 5
)

// levelsOf are the levels of grey that may part a window from what is round it, of greys in their order.
func levelsOf(sorted []float32, levels int) (out []float32) {
	least, most := sorted[0], sorted[len(sorted)-1]
	for i := range levels {
		out = append(out, sorted[(2*i+1)*(len(sorted)-1)/(2*levels)], least+(most-least)*float32(2*i+1)/float32(2*levels))
	}
	const bins, near = 128, 3
	var count [bins]float64
	for _, v := range sorted {
		count[min(bins-1, int(v*bins))]++
	}
	var smooth [bins]float64
	for i := range count {
		for k := max(0, i-near); k <= min(bins-1, i+near); k++ {
			smooth[i] += count[k]
		}
	}
	type valley struct {
		at    int
		depth float64 // how much oftener the lower of the hills on both sides occurs
	}
	var list []valley
	for i := 1; i < bins-1; i++ {
		if smooth[i] > smooth[i-1] || smooth[i] >= smooth[i+1] {
			continue
		}
		list = append(list, valley{i, min(slices.Max(smooth[:i]), slices.Max(smooth[i+1:])) - smooth[i]})
	}
	slices.SortFunc(list, func(a, b valley) int { return cmp.Compare(b.depth, a.depth) })
	for _, v := range list[:min(valleys, len(list))] {
		out = append(out, (float32(v.at)+0.5)/bins)
	}
	slices.Sort(out)
	return out
}

// near reports whether two figures are nearly the same.
func (c *Corners) near(other Corners) bool {
	w, h := c.sides()
	for i := range c {
		if dist(c[i], other[i]) > math.Max(2, 0.02*(w+h)) {
			return false
		}
	}
	return true
}

// regions finds what hangs together in a picture.
type regions struct {
	g     *Grey
	seen  []int32 // the round in which a pixel was last seen
	round int32
	queue []int32
	edges []Point
	left  []int32 // of each row, the first and last column that belongs to the region
	right []int32
	top   []int32 // of each column, the first and last row
	low   []int32
}

func newRegions(g *Grey) *regions {
	return &regions{
		g: g, seen: make([]int32, g.W*g.H), left: make([]int32, g.H), right: make([]int32, g.H), top: make([]int32, g.W), low: make([]int32, g.W),
	}
}

// each calls found with the hull of every region of pixels that are brighter than a level, or not, and how many they are.
func (r *regions) each(level float32, bright bool, found func(hull []Point, pixels int)) {
	g := r.g
	r.round++
	in := func(i int32) bool { return (g.Pix[i] > level) == bright }
	least := leastAcross * 6
	for start := range int32(len(g.Pix)) {
		if r.seen[start] == r.round || !in(start) {
			continue
		}
		r.seen[start] = r.round
		r.queue = append(r.queue[:0], start)
		for k := 0; k < len(r.queue); k++ {
			i := r.queue[k]
			x := i % int32(g.W)
			for _, n := range [4]int32{i - 1, i + 1, i - int32(g.W), i + int32(g.W)} {
				if n < 0 || int(n) >= len(g.Pix) || n == i-1 && x == 0 || n == i+1 && x == int32(g.W)-1 || r.seen[n] == r.round || !in(n) {
					continue
				}
				r.seen[n] = r.round
				r.queue = append(r.queue, n)
			}
		}
		if len(r.queue) >= least {
			found(r.hull(), len(r.queue))
		}
	}
}

// hull is that of the region in the queue.
func (r *regions) hull() []Point {
	w := int32(r.g.W)
	for i := range r.left {
		r.left[i], r.right[i] = math.MaxInt32, -1
	}
	for i := range r.top {
		r.top[i], r.low[i] = math.MaxInt32, -1
	}
	for _, i := range r.queue {
		x, y := i%w, i/w
		r.left[y], r.right[y] = min(r.left[y], x), max(r.right[y], x)
		r.top[x], r.low[x] = min(r.top[x], y), max(r.low[x], y)
	}
	r.edges = r.edges[:0]
	for y := range r.left {
		if r.right[y] >= 0 {
			r.edges = append(r.edges, Point{float64(r.left[y]), float64(y) + 0.5}, Point{float64(r.right[y]) + 1, float64(y) + 0.5})
		}
	}
	for x := range r.top {
		if r.low[x] >= 0 {
			r.edges = append(r.edges, Point{float64(x) + 0.5, float64(r.top[x])}, Point{float64(x) + 0.5, float64(r.low[x]) + 1})
		}
	}
	return hullOf(r.edges)
}

// figureOf is what a region of so many pixels looks like, where its hull has four corners, and how far the figure's area is from the hull's.
func figureOf(hull []Point, pixels int) (c Corners, badly float64, ok bool) {
	whole := math.Abs(areaOf(hull))
	if float64(pixels) < leastFilled*whole {
		return c, 0, false
	}
	c, ok = cornersOf(hull)
	if !ok || c.area() < leastCorner*whole {
		return c, 0, false
	}
	c = straightened(c, hull)
	return c, math.Abs(1 - c.area()/whole), true
}

// areaOf is the area of a polygon, below 0 where it goes round anticlockwise as the picture is seen.
func areaOf(list []Point) (a float64) {
	for i, p := range list {
		q := list[(i+1)%len(list)]
		a += p.X*q.Y - q.X*p.Y
	}
	return a / 2
}

// hullOf is the convex hull of points, clockwise as the picture is seen (a monotone chain, Andrew, Information Processing Letters 9, 1979, from memory).
func hullOf(list []Point) []Point {
	slices.SortFunc(list, func(a, b Point) int { return cmp.Or(cmp.Compare(a.X, b.X), cmp.Compare(a.Y, b.Y)) })
	var out []Point
	chain := func(list []Point, keep int) {
		for _, p := range list {
			for len(out) > keep+1 && cross(out[len(out)-2], out[len(out)-1], p) <= 0 {
				out = out[:len(out)-1]
			}
			out = append(out, p)
		}
	}
	chain(list, 0)
	back := slices.Clone(list)
	slices.Reverse(back)
	out = out[:len(out)-1]
	chain(back, len(out))
	return out[:len(out)-1]
}

func cross(a, b, c Point) float64 { return (b.X-a.X)*(c.Y-a.Y) - (b.Y-a.Y)*(c.X-a.X) }

// cornersOf is the largest figure with four corners in a hull: of each pair of opposite corners, the points farthest off to either side.
func cornersOf(hull []Point) (best Corners, ok bool) {
	for len(hull) > 40 { // of points that lie nearly on a line every second one is enough
		least, at := math.Inf(1), 0
		for i := range hull {
			if a := math.Abs(cross(hull[(i+len(hull)-1)%len(hull)], hull[i], hull[(i+1)%len(hull)])); a < least {
				least, at = a, i
			}
		}
		hull = slices.Delete(slices.Clone(hull), at, at+1)
	}
	most := 0.0
	for i := range hull {
		for j := i + 2; j < len(hull); j++ {
			one, other, a, b := -1, -1, 0.0, 0.0
			for k := range hull {
				d := cross(hull[i], hull[j], hull[k])
				if k > i && k < j && math.Abs(d) > a {
					one, a = k, math.Abs(d)
				}
				if (k < i || k > j) && math.Abs(d) > b {
					other, b = k, math.Abs(d)
				}
			}
			if one >= 0 && other >= 0 && a+b > most {
				most, best, ok = a+b, Corners{hull[i], hull[one], hull[j], hull[other]}, true
			}
		}
	}
	if ok && best.area() < 0 {
		best[1], best[3] = best[3], best[1]
	}
	return best, ok
}

// boxOf is the rectangle round a hull that has the least area: one of its edges lies on one of the hull's.
func boxOf(hull []Point) (best Corners) {
	least := math.Inf(1)
	for k := range hull {
		a, b := hull[k], hull[(k+1)%len(hull)]
		length := dist(a, b)
		if length == 0 {
			continue
		}
		ux, uy := (b.X-a.X)/length, (b.Y-a.Y)/length
		left, right, far := math.Inf(1), math.Inf(-1), 0.0
		for _, p := range hull {
			along, off := (p.X-a.X)*ux+(p.Y-a.Y)*uy, (p.Y-a.Y)*ux-(p.X-a.X)*uy
			left, right, far = math.Min(left, along), math.Max(right, along), math.Max(far, off)
		}
		if area := (right - left) * far; area < least {
			at := func(along, off float64) Point { return Point{a.X + along*ux - off*uy, a.Y + along*uy + off*ux} }
			least, best = area, Corners{at(left, 0), at(right, 0), at(right, far), at(left, far)}
		}
	}
	return best
}

// straightened moves corners to where the straight parts of the edges would meet: the corners of a frame are round.
func straightened(c Corners, hull []Point) Corners {
	var lines [4][3]float64 // a·x + b·y = c
	for i := range c {
		p, q := c[i], c[(i+1)%4]
		length := dist(p, q)
		var n, sx, sy, sxx, sxy, syy float64
		for k := range hull { // the hull's edges, by their length, where they run along this one
			a, b := hull[k], hull[(k+1)%len(hull)]
			for _, t := range [5]float64{0.1, 0.3, 0.5, 0.7, 0.9} {
				m := Point{a.X + t*(b.X-a.X), a.Y + t*(b.Y-a.Y)}
				along := ((m.X-p.X)*(q.X-p.X) + (m.Y-p.Y)*(q.Y-p.Y)) / (length * length)
				if off := math.Abs(cross(p, q, m)) / length; along < 0.08 || along > 0.92 || off > 0.05*length {
					continue
				}
				by := dist(a, b)
				n, sx, sy = n+by, sx+by*m.X, sy+by*m.Y
				sxx, sxy, syy = sxx+by*m.X*m.X, sxy+by*m.X*m.Y, syy+by*m.Y*m.Y
			}
		}
		if n == 0 {
			return c
		}
		mx, my := sx/n, sy/n
		angle := 0.5 * math.Atan2(2*(sxy/n-mx*my), sxx/n-mx*mx-(syy/n-my*my))
		a, b := -math.Sin(angle), math.Cos(angle)
		lines[i] = [3]float64{a, b, a*mx + b*my}
	}
	out := c
	w, h := c.sides()
	for i := range c {
		l, m := lines[(i+3)%4], lines[i]
		det := l[0]*m[1] - m[0]*l[1]
		if math.Abs(det) < 0.2 {
			return c
		}
		out[i] = Point{(l[2]*m[1] - m[2]*l[1]) / det, (l[0]*m[2] - m[0]*l[2]) / det}
		if dist(out[i], c[i]) > 0.15*(w+h) {
			return c
		}
	}
	return out
}
