package run

import (
	"cmp"
	"fmt"
	"math"
	"strconv"

	"slatebell/core/bench"
	"slatebell/core/bench/show"
	"slatebell/core/prove/fault"
	"slatebell/core/prove/testbed"
	"slatebell/core/table/touch"
	"slatebell/core/table/wiring"
	"slatebell/core/text/field"
	"slatebell/core/text/screen"
)

// inputsOf are the inputs that a module's show listens to at the host's pins, as planned. A show that cannot
// be played has none.
func inputsOf(b *bench.Bench, at testbed.At) (out []fault.Input) {
	m := &b.Modules[at.Module]
	s, err := show.Of(m)
	if err != nil {
		return nil
	}
	net := wiring.Of(b)
	circuit := touch.New(b, &net, touch.Planned(&net))
	count := map[string]int{}
	for i := range m.Show.Inputs {
		count[cmp.Or(m.Show.Inputs[i].Name, m.Show.Inputs[i].ID)]++
	}
	for i := range m.Show.Inputs {
		in := &m.Show.Inputs[i]
		if _, ok := circuit.Line(at.Module, i); !ok {
			continue
		}
		f := fault.Input{ID: in.ID, Name: cmp.Or(in.Name, in.ID), Pin: in.Pin, Kind: show.Kind(in.Kind), Module: at.Module, Index: i, Circuit: circuit}
		if count[f.Name] > 1 {
			f.Name = fmt.Sprintf("%s (%s)", f.Name, in.ID)
		}
		if in.Kind == "button" || in.Kind == "counter" {
			f.Shows = func(line *touch.Line, closes int) (before, after screen.Text) {
				return used(b, at.Module, s, i, line, closes)
			}
		}
		f.First = s.Scenes[s.Start].Screen == at.Screen
		out = append(out, f)
	}
	return out
}

// Times of a use, in milliseconds since the show began, and how long a contact closes and opens.
const (
	usedAt    = 1000
	closedFor = 100
	openFor   = 60
	lookedAt  = 700 // after it
)

// used is what a show has on the glass a moment after it began, and what once an input was used.
func used(b *bench.Bench, module int, s *show.Show, input int, line *touch.Line, closes int) (before, after screen.Text) {
	st := s.Begin()
	if e, told := line.Begins(input); told {
		s.Accept(&st, e)
	}
	happens := func(at, value int64) {
		if e, told := line.Tell(show.Event{At: at, Input: input, Value: value}, st.Inputs[input].Raw); told {
			s.Accept(&st, e)
		}
	}
	s.Pass(&st, usedAt-1)
	before = shownText(b, module, s, &st)
	hold := max(closedFor, 2*s.Inputs[input].Debounce)
	at := int64(usedAt)
	for range closes {
		happens(at, 1)
		at += hold
		if s.Inputs[input].Kind == show.Button {
			happens(at, 0)
			at += max(openFor, 2*s.Inputs[input].Debounce)
		}
	}
	s.Pass(&st, at+lookedAt)
	return before, shownText(b, module, s, &st)
}

// shownText is the screen that a show has on the glass, with what its inputs give to its fields.
func shownText(b *bench.Bench, module int, s *show.Show, st *show.State) screen.Text {
	m := &b.Modules[module]
	scene := &s.Scenes[st.Scene]
	if scene.Off || scene.Screen >= len(m.Screens) {
		return screen.Text{}
	}
	doc := &m.Screens[scene.Screen]
	t := screen.Text{Rows: doc.Rows, Fields: append([]field.Field{}, doc.Fields...), Cursor: doc.Cursor, Bank: m.Glyphs, Library: screen.Named(doc.Rows, doc.Fields, b.Glyphs)}
	for i := range t.Fields {
		f := &t.Fields[i]
		for _, feed := range s.Feeds {
			if feed.Field == f.Name {
				f.Sample = given(f, s.Gives(st, feed.Input))
			}
		}
	}
	return t
}

// given is what an input gives, as a field takes it.
func given(f *field.Field, g show.Given) string {
	switch f.Kind {
	case field.Text, field.Choice:
		if n := int(g.Units); n >= 0 && n < len(f.Values) {
			return f.Values[n]
		}
	case field.Number, field.Elapsed, field.Bar:
		v := float64(g.Units) / math.Pow10(g.Decimals)
		if f.Range.Max > f.Range.Min {
			v = min(max(v, f.Range.Min), f.Range.Max)
		}
		return strconv.FormatFloat(v, 'f', -1, 64)
	case field.Free:
		return ""
	}
	return f.Sample
}
