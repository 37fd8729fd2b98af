package main

import (
	"fmt"
	"io"
	"strings"

	"slatebell/core/bench"
	"slatebell/core/finding"
	"slatebell/core/screen"
	"slatebell/core/sequence"
	"slatebell/formats/program"
	"slatebell/formats/stepcsv"
	"slatebell/formats/vcd"
	"slatebell/formats/wirehex"
)

// programWriters are the formats of --format.
var programWriters = map[string]func(io.Writer, *sequence.Program) error{
	"csv":  stepcsv.Write,
	"hex":  wirehex.Write,
	"json": program.Write,
	"vcd":  vcd.Write,
}

func printSequence(args []string, std stdio) error {
	f := newFlags("sequence")
	m, finish := moduleFlags(f)
	text := f.String("text", "", `the screen, a row a line; \xHH is a code, \\ a backslash`)
	noInit := f.Bool("no-init", false, "leave out the initialisation; every cell is written, for what the module shows is unknown")
	format := f.String("format", "csv", "csv, hex, json or vcd")
	if err := parse(f, args, std); err != nil {
		return err
	}
	write, ok := programWriters[*format]
	if !ok {
		return wrong(exitUsage, "format %q; expected csv, hex, json or vcd", *format)
	}
	m.Screen = screen.Parse(*text)
	if err := finish(); err != nil {
		return err
	}
	r, err := m.Run(bench.Options{NoInit: *noInit})
	if err != nil {
		return wrong(exitUsage, "%w", err)
	}
	var unfit []string
	for _, found := range r.Layout.Findings {
		text := found.What
		if len(found.Remedies) > 0 {
			text += " " + found.Remedies[0].Label + "?"
		}
		if found.Severity == finding.Error {
			unfit = append(unfit, text)
		} else {
			fmt.Fprintf(std.err, "%s: %s\n", found.Severity, text)
		}
	}
	if len(unfit) > 0 {
		return wrong(exitUnfit, "nothing was printed.\n%s", strings.Join(unfit, "\n"))
	}
	if err := write(std.out, r.Program); err != nil {
		return fmt.Errorf("standard output: %w", err)
	}
	return nil
}
