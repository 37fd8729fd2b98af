package c99

import (
	"fmt"
	"slices"
	"strings"

	"slatebell/codegen/layout"
	"slatebell/codegen/source"
	"slatebell/core/quoting"
	"slatebell/core/ship/firmware"
	"slatebell/core/text/field"
)

// places writes the fields of a display.
func (w *tableWriter) places() {
	m, h, id := w.m, &w.v.Has, w.c.Ident
	var rows []string
	for i := range m.Places {
		p := &m.Places[i]
		if p.Value < 0 {
			continue
		}
		how := w.how(i, p)
		parts := []string{fmt.Sprint(p.Screen), fmt.Sprint(w.c.Number(p.Value))}
		if !w.v.OneKind {
			parts = append(parts, fieldKinds[p.Spec.Kind])
		}
		parts = append(parts, fmt.Sprintf("0x%02X", p.Address[0]), fmt.Sprint(p.Width), fmt.Sprint(p.Offset), look(p))
		if h.Two {
			parts = append(parts, fmt.Sprint(p.Controller))
		}
		if h.Turn {
			at, then := layout.Turn(p), byte(0)
			if at < p.Width {
				then = p.Address[at]
			}
			parts = append(parts, fmt.Sprint(at), fmt.Sprintf("0x%02X", then))
		}
		if h.Fill {
			parts = append(parts, fmt.Sprintf("0x%02X", p.Fill))
		}
		if h.Rest {
			parts = append(parts, fmt.Sprint(len(p.Rest)))
		}
		if h.Under {
			under := "0"
			if layout.NeedsUnder(p) {
				under = w.named("under_" + layout.Plain(p.Spec.Name))
				w.add(source.Mark(m.At, "place", i, array(under, hexes(p.Under))))
			}
			parts = append(parts, under)
		}
		parts = append(parts, how)
		rows = append(rows, source.Mark(m.At, "place", i, fmt.Sprintf("    {%s}, /* %s */", strings.Join(parts, ", "), quoting.ASCIIComment(p.Spec.Name))))
	}
	if len(rows) == 0 {
		rows = []string{"    {0}"}
	}
	w.add(fmt.Sprintf("static const struct slate_place %s_places[] SLATE_FLASH = {\n%s\n};", id, strings.Join(rows, "\n")))
}

// fieldKinds are the kinds of fields as C has them.
var fieldKinds = map[field.Kind]string{field.Number: "NUMBER", field.Elapsed: "ELAPSED", field.Text: "WORD", field.Choice: "WORD", field.Clock: "CLOCK", field.Bar: "BAR", field.Free: "FREE", field.Tape: "TAPE"}

// look says how a value stands in its cells.
func look(p *firmware.Place) string {
	var parts []string
	switch p.Spec.Align() {
	case "right":
		parts = append(parts, "RIGHT")
	case "centre":
		parts = append(parts, "RIGHT | CENTRE")
	}
	if p.Spec.TooLong() == "hashes" {
		parts = append(parts, "HASHES")
	}
	if p.Spec.Fills() {
		parts = append(parts, "FILLS")
	}
	if len(parts) == 0 {
		return "0"
	}
	return strings.Join(parts, " | ")
}

// how writes how a field's value becomes text, and returns its name.
func (w *tableWriter) how(i int, p *firmware.Place) string {
	f := &p.Spec
	h, name := &w.v.Has, w.named("field_"+layout.Plain(f.Name))
	add := func(text string) { w.add(source.Mark(w.m.At, "place", i, text)) }
	switch f.Kind {
	case field.Number:
		unit := w.used.Of(name+"_unit", "unit")
		add(array(unit, counted(p.Unit)))
		mark, group := "'.'", map[string]string{"": "0", "comma": "','", "point": "'.'", "apostrophe": `'\''`, "space": "' '"}[f.Digits.Thousands]
		if f.Digits.Mark == "comma" {
			mark = "','"
		}
		parts := []string{fmt.Sprint(f.Digits.Decimals), mark}
		if h.Sign {
			parts = append(parts, map[string]string{"": "0", "always": "'+'", "space": "' '"}[f.Digits.Sign])
		}
		if h.Groups {
			parts = append(parts, group)
		}
		if h.Zeros {
			parts = append(parts, fmt.Sprint(layout.One(f.Digits.Zeros)))
		}
		add(fmt.Sprintf("static const struct slate_number %s SLATE_FLASH = {%s, %s};", name, strings.Join(parts, ", "), unit))
		return "&" + name
	case field.Elapsed:
		add(array(name, fmt.Sprint(max(slices.Index(field.ElapsedFormats, f.Format), 0))))
	case field.Text, field.Choice:
		words := []string{fmt.Sprintf("\n    %d,", len(p.Words)-1)}
		for k, codes := range p.Words {
			words = append(words, fmt.Sprintf("\n    %s, /* %s */", counted(codes), quoting.ASCIIComment(f.Values[k])))
		}
		add(array(name, strings.Join(words, "")+"\n"))
	case field.Clock:
		parts := []string{fmt.Sprint(len(p.Format))}
		for _, piece := range p.Format {
			if piece.Conversion == 0 {
				parts = append(parts, fmt.Sprintf("0, 0x%02X", piece.Code))
			} else {
				parts = append(parts, fmt.Sprintf("'%c', 0", piece.Conversion))
			}
		}
		add(array(name, strings.Join(parts, ", ")))
	case field.Bar:
		var cells []byte
		for _, c := range p.Bar.Cells {
			cells = append(cells, byte(c.First-p.Bar.Least), byte(c.Run))
		}
		cellsName, runsName := w.used.Of(name+"_cells", "cells"), w.used.Of(name+"_runs", "runs")
		add(array(cellsName, hexes(cells)))
		var runs []string
		for _, run := range p.Bar.Runs {
			runs = append(runs, counted(run))
		}
		add(array(runsName, strings.Join(runs, ", ")))
		low, high := f.Ends()
		above := ""
		if h.Stage.Peak {
			above = fmt.Sprintf(", %d", layout.PeakValue(w.c, w.m, p.Value))
		}
		add(fmt.Sprintf("static const struct slate_bar %s SLATE_FLASH = {%d, %d, %s, %s, %d%s};", name, low, high, cellsName, runsName, p.Bar.Steps, above))
		return "&" + name
	case field.Free:
		add(array(name, layout.FreeText(p)))
	case field.Tape:
		add(array(name, hexes(p.Words[0])))
	}
	return name
}
