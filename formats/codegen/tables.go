package codegen

import (
	"fmt"
	"slices"
	"strings"

	"slatebell/core/field"
	"slatebell/core/firmware"
	"slatebell/core/link"
	"slatebell/core/module"
)

// property is a figure or a table that each display has: one macro reads it. Where it is
// the same for all it is written into the driver, otherwise it stands in their tables.
type property struct {
	macro, member, kind string // kind: byte, word, or the C type of a pointer
	values              []string
	used                bool
}

// properties lays out the accessors of properties, and the members of tables.
func (v *cView) properties(list []property) (values [][]string) {
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

// array writes a table of bytes.
func array(name string, body string) string {
	return fmt.Sprintf("static const uint8_t %s[] SLATE_FLASH = {%s};", name, body)
}

func hexes(codes []byte) string {
	parts := make([]string, len(codes))
	for i, c := range codes {
		parts[i] = fmt.Sprintf("0x%02X", c)
	}
	return strings.Join(parts, ", ")
}

// counted writes codes with their number before them.
func counted(codes []byte) string {
	return strings.TrimSuffix(fmt.Sprintf("%d, %s", len(codes), hexes(codes)), ", ")
}

// mark puts the marks of a region round a text.
func mark(module int, kind string, index int, text string) string {
	return fmt.Sprintf("\x02%d %s %d\x03%s\x04", module, kind, index, text)
}

// tables lays out the tables of all displays.
func (v *cView) tables(im *firmware.Image) error {
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
		c := &v.Modules[i]
		m := c.image
		id := c.Ident
		w := tableWriter{v, c, m, names{}}
		bytes := func(name string, codes []byte) string {
			w.add(array(id+"_"+name, hexes(codes)))
			return id + "_" + name
		}
		set(i, "KIND", "kind", "byte", kindOf(m), true)
		w.link(set, i, plainNibbles, bytes)
		if !simple {
			var words []string
			for _, p := range m.Pauses {
				words = append(words, fmt.Sprint(microseconds(p[0])), fmt.Sprint(microseconds(p[1])))
			}
			w.add(fmt.Sprintf("static const uint16_t %s_pauses[] SLATE_FLASH = {%s};", id, strings.Join(words, ", ")))
			set(i, "PAUSES", "pauses", "const uint16_t *", id+"_pauses", true)
		} else {
			set(i, "PAUSE_SHORT", "pause_short", "word", fmt.Sprintf("%du", microseconds(m.Pauses[0][0])), true)
			set(i, "PAUSE_LONG", "pause_long", "word", fmt.Sprintf("%du", microseconds(m.Pauses[2][0])), true)
		}
		set(i, "POLLS", "polls", "byte", fmt.Sprintf("%du", one(m.Polls)), h.Poll)
		set(i, "CONTROLLERS", "controllers", "byte", fmt.Sprintf("%du", m.Display.Geometry.Controllers), h.Two)
		set(i, "TWO_LINE", "two_line", "byte", fmt.Sprintf("%du", one(m.Display.Geometry.TwoLine)), h.BothMemories)
		set(i, "IS_VFD", "is_vfd", "byte", fmt.Sprintf("%du", one(m.Display.Technology == module.VFD)), h.GlassLight && h.OutLight)
		set(i, "FUNCTION", "function", "byte", fmt.Sprintf("0x%02Xu", m.Function), true)
		w.stream(id+"_setting", "what follows the function set", m.Setting, -1)
		set(i, "SETTING", "setting", "const uint8_t *", id+"_setting", true)
		w.glyphs(set, i)
		set(i, "SCREENS", "screens", "byte", fmt.Sprintf("%du", len(m.Screens)), true)
		set(i, "PASSAGES", "passages", "const uint8_t *const *", w.passages(), true)
		if h.Cursor {
			set(i, "CURSORS", "cursors", "const uint8_t *", bytes("cursors", cursors(m, h.Two)), true)
		}
		if h.Fields {
			if err := w.places(); err != nil {
				return err
			}
			set(i, "PLACES", "places", "const struct slate_place *", id+"_places", true)
			set(i, "PLACE_COUNT", "place_count", "byte", fmt.Sprintf("%du", len(m.Places)-len(c.Moves)), true)
			set(i, "GAP_INSTRUCTION", "gap_instruction", "byte", fmt.Sprintf("%du", m.Gap[0]), true)
			set(i, "GAP_DATA", "gap_data", "byte", fmt.Sprintf("%du", m.Gap[1]), true)
			clocks := 0
			for _, s := range c.Setters {
				clocks += one(s.Clock)
			}
			set(i, "CLOCKS", "clocks", "byte", fmt.Sprintf("%du", len(c.Setters)-clocks), h.Clock)
		}
	}
	values := v.properties(list)
	v.composed(simple, plainNibbles)
	v.states(values)
	return nil
}

