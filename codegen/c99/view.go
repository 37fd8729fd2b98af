// Package c99 writes the program of a bench as C99 with ports: for ATmegas, by their registers,
// and for every other host, by calls that its maker fills in. It estimates the program's size and
// says how avr-gcc builds it.
//
// It stands above codegen/layout, whose view it fills with C's tables; package sketch writes the
// same files for the editor for hobby boards. (Named c99: a package named c is hidden by every
// variable of that name.)
package c99

import (
	"embed"
	"fmt"
	"slices"
	"strings"

	"slatebell/codegen/layout"
	"slatebell/codegen/source"
	"slatebell/core/part/host"
	"slatebell/core/quoting"
	"slatebell/core/ship/firmware"
	"slatebell/core/wire/link"
)

// View is what the templates are filled in with.
type View struct {
	*layout.View
	Modules                    []Display
	Guard                      string
	ValueType, Magnitude, Wide string
	FlashValue                 string
	DigitsMax                  int
	OneKind                    bool // the fields are all of one kind
	Kinds                      string
	Members                    []member
	Accessors                  []string
	Tables                     []string
	Pauses                     struct{ Simple bool }
	Targets                    []string // ATmegas that the example can be built for
	Flags                      flags
	Upload                     *Upload // how it gets there; nil where the host is no ATmega
	NotAVR                     string  // why it cannot be built for an ATmega328P
	Cases                      []clockCase
	Sketch                     bool // the editor for hobby boards builds it

	image *firmware.Image
}

// Display is a display with what it keeps in mind.
type Display struct {
	*layout.Display
	State string
}

// Upload is how the example gets onto the bench's own host.
type Upload struct {
	MCU, Part, Programmer string // as make, and avrdude, call them
	Port                  string // for example
}

// uploads are the hosts that a loader of their own takes programs for, by avrdude: what its
// arguments -p and -c ask for (avrdude manual, from memory).
var uploads = map[string]Upload{
	"ATmega328P": {"atmega328p", "m328p", "arduino", "/dev/ttyUSB0"},
	"ATmega2560": {"atmega2560", "m2560", "wiring", "/dev/ttyACM0"},
}

// New lays out a program in C.
func New(im *firmware.Image) (*View, error) {
	of, err := layout.New(im)
	if err != nil {
		return nil, err
	}
	v := &View{View: of, image: im, Guard: strings.ToUpper(of.File) + "_H", Flags: usualFlags, Cases: clockCases(&of.Clock, of.Has.ClockPadded)}
	for i := range of.Modules {
		v.Modules = append(v.Modules, Display{Display: &of.Modules[i]})
	}
	v.types(im)
	v.tables(im)
	v.targets(im)
	return v, nil
}

// types finds the type of values.
func (v *View) types(im *firmware.Image) {
	h := &v.Has
	v.OneKind = layout.One(h.Number)+layout.One(h.Elapsed)+layout.One(h.List)+layout.One(h.Clock)+layout.One(h.Bar)+layout.One(h.Free)+layout.One(h.Tape) == 1
	wide := h.Stage.Any // a signal may have no field
	for i := range im.Modules {
		for _, val := range im.Modules[i].Values {
			wide = wide || val.Low < -32768 || val.High > 32767 || h.Days
		}
	}
	v.ValueType, v.Magnitude, v.FlashValue, v.Wide, v.DigitsMax = "int16_t", "uint16_t", "FLASH_WORD", "uint32_t", 6
	if wide {
		v.ValueType, v.Magnitude, v.FlashValue, v.Wide, v.DigitsMax = "int32_t", "uint32_t", "FLASH_LONG", "uint64_t", 11
	}
}

// targets finds the ATmegas that the example can be built for.
func (v *View) targets(im *firmware.Image) {
	why := ""
	for _, part := range []string{"ATmega328P", "ATmega2560"} {
		board, _ := host.ByPart(part)
		ok := !v.Reads.Any() || im.Host.Chip == part
		if !ok {
			why = fmt.Sprintf("Its inputs are on pins of an %s, which an ATmega328P has not; use port_calls.h", im.Host.Chip)
		}
		for i := range im.Modules {
			m := &im.Modules[i]
			if m.Link.Kind == link.Backpack {
				continue
			}
			for _, line := range m.Link.HostPins() {
				if _, there := board.Number(m.Pins[line]); !there || im.Host.Chip != part {
					ok = false
					why = fmt.Sprintf("%s is on pin %s of an %s, which an ATmega328P has not; use port_calls.h", line, m.Pins[line], im.Host.Chip)
				}
			}
		}
		if ok {
			v.Targets = append(v.Targets, strings.ToLower(part))
			if part == im.Host.Chip { // what make builds where nothing is said
				slices.Reverse(v.Targets)
			}
		}
	}
	if own, ok := uploads[im.Host.Chip]; ok && slices.Contains(v.Targets, own.MCU) {
		v.Upload = &own
	}
	if !slices.Contains(v.Targets, "atmega328p") {
		v.NotAVR = quoting.Make(why)
	}
}

// OnRegisters is when a program is compiled for an ATmega whose registers port_avr.c knows; the C
// leaves it to its maker which ATmega that is.
func (v *View) OnRegisters() string {
	if v.Sketch {
		return "defined(__AVR_ATmega328P__) || defined(__AVR_ATmega2560__)"
	}
	return "defined(__AVR__)"
}

// Templates are those of the files of C.
//
//go:embed *.tmpl
var Templates embed.FS

// Render fills in templates of C, and those that are beside them, with what has at least v's fields.
func (v *View) Render(with any, names []string, beside ...embed.FS) ([]source.File, error) {
	return source.Render(append([]embed.FS{Templates}, beside...), names, source.InC, v.File, with, layout.Sources(v.image))
}

// UploadOf is how programs get onto a host by the tools of C; false where they do not.
func UploadOf(chip string) (Upload, bool) {
	own, ok := uploads[chip]
	return own, ok
}

// Sum is the C type of up to 64 readings of the converter.
func (v *View) Sum() string {
	if v.Reads.Most > 1023 {
		return "uint32_t"
	}
	return "uint16_t"
}

// Index is the C type of a place in a ring of so many bytes.
func (v *View) Index(buffer int) string {
	if buffer > 254 {
		return "uint16_t"
	}
	return "uint8_t"
}
