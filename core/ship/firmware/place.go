package firmware

import (
	"cmp"
	"fmt"
	"slices"
	"strings"
	"time"

	"slatebell/core/bench"
	"slatebell/core/place"
	"slatebell/core/prove/testbed"
	"slatebell/core/text/field"
	"slatebell/core/text/glyph"
	"slatebell/core/text/meter"
	"slatebell/core/text/screen"
)

// Value is what a program is told: the number, choice, time or level that fields of one
// name show. Fields of different screens share it where they take the same.
type Value struct {
	Name     string
	Kind     field.Kind
	Decimals int
	Cut      bool  // number: further digits are cut off, not rounded
	Low      int64 // number, bar: least and greatest value in units of the last digit; elapsed: seconds; choice: 0 and the last
	High     int64
	Start    int64     // what it is until it is told otherwise
	Time     time.Time // of a clock
	Unit     string
	Words    []string // text, choice: what its numbers stand for
	Codes    string   // free text: what it shows until it is told otherwise
}

// Place is a field on a screen as the program writes it.
type Place struct {
	Screen, Field int // indexes in the module's screens, and in the screen's fields
	Value         int // index in the module's values; -1 for a place for the cursor
	Spec          field.Field
	Row, Col      int
	Width         int // cells on the glass
	Offset        int // of its first cell in the shadow
	Controller    int
	Address       []uint8 // of each cell
	Fill          byte    // code in free cells, where Spec.Fills
	Under         []byte  // codes below, where free cells are not written
	Rest          []byte  // what a text that is too long moves on: the codes behind the field, up to the end of its row
	Unit          []byte  // codes
	Words         [][]byte
	Format        []Piece // of a clock
	Bar           Bar
	Skip, Area    int // free text: cells of the fields of its name before it on the screen, and of all of them
	Step          int // free text: by how many characters it moves up
}

// Piece is a character of a clock's text, or a conversion of it.
type Piece struct {
	Conversion byte // as in strftime; 0 for a character
	Code       byte
}

// Bar is how the cells of a bar follow its steps.
type Bar struct {
	Least, Steps int
	Cells        []BarCell
	Runs         [][]byte // codes, one for each step from a cell's First on
}

// BarCell is a cell of a bar: at step First and below it shows the first code of its
// run, and from First plus its length on the last.
type BarCell struct{ First, Run int }

// At returns the code of a cell at a step.
func (b *Bar) At(cell, step int) byte {
	c := b.Cells[cell]
	run := b.Runs[c.Run]
	return run[min(max(step-c.First, 0), len(run)-1)]
}

// screens lays down the screens of a module with their fields, each with what the slots
// hold while it is shown.
func (m *Module) screens(b *bench.Bench, banks []glyph.Bank) error {
	doc, g := &b.Modules[m.At], &m.Display.Geometry
	for i := range doc.Screens {
		s := &doc.Screens[i]
		library := screen.Named(s.Rows, s.Fields, b.Glyphs)
		t := screen.Text{Rows: s.Rows, Bank: banks[i], Library: library}
		bare := screen.Compose(&m.Display, t, screen.Sources{})
		next := Screen{At: i, ID: s.ID, Name: s.Name, Loads: m.loads(banks[i]), fixed: bare.Codes(), owner: make([]int, g.Cells())}
		if c := s.Cursor; (c.Kind == "line" || c.Kind == "block") && c.Row < g.Rows && c.Col < g.Cols {
			next.Cursor = testbed.CursorOf(c)
		}
		offset := 0
		for k := range s.Fields {
			if f := &s.Fields[k]; f.Row >= g.Rows || f.Col >= g.Cols {
				continue // it is not on the glass
			}
			p, err := m.place(i, k, s, banks[i], library, next.fixed)
			if err != nil {
				return bench.ProblemOf(fmt.Sprintf("/modules/%d/screens/%d/fields/%d", m.At, i, k), err)
			}
			p.Offset = offset
			m.Places = append(m.Places, p)
			if p.Value >= 0 {
				for col := range p.Width {
					next.owner[p.Row*g.Cols+p.Col+col] = len(m.Places)
				}
				offset += p.Width
			}
		}
		m.areas(i)
		m.Shadow = max(m.Shadow, offset)
		m.Screens = append(m.Screens, next)
	}
	return nil
}

