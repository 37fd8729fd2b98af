package main

import (
	"flag"
	"fmt"
	"os"
	"strconv"

	"slatebell/core/bench"
	"slatebell/core/link"
)

// moduleFlags adds the flags that describe a module and its link, and returns
// the document they fill, beginning with what a new bench has. finish reads
// what needs reading and checks it, once the flags are parsed.
func moduleFlags(f *flag.FlagSet) (m *bench.Module, finish func() error) {
	doc := bench.NewModule("cli", "command line")
	m = &doc
	f.StringVar(&m.Geometry, "geometry", m.Geometry, "columns x rows, such as 16x2, or a custom one such as 12x3@00,40,0C")
	f.StringVar(&m.Link.Kind, "link", m.Link.Kind, "backpack, parallel4, parallel8 or shift")
	f.StringVar(&m.Font, "font", "5x8", "dots of a cell: 5x8, or 5x10 on one line")
	f.StringVar(&m.ROM, "rom", m.ROM, "character ROM: A00, A02, or the path of a ROM chart")
	f.BoolVar(&m.Link.Backlight, "backlight", m.Link.Backlight, "backlight on (backpack, shift)")
	f.IntVar(&m.OscillatorKHz, "osc", m.OscillatorKHz, "oscillator in kHz, 190–350")
	f.IntVar(&m.SupplyMV, "supply", 5000, "supply in millivolts, 2700–5500; sets the limits of the bus")
	f.IntVar(&m.Link.PinNS, "pin-ns", 1000, "nanoseconds that the host takes to move a pin (parallel)")
	f.StringVar(&m.Waits, "waits", "worst", "worst (at 190 kHz), typical (at --osc) or poll (busy flag; needs R/W)")
	f.BoolVar(&m.Link.ReadWrite, "rw", false, "R/W is joined to the host (parallel)")
	f.StringVar(&m.Link.Transactions, "transactions", "screen", "I²C transactions: byte, operation or screen")
	f.StringVar(&m.Link.Setup, "setup", "lawful", "RS and data before E: lawful, before or with-e")
	f.StringVar(&m.Family, "family", "lcd", "controller: lcd, vfd-function-set or vfd-data-byte")
	brightness := f.Int("brightness", 100, "brightness of a VFD in percent: 100, 75, 50 or 25")
	address := f.String("address", "0x27", "I²C address of the backpack: 0x20–0x27 or 0x38–0x3F")
	mapping := f.String("mapping", "", "outputs of expander or shift register, such as "+link.UsualMapping.String()+"; !BL for a backlight that is on while low")
	speed := f.Int("speed", 0, "I²C or shift clock in kHz (default 100 on I²C, 500 on a shift register)")
	return m, func() error {
		n, err := strconv.ParseUint(*address, 0, 7)
		if err != nil {
			return wrong(exitUsage, "address %q; expected 0x20–0x27 (PCF8574) or 0x38–0x3F (PCF8574A)", *address)
		}
		m.Link.Address = int(n)
		if *mapping != "" {
			parsed, err := link.ParseMapping(*mapping)
			if err != nil {
				return wrong(exitUsage, "%w", err)
			}
			m.Link.Mapping = &parsed
		}
		if *speed < 0 {
			return wrong(exitUsage, "speed %d kHz; expected more than 0", *speed)
		}
		m.Link.SpeedHz = *speed * 1000
		if *brightness%25 != 0 || *brightness < 25 || *brightness > 100 {
			return wrong(exitUsage, "brightness %d; expected 100, 75, 50 or 25 percent", *brightness)
		}
		m.Brightness = 4 - *brightness/25
		if m.Family != "lcd" {
			m.Technology = "vfd"
		}
		if err := readChart(m); err != nil {
			return err
		}
		b := bench.Bench{Format: bench.Format, Version: bench.Version, Modules: []bench.Module{*m}}
		if err := b.Validate(); err != nil {
			return wrong(exitUsage, "%w", err)
		}
		return nil
	}
}

// readChart reads the ROM chart where --rom names a file.
func readChart(m *bench.Module) error {
	text, err := os.ReadFile(m.ROM)
	if err != nil {
		return nil // no file: it is a built-in ROM's name, or Validate says what would be right
	}
	m.ROM, m.Chart = bench.OwnROM, string(text)
	if _, err := m.Module(); err != nil {
		return wrong(exitUsage, "%w", fmt.Errorf("--rom: %w", err))
	}
	return nil
}
