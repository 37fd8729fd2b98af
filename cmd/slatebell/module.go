package main

import (
	"fmt"
	"os"
	"strconv"
	"strings"

	"github.com/spf13/cobra"

	"slatebell/core/bench"
	"slatebell/core/part/charrom"
	"slatebell/core/part/module"
	"slatebell/core/prove/testbed"
	"slatebell/core/wire/link"
)

// moduleFlags are the flags that describe a module and its link, beginning with
// what a new bench has.
type moduleFlags struct {
	module            bench.Module
	brightness, speed int
	address, mapping  string
}

// addModuleFlags adds them to a command.
func addModuleFlags(c *cobra.Command) *moduleFlags {
	m := &moduleFlags{module: bench.NewModule("cli", "command line")}
	d, l, f := &m.module.Display, &m.module.Link, c.Flags()
	f.StringVar(&d.Geometry, "geometry", d.Geometry, "columns x rows, such as 16x2, or a custom one such as 12x3@00,40,0C")
	f.StringVar(&l.Kind, "link", l.Kind, "backpack, parallel4, parallel8 or shift")
	f.StringVar(&d.Controller.Font, "font", "5x8", "dots of a cell: 5x8, or 5x10 on one line")
	f.StringVar(&d.Controller.ROM, "rom", d.Controller.ROM, "character ROM: A00, A02, or the path of a ROM chart")
	f.BoolVar(&l.Outputs.Backlight, "backlight", l.Outputs.Backlight, "backlight on (backpack, shift)")
	f.IntVar(&d.Controller.OscillatorKHz, "osc", d.Controller.OscillatorKHz, "oscillator in kHz, 190–350")
	f.IntVar(&d.Supply.MilliVolts, "supply", 5000, "supply in millivolts, 2700–5500; sets the limits of the bus")
	f.IntVar(&l.PinNS, "pin-ns", 1000, "nanoseconds that the host takes to move a pin (parallel)")
	f.StringVar(&l.Waits, "waits", "worst", "worst (at 190 kHz), typical (at --osc) or poll (busy flag; needs R/W)")
	f.BoolVar(&l.ReadWrite, "rw", false, "R/W is joined to the host (parallel)")
	f.StringVar(&l.Outputs.Transactions, "transactions", "screen", "I²C transactions: byte, operation or screen")
	f.StringVar(&l.Outputs.Setup, "setup", "lawful", "RS and data before E: lawful, before or with-e")
	f.StringVar(&d.Controller.Family, "family", "lcd", "controller: lcd, vfd-function-set or vfd-data-byte")
	f.IntVar(&m.brightness, "brightness", 100, "brightness of a VFD in percent: 100, 75, 50 or 25")
	f.StringVar(&m.address, "address", "0x27", "I²C address of the backpack: 0x20–0x27 or 0x38–0x3F")
	f.StringVar(&m.mapping, "mapping", "", "outputs of expander or shift register, such as "+link.UsualMapping.String()+"; !BL for a backlight that is on while low")
	f.IntVar(&m.speed, "speed", 0, "I²C or shift clock in kHz (default 100 on I²C, 500 on a shift register)")
	var sizes, kinds []string
	for _, g := range module.Geometries {
		sizes = append(sizes, g.Name)
	}
	for _, k := range link.Kinds {
		kinds = append(kinds, string(k))
	}
	choices(c, "geometry", sizes...)
	choices(c, "link", kinds...)
	choices(c, "rom", charrom.Names()...)
	choices(c, "waits", "worst", "typical", "poll")
	choices(c, "transactions", "byte", "operation", "screen")
	choices(c, "setup", "lawful", "before", "with-e")
	choices(c, "family", "lcd", "vfd-function-set", "vfd-data-byte")
	choices(c, "font", "5x8", "5x10")
	return m
}

// setup returns what the flags describe, with the rows of a screen.
func (m *moduleFlags) setup(rows []string) (testbed.Setup, error) {
	d, l := &m.module.Display, &m.module.Link
	n, err := strconv.ParseUint(m.address, 0, 7)
	if err != nil {
		return testbed.Setup{}, wrong(exitUsage, "address %q; expected 0x20–0x27 (PCF8574) or 0x38–0x3F (PCF8574A)", m.address)
	}
	l.Outputs.Address = int(n)
	if m.mapping != "" {
		parsed, err := link.ParseMapping(m.mapping)
		if err != nil {
			return testbed.Setup{}, wrong(exitUsage, "%w", err)
		}
		l.Outputs.Mapping = &parsed
	}
	if m.speed < 0 {
		return testbed.Setup{}, wrong(exitUsage, "speed %d kHz; expected more than 0", m.speed)
	}
	l.Outputs.SpeedHz = m.speed * 1000
	if m.brightness%25 != 0 || m.brightness < 25 || m.brightness > 100 {
		return testbed.Setup{}, wrong(exitUsage, "brightness %d; expected 100, 75, 50 or 25 percent", m.brightness)
	}
	d.Supply.Brightness = 4 - m.brightness/25
	if d.Controller.Family != "lcd" {
		d.Technology = "vfd"
	}
	if err := readChart(d); err != nil {
		return testbed.Setup{}, err
	}
	s := testbed.Setup{Display: *d, Link: *l, Rows: append([]string{}, rows...)}
	if _, _, err := s.Build(); err != nil {
		return s, wrong(exitUsage, "%s", strings.TrimPrefix(err.Error(), "/modules/0"))
	}
	return s, nil
}

// readChart reads the ROM chart where --rom names a file.
func readChart(d *bench.Display) error {
	text, err := os.ReadFile(d.Controller.ROM)
	if err != nil {
		return nil // no file: it is a built-in ROM's name, or Build says what would be right
	}
	d.Controller.ROM, d.Controller.Chart = bench.OwnROM, string(text)
	if _, err := d.Module(); err != nil {
		return wrong(exitUsage, "%w", fmt.Errorf("--rom: %w", err))
	}
	return nil
}
