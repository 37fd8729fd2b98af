// Package facts has what the answers of several subjects hold: a glass as it looks, a field's values,
// what something costs on the wire, addresses in every form.
package facts

import (
	"fmt"

	"periph.io/x/conn/v3/physic"

	"slatebell/core/part/charrom"
	"slatebell/core/part/hd44780"
	"slatebell/core/part/i2cbus"
	"slatebell/core/prove/run"
	"slatebell/core/prove/transition"
	"slatebell/core/text/field"
	"slatebell/core/text/screen"
	"slatebell/core/wire/rig"
	"slatebell/formats/program"
)

// Glass is what the module shows.
type Glass struct {
	Cols     int      `json:"cols"`
	Rows     int      `json:"rows"`
	CellRows int      `json:"cellRows" doc:"rows of dots of a cell: 8, or 11 with the 5×10 font"`
	Short    bool     `json:"short,omitempty" doc:"of cells with 11 rows the first 8 only are scanned"`
	On       bool     `json:"on" doc:"the display is on"`
	Light    bool     `json:"light" doc:"the backlight is fed"`
	Dots     []byte   `json:"dots" doc:"cellRows bytes a cell, row by row; bit 4 is the leftmost dot"`
	Codes    []byte   `json:"codes" doc:"a byte a cell"`
	Text     []string `json:"text" nullable:"false" doc:"the rows as characters"`
	Lit      float64  `json:"lit" doc:"how strongly dots that are on stand out, 0–1"`
	Dark     float64  `json:"dark" doc:"the same of dots that are off"`
	Other    *Blink   `json:"other,omitempty" doc:"the glass's other side while something blinks"`
	Bare     []bool   `json:"bare,omitempty" nullable:"false" doc:"cells whose line is not scanned; absent where all are"`
}

func GlassOf(g rig.Glass, rom *charrom.ROM) Glass {
	out := Glass{Cols: g.Cols, Rows: g.Rows, CellRows: g.CellRows, Short: g.Short, On: g.On, Light: g.Light, Text: g.Text(rom), Lit: g.Look.Lit, Dark: g.Look.Dark,
		Dots: make([]byte, 0, g.CellRows*len(g.Cells)), Codes: make([]byte, 0, len(g.Cells))}
	for i, c := range g.Cells {
		out.Dots = append(out.Dots, c.Dots[:]...)
		out.Dots = append(out.Dots, c.Below[:g.CellRows-len(c.Dots)]...)
		out.Codes = append(out.Codes, c.Code)
		if !c.Scanned {
			if out.Bare == nil {
				out.Bare = make([]bool, len(g.Cells))
			}
			out.Bare[i] = true
		}
	}
	return out
}

// GlassAt draws a moment, with its other side where something blinks.
func GlassAt(r *run.Run, mo *rig.Moment) Glass {
	out := GlassOf(mo.Glass(&r.Module, r.Contrast), r.Module.ROM)
	phase := hd44780.BlinkPhase(r.Module.Oscillator)
	for i := range r.Module.Geometry.Controllers {
		if mo.Controllers[i].BlinkOn && mo.Controllers[i].DisplayOn {
			later := mo.BlinkAt(mo.At + phase)
			out.Other = &Blink{Dots: GlassOf(later.Glass(&r.Module, r.Contrast), r.Module.ROM).Dots, PhaseMs: program.Microseconds(phase) / 1000}
		}
	}
	return out
}

// WireCost is what sending something takes.
type WireCost struct {
	Operations int     `json:"operations" doc:"instructions and data"`
	Data       int     `json:"data" doc:"of these, bytes to memory"`
	Words      int     `json:"words" doc:"on the wire"`
	WireUs     float64 `json:"wireUs" doc:"the wire in use, µs"`
	DoneUs     float64 `json:"doneUs" doc:"until the controller is free again, µs"`
}

func CostOf(c transition.Cost) WireCost {
	return WireCost{c.Operations, c.Data, c.Words, program.Microseconds(c.Wire), program.Microseconds(c.Done)}
}

// FieldFacts is what a field shows, and what it can show.
type FieldFacts struct {
	Now      FieldValue   `json:"now" doc:"its sample; no text for a bar and a cursor's place"`
	Longest  FieldValue   `json:"longest"`
	Shortest FieldValue   `json:"shortest"`
	Over     []FieldValue `json:"over" nullable:"false" doc:"the first values that do not fit, on either side of zero"`
}

// FieldsOf describes the fields of a layout.
func FieldsOf(fields []field.Field, l *screen.Layout) []FieldFacts {
	out := make([]FieldFacts, len(l.Fields))
	for i, s := range l.Fields {
		f := &fields[i]
		out[i] = FieldFacts{Now: ValueOf(f, field.Case{Value: f.Sample, Text: s.Text}), Longest: ValueOf(f, s.Longest), Shortest: ValueOf(f, s.Shortest), Over: []FieldValue{}}
		for _, c := range s.Over {
			out[i].Over = append(out[i].Over, ValueOf(f, c))
		}
	}
	return out
}

func MilliVolts(v physic.ElectricPotential) int { return int(v / physic.MilliVolt) }

func MilliAmperes(i physic.ElectricCurrent) float64 { return float64(i/physic.MicroAmpere) / 1000 }

func Ohms(r physic.ElectricResistance) int { return int((r + physic.Ohm/2) / physic.Ohm) }

func Addresses(list []i2cbus.Address) []int {
	out := make([]int, len(list))
	for i, a := range list {
		out[i] = int(a)
	}
	return out
}

// Forms is an address in every form that is met.
type Forms struct {
	Value   int    `json:"value"`
	Hex     string `json:"hex"`
	Decimal string `json:"decimal"`
	Binary  string `json:"binary"`
	Write   string `json:"write" doc:"the byte that begins a write"`
	Read    string `json:"read" doc:"the byte that begins a read"`
}

func Address(a i2cbus.Address) Forms {
	return Forms{int(a), a.String(), fmt.Sprint(int(a)), fmt.Sprintf("0b%07b", int(a)), fmt.Sprintf("0x%02X", a.Write()), fmt.Sprintf("0x%02X", a.Read())}
}

func AllForms(list []i2cbus.Address) []Forms {
	out := make([]Forms, len(list))
	for i, a := range list {
		out[i] = Address(a)
	}
	return out
}

// Blink is the other side of a glass that blinks.
type Blink struct {
	Dots    []byte  `json:"dots" doc:"as in the glass"`
	PhaseMs float64 `json:"phaseMs" doc:"how long each side shows, in milliseconds"`
}

// FieldValue is a value and what it is written as.
type FieldValue struct {
	Value string `json:"value"`
	Text  string `json:"text"`
	Len   int    `json:"len" doc:"cells"`
	Shown string `json:"shown" doc:"what stands in the field then"`
}

func ValueOf(f *field.Field, c field.Case) FieldValue {
	return FieldValue{c.Value, c.Text, c.Len(), string(f.Shows(c.Text))}
}
