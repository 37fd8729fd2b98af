package c99

import (
	"fmt"
	"strings"

	"slatebell/codegen/layout"
)

// stage writes the tables of a display's show.
func (v *View) stage(i int) {
	c := v.Modules[i].Display
	if c.Stage == nil {
		return
	}
	r := &c.Stage.Tables
	h := &v.Has.Stage
	w := tableWriter{v, c, c.Image, layout.Names{}}
	table := func(kind, name string, rows [][]int64, more func(i int) string) {
		var lines []string
		for k, row := range rows {
			parts := make([]string, len(row))
			for n, value := range row {
				parts[n] = fmt.Sprint(value)
			}
			if more != nil {
				parts = append(parts, more(k))
			}
			lines = append(lines, "    {"+strings.Join(parts, ", ")+"},")
		}
		if len(lines) == 0 {
			lines = []string{"    {0}"}
		}
		w.add(fmt.Sprintf("static const struct slate_%s %s_%s[] SLATE_FLASH = {\n%s\n};", kind, c.Ident, name, strings.TrimSuffix(strings.Join(lines, "\n"), ",")))
	}
	table("scene", "scenes", r.Scenes, nil)
	table("end", "ends", r.Ends, nil)
	table("input", "inputs", r.Inputs, nil)
	if h.Feeds || h.FreeFeeds {
		table("feed", "feeds", r.Feeds, nil)
	}
	if h.Edit {
		for k, takes := range r.Takes {
			w.add(array(fmt.Sprintf("%s_takes_%d", c.Ident, k+1), counted([]byte(takes))))
		}
		table("edit", "edits", r.Edits, func(k int) string { return fmt.Sprintf("%s_takes_%d", c.Ident, k+1) })
		table("key", "keys", r.Keys, nil)
		if h.EditFree {
			for k, codes := range r.Codes {
				w.add(array(fmt.Sprintf("%s_begins_%d", c.Ident, k+1), hexes(append([]byte(codes), 0))))
			}
		}
		table("typed", "typed", r.Fields, func(k int) string {
			if !h.EditFree {
				return "0"
			}
			return fmt.Sprintf("%s_begins_%d", c.Ident, k+1)
		})
	}
	if h.Effect {
		for k, frames := range r.Frames {
			var pairs []byte
			for _, glyph := range frames {
				pairs = append(pairs, byte(r.Effects[k][1]), byte(glyph), layout.None)
			}
			if h.Slots {
				w.add(array(fmt.Sprintf("%s_frames_%d", c.Ident, k+1), hexes(append(pairs, layout.None))))
			}
		}
		table("effect", "effects", r.Effects, func(k int) string {
			if !h.Slots {
				return "0"
			}
			return fmt.Sprintf("%s_frames_%d", c.Ident, k+1)
		})
	}
	if h.Meter {
		table("meter", "meters", r.Meters, nil)
	}
	if h.UTF8 {
		table("run", "chars", r.Chars, nil)
	}
	parts := []string{c.Ident + "_scenes", c.Ident + "_ends", c.Ident + "_inputs"}
	add := func(is bool, name string) {
		if is {
			parts = append(parts, c.Ident+"_"+name)
		}
	}
	add(h.Feeds || h.FreeFeeds, "feeds")
	add(h.Edit, "edits")
	add(h.Edit, "keys")
	add(h.Edit, "typed")
	add(h.Effect, "effects")
	add(h.Meter, "meters")
	add(h.UTF8, "chars")
	parts = append(parts, fmt.Sprint(len(r.Inputs)), fmt.Sprint(len(r.Ends)))
	if h.Feeds || h.FreeFeeds {
		parts = append(parts, fmt.Sprint(len(r.Feeds)))
	}
	if h.Edit {
		parts = append(parts, fmt.Sprint(len(r.Fields)))
	}
	if h.UTF8 {
		parts = append(parts, fmt.Sprint(len(r.Chars)))
	}
	parts = append(parts, fmt.Sprint(r.Start))
	w.add(array(c.Ident+"_over", hexes(layout.OverBits(r.Over))))
	parts = append(parts, c.Ident+"_over")
	w.add(fmt.Sprintf("static const struct slate_show %s_show_tables SLATE_FLASH = {%s};", c.Ident, strings.Join(parts, ", ")))
}

// stageState is what a display's show keeps in mind.
func (v *View) stageState(i int) string {
	c := v.Modules[i].Display
	if c.Stage == nil {
		return ""
	}
	r := &c.Stage.Tables
	h := &v.Has.Stage
	var lines, members []string
	array := func(kind, name string, n int) {
		lines = append(lines, fmt.Sprintf("static %s%s_%s[%d];", kind, c.Ident, name, max(n, 1)))
		members = append(members, fmt.Sprintf(".%s = %s_%s", name, c.Ident, name))
	}
	members = append(members, fmt.Sprintf(".show = &%s_show_tables", c.Ident), fmt.Sprintf(".display = &%s_display", c.Ident))
	array("struct slate_heard ", "heard", len(r.Inputs))
	array("uint8_t ", "above", (len(r.Ends)+7)/8)
	if h.Edit {
		array("struct slate_entry ", "entries", len(r.Fields))
	}
	if h.Meter {
		array("struct slate_needle ", "needles", len(r.Meters))
	}
	if h.Serial {
		array("struct slate_line ", "lines", len(r.Lines))
	}
	lines = append(lines, fmt.Sprintf("struct slate_stage %s_stage = {%s};", c.Ident, strings.Join(members, ", ")))
	return "\n" + strings.Join(lines, "\n")
}
