package firmware

import (
	"fmt"
	"slices"

	"slatebell/core/bench"
	"slatebell/core/bench/show"
	"slatebell/core/part/module"
	"slatebell/core/text/field"
	"slatebell/core/text/glyph"
)

// Effect is what moves while a scene lasts, as the program moves it.
type Effect struct {
	Kind   string    // walk, scroll, shift or slots
	Value  int       // walk, scroll: the tape among the module's values
	Tape   show.Tape // walk, scroll
	Back   bool      // shift: to the right
	Slot   int       // slots
	Glyphs []int     // slots: what it shows, by numbers of the module's glyphs
}

// staged returns a bench whose screens have a field for each tape that scenes of the
// modules move over them; the bench itself where there is none.
func staged(b *bench.Bench, modules []int) (*bench.Bench, error) {
	out := b
	for _, at := range modules {
		m := &b.Modules[at]
		for i := range m.Show.Scenes {
			e := &m.Show.Scenes[i].Effect
			if e.Kind != "walk" && e.Kind != "scroll" {
				continue
			}
			if out == b {
				c := *b
				c.Modules = slices.Clone(b.Modules)
				for k := range c.Modules {
					c.Modules[k].Screens = slices.Clone(c.Modules[k].Screens)
				}
				out = &c
			}
			s, t, err := tapeOf(&out.Modules[at], i)
			if err != nil {
				return nil, bench.ProblemOf(fmt.Sprintf("/modules/%d/show/scenes/%d/effect", at, i), err)
			}
			f := field.Field{Name: tapeName(t), Row: t.Row, Col: t.Col, Width: t.Width, Kind: field.Tape, Values: []string{string(t.Text)}}
			if t.Walks {
				f.Look.Fill = field.NoFill
			}
			there := slices.IndexFunc(s.Fields, func(o field.Field) bool {
				return o.Kind == field.Tape && o.Row == f.Row && o.Col < f.Col+f.Width && f.Col < o.Col+o.Width
			})
			if there < 0 {
				s.Fields = append(slices.Clone(s.Fields), f)
			} else if s.Fields[there].Name != f.Name {
				return nil, bench.Problem{Path: fmt.Sprintf("/modules/%d/show/scenes/%d/effect", at, i), What: fmt.Sprintf("another scene moves other text over the same cells of the screen “%s”; expected a screen of its own", s.Name)}
			}
		}
	}
	return out, nil
}

// tapeOf is the tape of a scene, and its screen.
func tapeOf(m *bench.Module, scene int) (*bench.Screen, show.Tape, error) {
	d := &m.Show.Scenes[scene]
	g, err := module.ParseGeometry(m.Display.Geometry)
	if err != nil {
		return nil, show.Tape{}, err
	}
	for i := range m.Screens {
		if m.Screens[i].ID == d.Screen {
			t, err := show.TapeOf(&d.Effect, &m.Screens[i], g.Cols, g.Rows)
			return &m.Screens[i], t, err
		}
	}
	return nil, show.Tape{}, fmt.Errorf("there is no screen %q", d.Screen)
}

// tapeName names a tape by its place and its text, so that scenes share what is alike.
func tapeName(t show.Tape) string {
	return fmt.Sprintf("row %d, column %d: %s", t.Row+1, t.Col+1, string(t.Text))
}

// effects resolves what moves in each scene.
func (m *Module) effects(doc *bench.Module, library glyph.Library, banks []glyph.Bank) error {
	m.Effects = make([]Effect, max(len(doc.Show.Scenes), 1))
	for i := range doc.Show.Scenes {
		d := &doc.Show.Scenes[i]
		e := &m.Effects[i]
		e.Kind, e.Back = d.Effect.Kind, d.Effect.Back
		wrong := func(format string, a ...any) error {
			return bench.Problem{Path: fmt.Sprintf("/modules/%d/show/scenes/%d/effect", m.At, i), What: fmt.Sprintf(format, a...)}
		}
		switch e.Kind {
		case "walk", "scroll":
			e.Tape = m.Show.Scenes[i].Effect.Tape
			name := tapeName(e.Tape)
			e.Value = slices.IndexFunc(m.Values, func(v Value) bool { return v.Kind == field.Tape && v.Name == name })
		case "slots":
			for _, key := range d.Effect.Glyphs {
				drawing, ok := library.Keyed(key)
				if !ok {
					return wrong("there is no drawing %d in the library", key)
				}
				e.Glyphs = append(e.Glyphs, m.number(drawing.Pattern()))
			}
			slot, ok := banks[m.Show.Scenes[i].Screen].Holds(m.Glyphs[e.Glyphs[0]], m.Display.SlotStep())
			if !ok {
				return wrong("its first glyph is in no slot of the screen; expected one that the screen shows and the ROM has not")
			}
			e.Slot = slot
		}
	}
	return nil
}

// Feed is a value of the program that an input gives.
type Feed struct {
	Value, Input int
	Kind         field.Kind
	Decimals     int
	Low, High    int64
	Peak         bool
	Cut          bool // digits beyond the field's are cut off
}

// Told is what is told for what an input gives; beyond the range of the field its end is.
func (f *Feed) Told(v show.Given, before Told) Told {
	within := func(units int64) int64 {
		return min(max(show.Rescale(units, v.Decimals, f.Decimals, f.Cut), f.Low), f.High)
	}
	switch f.Kind {
	case field.Text, field.Choice:
		before.Units = min(max(v.Units, f.Low), f.High)
	case field.Number, field.Elapsed:
		before.Units = within(v.Units)
		if f.Peak {
			before.Units = within(v.Peak)
		}
	case field.Bar:
		before.Units = within(v.Units)
		if f.Peak {
			before.Above = within(v.Peak) - before.Units
		}
	case field.Free:
		before.Codes = v.Text
	}
	return before
}

// stage resolves the show of a module. A feed whose field is not on the glass gives
// nothing; show.Check says so where no screen has the field.
func (m *Module) stage(doc *bench.Module) (err error) {
	if m.Show, err = show.Of(doc); err != nil {
		if problem, ok := err.(bench.Problem); ok {
			return problem.Under(fmt.Sprintf("/modules/%d", m.At))
		}
		return err
	}
	m.Staged = len(doc.Show.Scenes) > 0
	for _, f := range m.Show.Feeds {
		for k, v := range m.Values {
			if v.Name == f.Field && v.Kind != field.Tape {
				m.Feeds = append(m.Feeds, Feed{k, f.Input, v.Kind, v.Decimals, v.Low, v.High, f.Peak, v.Cut})
			}
		}
	}
	for _, e := range m.Show.Edited {
		m.Edited = append(m.Edited, slices.IndexFunc(m.Values, func(v Value) bool {
			return v.Name == e.Name && v.Kind == e.Kind && v.Decimals == e.Decimals && slices.Equal(v.Words, e.Words)
		}))
	}
	return nil
}
