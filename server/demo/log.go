package demo

import (
	"fmt"
	"time"

	"slatebell/core/bench/logbook"
)

// log is what was written down while the tide board was built.
func log() []logbook.Entry {
	var out []logbook.Entry
	at := time.Date(2026, time.October, 3, 9, 12, 0, 0, time.UTC)
	add := func(after time.Duration, kind logbook.EntryKind, module, text string, causes ...string) *logbook.Entry {
		at = at.Add(after)
		out = append(out, logbook.Entry{At: at, Kind: kind, Module: module, Text: text, Causes: causes})
		return &out[len(out)-1]
	}
	const minute, day = time.Minute, 24 * time.Hour
	add(0, logbook.Scanned, "", "The scan found 0x20: Lamps on the jetty; 0x27: Gate board; 0x68: Boathouse clock.")
	add(6*minute, logbook.Lit, "gate", "Row of blocks: A row of solid blocks in the first line: the module is alive, and not initialised yet.")
	add(4*minute, logbook.Measured, "gate", "Contrast (planned 500 mV):").Value = &logbook.Value{Name: "VO", Amount: 520, Unit: "mV"}
	add(20*minute, logbook.Seen, "gate", "Nothing after the second upload, the row of blocks stays.")
	add(3*minute, logbook.Tried, "gate", "Scan the bus: 0x3F (63) in place of 0x27: the board from the spares box is an A type.")
	add(2*minute, logbook.Found, "gate", "The expander has another address than the program uses: 0x3F. (0x3F)", "bus.address")
	add(1*minute, logbook.Changed, "gate", "Took the board with the PCF8574 instead; the spare goes back into the box, marked.")
	add(day, logbook.Lit, "hall", "No short: More than 100 Ω.")
	add(2*minute, logbook.Measured, "hall", "Supply (planned 5000 mV):").Value = &logbook.Value{Name: "VDD", Amount: 4940, Unit: "mV"}
	add(15*minute, logbook.Seen, "hall", "Garbage in the first row, the others empty.")
	add(4*minute, logbook.Found, "hall", "The wires of D6 and D7 are exchanged. (D6 and D7)", "wire.swapped")
	add(1*minute, logbook.Changed, "hall", "Exchanged the wires of D6 and D7: all four rows stand.")
	add(40*minute, logbook.Note, "hall", "Solder fumes hang under the eaves; next time with the slip door open.")
	add(2*day, logbook.Found, "slip", "The wire of E is open: nothing arrives at its pin. (E)", "wire.open")
	add(2*minute, logbook.Changed, "slip", "New jumper for E; the old one had lost its sleeve.")
	for i, r := range []logbook.Round{
		{Level: 1, Right: true, Minutes: 6.4, Best: 1.4, Score: 32}, {Level: 1, Right: true, Minutes: 3.1, Best: 1.4, Score: 59},
		{Level: 2, Right: false, Minutes: 9.5, Best: 3.2}, {Level: 1, Topic: "supply", Right: true, Minutes: 2.2, Best: 1.9, Score: 91}, {Level: 2, Right: true, Minutes: 4.6, Best: 3.5, Score: 80},
	} {
		said := "Found"
		if !r.Right {
			said = "Not found"
		}
		add(time.Duration(20+7*i)*minute, logbook.Practice, "hall", fmt.Sprintf("%s: %d of 100, %.1f min (the best plan: %.1f min).", said, r.Score, r.Minutes, r.Best)).Round = &r
	}
	return out
}
