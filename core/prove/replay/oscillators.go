package replay

import (
	"fmt"
	"time"

	"periph.io/x/conn/v3/physic"

	"slatebell/core/finding"
	"slatebell/core/part/hd44780"
	"slatebell/core/wire/rig"
)

// Losses are the bytes that come too early for a module with some oscillator.
type Losses struct {
	Frequency physic.Frequency
	Name      string // own, slowest or typical
	Lost      int
	First     time.Duration // when the first comes
	Most      time.Duration // by which one comes too early
}

// Oscillators are the bytes that come too early for the module as it is, for one with the slowest oscillator and for one with a typical one. Execution
// times scale with it (HD44780U data sheet, ADE-207-272(Z), electrical characteristics).
func (r *Replay) Oscillators() []Losses {
	out := []Losses{r.losses(r.rig, r.oscillator(), "own")}
	names := []Losses{{Frequency: hd44780.MinOscillator, Name: "slowest"}, {Frequency: hd44780.TypicalOscillator, Name: "typical"}}
	others := r.others
	for _, n := range names {
		if n.Frequency != r.oscillator() {
			out = append(out, r.losses(others[0], n.Frequency, n.Name))
			others = others[1:]
		}
	}
	return out
}

func (r *Replay) losses(of *rig.Rig, osc physic.Frequency, name string) Losses {
	out := Losses{Frequency: osc, Name: name}
	kept, _ := of.Violations()
	for _, v := range kept {
		if v.Kind != hd44780.WhileBusy || v.At < r.origin || r.tooFine(v) {
			continue
		}
		if out.Lost++; out.Lost == 1 {
			out.First = v.At - r.origin
		}
		out.Most = max(out.Most, v.Limit)
	}
	return out
}

// oscillator is the module's own.
func (r *Replay) oscillator() physic.Frequency {
	if r.module.Oscillator == 0 {
		return hd44780.TypicalOscillator
	}
	return r.module.Oscillator
}

// slowOscillator says how many bytes come too early for a module with the slowest oscillator; nothing where these are no more than for this one.
func (r *Replay) slowOscillator() []finding.Finding {
	list := r.Oscillators()
	own := list[0]
	for _, slow := range list[1:] {
		if slow.Name != "slowest" || slow.Lost <= own.Lost {
			continue
		}
		lost := "none is lost"
		if own.Lost > 0 {
			lost = fmt.Sprintf("%d are lost", own.Lost)
		}
		return []finding.Finding{at(slow.First, finding.Finding{
			Code: "capture.slow-oscillator", Severity: finding.Note, What: fmt.Sprintf("A module with the slowest oscillator, %d kHz, loses %d bytes: the first at %s; up to %s too early. At %d kHz %s.",
				slow.Frequency/physic.KiloHertz, slow.Lost, rig.Duration(slow.First), rig.Duration(slow.Most), own.Frequency/physic.KiloHertz, lost),
			Why: "Execution times scale with the oscillator, which may have 190 to 350 kHz.", Fix: "Wait 53 µs after each byte and 2.16 ms after clear and home, or poll the busy flag.", Source: "HD44780U data sheet, ADE-207-272(Z), electrical characteristics",
		})}
	}
	return nil
}
