package codegen

import (
	"cmp"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"slatebell/core/field"
	"slatebell/core/firmware"
	"slatebell/core/hd44780"
	"slatebell/core/host"
	"slatebell/core/link"
	"slatebell/core/module"
)

// has says which parts of the driver a bench needs: what it does not need is not written.
type has struct {
	Backpack, Shift, Expander, Parallel, Parallel8, Four, Pins bool
	Poll, PollBus, PollPins, ReadWrite                         bool
	PerByte, PerOperation, OtherSetup                          bool
	Two, After, OneLine, TwoLine, BothMemories, ManyScreens    bool
	Glyphs, Held, Cursor, Places                               bool
	Light, OutLight, GlassLight                                bool
	Fields, Values, Number, Elapsed, Days, List, Clock, Bar    bool
	Sign, Groups, Zeros, Fill, Under, Rest, Hashes, Centre     bool
	Turn, ClockPadded                                          bool
	SeveralValues, SeveralTimes, SeveralShadows                bool
}

// cView is what the templates of C are filled in with.
type cView struct {
	Has                          has
	Written                      string
	KeepsOwn                     []string
	File, Guard, Name            string
	Modules                      []cModule
	BusHz, Buffer, MaxScreens    int
	ValueType, Magnitude, Wide   string
	FlashValue                   string
	TextMax, WidthMax, DigitsMax int
	OneKind                      bool // the fields are all of one kind
	Kinds                        string
	Members                      []member
	Accessors                    []string
	Tables                       []string
	Pauses                       struct{ Simple bool }
	Wait                         struct{ Supply, First, Second, Third int }
	Clock                        clocks
	Counts                       []count
	Rounds                       int
	Targets                      []string // ATmegas that the example can be built for
	NotAVR                       string

	board host.Board
}

// cModule is a display as C has it.
type cModule struct {
	At           int
	Ident, Title string
	Screens      []cScreen
	Setters      []setter
	Moves        []move
	Light        string
	Shadow       int
	State        string
	image        *firmware.Module
}

type cScreen struct {
	Enum, Says string
	Last       bool
}

// setter is the call that tells a value.
type setter struct {
	Index, Number           int // of the value: in the image, and in the program
	Func, Type, Param, Says string
	Clock                   bool
	Enums                   []enum
}

type enum struct {
	Name, Says string
	Last       bool
}

// move is the call that puts the cursor into a place.
type move struct {
	Index, Screen, Enable int
	Func, Says            string
	Address               uint8
}

// count is a value that the example counts.
type count struct {
	Var, Func        string
	Start, Low, High int64
}

// member is a property of a display in its table.
type member struct{ Declares string }

// writeC writes the files of C.
func writeC(im *firmware.Image) ([]File, error) {
	v, err := newCView(im)
	if err != nil {
		return nil, err
	}
	var files []File
	for _, name := range []string{"bench.h", "bench.c", "port.h", "port_avr.c", "port_calls.h", "port_calls.c", "main.c", "Makefile"} {
		f, err := render("c", name+".tmpl", cComments, v, sources(im))
		if err != nil {
			return nil, err
		}
		f.Name = strings.Replace(f.Name, "bench.", v.File+".", 1)
		files = append(files, f)
	}
	return files, nil
}

// microseconds rounds a wait up.
func microseconds(d time.Duration) int { return int((d + time.Microsecond - 1) / time.Microsecond) }

