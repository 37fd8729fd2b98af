package rig

import (
	"reflect"
	"slices"
	"strings"
	"testing"
	"time"

	"slatebell/core/part/charrom"
	"slatebell/core/part/module"
	"slatebell/core/wire/link"
)

func testModule(t testing.TB, geometry string) module.Module {
	t.Helper()
	g, err := module.ParseGeometry(geometry)
	if err != nil {
		t.Fatal(err)
	}
	return module.Module{Geometry: g, Technology: module.LCD, ROM: charrom.A00()}
}

// FuzzFeed plays any bytes into a rig: it never panics, and the address counter
// stays within its memory.
func FuzzFeed(f *testing.F) {
	f.Add([]byte{0x3C, 0x38, 0x2C, 0x28, 0x4D, 0x49, 0x1D, 0x19}, uint8(0), uint16(90))
	f.Add([]byte{0x80, 0xFF, 0x13, 0x00, 0x67}, uint8(1), uint16(3))
	f.Fuzz(func(t *testing.T, traffic []byte, kind uint8, gap uint16) {
		m := testModule(t, []string{"16x2", "40x4", "8x1"}[int(kind)/4%3])
		l := link.New(link.Kinds[int(kind)%4])
		if m.Geometry.Controllers == 2 {
			l.Mapping.Backlight, l.Mapping.E2 = link.Open, 3
			if l.Kind == link.ShiftReg {
				l.Mapping.E2 = 2
			}
		}
		r, err := New(m, l)
		if err != nil {
			t.Fatal(err)
		}
		at := time.Duration(0)
		for i, b := range traffic {
			at += time.Duration(gap) * time.Microsecond / 4
			w := link.Word(b)
			if i+1 < len(traffic) {
				w |= link.Word(traffic[i+1]&0x0F) << 8 // the flags of eight parallel lines
			}
			r.Feed(at, w)
			at += 2 * link.UsualPinTime
			for j, c := range r.Controllers() {
				if _, ok := c.Index(c.AC); !c.InCGRAM && !ok || c.InCGRAM && c.AC > 63 || int(c.Offset) >= c.Columns() {
					t.Fatalf("controller %d after word %d: AC %02X, CGRAM %v, offset %d", j, i, c.AC, c.InCGRAM, c.Offset)
				}
			}
		}
		mo := r.Moment()
		g := mo.Glass(&m, m.UsualContrast())
		g.Text(m.ROM)
		Findings(r.Violations())
		if again := mo.GlassIn(slices.Repeat([]ShownCell{{Code: 1, Scanned: true}}, 3), &m, m.UsualContrast()); !reflect.DeepEqual(again, g) {
			t.Errorf("drawn in room that was used it is %v, otherwise %v", again, g)
		}
		fresh, err := New(m, l)
		if err != nil {
			t.Fatal(err)
		}
		fresh.Again(link.Hardware{}, false)
		r.Again(link.Hardware{}, false)
		for i := range r.controllers { // a function is like no other
			r.controllers[i].Observe(nil)
			fresh.controllers[i].Observe(nil)
		}
		if !reflect.DeepEqual(r.Moment(), fresh.Moment()) || r.Pins() != fresh.Pins() || len(r.violations) > 0 {
			t.Errorf("powered up anew it is at %+v, a new one at %+v", r.Moment(), fresh.Moment())
		}
	})
}

// overAndOver returns what feeds a rig with the next wire byte of one character.
func overAndOver(t testing.TB, k link.Kind) (next func()) {
	t.Helper()
	r, err := New(testModule(t, "16x2"), link.New(k))
	if err != nil {
		t.Fatal(err)
	}
	words := []link.Word{0x4D, 0x49, 0x1D, 0x19}
	switch k {
	case link.Parallel4:
		words = []link.Word{0x14, 0x11, 0x12, 0x10}
	case link.Parallel8:
		words = []link.Word{0x141, 0x142, 0x143, 0x144}
	case link.ShiftReg:
		words = []link.Word{0x47, 0x45, 0x17, 0x15}
	}
	at, i := 50*time.Millisecond, 0
	return func() {
		at += 100 * time.Microsecond
		r.Feed(at, words[i&3])
		i++
	}
}

// TestFeedAllocatesNothing counts allocations for each wire byte.
func TestFeedAllocatesNothing(t *testing.T) {
	for _, k := range link.Kinds {
		if n := testing.AllocsPerRun(10_000, overAndOver(t, k)); n != 0 {
			t.Errorf("%s: %g allocations a byte", k, n)
		}
	}
}

// BenchmarkFeed plays the pulses of one character over and over.
func BenchmarkFeed(b *testing.B) {
	for _, k := range link.Kinds {
		b.Run(string(k), func(b *testing.B) {
			next := overAndOver(b, k)
			b.ReportAllocs()
			b.SetBytes(1) // a wire byte; MB/s reads as millions of wire bytes a second
			for b.Loop() {
				next()
			}
		})
	}
}

// TestBeforeFunctionSet looks at the window of a module that still drives one
// line: what stands in the second line's memory is not shown.
func TestBeforeFunctionSet(t *testing.T) {
	m := testModule(t, "16x2")
	r, err := New(m, link.New(link.Parallel8))
	if err != nil {
		t.Fatal(err)
	}
	mo := r.Moment()
	shown := 0
	for place, cell := range mo.Window(&m, 0) {
		if cell >= 16 || cell >= 0 && cell != place {
			t.Errorf("place %d is shown at cell %d", place, cell)
		}
		if cell >= 0 {
			shown++
		}
	}
	if shown != 16 {
		t.Errorf("%d cells are shown", shown)
	}
	r.Feed(50*time.Millisecond, 0x38)
	if want := 50*time.Millisecond + 2*link.UsualPinTime; r.Now() != want || r.ReadBack() != 0 {
		t.Errorf("after a pulse it is %s, want %s; read %02X without a read", r.Now(), want, r.ReadBack())
	}
	mo = r.Moment()
	window := mo.Window(&m, 0)
	if window[0] != 0 || window[40] != 16 || window[55] != 31 || window[56] != -1 || window[16] != -1 {
		t.Errorf("the window of two lines: %v", window)
	}
	m = testModule(t, "16x1split")
	if window = mo.Window(&m, 0); window[0] != 0 || window[7] != 7 || window[8] != -1 || window[40] != 8 || window[47] != 15 || window[48] != -1 {
		t.Errorf("the window of one row in two halves: %v", window)
	}
}

// TestText reads codes without a character: one with dots is told from one that
// is blank, and glyphs are counted, twice over.
func TestText(t *testing.T) {
	rom, err := charrom.Parse(strings.NewReader("rom Own\n41=A 90= 91=\n" + strings.Repeat("##### #.... .....\n", 8)))
	if err != nil {
		t.Fatal(err)
	}
	m := testModule(t, "8x1")
	m.ROM = rom
	for i, code := range []byte{0x41, 0x90, 0x91, 0x00, 0x07, 0x0F, 0x20} {
		g := Glass{Cols: 1, Rows: 1, On: true, Cells: []ShownCell{{Code: code, Scanned: true}}}
		if got, want := g.Text(rom)[0], []string{"A", "\uFFFD", " ", "①", "⑧", "⑧", " "}[i]; got != want {
			t.Errorf("code %02X reads %q, want %q", code, got, want)
		}
		g.On = false
		if got := g.Text(rom)[0]; got != " " {
			t.Errorf("code %02X with the display off reads %q", code, got)
		}
	}
}
