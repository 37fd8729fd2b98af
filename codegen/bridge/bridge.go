// Package bridge writes the program by which the page drives a bench's modules over the board's USB line: C with a
// Makefile for ATmegas, a sketch, and MicroPython. All are the same as package device of live, and are held against it.
package bridge

import (
	"embed"
	"fmt"
	"slices"
	"strings"

	"slatebell/codegen/c99"
	"slatebell/codegen/layout"
	"slatebell/codegen/micropython"
	"slatebell/codegen/sketch"
	"slatebell/codegen/source"
	"slatebell/core/ship/bridge"
	"slatebell/core/ship/firmware"
	"slatebell/core/wire/link"
	"slatebell/live/protocol"
)

//go:embed *.tmpl
var templates embed.FS

// Baud is the speed of the line to the computer: what loaders of ATmega boards use (common practice).
const Baud = 115200

// view is what the templates are filled in with.
type view struct {
	*c99.View
	Plan                   *bridge.Plan
	Editor                 *sketch.Editor
	Version, Digest, Can   int
	Body, Results, Credits int
	MostData, Baud         int
	Rows                   []string // of each module, the table's row
	Free, Analogue         string   // pins
	Machine, NewBus        string   // in MicroPython
	UARTs                  []string // in MicroPython: number, and what listens
	Down                   int      // bits that a reading of 16 has more than the host's converter
}

// Files writes the bridge of a bench. The image has no modules; its host and its pins of the bus are what counts. editor
// asks for the sketch, interpreter for MicroPython.
func Files(p *bridge.Plan, im *firmware.Image, editor, interpreter bool) ([]source.File, error) {
	c, err := c99.New(im)
	if err != nil {
		return nil, err
	}
	v := &view{
		View: c, Plan: p, Editor: sketch.NewEditor(c.View, im), Version: protocol.Version, Digest: int(protocol.CRC([]byte(p.Text()))),
		Body: 120, Results: 48, Credits: 2, MostData: protocol.MostData, Baud: Baud,
	}
	v.BusHz = p.BusHz
	v.needs()
	v.tables()
	var files []source.File
	if own, ok := c99.UploadOf(im.Host.Chip); ok {
		v.Upload = &own
		made, err := v.render("bridge.c", "bridge.h", "bridge_avr.c", "port.h", "port_avr.c", "bridge.mk")
		if err != nil {
			return nil, err
		}
		made[len(made)-1].Name = "Makefile"
		files = append(files, made...)
	}
	if editor {
		v.Sketch = true
		made, err := v.render("bridge.ino", "bridge.c", "bridge.h", "bridge_avr.c", "port.h", "port.ino", "port_avr.c")
		if err != nil {
			return nil, err
		}
		for i := range made {
			made[i].Name = "bridge/" + made[i].Name // the editor asks for a folder of the sketch's name
		}
		files = append(files, made...)
	}
	if interpreter {
		made, err := v.interpreted(im)
		if err != nil {
			return nil, err
		}
		files = append(files, made...)
	}
	if len(files) == 0 {
		return nil, fmt.Errorf("there is no bridge for %s: it is written for ATmega328P and ATmega2560, and for boards that the editor for hobby boards knows", im.Host.Chip)
	}
	return files, nil
}

// ELF is the file that the bridge is built as.
const ELF = "bridge.elf"

// Build returns what avr-gcc is told to build the bridge for its host, in the directory of its files, as its Makefile does, and how it gets
// there; false where the host is no ATmega that it is built for.
func Build(im *firmware.Image) (args []string, to c99.Upload, ok bool) {
	to, ok = c99.UploadOf(im.Host.Chip)
	if !ok {
		return nil, to, false
	}
	v, err := c99.New(im)
	if err != nil {
		return nil, to, false
	}
	args = append([]string{"-mmcu=" + to.MCU}, strings.Fields(strings.Join([]string{v.Flags.C, v.Flags.AVR, v.Flags.Link}, " "))...)
	return append(args, "-o", ELF, "bridge.c", "bridge_avr.c", "port_avr.c"), to, true
}

