package bench

import (
	"cmp"
	"fmt"
	"strings"

	"periph.io/x/conn/v3/physic"

	"slatebell/core/part/charrom"
	"slatebell/core/part/circuit"
	"slatebell/core/part/hd44780"
	"slatebell/core/part/module"
)

// Display is a module as it was bought, with what was measured on it.
type Display struct {
	Geometry   string     `json:"geometry" maxLength:"100" doc:"such as 16x2, or a custom one such as 12x3@00,40,0C"`
	Technology string     `json:"technology" enum:"lcd,vfd"`
	Tint       string     `json:"tint,omitempty" enum:"green,blue,grey,amber,teal" doc:"colour of the glass"`
	Light      string     `json:"light,omitempty" enum:"none,open" doc:"LCD without a backlight: its header has 14 pins, or 16 of which A and K are joined to nothing; absent: it has one"`
	Controller Controller `json:"controller"`
	Supply     Supply     `json:"supply,omitzero" doc:"as planned"`
	Mounting   Mounting   `json:"mounting,omitzero" doc:"figures of its board that differ from the usual"`
	Measured   Measured   `json:"measured,omitzero" doc:"what was measured; it counts in place of what was planned"`
}

// Controller is the chip inside a module.
type Controller struct {
	Family        string `json:"family,omitempty" enum:"lcd,vfd-function-set,vfd-data-byte" doc:"absent: lcd, or vfd-function-set on a VFD"`
	Font          string `json:"font,omitempty" enum:"5x8,5x10" doc:"dots of a cell; absent: 5x8; 5x10 has one line only"`
	ROM           string `json:"rom" maxLength:"40" doc:"character ROM: A00, A02, or own"`
	Chart         string `json:"chart,omitempty" maxLength:"200000" doc:"the ROM chart where rom is own"`
	OscillatorKHz int    `json:"oscillatorKHz" minimum:"190" maximum:"350" doc:"kHz; 270 is typical"`
}

// Supply is how a module is fed and set.
type Supply struct {
	MilliVolts int      `json:"mV,omitempty" minimum:"0" maximum:"6000" doc:"2700–5500 mV; absent: 5000"`
	Contrast   *float64 `json:"contrast,omitempty" minimum:"0" maximum:"2" doc:"LCD: VDD − VO as a part of VDD, above 1 where VO is below ground; absent: what the module reads well at"`
	Brightness int      `json:"brightness,omitempty" minimum:"0" maximum:"3" doc:"VFD: quarters below full"`
}

// Measured is what was measured on a module; 0 and absent mean not measured.
type Measured struct {
	SupplyMV  int     `json:"supplyMV,omitempty" minimum:"0" maximum:"6000" doc:"VDD against VSS, in millivolts"`
	VOMV      *int    `json:"voMV,omitempty" minimum:"-6000" maximum:"6000" doc:"VO against VSS, in millivolts"`
	CurrentMA float64 `json:"currentMA,omitempty" minimum:"0" maximum:"5000" doc:"of the whole module, in milliamperes"`

	OscillatorKHz int `json:"oscillatorKHz,omitempty" minimum:"0" maximum:"350" doc:"190–350 kHz, by the busy flag"`
}

// Mounting is figures of a module's board, in millimetres; 0 and absent mean the
// usual of its geometry.
type Mounting struct {
	WidthMM        float64 `json:"widthMM,omitempty" minimum:"0" maximum:"500" doc:"of the board"`
	HeightMM       float64 `json:"heightMM,omitempty" minimum:"0" maximum:"500"`
	HolesAcrossMM  float64 `json:"holesAcrossMM,omitempty" minimum:"0" maximum:"500" doc:"between centres of holes"`
	HolesUpMM      float64 `json:"holesUpMM,omitempty" minimum:"0" maximum:"500"`
	HoleMM         float64 `json:"holeMM,omitempty" minimum:"0" maximum:"20" doc:"across a hole"`
	WindowWidthMM  float64 `json:"windowWidthMM,omitempty" minimum:"0" maximum:"500" doc:"what can be seen"`
	WindowHeightMM float64 `json:"windowHeightMM,omitempty" minimum:"0" maximum:"500"`
	BezelWidthMM   float64 `json:"bezelWidthMM,omitempty" minimum:"0" maximum:"500" doc:"metal frame around the window"`
	BezelHeightMM  float64 `json:"bezelHeightMM,omitempty" minimum:"0" maximum:"500"`
	RightMM        float64 `json:"rightMM,omitempty" minimum:"-250" maximum:"250" doc:"window's centre right of the board's, seen from the front"`
	UpMM           float64 `json:"upMM,omitempty" minimum:"-250" maximum:"250"`
}

// Board returns the board of a module: the usual one of its geometry, with the
// figures that the document states.
func (d *Display) Board() module.Outline {
	b := module.UsualBoard(d.Geometry)
	m := &d.Mounting
	for _, f := range []struct {
		mm float64
		to *physic.Distance
	}{
		{m.WidthMM, &b.Outline.W}, {m.HeightMM, &b.Outline.H}, {m.HolesAcrossMM, &b.Holes.W}, {m.HolesUpMM, &b.Holes.H}, {m.HoleMM, &b.Hole},
		{m.WindowWidthMM, &b.Window.W}, {m.WindowHeightMM, &b.Window.H}, {m.BezelWidthMM, &b.Bezel.W}, {m.BezelHeightMM, &b.Bezel.H},
		{m.RightMM, &b.Right}, {m.UpMM, &b.Up},
	} {
		if f.mm != 0 {
			*f.to = module.MM(f.mm)
		}
	}
	if !b.Holes.Zero() && b.Hole == 0 {
		b.Hole = module.UsualHole
	}
	return b
}

