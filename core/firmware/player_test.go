package firmware_test

import (
	"bytes"
	"fmt"
	"math/rand/v2"
	"testing"

	"slatebell/core/bench"
	"slatebell/core/firmware"
	"slatebell/core/firmware/firmtest"
	"slatebell/core/rig"
)

// TestPlayer makes calls at random for benches at random and plays what is sent into the
// rig: after every call the glass shows just what it is to show, and no limit is broken.
func TestPlayer(t *testing.T) {
	played, held := 0, 0
	for seed := range uint64(300) {
		r := rand.New(rand.NewPCG(seed, 11))
		im, err := firmware.New(firmtest.Bench(r))
		if err != nil {
			continue // more glyphs than slots: said of it
		}
		for i := range im.Modules {
			m := &im.Modules[i]
			played++
			if m.Held {
				held++
			}
			calls := firmtest.Calls(r, m, 25)
			for n := range len(calls) + 1 {
				if n < len(calls) && n%6 != 0 {
					continue
				}
				p, err := firmware.NewPlayer(m)
				if err != nil {
					t.Fatal(err)
				}
				p.Begin()
				for k := range n {
					calls[k].Do(p, m)
				}
				hardware, err := rig.New(m.Display, m.Link)
				if err != nil {
					t.Fatal(err)
				}
				hardware.Play(p.Program(), nil)
				mo := hardware.Moment()
				glass := mo.Glass(&m.Display, 0.9)
				var codes []byte
				for _, c := range glass.Cells {
					codes = append(codes, c.Code)
				}
				if want := p.Shows(); !bytes.Equal(codes, want) {
					t.Fatalf("seed %d, module %d (%s, %s), %d calls: % X, want % X", seed, i, m.Display.Geometry.Name, m.Link.Kind, n, codes, want)
				}
				if v, _ := hardware.Violations(); len(v) > 0 {
					t.Fatalf("seed %d, module %d: %+v", seed, i, v[0])
				}
			}
		}
	}
	if played < 300 || held < 12 {
		t.Errorf("%d modules played, of which %d load glyphs as screens need them", played, held)
	}
}

// TestProve finds nothing on random benches, unless their screens are written over, and
// does find what that leaves.
func TestProve(t *testing.T) {
	left := 0
	for seed := range uint64(60) {
		r := rand.New(rand.NewPCG(seed, 5))
		b := firmtest.Bench(r)
		for _, school := range []string{"", "over"} {
			for i := range b.Modules {
				if school != "" {
					b.Modules[i].Changes = school
				}
			}
			im, err := firmware.New(b)
			if err != nil {
				continue
			}
			for i := range im.Modules {
				p, err := im.Modules[i].Prove()
				if err != nil {
					t.Fatal(err)
				}
				if school == "" && len(p.Findings) > 0 || p.Calls < 2*len(im.Modules[i].Screens) {
					t.Errorf("seed %d, module %d: %d calls, %+v", seed, i, p.Calls, p.Findings)
				}
				if school == "over" && len(p.Findings) > 0 && p.Findings[0].Code == "code.glass-differs" {
					left++
				}
			}
		}
	}
	if left < 20 {
		t.Errorf("%d modules left old characters", left)
	}
}

// BenchmarkImage makes the image of the largest module that has a table for every change,
// and proves it.
func BenchmarkImage(b *testing.B) {
	doc := bench.New("many screens")
	doc.Modules[0].Display.Geometry = "20x4"
	doc.Modules[0].Screens = nil
	for i := range firmware.MaxScreens {
		doc.Modules[0].Screens = append(doc.Modules[0].Screens, bench.Screen{ID: fmt.Sprintf("s%d", i), Rows: []string{fmt.Sprintf("Boat %d is out", i), "since noon", fmt.Sprintf("%d aboard", i%4), "back at high water"}})
	}
	for b.Loop() {
		im, err := firmware.New(&doc)
		if err != nil {
			b.Fatal(err)
		}
		if p, err := im.Modules[0].Prove(); err != nil || len(p.Findings) > 0 {
			b.Fatal(err, p)
		}
	}
}

// TestRewrite holds what a player sends for a changed value against the cheapest update of
// those cells, by the measured costs of random links: it never takes longer.
func TestRewrite(t *testing.T) {
	held := 0
	for seed := range uint64(400) {
		r := rand.New(rand.NewPCG(seed, 7))
		im, err := firmware.New(firmtest.Bench(r))
		if err != nil {
			continue
		}
		for i := range im.Modules {
			m := &im.Modules[i]
			if m.Polls || m.Display.Geometry.Name == "16x1split" { // its cells do not all lie side by side
				continue
			}
			p, err := firmware.NewPlayer(m)
			if err != nil {
				t.Fatal(err)
			}
			p.Begin()
			for _, c := range firmtest.Calls(r, m, 30) {
				var of []int // places that show the value
				for k := range m.Places {
					if pl := &m.Places[k]; pl.Screen == p.Screen() && pl.Value == c.Value && c.Value >= 0 {
						of = append(of, k)
					}
				}
				if len(of) != 1 || m.Screens[p.Screen()].Cursor.Line || m.Screens[p.Screen()].Cursor.Block {
					c.Do(p, m)
					continue
				}
				least := p.Cheapest(of[0], m.Text(&m.Places[of[0]], c.Told))
				from, last := p.Sent(), p.Last()
				c.Do(p, m)
				if got := p.Took(from, last); got != least {
					t.Errorf("seed %d, module %d, %+v: takes %+v, the cheapest %+v", seed, i, c, got, least)
				}
				held++
			}
		}
	}
	if held < 1200 {
		t.Errorf("%d changes held", held)
	}
}
