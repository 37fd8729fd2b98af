package firmtest

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"

	"slatebell/core/bench"
	"slatebell/core/bench/show"
	"slatebell/core/part/module"
	"slatebell/core/text/field"
	"slatebell/core/text/screen"
)

// Stage gives a module a show of every kind of scene, input, edit and effect at random, and
// its screens fields of free text where there is room.
func Stage(r *rand.Rand, m *bench.Module) {
	g, err := module.ParseGeometry(m.Display.Geometry)
	if err != nil {
		return
	}
	m.Show = bench.Show{Inputs: []bench.Input{
		{ID: "go", Kind: "button", Button: bench.Button{DebounceMs: 1 + r.IntN(30), LongMs: 100 + r.IntN(500)}},
		{ID: "set", Kind: "button", Button: bench.Button{DebounceMs: 5}},
		{ID: "clock", Kind: "timer", EveryMs: 20 + r.IntN(400)},
		{ID: "boats", Kind: "counter", Counter: bench.Counter{Count: 2 + r.IntN(6), Stops: r.IntN(2) == 0, Up: "clock", Down: "go"}},
		{ID: "tide", Kind: "signal", Signal: bench.Sensor{Decimals: r.IntN(2), Hysteresis: float64(r.IntN(3)), Start: float64(r.IntN(4))}},
		{ID: "wind", Kind: "signal", Signal: bench.Sensor{Meter: bench.Meter{Reads: pick(r, []string{"linear", "decibels"}), Reference: 100, RiseMs: float64(r.IntN(50)), FallMs: float64(r.IntN(700)), HoldMs: 1 + r.IntN(800)}}},
		{ID: "radio", Kind: "serial", Serial: bench.Serial{Baud: pick(r, []int{1200, 9600, 115200}), Longest: 3 + r.IntN(40), AsItComes: r.IntN(2) == 0, TimeoutMs: r.IntN(2) * 200, Ends: pick(r, []string{"", "line", "pause"}), PauseMs: r.IntN(2) * 90, Reset: pick(r, []string{"", "set"}), Text: pick(r, []string{"", "utf8", "codes"}), Missing: pick(r, []string{"", "!"})}},
	}}
	for i := range m.Screens {
		free(r, &m.Screens[i], &g)
	}
	for i := range m.Screens {
		s := &m.Screens[i]
		scene := bench.Scene{ID: fmt.Sprintf("s%d", i), Screen: s.ID, Off: r.IntN(8) == 0}
		edit(r, &scene, s)
		effect(r, &scene, s, &g)
		next := func() string { return fmt.Sprintf("s%d", r.IntN(len(m.Screens))) }
		for _, e := range []bench.End{{AfterMs: 50 + r.IntN(900)}, {Input: "go", On: pick(r, []string{"", "long", "release"})}, {Input: "tide", On: pick(r, []string{"", "below"}), Level: 5}, {Input: "radio"}, {Input: "boats"}} {
			if r.IntN(3) == 0 {
				e.Next = next()
				scene.Ends = append(scene.Ends, e)
			}
		}
		if scene.Edit.Field != "" {
			scene.Ends = append(scene.Ends, bench.End{On: pick(r, []string{"accept", "cancel"}), Next: next()})
		}
		m.Show.Scenes = append(m.Show.Scenes, scene)
		for _, f := range s.Fields {
			switch {
			case f.Kind == field.Cursor || f.Kind == field.Clock || f.Name == scene.Edit.Field:
			case f.Kind == field.Free:
				m.Show.Feeds = append(m.Show.Feeds, bench.Feed{Field: f.Name, Input: "radio"})
			default:
				in := pick(r, []string{"boats", "tide", "clock", "wind"})
				m.Show.Feeds = append(m.Show.Feeds, bench.Feed{Field: f.Name, Input: in, Peak: in == "wind" && r.IntN(2) == 0})
			}
		}
	}
}

// free adds fields of free text to a screen, of one name, where its rows have room.
func free(r *rand.Rand, s *bench.Screen, g *module.Geometry) {
	f := field.Field{Name: pick(r, []string{"Message", "Crew"}), Kind: field.Free, Sample: text(r, r.IntN(5)), Look: field.Look{TooLong: pick(r, []string{"", "page", "scroll"}), Align: pick(r, []string{"", "right"})}}
	for row := range g.Rows {
		f.Row, f.Col, f.Width = row, r.IntN(g.Cols), 1+r.IntN(6)
		if r.IntN(2) == 0 && vacant(s, g, f.Row, f.Col, f.Width) {
			s.Fields = append(s.Fields, f)
		}
	}
}

