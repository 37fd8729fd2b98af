package module

import (
	"math"
	"slatebell/core/part/hd44780"

	"periph.io/x/conn/v3/physic"
)

// Voltages of the liquid crystal. The threshold and its width are ours, set so
// that a module at 5 V reads best with 4.2–4.8 V between VDD and VO at 25 °C, and is
// dark with its cells faintly shaded, yet readable, with VO at ground (common practice).
const (
	crystalThreshold = 1.2365 // V RMS at which a dot is half dark
	crystalWidth     = 0.0145 // V RMS: how sharply it turns
	usualStep        = 0.90   // V: a step of the bias ladder at which text reads well

	room  = 25.0  // °C at which the threshold holds
	drift = 0.004 // by which part of itself it falls with each kelvin (common practice)
)

// bias is the number of steps of the ladder that the module carries: five for a
// module of two lines, four for one of one line (data sheet ADE-207-272(Z),
// "Duty factor and power supply for liquid crystal display drive", from memory).
func (m *Module) bias() float64 {
	if m.Geometry.TwoLine {
		return 5
	}
	return 4
}

// UsualContrast is the contrast, as Look takes it, at which the module reads
// well: VO at 0.5 V for two lines fed 5 V, and below ground at 3.3 V.
func (m *Module) UsualContrast() float64 {
	return m.bias() * usualStep * float64(physic.Volt) / float64(m.Fed())
}

// VO is the voltage of the contrast input at a contrast; it may be below ground.
func (m *Module) VO(contrast float64) physic.ElectricPotential {
	return m.Fed() - physic.ElectricPotential(contrast*float64(m.Fed()))
}

// ContrastAt is the part of VDD that lies between VDD and VO where VO has a voltage: 0 with VO at VDD, 1 at
// ground, at most 2 below it; 0 where nothing feeds the module.
func (m *Module) ContrastAt(vo physic.ElectricPotential) float64 { return ContrastOf(vo, m.Fed()) }

// ContrastOf is ContrastAt for a module that is fed another voltage.
func ContrastOf(vo, fed physic.ElectricPotential) float64 {
	if fed <= 0 {
		return 0
	}
	return min(max(float64(fed-vo)/float64(fed), 0), 2)
}

// Look is how strongly dots stand out, 0 (invisible) to 1.
type Look struct {
	Lit    float64 // dots that are on
	Dark   float64 // dots that are off but scanned
	Unused float64 // dots of a line that the duty does not scan
}

// Look computes what dots look like. contrast is the liquid crystal's voltage
// VDD − VO as a part of VDD, above 1 where VO is below ground; duty is the
// number of scanned dot lines (8, 11 or 16); brightness is a VFD's, in quarters
// below full (0–3).
//
// For an LCD the RMS voltages are those of multiplexed drive with bias 1/a and
// duty 1/n: V/a·√((a²+n−1)/n) on a lit dot and V/a·√(((a−2)²+n−1)/n) on a dark
// one (Alt and Pleshko, IEEE Trans. Electron Devices ED-21, 1974, from memory).
// A module of two lines that is reset to one scans 1/8 duty with the voltage
// and bias meant for 1/16, so that its dark dots turn half dark: the row of
// blocks before initialisation.
func (m *Module) Look(contrast float64, duty int, brightness uint8) Look {
	if m.Technology == VFD {
		return Look{Lit: 1 - 0.25*float64(brightness&3)}
	}
	volts := contrast * float64(m.Fed()) / float64(physic.Volt)
	n, a := float64(duty), m.bias()
	step := volts / a
	dark := func(rms float64) float64 { return 1 / (1 + math.Exp((crystalThreshold-rms)/crystalWidth)) }
	return Look{
		Lit:    dark(step * math.Sqrt((a*a+n-1)/n)),
		Dark:   dark(step * math.Sqrt(((a-2)*(a-2)+n-1)/n)),
		Unused: dark(step),
	}
}

// What reads well: lit dots at least this strong, dark ones at most that.
const readsLit, readsDark = 0.9, 0.1

// Window is the range of VO in which the module's text reads well at a temperature in
// °C, with its usual duty; false where there is none. It may reach below ground.
func (m *Module) Window(celsius float64) (low, high physic.ElectricPotential, ok bool) {
	duty := hd44780.Duty(m.Geometry.TwoLine, false)
	warm := 1 - drift*(celsius-room)
	const step = 0.002
	for c := 0.0; c <= 2; c += step {
		look := m.Look(c/warm, duty, 0)
		if look.Lit < readsLit || look.Dark > readsDark {
			continue
		}
		v := m.VO(c)
		if !ok {
			high = v
		}
		low, ok = v, true
	}
	return low, high, ok
}
