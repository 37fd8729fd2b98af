package rig

import (
	"math/rand/v2"
	"testing"
	"time"

	"slatebell/core/part/hd44780"
	"slatebell/core/part/module"
	"slatebell/core/text/glyph"
	"slatebell/core/wire/link"
	"slatebell/core/wire/sequence"
	"slatebell/core/wire/update"
)

// random returns cells of codes from a few, so that screens share some.
func random(r *rand.Rand, n int) []byte {
	cells := make([]byte, n)
	for i := range cells {
		cells[i] = "  AbX"[r.IntN(5)]
	}
	return cells
}

// TestUpdate is a property: what turns one screen into another, written onto the
// first, leaves the second on the glass, and takes no step where both are the same;
// on every geometry and link.
func TestUpdate(t *testing.T) {
	r := rand.New(rand.NewPCG(4, 780))
	for range 400 {
		g := module.Geometries[r.IntN(len(module.Geometries))]
		m := testModule(t, g.Name)
		l := link.New(link.Kinds[r.IntN(4)])
		if g.Controllers == 2 && l.Expander() {
			l.Mapping.Backlight, l.Mapping.E2 = link.Open, l.Mapping.Backlight
		}
		first, second := random(r, g.Cells()), random(r, g.Cells())
		b, err := sequence.NewBuilder(m, l, sequence.Options{})
		if err != nil {
			t.Fatal(err)
		}
		b.PowerUp()
		b.Initialise()
		b.Update(first, nil, sequence.Cursor{}, update.Allowed{})
		b.Update(second, nil, sequence.Cursor{}, update.Allowed{})
		changed := len(b.Program().Steps)
		b.Update(second, nil, sequence.Cursor{}, update.Allowed{})
		p := b.Program()
		if len(p.Steps) != changed {
			t.Fatalf("%s on %s: %d steps after the change, %d after none", g.Name, l.Kind, changed, len(p.Steps))
		}
		l.Enables = g.Controllers
		hardware, err := New(m, l)
		if err != nil {
			t.Fatal(err)
		}
		hardware.Play(p, nil)
		mo := hardware.Moment()
		glass := mo.Glass(&m, m.UsualContrast())
		for i, c := range glass.Cells {
			if c.Code != second[i] {
				t.Fatalf("%s on %s: cell %d shows %q, want %q", g.Name, l.Kind, i, c.Code, second[i])
			}
		}
		if kept, more := hardware.Violations(); len(kept)+more > 0 {
			t.Fatalf("%s on %s: %+v", g.Name, l.Kind, kept[0])
		}
	}
}

// TestPollBoth checks that the busy flags of two controllers are read one after
// the other, and that the host goes on as soon as both are free and not before.
func TestPollBoth(t *testing.T) {
	m := testModule(t, "40x4")
	l := link.New(link.Parallel8)
	l.ReadWrite, l.Enables = true, 2
	cells := random(rand.New(rand.NewPCG(1, 2)), m.Geometry.Cells())
	p, err := sequence.Compile(m, l, cells, sequence.Options{Init: true, Waits: sequence.PollBusy})
	if err != nil {
		t.Fatal(err)
	}
	hardware, err := New(m, l)
	if err != nil {
		t.Fatal(err)
	}
	polls := map[link.Enable]int{}
	busy := false // the last poll said so
	hardware.Play(p, func(step int) {
		s := &p.Steps[step]
		if s.Kind != sequence.Poll {
			if busy {
				t.Fatalf("step %d follows a busy flag that was set", step+1)
			}
			return
		}
		polls[s.Enable]++
		busy = hardware.ReadBack()&0x80 != 0
		if s.Op != (hd44780.Operation{RW: true}) {
			t.Fatalf("step %d polls with %+v", step+1, s.Op)
		}
	})
	if found := hardware.Judge(); len(found) > 0 || polls[link.First] == 0 || polls[link.Second] == 0 || polls[link.Both] > 0 {
		t.Errorf("polls %v, findings %+v", polls, found)
	}
	fixed, err := sequence.Compile(m, l, cells, sequence.Options{Init: true})
	if err != nil || p.Finish >= fixed.Finish {
		t.Errorf("polling a 270 kHz module ends at %s, waits for the slowest at %s, %v", p.Finish, fixed.Finish, err)
	}
}

// TestRestart lets a host die after every single word of its program and start
// over while the module stays powered: the new program's screen stands on the
// glass whatever was cut short, half a byte, a pulse of E or a glyph.
func TestRestart(t *testing.T) {
	r := rand.New(rand.NewPCG(9, 44))
	for _, kind := range link.Kinds {
		m := testModule(t, "16x2")
		l := link.New(kind)
		first, second := random(r, 32), random(r, 32)
		bank := glyph.Bank{glyph.New(5, "wave", glyph.Pattern{1, 2, 4, 8, 16, 8, 4, 2})}
		before, err := sequence.Compile(m, l, first, sequence.Options{Init: true, Glyphs: bank})
		if err != nil {
			t.Fatal(err)
		}
		again, err := sequence.Compile(m, l, second, sequence.Options{Init: true, Glyphs: bank})
		if err != nil {
			t.Fatal(err)
		}
		for cut := range len(before.Words) + 1 {
			hardware, err := New(m, l)
			if err != nil {
				t.Fatal(err)
			}
			var died time.Duration
			for i, w := range before.Words[:cut] {
				hardware.Feed(before.At[i], w)
				died = before.At[i] + time.Millisecond
			}
			for i, w := range again.Words {
				hardware.Feed(died+again.At[i], w)
			}
			mo := hardware.Moment()
			glass := mo.Glass(&m, m.UsualContrast())
			for i, c := range glass.Cells {
				if c.Code != second[i] || !glass.On || mo.Controllers[0].CGRAM[5*8+4] != 16 {
					t.Fatalf("%s, cut after word %d of %d: cell %d shows %q, want %q", kind, cut, len(before.Words), i, c.Code, second[i])
				}
			}
		}
	}
}
