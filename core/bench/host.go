package bench

import (
	"cmp"
	"strings"

	"periph.io/x/conn/v3/physic"

	"slatebell/core/part/host"
	"slatebell/core/part/i2cbus"
)

// UsualBusHz is the clock of a bus that says nothing else: standard mode,
// UM10204 rev. 7.
const UsualBusHz = 100_000

// UsualPullUpOhm is the pull-up on a backpack that says nothing else (common
// practice).
const UsualPullUpOhm = 4700

// UsualWireCM is the length of wire that a part on the bus is joined by, where
// nothing else is said: a jumper of the usual set (common practice).
const UsualWireCM = 20

// Host is the microcontroller board.
type Host struct {
	Part    string      `json:"part,omitempty" maxLength:"40" doc:"designation, such as ATmega328P"`
	BearsMV int         `json:"bearsMV,omitempty" minimum:"0" maximum:"6000" doc:"highest voltage that its pins bear, in millivolts; absent: what its part bears, 5000 for one that is not known"`
	Supply  HostFeed    `json:"supply,omitzero"`
	Plugged bool        `json:"plugged,omitempty" doc:"it is plugged into the breadboard; absent: it lies beside"`
	Pins    []HostPin   `json:"pins,omitempty" nullable:"false" maxItems:"120" doc:"pins of the user's own host"`
	Facts   HostFigures `json:"facts,omitzero" doc:"of the user's own host; absent members are not known"`
}

// HostFigures is what a user knows of a host of their own.
type HostFigures struct {
	PinMA       int    `json:"pinMA,omitempty" minimum:"0" maximum:"2000" doc:"what a pin gives as a rule, in milliamperes"`
	PinMaxMA    int    `json:"pinMaxMA,omitempty" minimum:"0" maximum:"2000" doc:"what it bears at most"`
	AllMA       int    `json:"allMA,omitempty" minimum:"0" maximum:"20000" doc:"over all pins"`
	OwnMA       int    `json:"ownMA,omitempty" minimum:"0" maximum:"20000" doc:"what the board itself draws"`
	RegulatorMA int    `json:"regulatorMA,omitempty" minimum:"0" maximum:"20000" doc:"what its 3.3 V gives to others"`
	Bits        int    `json:"bits,omitempty" minimum:"0" maximum:"16" doc:"of its analogue-to-digital converter; absent: 10"`
	References  []int  `json:"referencesMV,omitempty" nullable:"false" maxItems:"4" doc:"voltages of its own that the converter can compare with, in millivolts"`
	Serial      string `json:"serial,omitempty" maxLength:"200" doc:"its serial lines, each a number with the labels of RX and TX, such as 0=RX/TX 1=5/4"`
}

// Board returns the board that a host is: of the table, with what the document
// says otherwise, or one that its user describes. A host that is not named is the
// usual.
func (h *Host) Board() host.Board {
	if b, ok := host.ByPart(cmp.Or(h.Part, host.Usual)); ok {
		if h.BearsMV != 0 {
			b.MaxPinVoltage = physic.ElectricPotential(h.BearsMV) * physic.MilliVolt
			b.In.MaxPinVoltage = b.MaxPinVoltage
		}
		return b
	}
	pins := make([]host.Pin, len(h.Pins))
	for i, p := range h.Pins {
		pins[i].Label = p.Label
		for _, can := range p.Can {
			if mark := host.Trait(strings.ToLower(can)); mark != "output" {
				pins[i].Marks = append(pins[i].Marks, mark)
			}
		}
	}
	b, f := host.Generic(h.Part, physic.ElectricPotential(cmp.Or(h.BearsMV, 5000))*physic.MilliVolt, pins), &h.Facts
	mA := func(n int) physic.ElectricCurrent { return physic.ElectricCurrent(n) * physic.MilliAmpere }
	b.Pin, b.PinMax, b.All, b.Own, b.Regulator, b.Bits = mA(f.PinMA), mA(f.PinMaxMA), mA(f.AllMA), mA(f.OwnMA), mA(f.RegulatorMA), f.Bits
	b.References = f.References
	b.Serial, _ = host.ParseSerial(f.Serial) // Validate says what is wrong with it
	return b
}

