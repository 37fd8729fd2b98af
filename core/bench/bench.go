// Package bench is the saved document: a host with its bus and devices, the
// modules joined to it with their glyphs and screens, the library of glyphs, and
// the wiring. It says what a document may hold and builds what its parts
// describe; it computes nothing from them.
//
// It stands above the packages whose values it keeps and below run, which plays
// a module of a bench. Interface, API and command line exchange this document,
// in the form that formats/benchjson reads and writes.
package bench

import (
	"slatebell/core/bench/logbook"
	"slatebell/core/text/glyph"
	"slatebell/core/wire/link"
)

// Format and Version identify the document.
const (
	Format  = "slatebell-bench"
	Version = 2
)

// MaxModules is how many modules a bench holds.
const MaxModules = 64

// Bench is the saved document. Absent parts have the meaning of their zero
// values: a host whose pins bear 5 V, a bus at 100 kHz, no wiring begun. Host and
// bus are always written, so that a patch can test what they were.
type Bench struct {
	Format  string        `json:"format" enum:"slatebell-bench"`
	Version int           `json:"version" enum:"2"`
	Name    string        `json:"name" maxLength:"80"`
	Host    Host          `json:"host" required:"false"`
	Bus     Bus           `json:"bus" required:"false"`
	Devices []Device      `json:"devices,omitempty" nullable:"false" maxItems:"112" doc:"whatever else is on the bus"`
	Parts   []OwnPart     `json:"parts,omitempty" nullable:"false" maxItems:"16" doc:"parts that the bench knows nothing of but what their maker says"`
	Modules []Module      `json:"modules" nullable:"false" minItems:"1" maxItems:"64"`
	Glyphs  glyph.Library `json:"glyphs,omitempty" nullable:"false" maxItems:"2000" doc:"the library of glyphs"`
	Wiring  Wiring        `json:"wiring,omitzero"`
	Code    Code          `json:"code,omitzero" doc:"of the program that is exported"`
}

// Archive is a bench as it is passed on: with what was written down at it, which is kept by
// itself otherwise.
type Archive struct {
	Bench
	Log []logbook.Entry `json:"log,omitempty" nullable:"false" maxItems:"10000" doc:"what was written down at the bench; only where a bench is passed on, as entries are kept by themselves"`
}

// Module is one display with its link, its glyphs and its screens.
type Module struct {
	ID      string     `json:"id" minLength:"1" maxLength:"40" pattern:"^[a-z0-9-]+$"`
	Name    string     `json:"name" maxLength:"80"`
	Display Display    `json:"display"`
	Link    Link       `json:"link"`
	Fitting Fitting    `json:"fitting,omitzero"`
	Glyphs  glyph.Bank `json:"glyphs,omitempty" nullable:"false" maxItems:"8" doc:"what the slots of CGRAM hold"`
	Loading Loading    `json:"loading,omitzero" doc:"how glyphs are loaded while the screens follow each other"`
	Changes string     `json:"changes,omitempty" enum:"cheapest,steady,changed,pad,clear,over" doc:"how one screen is turned into the next: by the cheapest update, by the cheapest without a clear, by the cells that changed, by rows padded with spaces, by clearing and writing, or written over; absent: not decided"`
	Screens []Screen   `json:"screens" nullable:"false" minItems:"1" maxItems:"200"`
	Show    Show       `json:"show,omitzero"`
}

// NewModule returns a module as a maker would first buy it: 16×2 LCD, ROM A00,
// backpack at 0x27.
func NewModule(id, name string) Module {
	return Module{
		ID: id, Name: name,
		Display: Display{Geometry: "16x2", Technology: "lcd", Tint: "green", Controller: Controller{ROM: "A00", OscillatorKHz: 270}},
		Link:    Link{Kind: string(link.Backpack), Outputs: Outputs{Address: 0x27, Backlight: true}},
		Screens: []Screen{{ID: "screen-1", Rows: []string{}}},
	}
}

// New returns a bench with one new module.
func New(name string) Bench {
	return Bench{Format: Format, Version: Version, Name: name, Modules: []Module{NewModule("module-1", "New module")}}
}