// OwnROM is the name of a ROM that the document carries as a chart.
const OwnROM = "own"

// Module builds the display. Its error is a Problem.
func (d *Display) Module() (module.Module, error) {
	g, err := module.ParseGeometry(d.Geometry)
	if err != nil {
		return module.Module{}, Problem{Path: "/geometry", What: err.Error()}
	}
	c := &d.Controller
	rom, err := c.Table()
	if err != nil {
		return module.Module{}, err
	}
	osc := physic.Frequency(cmp.Or(d.Measured.OscillatorKHz, c.OscillatorKHz)) * physic.KiloHertz
	if osc < hd44780.MinOscillator || osc > hd44780.MaxOscillator {
		path := "/controller/oscillatorKHz"
		if d.Measured.OscillatorKHz != 0 {
			path = "/measured/oscillatorKHz"
		}
		return module.Module{}, Problem{Path: path, What: fmt.Sprintf("%d kHz; expected 190–350 kHz, typically 270", osc/physic.KiloHertz)}
	}
	tech := module.Technology(d.Technology)
	if tech != module.LCD && tech != module.VFD {
		return module.Module{}, Problem{Path: "/technology", What: fmt.Sprintf("%q; expected lcd or vfd", d.Technology)}
	}
	family, ok := Family(c.Family)
	switch {
	case !ok:
		return module.Module{}, Problem{Path: "/controller/family", What: fmt.Sprintf("%q; expected lcd, vfd-function-set or vfd-data-byte", c.Family)}
	case c.Family == "" && tech == module.VFD:
		family = hd44780.VFDFunctionSet
	case (family == hd44780.LCD) != (tech == module.LCD):
		return module.Module{}, Problem{Path: "/controller/family", What: fmt.Sprintf("%q does not drive technology %q", c.Family, d.Technology)}
	}
	mv := cmp.Or(d.Measured.SupplyMV, d.Supply.MilliVolts)
	if mv != 0 && (mv < 2700 || mv > 5500) {
		path := "/supply/mV"
		if d.Measured.SupplyMV != 0 {
			path = "/measured/supplyMV"
		}
		return module.Module{}, Problem{Path: path, What: fmt.Sprintf("%d mV; expected 2700–5500 mV, usually 5000", mv)}
	}
	switch {
	case c.Font != "" && c.Font != "5x8" && c.Font != "5x10":
		return module.Module{}, Problem{Path: "/controller/font", What: fmt.Sprintf("%q; expected 5x8 or 5x10", c.Font)}
	case c.Font == "5x10" && g.TwoLine:
		return module.Module{}, Problem{Path: "/controller/font", What: fmt.Sprintf("5x10 dots on %s; the controller drives them on one line only, expected 5x8 or a geometry with one line in memory", g.Name)}
	case c.Font == "5x10" && tech == module.VFD:
		return module.Module{}, Problem{Path: "/controller/font", What: "5x10 dots on a VFD; its controllers have no font bit, expected 5x8"}
	}
	return module.Module{
		Geometry: g, Technology: tech, Family: family, ROM: rom, Tall: c.Font == "5x10", Oscillator: osc,
		Unlit: d.Light != "" && tech == module.LCD, Short: d.Light == "none" && tech == module.LCD,
		Supply: physic.ElectricPotential(mv) * physic.MilliVolt,
	}, nil
}

// Contrast returns the part of VDD that lies between VDD and VO: what was
// measured, what was set, or what the module reads well at.
func (d *Display) Contrast(m *module.Module) float64 {
	switch {
	case d.Measured.VOMV != nil && m.Fed() > 0:
		return m.ContrastAt(circuit.MilliVolts(*d.Measured.VOMV))
	case d.Supply.Contrast != nil:
		return *d.Supply.Contrast
	}
	return m.UsualContrast()
}

// families maps the document's words to controller families.
var families = map[string]hd44780.Family{"": hd44780.LCD, "lcd": hd44780.LCD, "vfd-function-set": hd44780.VFDFunctionSet, "vfd-data-byte": hd44780.VFDDataByte}

// Family returns the controller family that a document's word names.
func Family(name string) (hd44780.Family, bool) {
	f, ok := families[name]
	return f, ok
}

// Table returns the controller's character ROM. Its error is a Problem.
func (c *Controller) Table() (*charrom.ROM, error) {
	if c.ROM == OwnROM {
		rom, err := charrom.Parse(strings.NewReader(c.Chart))
		if err != nil {
			return nil, Problem{Path: "/controller/chart", What: err.Error()}
		}
		return rom, nil
	}
	rom, ok := charrom.ByName(c.ROM)
	if !ok {
		return nil, Problem{Path: "/controller/rom", What: fmt.Sprintf("ROM %q is not known; expected one of %s, or own with a chart", c.ROM, strings.Join(charrom.Names(), ", "))}
	}
	return rom, nil
}

// Fed returns what feeds the module: as it was measured, or as it is planned; 5 V where nobody said.
func (m *Module) Fed() physic.ElectricPotential {
	return circuit.MilliVolts(cmp.Or(m.Display.Measured.SupplyMV, m.Display.Supply.MilliVolts, 5000))
}