// HostFeed is where the host takes its current from.
type HostFeed struct {
	From    string `json:"from,omitempty" enum:"usb2,usb3,battery,supply"`
	LimitMA int    `json:"limitMA,omitempty" minimum:"0" maximum:"20000" doc:"what the source gives, in milliamperes; absent: what its kind gives"`
}

// HostPin is a pin of the user's own host.
type HostPin struct {
	Label string   `json:"label" minLength:"1" maxLength:"12" doc:"as printed on the board"`
	Can   []string `json:"can,omitempty" nullable:"false" maxItems:"12" doc:"what it can be: output, SDA, SCL; what it is beside: input (only), adc (a voltage is read), no-pull (no pull-up of its own), upload, strap, led, analog (only); absent: output"`
}

// Bus is the host's SDA and SCL with all on it.
type Bus struct {
	SDA           string       `json:"sda,omitempty" maxLength:"12" doc:"label of the host's pin; absent: the host's usual"`
	SCL           string       `json:"scl,omitempty" maxLength:"12"`
	SpeedHz       int          `json:"speedHz,omitempty" minimum:"0" maximum:"1000000" doc:"clock in hertz; absent: 100000"`
	PullUpOhm     int          `json:"pullUpOhm,omitempty" minimum:"0" maximum:"1000000" doc:"pull-ups of the bus itself, in ohms; absent: none"`
	WireCM        int          `json:"wireCM,omitempty" minimum:"0" maximum:"10000" doc:"wire of the whole bus, in centimetres; absent: 20 for each part on it"`
	Converter     bool         `json:"converter,omitempty" doc:"a two-way level converter stands between the host, with what is fed as it is, and whatever is fed more"`
	CapacitancePF int          `json:"capacitancePF,omitempty" minimum:"0" maximum:"10000" doc:"measured, in picofarads; absent: taken from wires and devices"`
	Multiplexer   *Multiplexer `json:"multiplexer,omitempty"`
}

// Multiplexer splits a bus into channels.
type Multiplexer struct {
	Part    string `json:"part" minLength:"1" maxLength:"40"`
	Address int    `json:"address" minimum:"0" maximum:"127" doc:"7-bit address"`
}

// BusPart returns the part that a device is: of the table, or one that its user
// describes. It reports whether anything says which addresses it can have; its
// error says what of them cannot be read.
func (d *Device) BusPart() (part i2cbus.Part, known bool, err error) {
	if p, ok := i2cbus.ByName(d.Part); ok {
		return p, true, nil
	}
	part = i2cbus.Unknown(cmp.Or(d.Part, "part not named"))
	if strings.TrimSpace(d.Addresses) == "" {
		return part, false, nil
	}
	list, err := i2cbus.ParseAddresses(d.Addresses)
	if err != nil {
		return part, false, err
	}
	part.What, part.Addresses = "of your own", list
	return part, true, nil
}

// Fed returns what feeds the device.
func (d *Device) Fed(board *host.Board) physic.ElectricPotential { return fed(d.SupplyMV, board) }

// Device is anything else on the bus.
type Device struct {
	ID        string  `json:"id" minLength:"1" maxLength:"40" pattern:"^[a-z0-9-]+$"`
	Name      string  `json:"name" maxLength:"80"`
	Part      string  `json:"part" maxLength:"40" doc:"designation, such as DS3231"`
	Address   int     `json:"address" minimum:"0" maximum:"127" doc:"7-bit address"`
	Fixed     bool    `json:"fixed,omitempty" doc:"its address cannot be changed, as where it is soldered on another board"`
	Addresses string  `json:"addresses,omitempty" maxLength:"200" doc:"of a part that is not in the table: those that it can have, in hexadecimal, such as 48-4B 53; absent: where it is"`
	Channel   int     `json:"channel,omitempty" minimum:"0" maximum:"8" doc:"of the multiplexer, counted from 1; absent: on the bus itself"`
	SupplyMV  int     `json:"supplyMV,omitempty" minimum:"0" maximum:"6000" doc:"what feeds it, in millivolts; absent: the host's logic voltage"`
	PullUpOhm int     `json:"pullUpOhm,omitempty" minimum:"0" maximum:"1000000" doc:"pull-ups on its board, in ohms; absent: none"`
	CurrentMA float64 `json:"currentMA,omitempty" minimum:"0" maximum:"5000" doc:"in milliamperes"`
}