func one(b bool) int {
	if b {
		return 1
	}
	return 0
}

func kindOf(m *firmware.Module) string {
	return map[link.Kind]string{link.Backpack: "BACKPACK", link.ShiftReg: "SHIFT", link.Parallel4: "PARALLEL", link.Parallel8: "PARALLEL8"}[m.Link.Kind]
}

// composed adds the accessors that are made of others.
func (v *cView) composed(simple, plainNibbles bool) {
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

// setProperty sets a property of a display.
type setProperty func(i int, macro, member, kind, value string, used bool)

// tableWriter writes the tables of one display.
type tableWriter struct {
	v    *cView
	c    *cModule
	m    *firmware.Module
	used names
}

// named gives a table a name of the bench's own names.
func (w *tableWriter) named(name string) string { return w.used.of(w.c.Ident+"_"+name, w.c.Ident) }

// called is what a screen is called in names.
func (w *tableWriter) called(screen int) string {
	return strings.ToLower(strings.TrimPrefix(w.c.Screens[screen].Enum, strings.ToUpper(w.c.Ident)+"_"))
}

func (w *tableWriter) add(text string) { w.v.Tables = append(w.v.Tables, text) }

// link lays out how a display is joined to the host.
func (w *tableWriter) link(set setProperty, i int, plainNibbles bool, bytes func(string, []byte) string) {
	l, h := &w.m.Link, &w.v.Has
	expander := l.Expander()
	bit := func(output int8) string {
		if output == link.Open || !expander {
			return "0u"
		}
		return fmt.Sprintf("0x%02Xu", 1<<output)
	}
	mp := l.Mapping
	set(i, "ADDRESS", "address", "byte", fmt.Sprintf("0x%02Xu", l.Address*uint8(one(l.Kind == link.Backpack))), h.Backpack)
	set(i, "RS_OUT", "rs", "byte", bit(mp.RS), h.Expander)
	set(i, "RW_OUT", "rw", "byte", bit(mp.RW), h.Expander)
	set(i, "E1_OUT", "e", "byte", bit(mp.E), h.Expander)
	set(i, "E2_OUT", "e2", "byte", bit(mp.E2), h.Expander && h.Two)
	set(i, "BUSY_OUT", "busy", "byte", bit(mp.D7), h.PollBus)
	light := func(on bool) string {
		if on != mp.BacklightLow {
			return bit(mp.Backlight)
		}
		return "0u"
	}
	set(i, "LIGHT", "light", "byte", light(l.Backlight), h.Expander)
	set(i, "LIT", "lit", "byte", light(true), h.OutLight)
	set(i, "DARK", "dark", "byte", light(false), h.OutLight)
	grouping := map[link.Grouping]string{link.WholeScreen: "WHOLE", link.PerOperation: "PER_OPERATION", link.PerByte: "PER_BYTE"}[l.Grouping]
	if l.Kind != link.Backpack {
		grouping = "WHOLE"
	}
	set(i, "GROUPING", "grouping", "byte", grouping, h.PerByte || h.PerOperation)
	set(i, "SETUP", "setup", "byte", map[link.Setup]string{link.SetupLawful: "SETUP_LAWFUL", link.SetupBefore: "SETUP_BEFORE", link.SetupWithE: "SETUP_WITH_E"}[l.Setup], h.OtherSetup)
	if expander && !plainNibbles {
		set(i, "NIBBLES", "nibbles", "const uint8_t *", bytes("nibbles", nibbles(&mp)), true)
	} else {
		set(i, "NIBBLES", "nibbles", "const uint8_t *", "0", false)
	}
	lines, data := l.Width(), 2+one(l.Enables == 2)+one(l.ReadWrite)
	set(i, "LINES", "lines", "byte", fmt.Sprintf("%du", lines), h.Parallel)
	set(i, "DATA_PIN", "data_pin", "byte", fmt.Sprintf("%du", data), h.Parallel)
	set(i, "RW_PIN", "rw_pin", "byte", fmt.Sprintf("%du", data-1), h.PollPins)
	pinTime := l.PinTime
	if pinTime == 0 {
		pinTime = link.UsualPinTime
	}
	set(i, "PIN_WAIT", "pin_wait", "word", fmt.Sprintf("%du", max(microseconds(pinTime), 1)), h.Parallel)
	if l.Kind == link.Backpack {
		set(i, "PINS", "pins", "const uint8_t *", "0", h.Pins)
		return
	}
	var pins []string
	roles := l.HostPins()
	if !expander { // D7 first, as bits leave a byte
		slices.Reverse(roles[data:])
	}
	for _, role := range roles {
		label := w.m.Pins[role]
		number, _ := w.v.board.Number(label)
		pins = append(pins, fmt.Sprintf("%d /* %s: %s */", number, role, ascii(label)))
	}
	w.add(array(w.c.Ident+"_pins", strings.Join(pins, ", ")))
	set(i, "PINS", "pins", "const uint8_t *", w.c.Ident+"_pins", true)
}

// nibbles are the outputs of each nibble.
func nibbles(mp *link.Mapping) (table []byte) {
	for n := range 16 {
		b := byte(0)
		for k, output := range []int8{mp.D4, mp.D5, mp.D6, mp.D7} {
			b |= byte(n>>k&1) << output
		}
		table = append(table, b)
	}
	return table
}

// glyphs lays out glyphs, and which of them are loaded when.
func (w *tableWriter) glyphs(set setProperty, i int) {
	m, h, id := w.m, &w.v.Has, w.c.Ident
	set(i, "GLYPH_ROWS", "glyph_rows", "byte", fmt.Sprintf("%du", m.Display.CellRows()), h.Glyphs)
	if !h.Glyphs {
		return
	}
	var rows []string
	for k, p := range m.Glyphs {
		rows = append(rows, fmt.Sprintf("\n    %s, /* %d */", hexes(p[:m.Display.CellRows()]), k))
	}
	if len(rows) == 0 {
		rows = []string{"0"}
	}
	w.add(array(id+"_glyphs", strings.TrimSuffix(strings.Join(rows, ""), ",")+"\n"))
	set(i, "GLYPHS", "glyphs", "const uint8_t *", id+"_glyphs", true)
	w.add(array(id+"_begun", loads(m.Begun)))
	set(i, "BEGUN", "begun", "const uint8_t *", id+"_begun", true)
	if !h.Held {
		return
	}
	var names []string
	for k := range m.Screens {
		name := w.named("loads_" + w.called(k))
		w.add(mark(m.At, "screen", k, array(name, loads(m.Screens[k].Loads))))
		names = append(names, name)
	}
	w.add(fmt.Sprintf("static const uint8_t *const %s_loads[] SLATE_FLASH = {%s};", id, strings.Join(names, ", ")))
	set(i, "LOADS", "loads", "const uint8_t *const *", id+"_loads", true)
}

// loads writes pairs of a slot and a glyph.
func loads(list []firmware.Load) string {
	var b strings.Builder
	for _, l := range list {
		fmt.Fprintf(&b, "%d, %d, ", l.Slot, l.Glyph)
	}
	return b.String() + fmt.Sprintf("0x%02X", 0xFF)
}

// cursors lists where each screen has its cursor.
func cursors(m *firmware.Module, two bool) (out []byte) {
	for _, s := range m.Screens {
		at, enable := byte(0xFF), byte(0)
		if s.Cursor.Line || s.Cursor.Block {
			controller, address, ok := m.Display.Geometry.Locate(s.Cursor.Row, s.Cursor.Col)
			if ok {
				at, enable = address, byte(controller)
			}
		}
		out = append(out, at)
		if two {
			out = append(out, enable)
		}
	}
	return out
}

// passages writes a table for every change of screens, equal ones once, and returns the
// name of the list of them.
func (w *tableWriter) passages() string {
	m, id := w.m, w.c.Ident
	known := map[string]string{}
	var names []string
	for from, streams := range m.Passages {
		for to := range m.Screens {
			if streams == nil || from == to {
				if streams != nil || from == 0 || len(m.Screens) <= firmware.MaxScreens {
					names = append(names, "0")
				}
				continue
			}
			key := string(streams[to])
			name, ok := known[key]
			if !ok {
				before, called := "an empty glass", "blank"
				if from < m.Blank() {
					before, called = w.title(from), w.called(from)
				}
				name = w.named(called + "_to_" + w.called(to))
				known[key] = name
				w.stream(name, fmt.Sprintf("from %s to %s", before, w.title(to)), streams[to], to)
			}
			names = append(names, name)
		}
	}
	if len(m.Screens) > firmware.MaxScreens { // only those from an empty glass are there
		names = names[len(names)-len(m.Screens):]
	}
	list := fmt.Sprintf("%s_passages", id)
	var rows strings.Builder
	for i, name := range names {
		if i%len(m.Screens) == 0 {
			rows.WriteString("\n   ")
		}
		fmt.Fprintf(&rows, " %s,", name)
	}
	w.add(fmt.Sprintf("static const uint8_t *const %s[] SLATE_FLASH = { /* from each to each; the last from an empty glass */%s\n};", list, strings.TrimSuffix(rows.String(), ",")))
	return list
}

func (w *tableWriter) title(screen int) string {
	s := &w.m.Screens[screen]
	if s.Name != "" {
		return ascii(s.Name)
	}
	return ascii(s.ID)
}

// stream writes a stream, an operation or a run a line.
func (w *tableWriter) stream(name, says string, s firmware.Stream, to int) {
	var b strings.Builder
	fmt.Fprintf(&b, "/* %s */\nstatic const uint8_t %s[] SLATE_FLASH = {\n", strings.ToUpper(says[:1])+says[1:], name)
	for _, part := range w.m.Explain(s) {
		if len(part.Bytes) > 4 { // what it says stands over it
			fmt.Fprintf(&b, "    /* %s */\n", ascii(part.Says))
			for chunk := range slices.Chunk(part.Bytes, 12) {
				fmt.Fprintf(&b, "    %s,\n", hexes(chunk))
			}
			continue
		}
		line := fmt.Sprintf("    %s,", hexes(part.Bytes))
		fmt.Fprintf(&b, "%s%s/* %s */\n", line, strings.Repeat(" ", max(1, 32-len(line))), ascii(part.Says))
	}
	b.WriteString("    0x00\n};")
	if to >= 0 {
		w.add(mark(w.m.At, "screen", to, b.String()))
		return
	}
	w.add(b.String())
}

// places writes the fields of a display.
func (w *tableWriter) places() error {
	m, h, id := w.m, &w.v.Has, w.c.Ident
	var rows []string
	for i := range m.Places {
		p := &m.Places[i]
		if p.Value < 0 {
			continue
		}
		how := w.how(i, p)
		number := 0
		for _, s := range w.c.Setters {
			if s.Index == p.Value {
				number = s.Number
			}
		}
		parts := []string{fmt.Sprint(p.Screen), fmt.Sprint(number)}
		if !w.v.OneKind {
			parts = append(parts, fieldKinds[p.Spec.Kind])
		}
		parts = append(parts, fmt.Sprintf("0x%02X", p.Address[0]), fmt.Sprint(p.Width), fmt.Sprint(p.Offset), look(p))
		if h.Two {
			parts = append(parts, fmt.Sprint(p.Controller))
		}
		if h.Turn {
			at, then := turn(p), byte(0)
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
			if !p.Spec.Fills() || len(p.Rest) > 0 {
				under = w.named("under_" + plain(p.Spec.Name))
				w.add(mark(m.At, "place", i, array(under, hexes(p.Under))))
			}
			parts = append(parts, under)
		}
		parts = append(parts, how)
		rows = append(rows, mark(m.At, "place", i, fmt.Sprintf("    {%s}, /* %s */", strings.Join(parts, ", "), ascii(p.Spec.Name))))
	}
	if len(rows) == 0 {
		rows = []string{"    {0}"}
	}
	w.add(fmt.Sprintf("static const struct slate_place %s_places[] SLATE_FLASH = {\n%s\n};", id, strings.Join(rows, "\n")))
	return nil
}

// fieldKinds are the kinds of fields as C has them.
var fieldKinds = map[field.Kind]string{field.Number: "NUMBER", field.Elapsed: "ELAPSED", field.Text: "WORD", field.Choice: "WORD", field.Clock: "CLOCK", field.Bar: "BAR"}

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
	h, name := &w.v.Has, w.named("field_"+plain(f.Name))
	add := func(text string) { w.add(mark(w.m.At, "place", i, text)) }
	switch f.Kind {
	case field.Number:
		unit := w.used.of(name+"_unit", "unit")
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
			parts = append(parts, fmt.Sprint(one(f.Digits.Zeros)))
		}
		add(fmt.Sprintf("static const struct slate_number %s SLATE_FLASH = {%s, %s};", name, strings.Join(parts, ", "), unit))
		return "&" + name
	case field.Elapsed:
		add(array(name, fmt.Sprint(max(slices.Index(field.ElapsedFormats, f.Format), 0))))
	case field.Text, field.Choice:
		words := []string{fmt.Sprintf("\n    %d,", len(p.Words)-1)}
		for k, codes := range p.Words {
			words = append(words, fmt.Sprintf("\n    %s, /* %s */", counted(codes), ascii(f.Values[k])))
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
		cellsName, runsName := w.used.of(name+"_cells", "cells"), w.used.of(name+"_runs", "runs")
		add(array(cellsName, hexes(cells)))
		var runs []string
		for _, run := range p.Bar.Runs {
			runs = append(runs, counted(run))
		}
		add(array(runsName, strings.Join(runs, ", ")))
		low, high := f.Ends()
		add(fmt.Sprintf("static const struct slate_bar %s SLATE_FLASH = {%d, %d, %s, %s, %d};", name, low, high, cellsName, runsName, p.Bar.Steps))
		return "&" + name
	}
	return name
}

