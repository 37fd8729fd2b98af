package c99

import (
	"fmt"
	"slices"
	"strings"

	"slatebell/codegen/layout"
	"slatebell/codegen/source"
	"slatebell/core/quoting"
	"slatebell/core/ship/firmware"
	"slatebell/core/wire/link"
)

// tableWriter writes the tables of one display.
type tableWriter struct {
	v    *View
	c    *layout.Display
	m    *firmware.Module
	used layout.Names
}

// named gives a table a name of the bench's own names.
func (w *tableWriter) named(name string) string { return w.used.Of(w.c.Ident+"_"+name, w.c.Ident) }

// called is what a screen is called in names.
func (w *tableWriter) called(screen int) string {
	return strings.ToLower(strings.TrimPrefix(w.c.Screens[screen].Enum, strings.ToUpper(w.c.Ident)+"_"))
}

func (w *tableWriter) add(text string) { w.v.Tables = append(w.v.Tables, text) }

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

func kindOf(m *firmware.Module) string {
	return map[link.Kind]string{link.Backpack: "BACKPACK", link.ShiftReg: "SHIFT", link.Parallel4: "PARALLEL", link.Parallel8: "PARALLEL8"}[m.Link.Kind]
}

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
	set(i, "ADDRESS", "address", "byte", fmt.Sprintf("0x%02Xu", l.Address*uint8(layout.One(l.Kind == link.Backpack))), h.Backpack)
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
		set(i, "NIBBLES", "nibbles", "const uint8_t *", bytes("nibbles", layout.Nibbles(&mp)), true)
	} else {
		set(i, "NIBBLES", "nibbles", "const uint8_t *", "0", false)
	}
	lines, data := l.Width(), 2+layout.One(l.Enables == 2)+layout.One(l.ReadWrite)
	set(i, "LINES", "lines", "byte", fmt.Sprintf("%du", lines), h.Parallel)
	set(i, "DATA_PIN", "data_pin", "byte", fmt.Sprintf("%du", data), h.Parallel)
	set(i, "RW_PIN", "rw_pin", "byte", fmt.Sprintf("%du", data-1), h.PollPins)
	pinTime := l.PinTime
	if pinTime == 0 {
		pinTime = link.UsualPinTime
	}
	set(i, "PIN_WAIT", "pin_wait", "word", fmt.Sprintf("%du", max(layout.Microseconds(pinTime), 1)), h.Parallel)
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
		number, _ := w.v.Board.Number(label)
		pins = append(pins, fmt.Sprintf("%d /* %s: %s */", number, role, quoting.ASCIIComment(label)))
	}
	w.add(array(w.c.Ident+"_pins", strings.Join(pins, ", ")))
	set(i, "PINS", "pins", "const uint8_t *", w.c.Ident+"_pins", true)
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
		w.add(source.Mark(m.At, "screen", k, array(name, loads(m.Screens[k].Loads))))
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

// transitions writes a table for every change of screens, equal ones once, and returns the
// name of the list of them.
func (w *tableWriter) transitions() string {
	m, id := w.m, w.c.Ident
	known := map[string]string{}
	var names []string
	for from, streams := range m.Transitions {
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
	list := fmt.Sprintf("%s_transitions", id)
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
		return quoting.ASCIIComment(s.Name)
	}
	return quoting.ASCIIComment(s.ID)
}

// stream writes a stream, an operation or a run a line.
func (w *tableWriter) stream(name, says string, s firmware.Stream, to int) {
	var b strings.Builder
	fmt.Fprintf(&b, "/* %s */\nstatic const uint8_t %s[] SLATE_FLASH = {\n", strings.ToUpper(says[:1])+says[1:], name)
	for _, part := range w.m.Explain(s) {
		if len(part.Bytes) > 4 { // what it says stands over it
			fmt.Fprintf(&b, "    /* %s */\n", quoting.ASCIIComment(part.Says))
			for chunk := range slices.Chunk(part.Bytes, 12) {
				fmt.Fprintf(&b, "    %s,\n", hexes(chunk))
			}
			continue
		}
		line := fmt.Sprintf("    %s,", hexes(part.Bytes))
		fmt.Fprintf(&b, "%s%s/* %s */\n", line, strings.Repeat(" ", max(1, 32-len(line))), quoting.ASCIIComment(part.Says))
	}
	b.WriteString("    0x00\n};")
	if to >= 0 {
		w.add(source.Mark(w.m.At, "screen", to, b.String()))
		return
	}
	w.add(b.String())
}
