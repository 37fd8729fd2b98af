package bench

import (
	"cmp"
	"math"

	"periph.io/x/conn/v3/physic"

	"slatebell/core/module"
)

// What a module is wired up with where nothing else is said (common practice).
const (
	UsualPotOhm   = 10_000
	UsualLightOhm = 220
)

// Fitting is the parts that a module without a backpack is wired up with.
type Fitting struct {
	Contrast   string   `json:"contrast,omitempty" enum:"pot,ground" doc:"what gives VO its voltage: a potentiometer, or ground; absent: pot"`
	PotOhm     int      `json:"potOhm,omitempty" minimum:"0" maximum:"10000000" doc:"of the potentiometer, in ohms; absent: 10000"`
	Turn       *float64 `json:"turn,omitempty" minimum:"0" maximum:"1" doc:"of its knob: 0 with VO at ground, 1 with VO at VDD; absent: where the module reads well"`
	LightOhm   *float64 `json:"lightOhm,omitempty" minimum:"0" maximum:"100000" doc:"in series with the backlight, in ohms; 0: none, as the module carries one; absent: 220"`
	LightMV    int      `json:"lightMV,omitempty" minimum:"0" maximum:"6000" doc:"forward voltage of the backlight, in millivolts; absent: usual of its colour"`
	LightMA    float64  `json:"lightMA,omitempty" minimum:"0" maximum:"1000" doc:"current that the backlight ought to have, in milliamperes; absent: usual of its colour"`
	OnBoardOhm int      `json:"onBoardOhm,omitempty" minimum:"0" maximum:"100000" doc:"resistor of the backlight that the module carries, in ohms; absent: none"`
	Beside     bool     `json:"beside,omitempty" doc:"the module lies beside the breadboard, on jumpers; absent: plugged into it"`
}

// Pot returns the potentiometer's resistance, or 0 where VO is at ground.
func (f *Fitting) Pot() physic.ElectricResistance {
	if f.Contrast == "ground" {
		return 0
	}
	return physic.ElectricResistance(cmp.Or(f.PotOhm, UsualPotOhm)) * physic.Ohm
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
