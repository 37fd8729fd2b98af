package main

import (
	"fmt"
	"io"
	"strings"

	"github.com/spf13/cobra"

	"slatebell/core/finding"
	"slatebell/core/prove/capture"
	"slatebell/core/prove/run"
	"slatebell/core/text/screen"
	"slatebell/core/wire/link"
	"slatebell/core/wire/sequence"
	"slatebell/formats/program"
	"slatebell/formats/samplecsv"
	"slatebell/formats/sessionzip"
	"slatebell/formats/stepcsv"
	"slatebell/formats/vcd"
	"slatebell/formats/wirehex"
)

// programWriters are the formats of --format; changes and session are those of recordings.
var programWriters = map[string]func(io.Writer, *sequence.Program) error{
	"csv":     stepcsv.Write,
	"hex":     wirehex.Write,
	"json":    program.Write,
	"vcd":     vcd.Write,
	"changes": recordedAs(samplecsv.Write),
	"session": recordedAs(func(w io.Writer, s capture.Source) error { return sessionzip.Write(w, s, sessionzip.UsualRate) }),
}

// recordedAs writes what somebody would record of a program.
func recordedAs(write func(io.Writer, capture.Source) error) func(io.Writer, *sequence.Program) error {
	return func(w io.Writer, p *sequence.Program) error {
		recorded := capture.OfProgram(p, link.Hardware{})
		return write(w, recorded.Source())
	}
}

func newSequence(std stdio) *cobra.Command {
	c := &cobra.Command{
		Use: "sequence", Short: "Print the steps that show a text: initialise, then write",
		Long:    "Print the steps that show a text: initialise, then write. What is found on the way goes to\nstandard error, a line each: SEVERITY CODE: WHAT. changes (CSV) and session (ZIP) are what an analyser\nwould record of it, as slatebell capture reads them.",
		Example: `  slatebell sequence --geometry 16x2 --link backpack --text $'Tide 3.2 m\nHigh 14:05'`, Args: noArgs,
	}
	m := addModuleFlags(c)
	text := c.Flags().String("text", "", `the screen, a row a line; \xHH is a code, \\ a backslash`)
	noInit := c.Flags().Bool("no-init", false, "leave out the initialisation; every cell is written, for what the module shows is unknown")
	format := formatFlag(c, "csv", "hex", "json", "vcd", "changes", "session")
	c.RunE = func(*cobra.Command, []string) error {
		how, err := format()
		if err != nil {
			return err
		}
		setup, err := m.setup(screen.Parse(*text))
		if err != nil {
			return err
		}
		r, err := run.Do(&setup, run.Options{NoInit: *noInit})
		if err != nil {
			return wrong(exitUsage, "%w", err)
		}
		printFindings(std.err, r.Findings)
		if err := fits(&r.Layout); err != nil {
			return err
		}
		if err := programWriters[how](std.out, r.Program); err != nil {
			return fmt.Errorf("standard output: %w", err)
		}
		return nil
	}
	return c
}

// fits returns an error where a text does not fit its module, with what could be
// done instead.
func fits(l *screen.Layout) error {
	var unfit []string
	for _, f := range l.Findings {
		if f.Severity == finding.Error {
			text := f.What
			if len(f.Remedies) > 0 {
				text += " " + f.Remedies[0].Label + "?"
			}
			unfit = append(unfit, text)
		}
	}
	if len(unfit) == 0 {
		return nil
	}
	return wrong(exitUnfit, "nothing was printed.\n%s", strings.Join(unfit, "\n"))
}