// interpreted writes the bridge in MicroPython, which has more room.
func (v *view) interpreted(im *firmware.Image) ([]source.File, error) {
	v.Machine, v.NewBus = micropython.Bus(v.View.View, im)
	for _, l := range v.Reads.Lines {
		v.UARTs = append(v.UARTs, fmt.Sprintf("%d: %s", l.Number, micropython.UART(&v.Reads, l)))
	}
	v.Body, v.Results, v.Down = 200, 100, 16-v.Board.Resolution()
	files, err := source.Render([]embed.FS{templates}, []string{"bridge.py", "main.py"}, source.InPython, v.File, v, nil)
	for i := range files {
		files[i].Name = files[i].Template
	}
	return files, err
}

func (v *view) render(names ...string) ([]source.File, error) {
	files, err := v.View.Render(v, names, sketch.Templates, templates)
	for i := range files {
		files[i].Name = files[i].Template // they have no name of the bench in them
	}
	return files, err
}

// needs says what of the port the bridge asks for: whatever its links take, and to read every other pin.
func (v *view) needs() {
	h := &v.Has
	h.Backpack, h.PollBus = v.Plan.HasBus(), v.Plan.HasBus()
	for i := range v.Plan.Modules {
		kind := v.Plan.Modules[i].Link.Kind
		h.Pins = h.Pins || kind != link.Backpack
		h.Shift = h.Shift || kind == link.ShiftReg
	}
	h.Stage.Any = true // which asks for port_passed
	can := protocol.CanLevel
	if h.Backpack {
		can |= protocol.CanBus
	}
	if h.Pins {
		can |= protocol.CanPins
	}
	v.Reads.Pins = []layout.Pin{{}}
	if len(v.Plan.Analogue()) > 0 {
		can |= protocol.CanMeasure
		v.Reads.Analogue, v.Reads.Most = []layout.Voltage{{}}, 1<<v.Board.Resolution()-1
	}
	can |= protocol.CanClock | protocol.CanTurn
	for i, s := range v.Plan.Heard {
		line := layout.SerialLine{N: i, Number: s.Number, Baud: s.Baud, Buffer: serialRoom, Pin: v.PinName(s.Pin), Label: s.Pin}
		if other, ok := v.Board.Line(s.Pin); ok && other.TX != s.Pin {
			line.TX = v.PinName(other.TX)
		}
		v.Reads.Lines = append(v.Reads.Lines, line)
		can |= protocol.CanHear
	}
	v.Can = int(can)
}

// serialRoom is how many characters of a serial line wait until they are asked for: a tenth of a second at 9,600 baud is 96.
const serialRoom = 120

// tables lays out lines and pins.
func (v *view) tables() {
	for i := range v.Plan.Modules {
		m := &v.Plan.Modules[i]
		row := slices.Repeat([]string{"NONE"}, 14)
		switch m.Link.Kind {
		case link.ShiftReg:
			row[0] = "SHIFT"
		case link.Parallel4:
			row[0] = "FOUR"
		case link.Parallel8:
			row[0] = "EIGHT"
		default:
			row[0] = "ON_BUS"
		}
		row[1] = "0"
		if m.Reads {
			row[1] = "1"
		}
		columns := map[string]int{"RS": 2, "R/W": 3, "E": 4, "E2": 5, "data": 2, "clock": 3, "latch": 4}
		for d := range 8 {
			columns[fmt.Sprintf("D%d", d)] = 6 + d
		}
		for _, l := range m.Lines {
			row[columns[l.Name]] = fmt.Sprint(l.N)
		}
		v.Rows = append(v.Rows, strings.Join(row, ", "))
	}
	v.Free, v.Analogue = v.numbers(v.Plan.Free(), 128), v.numbers(v.Plan.Analogue(), 256)
}

// numbers writes what programs call some pins, as far as they fit into so many.
func (v *view) numbers(labels []string, below int) string {
	var out []string
	for _, label := range labels {
		if n, ok := v.Board.Number(label); ok && n < below {
			out = append(out, fmt.Sprint(n))
		}
	}
	return strings.Join(out, ", ")
}
