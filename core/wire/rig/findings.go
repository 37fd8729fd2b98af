package rig

import (
	"fmt"
	"time"

	"slatebell/core/finding"
	"slatebell/core/part/hd44780"
)

// judgement is how violations of one kind read as a finding.
type judgement struct {
	code     string
	severity finding.Severity
	what     func(v hd44780.Violation) string
	why, fix string
}

const sheet = "HD44780U data sheet, ADE-207-272(Z)"

// limited states a time against its limit.
func limited(symbol, what string) func(hd44780.Violation) string {
	return func(v hd44780.Violation) string {
		return fmt.Sprintf("%s broken: %s %s, at least %s needed", symbol, what, Duration(v.Measured), Duration(v.Limit))
	}
}

// fixed states a text without figures.
func fixed(text string) func(hd44780.Violation) string {
	return func(hd44780.Violation) string { return text }
}

var judgements = map[hd44780.ViolationKind]judgement{
	hd44780.WhileBusy: {"timing.while-busy", finding.Error,
		func(v hd44780.Violation) string {
			return fmt.Sprintf("Written while busy, %s too early: the byte is lost", Duration(v.Limit))
		},
		"The controller takes nothing while it executes.", "Wait for the execution time, or poll the busy flag."},
	hd44780.AddressSetup: {"timing.t-as", finding.Warning, limited("t_AS", "RS or R/W was stable for"),
		"RS changed too close before E rose; some modules take the byte for an instruction.", "Set RS up in a write of its own before E."},
	hd44780.AddressHold: {"timing.t-ah", finding.Warning, limited("t_AH", "RS or R/W was held for"),
		"RS or R/W changed with or directly after the fall of E.", "Let E fall in a write of its own before RS changes."},
	hd44780.DataSetup: {"timing.t-dsw", finding.Warning, limited("t_DSW", "data was stable for"),
		"The controller latches data on the fall of E.", "Set the data up earlier."},
	hd44780.DataHold: {"timing.t-h", finding.Warning, limited("t_H", "data was held for"),
		"Data changed with or directly after the fall of E.", "Let E fall in a write of its own before the data changes."},
	hd44780.PulseWidth: {"timing.pw-eh", finding.Warning, limited("PW_EH", "E was high for"),
		"The pulse may be too short to be seen.", "Lengthen the pulse of E."},
	hd44780.Cycle: {"timing.t-cyc-e", finding.Warning, limited("t_cycE", "E rose again after"),
		"The controller may miss a pulse.", "Let more time pass between pulses of E."},
	hd44780.SelectMoved: {"timing.select-moved", finding.Warning, fixed("RS or R/W changed while E was high"),
		"Both must hold from before the rise of E to after its fall.", "Change RS and R/W only while E is low."},
	hd44780.OutsideMemory: {"memory.outside", finding.Warning,
		func(v hd44780.Violation) string { return fmt.Sprintf("DDRAM address 0x%02X does not exist", v.Value) },
		"Two-line memory has 0x00–0x27 and 0x40–0x67, one-line memory 0x00–0x4F.", "Use a row start address of this geometry."},
	hd44780.ReadUnset: {"memory.read-unset", finding.Warning, fixed("Data was read without an address set before it"),
		"The first read after a write returns what was written, not what the address holds.", "Set the address, then read."},
	hd44780.StartEarly: {"start.early", finding.Warning, limited("Initialisation too early", "waited"),
		"An interface of unknown width may not follow.", "Keep the waits of the initialisation by instruction."},
	hd44780.StartOrder: {"start.order", finding.Warning, fixed("An instruction came before any function set"),
		"After its reset the controller listens to eight lines and drives one line of text.", "Begin with the initialisation by instruction."},
	hd44780.FunctionLate: {"start.function-late", finding.Warning, fixed("Lines or font were changed in the middle of a program"),
		"The data sheet allows the function set only at the head of a program.", "Set lines and font once, in the initialisation."},
}

// Findings states violations as findings, one for each kind in the order of
// their first step, with how often it came.
func Findings(list []Violation, more int) []finding.Finding {
	var out []finding.Finding
	index := map[hd44780.ViolationKind]int{}
	count := map[hd44780.ViolationKind]int{}
	for _, v := range list {
		count[v.Kind]++
		if count[v.Kind] > 1 {
			continue
		}
		j := judgements[v.Kind]
		f := finding.Finding{Code: j.code, Severity: j.severity, What: j.what(v.Violation), Why: j.why, Fix: j.fix, Source: sheet}
		if v.Step >= 0 {
			step := v.Step
			f.Step = &step
			f.What += fmt.Sprintf(" (step %d)", v.Step+1)
		}
		index[v.Kind] = len(out)
		out = append(out, f)
	}
	for kind, i := range index {
		if n := count[kind]; n > 1 {
			out[i].What += fmt.Sprintf(", and %d more times", n-1)
		}
		out[i].What += "."
	}
	if more > 0 {
		out = append(out, finding.Finding{Code: "timing.more", Severity: finding.Note, What: fmt.Sprintf("%d more violations were not kept.", more)})
	}
	return out
}

// Duration writes a time with a unit that suits it: ns, µs, ms or s.
func Duration(d time.Duration) string {
	switch {
	case d < time.Microsecond:
		return fmt.Sprintf("%d ns", d.Nanoseconds())
	case d < time.Millisecond:
		return fmt.Sprintf("%.4g µs", float64(d)/1e3)
	case d < time.Second:
		return fmt.Sprintf("%.4g ms", float64(d)/1e6)
	}
	return fmt.Sprintf("%.4g s", d.Seconds())
}
