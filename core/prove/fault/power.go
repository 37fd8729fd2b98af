package fault

import (
	"fmt"

	"periph.io/x/conn/v3/physic"

	"slatebell/core/part/hd44780"
	"slatebell/core/part/module"
	"slatebell/core/say"
	"slatebell/core/wire/link"
)

// supply lists what can be wrong with supply, contrast and light.
func (l *lister) supply() {
	s, st := l.s, &l.x.base
	ground, vdd := []string{"VSS"}, []string{"VDD"}
	if s.soldered() {
		ground, vdd = []string{"GND"}, []string{"VCC"}
	}
	l.grouped("supply", "supply.rail", []string{"ground"}, ground, func(st *state) { st.groundRail = true })
	l.grouped("supply", "supply.rail", []string{"supply"}, vdd, func(st *state) { st.supplyRail = true })
	if s.Module.Fed() > 4500*physic.MilliVolt {
		l.grouped("supply", "supply.3v3", nil, vdd, func(st *state) { st.supplyMV = 3300 })
	}
	common := l.grouped("supply", "supply.common", nil, ground, func(st *state) { st.apart = true })
	if !s.Apart {
		common.Weight /= 3
	}
	if s.Module.Technology == module.VFD {
		l.add("vfd.link", nil, nil, func(st *state) { st.serial = true })
		return
	}
	if s.Fitting.Pot > 0 {
		pin := []string{"VO"}
		l.grouped("contrast", "contrast.low", nil, pin, func(st *state) { st.pot.turn = 1 })
		l.grouped("contrast", "contrast.high", nil, pin, func(st *state) { st.pot.turn = 0 })
		l.grouped("contrast", "contrast.weak", nil, pin, func(st *state) { st.pot.turn = weakTurn(st) })
		if !s.soldered() {
			for _, r := range []physic.ElectricResistance{100_000 * physic.Ohm, 250_000 * physic.Ohm, 1_000_000 * physic.Ohm} {
				l.grouped("contrast", "contrast.pot", []string{say.Ohms(r)}, pin, func(st *state) { st.pot.ohm = r }).ID = fmt.Sprintf("contrast.pot:%dk", r/physic.KiloOhm)
			}
			l.grouped("contrast", "contrast.ground", nil, pin, func(st *state) { st.pot.high = atGround })
			l.grouped("contrast", "contrast.supply", nil, pin, func(st *state) { st.pot.low = atSupply })
		}
	}
	lamp := []string{"A", "K"}
	if s.soldered() {
		l.grouped("light", "light.jumper", nil, lamp, func(st *state) { st.bus.jumper = true })
	} else if a, lit := l.x.header.index["A"]; lit && s.Fitting.Light > 0 {
		f := l.grouped("light", "light.bare", nil, []string{"A"}, func(st *state) { st.holes[a].supply, st.holes[a].lamp = true, false })
		f.alone = st.holes[a].supply
	}
	if s.driven()&link.Backlight != 0 && !s.Module.Unlit {
		l.grouped("light", "light.program", nil, lamp, func(st *state) { st.program.dark = true })
	}
}

// weakTurn is a turn of the knob at which characters are hardly to be seen.
func weakTurn(st *state) float64 {
	m := st.s.Module
	duty := hd44780.Duty(m.Geometry.TwoLine, false)
	low, high := 0.0, st.s.Fitting.Contrast // where the characters begin to show lies between
	for high-low > 1e-4 {
		if mid := (low + high) / 2; m.Look(mid, duty, 0).Lit < 0.5 {
			low = mid
		} else {
			high = mid
		}
	}
	return st.divider().TurnFor(m.VO(high))
}