// place lays down a field.
func (m *Module) place(at, k int, s *bench.Screen, bank glyph.Bank, library glyph.Library, fixed []byte) (Place, error) {
	f, g := &s.Fields[k], &m.Display.Geometry
	encode := func(text string) []byte { return screen.Encode(&m.Display, bank, library, text) }
	p := Place{Screen: at, Field: k, Value: -1, Spec: *f, Row: f.Row, Col: f.Col, Width: min(f.Width, g.Cols-f.Col)}
	last := true
	for other := range s.Fields {
		o := &s.Fields[other]
		last = last && !(o.Row == f.Row && o.Col > f.Col && o.Kind != field.Cursor)
	}
	behind := f.Row*g.Cols + f.Col + p.Width
	if f.TooLong() == "shift" && last && f.Kind != field.Bar && f.Kind != field.Cursor && f.Kind != field.Free && p.Width < g.Cols-f.Col {
		p.Rest = slices.Clone(fixed[behind : (f.Row+1)*g.Cols])
		p.Width = g.Cols - f.Col
	}
	for col := range p.Width {
		controller, address, ok := g.Locate(p.Row, p.Col+col)
		if !ok {
			return p, place.Errorf("%P is no cell of the glass", place.Cell(p.Row, p.Col+col))
		}
		p.Controller, p.Address = controller, append(p.Address, address)
	}
	if f.Kind == field.Cursor {
		return p, nil
	}
	p.Under = slices.Clone(fixed[f.Row*g.Cols+f.Col:][:p.Width])
	p.Fill = ' '
	if f.Fills() && f.Look.Fill != "" {
		p.Fill = encode(f.Look.Fill)[0]
	}
	v := Value{Name: f.Name, Kind: f.Kind}
	switch f.Kind {
	case field.Tape:
		p.Words = [][]byte{encode(f.Values[0])}
		v.Low, v.High, v.Start = Still, int64(len(p.Words[0])-p.Width), Still
	case field.Number, field.Elapsed, field.Bar:
		v.Decimals, v.Unit = f.Decimals(), f.Digits.Unit
		v.Cut = f.Kind == field.Number && f.Digits.Cut
		v.Low, v.High = f.Ends()
		v.Start = f.Reading()
		switch f.Kind {
		case field.Number:
			p.Unit = encode(f.Digits.Unit)
		case field.Bar:
			bar, err := m.bar(f, bank, p.Width)
			if err != nil {
				return p, err
			}
			p.Bar = bar
		}
	case field.Text, field.Choice:
		if len(f.Values) == 0 {
			return p, fmt.Errorf("its list is empty; expected what it may show")
		}
		for _, word := range f.Values {
			p.Words = append(p.Words, encode(word))
		}
		v.High, v.Start, v.Words = int64(len(f.Values)-1), int64(f.Chosen()), f.Values
	case field.Clock:
		v.Time = f.Time()
		var err error
		if p.Format, err = pieces(f.Format, encode); err != nil {
			return p, err
		}
	}
	p.Value = slices.IndexFunc(m.Values, func(w Value) bool {
		return w.Name == v.Name && w.Kind == v.Kind && w.Decimals == v.Decimals && w.Cut == v.Cut && slices.Equal(w.Words, v.Words)
	})
	if p.Value < 0 {
		p.Value = len(m.Values)
		m.Values = append(m.Values, v)
	} else {
		w := &m.Values[p.Value]
		w.Low, w.High = min(w.Low, v.Low), max(w.High, v.High)
	}
	return p, nil
}

