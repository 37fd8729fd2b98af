package facts

import (
	"slatebell/core/part/module"
	"slatebell/core/wire/rig"
	"slatebell/formats/program"
)

// ControllerState is a controller's registers.
type ControllerState struct {
	Address    int     `json:"address" doc:"address counter"`
	InCGRAM    bool    `json:"inCGRAM"`
	DisplayOn  bool    `json:"displayOn"`
	CursorOn   bool    `json:"cursorOn"`
	BlinkOn    bool    `json:"blinkOn"`
	FourBit    bool    `json:"fourBit"`
	TwoLine    bool    `json:"twoLine"`
	Tall       bool    `json:"tall"`
	Increment  bool    `json:"increment"`
	AutoShift  bool    `json:"autoShift"`
	Half       *int    `json:"half,omitempty" doc:"high nibble received, while its low one is awaited"`
	Offset     int     `json:"offset" doc:"display shift to the left, in characters"`
	BusyUs     float64 `json:"busyUs" doc:"µs for which it stays busy"`
	Brightness int     `json:"brightness" doc:"VFD: percent"`
	Addresses  []int   `json:"addresses" nullable:"false" doc:"DDRAM address of each of the 80 bytes"`
	Window     []int   `json:"window" nullable:"false" doc:"cell that shows each of the 80 bytes; -1 outside the window"`
	DDRAM      []byte  `json:"ddram" doc:"80 bytes"`
	CGRAM      []byte  `json:"cgram" doc:"64 bytes"`
}

// Controller is a controller of a module at a moment.
func Controller(m *module.Module, mo *rig.Moment, i int) ControllerState {
	c := &mo.Controllers[i]
	out := ControllerState{
		Address: int(c.AC), InCGRAM: c.InCGRAM, DisplayOn: c.DisplayOn, CursorOn: c.CursorOn, BlinkOn: c.BlinkOn, FourBit: c.FourBit,
		TwoLine: c.TwoLine, Tall: c.Tall, Increment: !c.Decrement, AutoShift: c.AutoShift, Offset: int(c.Offset),
		BusyUs: max(0, program.Microseconds(c.BusyUntil-mo.At)), Brightness: 100 - 25*int(c.Brightness),
		DDRAM: c.DDRAM[:], CGRAM: c.CGRAM[:], Addresses: make([]int, len(c.DDRAM)), Window: mo.Window(m, i),
	}
	if c.FourBit && c.Low {
		high := int(c.High >> 4)
		out.Half = &high
	}
	for place := range c.DDRAM {
		out.Addresses[place] = int(c.Address(place))
	}
	return out
}
