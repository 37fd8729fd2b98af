package layout

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"slatebell/core/bench/show"
	"slatebell/core/quoting"
	"slatebell/core/ship/firmware"
	"slatebell/core/text/field"
	"slatebell/core/text/meter"
)

// ShowNeeds says which parts of the interpreter of shows a bench needs; the rest is always
// there.
type ShowNeeds struct {
	Any                       bool
	Off, Tape, Shift, Slots   bool
	Edit, EditFree, EditValue bool
	Serial, UTF8              bool
	Meter, Decibels, Peak     bool
	Feeds, FreeFeeds, Cut     bool
	Effect                    bool // any of Tape, Shift, Slots
	Several                   bool // shows
}

// Show is a show as its callers have it.
type Show struct {
	Ident, Upper string
	Inputs       []Input
	Has          map[string]bool // kinds of inputs
	Edits        bool
	image        *firmware.Module
	Tables       ShowTables
}

// Input is an input of a show.
type Input struct {
	Enum, Says string
	Last       bool
}

// None stands for no input, edit, effect or value.
const None = 0xFF

// typed stands for what is edited where an input ends a scene.
const typed = 0xFE

// maxScenes is how many scenes a program holds.
const maxScenes = 255

// showNeeds finds out which parts of the interpreter a bench needs.
func showNeeds(im *firmware.Image) (h ShowNeeds) {
	for i := range im.Modules {
		m := &im.Modules[i]
		if !m.Staged {
			continue
		}
		h.Several = h.Any
		h.Any = true
		for k := range m.Show.Scenes {
			s := &m.Show.Scenes[k]
			h.Off = h.Off || s.Off
			h.Edit = h.Edit || s.Edit != nil
			switch m.Effects[k].Kind {
			case "walk", "scroll":
				h.Tape = true
			case "shift":
				h.Shift = true
			case "slots":
				h.Slots = true
			}
		}
		for k := range m.Show.Inputs {
			in := &m.Show.Inputs[k]
			h.Serial = h.Serial || in.Kind == show.Serial
			h.UTF8 = h.UTF8 || in.Message.Chars != nil
			h.Meter = h.Meter || in.Meter != nil
		}
		for _, e := range m.Show.Edited {
			h.EditFree = h.EditFree || e.Kind == field.Free
			h.EditValue = h.EditValue || e.Kind != field.Free
		}
		for _, f := range fed(m) {
			if f.Kind == field.Free {
				h.FreeFeeds = true
			} else {
				h.Feeds = true
				h.Cut = h.Cut || f.Cut
				in := &m.Show.Inputs[f.Input]
				h.Decibels = h.Decibels || in.Meter != nil && in.Meter.Decibels
			}
		}
		h.Peak = h.Peak || Peaks(m) > 0
	}
	h.Effect = h.Tape || h.Shift || h.Slots
	return h
}

// fed are the feeds of a program: a value that is edited is fed no more.
func fed(m *firmware.Module) []firmware.Feed {
	return slices.DeleteFunc(slices.Clone(m.Feeds), func(f firmware.Feed) bool {
		return !m.Staged || slices.Contains(m.Edited, f.Value) || (f.Kind == field.Free) != (m.Show.Inputs[f.Input].Kind == show.Serial) || f.Kind == field.Clock
	})
}

// Peaks counts the bars that mark a peak: each takes a value of its own, behind the others.
func Peaks(m *firmware.Module) (n int) {
	for i, f := range fed(m) {
		if f.Kind == field.Bar && f.Peak && !slices.ContainsFunc(fed(m)[:i], func(o firmware.Feed) bool { return o.Value == f.Value && o.Peak }) {
			n++
		}
	}
	return n
}

// PeakValue is the value that says how far above its level a bar marks a peak.
func PeakValue(c *Display, m *firmware.Module, value int) int {
	at := 0
	for _, s := range c.Setters {
		at += One(!s.Clock && !s.Text)
	}
	var seen []int
	for _, f := range fed(m) {
		if f.Kind != field.Bar || !f.Peak || slices.Contains(seen, f.Value) {
			continue
		}
		if f.Value == value {
			return at + len(seen)
		}
		seen = append(seen, f.Value)
	}
	return None
}

// Number is a value's number in the program; noneOf where it is not on the glass.
func (c *Display) Number(value int) int {
	for _, s := range c.Setters {
		if s.Index == value {
			return s.Number
		}
	}
	return None
}

// capacity is how many characters free texts of a program hold.
func (v *View) capacity(im *firmware.Image) (n int) {
	for i := range im.Modules {
		m := &im.Modules[i]
		for _, val := range m.Values {
			n = max(n, len(val.Codes)+One(val.Kind == field.Free))
		}
		for k := range m.Places {
			n = max(n, m.Places[k].Area)
		}
		for k := range m.Show.Inputs {
			if in := &m.Show.Inputs[k]; in.Kind == show.Serial && m.Staged {
				n = max(n, in.Message.Longest)
			}
		}
	}
	return n
}

