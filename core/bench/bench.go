// Package bench is the saved document, a host's bench with its modules, and
// the run that closes the loop: a module's screen is composed, compiled to wire
// traffic, played into a rig wired like the module, and the glass compared with
// the screen.
//
// It stands on top of core: interface, API and command line call it, so that
// all three give the same bytes and the same findings.
package bench

import (
	"fmt"
	"strings"
	"time"
	"unicode/utf8"

	"periph.io/x/conn/v3/physic"

	"slatebell/core/charrom"
	"slatebell/core/glyph"
	"slatebell/core/hd44780"
	"slatebell/core/link"
	"slatebell/core/module"
	"slatebell/core/screen"
	"slatebell/core/sequence"
)

// Format and Version identify the document.
const (
	Format  = "slatebell-bench"
	Version = 1
)

// Bench is the saved document.
type Bench struct {
	Format  string   `json:"format" enum:"slatebell-bench"`
	Version int      `json:"version" enum:"1"`
	Name    string   `json:"name" maxLength:"80"`
	Modules []Module `json:"modules" nullable:"false" minItems:"1" maxItems:"64"`
}

// Module is one display with its link and its screen.
type Module struct {
	ID            string        `json:"id" minLength:"1" maxLength:"40" pattern:"^[a-z0-9-]+$"`
	Name          string        `json:"name" maxLength:"80"`
	Geometry      string        `json:"geometry" doc:"such as 16x2, or a custom one such as 12x3@00,40,0C"`
	Technology    string        `json:"technology" enum:"lcd,vfd"`
	Family        string        `json:"family,omitempty" enum:"lcd,vfd-function-set,vfd-data-byte" doc:"controller; absent: lcd, or vfd-function-set on a VFD"`
	Font          string        `json:"font,omitempty" enum:"5x8,5x10" doc:"dots of a cell; absent: 5x8; 5x10 has one line only"`
	ROM           string        `json:"rom" doc:"character ROM: A00, A02, or own"`
	Chart         string        `json:"chart,omitempty" maxLength:"200000" doc:"the ROM chart where rom is own"`
	OscillatorKHz int           `json:"oscillatorKHz" minimum:"190" maximum:"350" doc:"kHz; 270 is typical"`
	SupplyMV      int           `json:"supplyMV,omitempty" doc:"supply in millivolts, 2700–5500; absent: 5000"`
	Contrast      *float64      `json:"contrast,omitempty" minimum:"0" maximum:"2" doc:"LCD: VDD − VO as a part of VDD, above 1 where VO is below ground; absent: what the module reads well at"`
	Brightness    int           `json:"brightness,omitempty" minimum:"0" maximum:"3" doc:"VFD: quarters below full"`
	Waits         string        `json:"waits,omitempty" enum:"worst,typical,poll" doc:"absent: worst"`
	Tint          string        `json:"tint,omitempty" enum:"green,blue,grey,amber,teal" doc:"colour of the glass"`
	Link          Link          `json:"link"`
	Glyphs        glyph.Bank    `json:"glyphs,omitempty" nullable:"false" maxItems:"8" doc:"what the slots hold"`
	Screen        screen.Screen `json:"screen"`
}

// Link is a link's saved settings.
type Link struct {
	Kind         string        `json:"kind" enum:"backpack,parallel4,parallel8,shift"`
	Address      int           `json:"address" minimum:"0" maximum:"127" doc:"7-bit I²C address of the backpack"`
	Backlight    bool          `json:"backlight"`
	ReadWrite    bool          `json:"readWrite,omitempty" doc:"parallel: R/W is joined to the host"`
	HostMV       int           `json:"hostMV,omitempty" doc:"highest voltage the host's pins bear, in millivolts; absent: 5000"`
	PinNS        int           `json:"pinNs,omitempty" minimum:"0" maximum:"1000000" doc:"parallel: nanoseconds between two changes of the host's pins; absent: 1000"`
	SpeedHz      int           `json:"speedHz,omitempty" doc:"I²C or shift clock in hertz; absent: the usual"`
	Mapping      *link.Mapping `json:"mapping,omitempty" doc:"expander outputs; absent: the usual"`
	Transactions string        `json:"transactions,omitempty" enum:"byte,operation,screen" doc:"backpack; absent: screen"`
	Setup        string        `json:"setup,omitempty" enum:"lawful,before,with-e" doc:"how RS and data precede E; absent: lawful"`
}

