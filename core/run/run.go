// Package run is one pass round the loop for a module of a bench: its screen is
// composed, compiled to wire traffic, played into a rig wired like the module,
// and the glass compared with the screen. It compares runs, finds steps in them,
// and states the findings of a whole bench.
//
// It stands on top of core, above the document in bench: interface, API and
// command line call it, so that all three give the same bytes and the same
// findings.
package run

import (
	"bytes"
	"fmt"
	"slices"

	"periph.io/x/conn/v3/physic"

	"slatebell/core/bench"
	"slatebell/core/breadboard"
	"slatebell/core/field"
	"slatebell/core/finding"
	"slatebell/core/glyph"
	"slatebell/core/hd44780"
	"slatebell/core/i2cbus"
	"slatebell/core/link"
	"slatebell/core/module"
	"slatebell/core/rig"
	"slatebell/core/screen"
	"slatebell/core/sequence"
)

// Fault is a mistake of the trade, made in the rig or the traffic.
type Fault string

// The faults.
const (
	NoFault      Fault = ""
	NoInit       Fault = "no-init"       // the host forgot the initialisation
	WrongAddress Fault = "wrong-address" // the backpack has another address than the program
	LostNibble   Fault = "lost-nibble"   // one pulse of E goes missing in the text
	NoWaits      Fault = "no-waits"      // the host waits for no operation
	CrossedWires Fault = "crossed-wires" // D4 and D5 are swapped
)

// Setup is what a run needs of a bench: one module with one of its screens, and
// what host and bus are to it. Of takes it out of a document.
type Setup struct {
	At      At            `json:"at,omitzero" doc:"where in the bench the module and its screen stand; findings point there"`
	Host    HostSide      `json:"host,omitzero"`
	Display bench.Display `json:"display"`
	Link    bench.Link    `json:"link"`
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
		At: at, Host: HostSide{b.Host.Part, b.Host.BearsMV, b.Bus.SpeedHz}, Display: m.Display, Link: m.Link, Glyphs: m.Glyphs,
		Library: screen.Named(s.Rows, s.Fields, b.Glyphs), Rows: s.Rows, Fields: s.Fields, Cursor: s.Cursor, Scroll: s.Scroll, Joined: breadboard.Joined(b, at.Module),
	}, nil
}

// Options say what to run.
type Options struct {
	NoInit bool             // the module was initialised before: leave the initialisation out
	Live   []sequence.Aimed // follow the screen
	Fault  Fault
	LostAt int // with LostNibble: the step, counted from 1, that loses its first pulse of E; 0 for the first character
}

// Run is one pass through the whole loop.
type Run struct {
	Module   module.Module
	Contrast float64
	Wired    link.Link
	Glyphs   glyph.Bank
	Fields   []field.Field
	Layout   screen.Layout
	Program  *sequence.Program
	Hardware link.Hardware // what is wrong with it
	Moments  []rig.Moment  // Moments[i] is the rig before step i; the last, after all
	Reads    []Read
	Findings []finding.Finding
}

// Read is a byte that a step read: Op carries it.
type Read struct {
	Step int
	Op   hd44780.Operation
}

// Build returns the module and the link that a setup describes, or a
// bench.Problem where it cannot be run.
func (s *Setup) Build() (module.Module, link.Link, error) {
	mod, err := s.Display.Module()
	if err != nil {
		return mod, link.Link{}, err.(bench.Problem).Under(s.pointer("/display"))
	}
	if j := s.Joined; j != nil && j.SupplyMV != 0 && s.Display.Measured.SupplyMV == 0 {
		mod.Supply = physic.ElectricPotential(j.SupplyMV) * physic.MilliVolt
	}
	bus := bench.Bus{SpeedHz: s.Host.BusHz}
	if err := s.Link.Check(&mod.Geometry, &bus); err != nil {
		return mod, link.Link{}, err.(bench.Problem).Under(s.pointer("/link"))
	}
	if err := s.Glyphs.Validate(); err != nil {
		return mod, link.Link{}, bench.Problem{Path: s.pointer("/glyphs"), What: err.Error()}
	}
	if _, err := s.Library.Validate(); err != nil {
		return mod, link.Link{}, bench.Problem{Path: "/glyphs", What: err.Error()}
	}
	if p := bench.CheckRows(s.Rows); len(p) > 0 {
		return mod, link.Link{}, p[0].Under(s.sources().Rows)
	}
	return mod, s.Link.Build(&mod.Geometry, &bus), nil
}

// pointer returns the pointer to a part of the module.
func (s *Setup) pointer(part string) string { return fmt.Sprintf("/modules/%d%s", s.At.Module, part) }

// sources returns where the screen's rows and the module's glyphs stand.
func (s *Setup) sources() screen.Sources {
	at := s.pointer(fmt.Sprintf("/screens/%d", s.At.Screen))
	return screen.Sources{Rows: at + "/rows", Fields: at + "/fields", Cursor: at + "/cursor", Scroll: at + "/scroll", Glyphs: s.pointer("/glyphs")}
}

// text is the screen that is composed.
func (s *Setup) text() screen.Text {
	return screen.Text{Rows: s.Rows, Fields: s.Fields, Cursor: s.Cursor, Scroll: s.Scroll, Bank: s.Glyphs, Library: s.Library}
}

