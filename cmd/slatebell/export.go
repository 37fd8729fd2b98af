package main

import (
	"errors"
	"fmt"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"slatebell/export"
)

func newExport(std stdio) *cobra.Command {
	c := &cobra.Command{
		Use: "export BENCH.json --as KIND --to DIR", Short: "Write programs, steps, glyphs or wires of a bench into a directory",
		Long: "Write a bench, or one of its modules, into a directory, which is made:\n\n" +
			"  c            C99: header, source, ports for ATmega and any other host, an example, a Makefile\n" +
			"  sketch       the same library as a folder that the editor for hobby boards builds: setup() and loop()\n" +
			"  micropython  a module and an example\n" +
			"  scanner      a program that prints every address of the bus that answers, in each form that the host takes\n" +
			"  test         a first test: the light blinks, a block, a row, the ROM's letters, a second each, in each form\n" +
			"  chart-screens  a program that shows all codes of the ROM, with marks, in each form, and a list of the cells:\n" +
			"               photographs of its screens are what slatebell read --chart takes\n" +
			"  csv hex json vcd   the steps of each screen from power-up on, as slatebell sequence prints them\n" +
			"  bdf pbm      the glyphs: a font a module, or a picture a glyph\n" +
			"  wires        the wires to work from, and the parts\n\n" +
			"A file that an earlier export wrote is written again; what stands between the lines \"own\nsection\" and \"end of own section\" is kept. Files of other origin are not overwritten: the exit\n" +
			"code is 2 then, standard error says which, and nothing was written. The names of the files that\nwere written go to standard output.",
		Example: "  slatebell export boathouse.json --module gate --as c --to gate && make -C gate atmega328p", Args: oneFile("a bench document"),
	}
	id := c.Flags().String("module", "", "id of the module, as the bench document states it; all of them where absent")
	as := c.Flags().String("as", "", strings.Join(export.Kinds, ", "))
	to := c.Flags().String("to", "", "the directory")
	choices(c, "as", export.Kinds...)
	c.RunE = func(_ *cobra.Command, args []string) error {
		if !slices.Contains(export.Kinds, *as) {
			return wrong(exitUsage, "--as %q; expected one of %s", *as, strings.Join(export.Kinds, ", "))
		}
		if *to == "" {
			return wrong(exitUsage, "--to is missing; expected a directory, which is made")
		}
		b, err := readBench(args[0], std.in)
		if err != nil {
			return err
		}
		module := export.All
		if *id != "" {
			if module, err = moduleOf(&b, *id); err != nil {
				return err
			}
		}
		files, notes, err := export.Files(&b, module, *as)
		if err != nil {
			return wrong(exitFailed, "%s: %w", args[0], err)
		}
		printFindings(std.err, notes)
		if err := export.Write(*to, files); err != nil {
			if foreign := new(export.ForeignError); errors.As(err, &foreign) {
				return wrong(exitUsage, "%w", err)
			}
			return wrong(exitFailed, "%w", err)
		}
		for _, f := range files {
			fmt.Fprintln(std.out, f.Name)
		}
		return nil
	}
	return c
}
