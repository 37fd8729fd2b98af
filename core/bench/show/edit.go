package show

import (
	"errors"
	"fmt"
	"slices"
	"strings"

	"slatebell/core/bench"
	"slatebell/core/part/charrom"
	"slatebell/core/text/field"
)

// Edit is a field that is edited on the device while a scene lasts.
type Edit struct {
	Field                         int // index in the show's edited fields
	Keys                          []Key
	Takes                         string // free text: codes that a cell may have, in their order
	Mark                          byte   // code that the cell shows while it is marked
	On, Off                       int64  // ms that it shows its character, and the mark
	After, Every, FastAfter, Fast int64  // a held key: ms, ms, times, ms
}

// Edited is a field that scenes edit.
type Edited struct {
	Name      string
	Kind      field.Kind
	Decimals  int
	Low, High int64    // number: units; text, choice: 0 and the last of its list
	Words     []string // text, choice
	Places    int      // number: digits; free: cells; else 1
	Start     Text
}

// Text is what an edited field holds: units or a place in a list, or free text.
type Text struct {
	Units int64
	Codes string
}

// Typing is where an edit stands.
type Typing struct {
	Text
	Place int    // number: the digit, from the right; free: the cell
	Began int64  // when its character was shown anew
	Key   int    // that is held, counted from 1; 0 for none
	Times int64  // that it was repeated
	Due   int64  // when it is repeated
	Over  []bool // for each key of a signal, whether it is above its level
}

// Key is what one thing of an input does.
type Key struct {
	Does  Doing
	Input int
	On    Happening // signal: above or below
	Level int64
}

// Doing is what a key does.
type Doing string

// The doings. Next goes to the right, and behind the last place accepts.
const (
	Left     Doing = "left"
	Right    Doing = "right"
	Up       Doing = "up"
	Down     Doing = "down"
	Next     Doing = "next"
	Accepts  Doing = "accept"
	Cancels  Doing = "cancel"
	capitals       = "ABCDEFGHIJKLMNOPQRSTUVWXYZ"
	numerals       = "0123456789"
)

// alphabets are what a cell of free text may take.
var alphabets = map[string]string{"": " " + capitals + numerals + "-.:/+", "digits": numerals, "hex": numerals + "ABCDEF", "letters": " " + capitals}

// What is usual of an edit where nothing is said, in milliseconds and times.
const (
	usualOn, usualOff                              = 500, 300
	usualAfter, usualRepeat, usualTimes, usualFast = 500, 150, 8, 50
)

// edit resolves what is edited.
func (r *resolver) edit(d *bench.Edit, s *bench.Screen, at string) (*Edit, error) {
	wrong := func(member, format string, a ...any) (*Edit, error) {
		return nil, bench.Problem{Path: at + member, What: fmt.Sprintf(format, a...)}
	}
	e := &Edit{
		Mark: byte(or(d.Mark.Code, ' ')), On: or(d.Mark.OnMs, usualOn), Off: or(d.Mark.OffMs, usualOff),
		After: or(d.Repeat.AfterMs, usualAfter), Every: or(d.Repeat.EveryMs, usualRepeat), FastAfter: or(d.Repeat.FastAfter, usualTimes), Fast: or(d.Repeat.FastMs, usualFast),
	}
	if err := r.table(); err != nil {
		return nil, err
	}
	edited := Edited{Name: d.Field}
	for i := range s.Fields {
		f := &s.Fields[i]
		if f.Name != d.Field {
			continue
		}
		edited.Kind, edited.Decimals = f.Kind, f.Decimals()
		switch f.Kind {
		case field.Number:
			if f.Align() != "right" {
				return wrong("/field", "“%s” stands %s, so that its digits move; expected a number that stands right", f.Name, f.Align())
			}
			edited.Low, edited.High = f.Ends()
			edited.Start.Units = f.Reading()
			edited.Places = max(len(fmt.Sprint(max(edited.High, -edited.Low))), f.Decimals()+1)
		case field.Text, field.Choice:
			edited.High, edited.Start.Units, edited.Places = int64(len(f.Values)-1), int64(f.Chosen()), 1
			edited.Words = f.Values
		case field.Free:
			edited.Start.Codes += r.pad(f.Sample, f.Width)
			edited.Places += f.Width
		default:
			return wrong("/field", "“%s” is a %s; expected a number, a text, a choice or free text", f.Name, f.Kind)
		}
	}
	if edited.Kind == "" {
		return wrong("/field", "there is no field “%s” on its screen", d.Field)
	}
	if edited.Kind == field.Free {
		takes, missing := r.takes(d)
		if missing != 0 {
			return wrong("/list", "'%c' (U+%04X) is not in the module's ROM; expected characters that it has", missing, missing)
		}
		if takes == "" {
			return wrong("/list", "%q; expected the characters that a cell may have", d.List)
		}
		e.Takes = takes
	}
	for k, key := range d.Keys {
		out := Key{Does: Doing(key.Does), Input: r.inputs[key.Input], On: Happening(key.On)}
		switch kind := r.kind(key.Input); {
		case kind == "":
			return wrong(fmt.Sprintf("/keys/%d/input", k), "no input; expected the id of a button, or of a signal with a level")
		case kind == Signal:
			if out.On == "" {
				out.On = Above
			}
			out.Level = Units(key.Level, r.show.Inputs[out.Input].Decimals)
		case kind != Button || out.On != "":
			return wrong(fmt.Sprintf("/keys/%d", k), "%q is a %s; expected a button, or a level of a signal", key.Input, kind)
		}
		e.Keys = append(e.Keys, out)
	}
	e.Field = slices.IndexFunc(r.show.Edited, func(o Edited) bool {
		return o.Name == edited.Name && o.Kind == edited.Kind && o.Decimals == edited.Decimals && o.Places == edited.Places && slices.Equal(o.Words, edited.Words)
	})
	if e.Field >= 0 {
		return e, nil
	}
	e.Field = len(r.show.Edited)
	r.show.Edited = append(r.show.Edited, edited)
	return e, nil
}

