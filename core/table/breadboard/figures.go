package breadboard

import (
	"fmt"

	"periph.io/x/conn/v3/physic"

	"slatebell/core/bench"
	"slatebell/core/part/circuit"
	"slatebell/core/part/module"
	"slatebell/core/say"
)

// LightChoice is a resistor in series with a backlight, with what it gives.
type LightChoice struct {
	Name    string // the series that it is of, or what people use
	R       physic.ElectricResistance
	Current physic.ElectricCurrent
	Heat    physic.Power
	Bands   [4]string // empty for no resistor
	Over    string    // what is wrong with it, or ""
}

// LightFigures is a module's backlight resistor worked out.
type LightFigures struct {
	Backlight module.Backlight
	Supply    physic.ElectricPotential
	Wished    physic.ElectricCurrent
	Exact     physic.ElectricResistance
	Choices   []LightChoice
	Low       bool // the supply is below what the backlight needs
}

// Light works out the resistor for the current that a module's backlight ought to
// have, and what others give: the next preferred values, and those that people use.
// It reports false for a module without a backlight.
func Light(m *bench.Module) (LightFigures, bool) {
	mod, err := m.Display.Module()
	if err != nil || mod.Technology == module.VFD || mod.Unlit {
		return LightFigures{}, false
	}
	b := m.Backlight()
	f := LightFigures{Backlight: b, Supply: mod.Fed(), Wished: b.Rated, Exact: b.Resistor(mod.Fed(), b.Rated), Low: mod.Fed() <= b.Forward}
	add := func(name string, r physic.ElectricResistance) {
		c := LightChoice{Name: name, R: r, Current: b.Current(f.Supply, r)}
		c.Heat = module.Heat(c.Current, r)
		if r > 0 {
			c.Bands, _ = circuit.Bands(r)
		}
		switch {
		case c.Current > b.Rated*5/4:
			c.Over = fmt.Sprintf("%s is beyond the %s that this backlight is made for", say.Amperes(c.Current), say.Amperes(b.Rated))
		case c.Heat > module.UsualRating:
			c.Over = fmt.Sprintf("it turns %d mW into heat; a usual resistor bears 250 mW", c.Heat/physic.MilliWatt)
		}
		f.Choices = append(f.Choices, c)
	}
	once := func(name string, r physic.ElectricResistance) {
		for i := range f.Choices {
			if c := &f.Choices[i]; c.R == r {
				if c.Name != name {
					c.Name += ", " + name
				}
				return
			}
		}
		add(name, r)
	}
	if f.Exact > 0 {
		for _, s := range circuit.AllSeries {
			once(s.Name, s.Values.From(f.Exact))
		}
	}
	once("what most people take", bench.UsualLightOhm*physic.Ohm)
	once("what some take", 100*physic.Ohm)
	if own := m.Fitting.Light(); own > 0 {
		once(InSeries(own), own)
	}
	once("none", 0)
	return f, true
}

// InSeries says of which series of preferred values a resistance is, or which of them come
// nearest.
func InSeries(r physic.ElectricResistance) string {
	for _, s := range circuit.AllSeries {
		if s.Values.Has(r) {
			return s.Name
		}
	}
	down, up := circuit.E24.UpTo(r), circuit.E24.From(r)
	if down == up || down > r {
		return fmt.Sprintf("in no series: the nearest is %s", say.Ohms(up))
	}
	return fmt.Sprintf("in no series: the nearest are %s and %s", say.Ohms(down), say.Ohms(up))
}

// DividerCurve is VO over the turn of a potentiometer's knob.
type DividerCurve struct {
	Pot     physic.ElectricResistance
	VO      []physic.ElectricPotential // at turns from 0 to 1, evenly
	From    float64                    // where the glass begins to read well, and where it ends
	To      float64
	Current physic.ElectricCurrent // from end to end, for nothing
}

// Useful is the part of the turn in which the glass reads well.
func (d *DividerCurve) Useful() float64 { return d.To - d.From }

// ContrastFigures is a module's contrast worked out.
type ContrastFigures struct {
	Low, High  physic.ElectricPotential // VO in which the glass reads well, at 25 °C
	Cold, Warm [2]physic.ElectricPotential
	Curves     []DividerCurve
	Below      bool // it reads well with VO below ground only
}

// pots are the potentiometers that are compared (common practice: 10 kΩ is usual).
var pots = []physic.ElectricResistance{physic.KiloOhm, 10 * physic.KiloOhm, 50 * physic.KiloOhm, 250 * physic.KiloOhm}

// Contrast works out how VO follows the knob for several potentiometers, and how much
// of the turn is of use. It reports false for a module without a contrast input.
func Contrast(m *bench.Module) (ContrastFigures, bool) {
	mod, err := m.Display.Module()
	if err != nil || mod.Technology == module.VFD {
		return ContrastFigures{}, false
	}
	var f ContrastFigures
	f.Low, f.High, _ = mod.Window(25)
	f.Cold[0], f.Cold[1], _ = mod.Window(0)
	f.Warm[0], f.Warm[1], _ = mod.Window(40)
	f.Below = f.High <= 0
	list := pots
	if own := m.Fitting.Pot(); own > 0 && own != list[0] && own != list[1] && own != list[2] && own != list[3] {
		list = append(append([]physic.ElectricResistance{}, pots...), own)
	}
	const points = 41
	for _, pot := range list {
		d := circuit.Divider{Supply: mod.Fed(), Pot: pot, Load: mod.Ladder()}
		c := DividerCurve{Pot: pot, Current: d.Wasted()}
		for i := range points {
			c.VO = append(c.VO, d.At(float64(i)/(points-1)))
		}
		if !f.Below {
			c.From, c.To = d.TurnFor(f.Low), d.TurnFor(f.High)
		}
		f.Curves = append(f.Curves, c)
	}
	return f, true
}
