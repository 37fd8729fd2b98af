// Package run is one pass round the loop for a module of a bench: its screen is
// composed, compiled to wire traffic, played into a rig wired like the module,
// and the glass compared with the screen. It compares runs, finds steps in them, makes faults in them, and
// judges what it saw.
//
// It stands above testbed, which says what is run, and below check: interface, API and command line call
// it, so that all three give the same bytes.
package run

import (
	"bytes"
	"slices"

	"slatebell/core/bench"
	"slatebell/core/finding"
	"slatebell/core/part/hd44780"
	"slatebell/core/part/i2cbus"
	"slatebell/core/part/module"
	"slatebell/core/prove/fault"
	"slatebell/core/prove/testbed"
	"slatebell/core/text/field"
	"slatebell/core/text/glyph"
	"slatebell/core/text/screen"
	"slatebell/core/wire/glass"
	"slatebell/core/wire/link"
	"slatebell/core/wire/rig"
	"slatebell/core/wire/sequence"
)

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

// Do composes the screen, compiles it, plays it into a freshly powered rig and
// compares the glass with the screen. Its error is a bench.Problem where the
// setup cannot be run.
func Do(s *testbed.Setup, o Options) (*Run, error) {
	mod, wired, err := s.Build()
	if err != nil {
		return nil, err
	}
	r := &Run{Module: mod, Fields: s.Fields, Contrast: s.Contrast(&mod), Wired: wired, Layout: screen.Compose(&mod, s.Text(), s.Sources())}
	r.Glyphs = r.Layout.Bank
	options := s.Sequence()
	options.Init, options.Glyphs, options.Live = !o.NoInit, r.Glyphs, o.Live
	if o.Fault != "" {
		err = r.fail(s, o, options)
	} else {
		err = r.sound(o, s.Joined, options)
	}
	if err != nil {
		return nil, bench.ProblemOf(s.Pointer("/link"), err)
	}
	judgeLink(s, r)
	judgeSupply(s, r)
	locate(s, r.Findings)
	slices.SortStableFunc(r.Findings, func(a, b finding.Finding) int { return a.Severity.Rank() - b.Severity.Rank() })
	return r, nil
}

// sound compiles the screen and plays it behind the wires as they lie, if they are known.
func (r *Run) sound(o Options, joined *link.Joined, options sequence.Options) (err error) {
	if r.Program, err = sequence.Compile(r.Module, r.Wired, r.Layout.Codes(), options); err != nil {
		return err
	}
	if joined != nil {
		r.Hardware.NoAck, r.Hardware.Dead = joined.NoAck != "", joined.Dead != ""
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
func (r *Run) fail(s *testbed.Setup, o Options, options sequence.Options) error {
	subject := subject(s, &r.Module, options)
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
