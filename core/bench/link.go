package bench

import (
	"cmp"
	"time"

	"periph.io/x/conn/v3/physic"

	"slatebell/core/part/module"
	"slatebell/core/wire/link"
)

// Link is how a module is joined to the host.
type Link struct {
	Kind      string            `json:"kind" enum:"backpack,parallel4,parallel8,shift"`
	Pins      map[string]string `json:"pins,omitempty" doc:"label of the host's pin for each line, such as RS or data; absent: not chosen yet"`
	ReadWrite bool              `json:"readWrite,omitempty" doc:"parallel: R/W is joined to the host"`
	Waits     string            `json:"waits,omitempty" enum:"worst,typical,poll" doc:"absent: worst"`
	PinNS     int               `json:"pinNs,omitempty" minimum:"0" maximum:"1000000" doc:"parallel: nanoseconds between two changes of the host's pins; absent: 1000"`
	HostMV    int               `json:"hostMV,omitempty" minimum:"0" maximum:"6000" doc:"highest voltage that the pins of this link bear, in millivolts, where it is not the host's"`
	Outputs   Outputs           `json:"outputs" doc:"of an expander or shift register"`
}

// Outputs is how an expander or shift register is addressed and driven.
type Outputs struct {
	Address      int           `json:"address" minimum:"0" maximum:"127" doc:"7-bit I²C address of the backpack"`
	Backlight    bool          `json:"backlight"`
	Channel      int           `json:"channel,omitempty" minimum:"0" maximum:"8" doc:"backpack: channel of the bus's multiplexer, counted from 1; absent: on the bus itself"`
	PullUpOhm    *int          `json:"pullUpOhm,omitempty" minimum:"0" maximum:"1000000" doc:"backpack: pull-ups on its board, in ohms; 0: removed; absent: 4700"`
	Mapping      *link.Mapping `json:"mapping,omitempty" doc:"which output drives which line; absent: the usual"`
	SpeedHz      int           `json:"speedHz,omitempty" minimum:"0" maximum:"20000000" doc:"clock in hertz where it is not the bus's, or of a shift register; absent: the bus's, or 500000"`
	Transactions string        `json:"transactions,omitempty" enum:"byte,operation,screen" doc:"backpack; absent: screen"`
	Setup        string        `json:"setup,omitempty" enum:"lawful,before,with-e" doc:"how RS and data precede E; absent: lawful"`
}

// Build builds the link to a module's header on a bus; Validate of package link
// says whether it can be.
func (l *Link) Build(g *module.Geometry, bus *Bus) link.Link {
	o := &l.Outputs
	out := link.New(link.Kind(l.Kind))
	out.Address, out.Backlight = uint8(min(max(o.Address, 0), 255)), o.Backlight
	out.Enables = max(g.Controllers, 1)
	out.PinTime = time.Duration(l.PinNS)
	hz := o.SpeedHz
	if out.Kind == link.Backpack {
		hz = cmp.Or(hz, bus.SpeedHz, UsualBusHz)
	}
	if hz != 0 {
		out.Speed = physic.Frequency(hz) * physic.Hertz
	}
	if o.Mapping != nil {
		out.Mapping = *o.Mapping
	} else if out.Enables == 2 {
		out.Mapping.E2, out.Mapping.Backlight = out.Mapping.Backlight, link.Open
	}
	if o.Transactions != "" {
		out.Grouping = link.Grouping(o.Transactions)
	}
	if o.Setup != "" {
		out.Setup = link.Setup(o.Setup)
	}
	switch out.ReadWrite = l.ReadWrite; out.Kind {
	case link.Backpack:
		out.ReadWrite = out.Mapping.RW != link.Open
	case link.ShiftReg:
		out.ReadWrite = false // a 74HC595 has no inputs
	}
	return out
}

// MaxPinVoltage returns the highest voltage that the pins of a link to the host bear.
func (l *Link) MaxPinVoltage(h *Host) physic.ElectricPotential {
	if l.HostMV != 0 {
		return physic.ElectricPotential(l.HostMV) * physic.MilliVolt
	}
	return h.Board().MaxPinVoltage
}