// showOf lays out a display's show: what its callers see, and its tables.
func showOf(c *Display) *Show {
	m, ident := c.Image, c.Ident
	if !m.Staged {
		return nil
	}
	st := &Show{Ident: ident, Upper: strings.ToUpper(ident), Has: map[string]bool{}, Edits: len(m.Show.Edited) > 0, image: m}
	enums := Names{}
	for i := range m.Show.Inputs {
		in := &m.Show.Inputs[i]
		st.Has[string(in.Kind)] = true
		name := strings.ToUpper(enums.Of(in.Name, in.ID))
		says := fmt.Sprintf("%s, a %s", quoting.ASCIIComment(cmp.Or(in.Name, in.ID)), in.Kind)
		if in.Kind == show.Signal && in.Decimals > 0 {
			says += fmt.Sprintf(" in units of %.*f", in.Decimals, pow10(-in.Decimals))
		}
		st.Inputs = append(st.Inputs, Input{st.Upper + "_INPUT_" + name, says, i == len(m.Show.Inputs)-1})
	}
	st.Tables = st.rows(c)
	return st
}

// limits reports a show that is larger than the tables of programs.
func (st *Show) limits() error {
	s := st.image.Show
	ends, keys := 0, 0
	for i := range s.Scenes {
		ends += len(s.Scenes[i].Ends)
		if e := s.Scenes[i].Edit; e != nil {
			keys += len(e.Keys)
		}
	}
	switch {
	case len(s.Scenes) > maxScenes:
		return fmt.Errorf("module %q: %d scenes; a program holds up to %d", st.image.Name, len(s.Scenes), maxScenes)
	case keys > maxScenes:
		return fmt.Errorf("module %q: %d keys of what is edited; a program holds up to %d", st.image.Name, keys, maxScenes)
	}
	return nil
}

// Happenings, kinds and doings as programs number them.
var (
	happenings = []show.Happening{show.Press, show.Release, show.Long, show.Step, show.LineEnd, show.Tick, show.Above, show.Below, show.Accept, show.Cancel}
	InputKinds = []show.Kind{show.Button, show.Timer, show.Counter, show.Serial, show.Signal}
	doings     = []show.Doing{show.Left, show.Right, show.Up, show.Down, show.Next, show.Accepts, show.Cancels}
)

// ShowTables are the tables of a show, as numbers: the same for every language.
type ShowTables struct {
	Scenes  [][]int64 // screen, off, ends, edit, effect, first end
	Ends    [][]int64 // input, on, next, time or level
	Inputs  [][]int64 // kind, flags, up, down, more, decimals, a, b
	Feeds   [][]int64 // value, input, kind, peak, decimals, above, low, high
	Edits   [][]int64 // field, mark, keys, first key, on, off, after, every, fast after, fast
	Takes   []string  // of each edit
	Fields  [][]int64 // value, kind, places, low, high, start
	Codes   []string  // of each field: where it begins
	Keys    [][]int64 // does, input, on, level
	Effects [][]int64 // kind, value or slot, back, steps, every, first, width
	Frames  [][]int   // of each effect: glyphs
	Meters  [][]int64 // decibels, rise, fall, reference, hold
	Lines   []int     // of each serial line: characters that a message keeps
	Chars   [][]int64 // of UTF-8: first of a run of characters, how many, the code of the first
	Start   int
	Over    []bool // of each end, whether its signal begins above its level
}

