// Package micropython writes the program of a bench as a module of MicroPython and its example, and
// estimates the memory that it takes.
//
// It stands above codegen/layout, whose view it fills with the tables of each display's class.
package micropython

import (
	"embed"
	"fmt"
	"slices"
	"strings"

	"slatebell/codegen/layout"
	"slatebell/codegen/source"
	"slatebell/core/part/module"
	"slatebell/core/quoting"
	"slatebell/core/ship/firmware"
	"slatebell/core/text/field"
	"slatebell/core/wire/link"
)

// Files writes the module and its example.
func Files(im *firmware.Image) ([]source.File, error) {
	v, err := layout.New(im)
	if err != nil {
		return nil, err
	}
	p := view{View: v, Reads: reads{&v.Reads}, Cases: clockCases(&v.Clock)}
	p.Machine, p.NewBus = Bus(v, im)
	for i := range v.Modules {
		c := &v.Modules[i]
		w := writer{v: v, c: c, m: c.Image}
		p.Modules = append(p.Modules, display{Display: c, Class: className(c.Ident), Attributes: w.attributes(), Show: w.show()})
	}
	names := []string{"bench.py", "main.py"}
	if v.Reads.Any() {
		names = slices.Insert(names, 1, "inputs.py")
	}
	return source.Render([]embed.FS{Templates}, names, source.InPython, v.File, p, layout.Sources(im))
}

// Templates are those of the files of MicroPython.
//
//go:embed *.tmpl
var Templates embed.FS

// view is what the templates of MicroPython are filled in with.
type view struct {
	*layout.View
	Modules []display
	Reads   reads
	Machine string // class of the bus
	NewBus  string // what makes it
	Cases   []clockCase
}

type display struct {
	*layout.Display
	Class      string
	Attributes []string
	Show       []string // tables of its show
}

// className writes a name as classes are named.
func className(ident string) string {
	var b strings.Builder
	for _, part := range strings.Split(ident, "_") {
		if part != "" {
			b.WriteString(strings.ToUpper(part[:1]) + part[1:])
		}
	}
	name := b.String()
	if name == "Display" || name == "Pin" || name == "I2C" || name == "SoftI2C" {
		name += "Module"
	}
	return name
}

// Bus says how the host's bus is made, and of which class: hardware where its pins have it, as hosts
// number it (from memory: the RP2040 by its pins, the ESP32 at will; the ESP8266 has none).
func Bus(v *layout.View, im *firmware.Image) (class, made string) {
	board := &im.Host
	sda, scl := v.PinName(im.SDA), v.PinName(im.SCL)
	switch n, ok := board.Number(im.SDA); {
	case layout.IsPico(board.Chip) && ok:
		return "I2C", fmt.Sprintf("I2C(%d, scl=Pin(%s), sda=Pin(%s), freq=%d)", n/2%2, scl, sda, v.BusHz)
	case board.Chip != "ESP32":
		return "SoftI2C", fmt.Sprintf("SoftI2C(scl=Pin(%s), sda=Pin(%s), freq=%d)", scl, sda, v.BusHz)
	}
	return "I2C", fmt.Sprintf("I2C(0, scl=Pin(%s), sda=Pin(%s), freq=%d)", scl, sda, v.BusHz)
}

// writer writes the tables of one display.
type writer struct {
	v *layout.View
	c *layout.Display
	m *firmware.Module
}

// bytesOf writes codes as a literal.
func bytesOf(codes []byte) string {
	var b strings.Builder
	b.WriteString(`b"`)
	for _, code := range codes {
		switch {
		case code == '"' || code == '\\':
			fmt.Fprintf(&b, `\%c`, code)
		case code >= ' ' && code <= '~':
			b.WriteByte(code)
		default:
			fmt.Fprintf(&b, `\x%02x`, code)
		}
	}
	return b.String() + `"`
}

// tuple writes a tuple of what are literals already.
func tuple(parts []string) string {
	if len(parts) == 1 {
		return "(" + parts[0] + ",)"
	}
	return "(" + strings.Join(parts, ", ") + ")"
}

// rows writes a tuple, a part a line.
func rows(parts []string) string {
	if len(parts) == 0 {
		return "()"
	}
	return "(\n        " + strings.Join(parts, ",\n        ") + ",\n    )"
}

func truth(b bool) string {
	if b {
		return "True"
	}
	return "False"
}

