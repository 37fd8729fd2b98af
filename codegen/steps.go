package codegen

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"slatebell/codegen/c99"
	"slatebell/core/part/host"
	"slatebell/core/ship/firmware"
)

// Step is one thing to do to bring a program onto the host.
type Step struct {
	Do      string
	Command string // to be copied; "" where there is none
	See     string // what one must see then
}

// ports are what the host's port is usually called, on the three systems (common practice).
const ports = "COM3, /dev/ttyUSB0 or /dev/ttyACM0, or /dev/cu.usbserial… or /dev/cu.usbmodem…"

// Suits is the language that suits a host best: C where its own tools send it to the host, else
// MicroPython where the host runs it, else a sketch where the editor knows the board.
func Suits(board *host.Board) Language {
	if _, own := c99.UploadOf(board.Chip); own {
		return C
	}
	if _, known := interpreters[board.Chip]; known {
		return MicroPython
	}
	if Runs(board, Sketch) {
		return Sketch
	}
	return C
}

// interpreters say how MicroPython gets onto a host, once (from memory of its instructions).
var interpreters = map[string]Step{
	"RP2040":  {"Put the interpreter on, once: hold the board’s button while you plug it in, and copy MicroPython’s .uf2 file for it onto the drive that appears.", "", "The drive goes away by itself."},
	"RP2350":  {"Put the interpreter on, once: hold the board’s button while you plug it in, and copy MicroPython’s .uf2 file for it onto the drive that appears.", "", "The drive goes away by itself."},
	"ESP32":   {"Put the interpreter on, once: erase the board, and write MicroPython’s .bin file for it.", "esptool --port PORT erase_flash && esptool --port PORT write_flash 0x1000 MICROPYTHON.bin", "“Hash of data verified.”"},
	"ESP8266": {"Put the interpreter on, once: erase the board, and write MicroPython’s .bin file for it.", "esptool --port PORT erase_flash && esptool --port PORT write_flash 0 MICROPYTHON.bin", "“Hash of data verified.”"},
}

// uploaded say what the editor's upload asks of some boards (common practice).
var uploaded = map[string]string{
	"ATmega32U4": "Where the port is gone, press the board’s reset twice, quickly, and choose the port that comes.",
	"SAMD21":     "Where the port is gone, press the board’s reset twice, quickly, and choose the port that comes.",
	"ATtiny85":   "Leave the board unplugged until the editor asks for it: it takes programs only in its first seconds.",
	"STM32F103":  "Its usual loader listens on PA9 and PA10: put the first bridge to 1, join a serial adaptor for 3.3 V, press reset; afterwards put the bridge back. Others upload by its debug header.",
}

// Steps lists what to do with the files of a program, for the host of its bench.
func Steps(im *firmware.Image, as Language) ([]Step, error) {
	v, err := c99.New(im)
	if err != nil {
		return nil, err
	}
	var out []Step
	if taken := onLoader(im); len(taken) > 0 && (as != MicroPython || im.Host.Chip == "ESP8266") {
		out = append(out, Step{Do: fmt.Sprintf("Unplug %s: the loader uses these pins, for every upload.", strings.Join(taken, ", "))})
	}
	plugged := Step{Do: "Plug the host in by a cable that carries data, and find its port: " + ports + ".", See: "The port is there only while it is plugged in; no other window may hold it open."}
	lights := "The first screen is on the glass within a second."
	switch as {
	case C:
		if v.Upload == nil {
			return append(out,
				Step{Do: "Unpack the files, and compile the library to see that all is there.", Command: "make check"},
				Step{Do: "Take " + v.File + ".c and " + v.File + ".h" + inputsFiles(v) + " into your own project, with port.h and port_calls.*: leave out main.c and port_avr.c. Fill in port_calls.h with what your host can do.", See: "main.c shows the order of the calls."}), nil
		}
		return append(out, plugged,
			Step{Do: "Unpack the files, and in their folder build and send the example.", Command: "make upload PORT=" + v.Upload.Port, See: "avrdude says that the flash is verified. An older small board’s loader wants BAUD=57600 behind it."},
			Step{Do: "Plug back in what was unplugged, and look.", See: lights}), nil
	case Sketch:
		out = append(out, plugged,
			Step{Do: fmt.Sprintf("Unpack the folder %[1]s to where your editor keeps sketches, and open %[1]s.ino in it.", v.File)})
		if !strings.HasPrefix(im.Host.Chip, "ATmega") {
			out = append(out, Step{Do: "Add the package of your board’s family to the editor, once: by its list of boards."})
		}
		if says, special := uploaded[im.Host.Chip]; special {
			out = append(out, Step{Do: says})
		}
		return append(out, Step{Do: fmt.Sprintf("Choose the board with the %s, and its port; then upload.", im.Host.Chip), See: "The editor says that it is done. " + lights}), nil
	}
	if put, known := interpreters[im.Host.Chip]; known {
		out = append(out, plugged, put)
	}
	files := []string{v.File + ".py"}
	if v.Reads.Any() {
		files = append(files, "inputs.py")
	}
	files = append(files, "main.py")
	return append(out,
		Step{Do: "Copy the files onto it.", Command: fmt.Sprintf("mpremote connect PORT cp %s :", strings.Join(files, " ")), See: "main.py starts by itself from now on."},
		Step{Do: "Start it.", Command: "mpremote connect PORT reset", See: lights}), nil
}

func inputsFiles(v *c99.View) string {
	if v.Reads.Any() {
		return ", inputs.c and inputs.h"
	}
	return ""
}

// onLoader lists what of the bench is on the pins of the host's loader: line or input, and pin.
func onLoader(im *firmware.Image) (out []string) {
	taken := func(label string) bool {
		p, ok := im.Host.Find(label)
		return ok && p.Has(host.Upload)
	}
	for i := range im.Modules {
		m := &im.Modules[i]
		for _, line := range m.Link.HostPins() {
			if taken(m.Pins[line]) {
				out = append(out, fmt.Sprintf("%s from %s", line, m.Pins[line]))
			}
		}
		for k := range m.Joints {
			for _, label := range []string{m.Joints[k].Pin, m.Joints[k].PinB} {
				if label != "" && taken(label) {
					in := &m.Show.Inputs[k]
					out = append(out, fmt.Sprintf("“%s” from %s", cmp.Or(in.Name, in.ID), label))
				}
			}
		}
	}
	for i := range im.Parts {
		p := &im.Parts[i]
		for k := range p.Pins {
			if label := p.Pins[k].Line(&im.Host); label != "" && taken(label) {
				out = append(out, fmt.Sprintf("“%s” %s from %s", cmp.Or(p.Name, p.ID), p.Pins[k].Name, label))
			}
		}
	}
	slices.Sort(out)
	return slices.Compact(out)
}