// rows lays out the tables of a show.
func (st *Show) rows(c *Display) (r ShowTables) {
	m := st.image
	s := m.Show
	r.Start = s.Start
	begun := s.Begin()
	counts := make([]int, len(s.Inputs))
	for i := range s.Scenes {
		scene := &s.Scenes[i]
		edit, effect := None, None
		if scene.Edit != nil {
			edit = len(r.Edits)
			e := scene.Edit
			r.Edits = append(r.Edits, []int64{int64(e.Field), int64(e.Mark), int64(len(e.Keys)), int64(len(r.Keys)), e.On, e.Off, e.After, e.Every, e.FastAfter, e.Fast})
			r.Takes = append(r.Takes, e.Takes)
			for _, k := range e.Keys {
				r.Keys = append(r.Keys, []int64{int64(slices.Index(doings, k.Does)), int64(k.Input), int64(max(slices.Index(happenings, k.On), 0)), k.Level})
			}
		}
		if scene.Effect != nil {
			effect = len(r.Effects)
			r.effect(scene.Effect, &m.Effects[i], c)
		}
		r.Scenes = append(r.Scenes, []int64{int64(scene.Screen), int64(One(scene.Off)), int64(len(scene.Ends)), int64(edit), int64(effect), int64(len(r.Ends))})
		for _, e := range scene.Ends {
			input, level := int64(e.Input), e.Level
			on := max(slices.Index(happenings, e.On), 0)
			switch {
			case e.After > 0:
				input, level = None, e.After
			case e.Input < 0:
				input = typed
			}
			over := false
			if e.After == 0 && e.Input >= 0 && s.Inputs[e.Input].Kind == show.Signal {
				over = begun.Inputs[e.Input].Over[counts[e.Input]]
				counts[e.Input]++
			}
			r.Ends = append(r.Ends, []int64{input, int64(on), int64(e.Next), level})
			r.Over = append(r.Over, over)
		}
	}
	for i := range s.Inputs {
		r.input(&s.Inputs[i])
	}
	for i, e := range s.Edited {
		r.Fields = append(r.Fields, []int64{int64(c.Number(m.Edited[i])), int64(One(e.Kind == field.Number) + 2*One(e.Kind == field.Free)), int64(e.Places), e.Low, e.High, e.Start.Units})
		r.Codes = append(r.Codes, e.Start.Codes)
	}
	for _, f := range fed(m) {
		kind := 0 // a number, brought to the field's decimals
		switch f.Kind {
		case field.Text, field.Choice:
			kind = 1
		case field.Free:
			kind = 2
		}
		if f.Cut {
			kind = 3 // and cut off there
		}
		above := None
		if f.Kind == field.Bar && f.Peak {
			above = PeakValue(c, m, f.Value)
		}
		r.Feeds = append(r.Feeds, []int64{int64(c.Number(f.Value)), int64(f.Input), int64(kind), int64(One(f.Peak && f.Kind != field.Bar && (kind == 0 || f.Cut))), int64(f.Decimals), int64(above), f.Low, f.High})
	}
	return r
}

// input lays out an input.
func (r *ShowTables) input(in *show.Input) {
	or := func(v int) int64 {
		if v < 0 {
			return None
		}
		return int64(v)
	}
	flags := One(in.Stops) + 2*One(in.Message.AsItComes) + 4*One(in.Message.Pause > 0) + 8*One(in.Message.Chars != nil)
	row := []int64{int64(slices.Index(InputKinds, in.Kind)), int64(flags), or(in.Up), or(in.Down), None, int64(in.Decimals), 0, 0}
	switch in.Kind {
	case show.Button:
		row[6], row[7] = in.Debounce, in.Long
	case show.Timer:
		row[6], row[5] = in.Every, 3
	case show.Counter:
		row[6] = in.Steps
	case show.Serial:
		row[3], row[4], row[6], row[7] = or(in.Message.Reset), int64(len(r.Lines)), int64(in.Message.Longest), in.Message.Pause+in.Message.Timeout
		row[5] = int64(in.Message.Missing)
		r.Lines = append(r.Lines, in.Message.Longest)
		if in.Message.Chars != nil && r.Chars == nil { // the same for each line of a module
			for _, run := range in.Message.Chars {
				r.Chars = append(r.Chars, []int64{int64(run.First), int64(run.Count), int64(run.Code)})
			}
		}
	case show.Signal:
		row[6], row[7] = in.Hysteresis, in.Start
		if in.Meter != nil {
			row[4] = int64(len(r.Meters))
			if in.Meter.Decibels {
				row[5] = 1
			}
			r.Meters = append(r.Meters, []int64{int64(One(in.Meter.Decibels)), int64(in.Meter.Follower.Rise), int64(in.Meter.Follower.Fall), int64(in.Meter.Reference), in.Meter.Hold})
		}
	}
	r.Inputs = append(r.Inputs, row)
}

// effect lays out what moves.
func (r *ShowTables) effect(e *show.Effect, of *firmware.Effect, c *Display) {
	var frames []int
	row := []int64{0, 0, int64(One(e.Back)), e.Steps, e.Every, 0}
	switch of.Kind {
	case "walk", "scroll":
		row[1] = int64(c.Number(of.Value))
		row[2] = int64(One(of.Tape.Back && !of.Tape.Walks))
		if of.Tape.Walks { // how many cells it may go
			row[5] = int64(len(of.Tape.Text) - of.Tape.Width)
			row[2] = 2
		}
	case "shift":
		row[0] = 1
	case "slots":
		row[0], row[1] = 2, int64(of.Slot)
		frames = of.Glyphs
	}
	r.Effects = append(r.Effects, row)
	r.Frames = append(r.Frames, frames)
}

// sampleMs is how often a meter looks at its signal.
const sampleMs = meter.SampleMs

// OverBits are a bit for each end, the first lowest; a byte at least.
func OverBits(over []bool) []byte {
	out := make([]byte, max((len(over)+7)/8, 1))
	for k, is := range over {
		out[k/8] |= byte(One(is)) << (k % 8)
	}
	return out
}

// longest is how many characters serial lines keep at most.
func (v *View) longest() int {
	n := 1
	for i := range v.Modules {
		if st := v.Modules[i].Stage; st != nil {
			n = max(n, slices.Max(append(slices.Clone(st.Tables.Lines), 1)))
		}
	}
	return n
}
