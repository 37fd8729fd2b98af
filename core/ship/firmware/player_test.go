package firmware_test

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"testing"

	"slatebell/core/bench"
	"slatebell/core/prove/run"
	"slatebell/core/prove/testbed"
	"slatebell/core/ship/firmware"
	"slatebell/core/ship/firmware/firmtest"
	"slatebell/core/text/field"
	"slatebell/core/text/glyph"
	"slatebell/core/text/screen"
	"slatebell/core/wire/rig"
	"slatebell/core/wire/sequence"
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
				if at := m.Differs(hardware.Moment(), p.Screen(), p.Shows(), p.Dark()); at >= 0 {
					t.Fatalf("seed %d, module %d (%s, %s), %d calls: cell %d differs from % X", seed, i, m.Display.Geometry.Name, m.Link.Kind, n, at, p.Shows())
				}
				if p.Screen() < m.Blank() && !p.Dark() {
					holdCursor(t, m, hardware.Moment(), m.Screens[p.Screen()].Cursor, slices.ContainsFunc(calls[:n], func(c firmtest.Call) bool { return c.Place >= 0 }))
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
		for _, strategy := range []string{"", "over"} {
			for i := range b.Modules {
				if strategy != "" {
					b.Modules[i].Changes = strategy
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
				if strategy == "" && len(p.Findings) > 0 || p.Calls < 2*len(im.Modules[i].Screens) {
					t.Errorf("seed %d, module %d: %d calls, %+v", seed, i, p.Calls, p.Findings)
				}
				if strategy == "over" && len(p.Findings) > 0 && p.Findings[0].Code == "code.glass-differs" {
					left++
				}
			}
		}
	}
	if left < 20 {
		t.Errorf("%d modules left old characters", left)
	}
}

// manyScreens is a bench of one module with so many screens.
func manyScreens(n int) bench.Bench {
	doc := bench.New("many screens")
	doc.Modules[0].Display.Geometry = "20x4"
	doc.Modules[0].Screens = nil
	for i := range n {
		doc.Modules[0].Screens = append(doc.Modules[0].Screens, bench.Screen{ID: fmt.Sprintf("s%d", i), Rows: []string{fmt.Sprintf("Boat %d is out", i), "since noon", fmt.Sprintf("%d aboard", i%4), "back at high water"}})
	}
	return doc
}

// proved makes a module's image and its proof.
func proved(t testing.TB, doc *bench.Bench) *firmware.Proof {
	im, err := firmware.New(doc)
	if err != nil {
		t.Fatal(err)
	}
	p, err := im.Modules[0].Prove()
	if err != nil || len(p.Findings) > 0 {
		t.Fatal(err, p)
	}
	return p
}

// TestProofIsLinear counts the calls of a proof: beyond the screens that have a table, twice as many screens take twice as many.
func TestProofIsLinear(t *testing.T) {
	one, two := manyScreens(40), manyScreens(80)
	if a, b := proved(t, &one).Calls-1, proved(t, &two).Calls-1; b != 2*a { // to begin is a call as well
		t.Errorf("%d calls prove 40 screens, %d prove 80", a, b)
	}
}

