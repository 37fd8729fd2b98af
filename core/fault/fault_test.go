package fault

import (
	"os"
	"runtime"
	"testing"
	"time"

	"periph.io/x/conn/v3/physic"

	"slatebell/core/charrom"
	"slatebell/core/link"
	"slatebell/core/module"
	"slatebell/core/screen"
)

// subject is a module on a link that shows some rows.
func subject(t testing.TB, geometry string, kind link.Kind, tech module.Technology, rows ...string) *Subject {
	t.Helper()
	g, err := module.ParseGeometry(geometry)
	if err != nil {
		t.Fatal(err)
	}
	m := module.Module{Geometry: g, Technology: tech, ROM: charrom.A00()}
	s := &Subject{Module: m, Link: link.New(kind), Text: screen.Text{Rows: rows}}
	s.Link.Enables = g.Controllers
	s.Fitting = Fitting{Contrast: m.UsualContrast(), Pot: 10_000 * physic.Ohm, Light: 220 * physic.Ohm, Lamp: module.UsualBacklight("green")}
	return s
}

func TestX(t *testing.T) {
	for _, k := range link.Kinds {
		x, err := New(subject(t, "16x2", k, module.LCD, "Tide 3.2 m", "High 14:05"))
		if err != nil {
			t.Fatal(err)
		}
		var ms runtime.MemStats
		runtime.GC()
		runtime.ReadMemStats(&ms)
		t.Log(k, ms.HeapAlloc>>20, len(x.Faults), len(x.Cases), len(x.plays), len(x.seen), len(x.programs))
		now := time.Now()
		text, err := x.TestText()
		told, _ := x.Told(text)
		t.Log(text, told, err, time.Since(now), len(x.strands), len(x.seen), len(x.played))
		if false {
			for i, f := range x.Faults {
				v := x.View(x.Cases[i].View)
				t.Log(f.ID, v.Class(), v.Light, x.Text(v))
			}
		}
	}
}

func BenchmarkCatalogue(b *testing.B) {
	s := subject(b, "16x2", link.Parallel4, module.LCD, "Tide 3.2 m", "High 14:05")
	if k := os.Getenv("K"); k != "" {
		s = subject(b, os.Getenv("G"), link.Kind(k), module.Technology(os.Getenv("T")), "Tide 3.2 m", "High 14:05")
	}
	n := 0
	for b.Loop() {
		x, err := New(s)
		if err != nil {
			b.Fatal(err)
		}
		n = len(x.Cases)
	}
	b.ReportMetric(float64(n), "cases")
}
