package c99

import (
	"fmt"
	"slices"
	"strings"

	"slatebell/codegen/layout"
	"slatebell/codegen/source"
	"slatebell/core/part/module"
	"slatebell/core/ship/firmware"
)

// Files writes the files of C.
func Files(im *firmware.Image) ([]source.File, error) {
	v, err := New(im)
	if err != nil {
		return nil, err
	}
	names := []string{"bench.h", "bench.c", "port.h", "port_avr.c", "port_calls.h", "port_calls.c", "main.c", "Makefile"}
	if v.Reads.Any() {
		names = slices.Insert(names, 6, "inputs.h", "inputs.c")
	}
	return v.Render(v, names)
}

// member is a property of a display in its table.
type member struct{ Declares string }

// property is a figure or a table that each display has: one macro reads it. Where it is
// the same for all it is written into the driver, otherwise it stands in their tables.
type property struct {
	macro, member, kind string // kind: byte, word, or the C type of a pointer
	values              []string
	used                bool
}

// properties lays out the accessors of properties, and the members of tables.
func (v *View) properties(list []property) (values [][]string) {
	values = make([][]string, len(v.Modules))
	for _, p := range list {
		if !p.used {
			continue
		}
		if len(slices.Compact(slices.Clone(p.values))) == 1 {
			value := p.values[0]
			if cast := map[string]string{"byte": "(uint8_t)", "word": "(uint16_t)"}[p.kind]; cast != "" {
				value = cast + value
			}
			v.Accessors = append(v.Accessors, fmt.Sprintf("#define %s(d) ((void)(d), %s)", p.macro, value))
			continue
		}
		read, declares := "FLASH_POINTER", p.kind+p.member
		switch p.kind {
		case "byte":
			read, declares = "FLASH_BYTE", "uint8_t "+p.member
		case "word":
			read, declares = "FLASH_WORD", "uint16_t "+p.member
		}
		line := fmt.Sprintf("%s(&(d)->table->%s)", read, p.member)
		if read == "FLASH_POINTER" {
			line = fmt.Sprintf("((%s)%s)", strings.TrimSpace(p.kind), line)
		}
		v.Accessors = append(v.Accessors, fmt.Sprintf("#define %s(d) %s", p.macro, line))
		v.Members = append(v.Members, member{declares})
		for i := range p.values {
			values[i] = append(values[i], p.values[i])
		}
	}
	return values
}

// setProperty sets a property of a display.
type setProperty func(i int, macro, member, kind, value string, used bool)