func newCView(im *firmware.Image) (*cView, error) {
	v := &cView{
		board:   im.Host,
		Written: written, KeepsOwn: strings.Split(keepsOwn, "\n"), Name: im.Name, BusHz: im.BusHz, Buffer: buffer, MaxScreens: firmware.MaxScreens,
		ValueType: "int16_t", Magnitude: "uint16_t", Wide: "uint32_t", FlashValue: "FLASH_WORD",
	}
	if err := digitsAsUsual(im); err != nil {
		return nil, err
	}
	used := names{}
	v.File = used.of(im.Name, "bench")
	v.Guard = strings.ToUpper(v.File) + "_H"
	v.Wait.Supply, v.Wait.First, v.Wait.Second = microseconds(hd44780.WaitAt3V), microseconds(hd44780.WaitAfterFirst), microseconds(hd44780.WaitAfterSecond)
	v.Wait.Third = microseconds(hd44780.ExecutionTime(hd44780.Command(0x30), hd44780.MinOscillator))
	v.Has = needs(im)
	v.widths(im)
	for i := range im.Modules {
		m := &im.Modules[i]
		if m.Link.Kind == link.Backpack {
			v.BusHz = min(v.BusHz, int(m.Link.Speed/1e6))
		}
		v.Modules = append(v.Modules, v.module(m, used))
	}
	if err := v.tables(im); err != nil {
		return nil, err
	}
	v.Clock = newClocks(im, v.Has.ClockPadded)
	v.example(im)
	return v, nil
}

// buffer is how many bytes ports gather for a host that sends them together: what most
// hosts take in one transaction (common practice).
const buffer = 32

// digitsAsUsual reports a ROM whose digits and signs are not where every ROM of the trade
// has them: numbers are written by their ASCII codes.
func digitsAsUsual(im *firmware.Image) error {
	for i := range im.Modules {
		m := &im.Modules[i]
		for _, ch := range "0123456789#+-:" {
			if code, ok := m.Display.ROM.Code(ch); len(m.Values) > 0 && (!ok || rune(code) != ch) {
				return fmt.Errorf("module %q: its ROM %s does not have '%c' at 0x%02X, where the program writes it", m.Name, m.Display.ROM.Name, ch, ch)
			}
		}
	}
	return nil
}

// needs finds out which parts of the driver a bench needs.
func needs(im *firmware.Image) (h has) {
	for i := range im.Modules {
		m := &im.Modules[i]
		g := &m.Display.Geometry
		switch m.Link.Kind {
		case link.Backpack:
			h.Backpack = true
		case link.ShiftReg:
			h.Shift = true
		case link.Parallel4:
			h.Parallel, h.Four = true, true
		case link.Parallel8:
			h.Parallel, h.Parallel8 = true, true
		}
		parallel := !m.Link.Expander()
		h.Expander = h.Expander || !parallel
		h.Four = h.Four || !parallel
		h.Pins = h.Pins || m.Link.Kind != link.Backpack
		h.Poll = h.Poll || m.Polls
		h.PollBus = h.PollBus || m.Polls && !parallel
		h.PollPins = h.PollPins || m.Polls && parallel
		h.ReadWrite = h.ReadWrite || parallel && m.Link.ReadWrite
		if m.Link.Kind == link.Backpack {
			h.PerByte = h.PerByte || m.Link.Grouping == link.PerByte
			h.PerOperation = h.PerOperation || m.Link.Grouping == link.PerOperation
		}
		h.OtherSetup = h.OtherSetup || !parallel && m.Link.Setup != link.SetupLawful
		h.Two = h.Two || g.Controllers == 2
		h.OneLine, h.TwoLine = h.OneLine || !g.TwoLine, h.TwoLine || g.TwoLine
		h.ManyScreens = h.ManyScreens || len(m.Screens) > firmware.MaxScreens
		h.Glyphs, h.Held = h.Glyphs || len(m.Glyphs) > 0, h.Held || m.Held
		h.OutLight = h.OutLight || hasOutLight(m)
		h.GlassLight = h.GlassLight || m.Display.Technology == module.VFD
		for _, s := range m.Screens {
			h.Cursor = h.Cursor || s.Cursor.Line || s.Cursor.Block
		}
		for k := range m.Places {
			h.place(&m.Places[k])
		}
	}
	h.After, h.BothMemories = true, h.OneLine && h.TwoLine
	h.Light = h.OutLight || h.GlassLight
	return h
}

