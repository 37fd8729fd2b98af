// Package glyph is the user's own characters: 5×8 patterns in the eight slots of
// CGRAM, and patterns drawn for characters that a ROM lacks.
//
// It stands above charrom in the flow screen → cells → operations → wire
// traffic → rig → glass: screens ask it for patterns, sequences load its banks.
package glyph

import (
	"fmt"

	"slatebell/core/charrom"
)

// Slots is how many patterns of 5×8 dots CGRAM holds, data sheet
// ADE-207-272(Z), "Character generator RAM".
const Slots = 8

// Glyph is a pattern in a slot, as a bench keeps it.
type Glyph struct {
	Slot int    `json:"slot" minimum:"0" maximum:"7" doc:"CGRAM place; the code that shows it"`
	Name string `json:"name" maxLength:"40" doc:"what it shows, such as é or bell"`
	Rows []int  `json:"rows" nullable:"false" minItems:"8" maxItems:"8" doc:"dots, top row first, 0–31; bit 4 is the leftmost dot"`
}

// New returns a glyph of a pattern.
func New(slot int, name string, d charrom.Dots) Glyph {
	g := Glyph{Slot: slot, Name: name, Rows: make([]int, len(d))}
	for i, bits := range d {
		g.Rows[i] = int(bits)
	}
	return g
}

// Dots returns the pattern; rows that it lacks are dark.
func (g *Glyph) Dots() (d charrom.Dots) {
	for i := range min(len(d), len(g.Rows)) {
		d[i] = byte(g.Rows[i]) & 0x1F
	}
	return d
}

// Title names the glyph for people.
func (g *Glyph) Title() string {
	if g.Name == "" {
		return "an unnamed glyph"
	}
	return "'" + g.Name + "'"
}

// Bank is the glyphs of a module, at most one a slot, in any order.
type Bank []Glyph

// Validate reports the first glyph that cannot be, and what would be right. step
// is as in Place.
func (b Bank) Validate(step int) error {
	taken := [Slots]bool{}
	for i, g := range b {
		switch {
		case g.Slot < 0 || g.Slot >= Slots:
			return fmt.Errorf("glyph %d is in slot %d; CGRAM has slots 0–7", i+1, g.Slot)
		case g.Slot%step != 0:
			return fmt.Errorf("a glyph is in slot %d; with 5×10 dots it takes two slots, expected 0, 2, 4 or 6", g.Slot)
		case taken[g.Slot]:
			return fmt.Errorf("slot %d holds two glyphs; each needs its own", g.Slot)
		case len(g.Rows) != 8:
			return fmt.Errorf("the glyph in slot %d has %d rows of dots; expected 8", g.Slot, len(g.Rows))
		}
		for row, bits := range g.Rows {
			if bits < 0 || bits > 0x1F {
				return fmt.Errorf("slot %d, row %d is %d; expected 0–31, a bit a dot", g.Slot, row, bits)
			}
		}
		taken[g.Slot] = true
	}
	return nil
}

// In returns the glyph in a slot.
func (b Bank) In(slot int) (Glyph, bool) {
	for _, g := range b {
		if g.Slot == slot {
			return g, true
		}
	}
	return Glyph{}, false
}

// Place returns the slot for a pattern: the one that holds it already, or the
// first that is free among every step-th; false where all are taken. step is 1,
// or 2 with the 5×10 font, whose glyphs take two slots each.
func (b Bank) Place(d charrom.Dots, step int) (slot int, ok bool) {
	for _, g := range b {
		if g.Dots() == d {
			return g.Slot, true
		}
	}
	for slot := 0; slot < Slots; slot += step {
		if _, taken := b.In(slot); !taken {
			return slot, true
		}
	}
	return 0, false
}
