package wiring

import (
	"cmp"
	"fmt"
	"slatebell/core/say"

	"periph.io/x/conn/v3/physic"
)

// ownParts joins the parts that their maker describes.
func (k *builder) ownParts() {
	board := k.b.Host.Board()
	for i := range k.b.Parts {
		doc := &k.b.Parts[i]
		if len(doc.Pins) == 0 {
			continue
		}
		p := Part{ID: k.id("own-" + doc.ID), Kind: Own, Name: cmp.Or(doc.Name, doc.ID), For: "A part of your own.", Look: "Read the labels beside its pins: they stand here as you gave them, and may lie otherwise.", Path: fmt.Sprintf("/parts/%d", i), Module: -1}
		for _, pin := range doc.Pins {
			out := Pin{Name: pin.Name}
			if pin.HighMV > 0 {
				v := say.Volts(physic.ElectricPotential(pin.HighMV) * physic.MilliVolt)
				out.Level = map[bool]string{true: "high is " + v, false: "high from " + v + " on"}[pin.Drives]
			}
			switch {
			case pin.Rail() == "GND":
				out.For = "Ground."
			case pin.Rail() != "":
				out.For = "Supply."
			case pin.To == "":
				out.For = "Stays open."
			case pin.Drives:
				out.For = "Drives the host’s pin."
			default:
				out.For = "Driven by the host."
			}
			p.Pins = append(p.Pins, out)
		}
		k.add(p)
		for n := range doc.Pins {
			pin := &doc.Pins[n]
			switch rail := pin.Rail(); {
			case rail != "":
				k.join(rail, rail, p.Pin(pin.Name))
			case pin.To != "":
				k.line(-1, pin.Line(&board), p.Name+" "+pin.Name, p.Pin(pin.Name))
			}
		}
	}
}
