package main

import (
	"errors"
	"fmt"
	"io"
	"strconv"
	"strings"

	"github.com/spf13/cobra"

	"slatebell/core/bench"
	"slatebell/core/part/i2cbus"
	"slatebell/core/quoting"
	"slatebell/core/table/bus"
	"slatebell/formats/scantext"
)

func newScan(std stdio) *cobra.Command {
	c := &cobra.Command{
		Use: "scan BENCH.json", Short: "Hold what an I²C scanner printed, on standard input, against a bench",
		Long: "Hold what an I²C scanner printed, on standard input, against the bus of a bench.\n" +
			"The print-out may be sentences, lists in decimal or hexadecimal, or a table. A\n" +
			"line says of each address whether it is expected, unexpected or missing, and\n" +
			"what that may mean. The exit code is 1 when anything is not as expected, 2 when\nno address can be read.",
		Example: "  slatebell scan boathouse.json < print-out.txt\n  echo '[39, 104]' | slatebell scan boathouse.json", Args: oneFile("a bench document"),
	}
	channel := c.Flags().Int("channel", 0, "channel of the bus's multiplexer that was scanned, 1–8; 0 for the bus itself")
	c.RunE = func(_ *cobra.Command, args []string) error {
		if args[0] == "-" {
			return wrong(exitUsage, "the bench comes from a file, as the print-out is on standard input")
		}
		if *channel < 0 || *channel > 8 {
			return wrong(exitUsage, "channel %d; expected 0–8", *channel)
		}
		b, err := readBench(args[0], std.in)
		if err != nil {
			return err
		}
		return scan(std, &b, *channel)
	}
	return c
}

// scan prints a line an address.
func scan(std stdio, b *bench.Bench, channel int) error {
	expected := bus.Expected(b, channel)
	at := make([]i2cbus.Address, len(expected))
	for i, e := range expected {
		at[i] = e.At
	}
	reading, err := scantext.Read(std.in, at)
	if err != nil && !(errors.Is(err, scantext.ErrNone) && reading.Silent) {
		return wrong(exitUsage, "standard input: %w", err)
	}
	for _, note := range reading.Notes {
		fmt.Fprintln(std.err, quoting.Line(note))
	}
	other := false
	for _, m := range i2cbus.Compare(expected, reading.Found) {
		other = other || m.Verdict != i2cbus.AsExpected
		if _, err := fmt.Fprintf(std.out, "%s  %s  %s\n", m.At, m.Verdict, quoting.Line(m.Says)); err != nil {
			return err
		}
	}
	switch {
	case err != nil:
		return wrong(exitUsage, "standard input: no address is in the print-out, which says that nothing was found")
	case other:
		return coded{exitFailed, errors.New("")} // the lines have said it
	}
	return nil
}

func newAddresses(std stdio) *cobra.Command {
	return &cobra.Command{
		Use: "addresses DEVICE[=ADDRESS] …", Short: "Give each device on a bus its own address, with the fewest pads closed",
		Long: "Give each device on a bus its own address, with the fewest pads of backpacks\n" +
			"(PCF8574, PCF8574A) closed. A device with =ADDRESS stays there; another may take\n" +
			"any of its addresses. A line a device says its address and the pads to close,\n" +
			"then how many pads that are. The exit code is 1 when not all fit; what fits is\nprinted then, and what would make room.",
		Example: "  slatebell addresses PCF8574 PCF8574 MCP23017=0x27 SSD1306",
		RunE: func(_ *cobra.Command, args []string) error {
			if len(args) == 0 {
				return wrong(exitUsage, "no device; expected designations such as PCF8574 or SSD1306=0x3C")
			}
			wishes := make([]i2cbus.Wish, len(args))
			for i, arg := range args {
				w, err := wish(arg)
				if err != nil {
					return err
				}
				wishes[i] = w
			}
			return printAddresses(std.out, wishes)
		},
	}
}

// wish reads DEVICE or DEVICE=ADDRESS, the address in decimal or with its base
// before it.
func wish(arg string) (i2cbus.Wish, error) {
	name, at, fixed := strings.Cut(arg, "=")
	part, ok := i2cbus.ByName(name)
	if !ok {
		var known []string
		for _, p := range i2cbus.Parts() {
			known = append(known, p.Name)
		}
		return i2cbus.Wish{}, wrong(exitUsage, "device %q is not in the table; expected one of %s", name, strings.Join(known, ", "))
	}
	if !fixed {
		return i2cbus.Wish{Part: part}, nil
	}
	a, err := strconv.ParseUint(at, 0, 7)
	if err != nil {
		return i2cbus.Wish{}, wrong(exitUsage, "%s: address %q; expected 7 bits such as 0x27 or 39", arg, at)
	}
	if !part.Can(i2cbus.Address(a)) {
		return i2cbus.Wish{}, wrong(exitUsage, "%s: a %s has no address %s; it can have %s", arg, part.Name, i2cbus.Address(a), bus.Span(part.Addresses))
	}
	return i2cbus.Wish{Part: part, Now: i2cbus.Address(a), Held: true}, nil
}

// printAddresses prints the assignment of addresses to wishes.
func printAddresses(w io.Writer, wishes []i2cbus.Wish) error {
	best := i2cbus.Assign(wishes)
	var text strings.Builder
	pads := 0
	for i, wish := range wishes {
		switch at := best.At[i]; {
		case at == 0:
			fmt.Fprintf(&text, "%s  does not fit\n", wish.Part.Name)
		case wish.Part.Padded():
			pads += i2cbus.PadsFor(at).Count()
			fmt.Fprintf(&text, "%s  %s  %s\n", wish.Part.Name, at, i2cbus.PadsFor(at))
		default:
			fmt.Fprintf(&text, "%s  %s\n", wish.Part.Name, at)
		}
	}
	if len(best.Left) == 0 {
		fmt.Fprintf(&text, "pads %d\n", pads)
	} else {
		fmt.Fprintf(&text, "no solution: %d of %d devices fit\n", len(wishes)-len(best.Left), len(wishes))
		for _, what := range bus.MakesRoom(wishes, best) {
			fmt.Fprintf(&text, "would fit with %s\n", what)
		}
	}
	if _, err := io.WriteString(w, text.String()); err != nil {
		return err
	}
	if len(best.Left) > 0 {
		return coded{exitFailed, errors.New("")} // the lines have said it
	}
	return nil
}
