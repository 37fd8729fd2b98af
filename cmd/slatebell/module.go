package main

import (
	"flag"
	"strconv"

	"slatebell/core/bench"
)

// moduleFlags adds the flags that describe a module and its link, and returns
// the document they fill, beginning with what a new bench has. finish checks it
// once the flags are read.
func moduleFlags(f *flag.FlagSet) (m *bench.Module, finish func() error) {
	doc := bench.NewModule("cli", "command line")
	m = &doc
	f.StringVar(&m.Geometry, "geometry", m.Geometry, "columns x rows, such as 16x2")
	f.StringVar(&m.Link.Kind, "link", m.Link.Kind, "backpack or parallel4")
	f.StringVar(&m.ROM, "rom", m.ROM, "character ROM")
	f.BoolVar(&m.Link.Backlight, "backlight", m.Link.Backlight, "backlight on (backpack)")
	address := f.String("address", "0x27", "I²C address of the backpack: 0x20–0x27 or 0x38–0x3F")
	return m, func() error {
		n, err := strconv.ParseUint(*address, 0, 7)
		if err != nil {
			return wrong(exitUsage, "address %q; expected 0x20–0x27 (PCF8574) or 0x38–0x3F (PCF8574A)", *address)
		}
		m.Link.Address = int(n)
		b := bench.Bench{Format: bench.Format, Version: bench.Version, Modules: []bench.Module{*m}}
		if err := b.Validate(); err != nil {
			return wrong(exitUsage, "%w", err)
		}
		return nil
	}
}
