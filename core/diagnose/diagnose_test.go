package diagnose

import (
	"testing"
	"time"

	"periph.io/x/conn/v3/physic"

	"slatebell/core/charrom"
	"slatebell/core/fault"
	"slatebell/core/link"
	"slatebell/core/module"
	"slatebell/core/screen"
	"slatebell/core/sight"
)

// index simulates the catalogue of a module on a link that shows some rows.
func index(t testing.TB, geometry string, kind link.Kind, tech module.Technology, rows ...string) *fault.Index {
	t.Helper()
	g, err := module.ParseGeometry(geometry)
	if err != nil {
		t.Fatal(err)
	}
	m := module.Module{Geometry: g, Technology: tech, ROM: charrom.A00()}
	s := &fault.Subject{Module: m, Link: link.New(kind), Text: screen.Text{Rows: rows}}
	s.Link.Enables = g.Controllers
	s.Fitting = fault.Fitting{Contrast: m.UsualContrast(), Pot: 10_000 * physic.Ohm, Light: 220 * physic.Ohm, Lamp: module.UsualBacklight("green")}
	x, err := fault.New(s)
	if err != nil {
		t.Fatal(err)
	}
	return x
}

func TestX(t *testing.T) {
	for _, k := range []link.Kind{link.Backpack, link.ShiftReg, link.Parallel4} {
		x := index(t, "16x2", k, module.LCD, "Tide 3.2 m", "High 14:05")
		f := New(x, nil)
		now := time.Now()
		hist := map[int]int{}
		tests, minutes, bad := 0, 0.0, 0
		for i := range x.Faults {
			s := f.Look(&x.Cases[i])
			r, err := f.Rank(&s)
			if err != nil {
				t.Fatal(err)
			}
			rank := 99
			for at, c := range r.Causes {
				if c.Case == i {
					rank = 0
					for _, o := range r.Causes[:at] {
						if o.Share > c.Share*1.0001 {
							rank++
						}
					}
				}
			}
			hist[min(rank, 20)]++
			if s.Typed != nil && rank > 2 {
				t.Log(rank, x.Faults[i].ID, x.Text(x.View(x.Cases[i].View)))
			}
			if false {
				steps, end, err := f.Plan(s, i)
				if err != nil {
					t.Fatal(err)
				}
				tests += len(steps)
				for _, st := range steps {
					minutes += st.Test.Minutes
				}
				ok := false
				for _, c := range end.Causes {
					if c.Share > end.Causes[0].Share*0.999 || c.Share > 0.1 {
						ok = ok || c.Case == i
					}
				}
				if !ok {
					bad++
					t.Log(x.Faults[i].ID, s.Class, len(steps), end.Causes[0].Share, x.Faults[x.Cases[end.Causes[0].Case].A].ID)
					for _, st := range steps {
						t.Log("    ", st.Test.ID, x.Says(st.Outcome))
					}
				}
			}
		}
		t.Log(k, hist, time.Since(now), float64(tests)/150, minutes/150, "bad", bad)
	}
}

func BenchmarkNext(b *testing.B) {
	x := index(b, "16x2", link.Parallel4, module.LCD, "Tide 3.2 m", "High 14:05")
	f := New(x, nil)
	if _, err := x.TestText(); err != nil {
		b.Fatal(err)
	}
	for b.Loop() {
		r, err := f.Rank(&Seen{Class: sight.Blank})
		if err != nil {
			b.Fatal(err)
		}
		if _, err := f.Next(r, nil); err != nil {
			b.Fatal(err)
		}
	}
}
