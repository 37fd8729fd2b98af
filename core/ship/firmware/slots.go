package firmware

import (
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"

	"slatebell/core/bench"
	"slatebell/core/bench/show"
	"slatebell/core/text/bank"
	"slatebell/core/text/field"
	"slatebell/core/text/glyph"
	"slatebell/core/text/screen"
)

// needs is what a screen shows of glyphs.
type needs struct {
	page  bank.Page // by their dots, those of the ROM left out
	slots []int     // by number
}

// glyphs gives each pattern its slot, and returns what the slots hold while each screen
// is shown. As long as there is a slot for every pattern, begin loads them all; otherwise
// each screen brings its own, in the slots that the plan of loading has for them.
func (m *Module) glyphs(b *bench.Bench) ([]glyph.Bank, error) {
	doc := &b.Modules[m.At]
	list := make([]needs, len(doc.Screens))
	fixed := [glyph.Slots]bool{}
	messages := m.inMessages(doc)
	for i := range doc.Screens {
		list[i] = m.needs(&doc.Screens[i], b.Glyphs)
		list[i].slots = append(list[i].slots, messages...)
		for _, slot := range list[i].slots {
			fixed[slot] = true
		}
	}
	whole := slices.Clone(doc.Glyphs)
	if m.eachItsOwn(&whole, list, fixed) {
		for slot := range glyph.Slots {
			if g, ok := whole.In(slot); ok && slot%m.Display.SlotStep() == 0 {
				m.Begun = append(m.Begun, Load{slot, m.number(g.Pattern())})
			}
		}
		return slices.Repeat([]glyph.Bank{whole}, len(list)), nil
	}
	m.Held = true
	return m.planned(doc, list, fixed)
}

// inMessages are the slots of glyphs that stand for a character in messages of a serial line.
func (m *Module) inMessages(doc *bench.Module) []int {
	if !slices.ContainsFunc(doc.Show.Inputs, func(in bench.Input) bool { return in.Kind == string(show.Serial) && in.Serial.Text != "codes" }) {
		return nil
	}
	return slices.Sorted(maps.Values(show.Spelled(doc.Glyphs, m.Display.ROM)))
}

// needs gathers the glyphs of a screen: those of its rows, of all that its fields can
// show, and of its bars at every step.
func (m *Module) needs(s *bench.Screen, library glyph.Library) (n needs) {
	texts := slices.Clone(s.Rows)
	var drawn []glyph.Pattern
	for i := range s.Fields {
		f := &s.Fields[i]
		texts = append(texts, f.Values...)
		texts = append(texts, f.Digits.Unit, f.Format, f.Look.Fill)
		if bar := f.Meter(); f.Kind == field.Bar && bar.Check() == nil {
			drawn = append(drawn, bar.Patterns()...)
		}
	}
	text := strings.Join(texts, "\n")
	for _, p := range append(screen.Drawings(library, text), drawn...) {
		if _, inROM := glyph.Equal(m.Display.ROM, p, m.Display.Tall); !inROM && !slices.Contains(n.page, p) {
			n.page = append(n.page, p)
		}
	}
	n.slots = screen.Slots(&m.Display, text)
	return n
}

// eachItsOwn puts every pattern into a slot of its own: the one that has it, an empty one, or
// one whose glyph no screen shows; false where there are too few.
func (m *Module) eachItsOwn(whole *glyph.Bank, list []needs, fixed [glyph.Slots]bool) bool {
	step, used := m.Display.SlotStep(), fixed
	for _, n := range list {
		for _, p := range n.page {
			if slot, ok := whole.Holds(p, step); ok {
				used[slot] = true
			}
		}
	}
	for _, n := range list {
		for _, p := range n.page {
			if _, ok := whole.Holds(p, step); ok {
				continue
			}
			slot := -1
			for _, empty := range []bool{true, false} {
				for s := 0; s < glyph.Slots && slot < 0; s += step {
					if _, drawn := whole.In(s); !used[s] && drawn != empty {
						slot = s
					}
				}
			}
			if slot < 0 {
				return false
			}
			*whole = slices.DeleteFunc(*whole, func(g glyph.Glyph) bool { return g.Slot == slot })
			*whole = append(*whole, glyph.New(slot, "", p))
			used[slot] = true
		}
	}
	return true
}

// planned takes the slots from the plan of loading.
func (m *Module) planned(doc *bench.Module, list []needs, fixed [glyph.Slots]bool) ([]glyph.Bank, error) {
	o := bank.Options{Loop: doc.Loading.Loop, OnGlass: doc.Loading.OnGlass}
	var kept glyph.Bank
	for slot := 0; slot < glyph.Slots; slot += m.Display.SlotStep() {
		g, drawn := doc.Glyphs.In(slot)
		switch {
		case !fixed[slot]:
			o.Slots = append(o.Slots, slot)
		case drawn:
			kept = append(kept, g)
			m.Begun = append(m.Begun, Load{slot, m.number(g.Pattern())})
		}
	}
	pages := make([]bank.Page, len(list))
	for i, n := range list {
		for _, p := range n.page {
			if _, ok := kept.Holds(p, m.Display.SlotStep()); !ok {
				pages[i] = append(pages[i], p)
			}
		}
	}
	plan, err := bank.New(pages, o)
	if conflict := new(bank.Conflict); errors.As(err, &conflict) && conflict.Before >= 0 {
		o.OnGlass = true // which the check of the bench says of them
		plan, err = bank.New(pages, o)
	}
	if conflict := new(bank.Conflict); errors.As(err, &conflict) {
		return nil, bench.Problem{
			Path: fmt.Sprintf("/modules/%d/screens/%d", m.At, conflict.Page),
			What: fmt.Sprintf("it shows %d glyphs, its bars at every step included, and there are %d slots for them; expected as many at most", conflict.Needs, conflict.Holds),
		}
	} else if err != nil {
		return nil, err
	}
	banks := make([]glyph.Bank, len(list))
	for _, step := range plan.Steps { // the last round says
		banks[step.Page] = slices.Clone(kept)
		for _, p := range pages[step.Page] {
			banks[step.Page] = append(banks[step.Page], glyph.New(step.Slots[p], "", p))
			m.number(p)
		}
	}
	return banks, nil
}

// number is a pattern's place among the module's glyphs.
func (m *Module) number(p glyph.Pattern) int {
	if at := slices.Index(m.Glyphs, p); at >= 0 {
		return at
	}
	m.Glyphs = append(m.Glyphs, p)
	return len(m.Glyphs) - 1
}

// loads lists what of a screen's bank begin does not load, slot after slot.
func (m *Module) loads(of glyph.Bank) (out []Load) {
	if !m.Held {
		return nil
	}
	for slot := range glyph.Slots {
		if g, ok := of.In(slot); ok && !slices.ContainsFunc(m.Begun, func(l Load) bool { return l.Slot == slot }) {
			out = append(out, Load{slot, m.number(g.Pattern())})
		}
	}
	return out
}