// tables lays out the tables of all displays.
func (v *View) tables(im *firmware.Image) {
	n := len(v.Modules)
	var list []property
	index := map[string]int{}
	set := func(i int, macro, member, kind, value string, used bool) {
		at, known := index[macro]
		if !known {
			at = len(list)
			index[macro] = at
			list = append(list, property{macro, member, kind, make([]string, n), used})
		}
		list[at].values[i] = value
		list[at].used = list[at].used || used
	}
	h := &v.Has
	v.Kinds = "BACKPACK, SHIFT, PARALLEL, PARALLEL8"
	simple, plainNibbles := true, true
	for i := range im.Modules {
		simple = simple && im.Modules[i].Pauses.Simple()
		mp := &im.Modules[i].Link.Mapping
		plainNibbles = plainNibbles && (!im.Modules[i].Link.Expander() || mp.D4 == 4 && mp.D5 == 5 && mp.D6 == 6 && mp.D7 == 7)
	}
	v.Pauses.Simple = simple
	for i := range v.Modules {
		c := v.Modules[i].Display
		m := c.Image
		id := c.Ident
		w := tableWriter{v, c, m, layout.Names{}}
		bytes := func(name string, codes []byte) string {
			w.add(array(id+"_"+name, hexes(codes)))
			return id + "_" + name
		}
		set(i, "KIND", "kind", "byte", kindOf(m), true)
		w.link(set, i, plainNibbles, bytes)
		if !simple {
			var words []string
			for _, p := range m.Pauses {
				words = append(words, fmt.Sprint(layout.Microseconds(p[0])), fmt.Sprint(layout.Microseconds(p[1])))
			}
			w.add(fmt.Sprintf("static const uint16_t %s_pauses[] SLATE_FLASH = {%s};", id, strings.Join(words, ", ")))
			set(i, "PAUSES", "pauses", "const uint16_t *", id+"_pauses", true)
		} else {
			set(i, "PAUSE_SHORT", "pause_short", "word", fmt.Sprintf("%du", layout.Microseconds(m.Pauses[0][0])), true)
			set(i, "PAUSE_LONG", "pause_long", "word", fmt.Sprintf("%du", layout.Microseconds(m.Pauses[2][0])), true)
		}
		set(i, "POLLS", "polls", "byte", fmt.Sprintf("%du", layout.One(m.Polls)), h.Poll)
		set(i, "CONTROLLERS", "controllers", "byte", fmt.Sprintf("%du", m.Display.Geometry.Controllers), h.Two)
		set(i, "TWO_LINE", "two_line", "byte", fmt.Sprintf("%du", layout.One(m.Display.Geometry.TwoLine)), h.BothMemories)
		set(i, "IS_VFD", "is_vfd", "byte", fmt.Sprintf("%du", layout.One(m.Display.Technology == module.VFD)), h.GlassLight && h.OutLight)
		set(i, "FUNCTION", "function", "byte", fmt.Sprintf("0x%02Xu", m.Function), true)
		w.stream(id+"_setting", "what follows the function set", m.Setting, -1)
		set(i, "SETTING", "setting", "const uint8_t *", id+"_setting", true)
		w.glyphs(set, i)
		set(i, "SCREENS", "screens", "byte", fmt.Sprintf("%du", len(m.Screens)), true)
		set(i, "TRANSITIONS", "transitions", "const uint8_t *const *", w.transitions(), true)
		if h.Cursor {
			set(i, "CURSORS", "cursors", "const uint8_t *", bytes("cursors", layout.Cursors(m, h.Two)), true)
		}
		if h.Fields {
			w.places()
			set(i, "PLACES", "places", "const struct slate_place *", id+"_places", true)
			set(i, "PLACE_COUNT", "place_count", "byte", fmt.Sprintf("%du", len(m.Places)-len(c.Moves)), true)
			set(i, "GAP_INSTRUCTION", "gap_instruction", "byte", fmt.Sprintf("%du", m.Gap[0]), true)
			set(i, "GAP_DATA", "gap_data", "byte", fmt.Sprintf("%du", m.Gap[1]), true)
			clocks, texts := 0, 0
			for _, s := range c.Setters {
				clocks += layout.One(s.Clock)
				texts += layout.One(s.Text)
			}
			plain := len(c.Setters) - clocks - texts + layout.Peaks(m)
			set(i, "CLOCKS", "clocks", "byte", fmt.Sprintf("%du", plain), h.Clock)
			set(i, "FREE_TEXTS", "free_texts", "byte", fmt.Sprintf("%du", plain+clocks), h.Free)
		}
	}
	for i := range v.Modules {
		v.stage(i)
	}
	values := v.properties(list)
	v.composed(simple, plainNibbles)
	v.states(values)
}

// composed adds the accessors that are made of others.
func (v *View) composed(simple, plainNibbles bool) {
	h := &v.Has
	add := func(used bool, line string) {
		if used {
			v.Accessors = append(v.Accessors, line)
		}
	}
	add(simple, "#define PAUSE(d) ((d)->last == LONG ? PAUSE_LONG(d) : PAUSE_SHORT(d))")
	add(!simple, "#define PAUSE(d, rs) FLASH_WORD(PAUSES(d) + 2u * (d)->last + (rs))")
	add(h.Fields, "#define GAP(d) ((d)->last == DATA ? GAP_DATA(d) : GAP_INSTRUCTION(d))")
	add(h.Pins, "#define PIN(d, line) FLASH_BYTE(PINS(d) + (line))")
	add(h.Expander && plainNibbles, "#define NIBBLE(d, bits) ((void)(d), (uint8_t)((bits) << 4))")
	add(h.Expander && !plainNibbles, "#define NIBBLE(d, bits) FLASH_BYTE(NIBBLES(d) + (bits))")
	if h.Two {
		add(h.Expander, "#define E_OUT(d) ((uint8_t)(((d)->enable != SECOND ? E1_OUT(d) : 0) | ((d)->enable != FIRST ? E2_OUT(d) : 0)))")
		add(h.PollPins, "#define E_PIN(d) ((d)->enable == SECOND ? 2u : 1u)")
	} else {
		add(h.Expander, "#define E_OUT(d) E1_OUT(d)")
		add(h.PollPins, "#define E_PIN(d) 1u")
	}
}

