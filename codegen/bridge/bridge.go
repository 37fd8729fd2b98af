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
	"slatebell/core/part/host"
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

// interpreted writes the bridge in MicroPython, which has more room.
func (v *view) interpreted(im *firmware.Image) ([]source.File, error) {
	v.Machine, v.NewBus = micropython.Bus(v.View.View, im)
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
	h.Backpack, h.PollBus = v.Plan.Bus || v.hasBus(), v.Plan.Bus || v.hasBus()
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
	if len(v.analogue()) > 0 {
		can |= protocol.CanMeasure
		v.Reads.Analogue, v.Reads.Most = []layout.Voltage{{}}, 1<<v.Board.Resolution()-1
	}
	v.Can = int(can)
}

// hasBus reports whether the host has pins for a bus that no module's line takes.
func (v *view) hasBus() bool {
	for i := range v.Plan.Modules {
		for _, l := range v.Plan.Modules[i].Lines {
			if l.Pin == v.Plan.SDA || l.Pin == v.Plan.SCL {
				return false
			}
		}
	}
	return v.Plan.SDA != "" && v.Plan.SCL != ""
}

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
	var free []string
	for i := range v.Board.Pins {
		p := &v.Board.Pins[i]
		if n, ok := v.Board.Number(p.Label); ok && n < 128 && p.Listens() && !p.Has(host.Upload) && !v.taken(p.Label) {
			free = append(free, fmt.Sprint(n))
		}
	}
	v.Free, v.Analogue = strings.Join(free, ", "), strings.Join(v.analogue(), ", ")
}

// taken reports whether a pin is a line's, or the bus's.
func (v *view) taken(label string) bool {
	if v.Has.Backpack && (label == v.Plan.SDA || label == v.Plan.SCL) {
		return true
	}
	for i := range v.Plan.Modules {
		if slices.ContainsFunc(v.Plan.Modules[i].Lines, func(l bridge.Line) bool { return l.Pin == label }) {
			return true
		}
	}
	return false
}

// analogue are the numbers of pins whose voltage the bridge may measure.
func (v *view) analogue() (out []string) {
	for i := range v.Board.Pins {
		p := &v.Board.Pins[i]
		if n, ok := v.Board.Number(p.Label); ok && n < 256 && p.Has(host.Analog) && !v.taken(p.Label) {
			out = append(out, fmt.Sprint(n))
		}
	}
	return out
}
