package bench

import (
	"cmp"
	"math"

	"periph.io/x/conn/v3/physic"

	"slatebell/core/part/circuit"
	"slatebell/core/part/module"
	"slatebell/core/wire/link"
)

// What a module is wired up with where nothing else is said (common practice).
const (
	UsualPotOhm   = 10_000
	UsualLightOhm = 220
	UsualVOOhm    = 1200 // with the usual ladder of a module of two lines it gives about 0.5 V
)

// Fitting is the parts that a module without a backpack is wired up with.
type Fitting struct {
	Contrast   string   `json:"contrast,omitempty" enum:"pot,ground,resistor" doc:"what gives VO its voltage: a potentiometer, ground, or a fixed resistor to ground; absent: pot"`
	VOOhm      float64  `json:"voOhm,omitempty" minimum:"0" maximum:"100000" doc:"of the fixed resistor from VO to ground, in ohms; absent: 1200"`
	PotOhm     int      `json:"potOhm,omitempty" minimum:"0" maximum:"10000000" doc:"of the potentiometer, in ohms; absent: 10000"`
	Turn       *float64 `json:"turn,omitempty" minimum:"0" maximum:"1" doc:"of its knob: 0 with VO at ground, 1 with VO at VDD; absent: where the module reads well"`
	LightOhm   *float64 `json:"lightOhm,omitempty" minimum:"0" maximum:"100000" doc:"in series with the backlight, in ohms; 0: none, as the module carries one; absent: 220"`
	LightMV    int      `json:"lightMV,omitempty" minimum:"0" maximum:"6000" doc:"forward voltage of the backlight, in millivolts; absent: usual of its colour"`
	LightMA    float64  `json:"lightMA,omitempty" minimum:"0" maximum:"1000" doc:"current that the backlight ought to have, in milliamperes; absent: usual of its colour"`
	OnBoardOhm int      `json:"onBoardOhm,omitempty" minimum:"0" maximum:"100000" doc:"resistor of the backlight that the module carries, in ohms; absent: none"`
	Soldered   bool     `json:"soldered,omitempty" doc:"its backpack, or its header, is soldered to it already"`
	Beside     bool     `json:"beside,omitempty" doc:"the module lies beside the breadboard, on jumpers; absent: plugged into it"`
}

// Pot returns the potentiometer's resistance, or 0 where VO has none.
func (f *Fitting) Pot() physic.ElectricResistance {
	if f.Contrast == "ground" || f.Contrast == "resistor" {
		return 0
	}
	return physic.ElectricResistance(cmp.Or(f.PotOhm, UsualPotOhm)) * physic.Ohm
}

// Fixed returns the resistor from VO to ground, 0 where there is none.
func (f *Fitting) Fixed() physic.ElectricResistance {
	if f.Contrast != "resistor" {
		return 0
	}
	return physic.ElectricResistance(math.Round(cmp.Or(f.VOOhm, UsualVOOhm)*1000)) * physic.MilliOhm
}

// PlannedVO returns the voltage that a module's fitting gives VO, and whether it is the
// fitting that says so: VO at ground, a resistor to ground against the module's own ladder, or
// a potentiometer whose knob was turned.
func (m *Module) PlannedVO() (vo physic.ElectricPotential, said bool) {
	mod, err := m.Display.Module()
	if err != nil || mod.Technology != module.LCD || m.Link.Kind == string(link.Backpack) {
		return 0, false
	}
	f := &m.Fitting
	ladder := float64(mod.Ladder())
	switch {
	case f.Contrast == "ground":
		return 0, true
	case f.Contrast == "resistor":
		r := float64(f.Fixed())
		return physic.ElectricPotential(float64(mod.Fed()) * r / (r + ladder)), true
	case f.Turn != nil:
		d := circuit.Divider{Supply: mod.Fed(), Pot: f.Pot(), Load: mod.Ladder()}
		return d.At(*f.Turn), true
	}
	return 0, false
}

// Light returns the resistor in series with the backlight, 0 where there is none.
func (f *Fitting) Light() physic.ElectricResistance {
	if f.LightOhm == nil {
		return UsualLightOhm * physic.Ohm
	}
	return physic.ElectricResistance(math.Round(*f.LightOhm*1000)) * physic.MilliOhm
}

// LightCurrent is what the backlight of a module draws that is joined by its own header,
// through its resistor; 0 of one that has none. Finding, rail and panel all take it from here.
func (m *Module) LightCurrent() physic.ElectricCurrent {
	mod, err := m.Display.Module()
	if err != nil || mod.Technology != module.LCD || mod.Unlit {
		return 0
	}
	b := m.Backlight()
	return b.Current(mod.Fed(), m.Fitting.Light())
}

// Backlight returns what lights a module, with the figures that the document states.
func (m *Module) Backlight() module.Backlight {
	b := module.UsualBacklight(m.Display.Tint)
	f := &m.Fitting
	if f.LightMV > 0 {
		b.Forward = physic.ElectricPotential(f.LightMV) * physic.MilliVolt
	}
	if f.LightMA > 0 {
		b.Rated = physic.ElectricCurrent(f.LightMA*1000) * physic.MicroAmpere
	}
	b.Carried = physic.ElectricResistance(f.OnBoardOhm) * physic.Ohm
	return b
}