// attributes lists what a display has of its own.
func (w *writer) attributes() (out []string) {
	m, l, h := w.m, &w.m.Link, &w.v.Has
	add := func(format string, args ...any) { out = append(out, fmt.Sprintf(format, args...)) }
	if l.Kind == link.Backpack {
		add("address = 0x%02X", l.Address)
	} else {
		var pins, says []string
		roles := l.HostPins()
		first := 2 + layout.One(l.Enables == 2) + layout.One(l.ReadWrite)
		if !l.Expander() {
			slices.Reverse(roles[first:])
		}
		for _, role := range roles {
			pins = append(pins, w.v.PinName(m.Pins[role]))
			says = append(says, role+": "+m.Pins[role])
		}
		add("pins = %s  # %s", tuple(pins), quoting.ASCIIComment(strings.Join(says, ", ")))
		if l.Kind == link.ShiftReg {
			add("shift = True")
		} else {
			pinTime := max(layout.Microseconds(l.PinTime), 1)
			add("parallel = True")
			add("lines = %d", l.Width())
			add("first = %d", first)
			add("pin_wait = %d", pinTime)
		}
	}
	if l.Expander() {
		mp := &l.Mapping
		bit := func(output int8) int {
			if output == link.Open {
				return 0
			}
			return 1 << output
		}
		light := func(on bool) int { return bit(mp.Backlight) * layout.One(on != mp.BacklightLow) }
		add("rs_out = 0x%02X", bit(mp.RS))
		add("rw_out = 0x%02X", bit(mp.RW))
		add("e_out = 0x%02X", bit(mp.E))
		add("e2_out = 0x%02X", bit(mp.E2))
		add("busy_out = 0x%02X", bit(mp.D7))
		add("light = 0x%02X", light(l.Backlight))
		add("lit = 0x%02X", light(true))
		add("dark = 0x%02X", light(false))
		add("nibbles = %s", bytesOf(layout.Nibbles(mp)))
		add("per_byte = %s", truth(l.Kind == link.Backpack && l.Grouping == link.PerByte))
		add("per_operation = %s", truth(l.Kind == link.Backpack && l.Grouping == link.PerOperation))
		add("setup_before = %s", truth(l.Setup == link.SetupBefore))
		add("setup_with_e = %s", truth(l.Setup == link.SetupWithE))
	}
	add("controllers = %d", m.Display.Geometry.Controllers)
	add("two_line = %s", truth(m.Display.Geometry.TwoLine))
	add("is_vfd = %s", truth(m.Display.Technology == module.VFD))
	add("cell_rows = %d", m.Display.CellRows())
	add("polls = %s", truth(m.Polls))
	var pauses []string
	for _, p := range m.Pauses {
		pauses = append(pauses, fmt.Sprint(layout.Microseconds(p[0])), fmt.Sprint(layout.Microseconds(p[1])))
	}
	add("pauses = %s", tuple(pauses))
	add("function = 0x%02X", m.Function)
	add("setting = %s", bytesOf(m.Setting))
	if h.Glyphs {
		var glyphs []string
		for _, p := range m.Glyphs {
			glyphs = append(glyphs, bytesOf(p[:m.Display.CellRows()]))
		}
		add("glyphs = %s", rows(glyphs))
		add("begun = %s", bytesOf(pairs(m.Begun)))
		if m.Held {
			var loads []string
			for i := range m.Screens {
				loads = append(loads, source.Mark(m.At, "screen", i, bytesOf(pairs(m.Screens[i].Loads))))
			}
			add("loads = %s", rows(loads))
		}
	}
	add("screens = %d", len(m.Screens))
	add("transitions = %s", w.transitions())
	add("cursors = %s", bytesOf(layout.Cursors(m, true)))
	if h.Fields {
		w.fields(add)
	}
	return out
}

// show writes the tables of a display's show.
func (w *writer) show() (out []string) {
	if w.c.Stage == nil {
		return nil
	}
	r := &w.c.Stage.Tables
	add := func(name string, values []string) { out = append(out, name+" = "+rows(values)) }
	table := func(name string, list [][]int64) {
		var lines []string
		for _, row := range list {
			parts := make([]string, len(row))
			for i, v := range row {
				parts[i] = fmt.Sprint(v)
			}
			lines = append(lines, tuple(parts))
		}
		add(name, lines)
	}
	texts := func(list []string) (out []string) {
		for _, text := range list {
			out = append(out, bytesOf([]byte(text)))
		}
		return out
	}
	table("scenes", r.Scenes)
	table("ends", r.Ends)
	table("inputs", r.Inputs)
	table("feeds", r.Feeds)
	table("edits", r.Edits)
	add("takes", texts(r.Takes))
	table("typed", r.Fields)
	add("begins", texts(r.Codes))
	table("keys", r.Keys)
	table("effects", r.Effects)
	var frames []string
	for i, list := range r.Frames {
		var steps []string
		for _, glyph := range list {
			steps = append(steps, bytesOf([]byte{byte(r.Effects[i][1]), byte(glyph)}))
		}
		frames = append(frames, tuple(steps))
	}
	add("frames", frames)
	table("meters", r.Meters)
	table("chars", r.Chars)
	var lines []string
	for _, n := range r.Lines {
		lines = append(lines, fmt.Sprint(n))
	}
	add("lines", lines)
	out = append(out, "over = "+bytesOf(layout.OverBits(r.Over)), fmt.Sprintf("start = %d", r.Start))
	return out
}

// pairs are slots with their glyphs.
func pairs(list []firmware.Load) (out []byte) {
	for _, l := range list {
		out = append(out, byte(l.Slot), byte(l.Glyph))
	}
	return out
}

