package sequence

import (
	"testing"
	"time"

	"slatebell/core/part/charrom"
	"slatebell/core/part/hd44780"
	"slatebell/core/part/module"
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
