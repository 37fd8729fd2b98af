package layout

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"slatebell/core/bench/show"
	"slatebell/core/part/host"
	"slatebell/core/quoting"
	"slatebell/core/ship/firmware"
)

// Listening is what a program reads at the host's pins by itself.
type Listening struct {
	Pins     []Pin // that are read as levels
	Buttons  []Level
	Contacts []Level // counters of one contact; numbered on after the buttons
	Encoders []Encoder
	Analogue []Voltage
	Lines    []SerialLine
	Most     int // reading that the converter gives at most
	Shift    int // what brings 16 bits to a reading
	Board    *host.Board
	Wide     bool // values need more than 32 bits on the way
}

// Any reports whether a program reads anything.
func (l *Listening) Any() bool {
	return len(l.Pins)+len(l.Analogue)+len(l.Lines) > 0
}

// References reports whether readings are compared with other voltages than the supply.
func (l *Listening) References() bool {
	return slices.ContainsFunc(l.Analogue, func(a Voltage) bool { return a.Reference > 0 })
}

// Levels are all contacts that are looked at by themselves, buttons first.
func (l *Listening) Levels() []Level { return slices.Concat(l.Buttons, l.Contacts) }

// Timed reports whether contacts are looked at each millisecond.
func (l *Listening) Timed() bool { return len(l.Encoders)+len(l.Buttons)+len(l.Contacts) > 0 }

// Pin is a pin that is read as a level.
type Pin struct {
	Number int
	Pin    string // as the language names it
	Label  string
	PullUp bool
}

// HeardBy is an input of a display's show.
type HeardBy struct {
	Ident, Enum string // of the display, and of its input
	Says        string
	Last        bool // of several
}

// Level is a contact that is looked at by itself.
type Level struct {
	HeardBy
	Pin  int
	At   int // in Pins
	High bool
	N    int

	Settles int64 // ms for which a level must hold
}

// Encoder is two contacts a quarter apart.
type Encoder struct {
	HeardBy
	A, B     int // pins
	High     bool
	AtA, AtB int // in Pins
	N        int
}

// Voltage is a pin that the converter reads.
type Voltage struct {
	HeardBy
	N     int
	Pin   string // as the language names it
	Label string
	show.Scale
	Rungs     []Rung // of a ladder of buttons; what else is read there is none
	Reference int    // mV; 0: the supply
}

// Rung is a button that a ladder of resistors tells apart by its readings.
type Rung struct {
	HeardBy
	From, To int
}

// SerialLine is a serial line that is listened on.
type SerialLine struct {
	N, Number, Baud, Buffer int
	Pin, Label, TX          string // TX: as the language names the line's other pin
	Heard                   []HeardBy
}

// listens lays out what a program reads, display by display and input by input.
func (v *View) listens(im *firmware.Image) {
	l := &v.Reads
	bits := im.Host.Resolution()
	l.Most, l.Shift, l.Board = 1<<bits-1, 16-bits, &im.Host
	for i := range v.Modules {
		c := &v.Modules[i]
		if c.Stage == nil {
			continue
		}
		for k := range c.Image.Show.Inputs {
			in, j := &c.Image.Show.Inputs[k], &c.Image.Joints[k]
			if !j.Joined() {
				continue
			}
			by := HeardBy{Ident: c.Ident, Enum: c.Stage.Inputs[k].Enum, Says: quoting.ASCIIComment(cmp.Or(in.Name, in.ID))}
			switch in.Kind {
			case show.Button:
				if j.Rung != (firmware.Rung{}) {
					l.rung(v, j, by)
					continue
				}
				l.Buttons = append(l.Buttons, Level{by, j.Number, l.pin(v, j.Pin, j.Number, j.PullUp), j.High, len(l.Buttons), in.Debounce})
			case show.Counter:
				if j.PinB == "" {
					l.Contacts = append(l.Contacts, Level{by, j.Number, l.pin(v, j.Pin, j.Number, j.PullUp), j.High, len(l.Contacts), show.UsualDebounce})
					continue
				}
				a, b := l.pin(v, j.Pin, j.Number, j.PullUp), l.pin(v, j.PinB, j.NumberB, j.PullUp)
				l.Encoders = append(l.Encoders, Encoder{by, j.Number, j.NumberB, j.High, a, b, len(l.Encoders)})
			case show.Signal:
				l.Wide = l.Wide || in.Scale.Wide(int64(l.Most))
				l.Analogue = append(l.Analogue, Voltage{by, len(l.Analogue), v.inputName(j.Pin, j.Number), j.Pin, in.Scale, nil, j.ReferenceMV})
			case show.Serial:
				l.line(v, j, in, by)
			}
		}
	}
	for i := range l.Contacts {
		l.Contacts[i].N += len(l.Buttons)
	}
	slices.SortStableFunc(l.Analogue, func(a, b Voltage) int { return a.Reference - b.Reference }) // each change takes time
	for i := range l.Analogue {
		l.Analogue[i].N = i
	}
}

