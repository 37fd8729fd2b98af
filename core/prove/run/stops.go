package run

import (
	"fmt"
	"strconv"
	"strings"
)

// Stops returns the steps (0-based) after which a run is to stop, and in words
// what was looked for. text is a step's number counted from 1 ("12" or "step
// 12"), a DDRAM address that the address counter comes to ("0x40" or "address
// 40"), or a part of a step's meaning. Steps that are not there, and addresses
// beyond 0x7F, are errors; a text that nothing matches is not.
func (r *Run) Stops(text string) (steps []int, sought string, err error) {
	word := strings.ToLower(strings.Join(strings.Fields(text), " "))
	if word == "" {
		return nil, "", nil
	}
	if n, err := strconv.Atoi(strings.TrimPrefix(word, "step ")); err == nil {
		if n < 1 || n > len(r.Program.Steps) {
			return nil, "", fmt.Errorf("step %d; this run has steps 1–%d", n, len(r.Program.Steps))
		}
		return []int{n - 1}, fmt.Sprintf("step %d", n), nil
	}
	if hex, ok := cutAddress(word); ok {
		a, err := strconv.ParseUint(hex, 16, 7)
		if err != nil {
			return nil, "", fmt.Errorf("address %q; expected a DDRAM address such as 0x40, at most 0x7F", hex)
		}
		return r.reaches(uint8(a)), fmt.Sprintf("the address counter comes to 0x%02X", a), nil
	}
	for i := range r.Program.Steps {
		if strings.Contains(strings.ToLower(r.Program.Steps[i].Meaning), word) {
			steps = append(steps, i)
		}
	}
	return steps, fmt.Sprintf("“%s” in a step's meaning", strings.TrimSpace(text)), nil
}

// cutAddress returns the digits of "0x40", "address 40" or "address 0x40".
func cutAddress(word string) (hex string, ok bool) {
	rest, named := strings.CutPrefix(word, "address ")
	hex, prefixed := strings.CutPrefix(rest, "0x")
	return hex, named || prefixed
}

// reaches returns the steps that bring a controller's address counter to a
// DDRAM address at which it was not before.
func (r *Run) reaches(addr uint8) (steps []int) {
	for i := range r.Program.Steps {
		before, after := &r.Moments[i], &r.Moments[i+1]
		for c := range r.Module.Geometry.Controllers {
			was, is := &before.Controllers[c], &after.Controllers[c]
			if !is.InCGRAM && is.AC == addr && (was.InCGRAM || was.AC != addr) {
				steps = append(steps, i)
				break
			}
		}
	}
	return steps
}
