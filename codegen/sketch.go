package codegen

import (
	"fmt"
	"slices"

	"slatebell/core/part/host"
	"slatebell/core/ship/firmware"
	"slatebell/core/wire/link"
)

// writeSketch writes the library as a sketch: a folder that the widespread editor for hobby boards
// builds, with a file of setup and loop beside the library's sources.
func writeSketch(im *firmware.Image) ([]File, error) {
	v, err := newView(im)
	if err != nil {
		return nil, err
	}
	v.Has.Sketch = true
	v.Sketch = newSketch(v, im)
	names := []string{"bench.ino", "bench.h", "bench.c", "port.h", "port.ino", "port_avr.c"}
	if v.Reads.Any() {
		names = append(names, "inputs.h", "inputs.c")
	}
	files, err := render("c", names, cComments, v.File, v, sources(im))
	for i := range files {
		files[i].Name = v.File + "/" + files[i].Name // the editor asks for a folder of the sketch's name
	}
	return files, err
}

// sketchPort is how the editor's plain calls reach a board's bus and serial lines (the boards'
// packages, from memory).
type sketchPort struct {
	Wire string   // the object of the bus
	Bus  []string // what begins it
	Bits int      // of the converter
	// Named are the names of all pins, by their numbers here, where the editor knows them by names.
	Named []string
	view  *view
}

// Pin is a pin as the editor's calls take it.
func (s *sketchPort) Pin() string {
	if s.Named != nil {
		return "named[pin]"
	}
	return "pin"
}

func newSketch(v *view, im *firmware.Image) *sketchPort {
	s := &sketchPort{Wire: "Wire", Bus: []string{"Wire.begin();"}, Bits: im.Host.Resolution(), view: v}
	sda, scl := v.pinName(im.SDA), v.pinName(im.SCL)
	switch im.Host.Chip {
	case "ESP32", "ESP8266":
		s.Bus = []string{fmt.Sprintf("Wire.begin(%s, %s);", sda, scl)}
	case "RP2040", "RP2350":
		if n, ok := im.Host.Number(im.SDA); ok && n/2%2 == 1 {
			s.Wire = "Wire1"
		}
		s.Bus = []string{fmt.Sprintf("%s.setSDA(%s);", s.Wire, sda), fmt.Sprintf("%s.setSCL(%s);", s.Wire, scl), s.Wire + ".begin();"}
	case "STM32F103":
		s.Bus = []string{fmt.Sprintf("Wire.setSDA(%s);", im.SDA), fmt.Sprintf("Wire.setSCL(%s);", im.SCL), "Wire.begin();"}
		for i := range im.Host.Pins {
			s.Named = append(s.Named, im.Host.Pins[i].Label)
		}
	}
	return s
}

// References is what analogReference is told (the boards' packages, from memory).
func (s *sketchPort) References() string {
	if s.view.board.Chip == "ATtiny85" {
		return "reference == 1100u ? INTERNAL1V1 : reference ? INTERNAL2V56 : DEFAULT"
	}
	return "reference ? INTERNAL : DEFAULT"
}

// isPico reports whether a chip's buses and lines come out on several pins, all chosen alike.
func isPico(chip string) bool { return chip == "RP2040" || chip == "RP2350" }

// Serial is the object of a serial line of the host's hardware.
func (s *sketchPort) Serial(line int) string {
	switch {
	case isPico(s.view.board.Chip):
		line++ // the first is the USB's
	case line == 0:
		return "Serial"
	}
	return fmt.Sprintf("Serial%d", line)
}

// Begin is what begins to listen on a line.
func (s *sketchPort) Begin(l serialLine) []string {
	object := s.Serial(l.Number)
	switch s.view.board.Chip {
	case "ESP32":
		return []string{fmt.Sprintf("%s.begin(%d, SERIAL_8N1, %s, %s);", object, l.Baud, l.Pin, l.TX)}
	case "RP2040", "RP2350":
		return []string{fmt.Sprintf("%s.setRX(%s);", object, l.Pin), fmt.Sprintf("%s.setTX(%s);", object, l.TX), fmt.Sprintf("%s.begin(%d);", object, l.Baud)}
	}
	return []string{fmt.Sprintf("%s.begin(%d);", object, l.Baud)}
}

// sketchable says why a bench cannot be a sketch; "" where it can: the editor names pins by numbers.
func sketchable(im *firmware.Image) string {
	if _, known := host.ByPart(im.Host.Chip); known {
		return ""
	}
	why := fmt.Sprintf("the editor has no plain numbers for the pins of %s; take the C, whose port is yours to fill in", im.Host.Chip)
	for i := range im.Modules {
		m := &im.Modules[i]
		if m.Link.Kind != link.Backpack || slices.ContainsFunc(m.Joints, func(j firmware.Joint) bool { return j.Joined() }) {
			return why
		}
	}
	return ""
}

// OnRegisters is when a program is compiled for an ATmega whose registers port_avr.c knows; the C
// leaves it to its maker which ATmega that is.
func (v *view) OnRegisters() string {
	if v.Has.Sketch {
		return "defined(__AVR_ATmega328P__) || defined(__AVR_ATmega2560__)"
	}
	return "defined(__AVR__)"
}
