package photo

import "math"

// Of a window with nothing on it (ours): by how much it stands out from what is round it on every side, how even it is against that, and
// how near its shape is to what the module's is; what is smaller than a part of the picture is not looked at: a wall of bricks has many.
const (
	standsOut  = 0.12
	evenness   = 0.12
	shapeLeast = 0.6
	shapeMost  = 1.5
	blankLeast = 0.02 // of the picture
)

// blank looks for a window with nothing on it: even, of the module's shape, with a frame round it that is darker or brighter on every side.
// Of several the smallest counts, as the frame round a window has four corners too.
func (q *search) blank(windows []Corners) (best placed, ok bool) {
	const roundX, roundY = 0.06, 0.16 // of a window's sides: how far round it one looks
	least := math.Inf(1)
	for _, c := range windows {
		w, h := c.sides()
		if shape := q.shape(w, h) * usualW / linesIn.usual; shape < shapeLeast || shape > shapeMost || c.area() >= least || w < smallest*float64(q.cols) || c.area() < blankLeast*float64(q.pyr[0].W*q.pyr[0].H) {
			continue
		}
		fl, err := flatten(q.pyr, c.grown(roundX, roundY), q.cols*flatCell)
		if err != nil {
			continue
		}
		x, y := int(roundX/(1+2*roundX)*float64(fl.w)), int(roundY/(1+2*roundY)*float64(fl.h))
		grey := sumsOf(fl.w, fl.h, func(i int) float64 { return float64(fl.grey[i]) })
		mean := func(x0, y0, x1, y1 int) float64 { return grey.in(x0, y0, x1, y1) / float64((x1-x0)*(y1-y0)) }
		inside := mean(2*x, 2*y, fl.w-2*x, fl.h-2*y)
		sides := [4]float64{mean(0, y, x/2, fl.h-y), mean(fl.w-x/2, y, fl.w, fl.h-y), mean(x, 0, fl.w-x, y/2), mean(x, fl.h-y/2, fl.w-x, fl.h)}
		out := math.Inf(1)
		for _, s := range sides {
			if out = math.Min(out, math.Abs(s-inside)); (s > inside) != (sides[0] > inside) {
				out = 0
			}
		}
		if out < standsOut {
			continue
		}
		uneven, n := 0.0, 0.0
		for j := y + y/2; j < fl.h-y-y/2; j++ {
			for i := 2 * x; i < fl.w-2*x; i++ {
				uneven += math.Abs(float64(fl.ink[j*fl.w+i]))
				n++
			}
		}
		if uneven/n > evenness*out {
			continue
		}
		least = c.area()
		best, ok = q.on(fl, (1-usualW/(1+2*roundX))/2*float64(fl.w), (1-linesIn.usual/(1+2*roundY))/2*float64(fl.h))
	}
	return best, ok
}
