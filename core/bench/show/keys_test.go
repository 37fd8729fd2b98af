package show

import (
	"testing"

	"slatebell/core/bench"
)

// TestWorked lets a hand work each key of a stick twice: the show counts each press once, and again only
// after it was let go, whatever the hysteresis.
func TestWorked(t *testing.T) {
	for _, hysteresis := range []float64{0, 1, 40} {
		b := bench.New("stick")
		m := &b.Modules[0]
		m.Screens = append(m.Screens, bench.Screen{ID: "other", Rows: []string{}})
		m.Show.Inputs = []bench.Input{{ID: "x", Kind: "signal", Signal: bench.Sensor{Start: 512, Hysteresis: hysteresis}}, {ID: "go", Kind: "button"}}
		for _, c := range []struct {
			key   bench.Key
			input int
		}{{bench.Key{Does: "left", Input: "x", On: "below", Level: 300}, 0}, {bench.Key{Does: "right", Input: "x", Level: 700}, 0}, {bench.Key{Does: "accept", Input: "go"}, 1}} {
			end := bench.End{Input: c.key.Input, Next: "b", Level: c.key.Level}
			if c.input == 0 {
				end.On = map[bool]string{true: "below", false: "above"}[c.key.On == "below"]
			}
			m.Show.Scenes = []bench.Scene{{ID: "a", Screen: "screen-1", Ends: []bench.End{end}}, {ID: "b", Screen: "other", Ends: []bench.End{{AfterMs: 300, Next: "a"}}}}
			s, err := Of(m)
			if err != nil {
				t.Fatal(err)
			}
			pressed, let := Worked(&c.key, &m.Show.Inputs[c.input])
			st, scenes := s.Begin(), ""
			for n, v := range []float64{pressed, let, pressed, let} {
				at := int64(1000 * (n + 1))
				st = s.Take(s.Until(st, at), Event{At: at, Input: c.input, Value: Units(v, 0)})
				st = s.Until(st, at+100)
				scenes += m.Show.Scenes[st.Scene].ID
			}
			if scenes != "baba" {
				t.Errorf("hysteresis %g, %s: pressed, let go, pressed, let go shows %s; it moves to %g and %g", hysteresis, c.key.Does, scenes, pressed, let)
			}
		}
	}
}
