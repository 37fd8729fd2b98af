package layout

import (
	"cmp"
	"fmt"
	"strconv"
	"strings"

	"slatebell/core/part/module"
	"slatebell/core/quoting"
	"slatebell/core/ship/firmware"
	"slatebell/core/text/field"
	"slatebell/core/wire/link"
)

// module lays out what a display's callers see.
func (v *View) module(m *firmware.Module, used Names) Display {
	c := Display{At: m.At, Ident: used.Of(m.Name, m.ID), Shadow: max(m.Shadow, 1), Image: m}
	g := &m.Display.Geometry
	c.Title = fmt.Sprintf("%s: %s %s, %s", quoting.ASCIIComment(cmp.Or(m.Name, m.ID)), strings.ReplaceAll(g.Title, " × ", "x"), strings.ToUpper(string(m.Display.Technology)), linkTitle(m))
	enums := Names{}
	upper := strings.ToUpper(c.Ident)
	for i, s := range m.Screens {
		name := strings.ToUpper(enums.Of(cmp.Or(s.Name, s.ID), s.ID))
		c.Screens = append(c.Screens, Screen{upper + "_" + name, quoting.ASCIIComment(cmp.Or(s.Name, s.ID)), i == len(m.Screens)-1})
	}
	calls := Names{"begin": true, "show": true, "clear": true, "light": true, "display": true, "screen": true}
	clock, text, other := 0, 0, 0
	for _, val := range m.Values {
		if val.Kind != field.Clock && val.Kind != field.Free {
			other++
		}
	}
	other += Peaks(m)
	times := 0
	for _, val := range m.Values {
		times += One(val.Kind == field.Clock)
	}
	plain := 0
	for i := range m.Values {
		val := &m.Values[i]
		name := ""
		if val.Kind != field.Tape {
			name = calls.Of(val.Name, fmt.Sprintf("field_%d", i+1))
		}
		s := Setter{Index: i, Func: fmt.Sprintf("%s_set_%s", c.Ident, name), Param: "to", Says: describe(val), Clock: val.Kind == field.Clock, Text: val.Kind == field.Free, Hidden: val.Kind == field.Tape}
		if s.Clock {
			s.Number = other + clock
			clock++
		} else if s.Text {
			s.Number = other + times + text
			text++
		} else {
			s.Number = plain
			plain++
		}
		if len(val.Words) > 0 && !s.Hidden {
			s.Type = fmt.Sprintf("%s_%s", c.Ident, name)
			words := Names{}
			for k, w := range val.Words {
				word := strings.ToUpper(words.Of(w, fmt.Sprintf("word_%d", k+1)))
				s.Enums = append(s.Enums, Enum{fmt.Sprintf("%s_%s_%s", upper, strings.ToUpper(name), word), "", k == len(val.Words)-1})
			}
		}
		c.Setters = append(c.Setters, s)
	}
	for i := range m.Places {
		if p := &m.Places[i]; p.Value < 0 {
			name := calls.Of(p.Spec.Name, fmt.Sprintf("place_%d", i+1))
			c.Moves = append(c.Moves, Move{Index: i, Screen: p.Screen, Enable: p.Controller, Func: fmt.Sprintf("%s_to_%s", c.Ident, name), Address: p.Address[0],
				Says: fmt.Sprintf("Puts the cursor into row %d, column %d, while its screen is shown.", p.Row+1, p.Col+1)})
		}
	}
	c.Stage = showOf(&c)
	switch {
	case m.Display.Technology == module.VFD:
		c.Light = "Lights the dots, or darkens them; the text stays."
	case hasOutLight(m):
		c.Light = "Switches the backlight."
	}
	return c
}

// linkTitle says how a module is joined.
func linkTitle(m *firmware.Module) string {
	switch m.Link.Kind {
	case link.Backpack:
		return fmt.Sprintf("backpack at 0x%02X", m.Link.Address)
	case link.ShiftReg:
		return "74HC595"
	case link.Parallel8:
		return "8 data lines"
	}
	return "4 data lines"
}

// describe says what a value is told in.
func describe(v *firmware.Value) string {
	unit := strings.TrimSpace(v.Unit)
	switch v.Kind {
	case field.Number:
		each := "whole numbers"
		if v.Decimals > 0 {
			each = fmt.Sprintf("units of %s", strconv.FormatFloat(pow10(-v.Decimals), 'f', v.Decimals, 64))
		}
		return quoting.ASCIIComment(fmt.Sprintf("%s, in %s%s: %d to %d.", v.Name, each, spaced(unit), v.Low, v.High))
	case field.Elapsed:
		return quoting.ASCIIComment(fmt.Sprintf("%s, in seconds: %d to %d.", v.Name, v.Low, v.High))
	case field.Bar:
		return quoting.ASCIIComment(fmt.Sprintf("%s, a bar from %d to %d.", v.Name, v.Low, v.High))
	case field.Clock:
		return quoting.ASCIIComment(v.Name + ", a time.")
	case field.Free:
		return quoting.ASCIIComment(v.Name + ", a text.")
	}
	return quoting.ASCIIComment(v.Name + ": one of its words.")
}

func pow10(n int) float64 {
	f := 1.0
	for ; n < 0; n++ {
		f /= 10
	}
	return f
}

func spaced(unit string) string {
	if unit == "" {
		return ""
	}
	return " " + unit
}
