package photo

import (
	"math"
	"slices"
	"strings"
)

// few is up to how much is explained, in dots, where chance may have made characters of something else; fewLeast how much must be explained
// then, and odder by how much more where all of them are such as texts hardly have (ours).
const (
	few      = 150
	fewLeast = 0.5
	odder    = 0.5
)

// doubtful reports whether what was read in a picture may be something else than a text, by chance.
func (r *Reading) doubtful(g *Grey) bool {
	if r.Blank || r.score >= few {
		return false
	}
	gaps, known := r.gaps(g)
	return known && gaps < gapLeast || gaps < gapSurely && r.odd()
}

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
	gapSurely = 0.06
)

// gaps is by how much what lies between two dots that are on is fainter than these, as a part of their contrast; known where there are enough
// of them, and enough pixels for gaps to be seen.
func (r *Reading) gaps(g *Grey) (fainter float64, known bool) {
	w, _ := r.field.size()
	var faint []float64
	for i := range r.Cells {
		at := func(x, y float64) float64 {
			p := r.at.at(r.field.place(i%r.field.cols, i/r.field.cols, x+0.5, y+0.5))
			return g.At(p.X, p.Y) - r.ground[i]
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
