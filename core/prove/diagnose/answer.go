package diagnose

import (
	"fmt"
	"strings"

	"slatebell/core/prove/fault"
	"slatebell/core/wire/glass"
)

// Told is a cause in words.
type Told struct {
	ID       string   `json:"id" doc:"code and place; two faults at once are joined by +"`
	Code     string   `json:"code" doc:"such as wire.swapped; two joined by +"`
	Topic    string   `json:"topic" enum:"wires,supply,bus,program,inputs"`
	What     string   `json:"what"`
	Where    string   `json:"where"`
	Fix      string   `json:"fix" doc:"what settles it"`
	Why      string   `json:"why" doc:"why it stands where it stands"`
	Share    float64  `json:"share" doc:"of all that is possible, 0–1"`
	Explains float64  `json:"explains" doc:"part of what was seen that it would show so, 0–1"`
	Pins     []string `json:"pins,omitempty" nullable:"false" doc:"pins of header or backpack that it is about"`
	Passing  bool     `json:"passing,omitempty" doc:"gone once the supply was away"`
}

// join puts what is said of one or two faults into one text.
func join(list []*fault.Fault, between string, say func(*fault.Fault) string) string {
	out := say(list[0])
	if len(list) > 1 {
		out += between + say(list[1])
	}
	return out
}

// FaultsOf lists the faults of a case: one, or two.
func (f *Finder) FaultsOf(c *fault.Case) []*fault.Fault {
	out := []*fault.Fault{&f.Index.Faults[c.A]}
	if c.B >= 0 {
		out = append(out, &f.Index.Faults[c.B])
	}
	return out
}

// Look is what one would say of a case at first: the class of its glass and whether it is
// lit, and what can be read of it.
func (f *Finder) Look(c *fault.Case) Seen {
	v := f.Index.View(c.View)
	s := Seen{Class: v.Class(), Light: &v.Light}
	if s.Class.Readable() {
		s.Typed = f.Index.Text(v)
	}
	return s
}

// Tell puts a cause into words.
func (f *Finder) Tell(s *Seen, c Cause) Told {
	list := f.FaultsOf(&f.Index.Cases[c.Case])
	t := Told{
		ID: join(list, "+", func(x *fault.Fault) string { return x.ID }), Code: join(list, "+", func(x *fault.Fault) string { return x.Code }), Topic: string(list[0].Topic),
		What: join(list, " And: ", (*fault.Fault).What), Where: join(list, "; ", (*fault.Fault).Where), Fix: join(list, " ", (*fault.Fault).Fix),
		Share: c.Share, Explains: c.Explains, Passing: list[0].Passing,
	}
	for _, x := range list {
		t.Pins = append(t.Pins, x.Pins...)
	}
	t.Why = f.why(s, c, list)
	return t
}

// why says what speaks for a cause, and what against it.
func (f *Finder) why(s *Seen, c Cause, list []*fault.Fault) string {
	var out []string
	v := f.Index.View(f.Index.Cases[c.Case].View)
	switch {
	case s.Typed != nil && c.Explains == 1:
		out = append(out, "Every character would stand as you typed it.")
	case s.Typed != nil:
		out = append(out, fmt.Sprintf("%.0f %% of the characters would stand as you typed them.", 100*c.Explains))
	case s.Wrong != nil && c.Explains == 1:
		out = append(out, "The cells that you pointed at would be wrong, and no others.")
	case s.Wrong != nil:
		out = append(out, fmt.Sprintf("%.0f %% of the cells would be right and wrong as you say.", 100*c.Explains))
	default:
		out = append(out, "It would show "+Called(v.Class())+".")
	}
	if s.Light != nil && *s.Light != v.Light {
		out = append(out, map[bool]string{true: "But the backlight would be lit.", false: "But the backlight would be dark."}[v.Light])
	}
	if len(list) > 1 {
		out = append(out, "Two faults at once are met seldom.")
	}
	for _, x := range list {
		if n := f.found[x.Code]; n > 0 {
			out = append(out, fmt.Sprintf("Found %s before at your benches.", times(n)))
			break
		}
	}
	return strings.Join(out, " ")
}

func times(n int) string {
	switch n {
	case 1:
		return "once"
	case 2:
		return "twice"
	}
	return fmt.Sprintf("%d times", n)
}

// Called is what one calls a class of glass.
func Called(c glass.Class) string {
	switch c {
	case glass.Blank:
		return "a blank glass"
	case glass.BlockRow:
		return "a row of blocks"
	case glass.AllBlocks:
		return "blocks everywhere"
	case glass.Faint:
		return "faint signs"
	case glass.Shaded:
		return "characters on shaded cells"
	}
	return "characters that can be read"
}

// Sees says what an outcome looks like: words, or the class of a glass with its rows
// where characters are on it.
func (f *Finder) Sees(o fault.Outcome) string {
	v, glass := f.Index.ViewOf(o)
	if !glass {
		return f.Index.Says(o)
	}
	switch c := v.Class(); {
	case o == 0:
		return "as it ought to be"
	case !c.Readable():
		return Called(c)
	default:
		var rows []string
		for _, r := range f.Index.Text(v) {
			rows = append(rows, strings.TrimRight(r, " "))
		}
		return strings.TrimRight(strings.Join(rows, " | "), " |")
	}
}