// states writes what each display keeps in mind.
func (v *cView) states(tables [][]string) {
	h := &v.Has
	n := len(v.Modules)
	h.SeveralValues, h.SeveralTimes, h.SeveralShadows = n > 1 && h.Values, n > 1 && h.Clock, n > 1 && h.Fields
	for i := range v.Modules {
		c := &v.Modules[i]
		var values, times []string
		for _, s := range c.Setters {
			val := &c.image.Values[s.Index]
			if s.Clock {
				t := val.Time
				times = append(times, fmt.Sprintf("{%d, %d, %d, %d, %d, %d}", t.Year(), t.Month(), t.Day(), t.Hour(), t.Minute(), t.Second()))
			} else {
				values = append(values, fmt.Sprint(val.Start))
			}
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
		c.State = strings.Join(lines, "\n") + fmt.Sprintf("\nstruct slate_display %s_display = {%s};", c.Ident, strings.Join(members, ", "))
	}
	if h.Values {
		v.Accessors = append(v.Accessors, map[bool]string{true: "#define VALUES(d) ((d)->values)", false: fmt.Sprintf("#define VALUES(d) ((void)(d), %s_values)", v.Modules[0].Ident)}[h.SeveralValues])
	}
	if h.Clock {
		v.Accessors = append(v.Accessors, map[bool]string{true: "#define TIMES(d) ((d)->times)", false: fmt.Sprintf("#define TIMES(d) ((void)(d), %s_times)", v.Modules[0].Ident)}[h.SeveralTimes])
	}
}
