package module

import "periph.io/x/conn/v3/physic"

// Needs is what a module needs to be fed with.
type Needs struct {
	Min, Max physic.ElectricPotential
	Current  physic.ElectricCurrent // of the whole module at full brightness, backlight on
	Bare     physic.ElectricCurrent // without a backlight; the same as Current on a VFD
	Note     string
	Source   string
}

// Currents of the trade, all common practice: a bare LCD module draws about
// 1 mA, a 16×2 with backpack and backlight about 23 mA, which is 0.7 mA a cell
// beyond the bare module; a VFD about 5 mA a cell at full brightness.
const (
	bareCurrent  = physic.MilliAmpere
	lightPerCell = 700 * physic.MicroAmpere
	vfdPerCell   = 5 * physic.MilliAmpere
)

// PortCurrent is what a USB 2.0 port gives a device that has not asked for
// more: 100 mA (USB 2.0 specification, §7.2.1, from memory).
const PortCurrent = 100 * physic.MilliAmpere

// Needs returns the figures of the module's technology and size. They help to
// choose a supply; the module's own sheet decides.
func (m *Module) Needs() Needs {
	cells := physic.ElectricCurrent(m.Geometry.Cells())
	if m.Technology == VFD {
		current := cells * vfdPerCell
		return Needs{
			Min: 4750 * physic.MilliVolt, Max: 5250 * physic.MilliVolt, Current: current, Bare: current,
			Note:   "A VFD has no contrast input and no backlight. Its converter makes tens of volts on the board, and draws more at start.",
			Source: "common practice",
		}
	}
	if m.Unlit {
		return Needs{
			Min: 4700 * physic.MilliVolt, Max: 5300 * physic.MilliVolt, Current: bareCurrent, Bare: bareCurrent,
			Note: "It has no backlight: it is read by the light of the room.", Source: "common practice",
		}
	}
	return Needs{
		Min: 4700 * physic.MilliVolt, Max: 5300 * physic.MilliVolt, Current: bareCurrent + cells*lightPerCell, Bare: bareCurrent,
		Note:   "The backlight draws nearly all of it, through its own resistor.",
		Source: "common practice",
	}
}
