package main

import (
	"fmt"
	"strconv"

	"github.com/spf13/cobra"

	"slatebell/core/prove/transition"
	"slatebell/core/text/screen"
	"slatebell/formats/program"
)

func newTransition(std stdio) *cobra.Command {
	c := &cobra.Command{
		Use: "transition", Short: "Print the steps that turn one screen into another",
		Long: "Print the steps that turn one screen into another, on a module that was initialised, shows the\nfirst with the rest of its memory spaces, and is not shifted. Where its address counter stands,\n" +
			"and the levels of RS and R/W, are not known. What is found on the way goes to standard error,\na line each: SEVERITY CODE: WHAT.",
		Example: `  slatebell transition --from $'Tide 3.2 m\nHigh 14:05' --to $'Tide 3.4 m\nHigh 14:05' --totals`, Args: noArgs,
	}
	m := addModuleFlags(c)
	from := c.Flags().String("from", "", `the screen that is shown, a row a line; \xHH is a code, \\ a backslash`)
	to := c.Flags().String("to", "", "the screen that is wanted")
	strategy := c.Flags().String("strategy", string(transition.Cheapest), "cheapest; or clear (and reprint), pad (each row to its old length) or changed (only the cells that differ)")
	shift := c.Flags().Bool("shift", false, "the cheapest may move the glass over its memory")
	totals := c.Flags().Bool("totals", false, "a last line on standard error: operations, words on the wire, microseconds until the controller is free")
	choices(c, "strategy", "cheapest", "clear", "pad", "changed")
	format := formatFlag(c, "csv", "hex", "json", "vcd")
	c.RunE = func(*cobra.Command, []string) error {
		how, err := format()
		if err != nil {
			return err
		}
		if s := transition.Strategy(*strategy); s == transition.Overprint {
			return wrong(exitUsage, "strategy %q; expected cheapest, clear, pad or changed", s)
		}
		first, err := m.setup(screen.Parse(*from))
		if err != nil {
			return err
		}
		second := first
		second.Rows = screen.Parse(*to)
		change, err := transition.New(&first, &second)
		if err != nil {
			return wrong(exitUsage, "%w", err)
		}
		printFindings(std.err, change.Findings())
		if err := fits(&change.From); err != nil {
			return wrong(exitUnfit, "--from: %w", err)
		}
		if err := fits(&change.To); err != nil {
			return wrong(exitUnfit, "--to: %w", err)
		}
		played, err := change.Play(transition.Strategy(*strategy), *shift)
		if err != nil {
			return wrong(exitUsage, "%w", err)
		}
		printFindings(std.err, played.Findings)
		if err := programWriters[how](std.out, played.Program); err != nil {
			return fmt.Errorf("standard output: %w", err)
		}
		if *totals {
			fmt.Fprintf(std.err, "operations %d, words %d, time_us %s\n", played.Cost.Operations, played.Cost.Words, strconv.FormatFloat(program.Microseconds(played.Cost.Done), 'f', -1, 64))
		}
		return nil
	}
	return c
}
