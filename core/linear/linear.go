// Package linear solves small sets of linear equations: the nodes of a circuit, the place of a glass in a photograph. It stands at the
// ground of core. A library for numbers would bring ten thousand lines for these forty; the tests hold them against one.
package linear

import "math"

// Solve returns the x of each equation, by Gaussian elimination with partial pivoting; m holds a row an equation, its right-hand side last, and is
// overwritten. It reports false, and zeros, where there is no solution, or not one only, as far as rounding lets that be seen.
func Solve(m [][]float64) (x []float64, ok bool) {
	size := len(m)
	x = make([]float64, size)
	for c := range size {
		pivot := c
		for r := c + 1; r < size; r++ {
			if math.Abs(m[r][c]) > math.Abs(m[pivot][c]) {
				pivot = r
			}
		}
		m[c], m[pivot] = m[pivot], m[c]
		if !(math.Abs(m[c][c]) > 0) { // zero, or no number
			return x, false
		}
		for r := c + 1; r < size; r++ {
			f := m[r][c] / m[c][c]
			for k := c; k <= size; k++ {
				m[r][k] -= f * m[c][k]
			}
		}
	}
	for r := size - 1; r >= 0; r-- {
		v := m[r][size]
		for k := r + 1; k < size; k++ {
			v -= m[r][k] * x[k]
		}
		x[r] = v / m[r][r]
	}
	return x, true
}

// Adjugate returns the adjugate of a matrix of three rows, row by row: its inverse times its determinant.
func Adjugate(m [9]float64) (out [9]float64) {
	for i := range 3 {
		for j := range 3 {
			a, b, c, d := (j+1)%3, (j+2)%3, (i+1)%3, (i+2)%3
			out[i*3+j] = m[a*3+c]*m[b*3+d] - m[a*3+d]*m[b*3+c]
		}
	}
	return out
}
