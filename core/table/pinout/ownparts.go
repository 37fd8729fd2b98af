package pinout

import (
	"cmp"
	"fmt"

	"periph.io/x/conn/v3/physic"

	"slatebell/core/bench"
	"slatebell/core/bench/edit"
	"slatebell/core/finding"
	"slatebell/core/part/circuit"
	"slatebell/core/part/host"
	"slatebell/core/say"
)

// ownUses notes the host's pins that parts of the maker's own are on.
func ownUses(b *bench.Bench, board *host.Board, note func(label string, u Use)) {
	for i := range b.Parts {
		p := &b.Parts[i]
		for k := range p.Pins {
			if label := p.Pins[k].Line(board); label != "" {
				note(label, Use{Path: fmt.Sprintf("/parts/%d", i), Name: cmp.Or(p.Name, p.ID), Line: p.Pins[k].Name, At: edit.SetPartPin{Part: i, Pin: k}.Path(), Module: -1, Input: -1, Part: i, Pin: k})
			}
		}
	}
}

// onAnother returns the remedy that joins a pin of a part to the first pin of the host that is free; nil where none is.
func onAnother(b *bench.Bench, part, pin int) []finding.Remedy {
	free := Free(b)
	if len(free) == 0 {
		return nil
	}
	return []finding.Remedy{edit.Remedy(b, "Join it to "+free[0].Label, edit.SetPartPin{Part: part, Pin: pin, To: free[0].Label})}
}

// judgeParts finds pins of parts of the maker's own that the host has not, that need care, and whose levels and
// currents do not go together.
func judgeParts(b *bench.Bench) (out []finding.Finding) {
	board := b.Host.Board()
	if len(board.Pins) == 0 {
		return nil
	}
	for i := range b.Parts {
		part := &b.Parts[i]
		name := cmp.Or(part.Name, part.ID)
		for k := range part.Pins {
			pin := &part.Pins[k]
			label := pin.Line(&board)
			if label == "" {
				continue
			}
			state := func(code string, severity finding.Severity, what, why, fix string, remedies []finding.Remedy) {
				out = append(out, finding.Finding{Code: code, Severity: severity, Path: edit.SetPartPin{Part: i, Pin: k}.Path(), What: what, Why: why, Fix: fix, Source: board.Source, Remedies: remedies})
			}
			called := fmt.Sprintf("%s of “%s”", pin.Name, name)
			p, there := board.Find(label)
			if !there {
				state("part.no-such-pin", finding.Error, fmt.Sprintf("%s is joined to %s, which is neither GND, 5V nor 3V3, nor a pin of this host.", called, pin.To), "", "Choose another pin.", onAnother(b, i, k))
				continue
			}
			high := circuit.MilliVolts(pin.HighMV)
			mA := physic.ElectricCurrent(pin.CurrentMA*1000) * physic.MicroAmpere
			switch {
			case !pin.Drives && !p.Drives() || pin.Drives && !p.Listens():
				state("part.pin-unfit", finding.Error, fmt.Sprintf("%s is on pin %s, which cannot %s it.", called, p.Label, map[bool]string{true: "read", false: "drive"}[pin.Drives]), "", "Choose another pin.", onAnother(b, i, k))
				continue
			case p.Has(host.Upload):
				state("part.pin-upload", finding.Warning, fmt.Sprintf("%s is on pin %s, which the loader uses.", called, p.Label), "An upload reaches the part, and the part may disturb it.", "Choose another pin, or unplug the wire for every upload.", onAnother(b, i, k))
			case p.Has(host.Strap):
				state("part.pin-strap", finding.Warning, fmt.Sprintf("%s is on pin %s, which is read when the host starts.", called, p.Label), "The part may make it start otherwise, or not at all.", "Choose another pin.", onAnother(b, i, k))
			}
			switch {
			case pin.Drives && high > board.MaxPinVoltage:
				state("part.too-high", finding.Error, fmt.Sprintf("%s gives %s, and the host’s pins bear %s.", called, say.Volts(high), say.Volts(board.MaxPinVoltage)), "It may kill the pin.", "Divide it by two resistors (1 kΩ above, 2 kΩ to ground make 3.3 V of 5 V), or take a level converter.", nil)
			case pin.Drives && high > 0 && high < board.In.High:
				state("part.too-low", finding.Warning, fmt.Sprintf("%s gives %s, and the host takes %s and above for high.", called, say.Volts(high), say.Volts(board.In.High)), "Its high may be read as low.", "Take a level converter.", nil)
			case !pin.Drives && high > board.Out.High:
				state("part.too-low", finding.Warning, fmt.Sprintf("%s takes %s and above for high, and the host gives %s.", called, say.Volts(high), say.Volts(board.Out.High)), "It may not see the host’s high.", "Take a level converter.", nil)
			}
			if board.Pin > 0 && mA > board.Pin {
				state("part.too-much", finding.Error, fmt.Sprintf("%s takes %s from pin %s, which gives %s.", called, say.Amperes(mA), p.Label, say.Amperes(board.Pin)), "The level falls, and beyond the absolute limit the pin dies.", "Switch it by a transistor, with a diode across a coil or motor; feed motors from a supply of their own, with a common ground.", nil)
			}
		}
	}
	return out
}
