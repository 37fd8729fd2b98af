package layout

import (
	"strings"

	"slatebell/core/part/module"
	"slatebell/core/ship/firmware"
	"slatebell/core/text/field"
	"slatebell/core/wire/link"
)

// Needs says which parts of the driver a bench needs: what it does not need is not written.
type Needs struct {
	Backpack, Shift, Expander, Parallel, Parallel8, Four, Pins bool
	Poll, PollBus, PollPins, ReadWrite                         bool
	PerByte, PerOperation, OtherSetup                          bool
	Two, OneLine, TwoLine, BothMemories, ManyScreens           bool
	Glyphs, Held, Cursor, Places                               bool
	Light, OutLight, GlassLight                                bool
	Fields, Values, Number, Elapsed, Days, List, Clock, Bar    bool
	Sign, Groups, Zeros, Fill, Under, Rest, Hashes, Centre     bool
	Turn, ClockPadded                                          bool
	SeveralValues, SeveralTimes, SeveralShadows, SeveralTexts  bool
	Free, Tape, Dark                                           bool
	Stage                                                      ShowNeeds
}

// needs finds out which parts of the driver a bench needs.
func needs(im *firmware.Image) (h Needs) {
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
	h.BothMemories = h.OneLine && h.TwoLine
	h.Light = h.OutLight || h.GlassLight
	h.Stage = showNeeds(im)
	h.Dark = h.GlassLight || h.Stage.Off
	return h
}

// NeedsUnder reports whether a place keeps what stands below it.
func NeedsUnder(p *firmware.Place) bool {
	return !p.Spec.Fills() || len(p.Rest) > 0 || p.Spec.Kind == field.Tape
}

// hasOutLight reports whether the program switches a module's backlight by an output.
func hasOutLight(m *firmware.Module) bool {
	return m.Link.Expander() && m.Link.Mapping.Backlight != link.Open && m.Display.Technology == module.LCD
}

// place adds what a field needs.
func (h *Needs) place(p *firmware.Place) {
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
	case field.Free:
		h.Free = true
	case field.Tape:
		h.Tape = true
	}
	h.Fields = true
	h.Values = h.Values || f.Kind != field.Clock && f.Kind != field.Free
	h.Fill = h.Fill || p.Fill != ' '
	h.Under = h.Under || NeedsUnder(p)
	h.Rest = h.Rest || len(p.Rest) > 0
	h.Hashes = h.Hashes || f.TooLong() == "hashes"
	h.Centre = h.Centre || f.Align() == "centre"
	h.Turn = h.Turn || Turn(p) < p.Width
}

// Turn is the first cell of a place whose memory goes on elsewhere; its width where it
// goes on to the end.
func Turn(p *firmware.Place) int {
	for i := 1; i < len(p.Address); i++ {
		if p.Address[i] != p.Address[i-1]+1 {
			return i
		}
	}
	return p.Width
}
