package module

import "math"

// Voltages of the liquid crystal. The threshold and its width are ours, set so
// that a module at 5 V reads well with VO near 0.5 V (common practice).
const (
	crystalThreshold = 1.20 // V RMS at which a dot is half dark
	crystalWidth     = 0.03 // V RMS: how sharply it turns
	biasLevels       = 5.0  // modules carry a 1/5 bias ladder whatever the duty
)

// Look is how strongly dots stand out, 0 (invisible) to 1.
type Look struct {
	Lit    float64 // dots that are on
	Dark   float64 // dots that are off but scanned
	Unused float64 // dots of a line that the duty does not scan
}

// Look computes what dots look like. contrast is the liquid crystal's voltage
// VDD − VO as a part of VDD, 0–1; duty is the number of scanned dot lines (8,
// 11 or 16); brightness is a VFD's, in quarters below full (0–3).
//
// For an LCD the RMS voltages are those of multiplexed drive with bias 1/a and
// duty 1/n: V/a·√((a²+n−1)/n) on a lit dot and V/a·√(((a−2)²+n−1)/n) on a dark
// one (Alt and Pleshko, IEEE Trans. Electron Devices ED-21, 1974, from memory).
// A module reset to one line scans 1/8 duty with the voltage meant for 1/16, so
// that its dark dots turn half dark: the row of blocks before initialisation.
func (m *Module) Look(contrast float64, duty int, brightness uint8) Look {
	if m.Technology == VFD {
		return Look{Lit: 1 - 0.25*float64(brightness&3)}
	}
	volts := contrast * 5
	if m.Supply > 0 {
		volts = contrast * float64(m.Supply) / 1e9
	}
	n, step := float64(duty), volts/biasLevels
	dark := func(rms float64) float64 { return 1 / (1 + math.Exp((crystalThreshold-rms)/crystalWidth)) }
	return Look{
		Lit:    dark(step * math.Sqrt((biasLevels*biasLevels+n-1)/n)),
		Dark:   dark(step * math.Sqrt(((biasLevels-2)*(biasLevels-2)+n-1)/n)),
		Unused: dark(step),
	}
}
