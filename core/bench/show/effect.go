package show

import (
	"fmt"
	"slices"

	"slatebell/core/bench"
	"slatebell/core/part/module"
	"slatebell/core/place"
	"slatebell/core/text/field"
)

// Effect moves something while a scene lasts, a step at a time, over and over.
type Effect struct {
	Kind  string // walk, scroll, shift or slots
	Every int64  // ms
	Steps int64  // until it begins again
	Back  bool   // walk: back again from the end; scroll, shift: to the right
	Tape  Tape   // walk, scroll
}

// UsualStep is the time of a step where nothing is said.
const UsualStep = 300 // ms

// lineLength is how many characters a line of a controller's memory has: as many shifts turn it
// once round.
const lineLength = 40

// effect resolves what moves.
func (r *resolver) effect(d *bench.Effect, s *bench.Screen, at string) (*Effect, error) {
	out := &Effect{Kind: d.Kind, Every: or(d.EveryMs, UsualStep), Back: d.Back, Steps: 1}
	switch d.Kind {
	case "shift":
		out.Steps = 2 * lineLength // divides both lengths: one line of 80, two of 40
	case "slots":
		out.Steps = int64(len(d.Glyphs))
		if len(d.Glyphs) < 2 {
			return nil, bench.Problem{Path: at + "/glyphs", What: fmt.Sprintf("%d glyphs; expected two or more that a slot shows in turn", len(d.Glyphs))}
		}
	default:
		g, err := module.ParseGeometry(r.module.Display.Geometry)
		if err != nil {
			return nil, bench.ProblemOf("/display/geometry", err)
		}
		out.Tape, err = TapeOf(d, s, g.Cols, g.Rows)
		if err != nil {
			return nil, bench.ProblemOf(at, err)
		}
		out.Steps = int64(out.Tape.Steps)
	}
	return out, nil
}

// Tape is text that a row of cells shows from one of its characters on; the effects walk
// and scroll move it.
type Tape struct {
	Row, Col, Width int
	Text            []rune
	Steps           int
	Back            bool
	Walks           bool // a space shows what is below
}

// Start is the first character that is shown at a step.
func (t *Tape) Start(step int64) int64 {
	if !t.Walks {
		if t.Back {
			return int64(t.Steps) - 1 - step
		}
		return step
	}
	free := int64(len(t.Text) - t.Width)
	return max(free-step, step-free)
}

// TapeOf lays out the tape of an effect over its screen, on a glass of so many columns and
// rows.
func TapeOf(d *bench.Effect, s *bench.Screen, cols, rows int) (Tape, error) {
	t := Tape{Row: d.Row, Col: d.Col, Width: d.Width}
	if t.Row >= rows || t.Col >= cols {
		return t, place.Errorf("%P is not on the glass, which ends at %P", place.Cell(t.Row, t.Col), place.Cell(rows-1, cols-1))
	}
	if t.Width == 0 {
		t.Width = cols - t.Col
	}
	if t.Col+t.Width > cols {
		return t, place.Errorf("%d cells from %P on; the row ends at %P", t.Width, place.Column(t.Col), place.Column(cols-1))
	}
	for i := range s.Fields {
		if f := &s.Fields[i]; f.Row == t.Row && f.Col < t.Col+t.Width && f.Col+f.Width > t.Col && f.Kind != field.Cursor && f.Kind != field.Tape {
			return t, fmt.Errorf("the field “%s” lies where it moves; expected cells without fields", f.Name)
		}
	}
	text := []rune(d.Text)
	if d.Kind == "scroll" {
		if len(text) == 0 && t.Row < len(s.Rows) {
			row := []rune(s.Rows[t.Row])
			text = row[min(t.Col, len(row)):]
		}
		text = slices.Concat(text, slices.Repeat([]rune{' '}, d.Gap))
		if len(text) == 0 {
			return t, place.Errorf("%P is empty; expected a text that runs", place.Row(t.Row))
		}
		t.Steps, t.Back = len(text), d.Back
		t.Text = slices.Repeat(text, 1+(t.Width+t.Steps-1)/t.Steps)[:t.Steps+t.Width]
		return t, nil
	}
	if len(text) == 0 || len(text) > t.Width {
		return t, fmt.Errorf("%d characters walk over %d cells; expected 1 to %d", len(text), t.Width, t.Width)
	}
	free := t.Width - len(text)
	t.Walks, t.Back, t.Steps = true, d.Back, free+1
	t.Text = slices.Concat(slices.Repeat([]rune{' '}, free), text, slices.Repeat([]rune{' '}, free))
	if d.Back && free > 0 { // each cell on the way back, but for the ends
		t.Steps = 2 * free
	}
	return t, nil
}

// Step is the step of what moves now; −1 where nothing does.
func (s *Show) Step(st *State) int64 {
	e := s.Scenes[st.Scene].Effect
	if e == nil {
		return -1
	}
	return (st.Now - st.Since) / e.Every % e.Steps
}

// moves is when the next step is due.
func (s *Show) moves(st *State) int64 {
	e := s.Scenes[st.Scene].Effect
	if e == nil || e.Steps < 2 {
		return never
	}
	return st.Since + ((st.Now-st.Since)/e.Every+1)*e.Every
}
