package codegen

import (
	"fmt"

	"slatebell/core/part/host"
	"slatebell/core/ship/firmware"
)

// scannerBaud is what the scanner prints at (common practice).
const scannerBaud = 9600

// Scanner writes the scanner of a bus, in every form that its host takes: C with a Makefile for an
// ATmega, a sketch for a board that the editor knows, MicroPython where it runs. The image has no
// modules; its host, its pins of the bus and its clock are what counts.
func Scanner(im *firmware.Image) ([]File, error) {
	v, err := newView(im)
	if err != nil {
		return nil, err
	}
	v.Sketch = newSketch(v, im)
	p := pyView{view: v}
	p.bus(im)
	fill := struct {
		pyView
		Baud int
	}{p, scannerBaud}
	if own, ok := uploads[im.Host.Chip]; ok {
		v.Upload = &own
	}
	var names []string
	if v.Upload != nil {
		names = append(names, "scanner.c", "Makefile")
	}
	if Runs(&im.Host, Sketch) {
		names = append(names, "scanner.ino")
	}
	if Runs(&im.Host, MicroPython) {
		names = append(names, "scanner.py")
	}
	files, err := render("tools", names, cComments, v.File, fill, sources(im))
	for i := range files {
		if files[i].Template == "scanner.ino" {
			files[i].Name = "scanner/scanner.ino" // the editor asks for a folder of the sketch's name
		}
	}
	return files, err
}

// Runs reports whether a host takes programs of a form.
func Runs(board *host.Board, as Language) bool {
	_, known := host.ByPart(board.Chip)
	switch as {
	case C:
		return !known || uploads[board.Chip] != (upload{})
	case Sketch:
		return known
	}
	_, runs := interpreters[board.Chip]
	return runs || !known
}

// Blinks is what blinks the lights of an example's displays, in its own section of each second.
func Blinks(im *firmware.Image, as Language) string {
	v, err := newView(im)
	if err != nil {
		return ""
	}
	form := "        status |= %s_light(round != 0); /* off while the block is shown */\n"
	switch as {
	case Sketch:
		form = "        status |= %s_light(turn != 0); /* off while the block is shown */\n"
	case MicroPython:
		form = "        displays.%s_light(round != 0)  # off while the block is shown\n"
	}
	text := ""
	for i := range v.Modules {
		if v.Modules[i].Light != "" {
			text += fmt.Sprintf(form, v.Modules[i].Ident)
		}
	}
	return text
}
