package touch

import (
	"cmp"
	"fmt"
	"math"

	"periph.io/x/conn/v3/physic"

	"slatebell/core/bench"
	"slatebell/core/bench/show"
	"slatebell/core/table/pinout"
	"slatebell/core/table/wiring"
)

// Level is what a program takes a pin's level for.
type Level uint8

// The levels.
const (
	Open   Level = iota // as while nothing is pressed
	Closed              // as while it is pressed
	Floats              // nothing holds it: it keeps what it was
)

// Volts is what a meter reads at a pin; a pin that floats has none.
type Volts struct {
	V      physic.ElectricPotential
	Floats bool
}

func (v Volts) String() string {
	if v.Floats {
		return "wanders"
	}
	return fmt.Sprintf("%.1f V", math.Abs(float64(v.V)/float64(physic.Volt)))
}

// Line is what a program reads of an input, as it is wired. The zero Line is one that works.
type Line struct {
	Kind  show.Kind
	Works bool
	// Button, counter of one contact: what it is taken for at rest and while it is used.
	Rest, Used Level
	// Rotary encoder: by how much a notch counts, 1, −1 or 0.
	Turns int
	// Signal: what its pin reads at the least, in the middle and at the most, 0 to 1; nothing holds it where Floats.
	Reads  [3]float64
	Floats bool
	// What a meter reads at its pin at rest and while it is used: pressed, at the most.
	AtRest, InUse Volts

	wired *wiredSignal
}

// wiredSignal is a signal whose reading is not what it ought to be.
type wiredSignal struct {
	circuit *Circuit
	act     wiring.Act
	scale   show.Scale
	most    int64
}

// Line works out what a program reads of an input of a module. It is false for one that is on no pin.
func (c *Circuit) Line(module, input int) (Line, bool) {
	in := &c.bench.Modules[module].Show.Inputs[input]
	acts := c.Acts(module, input)
	if len(acts) == 0 || in.Pin == "" {
		return Line{}, false
	}
	l := Line{Kind: show.Kind(in.Kind)}
	switch {
	case len(acts) > 1:
		l.encoder(c, in, acts)
	case l.Kind == show.Signal:
		l.signal(c, in, &acts[0])
	case l.Kind == show.Serial:
		l.serial(c, in, &acts[0])
	default:
		l.contact(c, in, &acts[0])
	}
	return l, true
}

// measured is what a meter reads at a pin.
func (c *Circuit) measured(label string, h *hand) Volts {
	v, ok := c.volts(label, h)
	return Volts{v, !ok}
}

// level is what a program takes a voltage for, whose contact counts as closed while it is low or high.
func (c *Circuit) level(v Volts, high bool) Level {
	switch {
	case v.Floats || v.V > c.board.In.Low && v.V < c.board.In.High:
		return Floats
	case v.V >= c.board.In.High == high:
		return Closed
	}
	return Open
}

func (l *Line) contact(c *Circuit, in *bench.Input, a *wiring.Act) {
	l.AtRest, l.InUse = c.measured(in.Pin, &hand{}), c.measured(in.Pin, &hand{closed: []wiring.Act{*a}})
	taken := func(v Volts) Level { return c.level(v, in.Pull == "down") }
	if ladder, rung, ok := pinout.RungOf(c.ladders, a.Module, a.Input); ok {
		r := &ladder.Rungs[rung]
		taken = func(v Volts) Level {
			share := float64(v.V) / float64(c.board.Logic)
			switch {
			case v.Floats:
				return Floats
			case share >= r.From && share < r.To:
				return Closed
			}
			return Open
		}
	}
	l.Rest, l.Used = taken(l.AtRest), taken(l.InUse)
	l.Works = l.Rest == Open && l.Used == Closed
}

func (l *Line) encoder(c *Circuit, in *bench.Input, acts []wiring.Act) {
	closes := func(label string, a *wiring.Act) bool {
		high := in.Pull == "down"
		return c.level(c.measured(label, &hand{}), high) == Open && c.level(c.measured(label, &hand{closed: []wiring.Act{*a}}), high) == Closed
	}
	l.AtRest, l.InUse = c.measured(in.Pin, &hand{}), c.measured(in.Pin, &hand{closed: acts[:1]})
	switch a, b := &acts[0], &acts[1]; {
	case closes(in.Pin, a) && closes(in.PinB, b):
		l.Turns = 1
	case closes(in.Pin, b) && closes(in.PinB, a):
		l.Turns = -1
	}
	l.Works = l.Turns == 1
}

// nearly is how far a reading may be from what it ought to be: what resistors load it by.
const nearly = 0.01

func (l *Line) signal(c *Circuit, in *bench.Input, a *wiring.Act) {
	l.Works = true
	most := fullShare(c, in)
	for i, share := range []float64{0, most / 2, most} {
		v, ok := c.volts(in.Pin, &hand{signal: a, share: share})
		if !ok {
			l.Works, l.Floats = false, true
			l.AtRest, l.InUse = Volts{Floats: true}, Volts{Floats: true}
			return
		}
		l.Reads[i] = c.share(in, v)
		l.Works = l.Works && math.Abs(l.Reads[i]-share) < nearly
		if i == 0 {
			l.AtRest = Volts{V: v}
		}
		l.InUse = Volts{V: v}
	}
	if scale, err := show.ScaleOf(&in.Signal); err == nil && !l.Works {
		l.wired = &wiredSignal{c, *a, scale, int64(1)<<c.board.Resolution() - 1}
	}
}

