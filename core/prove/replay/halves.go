package replay

import (
	"fmt"
	"time"

	"slatebell/core/finding"
	"slatebell/core/prove/capture"
	"slatebell/core/wire/rig"
)

// half is what one strobe takes on four lines.
type half struct {
	at    time.Duration
	bits  byte
	rs    bool
	reads bool
	opens bool // the controller took it for the first half of a byte, or for a byte by itself
}

// Of halves that belong together, as logarithms (ours): what counts against a half that stands alone, and against two that differ in RS or R/W.
const aloneCosts, differCosts = 24, 12

// alone are the halves that belong to no byte, by what the bytes then mean: of all ways to put neighbours together the likeliest.
func alone(list []half) (out []int) {
	best := make([]float64, len(list)+1)
	pairs := make([]bool, len(list)+1)
	for i := 1; i <= len(list); i++ {
		best[i] = best[i-1] - aloneCosts
		if i < 2 {
			continue
		}
		a, b := &list[i-2], &list[i-1]
		of := 0.0
		if !a.reads && !b.reads {
			of = capture.Evidence(4, a.rs, a.bits<<4|b.bits)
		}
		if a.rs != b.rs || a.reads != b.reads {
			of -= differCosts
		}
		if v := best[i-2] + of; v > best[i] {
			best[i], pairs[i] = v, true
		}
	}
	for i := len(list); i > 0; {
		if pairs[i] {
			i -= 2
			continue
		}
		i--
		out = append([]int{i}, out...)
	}
	return out
}

// outOfStep says where the halves of bytes came out of step with the controller, and how many bytes it misreads by that.
func (r *Replay) outOfStep() (out []finding.Finding) {
	for i := range r.halves {
		list := r.halves[i]
		for n, k := range alone(list) {
			if k+2 >= len(list) || list[k+1].opens { // the controller reads on in step, or nothing comes after
				continue
			}
			misread := 0
			for j := k + 1; j < len(list) && !list[j].opens; j += 2 {
				misread++
			}
			if n > 0 && misread == 0 {
				continue
			}
			out = append(out, at(list[k].at, finding.Finding{
				Code: "capture.halves", Severity: finding.Error, What: fmt.Sprintf("The halves of bytes are out of step from %s on: one comes without its other. The controller misreads %d bytes.", rig.Duration(list[k].at), misread),
				Why: "On four lines a byte comes in two strobes; a strobe that is lost, or one too many, turns high and low halves over from there on.", Fix: "Initialise the module anew: three times 0011 on D7 to D4 bring it in step. Then look for what drops or adds a strobe: a long wire, a poor ground, a reset of the host alone.",
				Source: "HD44780U data sheet, ADE-207-272(Z), figure 24",
			}))
		}
	}
	return out
}
