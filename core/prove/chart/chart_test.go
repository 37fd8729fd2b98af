package chart

import (
	"bytes"
	"fmt"
	"maps"
	"math/rand/v2"
	"slices"
	"testing"

	"slatebell/core/bench"
	"slatebell/core/finding"
	"slatebell/core/part/charrom"
	"slatebell/core/part/module"
	"slatebell/core/prove/photo"
	"slatebell/core/prove/photo/phototest"
	"slatebell/core/text/glyph"
)

func moduleOf(t *testing.T, geometry, font string) *module.Module {
	t.Helper()
	d := bench.NewModule("quay", "Quay").Display
	d.Geometry, d.Controller.Font = geometry, font
	m, err := d.Module()
	if err != nil {
		t.Fatal(err)
	}
	return &m
}

// TestScreens: of every size, with every font, all codes are on the screens; no two screens have the same marks; and with one screen less
// there is no room, as cells are counted by hand in a table.
func TestScreens(t *testing.T) {
	fewest := map[string]int{"8x1": 42, "8x2": 18, "16x1": 18, "16x1s": 18, "16x2": 9, "16x4": 4, "20x2": 7, "20x4": 4, "24x2": 6, "40x2": 4, "40x4": 2}
	for _, g := range module.Geometries {
		for _, font := range []string{"5x8", "5x10"} {
			if font == "5x10" && g.TwoLine {
				continue
			}
			m := moduleOf(t, g.Name, font)
			screens := Screens(m)
			if want := fewest[g.Name]; font == "5x8" && want != 0 && len(screens) != want {
				t.Errorf("%s: %d screens, expected %d", g.Name, len(screens), want)
			}
			has, marks := map[byte]bool{}, map[string]bool{}
			for k, s := range screens {
				if len(s) != g.Cells() {
					t.Fatalf("%s: a screen of %d cells", g.Name, len(s))
				}
				for _, code := range s {
					has[code] = true
				}
				at := slices.Sorted(maps.Keys(marked(m, len(screens))[k]))
				name := ""
				for _, i := range at {
					if _, ok := m.Slot(s[i]); !ok {
						t.Errorf("%s %s: screen %d has 0x%02X for a mark", g.Name, font, k, s[i])
					}
					name += fmt.Sprintf("%02X", s[i])
				}
				if marks[name] {
					t.Errorf("%s %s: two screens have the marks %s", g.Name, font, name)
				}
				marks[name] = true
			}
			if len(has) != 256 {
				t.Errorf("%s %s: %d codes are on the screens", g.Name, font, len(has))
			}
		}
	}
	for _, font := range []string{"5x8", "5x10"} {
		bank := Marks(moduleOf(t, "16x1", font))
		if err := bank.Validate(); err != nil {
			t.Error(err)
		}
		for i, a := range bank {
			for _, b := range bank[:i] {
				if n := a.Pattern().Distance(b.Pattern()); n < 8 {
					t.Errorf("marks %d and %d differ in %d dots", a.Slot, b.Slot, n)
				}
			}
		}
	}
}

// foreign is a ROM that nobody knows: A00 but for some codes, whose dots are drawn at random.
func foreign(r *rand.Rand, others int) (rom *charrom.ROM, changed []byte) {
	base := charrom.A00()
	var cells []charrom.Cell
	codes := r.Perm(0xE0 - 0x21)
	for code := range 256 {
		c := charrom.Cell{Code: byte(code), Characters: base.Spellings(byte(code)), Dots: base.Dots(byte(code))}
		if code >= 0x80 && slices.Contains(codes[:others], code-0x21) {
			c.Characters = ""
			for row := range 7 {
				c.Dots[row] = byte(r.IntN(32))
			}
			if base.Dots(c.Code) == c.Dots {
				c.Dots[0] ^= 1
			}
			changed = append(changed, c.Code)
		} else if !base.Known(c.Code) {
			continue
		}
		cells = append(cells, c)
	}
	return charrom.New("foreign", cells), changed
}

