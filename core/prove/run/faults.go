package run

import (
	"fmt"
	"slices"

	"periph.io/x/conn/v3/physic"

	"slatebell/core/bench"
	"slatebell/core/bench/edit"
	"slatebell/core/finding"
	"slatebell/core/part/hd44780"
	"slatebell/core/part/module"
	"slatebell/core/prove/fault"
	"slatebell/core/prove/testbed"
	"slatebell/core/table/bus"
	"slatebell/core/text/screen"
	"slatebell/core/wire/glass"
	"slatebell/core/wire/link"
	"slatebell/core/wire/sequence"
)

// Subject returns what faults are made in: the setup's module with its screen, as it
// ought to be wired. Its error is a bench.Problem where the setup cannot be run.
func Subject(s *testbed.Setup) (*fault.Subject, error) {
	mod, _, err := s.Build()
	if err != nil {
		return nil, err
	}
	return subject(s, &mod, s.Sequence()), nil
}

// subject is Subject for a module that is built already.
func subject(s *testbed.Setup, m *module.Module, o sequence.Options) *fault.Subject {
	whole := bench.Module{Display: s.Display, Fitting: s.Fitting}
	bus := bench.Bus{SpeedHz: s.Host.BusHz}
	f := fault.Fitting{Contrast: s.Display.Contrast(m), Pot: s.Fitting.Pot(), Light: s.Fitting.Light(), Lamp: whole.Backlight()}
	if s.Link.Kind == string(link.Backpack) {
		f.Pot = bench.UsualPotOhm * physic.Ohm // its trimmer
	}
	if look := m.Look(f.Contrast, hd44780.Duty(m.Geometry.TwoLine, false), 0); look.Lit < glass.Faintest || look.Dark > glass.Darkest {
		f.Contrast = m.UsualContrast()
	}
	if f.Pot == 0 {
		f.Contrast = s.Contrast(m)
	}
	return &fault.Subject{Module: *m, Link: s.Link.Build(&m.Geometry, &bus), Text: s.Text(), Options: o, Fitting: f}
}

// SubjectOf returns what faults are made in for a screen of a bench: with the module's
// other screens, which may be left on the glass, and the other parts of the bus, which
// answer to a scan. Its error is that of Of, or a bench.Problem.
func SubjectOf(b *bench.Bench, at testbed.At) (*fault.Subject, error) {
	setup, err := testbed.Of(b, at)
	if err != nil {
		return nil, err
	}
	s, err := Subject(&setup)
	if err != nil {
		return nil, err
	}
	m := &b.Modules[at.Module]
	for i := range m.Screens {
		o := &m.Screens[i]
		if i != at.Screen {
			s.Others = append(s.Others, screen.Text{Rows: o.Rows, Fields: o.Fields, Bank: m.Glyphs, Library: screen.Named(o.Rows, o.Fields, b.Glyphs)})
		}
	}
	for _, n := range bus.Heard(b, m.Link.Outputs.Channel) {
		if n.Module != at.Module {
			s.Answers = append(s.Answers, n.At)
			s.Answers = append(s.Answers, n.Part.Takes...)
		}
	}
	slices.Sort(s.Answers)
	s.Answers = slices.Compact(s.Answers)
	s.Apart = b.Host.Supply.From == "supply"
	s.Inputs = inputsOf(b, at)
	return s, nil
}

// Adopt returns the changes of a bench that plan a module as a fault says that it is:
// with the address that its expander has, its outputs, or its ROM.
func Adopt(b *bench.Bench, index int, f *fault.Fault) (out []finding.Remedy) {
	m := &b.Modules[index]
	at := fmt.Sprintf("/modules/%d", index)
	real := f.Real()
	if real.Address != 0 {
		of := edit.Answerer{Kind: edit.Backpack, Index: index}
		out = append(out, edit.Remedy(b, fmt.Sprintf("Plan it at %s", real.Address), edit.SetAddress{Of: of, At: int(real.Address)}))
	}
	mapping := real.Mapping
	if real.Inverted {
		planned := link.UsualMapping
		if m.Link.Outputs.Mapping != nil {
			planned = *m.Link.Outputs.Mapping
		}
		planned.BacklightLow = !planned.BacklightLow
		mapping = &planned
	}
	if mapping != nil {
		path := at + "/link/outputs/mapping"
		out = append(out, finding.Remedy{Label: "Plan its outputs so", Patch: finding.Patch{finding.Test(at+"/link/outputs/address", m.Link.Outputs.Address), finding.Add(path, *mapping)}})
	}
	if real.ROM != "" {
		path := at + "/display/controller/rom"
		out = append(out, finding.Remedy{Label: "Plan it with ROM " + real.ROM, Patch: finding.Patch{finding.Test(path, m.Display.Controller.ROM), finding.Replace(path, real.ROM)}})
	}
	return out
}
