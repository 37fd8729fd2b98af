// Package glyph is the user's own characters: 5×8 patterns in the eight slots of
// CGRAM, and patterns drawn for characters that a ROM lacks.
//
// It stands above charrom in the flow screen → cells → operations → wire
// traffic → rig → glass: screens ask it for patterns, sequences load its banks.
package glyph

import "fmt"

// Slots is how many patterns of 5×8 dots CGRAM holds, data sheet
// ADE-207-272(Z), "Character generator RAM".
const Slots = 8

// Glyph is a pattern in a slot, as a bench keeps it.
type Glyph struct {
	Slot int    `json:"slot" minimum:"0" maximum:"7" doc:"CGRAM place; the code that shows it"`
	Name string `json:"name" maxLength:"40" doc:"what it shows, such as é or bell"`
	Rows []int  `json:"rows" nullable:"false" minItems:"8" maxItems:"11" doc:"dots, top row first, 0–31; bit 4 is the leftmost dot; rows 9–11 are of the 5×10 font"`
}

// New returns a glyph of a pattern.
func New(slot int, name string, p Pattern) Glyph { return Glyph{slot, name, p.Ints()} }

// Ints returns the rows of a pattern as documents keep them: 8, or 11 where rows
// of the 5×10 font are lit.
func (p Pattern) Ints() []int {
	rows := p[:]
	if [MaxRows - Rows]byte(p[Rows:]) == [MaxRows - Rows]byte{} {
		rows = p[:Rows]
	}
	out := make([]int, len(rows))
	for i, bits := range rows {
		out[i] = int(bits)
	}
	return out
}

// FromInts returns the pattern of rows as documents keep them.
func FromInts(rows []int) (p Pattern) {
	for i := range min(len(p), len(rows)) {
		p[i] = byte(rows[i]) & 0x1F
	}
	return p
}

// Pattern returns the glyph's dots.
func (g *Glyph) Pattern() Pattern { return FromInts(g.Rows) }

// Title names the glyph for people.
func (g *Glyph) Title() string {
	if g.Name == "" {
		return "an unnamed glyph"
	}
	return "'" + g.Name + "'"
}

// Bank is the glyphs of a module, at most one a slot, in any order.
type Bank []Glyph

// Validate reports the first glyph that cannot be, and what would be right.
func (b Bank) Validate() error {
	taken := [Slots]bool{}
	for i, g := range b {
		switch {
		case g.Slot < 0 || g.Slot >= Slots:
			return fmt.Errorf("glyph %d is in slot %d; CGRAM has slots 0–7", i+1, g.Slot)
		case taken[g.Slot]:
			return fmt.Errorf("slot %d holds two glyphs; each needs its own", g.Slot)
		}
		if err := CheckRows(g.Rows); err != nil {
			return fmt.Errorf("the glyph in slot %d: %w", g.Slot, err)
		}
		taken[g.Slot] = true
	}
	return nil
}

// CheckRows reports rows of dots that cannot be a glyph's.
func CheckRows(rows []int) error {
	if len(rows) < Rows || len(rows) > MaxRows {
		return fmt.Errorf("%d rows of dots; expected 8, or up to 11 with the 5×10 font", len(rows))
	}
	for i, bits := range rows {
		if bits < 0 || bits > 0x1F {
			return fmt.Errorf("row %d is %d; expected 0–31, a bit a dot", i+1, bits)
		}
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

// Holds returns the slot that holds a pattern and can be shown; step is as in
// Place.
func (b Bank) Holds(p Pattern, step int) (slot int, ok bool) {
	for _, g := range b {
		if g.Pattern() == p && g.Slot%step == 0 {
			return g.Slot, true
		}
	}
	return 0, false
}

// Place returns the slot for a pattern: the one that holds it already, or the
// first that is free among every step-th; false where all are taken. step is 1,
// or 2 with the 5×10 font, whose glyphs take two slots each.
func (b Bank) Place(p Pattern, step int) (slot int, ok bool) {
	if slot, ok := b.Holds(p, step); ok {
		return slot, true
	}
	return b.Free(step)
}

// Free returns the first slot that holds nothing among every step-th; false where all are taken.
func (b Bank) Free(step int) (slot int, ok bool) {
	for slot := 0; slot < Slots; slot += step {
		if _, taken := b.In(slot); !taken {
			return slot, true
		}
	}
	return 0, false
}