// vacant reports whether cells are on the glass, without fields, and no field of their row
// moves what follows it.
func vacant(s *bench.Screen, g *module.Geometry, row, col, width int) bool {
	return col+width <= g.Cols && !slices.ContainsFunc(s.Fields, func(f field.Field) bool {
		return f.Row == row && (f.Col < col+width && col < f.Col+f.Width || f.Look.TooLong == "shift")
	})
}

// edit lets a scene edit a field of its screen that can be.
func edit(r *rand.Rand, scene *bench.Scene, s *bench.Screen) {
	if r.IntN(2) == 0 {
		return
	}
	for _, f := range s.Fields {
		if f.Kind == field.Number && f.Align() == "right" || f.Kind == field.Text || f.Kind == field.Choice || f.Kind == field.Free {
			scene.Edit = bench.Edit{
				Field: f.Name, Takes: pick(r, []string{"", "digits", "hex", "letters", "ascii", "rom"}), Mark: bench.EditMark{Code: pick(r, []int{0, '_'}), OnMs: 100 + r.IntN(200), OffMs: 50 + r.IntN(100)},
				Repeat: bench.Repeat{AfterMs: 100, EveryMs: 40, FastAfter: 2 + r.IntN(3), FastMs: 20},
				Keys:   []bench.Key{{Does: pick(r, []string{"up", "down"}), Input: "go"}, {Does: pick(r, []string{"next", "left", "right", "accept"}), Input: "set"}, {Does: "down", Input: "tide", On: "above", Level: 7}},
			}
		}
	}
}

// effect lets something move in a scene, where there is room for it.
func effect(r *rand.Rand, scene *bench.Scene, s *bench.Screen, g *module.Geometry) {
	e := bench.Effect{Kind: pick(r, []string{"", "walk", "scroll", "shift", "slots"}), EveryMs: 30 + r.IntN(300), Back: r.IntN(2) == 0, Row: r.IntN(g.Rows), Gap: 1 + r.IntN(3)}
	switch e.Kind {
	case "walk", "scroll":
		e.Col = r.IntN(g.Cols)
		e.Width = 1 + r.IntN(g.Cols-e.Col)
		if !vacant(s, g, e.Row, e.Col, e.Width) {
			return
		}
		e.Text = strings.TrimSpace(text(r, 1+r.IntN(e.Width))) + "x"
		if n := []rune(e.Text); e.Kind == "walk" && len(n) > e.Width {
			e.Text = string(n[len(n)-e.Width:])
		}
	case "slots":
		for _, row := range s.Rows {
			for _, ch := range row {
				if ch > screen.KeyBase && len(e.Glyphs) == 0 {
					e.Glyphs = []int{int(ch - screen.KeyBase), 11, 12}
				}
			}
		}
		if len(e.Glyphs) == 0 {
			return
		}
	case "":
		return
	}
	scene.Effect = e
}

// Script returns what happens to the inputs of a module that Stage staged.
func Script(r *rand.Rand, m *bench.Module, until int64) (out []show.Event) {
	for at := int64(0); at < until; at += r.Int64N(until / 20) {
		input := []int{0, 0, 1, 1, 3, 4, 5, 6}[r.IntN(8)]
		e := show.Event{At: at, Input: input}
		switch input {
		case 0, 1:
			e.Value = int64(r.IntN(2))
		case 3:
			e.Value = int64(r.IntN(5) - 2)
		case 4:
			e.Value = int64(r.IntN(100))
		case 5:
			e.Value = int64(r.IntN(1200) - 200)
		case 6:
			// bytes of UTF-8, some of them cut off or of no character
			text := pick(r, []string{"A", "B", "c", "d", " ", "1", "2", "\n", "\n", "\n", "\r", "\f", "°", "é", "→", "ｱ", "日", "😀", "\xC3", "\x80", "\xE0\x80"})
			for _, c := range []byte(text[:len(text)-1]) {
				e.Value = int64(c)
				out = append(out, e)
			}
			e.Value = int64(text[len(text)-1])
		}
		out = append(out, e)
	}
	return out
}
