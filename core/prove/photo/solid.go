package photo

import "slices"

// Of a glass all of whose cells are solid (ours): in how many windows it is looked for, how much must be explained, and how many dots of a cell
// may be missing.
const (
	solidWindows = 4
	solidLeast   = 0.6
	solidMissing = 6
)

// solid looks for a window all of whose cells are blocks: what stands out there is the gaps between them, so that these are taken for the ground.
func (q *search) solid(windows []Corners) (best placed, ok bool) {
	for _, c := range q.fitting(windows, solidWindows) {
		fl, err := flatten(q.pyr, c, int(float64(q.cols*flatCell)/usualW))
		if err != nil {
			continue
		}
		sorted := slices.Sorted(slices.Values(fl.ink))
		for _, ground := range []float32{sorted[len(sorted)*19/20], sorted[len(sorted)/20]} { // brighter than the blocks, or darker
			other := *fl
			other.ink = make([]float32, len(fl.ink))
			for i, v := range fl.ink {
				other.ink[i] = v - ground
			}
			starts := q.beginIn(&other)
			if len(starts) == 0 {
				continue
			}
			if p := q.closer(starts); p.explained >= solidLeast && p.allSolid() && (!ok || p.score > best.score) {
				best, ok = p, true
			}
		}
	}
	return best, ok
}

// allSolid reports whether all cells are solid, but for a few dots.
func (p *placed) allSolid() bool {
	all, dots := p.look(), width*p.height
	for c := 0; c < len(all); c += dots + p.round() {
		missing := 0
		for _, v := range all[c : c+dots] {
			if v < 0.5 {
				missing++
			}
		}
		if missing > solidMissing {
			return false
		}
	}
	return true
}