// areas joins the fields of a screen that show one free text, in the order in which they are
// read.
func (m *Module) areas(screen int) {
	byValue := map[int][]*Place{}
	for i := range m.Places {
		if p := &m.Places[i]; p.Screen == screen && p.Spec.Kind == field.Free {
			byValue[p.Value] = append(byValue[p.Value], p)
		}
	}
	for value, places := range byValue {
		slices.SortFunc(places, func(a, b *Place) int { return cmp.Or(a.Row-b.Row, a.Col-b.Col) })
		area, step := 0, 1
		if len(places) > 1 {
			step = places[0].Width // rows move up
		}
		v, codes := &m.Values[value], []byte{}
		for _, p := range places {
			p.Skip, p.Step = area, step
			area += p.Width
			codes = append(codes, m.encode(p.Spec.Sample)...)
			for len(codes) < area && len(places) > 1 {
				codes = append(codes, ' ')
			}
			codes = codes[:min(len(codes), area)]
		}
		for _, p := range places {
			p.Area = area
		}
		if len(v.Codes) < len(codes) {
			v.Codes = string(codes)
		}
	}
}

// pieces takes the format of a clock apart.
func pieces(format string, encode func(string) []byte) (out []Piece, err error) {
	if format == "" {
		format = "%H:%M"
	}
	conversion := false
	for _, ch := range format {
		switch {
		case !conversion && ch == '%':
			conversion = true
			continue
		case conversion && ch != '%':
			if ch > 0x7F {
				return nil, fmt.Errorf("format %q: %%%c is not known; expected such as %%H:%%M", format, ch)
			}
			out = append(out, Piece{Conversion: byte(ch)})
		default:
			out = append(out, Piece{Code: encode(string(ch))[0]})
		}
		conversion = false
	}
	f := field.Field{Kind: field.Clock, Format: format}
	_, err = f.ClockText(f.Time())
	return out, err
}

// bar finds how each cell of a bar follows its steps.
func (m *Module) bar(f *field.Field, bank glyph.Bank, width int) (Bar, error) {
	bar := f.Meter()
	if err := bar.Check(); err != nil {
		return Bar{}, err
	}
	least, most := bar.Range()
	b := Bar{Least: least, Steps: most - least}
	rows := make([][]byte, width) // codes of each cell by step
	for step := least; step <= most; step++ {
		for cell, p := range bar.Draw(meter.Reading{Value: step})[:width] {
			code, ok := screen.PatternCode(&m.Display, bank, p)
			if !ok {
				code = ' '
			}
			rows[cell] = append(rows[cell], code)
		}
	}
	for _, codes := range rows {
		first, last := 0, len(codes)-1
		for first < last && codes[first+1] == codes[first] {
			first++
		}
		for last > first && codes[last-1] == codes[last] {
			last--
		}
		run := codes[first : last+1]
		at := slices.IndexFunc(b.Runs, func(r []byte) bool { return slices.Equal(r, run) })
		if at < 0 {
			at = len(b.Runs)
			b.Runs = append(b.Runs, run)
		}
		b.Cells = append(b.Cells, BarCell{least + first, at})
	}
	return b, nil
}

// Told is the value of one of the module's values: a number, a choice, a level or a place
// of a tape in units, the time of a clock, or the codes of free text.
type Told struct {
	Units int64
	Time  time.Time
	Codes string
	Above int64 // bar: how far above its level a peak is marked; 0 for none
	Mark  EditPlace
}

// EditPlace is a place of a value that shows something else while it is edited.
type EditPlace struct {
	Place int // counted from 1: of a number the digit from the right, of free text the character; 0 for none
	Code  byte
}

// Still is the place of a tape that is not shown: what is below it is.
const Still = -1

// Text returns the codes of what a place shows for a value, as many as it has cells; for
// cells that are not written it returns those below.
func (m *Module) Text(p *Place, v Told) []byte {
	var codes []byte
	switch p.Spec.Kind {
	case field.Bar:
		return p.bar(v)
	case field.Tape:
		return p.tape(v.Units)
	case field.Free:
		from := p.Skip + field.From(p.Spec.TooLong(), len(v.Codes), p.Area, p.Step)
		codes = []byte(v.Codes[min(from, len(v.Codes)):])
		codes = codes[:min(len(codes), p.Width)]
		out := p.fit(codes)
		if at := v.Mark.Place - 1 - from; at >= 0 && at < len(out) {
			out[at] = v.Mark.Code
		}
		return out
	case field.Text, field.Choice:
		codes = p.Words[min(max(v.Units, 0), int64(len(p.Words)-1))]
	case field.Clock:
		for _, piece := range p.Format {
			if piece.Conversion == 0 {
				codes = append(codes, piece.Code)
				continue
			}
			one := field.Field{Kind: field.Clock, Format: "%" + string(piece.Conversion)}
			text, _ := one.ClockText(v.Time)
			codes = append(codes, m.encode(text)...)
		}
	case field.Elapsed:
		codes = m.encode(p.Spec.TextOf(v.Units))
	default:
		codes = append(m.encode(strings.TrimSuffix(p.Spec.TextOf(v.Units), p.Spec.Digits.Unit)), p.Unit...)
	}
	out := p.fit(codes)
	if at := p.marked(v.Mark.Place); at >= 0 && at < len(out) {
		out[at] = v.Mark.Code
	}
	return out
}

