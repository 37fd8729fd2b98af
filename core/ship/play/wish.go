package play

import (
	"time"

	"slatebell/core/ship/firmware"
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
	for i := range s.module.Feeds {
		f := &s.module.Feeds[i]
		w.values[f.Value] = f.Told(s.show.Gives(st, f.Input), w.values[f.Value])
	}
	for i, value := range s.module.Edited {
		if value >= 0 {
			held := &st.Edited[i]
			if scene.Edit != nil && scene.Edit.Field == i {
				held = &st.Typing.Text
				if s.show.Marked(st) {
					w.values[value].Mark = firmware.EditPlace{Place: st.Typing.Place + 1, Code: scene.Edit.Mark}
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
