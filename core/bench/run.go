package bench

import (
	"slices"

	"slatebell/core/finding"
	"slatebell/core/link"
	"slatebell/core/module"
	"slatebell/core/rig"
	"slatebell/core/screen"
	"slatebell/core/sequence"
)

// Options say what to run.
type Options struct {
	NoInit bool // the module was initialised before: leave the initialisation out
	Waits  sequence.Waits
}

// Run is one pass through the whole loop.
type Run struct {
	Module   module.Module
	Wired    link.Link
	Layout   screen.Layout
	Program  *sequence.Program
	Moments  []rig.Moment // Moments[i] is the rig before step i; the last, after all
	Findings []finding.Finding
}

// Run composes the module's screen, compiles it, plays it into a freshly
// powered rig and compares the glass with the screen. Its error is a Problem
// where the document cannot be run.
func (m *Module) Run(o Options) (*Run, error) {
	mod, err := m.Module()
	if err != nil {
		return nil, err
	}
	wired := m.Wiring()
	r := &Run{Module: mod, Wired: wired, Layout: screen.Compose(&mod, m.Screen)}
	r.Program, err = sequence.Compile(mod, wired, r.Layout.Codes(), sequence.Options{Init: !o.NoInit, Waits: o.Waits})
	if err != nil {
		return nil, Problem{"link", err.Error()}
	}
	return r, r.play()
}

// play plays the program into a rig and gathers the findings.
func (r *Run) play() error {
	hardware, err := rig.New(r.Module, r.Wired)
	if err != nil {
		return Problem{"link", err.Error()}
	}
	r.Moments = make([]rig.Moment, 1, len(r.Program.Steps)+1)
	r.Moments[0] = hardware.Moment()
	hardware.Play(r.Program, func(int) { r.Moments = append(r.Moments, hardware.Moment()) })
	glass := r.Last().Glass(&r.Module, rig.UsualContrast)
	r.Findings = append([]finding.Finding{}, slices.Concat(r.Layout.Findings, r.Layout.Compare(&glass), rig.Findings(hardware.Violations()))...)
	slices.SortStableFunc(r.Findings, func(a, b finding.Finding) int { return a.Severity.Rank() - b.Severity.Rank() })
	return nil
}

// Last is the moment after all steps.
func (r *Run) Last() *rig.Moment { return &r.Moments[len(r.Moments)-1] }

// Part names the expander that has the backpack's address.
func (r *Run) Part() string {
	part, _ := link.ValidAddress(r.Wired.Address)
	return part
}
