package power

import (
	"cmp"
	"fmt"

	"periph.io/x/conn/v3/physic"

	"slatebell/core/bench"
	"slatebell/core/bench/edit"
	"slatebell/core/finding"
	"slatebell/core/part/circuit"
	"slatebell/core/part/module"
	"slatebell/core/say"
	"slatebell/core/wire/link"
)

// judgeLights finds backlights whose resistor gives them more than they are made for, turns
// more into heat than it bears, or leaves them dark.
func judgeLights(b *bench.Bench) (out []finding.Finding) {
	for i := range b.Modules {
		m := &b.Modules[i]
		mod, err := m.Display.Module()
		if err != nil || mod.Technology != module.LCD || mod.Unlit || m.Link.Kind == string(link.Backpack) {
			continue
		}
		light, r := m.Backlight(), m.Fitting.Light()
		current, path, name := m.LightCurrent(), fmt.Sprintf("/modules/%d/fitting", i), cmp.Or(m.Name, m.ID)
		through := "without a resistor"
		if r > 0 {
			through = "through " + say.Ohms(r)
		}
		if heat := module.Heat(current, r); heat > module.UsualRating {
			out = append(out, finding.Finding{
				Code: "module.backlight-heat", Severity: finding.Warning, Path: path,
				What: fmt.Sprintf("The backlight resistor of %s, %s, turns %d mW into heat; a usual one bears %d mW.", name, say.Ohms(r), heat/physic.MilliWatt, module.UsualRating/physic.MilliWatt),
				Why:  "It grows too hot to touch, and burns in time.", Fix: "Take a resistor made for more, two in series, or a larger value.", Source: "common practice",
			})
		}
		switch {
		case beyond(current, light.Rated):
			f := finding.Finding{
				Code: "module.backlight-current", Severity: finding.Error, Path: path,
				What: fmt.Sprintf("The backlight of %s draws %s %s; it is made for %s.", name, say.Amperes(current), through, say.Amperes(light.Rated)),
				Why:  "It is destroyed within minutes, and the supply with it where that gives less.", Fix: "Put a resistor in series with A, unless the module carries one: say so then.", Source: "common practice",
			}
			if best := circuit.E12.From(light.Resistor(mod.Fed(), light.Rated)); best > 0 && best > r {
				f.Remedies = append(f.Remedies, edit.Remedy(b, fmt.Sprintf("Take %s: %s", say.Ohms(best), say.Amperes(light.Current(mod.Fed(), best))), edit.SetFitting{Module: i, Fitting: withLight(m.Fitting, best)}))
			}
			out = append(out, f)
		case mod.Fed() <= light.Forward:
			out = append(out, finding.Finding{
				Code: "module.backlight-dark", Severity: finding.Note, Path: path,
				What: fmt.Sprintf("The backlight of %s stays dark: it needs %s, and is fed %s.", name, say.Volts(light.Forward), say.Volts(mod.Fed())),
				Fix:  "Feed the backlight from 5 V, with a resistor of its own, or read the glass by the light of the room.", Source: "common practice",
			})
		}
	}
	return out
}

// beyond reports whether a current is a quarter above what a backlight is made for.
func beyond(current, rated physic.ElectricCurrent) bool { return current > rated*5/4 }

// withLight is a fitting with another resistor before the backlight.
func withLight(f bench.Fitting, r physic.ElectricResistance) bench.Fitting {
	ohm := float64(r/physic.MilliOhm) / 1000
	f.LightOhm = &ohm
	return f
}
