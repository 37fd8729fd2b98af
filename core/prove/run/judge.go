package run

import (
	"fmt"
	"slices"

	"periph.io/x/conn/v3/physic"

	"slatebell/core/bench"
	"slatebell/core/finding"
	"slatebell/core/part/circuit"
	"slatebell/core/part/module"
	"slatebell/core/prove/testbed"
	"slatebell/core/say"
	"slatebell/core/wire/glass"
	"slatebell/core/wire/link"
)

// judgeLink adds what the link's settings alone are at risk of.
func judgeLink(s *testbed.Setup, r *Run) {
	l := &r.Wired
	if l.Kind == link.Backpack && l.Speed > 100*physic.KiloHertz {
		r.Findings = append(r.Findings, finding.Finding{
			Code: "link.fast-clock", Severity: finding.Warning,
			What: fmt.Sprintf("The I²C clock is %d kHz; the expander is made for 100 kHz at most.", l.Speed/physic.KiloHertz),
			Why:  "Many follow a faster clock, none is bound to.", Fix: "Set the bus to 100 kHz.",
			Source:   "PCF8574 data sheet, f_SCL",
			Remedies: []finding.Remedy{{Label: "Set the clock to 100 kHz", Patch: slowClock(s)}},
		})
	}
	reads := l.ReadWrite && (l.Kind == link.Parallel4 || l.Kind == link.Parallel8)
	fed, bears := r.Module.Fed(), s.Link.MaxPinVoltage(&bench.Host{Part: s.Host.Part, BearsMV: s.Host.BearsMV})
	if reads && bears < fed {
		f := finding.Finding{
			Code: "link.read-voltage", Severity: finding.Error,
			What: fmt.Sprintf("On a read the module drives D7–D0 to %s, and the host's pins bear %s.", say.Volts(fed), say.Volts(bears)),
			Why:  "The host's pins can be destroyed.", Fix: "Tie R/W to ground and use fixed waits, or put a level converter between.",
			Source: "HD44780U data sheet, ADE-207-272(Z), V_OH",
		}
		patch := finding.Patch{finding.Test(s.Pointer("/link/readWrite"), true), finding.Remove(s.Pointer("/link/readWrite"))}
		if s.Link.Waits == "poll" {
			patch = append(patch, finding.Remove(s.Pointer("/link/waits")))
		}
		f.Remedies = []finding.Remedy{{Label: "Tie R/W to ground, and wait fixed times", Patch: patch}}
		r.Findings = append(r.Findings, f)
	}
}

// slowClock returns the patch that takes the clock back to the usual, where it
// is set.
func slowClock(s *testbed.Setup) finding.Patch {
	if own := s.Link.Outputs.SpeedHz; own != 0 {
		at := s.Pointer("/link/outputs/speedHz")
		return finding.Patch{finding.Test(at, own), finding.Replace(at, bench.UsualBusHz)}
	}
	return finding.Patch{finding.Test("/bus/speedHz", s.Host.BusHz), finding.Replace("/bus/speedHz", bench.UsualBusHz)}
}

// judgeSupply adds what the module's supply and contrast do to what is seen.
func judgeSupply(s *testbed.Setup, r *Run) {
	if r.Hardware.Dead {
		return // the wiring says why
	}
	if r.Module.Technology == module.VFD {
		if needs, fed := r.Module.Needs(), r.Module.Fed(); fed < needs.Min || fed > needs.Max {
			r.Findings = append(r.Findings, finding.Finding{
				Code: "module.supply", Severity: finding.Error,
				What: fmt.Sprintf("A VFD module is fed %s; it takes %s to %s.", say.Volts(fed), say.Volts(needs.Min), say.Volts(needs.Max)),
				Why:  "Its converter cannot make the voltages that the tube needs.", Fix: "Feed it 5 V; level converters join a 3.3 V host.",
				Source: needs.Source, Path: s.Pointer("/display"),
			})
		}
		return
	}
	f := finding.Finding{Severity: finding.Warning, Path: s.Pointer("/display"), Source: "Alt and Pleshko, IEEE Transactions on Electron Devices ED-21, 1974"}
	switch look := r.Last().Glass(&r.Module, r.Contrast).Look; {
	case look.Lit < glass.Faintest:
		f.Code, f.What = "glass.faint", fmt.Sprintf("With VO at %s nothing can be read.", say.Volts(r.Module.VO(r.Contrast)))
		f.Why = "The voltage across the liquid crystal, VDD − VO, is too small to turn a dot."
		f.Fix = "Turn the contrast up: VO nearer to ground, or below it where the module is fed 3.3 V."
	case look.Dark > glass.Darkest:
		f.Code, f.What = "glass.blocks", fmt.Sprintf("With VO at %s every cell is a block.", say.Volts(r.Module.VO(r.Contrast)))
		f.Why = "The voltage across the liquid crystal turns the dots that are off as well."
		f.Fix = "Turn the contrast down: VO further from ground."
		f.Remedies = otherContrast(s, r)
	case look.Dark >= glass.Faintest:
		f.Code, f.Severity, f.What = "glass.shaded", finding.Note, fmt.Sprintf("With VO at %s the glass is dark: the cells are faintly shaded behind the text, which can be read.", say.Volts(r.Module.VO(r.Contrast)))
		f.Why = "The voltage across the liquid crystal begins to turn the dots that are off as well."
		f.Fix = "Leave it so, or give VO about half a volt."
		f.Remedies = otherContrast(s, r)
	case potless(s, r):
		f.Code, f.What = "glass.vo-below-ground", fmt.Sprintf("Fed %s, the glass reads well with VO at %s only; with VO at ground nothing can be read.", say.Volts(r.Module.Fed()), say.Volts(r.Module.VO(r.Contrast)))
		f.Why = "A potentiometer between VDD and ground gives no voltage below ground."
		f.Fix = "Feed the module 5 V, or give VO a negative voltage."
	default:
		return
	}
	if set := s.Display.Supply.Contrast; set != nil && s.Display.Measured.VOMV == nil {
		at := s.Pointer("/display/supply/contrast")
		label := fmt.Sprintf("Set VO to %s, where it reads well", say.Volts(r.Module.VO(r.Module.UsualContrast())))
		f.Remedies = append([]finding.Remedy{{Label: label, Patch: finding.Patch{finding.Test(at, *set), finding.Remove(at)}}}, f.Remedies...)
	}
	r.Findings = append(r.Findings, f)
}

