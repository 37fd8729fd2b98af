package photo

import (
	"math"
	"slices"
)

// Of a glass whose cells are solid (ours): in how many windows it is looked for, how much must be explained, and how many dots of a cell
// may be missing.
const (
	solidWindows = 4
	solidLeast   = 0.6
	solidMissing = 6
)

// solid looks for a window whose cells are blocks, or those of some rows: what stands out there is the gaps between them, so that these are taken
// for the ground.
func (q *search) solid(windows []Corners) (best placed, ok bool) {
	for _, c := range q.fitting(windows, solidWindows) {
		fl, err := q.flat(c)
		if err != nil {
			continue
		}
		for _, bright := range []bool{true, false} { // the ground is brighter than the blocks, or darker
			other := *fl
			other.ink = fl.overGaps(bright)
			starts := q.beginIn(&other)
			if len(starts) == 0 {
				continue
			}
			if p := q.closer(starts); p.explained >= solidLeast && p.solidRows() && (!ok || p.score > best.score) {
				best, ok = p, true
			}
		}
	}
	return best, ok
}

// tilesAcross is of how many tiles a window is made up, across and down, of each of which the ground is what is brightest, or darkest, but for a few
// pixels.
const tilesAcross, tilesDown = 6, 2

// overGaps is how far each pixel differs from the ground, where this is what is brightest in a window, or darkest: the gaps between blocks, and what
// is round them.
func (f *flat) overGaps(bright bool) []float32 {
	var ground [tilesDown][tilesAcross]float32
	for j := range ground {
		for i := range ground[j] {
			var tile []float32
			for y := j * f.h / tilesDown; y < (j+1)*f.h/tilesDown; y++ {
				tile = append(tile, f.grey[y*f.w+i*f.w/tilesAcross:y*f.w+(i+1)*f.w/tilesAcross]...)
			}
			slices.Sort(tile)
			if bright {
				ground[j][i] = tile[len(tile)*19/20]
			} else {
				ground[j][i] = tile[len(tile)/20]
			}
		}
	}
	at := func(v float64, n int) (k int, part float32) { // between the middles of two tiles
		v = math.Max(0, math.Min(v*float64(n)-0.5, float64(n)-1.001))
		return int(v), float32(v - math.Floor(v))
	}
	out := make([]float32, len(f.grey))
	for y := range f.h {
		j, down := at(float64(y)/float64(f.h), tilesDown)
		for x := range f.w {
			i, across := at(float64(x)/float64(f.w), tilesAcross)
			upper := ground[j][i]*(1-across) + ground[j][i+1]*across
			lower := ground[j+1][i]*(1-across) + ground[j+1][i+1]*across
			out[y*f.w+x] = f.grey[y*f.w+x] - upper*(1-down) - lower*down
		}
	}
	return out
}

// solidRows reports whether the cells of each row are all solid, or all bare, but for a few dots; and those of one are solid.
func (p *placed) solidRows() bool {
	all, dots := p.look(), width*p.height
	solid := 0
	for row := range p.rows {
		var on [2]bool // cells that are bare, and that are solid
		for col := range p.cols {
			c, n := (row*p.cols+col)*(dots+p.round()), 0
			for _, v := range all[c : c+dots] {
				if v >= 0.5 {
					n++
				}
			}
			if n > solidMissing && n < dots-solidMissing {
				return false
			}
			on[min(1, n/(dots/2))] = true
		}
		if on[0] && on[1] {
			return false
		}
		if on[1] {
			solid++
		}
	}
	return solid > 0
}
