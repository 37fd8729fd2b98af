package main

import (
	"github.com/spf13/cobra"

	"slatebell/core/table/breadboard"
	"slatebell/formats/wirelist"
)

func newWires(std stdio) *cobra.Command {
	c := &cobra.Command{
		Use: "wires BENCH.json", Short: "List the wires of a bench by hole and by pin, in the order of the work",
		Long: "List the wires of a bench: both ends by pin and by hole, net, colour and length. A\nbench whose wiring is not begun is planned first. The columns are\n" +
			"wire,from,from_hole,to,to_hole,net,colour,length_mm; a hole is written as\nboard-1/a12, on a rail as board-1/top+3, and is empty for an end that lies in none.\nThe exit code is 1 where no plan can be made, or where a line has no pin\nof the host; what can be wired is listed all the same.",
		Example: "  slatebell wires boathouse.json --format csv > wires.csv", Args: oneFile("a bench document"),
	}
	format := c.Flags().String("format", "text", "text or csv")
	c.RunE = func(_ *cobra.Command, args []string) error {
		if *format != "text" && *format != "csv" {
			return wrong(exitUsage, "--format %q; expected text or csv", *format)
		}
		b, err := readBench(args[0], std.in)
		if err != nil {
			return err
		}
		table, err := breadboard.Shown(&b)
		if err != nil {
			return wrong(exitFailed, "no plan: %w", err)
		}
		list := table.List()
		if *format == "csv" {
			err = wirelist.WriteCSV(std.out, list)
		} else {
			err = wirelist.WriteText(std.out, list)
		}
		for _, f := range table.Check() {
			if f.Code == "wiring.no-pin" && err == nil {
				err = wrong(exitFailed, "%s %s", f.What, f.Fix)
			}
		}
		return err
	}
	return c
}