// NewModule returns a module as a maker would first buy it: 16×2 LCD, ROM A00,
// backpack at 0x27.
func NewModule(id, name string) Module {
	return Module{
		ID: id, Name: name, Geometry: "16x2", Technology: "lcd", ROM: "A00", OscillatorKHz: 270, Tint: "green",
		Link:   Link{Kind: string(link.Backpack), Address: 0x27, Backlight: true},
		Screen: screen.Screen{Rows: []string{}},
	}
}

// New returns a bench with one new module.
func New(name string) Bench {
	return Bench{Format: Format, Version: Version, Name: name, Modules: []Module{NewModule("module-1", "New module")}}
}

// Problem is one thing wrong with a document.
type Problem struct {
	Path string // as "modules[0].link.address"
	What string // what was wrong and what would be right
}

// Problems is the error that Validate returns.
type Problems []Problem

func (p Problems) Error() string {
	parts := make([]string, len(p))
	for i, one := range p {
		parts[i] = one.Path + ": " + one.What
	}
	return strings.Join(parts, "; ")
}

// Validate returns Problems, or nil where the document can be run.
func (b *Bench) Validate() error {
	var p Problems
	if b.Format != Format || b.Version != Version {
		p = append(p, Problem{"format", fmt.Sprintf("%q version %d; expected %q version %d", b.Format, b.Version, Format, Version)})
	}
	if len(b.Modules) == 0 {
		p = append(p, Problem{"modules", "empty; a bench has at least one module"})
	}
	ids := map[string]bool{}
	for i := range b.Modules {
		m := &b.Modules[i]
		path := fmt.Sprintf("modules[%d]", i)
		if ids[m.ID] {
			p = append(p, Problem{path + ".id", fmt.Sprintf("%q is another module's id", m.ID)})
		}
		ids[m.ID] = true
		p = append(p, m.problems(path+".")...)
	}
	if len(p) == 0 {
		return nil
	}
	return p
}

// problems lists what is wrong with a module, each path behind a prefix.
func (m *Module) problems(prefix string) (p Problems) {
	if _, err := m.Module(); err != nil {
		p = append(p, err.(Problem).under(prefix))
	}
	l := m.Wiring()
	if err := l.Validate(); err != nil {
		p = append(p, Problem{prefix + "link", err.Error()})
	}
	if err := sequence.CheckWaits(sequence.Waits(m.Waits), l); err != nil {
		p = append(p, Problem{prefix + "waits", err.Error()})
	}
	for i, row := range m.Screen.Rows {
		if n := utf8.RuneCountInString(row); n > screen.MaxRow || strings.ContainsAny(row, "\n\r") {
			p = append(p, Problem{fmt.Sprintf("%sscreen.rows[%d]", prefix, i), fmt.Sprintf("%d characters; a row is one line of at most %d", n, screen.MaxRow)})
		}
	}
	return p
}

func (p Problem) Error() string { return p.Path + ": " + p.What }

func (p Problem) under(prefix string) Problem { return Problem{prefix + p.Path, p.What} }