// marked is the cell of a place that is edited; −1 for none. A number stands right.
func (p *Place) marked(place int) int {
	switch {
	case place <= 0:
		return -1
	case p.Spec.Kind != field.Number:
		return 0
	}
	d := &p.Spec.Digits
	digit := place - 1
	at := p.Width - len(p.Rest) - len(p.Unit) - 1 - digit
	if digit >= d.Decimals {
		if d.Decimals > 0 {
			at-- // the decimal mark
		}
		if d.Thousands != "" {
			at -= (digit - d.Decimals) / 3
		}
	}
	return at
}

// bar returns the codes of a bar. A peak lights its own cell as far as it reaches there.
func (p *Place) bar(v Told) []byte {
	out := make([]byte, p.Width)
	step, peak := p.Spec.Step(v.Units), p.Spec.Step(v.Units+v.Above)
	for i := range out {
		out[i] = p.Bar.At(i, step)
		next := i+1 < p.Width && p.Bar.Cells[i+1].First < peak
		if peak > step && !p.Spec.Gauge.Centre && p.Bar.Cells[i].First < peak && !next {
			out[i] = p.Bar.At(i, peak)
		}
	}
	return out
}

// tape returns the codes of a tape from one of its characters on; where it fills nothing a
// space shows what is below.
func (p *Place) tape(start int64) []byte {
	if start < 0 {
		return slices.Clone(p.Under)
	}
	out := slices.Clone(p.Words[0][start:][:p.Width])
	for i, code := range out {
		if code == ' ' && !p.Spec.Fills() {
			out[i] = p.Under[i]
		}
	}
	return out
}

// encode returns the codes of a text without drawings.
func (m *Module) encode(text string) []byte { return screen.Encode(&m.Display, nil, nil, text) }

// fit lays a text into the cells of a place.
func (p *Place) fit(codes []byte) []byte {
	width := p.Width - len(p.Rest)
	if over := len(codes) > width; over && p.Spec.TooLong() == "hashes" {
		codes = slices.Repeat([]byte{'#'}, width)
	} else if over && len(p.Rest) == 0 {
		codes = codes[:width]
	}
	if free := width - len(codes); free > 0 && p.Spec.Fills() {
		before := 0
		switch p.Spec.Align() {
		case "right":
			before = free
		case "centre":
			before = free / 2
		}
		fill := func(n int) []byte { return slices.Repeat([]byte{p.Fill}, n) }
		codes = slices.Concat(fill(before), codes, fill(free-before))
	}
	out := slices.Clone(p.Under)
	copy(out, codes)
	if len(codes) > width {
		copy(out[min(len(codes), len(out)):], p.Rest)
	}
	return out
}

// Starts returns what the values are until they are told otherwise.
func (m *Module) Starts() []Told {
	out := make([]Told, len(m.Values))
	for i, v := range m.Values {
		out[i] = Told{Units: v.Start, Time: v.Time, Codes: v.Codes}
	}
	return out
}

// Shows returns the codes of a screen, row by row, for values; nil stands for those of
// Starts.
func (m *Module) Shows(at int, values []Told) []byte {
	if values == nil {
		values = m.Starts()
	}
	out := slices.Clone(m.Screens[at].fixed)
	for i := range m.Places {
		if p := &m.Places[i]; p.Screen == at && p.Value >= 0 {
			copy(out[p.Row*m.Display.Geometry.Cols+p.Col:], m.Text(p, values[p.Value]))
		}
	}
	return out
}
