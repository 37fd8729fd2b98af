package linear

import (
	"math"
	"math/rand/v2"
	"testing"

	"gonum.org/v1/gonum/mat"
)

// TestSolve holds random equations of one to nine unknowns, some of which depend on each other, against gonum.
func TestSolve(t *testing.T) {
	r := rand.New(rand.NewPCG(29, 1))
	singulars := 0
	for n := range 20_000 {
		size := 1 + n%9
		m := make([][]float64, size)
		a, b := mat.NewDense(size, size, nil), mat.NewVecDense(size, nil)
		for i := range m {
			m[i] = make([]float64, size+1)
			for j := range m[i] {
				m[i][j] = math.Round(r.NormFloat64()*8) * math.Pow(10, float64(r.IntN(3)))
			}
			if i > 0 && n%7 == 0 { // an equation that says nothing
				for j := range m[i] {
					m[i][j] = 0
				}
			}
			a.SetRow(i, m[i][:size])
			b.SetVec(i, m[i][size])
		}
		var want mat.VecDense
		err := want.SolveVec(a, b)
		got, ok := Solve(m)
		if !ok {
			singulars++
			if err == nil {
				t.Fatalf("no solution of %v", mat.Formatted(a))
			}
			continue
		}
		if err != nil {
			continue // so badly conditioned that gonum gives no figure
		}
		for i, x := range got {
			if w := want.AtVec(i); math.Abs(x-w) > 1e-14*mat.Cond(a, 2)*math.Max(mat.Norm(&want, 2), 1) {
				t.Fatalf("x%d of %v is %g, want %g", i, mat.Formatted(a), x, w)
			}
		}
	}
	if singulars < 1000 {
		t.Errorf("%d of the equations had no solution", singulars)
	}
	if _, ok := Solve([][]float64{{math.NaN(), 1}}); ok {
		t.Error("what is no number is solved")
	}
}

// TestAdjugate multiplies random matrices by their adjugates.
func TestAdjugate(t *testing.T) {
	r := rand.New(rand.NewPCG(29, 2))
	for range 1000 {
		var m [9]float64
		for i := range m {
			m[i] = r.NormFloat64()
		}
		adj := Adjugate(m)
		var got mat.Dense
		got.Mul(mat.NewDense(3, 3, m[:]), mat.NewDense(3, 3, adj[:]))
		want := mat.NewDiagDense(3, []float64{1, 1, 1})
		var scaled mat.Dense
		scaled.Scale(mat.Det(mat.NewDense(3, 3, m[:])), want)
		if !mat.EqualApprox(&got, &scaled, 1e-12) {
			t.Fatalf("%v times its adjugate is %v", m, mat.Formatted(&got))
		}
	}
}
