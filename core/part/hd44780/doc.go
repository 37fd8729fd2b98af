// Package hd44780 is the controller behind a character module: its instruction
// set, its times, and the chip itself as a machine driven by the levels of its
// pins.
//
// It is the ground floor of the flow screen → cells → operations → wire traffic
// → rig → glass: it knows bytes, pins and nanoseconds, and nothing of modules,
// links or text. Figures are from the HD44780U data sheet, ADE-207-272(Z),
// unless a comment says otherwise; they are stated from memory of it (see
// docs/sources.md).
package hd44780
