package play

import (
	"slices"
	"time"

	"slatebell/core/field"
	"slatebell/core/firmware"
	"slatebell/core/show"
)

// wish is what is wanted from a moment on.
type wish struct {
	at     time.Duration
	since  time.Duration // from when on something was wanted that was not sent
	scene  int
	screen int
	off    bool
	values []firmware.Told
	shift  int // cells that the glass is shifted by
	right  bool
	slots  *firmware.Effect // that shows its glyphs in turn
	step   int64
}

// same reports whether two wishes look alike, by the values that their screen shows.
func (w *wish) same(o *wish, shown []bool) bool {
	for i := range w.values {
		if shown[i] && w.values[i] != o.values[i] {
			return false
		}
	}
	return w.screen == o.screen && w.off == o.off && w.shift == o.shift && w.right == o.right && w.slots == o.slots && (w.slots == nil || w.step == o.step)
}

// shown tells of each screen which values it shows.
func shown(m *firmware.Module) [][]bool {
	out := make([][]bool, len(m.Screens))
	for i := range out {
		out[i] = make([]bool, len(m.Values))
	}
	for i := range m.Places {
		if p := &m.Places[i]; p.Value >= 0 {
			out[p.Screen][p.Value] = true
		}
	}
	return out
}

// wanted is what the show wants now.
func (s *stage) wanted(at time.Duration) wish {
	st := &s.state
	scene := &s.show.Scenes[st.Scene]
	w := wish{at: at, since: at, scene: st.Scene, screen: scene.Screen, off: scene.Off, values: s.module.Starts()}
	for i := range s.feeds {
		f := &s.feeds[i]
		w.values[f.value] = f.told(s.show.Gives(st, f.input), w.values[f.value])
	}
	for i, value := range s.edits {
		if value >= 0 {
			held := &st.Edited[i]
			if scene.Edit != nil && scene.Edit.Field == i {
				held = &st.Typing.Text
				if s.show.Marked(st) {
					w.values[value].Mark = firmware.Mark{Place: st.Typing.Place + 1, Code: scene.Edit.Mark}
				}
			}
			w.values[value].Units, w.values[value].Codes = held.Units, held.Codes
		}
	}
	s.moves(&w)
	return w
}

// moves adds what the scene's effect moves.
func (s *stage) moves(w *wish) {
	step := s.show.Step(&s.state)
	if step < 0 {
		return
	}
	switch e := &s.module.Effects[w.scene]; e.Kind {
	case "walk", "scroll":
		w.values[e.Value].Units = e.Tape.Start(step)
	case "shift":
		w.shift, w.right = int(step), e.Back
	case "slots":
		w.slots, w.step = e, step
	}
}

// feed is a value of the program that an input gives.
type feed struct {
	value, input int
	kind         field.Kind
	decimals     int
	low, high    int64
	peak         bool
}

// told is what is told for what an input gives; beyond the range of the field its end is.
func (f *feed) told(v show.Given, before firmware.Told) firmware.Told {
	within := func(units int64) int64 {
		return min(max(show.Rescale(units, v.Decimals, f.decimals), f.low), f.high)
	}
	switch f.kind {
	case field.Text, field.Choice:
		before.Units = min(max(v.Units, f.low), f.high)
	case field.Number, field.Elapsed:
		before.Units = within(v.Units)
		if f.peak {
			before.Units = within(v.Peak)
		}
	case field.Bar:
		before.Units = within(v.Units)
		if f.peak {
			before.Above = within(v.Peak) - before.Units
		}
	case field.Free:
		before.Codes = v.Text
	}
	return before
}

// feeds resolves the feeds of a show to the values of a program. One whose field is not on
// the glass gives nothing; show.Check says so where no screen has the field.
func feeds(m *firmware.Module, s *show.Show) (out []feed) {
	for _, f := range s.Feeds {
		for k, v := range m.Values {
			if v.Name == f.Field && v.Kind != field.Tape {
				out = append(out, feed{k, f.Input, v.Kind, v.Decimals, v.Low, v.High, f.Peak})
			}
		}
	}
	return out
}

// valueOf is the value of a program that an edited field is; -1 where it is not on the
// glass.
func valueOf(m *firmware.Module, e *show.Edited) int {
	return slices.IndexFunc(m.Values, func(v firmware.Value) bool {
		return v.Name == e.Name && v.Kind == e.Kind && v.Decimals == e.Decimals && slices.Equal(v.Words, e.Words)
	})
}
