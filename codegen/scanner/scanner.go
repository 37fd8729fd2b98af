// Package scanner writes the program that makers begin a bus with: it prints every address that
// answers.
package scanner

import (
	"embed"

	"slatebell/codegen/c99"
	"slatebell/codegen/micropython"
	"slatebell/codegen/sketch"
	"slatebell/codegen/source"
	"slatebell/core/ship/firmware"
)

//go:embed *.tmpl
var templates embed.FS

// baud is what the scanner prints at (common practice).
const baud = 9600

// Files writes the scanner of a bus: C with a Makefile for an ATmega, and a sketch and MicroPython where
// they are asked for. The image has no
// modules; its host, its pins of the bus and its clock are what counts.
func Files(im *firmware.Image, editor, interpreter bool) ([]source.File, error) {
	v, err := c99.New(im)
	if err != nil {
		return nil, err
	}
	machine, newBus := micropython.Bus(v.View, im)
	fill := struct {
		*c99.View
		Editor          *sketch.Editor
		Machine, NewBus string
		Baud            int
	}{v, sketch.NewEditor(v.View, im), machine, newBus, baud}
	if own, ok := c99.UploadOf(im.Host.Chip); ok {
		v.Upload = &own
	}
	var names []string
	if v.Upload != nil {
		names = append(names, "scanner.c", "Makefile")
	}
	if editor {
		names = append(names, "scanner.ino")
	}
	if interpreter {
		names = append(names, "scanner.py")
	}
	files, err := v.Render(fill, names, templates)
	for i := range files {
		if files[i].Template == "scanner.ino" {
			files[i].Name = "scanner/scanner.ino" // the editor asks for a folder of the sketch's name
		}
	}
	return files, err
}
