// Package firmtest makes benches and calls at random, for tests of what programs on a
// host do with them: the images of package firmware, and the code that is written of them.
package firmtest

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"

	"slatebell/core/bench"
	"slatebell/core/part/module"
	"slatebell/core/text/field"
	"slatebell/core/text/glyph"
	"slatebell/core/text/screen"
	"slatebell/core/wire/link"
)

// pins are those of ATmega boards that drive lines here.
var pins = strings.Fields("D2 D3 D4 D5 D6 D7 D8 D9 D10 D11 D12 D13 A0 A1 A2 A3")

// Bench returns a bench of one to three modules with up to four screens each, of every
// link, geometry and kind of field. Its transfers keep all limits of the data sheets.
func Bench(r *rand.Rand) *bench.Bench {
	b := bench.New(fmt.Sprintf("Bench %d", r.IntN(1000)))
	b.Modules = nil
	if r.IntN(4) == 0 {
		b.Host.Part = "ATmega2560"
	}
	free := slices.Clone(pins)
	for key := 1; key <= 12; key++ {
		b.Glyphs = append(b.Glyphs, glyph.Drawing{Key: key, Name: fmt.Sprintf("drawing %d", key), Rows: dots(r)})
	}
	for i := range 1 + r.IntN(3) {
		m := bench.NewModule(fmt.Sprintf("m%d", i+1), fmt.Sprintf("Module %d", i+1))
		g := pick(r, module.Geometries)
		m.Display.Geometry = g.Name
		if r.IntN(4) == 0 {
			m.Display.Technology, m.Display.Controller.ROM = "vfd", "A02"
			m.Display.Controller.Family = pick(r, []string{"", "vfd-data-byte"})
			m.Display.Supply.Brightness = r.IntN(4)
		} else if !g.TwoLine && r.IntN(3) == 0 {
			m.Display.Controller.Font = "5x10"
		}
		m.Link, free = linkOf(r, i, &g, free)
		m.Changes = pick(r, []string{"", "", "cheapest", "steady", "changed", "pad", "clear"})
		m.Loading.OnGlass = r.IntN(2) == 0
		m.Loading.Loop = r.IntN(2) == 0
		for slot := 0; slot < r.IntN(9); slot += 1 + r.IntN(3) {
			m.Glyphs = append(m.Glyphs, glyph.New(slot, "", glyph.FromInts(dots(r))))
		}
		m.Screens = nil
		for k := range 1 + r.IntN(4) {
			m.Screens = append(m.Screens, screenOf(r, k, &g, m.Display.Controller.Font == "5x10"))
		}
		b.Modules = append(b.Modules, m)
	}
	return &b
}

func pick[T any](r *rand.Rand, of []T) T { return of[r.IntN(len(of))] }

func dots(r *rand.Rand) []int {
	rows := make([]int, glyph.Rows)
	for i := range rows {
		rows[i] = r.IntN(32)
	}
	return rows
}

// linkOf returns a link, and the pins that are left.
func linkOf(r *rand.Rand, at int, g *module.Geometry, free []string) (bench.Link, []string) {
	l := bench.Link{Kind: string(link.Backpack), Outputs: bench.Outputs{Address: 0x20 + at, Backlight: r.IntN(4) > 0}}
	kind := pick(r, link.Kinds)
	wants := map[link.Kind]int{link.ShiftReg: 3, link.Parallel4: 8, link.Parallel8: 12}[kind]
	if kind == link.Backpack || len(free) < wants {
		l.Outputs.Transactions = pick(r, []string{"", "byte", "operation", "screen"})
		l.Outputs.Setup = pick(r, []string{"", "lawful", "before"})
		l.Waits = pick(r, []string{"", "worst", "typical", "poll"})
		if r.IntN(2) == 0 {
			o := r.Perm(8)
			m := link.Mapping{RS: int8(o[0]), RW: int8(o[1]), E: int8(o[2]), E2: link.Open, Backlight: int8(o[3]), D4: int8(o[4]), D5: int8(o[5]), D6: int8(o[6]), D7: int8(o[7]), BacklightLow: r.IntN(2) == 0}
			if g.Controllers == 2 {
				m.E2, m.Backlight, m.BacklightLow = m.Backlight, link.Open, false
			}
			l.Outputs.Mapping = &m
		}
		return l, free
	}
	l.Kind, l.Pins = string(kind), map[string]string{}
	l.ReadWrite = kind != link.ShiftReg && r.IntN(2) == 0
	l.Waits = pick(r, []string{"", "typical"})
	if l.ReadWrite && r.IntN(2) == 0 {
		l.Waits = "poll"
	}
	bus := bench.Bus{}
	built := l.Build(g, &bus)
	for _, line := range built.HostPins() {
		l.Pins[line] = free[0]
		free = free[1:]
	}
	return l, free
}

