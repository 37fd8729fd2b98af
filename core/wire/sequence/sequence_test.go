package sequence

import (
	"reflect"
	"slices"
	"testing"
	"time"

	"slatebell/core/part/charrom"
	"slatebell/core/part/hd44780"
	"slatebell/core/part/module"
	"slatebell/core/text/glyph"
	"slatebell/core/wire/link"
)

// gate is a 16×2 module.
func gate(t *testing.T) module.Module {
	t.Helper()
	g, err := module.ParseGeometry("16x2")
	if err != nil {
		t.Fatal(err)
	}
	return module.Module{Geometry: g, Technology: module.LCD, ROM: charrom.A00()}
}

// TestEmpty builds a program without a step.
func TestEmpty(t *testing.T) {
	b, err := NewBuilder(gate(t), link.New(link.Backpack), Options{})
	if err != nil {
		t.Fatal(err)
	}
	if p := b.Program(); len(p.Steps) != 0 || p.Finish != 0 || p.WireTime != 0 || p.Transactions != 0 {
		t.Errorf("%+v", p)
	}
}

// TestPauses checks, on every link and way of grouping, that steps follow each
// other without gap or overlap, that no E rises before the controller is free,
// and that no host waits longer than it must: a pause is what is left of the wait
// when the next step would begin.
func TestPauses(t *testing.T) {
	for _, kind := range link.Kinds {
		for _, grouping := range []link.Grouping{link.WholeScreen, link.PerOperation, link.PerByte} {
			l := link.New(kind)
			l.Grouping = grouping
			cells := make([]byte, 32)
			for i := range cells {
				cells[i] = byte('A' + i%3)
			}
			p, err := Compile(gate(t), l, cells, Options{Init: true})
			if err != nil {
				t.Fatal(err)
			}
			var wire, end, free time.Duration
			for i := range p.Steps {
				s := &p.Steps[i]
				if s.Start != end {
					t.Fatalf("%s, %s: step %d begins at %s, the one before it ended at %s", kind, grouping, i+1, s.Start, end)
				}
				end, wire = s.End(), wire+s.Wire
				if s.Kind != Text && (s.Row != -1 || s.Col != -1) {
					t.Errorf("%s: step %d, %s, writes row %d, column %d", kind, i+1, s.Kind, s.Row, s.Col)
				}
				risen := time.Duration(-1)
				var fell time.Duration
				for w := s.First; w < s.First+s.Count; w++ {
					at := p.At[w]
					if p.Coder.Raises(p.Words[w]) && risen < 0 {
						if risen = at; !p.Coder.Expanded() {
							risen += link.UsualPinTime
						}
					}
					if fell = at; !p.Coder.Expanded() {
						fell += 2 * link.UsualPinTime
					}
				}
				if s.Kind == Park {
					continue
				}
				if i > 2 && risen < free {
					t.Errorf("%s, %s: step %d raises E %s too early", kind, grouping, i+1, free-risen)
				}
				if i > 2 && p.Steps[i-1].Pause > 0 && risen != free {
					t.Errorf("%s, %s: before step %d the host waits %s longer than it must", kind, grouping, i+1, risen-free)
				}
				if s.Sends() {
					free = fell + hd44780.ExecutionTime(s.Op, hd44780.MinOscillator)
					if s.Kind == Wake {
						free = fell + s.Wait
					}
				}
			}
			if wire != p.WireTime || p.Finish < end || p.Finish < free {
				t.Errorf("%s, %s: wire %s of %s, done %s after %s", kind, grouping, p.WireTime, wire, p.Finish, free)
			}
			if kind == link.Backpack {
				begins, ends := 0, 0
				for _, w := range p.Words {
					if w&link.Begin != 0 {
						begins++
					}
					if w&link.Finish != 0 {
						ends++
					}
				}
				if begins != p.Transactions || ends != begins || grouping == link.PerByte && begins != len(p.Words) {
					t.Errorf("%s: %d transactions, %d begin and %d end, of %d bytes", grouping, p.Transactions, begins, ends, len(p.Words))
				}
			}
		}
	}
}

// TestMute compiles a screen with glyphs, and again without what its steps mean: nothing else is another. Made again of its steps it is the same as well,
// in room that was used before too.
func TestMute(t *testing.T) {
	for _, kind := range link.Kinds {
		m, l := gate(t), link.New(kind)
		o := Options{Init: true, Glyphs: glyph.Bank{{Slot: 1, Name: "oar", Rows: []int{4, 4, 4, 4, 4, 14, 14, 4}}}, Cursor: Cursor{Line: true, Row: 1, Col: 3}}
		cells := []byte("Tide \x01          High 14:05      ")
		said, err := Compile(m, l, cells, o)
		if err != nil {
			t.Fatal(err)
		}
		o.Mute = true
		mute, err := Compile(m, l, cells, o)
		if err != nil {
			t.Fatal(err)
		}
		again, err := Again(m, l, mute.Steps, slices.Repeat([]Step{{Meaning: "used", Row: 9}}, 7))
		if err != nil {
			t.Fatal(err)
		}
		silent := 0
		for i := range said.Steps {
			s := &said.Steps[i]
			if s.Kind == Text || s.Kind == Glyph || s.Kind == Address && s.Meaning != mute.Steps[i].Meaning {
				silent++
				if s.Meaning == "" || mute.Steps[i].Meaning != "" {
					t.Errorf("%s: step %d says %q, and mute %q", kind, i+1, s.Meaning, mute.Steps[i].Meaning)
				}
				s.Meaning, s.Places = "", nil
			}
		}
		if silent < 25 {
			t.Errorf("%s: %d steps are silent", kind, silent)
		}
		said.Coder, mute.Coder, again.Coder = nil, nil, nil
		if !reflect.DeepEqual(said, mute) {
			t.Errorf("%s: mute it is\n%+v\notherwise\n%+v", kind, mute, said)
		}
		if !reflect.DeepEqual(again, mute) {
			t.Errorf("%s: made again it is\n%+v\nnot\n%+v", kind, again, mute)
		}
	}
}
