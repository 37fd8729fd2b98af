package fault

import (
	"periph.io/x/conn/v3/physic"

	"slatebell/core/part/charrom"
	"slatebell/core/part/circuit"
	"slatebell/core/part/hd44780"
	"slatebell/core/part/module"
	"slatebell/core/wire/link"
)

// joined is what the wires come to at the header.
type joined struct {
	drives   link.Drives
	dead     bool // not fed
	shorted  bool // supply and ground are joined: nothing is fed, the host neither
	reversed bool
	vdd      int32     // mV against VSS
	vo       int32     // mV against VSS; where lines give it, voLines says which
	voLines  link.Pins // that VO hangs on
	floating bool      // VO has nothing but the module's ladder
	bare     bool      // the backlight has no resistor
}

// divider is the contrast potentiometer with the module's own ladder.
func (st *state) divider() *circuit.Divider {
	return &circuit.Divider{Supply: st.fed(), Pot: st.pot.ohm, Load: st.s.Module.Ladder()}
}

func (st *state) fed() physic.ElectricPotential {
	return physic.ElectricPotential(st.supplyMV) * physic.MilliVolt
}

// at is what comes to each pin of the header as it is plugged in, with its shorts.
func (st *state) at(h *header) (pins [maxPins]feed) {
	n := len(h.names)
	for i := range n {
		hole := i + int(st.offset)
		if st.turned {
			hole = n - 1 - hole
		}
		if hole < 0 || hole >= n {
			continue
		}
		f := st.holes[hole]
		if st.groundRail || st.bus.GND {
			f.ground, f.sink = false, false
		}
		if st.supplyRail || st.bus.VCC {
			f.supply, f.lamp = false, false
		}
		pins[i] = f
	}
	if st.shorts == 0 {
		return pins
	}
	for i := 0; i+1 < n; i++ { // a run of pins that are joined is one conductor
		if st.shorts>>i&1 == 0 {
			continue
		}
		last := i
		var all feed
		for ; last < n && (last == i || st.shorts>>(last-1)&1 != 0); last++ {
			all = all.with(pins[last])
		}
		for j := i; j < last; j++ {
			f := all
			for k := i; k < last; k++ {
				f.pulling = f.pulling || k != j && link.Pins(1)<<h.lines[k]&(hd44780.DataPins|hd44780.RS|hd44780.RW) != 0
			}
			pins[j] = f
		}
		i = last - 1
	}
	return pins
}

// join works out what the wires come to.
func (st *state) join(h *header) (j joined) {
	pins := st.at(h)
	var vss, vdd, vo, a, k feed
	vo.wiper = true // of a header without VO
	for i, name := range h.names {
		f := pins[i]
		if f.ground && f.supply {
			j.shorted = true
		}
		switch name {
		case "VSS":
			vss = f
		case "VDD":
			vdd = f
		case "VO":
			vo = f
		case "A":
			a = f
		case "K":
			k = f
		case "NC":
		default:
			st.drive(&j.drives, int(h.lines[i]), f)
		}
	}
	if _, lit := h.index["A"]; !lit {
		a, k = feed{supply: true}, feed{ground: true} // a VFD shines by itself
	}
	if st.apart { // no level of the host means anything to the module
		for i := range j.drives.From[:link.LineBL] {
			j.drives.From[i] = 0
		}
	}
	fed := vdd.supply || vdd.lamp
	j.reversed = vss.supply && vdd.ground
	j.dead = !fed || !vss.ground || vdd.ground || vss.supply || j.shorted
	if !j.dead {
		j.vdd = st.supplyMV
		if !vdd.supply { // through the backlight's resistor
			j.vdd -= int32(float64(st.s.Fitting.Light) / float64(physic.Ohm))
		}
	}
	st.contrast(&j, vo)
	st.light(&j, a, k)
	return j
}

// drive says what drives a pin.
func (st *state) drive(d *link.Drives, i int, f feed) {
	bit := link.Pins(1) << i
	d.From[i] = f.lines
	low := f.ground || f.wiper && st.wiperVolts() < 1500*physic.MilliVolt
	switch {
	case low:
		d.Ground |= bit
		d.From[i] = 0
	case f.supply || f.lamp || f.wiper || f.pulling:
		d.High |= bit
	}
}

// wiperVolts is the potentiometer's voltage by itself.
func (st *state) wiperVolts() physic.ElectricPotential {
	d := circuit.Divider{Supply: st.fed(), Pot: st.pot.ohm}
	switch {
	case st.pot.low == atSupply:
		return st.fed()
	case st.pot.high == atGround:
		return 0
	}
	return d.At(st.pot.turn)
}

// contrast works out VO.
func (st *state) contrast(j *joined, vo feed) {
	switch {
	case vo.ground:
		j.vo = 0
	case vo.supply || vo.lamp:
		j.vo = st.supplyMV
	case vo.lines != 0:
		j.voLines = vo.lines
	case vo.wiper:
		j.vo = st.wiperMV()
	default:
		j.vo, j.floating = st.supplyMV, true
	}
}

// wiperMV is VO where the potentiometer gives it, loaded by the module's ladder.
func (st *state) wiperMV() int32 {
	switch p := &st.pot; {
	case p.turn == 0 && p.low == atGround && p.high == atSupply: // or below ground, where the module needs it there
		return min(int32(st.s.Module.VO(st.s.Fitting.Contrast)/physic.MilliVolt), 0)
	case p.low == atSupply && p.high == atSupply:
		return st.supplyMV
	case p.low == atGround && p.high == atGround: // both halves to ground, against the ladder
		half := p.turn * (1 - p.turn) * float64(p.ohm)
		return int32(float64(st.supplyMV) * half / (half + float64(st.s.Module.Ladder())))
	}
	return int32(st.divider().At(st.pot.turn) / physic.MilliVolt)
}

// light says what the backlight has, as the pin BL of a link.
func (st *state) light(j *joined, a, k feed) {
	if st.bus.jumper || j.shorted || !a.supply && !a.lamp || a.ground {
		return
	}
	lamp, light := &st.s.Fitting.Lamp, st.s.Fitting.Light
	j.bare = a.supply && !a.lamp && light > 0 && lamp.Current(st.fed(), 0) > 2*lamp.Rated
	switch {
	case k.ground:
		j.drives.High |= link.Backlight
	case k.sink && !st.apart:
		j.drives.From[link.LineBL] = link.Backlight
	}
}

// contrastOf is the part of VDD between VDD and VO, as module.Look takes it.
func (j *joined) contrastOf(lines link.Pins) float64 {
	if j.dead || j.vdd <= 0 {
		return 0
	}
	vo := j.vo
	if j.voLines != 0 {
		vo = 0 // low wins
		if j.voLines&^lines == 0 {
			vo = j.vdd
		}
	}
	return module.ContrastOf(circuit.MilliVolts(int(vo)), circuit.MilliVolts(int(j.vdd)))
}

// real is the module as it really is.
func (st *state) real(j *joined) module.Module {
	m := st.s.Module
	if st.slow {
		m.Oscillator = hd44780.MinOscillator
	}
	if st.rom > 0 {
		m.ROM, _ = charrom.ByName(charrom.Names()[st.rom-1])
	}
	if j.vdd > 0 {
		m.Supply = physic.ElectricPotential(j.vdd) * physic.MilliVolt
	}
	return m
}
