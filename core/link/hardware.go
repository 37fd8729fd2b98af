package link

// Hardware is what is wrong between a program and the header pins. The zero
// value is sound hardware.
type Hardware struct {
	Lost    int  // word of the program that never reaches the pins, counted from 1; 0 for none
	Deaf    bool // nothing acknowledges the program's address, so that no pin moves
	Crossed Pins // two data lines whose wires are swapped for what is written; 0 for none
}

// Arrives reports whether a word of the program, counted from 0, reaches the pins.
func (h *Hardware) Arrives(word int) bool { return !h.Deaf && word+1 != h.Lost }

// Behind returns the levels as they come through the wires: where two crossed
// lines differ, both turn over.
func (h *Hardware) Behind(p Pins) Pins {
	if both := p & h.Crossed; both != 0 && both != h.Crossed {
		p ^= h.Crossed
	}
	return p
}