// BenchmarkImage makes the image of the largest module that has a table for every change, and of one of 200 screens, and proves it.
func BenchmarkImage(b *testing.B) {
	for _, n := range []int{firmware.MaxScreens, 200} {
		b.Run(fmt.Sprint(n), func(b *testing.B) {
			doc := manyScreens(n)
			for b.Loop() {
				proved(b, &doc)
			}
		})
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

// holdCursor compares a cursor's looks and place with what a screen leaves; one that a call has
// moved stands elsewhere.
func holdCursor(t *testing.T, m *firmware.Module, mo rig.Moment, want sequence.Cursor, moved bool) {
	t.Helper()
	controller, address, _ := m.Display.Geometry.Locate(want.Row, want.Col)
	for i := range m.Display.Geometry.Controllers {
		c, here := &mo.Controllers[i], i == controller
		if c.CursorOn != (here && want.Line) || c.BlinkOn != (here && want.Block) {
			t.Errorf("controller %d: cursor %v, block %v; want %+v", i, c.CursorOn, c.BlinkOn, want)
		}
		if here && (want.Line || want.Block) && !moved && (c.InCGRAM || c.AC != address) {
			t.Errorf("the cursor stands at 0x%02X, want 0x%02X", c.AC, address)
		}
	}
}

// TestScreens shows every screen by the player, and by a run of its own: both give the same
// dots, though their glyphs may stand in other slots.
func TestScreens(t *testing.T) {
	held := 0
	for seed := range uint64(80) {
		b := firmtest.Bench(rand.New(rand.NewPCG(seed, 3)))
		im, err := firmware.New(b)
		if err != nil {
			continue
		}
		for i := range im.Modules {
			m := &im.Modules[i]
			for k := range m.Screens {
				setup, err := testbed.Of(b, testbed.At{Module: i, Screen: k})
				if err != nil {
					t.Fatal(err)
				}
				want, err := run.Do(&setup, run.Options{})
				if err != nil {
					t.Fatal(err)
				}
				p, err := firmware.NewPlayer(m)
				if err != nil {
					t.Fatal(err)
				}
				p.Begin()
				p.Show(k)
				hardware, err := rig.New(m.Display, m.Link)
				if err != nil {
					t.Fatal(err)
				}
				hardware.Play(p.Program(), nil)
				looks := func(mo rig.Moment) (out []rig.ShownCell) {
					for c := range mo.Controllers {
						mo.Controllers[c].CursorOn, mo.Controllers[c].BlinkOn = false, false
					}
					glass := mo.Glass(&m.Display, 0.9)
					for _, c := range glass.Cells {
						c.Code = 0
						out = append(out, c)
					}
					return out
				}
				missing := slices.ContainsFunc(want.Layout.Cells, func(c screen.Composed) bool { return c.Missing })
				// a moved field is cut by a program, and a glyph in an odd slot spoils one of eleven rows
				moved := slices.ContainsFunc(m.Places, func(p firmware.Place) bool {
					text, _ := p.Spec.Show(p.Spec.Sample)
					return p.Screen == k && p.Spec.TooLong() == "shift" && len(p.Rest) == 0 && len(p.Spec.Shows(text)) > p.Spec.Width
				})
				spoilt := m.Display.Tall && slices.ContainsFunc(b.Modules[i].Glyphs, func(g glyph.Glyph) bool { return g.Slot%2 == 1 })
				// fields of one name show one value, which may be another's sample
				shared := slices.ContainsFunc(m.Places, func(p firmware.Place) bool {
					return p.Screen == k && p.Spec.Kind == field.Bar && m.Values[p.Value].Start != p.Spec.Reading()
				})
				if missing || moved || spoilt || shared {
					continue
				}
				held++
				own, other := looks(hardware.Moment()), looks(*want.Last())
				for at := range own {
					if own[at] != other[at] {
						t.Errorf("seed %d, module %d, screen %d, cell %d: the player shows %v, the run %v (%+v)", seed, i, k, at, own[at], other[at], want.Layout.Cells[at])
						break
					}
				}
			}
		}
	}
	if held < 200 {
		t.Errorf("%d screens held", held)
	}
}

// TestExplain takes a stream apart for people.
func TestExplain(t *testing.T) {
	b := bench.New("explained")
	m := &b.Modules[0]
	m.Screens = []bench.Screen{{ID: "a", Rows: []string{"Tide"}}, {ID: "b", Rows: []string{"Ebb \uE001", "x"}, Cursor: screen.Cursor{Kind: "line", Row: 1, Col: 3}, Fields: []field.Field{{Name: "n", Row: 1, Col: 5, Width: 2, Kind: field.Number, Range: field.Range{Max: 9}}}}}
	im, err := firmware.New(&b)
	if err != nil {
		t.Fatal(err)
	}
	var says []string
	for _, p := range im.Modules[0].Explain(im.Modules[0].Transitions[0][1]) {
		says = append(says, fmt.Sprintf("% X %s", p.Bytes, p.Says))
	}
	want := []string{
		"0E Display on/off: display on, cursor on, blink off", "C0 row 2, column 1", `20 78 "x"`, "C5 row 2, column 6", "41 00 2 of what fields show",
		"80 row 1, column 1", `24 45 62 62 20 01 "Ebb \x01"`, "C3 row 2, column 4",
	}
	if !slices.Equal(says, want) {
		t.Errorf("%q\nwant %q", says, want)
	}
}
