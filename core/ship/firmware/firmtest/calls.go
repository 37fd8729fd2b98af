package firmtest

import (
	"math/rand/v2"
	"time"

	"slatebell/core/part/module"
	"slatebell/core/ship/firmware"
	"slatebell/core/text/field"
)

// Call is a call of a program: of a module's Show where Screen is a screen, Clear where it
// is the blank glass, Tell or Move otherwise.
type Call struct {
	Screen int // -1 for none
	Value  int // -1 for none
	Told   firmware.Told
	Place  int // for the cursor; -1 for none
	Dots   int // of a VFD: 0 off, 1 on; -1 for none
}

// Calls returns calls at random.
func Calls(r *rand.Rand, m *firmware.Module, n int) []Call {
	var out []Call
	for range n {
		c := Call{Screen: -1, Value: -1, Place: -1, Dots: -1}
		switch at := r.IntN(10); {
		case at < 6 && len(m.Values) > 0:
			c.Value = r.IntN(len(m.Values))
			c.Told = told(r, &m.Values[c.Value])
		case at == 6 && len(m.Places) > 0:
			if c.Place = r.IntN(len(m.Places)); m.Places[c.Place].Value >= 0 {
				continue
			}
		case at == 7 && m.Display.Technology == module.VFD:
			c.Dots = r.IntN(2)
		default:
			c.Screen = r.IntN(len(m.Screens) + 1)
		}
		out = append(out, c)
	}
	return out
}

// told is a value in its range, mostly near the one before, as values go.
func told(r *rand.Rand, v *firmware.Value) (t firmware.Told) {
	if v.Kind == field.Clock {
		t.Time = time.Date(2026, time.January, 1, 0, 0, 0, 0, time.UTC).Add(time.Duration(r.Int64N(3*366*24*3600)) * time.Second)
		return t
	}
	span := v.High - v.Low + 1
	if r.IntN(2) == 0 {
		span = min(span, 12)
	}
	t.Units = v.Low + r.Int64N(max(span, 1))
	return t
}

// Do makes a call of a player.
func (c *Call) Do(p *firmware.Player, m *firmware.Module) {
	switch {
	case c.Value >= 0:
		p.Tell(c.Value, c.Told)
	case c.Place >= 0:
		p.Move(c.Place)
	case c.Dots >= 0:
		p.Dots(c.Dots == 1)
	case c.Screen == m.Blank():
		p.Clear()
	default:
		p.Show(c.Screen)
	}
}
