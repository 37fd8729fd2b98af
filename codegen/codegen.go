// Package codegen writes the image of a bench's displays as a program: C99 with ports for
// ATmega and for every other host, or a MicroPython module. All text comes from the
// templates beside it.
//
// It stands above core/ship/firmware, whose tables it lays out; the calls of every language
// send what firmware.Player sends.
package codegen

import (
	"errors"
	"fmt"

	"slatebell/codegen/bridge"
	"slatebell/codegen/c99"
	"slatebell/codegen/layout"
	"slatebell/codegen/micropython"
	"slatebell/codegen/scanner"
	"slatebell/codegen/sketch"
	"slatebell/codegen/source"
	"slatebell/core/part/host"
	plan "slatebell/core/ship/bridge"
	"slatebell/core/ship/firmware"
)

// Language is a language that programs are written in.
type Language string

// The languages.
const (
	C           Language = "c"
	MicroPython Language = "micropython"
	Sketch      Language = "sketch" // C, with a file of setup and loop
)

// Languages lists them.
var Languages = []Language{C, Sketch, MicroPython}

// Files writes a program. Its error says what the language cannot do.
func Files(im *firmware.Image, as Language) ([]source.File, error) {
	switch as {
	case C:
		return c99.Files(im)
	case Sketch:
		if why := sketch.Why(im); why != "" {
			return nil, errors.New(why)
		}
		return sketch.Files(im)
	case MicroPython:
		return micropython.Files(im)
	}
	return nil, fmt.Errorf("language %q; expected one of %v", as, Languages)
}

// Runs reports whether a host takes programs of a form.
func Runs(board *host.Board, as Language) bool {
	_, known := host.ByPart(board.Chip)
	switch as {
	case C:
		_, own := c99.UploadOf(board.Chip)
		return !known || own
	case Sketch:
		return known
	}
	_, runs := interpreters[board.Chip]
	return runs || !known
}

// Blinks is what blinks the lights of an example's displays, in its own section of each second.
func Blinks(im *firmware.Image, as Language) string {
	v, err := layout.New(im)
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

// Scanner writes the scanner of a bus, in every form that its host takes: C with a Makefile for an
// ATmega, a sketch for a board that the editor knows, MicroPython where it runs. The image has no
// modules; its host, its pins of the bus and its clock are what counts.
func Scanner(im *firmware.Image) ([]source.File, error) {
	return scanner.Files(im, Runs(&im.Host, Sketch), Runs(&im.Host, MicroPython))
}

// Bridge writes the program by which the page drives the modules of a bench, in every form that its host takes.
func Bridge(p *plan.Plan, im *firmware.Image) ([]source.File, error) {
	return bridge.Files(p, im, Runs(&im.Host, Sketch), Runs(&im.Host, MicroPython))
}