// Module builds the display that the document describes. Its error is a
// Problem.
func (m *Module) Module() (module.Module, error) {
	g, err := module.ParseGeometry(m.Geometry)
	if err != nil {
		return module.Module{}, Problem{"geometry", err.Error()}
	}
	rom, err := m.rom()
	if err != nil {
		return module.Module{}, err
	}
	osc := physic.Frequency(m.OscillatorKHz) * physic.KiloHertz
	if osc < hd44780.MinOscillator || osc > hd44780.MaxOscillator {
		return module.Module{}, Problem{"oscillatorKHz", fmt.Sprintf("%d kHz; expected 190–350 kHz, typically 270", m.OscillatorKHz)}
	}
	tech := module.Technology(m.Technology)
	if tech != module.LCD && tech != module.VFD {
		return module.Module{}, Problem{"technology", fmt.Sprintf("%q; expected lcd or vfd", m.Technology)}
	}
	family, ok := Family(m.Family)
	switch {
	case !ok:
		return module.Module{}, Problem{"family", fmt.Sprintf("%q; expected lcd, vfd-function-set or vfd-data-byte", m.Family)}
	case m.Family == "" && tech == module.VFD:
		family = hd44780.VFDFunctionSet
	case (family == hd44780.LCD) != (tech == module.LCD):
		return module.Module{}, Problem{"family", fmt.Sprintf("%q does not drive technology %q", m.Family, m.Technology)}
	}
	supply := physic.ElectricPotential(m.SupplyMV) * physic.MilliVolt
	if m.SupplyMV != 0 && (m.SupplyMV < 2700 || m.SupplyMV > 5500) {
		return module.Module{}, Problem{"supplyMV", fmt.Sprintf("%d mV; expected 2700–5500 mV, usually 5000", m.SupplyMV)}
	}
	if m.Font == "5x10" && g.TwoLine {
		return module.Module{}, Problem{"font", fmt.Sprintf("5x10 dots on %s; the controller drives them on one line only, expected 5x8 or a geometry with one line in memory", g.Name)}
	}
	if m.Font == "5x10" && tech == module.VFD {
		return module.Module{}, Problem{"font", "5x10 dots on a VFD; its controllers have no font bit, expected 5x8"}
	}
	if m.Font != "" && m.Font != "5x8" && m.Font != "5x10" {
		return module.Module{}, Problem{"font", fmt.Sprintf("%q; expected 5x8 or 5x10", m.Font)}
	}
	mod := module.Module{Geometry: g, Technology: tech, Family: family, ROM: rom, Tall: m.Font == "5x10", Oscillator: osc, Supply: supply}
	if err := m.Glyphs.Validate(mod.SlotStep()); err != nil {
		return module.Module{}, Problem{"glyphs", err.Error()}
	}
	return mod, nil
}

// families maps the document's words to controller families.
var families = map[string]hd44780.Family{"": hd44780.LCD, "lcd": hd44780.LCD, "vfd-function-set": hd44780.VFDFunctionSet, "vfd-data-byte": hd44780.VFDDataByte}

// Family returns the controller family that a document's word names.
func Family(name string) (hd44780.Family, bool) {
	f, ok := families[name]
	return f, ok
}

// OwnROM is the name of a ROM that the document carries as a chart.
const OwnROM = "own"

// rom returns the module's character ROM. Its error is a Problem.
func (m *Module) rom() (*charrom.ROM, error) {
	if m.ROM == OwnROM {
		rom, err := charrom.Parse(strings.NewReader(m.Chart))
		if err != nil {
			return nil, Problem{"chart", err.Error()}
		}
		return rom, nil
	}
	rom, ok := charrom.ByName(m.ROM)
	if !ok {
		return nil, Problem{"rom", fmt.Sprintf("ROM %q is not known; expected one of %s, or own with a chart", m.ROM, strings.Join(charrom.Names(), ", "))}
	}
	return rom, nil
}

// Wiring builds the link that the document describes; Validate of package link
// says whether it can be.
func (m *Module) Wiring() link.Link {
	l := link.New(link.Kind(m.Link.Kind))
	l.Address, l.Backlight = uint8(min(max(m.Link.Address, 0), 255)), m.Link.Backlight
	if g, err := module.ParseGeometry(m.Geometry); err == nil {
		l.Enables = g.Controllers
	}
	l.PinTime = time.Duration(m.Link.PinNS)
	if m.Link.SpeedHz != 0 {
		l.Speed = physic.Frequency(m.Link.SpeedHz) * physic.Hertz
	}
	if m.Link.Mapping != nil {
		l.Mapping = *m.Link.Mapping
	} else if l.Enables == 2 {
		l.Mapping.E2, l.Mapping.Backlight = l.Mapping.Backlight, link.Open
	}
	if m.Link.Transactions != "" {
		l.Grouping = link.Grouping(m.Link.Transactions)
	}
	if m.Link.Setup != "" {
		l.Setup = link.Setup(m.Link.Setup)
	}
	l.ReadWrite = m.Link.ReadWrite
	if l.Kind == link.Backpack {
		l.ReadWrite = l.Mapping.RW != link.Open
	}
	if l.Kind == link.ShiftReg {
		l.ReadWrite = false // a 74HC595 has no inputs
	}
	return l
}