// transitions writes the tables of changes, by the screen before; the last is of an empty glass.
func (w *writer) transitions() string {
	var from []string
	for i, streams := range w.m.Transitions {
		if streams == nil {
			from = append(from, "None")
			continue
		}
		var to []string
		for k := range w.m.Screens {
			if i == k {
				to = append(to, "    None")
				continue
			}
			before := "an empty glass"
			if i < w.m.Blank() {
				before = w.c.Screens[i].Says
			}
			to = append(to, source.Mark(w.m.At, "screen", k, fmt.Sprintf("    # from %s to %s\n            %s", before, w.c.Screens[k].Says, bytesOf(streams[k]))))
		}
		from = append(from, "(\n        "+strings.Join(to, ",\n        ")+",\n        )")
	}
	return rows(from)
}

// fields writes the fields and their values.
func (w *writer) fields(add func(string, ...any)) {
	m := w.m
	var places []string
	kinds := map[field.Kind]int{field.Number: 0, field.Elapsed: 1, field.Text: 2, field.Choice: 2, field.Clock: 3, field.Bar: 4, field.Free: 5, field.Tape: 6}
	for i := range m.Places {
		p := &m.Places[i]
		if p.Value < 0 {
			continue
		}
		looks := layout.One(p.Spec.Align() != "left") | 2*layout.One(p.Spec.Align() == "centre") | 4*layout.One(p.Spec.TooLong() == "hashes") | 8*layout.One(p.Spec.Fills())
		under := []byte(nil)
		if layout.NeedsUnder(p) {
			under = p.Under
		}
		parts := []string{
			fmt.Sprint(p.Screen), fmt.Sprint(w.c.Number(p.Value)), fmt.Sprint(kinds[p.Spec.Kind]), bytesOf(p.Address), fmt.Sprint(p.Width), fmt.Sprint(p.Offset), fmt.Sprint(looks),
			fmt.Sprint(p.Controller), fmt.Sprintf("0x%02X", p.Fill), fmt.Sprint(len(p.Rest)), bytesOf(under), w.how(p),
		}
		places = append(places, source.Mark(m.At, "place", i, tuple(parts)))
	}
	add("# screen, value, kind, addresses, width, offset, look, enable, fill, rest, under, how")
	add("places = %s", rows(places))
	add("gap = (%d, %d)", m.Gap[0], m.Gap[1])
	var values, times, texts []string
	for _, s := range w.c.Setters {
		if val := &m.Values[s.Index]; s.Clock {
			t := val.Time
			times = append(times, fmt.Sprintf("(%d, %d, %d, %d, %d, %d)", t.Year(), t.Month(), t.Day(), t.Hour(), t.Minute(), t.Second()))
		} else if s.Text {
			texts = append(texts, bytesOf([]byte(val.Codes)))
		} else {
			values = append(values, fmt.Sprint(val.Start))
		}
	}
	for range layout.Peaks(m) {
		values = append(values, "0")
	}
	if len(texts) > 0 {
		add("begun_texts = %s", tuple(texts))
	}
	add("values = %s", tuple(values))
	if len(times) > 0 {
		add("times = %s", tuple(times))
	}
	add("shadow_size = %d", m.Shadow)
}

// how writes how a value becomes text.
func (w *writer) how(p *firmware.Place) string {
	f := &p.Spec
	switch f.Kind {
	case field.Number:
		mark, sign := byte('.'), map[string]byte{"always": '+', "space": ' '}[f.Digits.Sign]
		if f.Digits.Mark == "comma" {
			mark = ','
		}
		group := map[string]byte{"comma": ',', "point": '.', "apostrophe": '\'', "space": ' '}[f.Digits.Thousands]
		return fmt.Sprintf("(%d, %d, %d, %d, %d, %s)", f.Digits.Decimals, mark, sign, group, layout.One(f.Digits.Zeros), bytesOf(p.Unit))
	case field.Elapsed:
		return fmt.Sprint(max(slices.Index(field.ElapsedFormats, f.Format), 0))
	case field.Text, field.Choice:
		var words []string
		for _, codes := range p.Words {
			words = append(words, bytesOf(codes))
		}
		return tuple(words)
	case field.Clock:
		var format []byte
		for _, piece := range p.Format {
			format = append(format, piece.Conversion, piece.Code)
		}
		return bytesOf(format)
	case field.Bar:
		var cells []byte
		for _, c := range p.Bar.Cells {
			cells = append(cells, byte(c.First-p.Bar.Least), byte(c.Run))
		}
		var runs []string
		for _, run := range p.Bar.Runs {
			runs = append(runs, bytesOf(run))
		}
		low, high := f.Ends()
		return fmt.Sprintf("(%d, %d, %d, %s, %s, %d)", low, high, p.Bar.Steps, bytesOf(cells), tuple(runs), layout.PeakValue(w.c, w.m, p.Value))
	case field.Free:
		return "(" + layout.FreeText(p) + ")"
	case field.Tape:
		return bytesOf(p.Words[0])
	}
	return "()"
}