// share is what the converter reads of a voltage, 0 to 1 of its most.
func (c *Circuit) share(in *bench.Input, v physic.ElectricPotential) float64 {
	return min(max(float64(v)/float64(in.Reference(&c.board)), 0), 1)
}

// fullShare is the most that a signal's pin can read, 0 to 1: a part that is fed less than the host's logic gives less.
func fullShare(c *Circuit, in *bench.Input) float64 {
	most := float64(in.Fed(&c.board)) / float64(in.Reference(&c.board))
	if made := &in.Signal.Circuit; made.Kind == "resistor" {
		other := float64(pinout.OtherOf(made)) / float64(physic.Ohm)
		r := cmp.Or(float64(made.MostOhm), 10*other)
		most *= r / (r + other)
	}
	return min(most, 1)
}

// middle is a voltage between low and high.
func (c *Circuit) middle() physic.ElectricPotential { return (c.board.In.Low + c.board.In.High) / 2 }

func (l *Line) serial(c *Circuit, in *bench.Input, a *wiring.Act) {
	l.AtRest, l.InUse = c.measured(in.Pin, &hand{signal: a, share: 1}), c.measured(in.Pin, &hand{signal: a})
	s, n, ok := c.solve(&hand{})
	if !ok {
		return
	}
	ground, grounded := s.Voltage(n.of(a.Pins[0]))
	supply, fed := s.Voltage(n.of(a.Pins[1]))
	l.Works = grounded && fed && ground == 0 && supply >= 2500*physic.MilliVolt && !l.AtRest.Floats && l.AtRest.V > c.middle() && !l.InUse.Floats && l.InUse.V < c.middle()
}

// Begins is what the program is told at first of an input that reads otherwise than at rest; false for nothing.
func (l *Line) Begins(input int) (show.Event, bool) {
	switch {
	case l.Works:
	case l.Kind == show.Button && l.Rest == Closed:
		return show.Event{Input: input, Value: 1}, true
	case l.wired != nil && l.Reads[0] == l.Reads[2]:
		return show.Event{Input: input, Value: l.wired.units(l.Reads[0])}, true
	}
	return show.Event{}, false
}

// Tell is what the program is told when something is done to the input; down is what it was told of a contact
// last. It is false where it is told nothing.
func (l *Line) Tell(e show.Event, down bool) (show.Event, bool) {
	if l.Works {
		return e, true
	}
	switch l.Kind {
	case show.Button:
		level := l.Rest
		if e.Value != 0 {
			level = l.Used
		}
		if level == Floats || (level == Closed) == down {
			return e, false
		}
		e.Value = 0
		if level == Closed {
			e.Value = 1
		}
		return e, true
	case show.Counter:
		if l.Turns != 0 {
			e.Value *= int64(l.Turns)
			return e, true
		}
		return e, l.Rest == Closed && l.Used == Open // it counts when it is let go
	case show.Signal:
		if l.wired == nil {
			return e, false
		}
		var ok bool
		e.Value, ok = l.wired.tell(e.Value)
		return e, ok
	}
	return e, false
}

// units is the value of a reading of a share.
func (w *wiredSignal) units(share float64) int64 {
	return w.scale.Units(int64(math.Round(share*float64(w.most))) * w.scale.Average)
}

// tell is the value that is read where a signal has another; false where the reading says nothing of it.
func (w *wiredSignal) tell(units int64) (int64, bool) {
	s := &w.scale
	if s.Rise == 0 {
		return units, true
	}
	sum := float64(s.Low) + float64(units-s.Start)*float64(s.Run)/float64(s.Rise)
	share := min(max(sum/float64(s.Average*w.most), 0), 1)
	in := &w.circuit.bench.Modules[w.act.Module].Show.Inputs[w.act.Input]
	v, ok := w.circuit.volts(in.Pin, &hand{signal: &w.act, share: share})
	if !ok {
		return 0, false
	}
	return w.units(w.circuit.share(in, v)), true
}

// Says tells what of the input does not work; "" where it does.
func (l *Line) Says(name, pin string) string {
	if l.Works {
		return ""
	}
	switch {
	case l.Kind == show.Serial:
		return fmt.Sprintf("What “%s” sends does not come to pin %s.", name, pin)
	case l.Kind == show.Signal && l.Floats:
		return fmt.Sprintf("Nothing comes to pin %s of “%s”: what it reads is what happens to be near.", pin, name)
	case l.Kind == show.Signal && l.Reads[0] == l.Reads[2]:
		return fmt.Sprintf("Pin %s of “%s” stays at %s.", pin, name, l.AtRest)
	case l.Kind == show.Signal && l.Reads[0] > l.Reads[2]:
		return fmt.Sprintf("“%s” turns the other way.", name)
	case l.Kind == show.Signal:
		return fmt.Sprintf("Pin %s of “%s” reads %s to %s, which is not what it ought to.", pin, name, l.AtRest, l.InUse)
	case l.Turns < 0:
		return fmt.Sprintf("“%s” counts the other way: A and B are exchanged.", name)
	case l.Rest == Floats:
		return fmt.Sprintf("Nothing holds pin %s of “%s” while its contact is open.", pin, name)
	case l.Rest == Closed && l.Used == Closed:
		return fmt.Sprintf("“%s” is always read as pressed, on pin %s.", name, pin)
	case l.Rest == Closed:
		return fmt.Sprintf("“%s” is read as pressed while it is not, on pin %s.", name, pin)
	}
	return fmt.Sprintf("“%s” is never read as pressed: pin %s does not change.", name, pin)
}