// rung takes a button of a ladder, all of which are read at one pin.
func (l *Listening) rung(v *View, j *firmware.Joint, by HeardBy) {
	at := slices.IndexFunc(l.Analogue, func(a Voltage) bool { return a.Label == j.Pin && len(a.Rungs) > 0 })
	if at < 0 {
		at = len(l.Analogue)
		l.Analogue = append(l.Analogue, Voltage{HeardBy: by, N: at, Pin: v.inputName(j.Pin, j.Number), Label: j.Pin, Scale: show.Scale{Average: 1, Run: 1}})
	}
	l.Analogue[at].Rungs = append(l.Analogue[at].Rungs, Rung{by, j.Rung.From, j.Rung.To})
}

// Scaled reports whether some reading is brought to a value.
func (l *Listening) Scaled() bool {
	return slices.ContainsFunc(l.Analogue, func(a Voltage) bool { return len(a.Rungs) == 0 })
}

// pin takes a pin to be read as a level, and returns its place in the list.
func (l *Listening) pin(v *View, label string, number int, pullUp bool) int {
	at := slices.IndexFunc(l.Pins, func(p Pin) bool { return p.Number == number })
	if at < 0 {
		at = len(l.Pins)
		l.Pins = append(l.Pins, Pin{Number: number, Pin: v.PinName(label), Label: label})
	}
	l.Pins[at].PullUp = l.Pins[at].PullUp || pullUp
	return at
}

// line takes a serial line to be listened on: two inputs on one line hear the same.
func (l *Listening) line(v *View, j *firmware.Joint, in *show.Input, by HeardBy) {
	at := slices.IndexFunc(l.Lines, func(s SerialLine) bool { return s.Number == j.Line })
	if at < 0 {
		at = len(l.Lines)
		l.Lines = append(l.Lines, SerialLine{N: at, Number: j.Line, Baud: in.Message.Baud, Pin: v.PinName(j.Pin), Label: j.Pin})
		if line, ok := v.Board.Line(j.Pin); ok && line.TX != j.Pin {
			l.Lines[at].TX = v.PinName(line.TX)
		}
	}
	s := &l.Lines[at]
	s.Buffer = max(s.Buffer, in.Message.Buffer)
	s.Heard = append(s.Heard, by)
}

// byNames reports whether MicroPython and the editor know the chip's pins by names, or by other numbers than these.
func (v *View) byNames() bool {
	return strings.HasPrefix(v.Board.Chip, "ATmega") || v.Board.Chip == "STM32F103"
}

// PinName is a pin as Pin takes it: its number, or its label in quotes on hosts whose pins
// have none.
func (v *View) PinName(label string) string {
	n, ok := v.Board.Number(label)
	if !ok || v.byNames() {
		return quoting.Python(label)
	}
	return fmt.Sprint(n)
}

// inputName is a pin as a converter takes it: its number.
func (v *View) inputName(label string, number int) string {
	if v.byNames() {
		return fmt.Sprint(number)
	}
	return v.PinName(label)
}

// IsPico reports whether a chip's buses and lines come out on several pins, all chosen alike.
func IsPico(chip string) bool { return chip == "RP2040" || chip == "RP2350" }