// states writes what each display keeps in mind.
func (v *View) states(tables [][]string) {
	h := &v.Has
	n := len(v.Modules)
	h.SeveralValues, h.SeveralTimes, h.SeveralShadows, h.SeveralTexts = n > 1 && h.Values, n > 1 && h.Clock, n > 1 && h.Fields, n > 1 && h.Free
	for i := range v.Modules {
		c := v.Modules[i].Display
		var values, times, texts []string
		for _, s := range c.Setters {
			val := &c.Image.Values[s.Index]
			if s.Clock {
				t := val.Time
				times = append(times, fmt.Sprintf("{%d, %d, %d, %d, %d, %d}", t.Year(), t.Month(), t.Day(), t.Hour(), t.Minute(), t.Second()))
			} else if s.Text {
				texts = append(texts, fmt.Sprintf("{%d, {%s}}", len(val.Codes), hexes(append([]byte(val.Codes), 0))))
			} else {
				values = append(values, fmt.Sprint(val.Start))
			}
		}
		for range layout.Peaks(c.Image) {
			values = append(values, "0")
		}
		var lines, members []string
		if len(v.Members) > 0 {
			lines = append(lines, fmt.Sprintf("static const struct slate_table %s_table SLATE_FLASH = {\n    %s\n};", c.Ident, strings.Join(tables[i], ",\n    ")))
			members = append(members, fmt.Sprintf(".table = &%s_table", c.Ident))
		}
		if h.Values {
			if len(values) == 0 {
				values = []string{"0"}
			}
			lines = append(lines, fmt.Sprintf("static slate_value %s_values[] = {%s};", c.Ident, strings.Join(values, ", ")))
		}
		if h.Clock {
			if len(times) == 0 {
				times = []string{"{0}"}
			}
			lines = append(lines, fmt.Sprintf("static struct slate_time %s_times[] = {%s};", c.Ident, strings.Join(times, ", ")))
		}
		if h.Free {
			if len(texts) == 0 {
				texts = []string{"{0, {0}}"}
			}
			lines = append(lines, fmt.Sprintf("static struct slate_text %s_texts[] = {%s};", c.Ident, strings.Join(texts, ", ")))
		}
		if h.SeveralTexts {
			members = append(members, fmt.Sprintf(".texts = %s_texts", c.Ident))
		}
		if h.SeveralValues {
			members = append(members, fmt.Sprintf(".values = %s_values", c.Ident))
		}
		if h.SeveralTimes {
			members = append(members, fmt.Sprintf(".times = %s_times", c.Ident))
		}
		if h.SeveralShadows {
			lines = append(lines, fmt.Sprintf("static uint8_t %s_shadow[%d];", c.Ident, c.Shadow))
			members = append(members, fmt.Sprintf(".shadow = %s_shadow", c.Ident))
		}
		members = append(members, ".screen = NOTHING")
		v.Modules[i].State = strings.Join(lines, "\n") + fmt.Sprintf("\nstruct slate_display %s_display = {%s};", c.Ident, strings.Join(members, ", ")) + v.stageState(i)
	}
	if h.Values {
		v.Accessors = append(v.Accessors, map[bool]string{true: "#define VALUES(d) ((d)->values)", false: fmt.Sprintf("#define VALUES(d) ((void)(d), %s_values)", v.Modules[0].Ident)}[h.SeveralValues])
	}
	if h.Free {
		v.Accessors = append(v.Accessors, map[bool]string{true: "#define TEXTS(d) ((d)->texts)", false: fmt.Sprintf("#define TEXTS(d) ((void)(d), %s_texts)", v.Modules[0].Ident)}[h.SeveralTexts])
	}
	if h.Clock {
		v.Accessors = append(v.Accessors, map[bool]string{true: "#define TIMES(d) ((d)->times)", false: fmt.Sprintf("#define TIMES(d) ((void)(d), %s_times)", v.Modules[0].Ident)}[h.SeveralTimes])
	}
}
