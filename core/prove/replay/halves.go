package replay

import (
	"fmt"
	"time"

	"slatebell/core/finding"
	"slatebell/core/prove/capture"
	"slatebell/core/say"
	"slatebell/core/wire/rig"
)

// half is what one strobe takes on four lines.
type half struct {
	capture.Half
	at    time.Duration
	opens bool // the controller took it for the first half of a byte, or for a byte by itself
}

// outOfStep says where the halves of bytes came out of step with the controller, and how many bytes it misreads by that.
func (r *Replay) outOfStep() (out []finding.Finding) {
	for i := range r.halves {
		list := r.halves[i]
		plain := make([]capture.Half, len(list))
		for k := range list {
			plain[k] = list[k].Half
		}
		for _, k := range capture.Alone(plain) {
			if k+2 >= len(list) || list[k+1].opens { // the controller reads on in step, or nothing comes after
				continue
			}
			misread := 0
			for j := k + 1; j < len(list) && !list[j].opens; j += 2 {
				misread++
			}
			out = append(out, at(list[k].at, finding.Finding{
				Code: "capture.halves", Severity: finding.Error, What: fmt.Sprintf("The halves of bytes are out of step from %s on: one comes without its other. The controller misreads %d %s.", rig.Duration(list[k].at), misread, say.Plural(misread, "byte")),
				Why: "On four lines a byte comes in two strobes; a strobe that is lost, or one too many, turns high and low halves over from there on.", Fix: "Initialise the module anew: three times 0011 on D7 to D4 bring it in step. Then look for what drops or adds a strobe: a long wire, a poor ground, a reset of the host alone.",
				Source: "HD44780U data sheet, ADE-207-272(Z), figure 24",
			}))
		}
	}
	return out
}
