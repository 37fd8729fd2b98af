package codegen

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

// listening is what a program reads at the host's pins by itself.
type listening struct {
	Pins     []listenPin // that are read as levels
	Buttons  []levelInput
	Contacts []levelInput // counters of one contact; numbered on after the buttons
	Encoders []encoder
	Analogue []analogue
	Lines    []serialLine
	Most     int // reading that the converter gives at most
	Shift    int // what brings 16 bits to a reading
	board    *host.Board
	Wide     bool // values need more than 32 bits on the way
}

// Any reports whether a program reads anything.
func (l *listening) Any() bool {
	return len(l.Pins)+len(l.Analogue)+len(l.Lines) > 0
}

// References reports whether readings are compared with other voltages than the supply.
func (l *listening) References() bool {
	return slices.ContainsFunc(l.Analogue, func(a analogue) bool { return a.Reference > 0 })
}

// Levels are all contacts that are looked at by themselves, buttons first.
func (l *listening) Levels() []levelInput { return slices.Concat(l.Buttons, l.Contacts) }

// Timed reports whether contacts are looked at each millisecond.
func (l *listening) Timed() bool { return len(l.Encoders)+len(l.Buttons)+len(l.Contacts) > 0 }

// Sum is the C type of up to 64 readings.
func (l *listening) Sum() string {
	if l.Most > 1023 {
		return "uint32_t"
	}
	return "uint16_t"
}

type listenPin struct {
	Number int
	Pin    string // as the language names it
	Label  string
	PullUp bool
}

// heardBy is an input of a display's show.
type heardBy struct {
	Ident, Enum string // of the display, and of its input
	Says        string
	Last        bool // of several
}

type levelInput struct {
	heardBy
	Pin  int
	At   int // in Pins
	High bool
	N    int

	Settles int64 // ms for which a level must hold
}

type encoder struct {
	heardBy
	A, B     int // pins
	High     bool
	AtA, AtB int // in Pins
	N        int
}

type analogue struct {
	heardBy
	N     int
	Pin   string // as the language names it
	Label string
	show.Scale
	Rungs     []rung // of a ladder of buttons; what else is read there is none
	Reference int    // mV; 0: the supply
}

// rung is a button that a ladder of resistors tells apart by its readings.
type rung struct {
	heardBy
	From, To int
}

type serialLine struct {
	N, Number, Baud, Buffer int
	Pin, Label, TX          string // TX: as the language names the line's other pin
	Heard                   []heardBy
}

// Index is the C type of a place in its ring.
func (s serialLine) Index() string {
	if s.Buffer > 254 {
		return "uint16_t"
	}
	return "uint8_t"
}

// listens lays out what a program reads, display by display and input by input.
func (v *view) listens(im *firmware.Image) {
	l := &v.Reads
	bits := im.Host.Resolution()
	l.Most, l.Shift, l.board = 1<<bits-1, 16-bits, &im.Host
	for i := range v.Modules {
		c := &v.Modules[i]
		if c.Stage == nil {
			continue
		}
		for k := range c.image.Show.Inputs {
			in, j := &c.image.Show.Inputs[k], &c.image.Joints[k]
			if !j.Joined() {
				continue
			}
			by := heardBy{Ident: c.Ident, Enum: c.Stage.Inputs[k].Enum, Says: quoting.ASCIIComment(cmp.Or(in.Name, in.ID))}
			switch in.Kind {
			case show.Button:
				if j.Rung != (firmware.Rung{}) {
					l.rung(v, j, by)
					continue
				}
				l.Buttons = append(l.Buttons, levelInput{by, j.Number, l.pin(v, j.Pin, j.Number, j.PullUp), j.High, len(l.Buttons), in.Debounce})
			case show.Counter:
				if j.PinB == "" {
					l.Contacts = append(l.Contacts, levelInput{by, j.Number, l.pin(v, j.Pin, j.Number, j.PullUp), j.High, len(l.Contacts), show.UsualDebounce})
					continue
				}
				a, b := l.pin(v, j.Pin, j.Number, j.PullUp), l.pin(v, j.PinB, j.NumberB, j.PullUp)
				l.Encoders = append(l.Encoders, encoder{by, j.Number, j.NumberB, j.High, a, b, len(l.Encoders)})
			case show.Signal:
				l.Wide = l.Wide || in.Scale.Wide(int64(l.Most))
				l.Analogue = append(l.Analogue, analogue{by, len(l.Analogue), v.inputName(j.Pin, j.Number), j.Pin, in.Scale, nil, j.ReferenceMV})
			case show.Serial:
				l.line(v, j, in, by)
			}
		}
	}
	for i := range l.Contacts {
		l.Contacts[i].N += len(l.Buttons)
	}
	slices.SortStableFunc(l.Analogue, func(a, b analogue) int { return a.Reference - b.Reference }) // each change takes time
	for i := range l.Analogue {
		l.Analogue[i].N = i
	}
}

