package bench

import (
	"cmp"

	"slatebell/core/text/glyph"
	"slatebell/core/wire/link"
)

// V1 is the document of version 1, as it was saved: one host and one bus were
// taken for granted, and each module had one screen. It is never changed.
type V1 struct {
	Format  string     `json:"format"`
	Version int        `json:"version"`
	Name    string     `json:"name"`
	Modules []ModuleV1 `json:"modules"`
}

// ModuleV1 is a module of version 1.
type ModuleV1 struct {
	ID            string     `json:"id"`
	Name          string     `json:"name"`
	Geometry      string     `json:"geometry"`
	Technology    string     `json:"technology"`
	Family        string     `json:"family"`
	Font          string     `json:"font"`
	ROM           string     `json:"rom"`
	Chart         string     `json:"chart"`
	OscillatorKHz int        `json:"oscillatorKHz"`
	SupplyMV      int        `json:"supplyMV"`
	Contrast      *float64   `json:"contrast"`
	Brightness    int        `json:"brightness"`
	Waits         string     `json:"waits"`
	Tint          string     `json:"tint"`
	Link          LinkV1     `json:"link"`
	Glyphs        glyph.Bank `json:"glyphs"`
	Screen        struct {
		Rows []string `json:"rows"`
	} `json:"screen"`
}

// LinkV1 is a link of version 1.
type LinkV1 struct {
	Kind         string        `json:"kind"`
	Address      int           `json:"address"`
	Backlight    bool          `json:"backlight"`
	ReadWrite    bool          `json:"readWrite"`
	HostMV       int           `json:"hostMV"`
	PinNS        int           `json:"pinNs"`
	SpeedHz      int           `json:"speedHz"`
	Mapping      *link.Mapping `json:"mapping"`
	Transactions string        `json:"transactions"`
	Setup        string        `json:"setup"`
}

// Migrate returns the document of version 2 that means the same. What version 1
// kept for each module and version 2 keeps once, the voltage that the host's
// pins bear and the clock of the bus, becomes the host's and the bus's where all
// modules agree, and stays with the module that says otherwise.
func (old *V1) Migrate() Bench {
	b := Bench{Format: Format, Version: Version, Name: old.Name}
	b.Host.BearsMV = lowest(old.Modules, func(m *ModuleV1) int { return m.Link.HostMV })
	b.Bus.SpeedHz = lowest(old.Modules, func(m *ModuleV1) int {
		if m.Link.Kind != string(link.Backpack) {
			return 0
		}
		return cmp.Or(m.Link.SpeedHz, UsualBusHz)
	})
	if b.Bus.SpeedHz == UsualBusHz {
		b.Bus.SpeedHz = 0
	}
	for i := range old.Modules {
		b.Modules = append(b.Modules, old.Modules[i].migrate(&b))
	}
	return b
}

// lowest returns the least of what modules state, 0 where none states any.
func lowest(modules []ModuleV1, stated func(*ModuleV1) int) (least int) {
	for i := range modules {
		if v := stated(&modules[i]); v != 0 && (least == 0 || v < least) {
			least = v
		}
	}
	return least
}

func (m *ModuleV1) migrate(b *Bench) Module {
	l := &m.Link
	out := Module{
		ID: m.ID, Name: m.Name,
		Display: Display{
			Geometry: m.Geometry, Technology: m.Technology, Tint: m.Tint,
			Controller: Controller{Family: m.Family, Font: m.Font, ROM: m.ROM, Chart: m.Chart, OscillatorKHz: m.OscillatorKHz},
			Supply:     Supply{MilliVolts: m.SupplyMV, Contrast: m.Contrast, Brightness: m.Brightness},
		},
		Link: Link{
			Kind: l.Kind, ReadWrite: l.ReadWrite, Waits: m.Waits, PinNS: l.PinNS,
			Outputs: Outputs{Address: l.Address, Backlight: l.Backlight, Mapping: l.Mapping, SpeedHz: l.SpeedHz, Transactions: l.Transactions, Setup: l.Setup},
		},
		Glyphs:  m.Glyphs,
		Screens: []Screen{{ID: "screen-1", Rows: append([]string{}, m.Screen.Rows...)}},
	}
	if l.HostMV != b.Host.BearsMV {
		out.Link.HostMV = cmp.Or(l.HostMV, 5000)
	}
	if l.Kind == string(link.Backpack) {
		if cmp.Or(l.SpeedHz, UsualBusHz) == cmp.Or(b.Bus.SpeedHz, UsualBusHz) {
			out.Link.Outputs.SpeedHz = 0
		} else {
			out.Link.Outputs.SpeedHz = cmp.Or(l.SpeedHz, UsualBusHz)
		}
	}
	return out
}
