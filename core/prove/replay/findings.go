package replay

import (
	"fmt"
	"strings"
	"time"

	"slatebell/core/finding"
	"slatebell/core/part/hd44780"
	"slatebell/core/say"
	"slatebell/core/wire/rig"
)

// Violation is a limit that was broken in the recording, At counting from its beginning.
type Violation struct {
	hd44780.Violation
	Finding finding.Finding
}

// Violations are the limits that were broken, in the order of time: at most as many as a rig keeps. What is too short to be seen by samples that lie
// so far apart is not among them.
func (r *Replay) Violations() (out []Violation) {
	kept, _ := r.violations()
	for _, v := range kept {
		since := v.Violation
		since.At -= r.origin
		out = append(out, Violation{since, at(since.At, rig.Findings([]rig.Violation{v}, 0)[0])})
	}
	return out
}

// violations are those of the rig that count, with their times on its own clock, and how many more it did not keep.
func (r *Replay) violations() (out []rig.Violation, more int) {
	kept, more := r.rig.Violations()
	for _, v := range kept {
		if v.At >= r.origin && !r.tooFine(v) {
			out = append(out, v)
		}
	}
	return out, more
}

// tooFine reports whether a limit may well be kept, as the recording's times lie further apart than what is missing.
func (r *Replay) tooFine(v rig.Violation) bool {
	switch v.Kind {
	case hd44780.WhileBusy:
		return v.Limit < r.step
	case hd44780.AddressSetup, hd44780.AddressHold, hd44780.DataSetup, hd44780.DataHold, hd44780.PulseWidth, hd44780.Cycle:
		return r.wires.Bare() && r.step > time.Nanosecond && v.Measured+r.step > v.Limit
	case hd44780.StartEarly:
		return v.Measured+r.step > v.Limit
	}
	return false
}

// Findings says which limits the recording breaks, with the time of the first of each kind, and what else it shows.
func (r *Replay) Findings() (out []finding.Finding) {
	all, more := r.violations()
	kinds := map[hd44780.ViolationKind]int{}
	var first []time.Duration
	var list [][]rig.Violation
	for _, v := range all {
		k, seen := kinds[v.Kind]
		if !seen {
			k = len(list)
			kinds[v.Kind] = k
			list, first = append(list, nil), append(first, v.At-r.origin)
		}
		list[k] = append(list[k], v)
	}
	out = append(out, r.outOfStep()...) // which may be why the others are broken
	for k, of := range list {
		f := at(first[k], rig.Findings(of, 0)[0])
		f.What = fmt.Sprintf("%s; the first at %s.", strings.TrimSuffix(f.What, "."), rig.Duration(first[k]))
		out = append(out, f)
	}
	if more > 0 {
		out = append(out, rig.Findings(nil, more)...)
	}
	if r.Refused > 0 {
		out = append(out, finding.Finding{
			Code: "capture.refused", Severity: finding.Error, What: fmt.Sprintf("%d of %d bytes for the module are not acknowledged.", r.Refused, r.Bytes),
			Why: "The expander was not there, not fed, or at another address.", Fix: "Scan the bus, and look at the expander's jumpers, supply and wires.", Source: "UM10204 rev. 7, §3.1.6",
		})
	}
	out = append(out, r.start()...)
	if r.pace != nil {
		out = append(out, r.pace.findings(r.Clock(), r.step)...)
	}
	out = append(out, r.slowOscillator()...)
	out = append(out, r.fill.finding()...)
	if r.Untimed {
		out = append(out, finding.Finding{
			Code: "capture.untimed", Severity: finding.Note, What: "It is a list of bytes: when they came nobody wrote down. Waits, the clock and limits of time cannot be judged.",
			Fix: "Record the levels of SDA and SCL to judge them.",
		})
	}
	if r.Within {
		out = append(out, finding.Finding{
			Code: "capture.within", Severity: finding.Note, What: "The recording begins after the initialisation: two lines, the display on and an empty memory are taken for what went before.",
			Fix: "Record from before the host is switched on or reset, to see all of it.",
		})
	}
	if n := r.wires.Missed(); n > 0 {
		out = append(out, finding.Finding{
			Code: "capture.latch", Severity: finding.Note, What: fmt.Sprintf("%d rises of the latch lie between two samples: they are taken to come after each eight clocks.", n), Fix: "Record at a higher rate.",
		})
	}
	if unseen := r.unseen(); len(unseen) > 0 {
		out = append(out, finding.Finding{
			Code: "capture.coarse", Severity: finding.Note, What: fmt.Sprintf("Samples lie %s apart: whether %s kept cannot be seen, nor pulses between two samples.", rig.Duration(r.step), say.List(unseen)+areKept(len(unseen))),
			Fix: "Record at a higher rate to judge them, 24 MHz or more.",
		})
	}
	return append(out, r.more...)
}

// areKept ends a sentence about some limits.
func areKept(n int) string {
	if n == 1 {
		return " is"
	}
	return " are"
}

// unseen are the limits of the header's lines that are shorter than samples lie apart.
func (r *Replay) unseen() (out []string) {
	if !r.wires.Bare() || r.step <= time.Nanosecond {
		return nil
	}
	limits := hd44780.BusLimits(r.module.Supply)
	for _, one := range []struct {
		symbol string
		limit  time.Duration
	}{{"t_cycE", limits.Cycle}, {"PW_EH", limits.PulseWidth}, {"t_DSW", limits.DataSetup}, {"t_AS", limits.AddressSetup}, {"t_AH", limits.AddressHold}, {"t_H", limits.DataHold}} {
		if one.limit < r.step {
			out = append(out, one.symbol)
		}
	}
	return out
}

// start says what is missing of an initialisation by instruction.
func (r *Replay) start() []finding.Finding {
	if r.Within || len(r.Operations) == 0 {
		return nil
	}
	sets := 0
	for i := range r.Operations {
		op := &r.Operations[i]
		if op.Kind() != hd44780.FunctionSet || op.Byte&hd44780.EightBit == 0 {
			break
		}
		if op.Enable == r.Operations[0].Enable {
			sets++
		}
	}
	if sets >= functionSets {
		return nil
	}
	return []finding.Finding{at(r.Operations[0].At, finding.Finding{
		Code: "capture.short-start", Severity: finding.Warning, What: fmt.Sprintf("The initialisation begins with %d of %d function sets for eight lines.", sets, functionSets),
		Why: "It works where the controller's own reset did, after a supply that rose fast enough; after a reset of the host alone it may find the controller in the middle of a byte.",
		Fix: "Begin with three times 0011 on D7 to D4, with 4.1 ms and 100 µs between them.", Source: "HD44780U data sheet, ADE-207-272(Z), figures 23 and 24",
	})}
}

// functionSets is how many begin an initialisation by instruction.
const functionSets = 3
