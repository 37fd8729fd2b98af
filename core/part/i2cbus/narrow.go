package i2cbus

import (
	"fmt"
	"slices"
	"strings"
)

// Evidence is what can be seen or tried of a backpack whose expander is not
// known.
type Evidence struct {
	Printed string    // PCF8574 or PCF8574A; "" where it cannot be read
	Pads    *Pads     // those that are closed; nil where that cannot be seen
	Answers []Address // to a scan with it alone on the bus; nil where none was made
}

// Backpack is an expander at an address.
type Backpack struct {
	Part Part
	At   Address
}

// Narrow lists the expanders that a backpack can be by the evidence. It is empty
// where the evidence contradicts itself.
func Narrow(e Evidence) []Backpack {
	var out []Backpack
	for _, part := range Expanders() {
		if e.Printed != "" && e.Printed != part.Name {
			continue
		}
		for _, a := range slices.Backward(part.Addresses) {
			if e.Pads != nil && PadsFor(a) != *e.Pads || len(e.Answers) > 0 && !slices.Contains(e.Answers, a) {
				continue
			}
			out = append(out, Backpack{part, a})
		}
	}
	return out
}

// Advice says what is known of a backpack by now, and what to look at next.
func Advice(e Evidence) (known, next string) {
	left := Narrow(e)
	var at []string
	parts := map[string]bool{}
	for _, b := range left {
		at = append(at, b.At.String())
		parts[b.Part.Name] = true
	}
	switch {
	case len(left) == 0:
		return "These do not go together.", "Look at the pads again, or scan with nothing else on the bus: a part that is no backpack may have answered."
	case len(left) == 1:
		return fmt.Sprintf("It is a %s at %s, pads closed: %s.", left[0].Part.Name, left[0].At, PadsFor(left[0].At)), "Plan it there."
	case len(parts) == 1:
		known = fmt.Sprintf("It is a %s, at one of %s.", left[0].Part.Name, strings.Join(at, ", "))
	case e.Pads != nil:
		known = fmt.Sprintf("It is at %s or, with the letter A in its name, at %s.", left[0].At, left[1].At)
	default:
		known = "It may be a PCF8574 (0x20–0x27) or a PCF8574A (0x38–0x3F)."
	}
	switch {
	case len(e.Answers) == 0:
		next = "A scan with it alone on the bus settles it: an address from 0x20 is a PCF8574, one from 0x38 a PCF8574A."
	case e.Pads == nil:
		next = "Look at the pads A0–A2 beside the chip: a bridged one counts 0, an open one 1."
	default:
		next = "Scan again with nothing else on the bus."
	}
	return known, next
}
