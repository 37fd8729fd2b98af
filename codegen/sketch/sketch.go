// Package sketch writes the program of a bench for the widespread editor for hobby boards: the
// files of c99, a file of setup and loop, and a port by the editor's plain calls.
package sketch

import (
	"embed"
	"fmt"
	"slices"

	"slatebell/codegen/c99"
	"slatebell/codegen/layout"
	"slatebell/codegen/source"
	"slatebell/core/part/host"
	"slatebell/core/ship/firmware"
	"slatebell/core/wire/link"
)

// Files writes the library as a sketch: a folder that the widespread editor for hobby boards
// builds, with a file of setup and loop beside the library's sources.
func Files(im *firmware.Image) ([]source.File, error) {
	c, err := c99.New(im)
	if err != nil {
		return nil, err
	}
	c.Sketch = true
	v := &view{c, NewEditor(c.View, im)}
	names := []string{"bench.ino", "bench.h", "bench.c", "port.h", "port.ino", "port_avr.c"}
	if v.Reads.Any() {
		names = append(names, "inputs.h", "inputs.c")
	}
	files, err := c.Render(v, names, Templates)
	for i := range files {
		files[i].Name = v.File + "/" + files[i].Name // the editor asks for a folder of the sketch's name
	}
	return files, err
}

// view is what the templates are filled in with.
type view struct {
	*c99.View
	Editor *Editor
}

// Templates are those of a sketch's own files; the rest are c99's.
//
//go:embed *.tmpl
var Templates embed.FS

// Editor is how the editor's plain calls reach a board's bus and serial lines (the boards'
// packages, from memory).
type Editor struct {
	Wire string   // the object of the bus
	Bus  []string // what begins it
	Bits int      // of the converter
	// Named are the names of all pins, by their numbers here, where the editor knows them by names.
	Named []string
	view  *layout.View
}

// Pin is a pin as the editor's calls take it.
func (s *Editor) Pin() string {
	if s.Named != nil {
		return "named[pin]"
	}
	return "pin"
}

func NewEditor(v *layout.View, im *firmware.Image) *Editor {
	s := &Editor{Wire: "Wire", Bus: []string{"Wire.begin();"}, Bits: im.Host.Resolution(), view: v}
	sda, scl := v.PinName(im.SDA), v.PinName(im.SCL)
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
func (s *Editor) References() string {
	if s.view.Board.Chip == "ATtiny85" {
		return "reference == 1100u ? INTERNAL1V1 : reference ? INTERNAL2V56 : DEFAULT"
	}
	return "reference ? INTERNAL : DEFAULT"
}

// Serial is the object of a serial line of the host's hardware.
func (s *Editor) Serial(line int) string {
	switch {
	case layout.IsPico(s.view.Board.Chip):
		line++ // the first is the USB's
	case line == 0:
		return "Serial"
	}
	return fmt.Sprintf("Serial%d", line)
}

// Begin is what begins to listen on a line.
func (s *Editor) Begin(l layout.SerialLine) []string {
	object := s.Serial(l.Number)
	switch s.view.Board.Chip {
	case "ESP32":
		return []string{fmt.Sprintf("%s.begin(%d, SERIAL_8N1, %s, %s);", object, l.Baud, l.Pin, l.TX)}
	case "RP2040", "RP2350":
		return []string{fmt.Sprintf("%s.setRX(%s);", object, l.Pin), fmt.Sprintf("%s.setTX(%s);", object, l.TX), fmt.Sprintf("%s.begin(%d);", object, l.Baud)}
	}
	return []string{fmt.Sprintf("%s.begin(%d);", object, l.Baud)}
}

// Why says why a bench cannot be a sketch; "" where it can: the editor names pins by numbers.
func Why(im *firmware.Image) string {
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
