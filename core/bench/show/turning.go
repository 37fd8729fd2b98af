package show

import (
	"cmp"
	"slices"

	"slatebell/core/bench"
	"slatebell/core/bench/edit"
)

// TurnMs is how long each screen of a show that Turning makes is shown, in milliseconds.
const TurnMs = 4000

// Turning returns a module's show with a scene more for each screen, of which each ends in the next
// after TurnMs, and the last in the first.
func Turning(m *bench.Module) bench.Show {
	s := m.Show
	s.Scenes = slices.Clone(s.Scenes)
	taken := func(id string) bool {
		return slices.ContainsFunc(s.Scenes, func(c bench.Scene) bool { return c.ID == id })
	}
	for i := range m.Screens {
		name := cmp.Or(m.Screens[i].Name, m.Screens[i].ID)
		s.Scenes = append(s.Scenes, bench.Scene{ID: edit.NewID(name, taken), Name: name, Screen: m.Screens[i].ID})
	}
	for i := range s.Scenes {
		s.Scenes[i].Ends = nil
		if n := len(s.Scenes); n > 1 {
			s.Scenes[i].Ends = []bench.End{{AfterMs: TurnMs, Next: s.Scenes[(i+1)%n].ID}}
		}
	}
	return s
}
