package replay

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"slatebell/core/part/hd44780"
	"slatebell/core/prove/capture"
	"slatebell/core/say"
)

// Why says what of the traffic speaks for the lines that were found.
func (r *Replay) Why() string {
	characters, instructions, ignored, lost := 0, 0, 0, 0
	for i := range r.Operations {
		op := &r.Operations[i]
		switch {
		case op.Lost:
			lost++
		case op.RW:
		case op.Kind() == hd44780.WriteData:
			if ch, ok := r.module.ROM.Rune(op.Byte); ok && ch > ' ' {
				characters++
			}
		case op.Byte == 0:
			ignored++
		default:
			instructions++
		}
	}
	parts := []string{fmt.Sprintf("%d %s that a controller knows", instructions, say.Plural(instructions, "instruction")), fmt.Sprintf("%d %s of its ROM", characters, say.Plural(characters, "character"))}
	if !r.Within {
		parts = append([]string{"an initialisation at its beginning"}, parts...)
	}
	out := "By these lines it holds " + say.List(parts)
	if ignored > 0 {
		out += fmt.Sprintf(", and %d that it ignores", ignored)
	}
	if lost > 0 {
		out += fmt.Sprintf("; %d come too early", lost)
	}
	return out + "."
}

// Other is another way to read a recording.
type Other struct {
	Share float64 // of what is likely, 0–1
	Index int     // among Found
}

// Others are the ways to read a recording beside the likeliest that are not quite unlikely.
func (r *Recording) Others() (out []Other) {
	all := 0.0
	for i := range r.Found {
		all += math.Exp(r.Found[i].Score - r.Found[0].Score)
	}
	for i := 1; i < len(r.Found) && len(out) < mostOthers; i++ {
		if share := math.Exp(r.Found[i].Score-r.Found[0].Score) / all; share >= leastShare {
			out = append(out, Other{share, i})
		}
	}
	return out
}

// Of other ways to read a recording: how many are told, and how likely they must be.
const mostOthers, leastShare = 3, 0.001

// rolesIn are the roles of lines in the order of capture.Roles.
func rolesIn(l capture.Lines) []capture.Role {
	return slices.DeleteFunc(capture.Roles(), func(r capture.Role) bool { return !l.Has(r) })
}

// LinesOf names the lines of one of the ways to read a recording, with its channels.
func (r *Recording) LinesOf(i int) string {
	var parts []string
	for _, role := range rolesIn(r.Found[i].Lines) {
		name := r.Names[r.Found[i].Lines[role]]
		if name == "" {
			name = fmt.Sprintf("channel %d", r.Found[i].Lines[role])
		}
		parts = append(parts, fmt.Sprintf("%s=%s", role, name))
	}
	return strings.Join(parts, ", ")
}