// table reads the module's ROM, by whose codes texts are edited.
func (r *resolver) table() (err error) {
	if r.rom == nil {
		r.rom, err = r.module.Display.Controller.Table()
	}
	if problem := (bench.Problem{}); errors.As(err, &problem) {
		return problem.Under("/display")
	}
	return err
}

// pad brings a text to so many codes of the module's ROM; a space stands for what it lacks.
func (r *resolver) pad(text string, width int) string {
	out := []byte(strings.Repeat(" ", width))
	for i, ch := range []rune(text) {
		if code, ok := r.rom.Code(ch); ok && i < width {
			out[i] = code
		}
	}
	return string(out)
}

// takes lists the codes that a cell of free text may have, in their order; of a list, the first
// character that the ROM lacks, else 0.
func (r *resolver) takes(d *bench.Edit) (codes string, missing rune) {
	var out []byte
	switch d.Takes {
	case "ascii":
		for ch := ' '; ch <= '~'; ch++ {
			if code, ok := r.rom.Code(ch); ok {
				out = append(out, code)
			}
		}
	case "rom":
		for code := 0; code <= 0xFF; code++ {
			c := byte(code)
			if _, own := r.rom.Slot(c); !own && r.rom.Known(c) && (c == ' ' || r.rom.Dots(c) != charrom.Dots{}) {
				out = append(out, c)
			}
		}
	case "list":
		for _, ch := range d.List {
			code, ok := r.rom.Code(ch)
			if !ok {
				return "", ch
			}
			out = append(out, code)
		}
		out = out[:min(len(out), mostTakes)]
	default:
		return alphabets[d.Takes], 0
	}
	return string(out), 0
}

// mostTakes is how many codes a program counts in a byte.
const mostTakes = 255

// begins is the edit of a scene that begins: the first place of what was typed last, no key
// held. A stick that is tilted already counts as a key once it was let go.
func (s *Show) begins(st *State) Typing {
	e := s.Scenes[st.Scene].Edit
	if e == nil {
		return Typing{Due: never}
	}
	t := Typing{Text: st.Edited[e.Field], Began: st.Now, Due: never}
	if d := &s.Edited[e.Field]; d.Kind == field.Number {
		t.Place = d.Places - 1
	}
	for _, k := range e.Keys {
		in := &s.Inputs[k.Input]
		t.Over = append(t.Over, in.Kind == Signal && over(false, k.On, st.Inputs[k.Input].Value, k.Level, 0))
	}
	return t
}

// Marked reports whether the place that is edited shows its mark now.
func (s *Show) Marked(st *State) bool {
	e := s.Scenes[st.Scene].Edit
	return e != nil && (st.Now-st.Typing.Began)%(e.On+e.Off) >= e.On
}

// flash is how long a step shows its mark before the blinking goes on with the character: half
// of the time to the next where a key is held, so that both are seen however fast it goes.
func (e *Edit) flash(next int64) int64 { return min(e.Off, next/2, Flash) }

// Flash is how long a step shows its mark at most, in milliseconds: long enough to be seen, and
// short enough that whoever strokes fast sees what he chooses.
const Flash = 100