// rung takes a button of a ladder, all of which are read at one pin.
func (l *listening) rung(v *view, j *firmware.Joint, by heardBy) {
	at := slices.IndexFunc(l.Analogue, func(a analogue) bool { return a.Label == j.Pin && len(a.Rungs) > 0 })
	if at < 0 {
		at = len(l.Analogue)
		l.Analogue = append(l.Analogue, analogue{heardBy: by, N: at, Pin: v.inputName(j.Pin, j.Number), Label: j.Pin, Scale: show.Scale{Average: 1, Run: 1}})
	}
	l.Analogue[at].Rungs = append(l.Analogue[at].Rungs, rung{by, j.Rung.From, j.Rung.To})
}

// Scaled reports whether some reading is brought to a value.
func (l *listening) Scaled() bool {
	return slices.ContainsFunc(l.Analogue, func(a analogue) bool { return len(a.Rungs) == 0 })
}

// pin takes a pin to be read as a level, and returns its place in the list.
func (l *listening) pin(v *view, label string, number int, pullUp bool) int {
	at := slices.IndexFunc(l.Pins, func(p listenPin) bool { return p.Number == number })
	if at < 0 {
		at = len(l.Pins)
		l.Pins = append(l.Pins, listenPin{Number: number, Pin: v.pinName(label), Label: label})
	}
	l.Pins[at].PullUp = l.Pins[at].PullUp || pullUp
	return at
}

// line takes a serial line to be listened on: two inputs on one line hear the same.
func (l *listening) line(v *view, j *firmware.Joint, in *show.Input, by heardBy) {
	at := slices.IndexFunc(l.Lines, func(s serialLine) bool { return s.Number == j.Line })
	if at < 0 {
		at = len(l.Lines)
		l.Lines = append(l.Lines, serialLine{N: at, Number: j.Line, Baud: in.Message.Baud, Pin: v.pinName(j.Pin), Label: j.Pin})
		if line, ok := v.board.Line(j.Pin); ok && line.TX != j.Pin {
			l.Lines[at].TX = v.pinName(line.TX)
		}
	}
	s := &l.Lines[at]
	s.Buffer = max(s.Buffer, in.Message.Buffer)
	s.Heard = append(s.Heard, by)
}

// Classes are what MicroPython's machine is asked for.
func (l *listening) Classes() string {
	var out []string
	for _, c := range []struct {
		name string
		used bool
	}{{"ADC", len(l.Analogue) > 0}, {"Pin", true}, {"UART", len(l.Lines) > 0}} {
		if c.used {
			out = append(out, c.name)
		}
	}
	return strings.Join(out, ", ")
}

// Converter is what reads a voltage in MicroPython: the ESP32's asks for its widest range, the
// ESP8266 has one, without a pin (from memory).
func (l *listening) Converter(pin string) string {
	switch l.board.Chip {
	case "ESP32":
		return fmt.Sprintf("ADC(Pin(%s), atten=ADC.ATTN_11DB)", pin)
	case "ESP8266":
		return "ADC(0)"
	}
	return fmt.Sprintf("ADC(Pin(%s))", pin)
}

// UART is what listens on a serial line in MicroPython. Both pins are named: else the other would be
// the line's usual one, which may be the bus's. The ESP8266's pins are fixed.
func (l *listening) UART(s serialLine) string {
	pins := ""
	if l.board.Chip != "ESP8266" {
		pins = fmt.Sprintf(", rx=Pin(%s)", s.Pin)
		if s.TX != "" {
			pins += fmt.Sprintf(", tx=Pin(%s)", s.TX)
		}
	}
	return fmt.Sprintf("UART(%d, baudrate=%d%s, rxbuf=%d)", s.Number, s.Baud, pins, max(s.Buffer, 32))
}

// inputName is a pin as a converter takes it: its number.
func (v *view) inputName(label string, number int) string {
	if v.byNames() {
		return fmt.Sprint(number)
	}
	return v.pinName(label)
}
