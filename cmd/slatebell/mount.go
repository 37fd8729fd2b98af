package main

import (
	"strings"

	"github.com/spf13/cobra"

	"slatebell/core/bench"
	"slatebell/core/part/module"
	"slatebell/formats/cutout"
)

func newMount(std stdio) *cobra.Command {
	c := &cobra.Command{
		Use: "mount BENCH.json --module ID", Short: "Draw the cut-out that a module is mounted behind, as SVG in millimetres",
		Long:    "Draw the cut-out that a module is mounted behind, as SVG in millimetres: opening,\nholes and outline, seen from the front. It prints true at 100 %. Figures are those\nof the module's board as the bench states them, or the usual ones of its geometry\n(common practice): hold the drawing against the module before you cut. The exit\ncode is 1 where a figure is not known.",
		Example: "  slatebell mount boathouse.json --module gate > cutout.svg", Args: oneFile("a bench document"),
	}
	id := c.Flags().String("module", "", "id of the module, as the bench document states it; its only one where absent")
	clearance := c.Flags().Float64("clearance", 0.5, "space around what shows through the panel, mm")
	unitW := c.Flags().Float64("unit-width", 8, "unit of the case's grid across, mm; 0 for none")
	unitH := c.Flags().Float64("unit-height", 9.6, "unit of the case's grid up, mm; 0 for none")
	c.RunE = func(_ *cobra.Command, args []string) error {
		b, err := readBench(args[0], std.in)
		if err != nil {
			return err
		}
		at, err := moduleOf(&b, *id)
		if err != nil {
			return err
		}
		m := &b.Modules[at]
		if *unitW < 0 || *unitH < 0 || *unitW > 500 || *unitH > 500 {
			return wrong(exitUsage, "grid units of %g × %g mm; expected 0–500 mm", *unitW, *unitH)
		}
		if *clearance < 0 || *clearance > module.Millimetres(cutout.MaxClearance) {
			return wrong(exitUsage, "clearance %g mm; expected 0–%g mm", *clearance, module.Millimetres(cutout.MaxClearance))
		}
		board := m.Display.Board()
		err = cutout.Write(std.out, &board, cutout.Options{Name: m.Name, Clearance: module.MM(*clearance), UnitW: module.MM(*unitW), UnitH: module.MM(*unitH)})
		if err != nil {
			return wrong(exitFailed, "module %q (%s): %w; write it into display.mounting", m.ID, m.Display.Geometry, err)
		}
		return nil
	}
	return c
}

// moduleOf returns the index of the module of an id, or the only one where no id is given.
func moduleOf(b *bench.Bench, id string) (int, error) {
	var ids []string
	for i := range b.Modules {
		if b.Modules[i].ID == id || id == "" && len(b.Modules) == 1 {
			return i, nil
		}
		ids = append(ids, b.Modules[i].ID)
	}
	if id == "" {
		return 0, wrong(exitUsage, "no module is named; expected --module with one of %s", strings.Join(ids, ", "))
	}
	return 0, wrong(exitUsage, "--module %q is not on this bench; expected one of %s", id, strings.Join(ids, ", "))
}