const letters = "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789 .,:+-/()     "

func text(r *rand.Rand, n int) string {
	var b strings.Builder
	for range n {
		b.WriteByte(letters[r.IntN(len(letters))])
	}
	return b.String()
}

func screenOf(r *rand.Rand, k int, g *module.Geometry, tall bool) bench.Screen {
	s := bench.Screen{ID: fmt.Sprintf("s%d", k+1), Name: fmt.Sprintf("Screen %d", k+1)}
	drawings := 4
	if tall {
		drawings = 2
	}
	for range g.Rows {
		row := []rune(text(r, r.IntN(g.Cols+1)))
		for range r.IntN(2) {
			if len(row) > 0 {
				row[r.IntN(len(row))] = rune(screen.KeyBase + k*3 + 1 + r.IntN(drawings-1))
			}
		}
		s.Rows = append(s.Rows, string(row))
	}
	taken := make([]bool, g.Cells())
	for n := range r.IntN(4) {
		f := fieldOf(r, n, g)
		if r.IntN(20) == 0 { // beyond the glass: it is not shown
			f.Name += " off"
			f.Row, f.Col = pick(r, []int{f.Row, g.Rows}), g.Cols
			s.Fields = append(s.Fields, f)
			continue
		}
		clear := !slices.Contains(taken[f.Row*g.Cols+f.Col:][:f.Width], true)
		if clear {
			for i := range f.Width {
				taken[f.Row*g.Cols+f.Col+i] = true
			}
			s.Fields = append(s.Fields, f)
		}
	}
	if r.IntN(3) == 0 {
		s.Cursor = screen.Cursor{Kind: pick(r, []string{"line", "block"}), Row: r.IntN(g.Rows), Col: r.IntN(g.Cols)}
	}
	return s
}

func fieldOf(r *rand.Rand, n int, g *module.Geometry) field.Field {
	f := field.Field{Name: fmt.Sprintf("%s %d", pick(r, []string{"Tide", "Wind", "Boats"}), n), Row: r.IntN(g.Rows), Col: r.IntN(g.Cols)}
	f.Width = 1 + r.IntN(min(g.Cols-f.Col, 9))
	f.Look = field.Look{Align: pick(r, []string{"", "left", "right", "centre"}), Fill: pick(r, []string{"", "", ".", field.NoFill}), TooLong: pick(r, []string{"", "cut", "hashes", "shift"})}
	f.Kind = pick(r, []field.Kind{field.Number, field.Number, field.Text, field.Choice, field.Clock, field.Elapsed, field.Bar, field.Cursor})
	switch f.Kind {
	case field.Number:
		f.Range = pick(r, []field.Range{{Max: 9}, {Min: -40, Max: 85}, {Min: -1500, Max: 1500}, {Max: 123456}})
		f.Digits = field.Digits{
			Decimals: r.IntN(3), Mark: pick(r, []string{"", "comma"}), Sign: pick(r, []string{"", "always", "space"}), Zeros: r.IntN(3) == 0, Cut: r.IntN(3) == 0,
			Thousands: pick(r, []string{"", "comma", "point", "apostrophe", "space"}), Unit: pick(r, []string{"", "m", " kn"}),
		}
	case field.Elapsed:
		f.Range = field.Range{Max: float64(pick(r, []int{99, 3599, 86399}))}
		f.Format = pick(r, append(field.ElapsedFormats, ""))
	case field.Text, field.Choice:
		for range 1 + r.IntN(5) {
			f.Values = append(f.Values, text(r, 1+r.IntN(f.Width+2)))
		}
	case field.Clock:
		f.Format = pick(r, []string{"", "%H:%M", "%I:%M %p", "%d.%m.%y", "%a %e %b", "%j", "%A", "%Y-%m-%d", "%%%S"})
	case field.Bar:
		f.Range = pick(r, []field.Range{{Max: 10}, {Min: -5, Max: 5}, {Max: 1000}})
		f.Gauge = field.Gauge{Dots: pick(r, []int{0, 2, 5}), Centre: r.IntN(2) == 0}
		f.Look = field.Look{}
	case field.Cursor:
		f.Width, f.Look = 1, field.Look{}
	}
	return f
}