// hasOutLight reports whether the program switches a module's backlight by an output.
func hasOutLight(m *firmware.Module) bool {
	return m.Link.Expander() && m.Link.Mapping.Backlight != link.Open && m.Display.Technology == module.LCD
}

// place adds what a field needs.
func (h *has) place(p *firmware.Place) {
	f := &p.Spec
	switch f.Kind {
	case field.Cursor:
		h.Places = true
		return
	case field.Number:
		h.Number = true
		h.Sign = h.Sign || f.Digits.Sign != ""
		h.Groups = h.Groups || f.Digits.Thousands != ""
		h.Zeros = h.Zeros || f.Digits.Zeros
	case field.Elapsed:
		h.Elapsed = true
		h.Days = h.Days || f.Format == "d hh:mm"
	case field.Text, field.Choice:
		h.List = true
	case field.Clock:
		h.Clock = true
		h.ClockPadded = h.ClockPadded || strings.Contains(f.Format, "%e")
	case field.Bar:
		h.Bar = true
	}
	h.Fields = true
	h.Values = h.Values || f.Kind != field.Clock
	h.Fill = h.Fill || p.Fill != ' '
	h.Under = h.Under || !f.Fills() || len(p.Rest) > 0
	h.Rest = h.Rest || len(p.Rest) > 0
	h.Hashes = h.Hashes || f.TooLong() == "hashes"
	h.Centre = h.Centre || f.Align() == "centre"
	h.Turn = h.Turn || turn(p) < p.Width
}

// turn is the first cell of a place whose memory goes on elsewhere; its width where it
// goes on to the end.
func turn(p *firmware.Place) int {
	for i := 1; i < len(p.Address); i++ {
		if p.Address[i] != p.Address[i-1]+1 {
			return i
		}
	}
	return p.Width
}

// widths finds the type of values, and the longest texts.
func (v *cView) widths(im *firmware.Image) {
	v.TextMax, v.WidthMax, v.DigitsMax = 1, 1, 6
	h := &v.Has
	v.OneKind = one(h.Number)+one(h.Elapsed)+one(h.List)+one(h.Clock)+one(h.Bar) == 1
	for i := range im.Modules {
		m := &im.Modules[i]
		for _, val := range m.Values {
			if val.Low < -32768 || val.High > 32767 || v.Has.Days {
				v.ValueType, v.Magnitude, v.FlashValue = "int32_t", "uint32_t", "FLASH_LONG"
			}
		}
		for k := range m.Places {
			p := &m.Places[k]
			v.WidthMax, v.TextMax = max(v.WidthMax, p.Width), max(v.TextMax, p.Width+1)
		}
	}
	if v.ValueType == "int32_t" {
		v.Wide, v.DigitsMax = "uint64_t", 11
	}
}