// typing is when the mark changes, or a held key is done again.
func (s *Show) typing(st *State) int64 {
	e := s.Scenes[st.Scene].Edit
	if e == nil {
		return never
	}
	phase := (st.Now - st.Typing.Began) % (e.On + e.Off)
	next := e.On
	if phase >= e.On {
		next = e.On + e.Off
	}
	return min(st.Typing.Due, st.Now-phase+next)
}

// goOn repeats a held key where that is due.
func (s *Show) goOn(st *State, at int64) {
	t, e := &st.Typing, s.Scenes[st.Scene].Edit
	if e == nil || t.Due > at {
		return
	}
	t.Times++
	t.Due += e.Every
	if t.Times >= e.FastAfter {
		t.Due += e.Fast - e.Every
	}
	s.does(st, e.Keys[t.Key-1].Does)
}

// key presses or releases a button while something is edited, and reports whether that
// ended the scene.
func (s *Show) key(st *State, input int, down bool) bool {
	e := s.Scenes[st.Scene].Edit
	if e == nil {
		return false
	}
	for k := range e.Keys {
		if e.Keys[k].Input == input && s.Inputs[input].Kind == Button {
			return s.hold(st, k, down)
		}
	}
	return false
}

// hold holds a key or lets it go, and reports whether that ended the scene.
func (s *Show) hold(st *State, k int, down bool) bool {
	t, e := &st.Typing, s.Scenes[st.Scene].Edit
	if !down {
		if t.Key == k+1 {
			t.Key, t.Due = 0, never
		}
		return false
	}
	t.Key, t.Times, t.Due = k+1, 0, never
	switch e.Keys[k].Does {
	case Left, Right, Up, Down:
		t.Due = st.Now + e.After
	}
	return s.does(st, e.Keys[k].Does)
}

// crossKeys tells the keys of an edit that a signal has changed, and reports whether that
// ended the scene.
func (s *Show) crossKeys(st *State, input int) bool {
	e := s.Scenes[st.Scene].Edit
	if e == nil {
		return false
	}
	in, value := &s.Inputs[input], st.Inputs[input].Value
	was := st.Typing.Over
	now := make([]bool, len(was))
	copy(now, was)
	st.Typing.Over = now
	for k, key := range e.Keys {
		if key.Input != input {
			continue
		}
		now[k] = over(was[k], key.On, value, key.Level, in.Hysteresis)
		if now[k] != was[k] && s.hold(st, k, now[k] == (key.On == Above)) {
			return true
		}
	}
	return false
}

// does does what a key does, and reports whether that ended the scene. No place lies
// beyond an end, and no value outside of its range or list.
func (s *Show) does(st *State, what Doing) bool {
	t, e := &st.Typing, s.Scenes[st.Scene].Edit
	d := &s.Edited[e.Field]
	t.Began = st.Now - e.On - e.Off + e.flash(t.Due-st.Now)
	right := 1 // of places
	if d.Kind == field.Number {
		right = -1
	}
	move := func(by int) bool {
		if to := t.Place + by; to >= 0 && to < d.Places {
			t.Place = to
			return true
		}
		return false
	}
	switch what {
	case Left:
		move(-right)
	case Right:
		move(right)
	case Up:
		t.Text = d.stepped(t.Text, t.Place, 1, e.Takes)
	case Down:
		t.Text = d.stepped(t.Text, t.Place, -1, e.Takes)
	case Next:
		if !move(right) {
			return s.accept(st)
		}
	case Accepts:
		return s.accept(st)
	case Cancels:
		t.Text = st.Edited[e.Field]
		return s.end(st, nothing, Cancel)
	}
	return false
}

// nothing is the input of ends that no input brings.
const nothing = -1

// accept keeps what was typed, and ends the scene where it waits for that.
func (s *Show) accept(st *State) bool {
	st.Edited[s.Scenes[st.Scene].Edit.Field] = st.Typing.Text
	return s.end(st, nothing, Accept)
}

// stepped is a value stepped at a place.
func (d *Edited) stepped(t Text, place int, by int64, takes string) Text {
	if d.Kind == field.Free {
		codes := []byte(t.Codes)
		at := strings.IndexByte(takes, codes[place])
		switch {
		case at < 0 && by > 0:
			at = 0
		case at < 0:
			at = len(takes) - 1
		default:
			at = (at + int(by) + len(takes)) % len(takes)
		}
		codes[place] = takes[at]
		t.Codes = string(codes)
		return t
	}
	if d.Kind == field.Number {
		for range place {
			by *= 10
		}
	}
	t.Units = min(max(t.Units+by, d.Low), d.High)
	return t
}
