package photo

import (
	"math"
	"slices"
)

// Of a window with nothing on it (ours): by how much it stands out from what is round it on every side, of greys from 0 to 1 and as a part of the
// brighter of both; how far what stands on it may be off its ground, as a part of that or of its grey; how near its shape is to what the module's is, and its
// opposite edges to one length; what is smaller than a part of the picture is not looked at: a wall of bricks has many.
const (
	standsOut     = 0.04
	standsOutPart = 0.2
	nothing       = 0.5
	nothingPart   = 0.25
	nothingMost   = 0.01 // of its pixels that are farther off
	shapeLeast    = 0.6
	shapeMost     = 1.5
	blankEdges    = 0.7
	blankLeast    = 0.02 // of the picture
)

// blank looks for a window with nothing on it: of the module's shape, with a frame round it that is darker or brighter on every side, and hardly
// anything that differs from its ground as much. Of several the smallest counts, as the frame round a window has four corners too.
func (q *search) blank(windows []Corners) (best placed, ok bool) {
	least := math.Inf(1)
	for _, c := range windows {
		w, h := c.sides()
		shape := q.shape(w, h) * usualW / linesIn.usual
		picture := float64(q.pyr[0].W * q.pyr[0].H)
		if shape < shapeLeast || shape > shapeMost || !c.edgesAlike(blankEdges) || c.area() >= least || w < smallest*float64(q.cols) || c.area() < blankLeast*picture {
			continue
		}
		if p, bare := q.bare(c); bare {
			least, best, ok = c.area(), p, true
		}
	}
	return best, ok
}

// bare reports whether there is nothing on a window, and where its cells usually are.
func (q *search) bare(c Corners) (p placed, ok bool) {
	const roundX, roundY = 0.06, 0.16 // of a window's sides: how far round it one looks

	if (q.ends(c[0], c[1]) || q.ends(c[2], c[3])) && (q.ends(c[1], c[2]) || q.ends(c[3], c[0])) { // what the picture cuts off on two sides
		return p, false
	}
	fl, err := flatten(q.pyr, c.grown(roundX, roundY), q.cols*flatCell)
	if err != nil {
		return p, false
	}
	x, y := int(roundX/(1+2*roundX)*float64(fl.w)), int(roundY/(1+2*roundY)*float64(fl.h))
	grey := sumsOf(fl.w, fl.h, func(i int) float64 { return float64(fl.grey[i]) })
	mean := func(x0, y0, x1, y1 int) float64 { return grey.in(x0, y0, x1, y1) / float64((x1-x0)*(y1-y0)) }
	inside := mean(2*x, 2*y, fl.w-2*x, fl.h-2*y)
	sides := [4]float64{mean(0, y, x/2, fl.h-y), mean(fl.w-x/2, y, fl.w, fl.h-y), mean(x, 0, fl.w-x, y/2), mean(x, fl.h-y/2, fl.w-x, fl.h)}
	out := math.Inf(1)
	for _, s := range sides {
		by := math.Abs(s - inside)
		if out = math.Min(out, by); (s > inside) != (sides[0] > inside) || by < standsOutPart*math.Max(s, inside) {
			return p, false
		}
	}
	if out < standsOut {
		return p, false
	}
	smooth := blurredInk(fl.ink, fl.w, fl.h)
	var off []float32
	for j := y + y/2; j < fl.h-y-y/2; j++ {
		for i := 2 * x; i < fl.w-2*x; i++ {
			off = append(off, max(smooth[j*fl.w+i], -smooth[j*fl.w+i]))
		}
	}
	if slices.Sort(off); float64(off[int((1-nothingMost)*float64(len(off)-1))]) > math.Max(nothing*out, nothingPart*inside) {
		return p, false
	}
	return q.on(fl, (1-usualW/(1+2*roundX))/2*float64(fl.w), (1-linesIn.usual/(1+2*roundY))/2*float64(fl.h))
}

// ends reports whether the picture ends at the middle of an edge.
func (q *search) ends(a, b Point) bool {
	x, y := (a.X+b.X)/2, (a.Y+b.Y)/2
	return x < 2 || y < 2 || x > float64(q.pyr[0].W-2) || y > float64(q.pyr[0].H-2)
}
