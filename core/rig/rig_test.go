package rig

import (
	"testing"
	"time"

	"slatebell/core/charrom"
	"slatebell/core/link"
	"slatebell/core/module"
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
	})
}

// BenchmarkFeed plays the pulses of one character over and over.
func BenchmarkFeed(b *testing.B) {
	for _, k := range link.Kinds {
		b.Run(string(k), func(b *testing.B) {
			l := link.New(k)
			r, err := New(testModule(b, "16x2"), l)
			if err != nil {
				b.Fatal(err)
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
			b.ReportAllocs()
			b.SetBytes(1) // a wire byte; MB/s reads as millions of wire bytes a second
			at := 50 * time.Millisecond
			for i := 0; b.Loop(); i++ {
				at += 100 * time.Microsecond
				r.Feed(at, words[i&3])
			}
		})
	}
}