// Run composes the screen, compiles it, plays it into a freshly powered rig and
// compares the glass with the screen. Its error is a bench.Problem where the
// setup cannot be run.
func (s *Setup) Run(o Options) (*Run, error) {
	mod, wired, err := s.Build()
	if err != nil {
		return nil, err
	}
	r := &Run{Module: mod, Fields: s.Fields, Contrast: s.contrast(&mod), Wired: wired, Layout: screen.Compose(&mod, s.text(), s.sources())}
	r.Glyphs = r.Layout.Bank
	options := sequence.Options{
		Init: !o.NoInit && o.Fault != NoInit, Forget: o.Fault == NoInit, Hasty: o.Fault == NoWaits, Waits: sequence.Waits(s.Link.Waits),
		Brightness: uint8(s.Display.Supply.Brightness), Glyphs: r.Glyphs, Live: o.Live,
		Cursor: cursorOf(s.Cursor),
	}
	if r.Program, err = sequence.Compile(mod, wired, r.Layout.Codes(), options); err != nil {
		return nil, bench.Problem{Path: s.pointer("/link"), What: err.Error()}
	}
	if err := r.play(o, s.Joined); err != nil {
		return nil, bench.Problem{Path: s.pointer("/link"), What: err.Error()}
	}
	s.judgeLink(r)
	s.judgeSupply(r)
	s.place(r.Findings)
	slices.SortStableFunc(r.Findings, func(a, b finding.Finding) int { return a.Severity.Rank() - b.Severity.Rank() })
	return r, nil
}

// contrast returns the part of VDD that lies between VDD and VO: what was measured,
// what the wires give, or what the module says.
func (s *Setup) contrast(m *module.Module) float64 {
	if s.Joined != nil && s.Joined.Dead != "" {
		return 0 // nothing drives the glass
	}
	if j := s.Joined; j != nil && j.VOMV != nil && s.Display.Measured.VOMV == nil {
		return max(1-float64(*j.VOMV)*float64(physic.MilliVolt)/float64(m.Fed()), 0)
	}
	return s.Display.Contrast(m)
}

// wire puts together what stands between the program and the header: the wires as
// they lie, if they are known, and the mistake that is made on purpose.
func (r *Run) wire(o Options, joined *link.Joined) error {
	wiring := link.Joined{}
	if joined != nil {
		wiring = *joined
		r.Hardware.Deaf, r.Hardware.Dead = wiring.Deaf != "", wiring.Dead != ""
	}
	switch o.Fault {
	case WrongAddress:
		r.Hardware.Deaf = true
	case CrossedWires:
		if wiring.Pins == nil {
			wiring.Pins = link.Straight(&r.Wired).Pins
		}
		wiring = wiring.Swapped("D4", "D5")
	case LostNibble:
		r.Hardware.Lost = r.pulse(o.LostAt) + 1
	}
	if wiring.Pins == nil && wiring.Register == nil {
		return nil
	}
	header, err := wiring.Compile()
	r.Hardware.Header = header
	return err
}

// play plays the program into a rig and gathers the findings.
func (r *Run) play(o Options, joined *link.Joined) error {
	hardware, err := rig.New(r.Module, r.Wired)
	if err != nil {
		return err
	}
	if err := r.wire(o, joined); err != nil {
		return err
	}
	hardware.Wire(r.Hardware)
	if o.NoInit {
		before, err := sequence.Compile(r.Module, r.Wired, bytes.Repeat([]byte{' '}, r.Module.Geometry.Cells()), sequence.Options{Init: true})
		if err != nil {
			return err
		}
		hardware.Follow(before)
	}
	r.Moments = make([]rig.Moment, 1, len(r.Program.Steps)+1)
	r.Moments[0] = hardware.Moment()
	r.Reads = nil
	hardware.Play(r.Program, func(step int) {
		r.Moments = append(r.Moments, hardware.Moment())
		if s := &r.Program.Steps[step]; s.Sends() && s.Op.RW {
			op := s.Op
			op.Byte = hardware.ReadBack()
			r.Reads = append(r.Reads, Read{step, op})
		}
	})
	r.Findings = append([]finding.Finding{}, r.Layout.Findings...)
	if len(o.Live) == 0 {
		glass := r.Last().Glass(&r.Module, r.Contrast)
		r.Findings = append(r.Findings, r.Layout.Compare(&glass)...)
	}
	r.Findings = append(r.Findings, rig.Findings(hardware.Violations())...)
	r.Findings = append(r.Findings, hardware.Judge()...)
	return nil
}

// pulse returns the word that first raises E in a step counted from 1, or for
// the first character with 0; -1 where there is none.
func (r *Run) pulse(step int) int {
	for i := range r.Program.Steps {
		s := &r.Program.Steps[i]
		if step == 0 && s.Kind != sequence.Text || step != 0 && step != i+1 {
			continue
		}
		for w := s.First; w < s.First+s.Count; w++ {
			if r.Program.Coder.Raises(r.Program.Words[w]) {
				return w
			}
		}
	}
	return -1
}

// Last is the moment after all steps.
func (r *Run) Last() *rig.Moment { return &r.Moments[len(r.Moments)-1] }

// Part names the expander that has the backpack's address.
func (r *Run) Part() string {
	part, _ := i2cbus.Expander(i2cbus.Address(r.Wired.Address))
	return part.Name
}
