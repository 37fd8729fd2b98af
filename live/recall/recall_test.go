package recall_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"periph.io/x/conn/v3/physic"

	"slatebell/core/bench"
	"slatebell/core/text/glyph"
	"slatebell/live/drive"
	"slatebell/live/livetest"
	"slatebell/live/recall"
)

// begin shows a screen with a glyph on the first module of a bench's stand-in.
func begin(t *testing.T, b *bench.Bench) *livetest.Joined {
	t.Helper()
	j := livetest.Join(t, b)
	j.Picture.Glyphs = glyph.Bank{glyph.New(3, "oar", glyph.Pattern{1, 2, 4, 8, 16, 8, 4, 2})}
	j.Show(t, j.Module, &j.Picture)
	return j
}

// harbour is a bench of one module that can be read.
func harbour(kind, geometry string) bench.Bench {
	b := bench.New("harbour")
	m := &b.Modules[0]
	m.Display.Geometry, m.Link.Kind, m.Link.ReadWrite = geometry, kind, true
	m.Link.Outputs.Address = 0x27
	m.Screens[0].Rows = []string{"Ebb tide 0.4 m"}
	return b
}

// Over every link that carries something back a module says what it was sent, cell by cell and glyph by glyph; what was changed behind
// the back of who sent it is named.
func TestMemory(t *testing.T) {
	for _, kind := range []string{"backpack", "parallel4", "parallel8"} {
		for _, geometry := range []string{"16x2", "20x4", "40x4", "16x1split"} {
			b := harbour(kind, geometry)
			j := begin(t, &b)
			memory, err := recall.Read(t.Context(), j.Session, j.Module)
			if err != nil {
				t.Fatalf("%s %s: %v", kind, geometry, err)
			}
			if d := memory.Against(j.Module); !d.None() {
				t.Errorf("%s %s: what it holds is not what it was sent: %+v", kind, geometry, d)
			}
			if row := memory.Window(&j.Module.Display.Geometry)[0]; !slices.Equal(row, j.Picture.Cells[:len(row)]) {
				t.Errorf("%s %s: its first row is % X; expected % X", kind, geometry, row, j.Picture.Cells[:len(row)])
			}
			// The same module, begun anew behind the driver's back: its memory is not what the driver believes.
			if err := j.Host.PutIn(0); err != nil {
				t.Fatal(err)
			}
			blank := j.Picture
			blank.Cells, blank.Glyphs = slices.Repeat([]byte{' '}, len(j.Picture.Cells)), glyph.Bank{glyph.New(3, "oar", glyph.Pattern{1, 2, 4, 8, 16, 8, 4, 31})}
			other, err := drive.New(j.Plan, &b, 0)
			if err != nil {
				t.Fatal(err)
			}
			j.Show(t, other, &blank)
			if memory, err = recall.Read(t.Context(), j.Session, j.Module); err != nil {
				t.Fatal(err)
			}
			d := memory.Against(j.Module)
			if len(d.Cells) != 11 || d.Cells[0] != (recall.Cell{Row: 0, Col: 0, Want: 'E', Got: ' '}) || d.Hidden != 0 {
				t.Errorf("%s %s: of 11 letters that are gone %+v differ", kind, geometry, d.Cells)
			}
			if len(d.Slots) == 0 || d.Slots[0].Slot != 3 || !slices.Equal(d.Slots[0].Rows, []int{7}) {
				t.Errorf("%s %s: of the glyphs %+v differ", kind, geometry, d.Slots)
			}
		}
	}
}

// A data line whose wire is open is named, whichever it is, and none is where all is well.
func TestLines(t *testing.T) {
	for _, kind := range []string{"parallel4", "parallel8"} {
		first := map[string]int{"parallel4": 4}[kind]
		for line := first - 1; line < 8; line++ {
			b := harbour(kind, "16x2")
			j := begin(t, &b)
			name := fmt.Sprintf("D%d", line)
			if line >= first {
				if err := j.Host.PutIn(0, "wire.open:"+name); err != nil {
					t.Fatal(err)
				}
				j.Module.Lost()
				j.Show(t, j.Module, &j.Picture)
			}
			wrong, differ, err := recall.Lines(t.Context(), j.Session, j.Module)
			if err != nil {
				t.Fatal(err)
			}
			t.Logf("%s, %s open: %d bytes differ, %v", kind, name, differ, wrong)
			if line < first {
				if differ != 0 || len(wrong) != 0 {
					t.Errorf("%s: all is well, and it says %v", kind, wrong)
				}
			} else if len(wrong) != 1 || wrong[0].Name != name || wrong[0].Level != "high" {
				t.Errorf("%s: %s is open, and it says %v", kind, name, wrong)
			}
		}
	}
}

// The busy flag tells how fast a module works, over every link that carries it, to two in a hundred; one that does not answer is said
// not to.
func TestOscillator(t *testing.T) {
	for _, kind := range []string{"backpack", "parallel4", "parallel8"} {
		for _, kHz := range []int{190, 243, 270, 350} {
			b := harbour(kind, "20x4")
			b.Modules[0].Display.Controller.OscillatorKHz = kHz
			j := begin(t, &b)
			speed, err := recall.Oscillator(t.Context(), j.Session, j.Module)
			if err != nil {
				t.Fatal(err)
			}
			want := physic.Frequency(kHz) * physic.KiloHertz
			if off := speed.Oscillator - want; max(off, -off) > want/50 {
				t.Errorf("%s: an oscillator of %v is taken for %v (a clear of %v)", kind, want, speed.Oscillator, speed.Clear)
			}
		}
		b := harbour(kind, "16x2")
		j := begin(t, &b)
		if err := j.Host.PutIn(0, map[string]string{"backpack": "wire.open:VCC"}[kind]); err != nil || kind != "backpack" {
			continue
		}
		if _, err := recall.Oscillator(t.Context(), j.Session, j.Module); err == nil || !strings.Contains(err.Error(), "acknowledge") {
			t.Errorf("%s: without a supply: %v", kind, err)
		}
	}
}
