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
	"slatebell/core/finding"
	"slatebell/core/part/hd44780"
	"slatebell/core/part/i2cbus"
	"slatebell/core/part/module"
	"slatebell/core/prove/fault"
	"slatebell/core/table/breadboard"
	"slatebell/core/text/field"
	"slatebell/core/text/glyph"
	"slatebell/core/text/screen"
	"slatebell/core/wire/glass"
	"slatebell/core/wire/link"
	"slatebell/core/wire/rig"
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

// Options say what to run.
type Options struct {
	NoInit bool             // the module was initialised before: leave the initialisation out
	Live   []sequence.Aimed // follow the screen
	Fault  string           // of the catalogue that package fault has for the setup, by its id; "" for none
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
		return mod, link.Link{}, bench.ProblemOf(s.pointer("/glyphs"), err)
	}
	if _, err := s.Library.Validate(); err != nil {
		return mod, link.Link{}, bench.ProblemOf("/glyphs", err)
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
	options := s.options()
	options.Init, options.Glyphs, options.Live = !o.NoInit, r.Glyphs, o.Live
	if o.Fault != "" {
		err = r.fail(s, o, options)
	} else {
		err = r.sound(o, s.Joined, options)
	}
	if err != nil {
		return nil, bench.ProblemOf(s.pointer("/link"), err)
	}
	s.judgeLink(r)
	s.judgeSupply(r)
	s.place(r.Findings)
	slices.SortStableFunc(r.Findings, func(a, b finding.Finding) int { return a.Severity.Rank() - b.Severity.Rank() })
	return r, nil
}

// contrast returns the part of VDD that lies between VDD and VO: what was measured,
// what the wires give, what they are planned to give, or what the module says.
func (s *Setup) contrast(m *module.Module) float64 {
	if s.Joined != nil && s.Joined.Dead != "" {
		return 0 // nothing drives the glass
	}
	if j := s.Joined; j != nil && j.VOMV != nil && s.Display.Measured.VOMV == nil {
		return max(1-float64(*j.VOMV)*float64(physic.MilliVolt)/float64(m.Fed()), 0)
	}
	if s.Display.Measured.VOMV == nil {
		wired := bench.Module{Display: s.Display, Link: s.Link, Fitting: s.Fitting}
		if vo, said := wired.PlannedVO(); said {
			return min(max(1-float64(vo)/float64(m.Fed()), 0), 2)
		}
	}
	return s.Display.Contrast(m)
}

// options are those of the setup's program.
func (s *Setup) options() sequence.Options {
	return sequence.Options{Waits: sequence.Waits(s.Link.Waits), Brightness: uint8(s.Display.Supply.Brightness), Cursor: cursorOf(s.Cursor)}
}

// sound compiles the screen and plays it behind the wires as they lie, if they are known.
func (r *Run) sound(o Options, joined *link.Joined, options sequence.Options) (err error) {
	if r.Program, err = sequence.Compile(r.Module, r.Wired, r.Layout.Codes(), options); err != nil {
		return err
	}
	if joined != nil {
		r.Hardware.Deaf, r.Hardware.Dead = joined.Deaf != "", joined.Dead != ""
		if joined.Pins != nil || joined.Register != nil {
			if r.Hardware.Header, err = joined.Compile(); err != nil {
				return err
			}
		}
	}
	var before *sequence.Program
	if o.NoInit {
		if before, err = sequence.Compile(r.Module, r.Wired, bytes.Repeat([]byte{' '}, r.Module.Geometry.Cells()), sequence.Options{Init: true}); err != nil {
			return err
		}
	}
	return r.play(r.Wired, before, len(o.Live) == 0)
}

// fail plays the screen with a fault of the catalogue made in the module as it ought
// to be wired.
func (r *Run) fail(s *Setup, o Options, options sequence.Options) error {
	subject := s.subject(&r.Module, options)
	made, err := fault.Make(subject, o.Fault)
	if err != nil {
		return err
	}
	r.Module, r.Program, r.Hardware, r.Contrast = made.Module, made.Program, made.Hardware, made.Contrast
	return r.play(made.Wired, made.Before, len(o.Live) == 0)
}

// play plays the program into a rig that is wired as its hardware says, after what was
// sent before, which may be nil, and gathers the findings.
func (r *Run) play(wired link.Link, before *sequence.Program, compare bool) error {
	hardware, err := rig.New(r.Module, wired)
	if err != nil {
		return err
	}
	hardware.Wire(r.Hardware)
	if before != nil {
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
	if compare {
		shown := r.Last().Glass(&r.Module, r.Contrast)
		r.Findings = append(r.Findings, glass.Compare(&r.Layout, &shown)...)
	}
	r.Findings = append(r.Findings, rig.Findings(hardware.Violations())...)
	r.Findings = append(r.Findings, hardware.Judge()...)
	return nil
}

// Last is the moment after all steps.
func (r *Run) Last() *rig.Moment { return &r.Moments[len(r.Moments)-1] }

// Part names the expander that has the backpack's address.
func (r *Run) Part() string {
	part, _ := i2cbus.Expander(i2cbus.Address(r.Wired.Address))
	return part.Name
}
