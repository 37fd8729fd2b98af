package export

import (
	"fmt"
	"strings"

	"slatebell/codegen"
	"slatebell/codegen/source"
	"slatebell/core/bench"
	"slatebell/core/part/module"
	"slatebell/core/prove/chart"
	"slatebell/core/ship/firmware"
)

// chartScreens writes the program that shows the charts of modules, in every form that the bench's host takes, and which code stands in which
// cell: RFC 4180.
func chartScreens(b *bench.Bench, at int) (out []source.File, err error) {
	derived, err := chart.Bench(b)
	if err != nil {
		return nil, err
	}
	out, err = inForms(derived, at, func(*firmware.Image, codegen.Language, string) string { return "" })
	if err != nil {
		return nil, err
	}
	for i := range b.Modules {
		if at != All && at != i {
			continue
		}
		mod, _ := b.Modules[i].Display.Module()
		out = append(out, source.File{Name: fmt.Sprintf("%s-chart.csv", b.Modules[i].ID), Text: chartCells(&mod)})
	}
	return out, nil
}

// chartCells are the cells of the screens of a chart; rows and columns from 0, codes in decimal.
func chartCells(m *module.Module) string {
	var text strings.Builder
	text.WriteString("screen,row,col,code\r\n")
	for k, codes := range chart.Screens(m) {
		for i, code := range codes {
			fmt.Fprintf(&text, "%d,%d,%d,%d\r\n", k, i/m.Geometry.Cols, i%m.Geometry.Cols, code)
		}
	}
	return text.String()
}
