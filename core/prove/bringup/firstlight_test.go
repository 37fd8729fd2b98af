package bringup

import (
	"fmt"
	"strings"
	"testing"

	"slatebell/core/bench"
	"slatebell/core/prove/run"
	"slatebell/core/prove/testbed"
	"slatebell/core/table/breadboard"
)

// lit returns a planned bench of one module.
func lit(t testing.TB, kind, technology string) bench.Bench {
	t.Helper()
	b := bench.New("lit")
	m := &b.Modules[0]
	m.ID, m.Link.Kind, m.Display.Technology, m.Display.Tint = "hall", kind, technology, "blue"
	m.Screens[0].Rows = []string{"Boat hall", "3 afloat"}
	w, err := breadboard.Plan(&b)
	if err != nil {
		t.Fatal(err)
	}
	b.Wiring = w
	return b
}

// TestFirstLight goes through the steps for each link: what ought to be seen is drawn
// by the rig, and what is seen instead names the wire that causes it, of which the glass
// is again the rig's.
func TestFirstLight(t *testing.T) {
	for _, c := range []struct{ kind, technology, steps string }{
		{"parallel4", "lcd", "short supply light contrast blocks text"},
		{"parallel8", "vfd", "short supply text"},
		{"shift", "lcd", "short supply light contrast blocks text"},
		{"backpack", "lcd", "short supply contrast blocks address text"},
	} {
		b := lit(t, c.kind, c.technology)
		steps, err := FirstLight(&b, 0)
		if err != nil {
			t.Fatal(err)
		}
		var ids []string
		byID := map[string]*Step{}
		for i := range steps {
			s := &steps[i]
			ids = append(ids, s.ID)
			byID[s.ID] = s
			if s.Title == "" || s.Do == "" || s.See == "" || len(s.Else) == 0 {
				t.Errorf("%s: %+v says too little", c.kind, s)
			}
			for _, e := range s.Else {
				for _, m := range e.Means {
					for _, n := range m.Wires {
						if n < 1 || n > len(b.Wiring.Wires) {
							t.Errorf("%s, %s: wire %d", c.kind, s.ID, n)
						}
					}
				}
			}
		}
		if got := strings.Join(ids, " "); got != c.steps {
			t.Errorf("%s: %s, want %s", c.kind, got, c.steps)
		}
		text := byID["text"]
		g := text.Glass[0].Moment.Glass(text.Glass[0].Module, text.Glass[0].Contrast)
		if rows := g.Text(text.Glass[0].Module.ROM); !strings.HasPrefix(rows[0], "Boat hall ") {
			t.Errorf("%s: the text is %q", c.kind, rows)
		}
		if blocks := byID["blocks"]; blocks != nil {
			g := blocks.Glass[0].Moment.Glass(blocks.Glass[0].Module, blocks.Glass[0].Contrast)
			if g.On || g.Cells[len(g.Cells)-1].Scanned || g.Look.Unused > 0.5 == (g.Look.Dark > 0.5) && g.Look.Dark < 0.1 {
				t.Errorf("%s: no row of blocks: %+v", c.kind, g.Look)
			}
		}
		if light := byID["light"]; light != nil && !light.Glass[0].Moment.Glass(light.Glass[0].Module, 1).Light {
			t.Errorf("%s: it is not lit", c.kind)
		}
	}

	// What a step says of a wire is what the glass shows without it.
	b := lit(t, "parallel4", "lcd")
	steps, _ := FirstLight(&b, 0)
	text := steps[len(steps)-1]
	tried := 0
	for _, e := range text.Else {
		for _, m := range e.Means {
			if !strings.HasSuffix(m.Says, "is open.") || len(m.Wires) != 1 {
				continue
			}
			tried++
			spoiled := b
			spoiled.Wiring.Wires = append(append([]bench.Wire{}, b.Wiring.Wires[:m.Wires[0]-1]...), b.Wiring.Wires[m.Wires[0]:]...)
			setup, err := testbed.Of(&spoiled, testbed.At{})
			if err != nil {
				t.Fatal(err)
			}
			r, err := run.Do(&setup, run.Options{})
			if err != nil {
				t.Fatal(err)
			}
			if shows := (&Shown{&r.Module, *r.Last(), r.Contrast}); look(shows) != look(e.Glass) {
				t.Errorf("%s: the glass shows %s, the step says %s", m.Says, describe(shows), describe(e.Glass))
			}
		}
	}
	if tried < 6 {
		t.Errorf("%d wires were tried", tried)
	}
}

// TestTurnedKnob turns the drawn potentiometer: the glass fades, and blocks at the
// other end.
func TestTurnedKnob(t *testing.T) {
	b := lit(t, "parallel4", "lcd")
	looks := func(turn float64) (lit, dark float64) {
		b.Modules[0].Fitting.Turn = &turn
		setup, err := testbed.Of(&b, testbed.At{})
		if err != nil {
			t.Fatal(err)
		}
		r, err := run.Do(&setup, run.Options{})
		if err != nil {
			t.Fatal(err)
		}
		g := r.Last().Glass(&r.Module, r.Contrast)
		return g.Look.Lit, g.Look.Dark
	}
	if lit, _ := looks(1); lit > 0.05 {
		t.Errorf("with VO at VDD dots are %.2f strong", lit)
	}
	b.Modules[0].Fitting.Turn = nil
	setup, _ := testbed.Of(&b, testbed.At{})
	r, _ := run.Do(&setup, run.Options{})
	if g := r.Last().Glass(&r.Module, r.Contrast); g.Look.Lit < 0.8 || g.Look.Dark > 0.3 {
		t.Errorf("as it stands it looks %+v", g.Look)
	}
}

// BenchmarkDrag moves a wire on a table of four modules and works out what it takes
// to show it: nets, findings with remedies, and the glass.
func BenchmarkDrag(b *testing.B) {
	doc := bench.New("four")
	doc.Host.Part = "ATmega2560"
	doc.Modules = nil
	for i, kind := range []string{"parallel4", "parallel8", "shift", "backpack"} {
		m := bench.NewModule(fmt.Sprintf("m%d", i), "")
		m.Link.Kind, m.Display.Geometry = kind, "20x4"
		m.Screens[0].Rows = []string{"Tide 3.2 m", "Boats out", "Wind NW", "Bell"}
		doc.Modules = append(doc.Modules, m)
	}
	w, err := breadboard.Plan(&doc)
	if err != nil {
		b.Fatal(err)
	}
	doc.Wiring = w
	at := 0
	for i, wire := range w.Wires {
		if strings.HasPrefix(wire.From, "host/") && strings.HasPrefix(wire.To, "board-1/e") {
			at = i
		}
	}
	home := doc.Wiring.Wires[at].To
	for i := 0; b.Loop(); i++ {
		doc.Wiring.Wires[at].To = home
		if i%2 == 0 {
			doc.Wiring.Wires[at].To = "board-1/h2"
		}
		table := breadboard.Lay(&doc)
		table.Check()
		table.Arrange()
		table.List()
		setup, err := testbed.Of(&doc, testbed.At{})
		if err != nil {
			b.Fatal(err)
		}
		if _, err := run.Do(&setup, run.Options{}); err != nil {
			b.Fatal(err)
		}
	}
}
