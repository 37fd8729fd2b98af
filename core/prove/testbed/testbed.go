// Package testbed takes out of a bench what is needed to try one screen of a module: the module, its link
// and parts, what host and bus are to it, and how it is wired. Runs, transitions, the first power-up and
// the finder all begin with one.
//
// It stands at the ground of prove, above the table, and tries nothing itself.
package testbed

import (
	"fmt"

	"periph.io/x/conn/v3/physic"

	"slatebell/core/bench"
	"slatebell/core/part/circuit"
	"slatebell/core/part/module"
	"slatebell/core/table/breadboard"
	"slatebell/core/text/field"
	"slatebell/core/text/glyph"
	"slatebell/core/text/screen"
	"slatebell/core/wire/link"
	"slatebell/core/wire/sequence"
)

// Setup is what a run needs of a bench: one module with one of its screens, and
// what host and bus are to it. Of takes it out of a document.
type Setup struct {
	At      At            `json:"at,omitzero" doc:"where in the bench the module and its screen stand; findings point there"`
	Host    HostSide      `json:"host,omitzero"`
	Display bench.Display `json:"display"`
	Link    bench.Link    `json:"link"`
	Fitting bench.Fitting `json:"fitting,omitzero" doc:"what it is wired up with; faults are made in it"`
	Glyphs  glyph.Bank    `json:"glyphs,omitempty" nullable:"false" maxItems:"8"`
	Library glyph.Library `json:"library,omitempty" nullable:"false" maxItems:"800" doc:"drawings that the screen names by key"`
	Rows    []string      `json:"rows" nullable:"false" maxItems:"64" doc:"text of each row of the screen"`
	Fields  []field.Field `json:"fields,omitempty" nullable:"false" maxItems:"64" doc:"places on the screen whose text changes"`
	Cursor  screen.Cursor `json:"cursor,omitzero" doc:"where it is left once the screen is written"`
	Scroll  screen.Scroll `json:"scroll,omitzero" doc:"the row that runs through the glass"`
	Joined  *link.Joined  `json:"joined,omitempty" doc:"how the module is wired up; absent: as it ought to be"`
}

// At is the place of a screen: indexes into the bench's modules and into the
// module's screens.
type At struct {
	Module int `json:"module" minimum:"0"`
	Screen int `json:"screen" minimum:"0"`
}

// HostSide is what a link needs to know of the host and its bus; zero values are
// the usual.
type HostSide struct {
	Part    string `json:"part,omitempty" maxLength:"40" doc:"designation; absent: ATmega328P"`
	BearsMV int    `json:"bearsMV,omitempty" minimum:"0" maximum:"6000" doc:"highest voltage that its pins bear, in millivolts; absent: what its part bears"`
	BusHz   int    `json:"busHz,omitempty" minimum:"0" maximum:"1000000" doc:"clock of the bus, in hertz; absent: 100000"`
}

// Of returns what a run of a screen needs, or an error where the bench has no
// such module or screen.
func Of(b *bench.Bench, at At) (Setup, error) {
	if at.Module < 0 || at.Module >= len(b.Modules) {
		return Setup{}, fmt.Errorf("module %d; this bench has modules 0–%d", at.Module, len(b.Modules)-1)
	}
	m := &b.Modules[at.Module]
	if at.Screen < 0 || at.Screen >= len(m.Screens) {
		return Setup{}, fmt.Errorf("screen %d; this module has screens 0–%d", at.Screen, len(m.Screens)-1)
	}
	s := &m.Screens[at.Screen]
	return Setup{
		At: at, Host: HostSide{b.Host.Part, b.Host.BearsMV, b.Bus.SpeedHz}, Display: m.Display, Link: m.Link, Fitting: m.Fitting, Glyphs: m.Glyphs,
		Library: screen.Named(s.Rows, s.Fields, b.Glyphs), Rows: s.Rows, Fields: s.Fields, Cursor: s.Cursor, Scroll: s.Scroll, Joined: breadboard.Joined(b, at.Module),
	}, nil
}

// Build returns the module and the link that a setup describes, or a
// bench.Problem where it cannot be run.
func (s *Setup) Build() (module.Module, link.Link, error) {
	mod, err := s.Display.Module()
	if err != nil {
		return mod, link.Link{}, err.(bench.Problem).Under(s.Pointer("/display"))
	}
	if j := s.Joined; j != nil && j.SupplyMV != 0 && s.Display.Measured.SupplyMV == 0 {
		mod.Supply = physic.ElectricPotential(j.SupplyMV) * physic.MilliVolt
	}
	bus := bench.Bus{SpeedHz: s.Host.BusHz}
	if err := s.Link.Check(&mod.Geometry, &bus); err != nil {
		return mod, link.Link{}, err.(bench.Problem).Under(s.Pointer("/link"))
	}
	if err := s.Glyphs.Validate(); err != nil {
		return mod, link.Link{}, bench.ProblemOf(s.Pointer("/glyphs"), err)
	}
	if _, err := s.Library.Validate(); err != nil {
		return mod, link.Link{}, bench.ProblemOf("/glyphs", err)
	}
	if p := bench.CheckRows(s.Rows); len(p) > 0 {
		return mod, link.Link{}, p[0].Under(s.Sources().Rows)
	}
	return mod, s.Link.Build(&mod.Geometry, &bus), nil
}

// Pointer returns the pointer to a part of the module.
func (s *Setup) Pointer(part string) string { return fmt.Sprintf("/modules/%d%s", s.At.Module, part) }

// Sources returns where the screen's rows and the module's glyphs stand.
func (s *Setup) Sources() screen.Sources {
	at := s.Pointer(fmt.Sprintf("/screens/%d", s.At.Screen))
	return screen.Sources{Rows: at + "/rows", Fields: at + "/fields", Cursor: at + "/cursor", Scroll: at + "/scroll", Glyphs: s.Pointer("/glyphs")}
}

// Text is the screen that is composed.
func (s *Setup) Text() screen.Text {
	return screen.Text{Rows: s.Rows, Fields: s.Fields, Cursor: s.Cursor, Scroll: s.Scroll, Bank: s.Glyphs, Library: s.Library}
}

// Contrast returns the part of VDD that lies between VDD and VO: what was measured,
// what the wires give, what they are planned to give, or what the module says.
func (s *Setup) Contrast(m *module.Module) float64 {
	if s.Joined != nil && s.Joined.Dead != "" {
		return 0 // nothing drives the glass
	}
	if j := s.Joined; j != nil && j.VOMV != nil && s.Display.Measured.VOMV == nil {
		return m.ContrastAt(circuit.MilliVolts(*j.VOMV))
	}
	if s.Display.Measured.VOMV == nil {
		wired := bench.Module{Display: s.Display, Link: s.Link, Fitting: s.Fitting}
		if vo, said := wired.PlannedVO(); said {
			return m.ContrastAt(vo)
		}
	}
	return s.Display.Contrast(m)
}

// Sequence returns the options of the setup's program: its waits, brightness and cursor.
func (s *Setup) Sequence() sequence.Options {
	return sequence.Options{Waits: sequence.Waits(s.Link.Waits), Brightness: uint8(s.Display.Supply.Brightness), Cursor: CursorOf(s.Cursor)}
}

// CursorOf is a screen's cursor as a program leaves it.
func CursorOf(c screen.Cursor) sequence.Cursor {
	return sequence.Cursor{Line: c.Kind == "line", Block: c.Kind == "block", Row: c.Row, Col: c.Col}
}