// otherContrast offers what gives VO a voltage where it is tied to ground: a potentiometer,
// or a fixed resistor of the module's own ladder.
func otherContrast(s *testbed.Setup, r *Run) []finding.Remedy {
	if s.Fitting.Contrast != "ground" {
		return nil
	}
	at := s.Pointer("/fitting")
	pot, fixed := s.Fitting, s.Fitting
	pot.Contrast, pot.Turn = "", nil
	fixed.Contrast = "resistor"
	vo := r.Module.VO(r.Module.UsualContrast())
	exact := physic.ElectricResistance(float64(r.Module.Ladder()) * float64(vo) / float64(r.Module.Fed()-vo))
	if exact <= 0 {
		return nil // it reads well below ground only
	}
	near := circuit.E12.UpTo(exact)
	fixed.VOOhm = float64(near/physic.MilliOhm) / 1000
	return []finding.Remedy{
		{Label: "Take a potentiometer of 10 kΩ", Patch: finding.Patch{finding.Test(at, s.Fitting), finding.Replace(at, pot)}},
		{Label: fmt.Sprintf("Put %s from VO to ground", say.Ohms(near)), Patch: finding.Patch{finding.Test(at, s.Fitting), finding.Replace(at, fixed)}},
	}
}

// potless reports whether no contrast was set or measured, and the one that reads
// well is beyond what a potentiometer on the supply gives.
func potless(s *testbed.Setup, r *Run) bool {
	if s.Display.Supply.Contrast != nil || s.Display.Measured.VOMV != nil || r.Contrast <= 1 {
		return false
	}
	return r.Last().Glass(&r.Module, 1).Look.Lit < glass.Faintest
}

// locate points findings that name no place at the screen, where they are about
// cells, or at the link, and offers to settle what a setting of the link brings
// about.
func locate(s *testbed.Setup, list []finding.Finding) {
	for i := range list {
		f := &list[i]
		switch {
		case f.Path != "":
		case f.Cells != nil:
			f.Path = s.Sources().Rows
		default:
			f.Path = s.Pointer("/link")
		}
		if setup := s.Link.Outputs.Setup; f.Code == "timing.t-as" && setup == string(link.SetupWithE) {
			at := s.Pointer("/link/outputs/setup")
			f.Remedies = []finding.Remedy{{Label: "Set RS up before E", Patch: finding.Patch{finding.Test(at, setup), finding.Replace(at, string(link.SetupLawful))}}}
		}
		if ns := s.Link.PinNS; ns != 0 && slices.Contains(pinTimes, f.Code) {
			at := s.Pointer("/link/pinNs")
			f.Remedies = []finding.Remedy{{Label: fmt.Sprintf("Let %d ns pass between two changes of the pins", link.UsualPinTime.Nanoseconds()), Patch: finding.Patch{finding.Test(at, ns), finding.Remove(at)}}}
		}
	}
}

// pinTimes are the codes that say that the host's pins move too fast.
var pinTimes = []string{"timing.t-as", "timing.t-dsw", "timing.pw-eh", "timing.t-cyc-e"}