// taken are photographs of the screens of a chart, as a module with a ROM shows them.
func taken(t *testing.T, r *rand.Rand, m *module.Module, rom *charrom.ROM, cell float64, screen int) Shown {
	t.Helper()
	marks, codes := Marks(m), Screens(m)[screen]
	shot := phototest.Some(r, m.Geometry.Cols, m.Geometry.Rows, m.CellRows(), cell, 25, func(at, row, col int) bool {
		if slot, ok := rom.Slot(codes[at]); ok {
			g, _ := marks.In(slot &^ (m.SlotStep() - 1))
			return g.Pattern().Lit(row, col)
		}
		return glyph.ROMPattern(rom, codes[at], m.Tall).Lit(row, col)
	})
	p := shot.Take()
	got, err := Read(&photo.Grey{W: p.W, H: p.H, Pix: p.Greys()}, nil, m)
	if err != nil {
		t.Errorf("screen %d of %s: %v", screen, m.Geometry.Name, err)
		return Shown{Screen: -1}
	}
	if err := got.Check(m); err != nil {
		t.Error(err)
	}
	if got.Screen != screen {
		t.Errorf("screen %d of %s is taken for %d", screen, m.Geometry.Name, got.Screen)
	}
	return got
}

// TestLearn learns ROMs from photographs that the test's camera takes of their screens, in any order: every code is right that is not said to
// be doubtful, the ROM that it is nearly is named with the codes that differ, and the chart reads back. Without one of the photographs it is
// said which is missing.
func TestLearn(t *testing.T) {
	r := rand.New(rand.NewPCG(26, 8))
	for _, geometry := range []string{"20x4", "16x2"} {
		t.Run(geometry, func(t *testing.T) {
			m := moduleOf(t, geometry, "5x8")
			rom, changed := foreign(r, 20)
			var all []Shown
			for _, k := range r.Perm(len(Screens(m))) {
				all = append(all, taken(t, r, m, rom, 22, k))
			}
			c := Learn(m, all, nil)
			wrong, doubtful := 0, 0
			for code := range c.Codes {
				k := &c.Codes[code]
				if k.Doubtful() {
					doubtful++
				} else if _, slot := rom.Slot(byte(code)); slot != k.Slot || !slot && k.Pattern != glyph.Of(rom.Dots(byte(code))) {
					wrong++
					t.Logf("0x%02X: %v, expected %v", code, k.Pattern, rom.Dots(byte(code)))
				}
			}
			t.Logf("%d codes doubtful, %d wrong", doubtful, wrong)
			if wrong > 0 || doubtful > 5 || len(c.Missing) > 0 {
				t.Errorf("%d codes are wrong, %d doubtful; missing are screens %v", wrong, doubtful, c.Missing)
			}
			if c.Like.ROM.Name != "A00" || doubtful == 0 && !bytes.Equal(c.Like.Codes, changed) {
				t.Errorf("it is like %s but for %x; expected A00 but for %x", c.Like.ROM.Name, c.Like.Codes, changed)
			}
			var text bytes.Buffer
			c.ROM("quay").WriteTo(&text)
			back, err := charrom.Parse(&text)
			if err != nil {
				t.Fatal(err)
			}
			if code, ok := back.Code('k'); !ok || code != 'k' || back.Dots('k') != c.Codes['k'].Pattern.Dots() {
				t.Errorf("of the chart that is read back, k is 0x%02X (%v)", code, ok)
			}
			half := Learn(m, all[1:], nil)
			if f := half.Findings(); !slices.Equal(half.Missing, []int{all[0].Screen}) || f[0].Code != "chart.missing" || f[len(f)-1].Severity != finding.Note {
				t.Errorf("without screen %d: %+v", all[0].Screen, f)
			}
		})
	}
}
