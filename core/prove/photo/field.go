package photo

import (
	"math"
	"slices"

	"slatebell/core/part/module"
)

// field is how cells and dots lie in the field: the gaps between cells are counted in dots, as makers make them
// differently.
type field struct {
	cols, rows, height int     // cells, and rows of dots of a cell
	gapX, gapY         float64 // between cells, in dots
}

const width = 5 // columns of dots of a cell

// size is that of the whole field, in dots.
func (f *field) size() (w, h float64) {
	return float64(f.cols*width) + float64(f.cols-1)*f.gapX, float64(f.rows*f.height) + float64(f.rows-1)*f.gapY
}

// Grid is where the cells of a module lie in a picture, row by row, as corners of the field say; gapX and gapY are the gaps between cells, in
// dots, as a Reading has them.
func Grid(m *module.Module, c Corners, gapX, gapY float64) (out []Corners, err error) {
	h, err := span(c)
	if err != nil {
		return nil, err
	}
	r := Reading{field: field{m.Geometry.Cols, m.Geometry.Rows, m.CellRows(), gapX, gapY}, at: h}
	for i := range m.Geometry.Cells() {
		out = append(out, r.Outline(i))
	}
	return out, nil
}

// Gaps are those between the cells, in dots, as they were fitted.
func (r *Reading) Gaps() (x, y float64) { return r.field.gapX, r.field.gapY }

// place is where a point of a cell lies in the field, from 0 to 1; x and y are counted in dots from the cell's upper left.
func (f *field) place(col, row int, x, y float64) (u, v float64) {
	w, h := f.size()
	return (float64(col)*(width+f.gapX) + x) / w, (float64(row)*(float64(f.height)+f.gapY) + y) / h
}

// sampled is what a picture shows of a field: of each cell its dots, without the light that falls on the glass.
type sampled struct {
	dots   [][]float64 // of each cell, row by row: brighter (+) or darker (−) than the ground beside it
	ground []float64   // of each cell
	noise  float64     // of the ground, as a standard deviation
}

// A dot is looked at in some places round its middle, and each gap beside a cell in some along it.
var aroundDot = [][2]float64{{0, 0}, {-0.2, -0.2}, {0.2, -0.2}, {-0.2, 0.2}, {0.2, 0.2}}

const alongGap = 7

// sample looks at all cells of a field. The ground of a cell is a plane through what stands in the gaps round it, which
// no dot ever darkens: so that light from one side, and a reflection, do not count.
func (f *field) sample(g *Grey, h *homography) (s sampled) {
	at := func(col, row int, x, y float64) float64 {
		p := h.at(f.place(col, row, x, y))
		return g.At(p.X, p.Y)
	}
	var residuals []float64
	for row := range f.rows {
		for col := range f.cols {
			sides := [4][]float64{}
			for i := range alongGap {
				along := (float64(i) + 0.5) / float64(alongGap)
				sides[0] = append(sides[0], at(col, row, -f.gapX/2, along*float64(f.height)))
				sides[1] = append(sides[1], at(col, row, width+f.gapX/2, along*float64(f.height)))
				sides[2] = append(sides[2], at(col, row, along*width, -f.gapY/2))
				sides[3] = append(sides[3], at(col, row, along*width, float64(f.height)+f.gapY/2))
			}
			var mean [4]float64
			for i, side := range sides {
				mean[i] = median(side)
				for _, v := range side {
					residuals = append(residuals, math.Abs(v-mean[i]))
				}
			}
			level := (mean[0] + mean[1] + mean[2] + mean[3]) / 4
			dots := make([]float64, 0, width*f.height)
			for y := range f.height {
				for x := range width {
					v := 0.0
					for _, by := range aroundDot {
						v += at(col, row, float64(x)+0.5+by[0], float64(y)+0.5+by[1])
					}
					v /= float64(len(aroundDot))
					ground := level + (mean[1]-mean[0])*((float64(x)+0.5)/width-0.5) + (mean[3]-mean[2])*((float64(y)+0.5)/float64(f.height)-0.5)
					dots = append(dots, v-ground)
				}
			}
			s.dots, s.ground = append(s.dots, dots), append(s.ground, level)
		}
	}
	s.noise = 1.4826 * median(residuals) // of a normal distribution
	return s
}

func median(list []float64) float64 {
	sorted := slices.Sorted(slices.Values(list))
	return sorted[len(sorted)/2]
}