// module lays out what a display's callers see.
func (v *cView) module(m *firmware.Module, used names) cModule {
	c := cModule{At: m.At, Ident: used.of(m.Name, m.ID), Shadow: max(m.Shadow, 1), image: m}
	g := &m.Display.Geometry
	c.Title = fmt.Sprintf("%s: %s %s, %s", ascii(cmp.Or(m.Name, m.ID)), strings.ReplaceAll(g.Title, " × ", "x"), strings.ToUpper(string(m.Display.Technology)), linkTitle(m))
	enums := names{}
	upper := strings.ToUpper(c.Ident)
	for i, s := range m.Screens {
		name := strings.ToUpper(enums.of(cmp.Or(s.Name, s.ID), s.ID))
		c.Screens = append(c.Screens, cScreen{upper + "_" + name, ascii(cmp.Or(s.Name, s.ID)), i == len(m.Screens)-1})
	}
	calls := names{"begin": true, "show": true, "clear": true, "light": true, "display": true, "screen": true}
	clock, other := 0, 0
	for _, val := range m.Values {
		if val.Kind != field.Clock {
			other++
		}
	}
	plain := 0
	for i := range m.Values {
		val := &m.Values[i]
		name := calls.of(val.Name, fmt.Sprintf("field_%d", i+1))
		s := setter{Index: i, Func: fmt.Sprintf("%s_set_%s", c.Ident, name), Param: "to", Says: describe(val), Clock: val.Kind == field.Clock}
		if s.Clock {
			s.Number = other + clock
			clock++
		} else {
			s.Number = plain
			plain++
		}
		if len(val.Words) > 0 {
			s.Type = fmt.Sprintf("%s_%s", c.Ident, name)
			words := names{}
			for k, w := range val.Words {
				word := strings.ToUpper(words.of(w, fmt.Sprintf("word_%d", k+1)))
				s.Enums = append(s.Enums, enum{fmt.Sprintf("%s_%s_%s", upper, strings.ToUpper(name), word), "", k == len(val.Words)-1})
			}
		}
		c.Setters = append(c.Setters, s)
	}
	for i := range m.Places {
		if p := &m.Places[i]; p.Value < 0 {
			name := calls.of(p.Spec.Name, fmt.Sprintf("place_%d", i+1))
			c.Moves = append(c.Moves, move{Index: i, Screen: p.Screen, Enable: p.Controller, Func: fmt.Sprintf("%s_to_%s", c.Ident, name), Address: p.Address[0],
				Says: fmt.Sprintf("Puts the cursor into row %d, column %d, while its screen is shown.", p.Row+1, p.Col+1)})
		}
	}
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
		return ascii(fmt.Sprintf("%s, in %s%s: %d to %d.", v.Name, each, spaced(unit), v.Low, v.High))
	case field.Elapsed:
		return ascii(fmt.Sprintf("%s, in seconds: %d to %d.", v.Name, v.Low, v.High))
	case field.Bar:
		return ascii(fmt.Sprintf("%s, a bar from %d to %d.", v.Name, v.Low, v.High))
	case field.Clock:
		return ascii(v.Name + ", a time.")
	}
	return ascii(v.Name + ": one of its words.")
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

// ascii keeps a comment readable for every compiler: what is not ASCII becomes a question mark.
func ascii(text string) string {
	return strings.ReplaceAll(strings.Map(func(r rune) rune {
		if r < ' ' || r > '~' {
			return '?'
		}
		return r
	}, text), "*/", "* /")
}

// example chooses what the example counts, and which ATmegas it can be built for.
func (v *cView) example(im *firmware.Image) {
	v.Rounds = 1
	counted := names{}
	for i := range v.Modules {
		v.Rounds = lcm(v.Rounds, len(v.Modules[i].Screens))
		for _, s := range v.Modules[i].Setters {
			if val := &v.Modules[i].image.Values[s.Index]; val.Kind == field.Number {
				v.Counts = append(v.Counts, count{counted.of(strings.TrimPrefix(s.Func, v.Modules[i].Ident+"_set_"), "count"), s.Func, val.Start, val.Low, val.High})
				break
			}
		}
	}
	if v.Rounds > 255 {
		v.Rounds = 240
	}
	why := ""
	for _, part := range []string{"ATmega328P", "ATmega2560"} {
		board, _ := host.ByPart(part)
		ok := true
		for i := range im.Modules {
			for line, label := range im.Modules[i].Pins {
				if _, there := board.Number(label); im.Modules[i].Link.Kind != link.Backpack && (!there || im.Host.Part != part) {
					ok = false
					why = fmt.Sprintf("%s is on pin %s of an %s, which an ATmega328P has not; use port_calls.h", line, label, im.Host.Part)
				}
			}
		}
		if ok {
			v.Targets = append(v.Targets, strings.ToLower(part))
		}
	}
	if !slices.Contains(v.Targets, "atmega328p") {
		v.NotAVR = ascii(why)
	}
}

func lcm(a, b int) int {
	x, y := a, b
	for y != 0 {
		x, y = y, x%y
	}
	return a / x * b
}
