// Package card writes a page about one module for the wall above the bench, to be printed:
// header and host pins, address and pads, memory, glyphs, unusual characters, and the bytes
// of the initialisation.
package card

import (
	"cmp"
	_ "embed"
	"fmt"
	"html/template"
	"io"
	"slices"
	"strings"
	"time"

	"slatebell/core/bench"
	"slatebell/core/part/i2cbus"
	"slatebell/core/part/module"
	"slatebell/core/prove/run"
	"slatebell/core/prove/testbed"
	"slatebell/core/quoting"
	"slatebell/core/ship/firmware"
	"slatebell/core/table/wiring"
	"slatebell/core/text/glyph"
	"slatebell/core/text/screen"
	"slatebell/core/wire/link"
	"slatebell/core/wire/sequence"
)

//go:embed card.html.tmpl
var page string

var tmpl = template.Must(template.New("card").Parse(page))

// view is what the page is filled in with.
type view struct {
	Name, Bench, Display, Link string
	VFD                        bool
	Glasses                    []picture
	Header                     []pin
	Expander                   []output
	Address                    *address
	Rows                       []row
	Controllers                int
	Glyphs                     []slot
	Unusual                    []code
	Steps                      []step
}

// picture is a screen as its dots lie.
type picture struct {
	Name          string
	Width, Height float64
	Dots          []dot
	Cells         []dot
}

type dot struct{ X, Y float64 }

type pin struct {
	Number         int
	Name, To, Says string
}

type output struct{ Output, Line string }

// address is the backpack's.
type address struct {
	Hex, Decimal, Binary, Write string
	Part                        string
	Pads                        []pad
}

type pad struct {
	Name   string
	Closed bool
}

// row is a run of cells in memory.
type row struct {
	Number      int
	Controller  int
	From, To    string
	Addresses   []string
	FirstColumn int
}

// slot is a glyph in CGRAM.
type slot struct {
	Number  int
	Name    string
	Codes   string
	Rows    []string
	Picture picture
}

type code struct{ Char, Hex, Decimal, Binary, Where string }

type step struct{ What, Byte, Wire, Wait string }

// Write writes the card of a module. Its error is a bench.Problem where the module cannot
// be run.
func Write(w io.Writer, b *bench.Bench, at int) error {
	setup, err := testbed.Of(b, testbed.At{Module: at})
	if err != nil {
		return err
	}
	r, err := run.Do(&setup, run.Options{})
	if err != nil {
		return err
	}
	m := &b.Modules[at]
	v := view{
		Name: cmp.Or(m.Name, m.ID), Bench: b.Name, VFD: r.Module.Technology == module.VFD, Controllers: r.Module.Geometry.Controllers,
		Display: fmt.Sprintf("%s %s, ROM %s", r.Module.Geometry.Title, strings.ToUpper(string(r.Module.Technology)), r.Module.ROM.Name),
		Link:    map[link.Kind]string{link.Backpack: "I²C backpack", link.ShiftReg: "shift register 74HC595", link.Parallel4: "4 data lines", link.Parallel8: "8 data lines"}[r.Wired.Kind],
	}
	v.pins(b, at, r)
	v.address(r)
	for _, seg := range r.Module.Geometry.Segments {
		one := row{Number: seg.Row + 1, Controller: seg.Controller, From: fmt.Sprintf("%02X", seg.Start), To: fmt.Sprintf("%02X", int(seg.Start)+seg.Len-1), FirstColumn: seg.Col + 1}
		for k := range seg.Len {
			one.Addresses = append(one.Addresses, fmt.Sprintf("%02X", int(seg.Start)+k))
		}
		v.Rows = append(v.Rows, one)
	}
	if err := v.screens(b, at); err != nil {
		return err
	}
	v.steps(r)
	var page strings.Builder
	if err := tmpl.Execute(&page, &v); err != nil {
		return fmt.Errorf("writing the card: %w", err)
	}
	if _, err := io.WriteString(w, quoting.Lines(page.String())); err != nil { // names may hold characters that control
		return fmt.Errorf("writing the card: %w", err)
	}
	return nil
}

// pins lists what each pin of the header is joined to, and the outputs of an expander.
func (v *view) pins(b *bench.Bench, at int, r *run.Run) {
	nets := wiring.Of(b)
	part, ok := nets.Of(at, wiring.Itself)
	if !ok {
		return
	}
	id := part.ID
	names := map[string]string{}
	for i := range nets.Parts {
		names[nets.Parts[i].ID] = nets.Parts[i].Name
	}
	for i, p := range part.Pins {
		one := pin{Number: i + 1, Name: p.Name, To: "nothing"}
		if strings.HasPrefix(p.Name, "NC") {
			one.Name = "NC" // the wiring tells them apart by their number
		}
		if net, ok := nets.NetOf(part.Pin(p.Name)); ok {
			var to []string
			for _, full := range net.Pins {
				owner, label, _ := strings.Cut(full, "/")
				switch {
				case owner == id:
				case owner == "host":
					to = slices.Insert(to, 0, "host "+label)
				case !strings.Contains(net.Name, "/"): // a rail: its name says it
				default:
					to = append(to, names[owner]+" "+label)
				}
			}
			if !strings.Contains(net.Name, "/") {
				to = slices.Insert(to, 0, net.Name)
			}
			one.To = strings.Join(slices.Compact(to), ", ")
		}
		for _, h := range r.Module.Header() {
			if h.Name == p.Name {
				one.Says = h.For
			}
		}
		v.Header = append(v.Header, one)
	}
	if r.Wired.Expander() {
		for _, o := range r.Wired.Mapping.Outputs() {
			name := o.Line.Pin()
			if o.Line == link.LineBL {
				name = "backlight"
			}
			label := fmt.Sprintf("P%d", o.Output)
			if r.Wired.Kind == link.ShiftReg {
				label = wiring.Output(o.Output)
			}
			v.Expander = append(v.Expander, output{label, name})
		}
		slices.SortFunc(v.Expander, func(a, b output) int { return strings.Compare(a.Output, b.Output) })
	}
}

// address tells a backpack's address in every base, and its pads.
func (v *view) address(r *run.Run) {
	if r.Wired.Kind != link.Backpack {
		return
	}
	a := r.Wired.Address
	v.Address = &address{Hex: fmt.Sprintf("0x%02X", a), Decimal: fmt.Sprint(a), Binary: fmt.Sprintf("%07b", a), Write: fmt.Sprintf("0x%02X", a<<1), Part: r.Part()}
	closed := i2cbus.PadsFor(i2cbus.Address(a)).Closed()
	for _, name := range []string{"A2", "A1", "A0"} {
		v.Address.Pads = append(v.Address.Pads, pad{name, slices.Contains(closed, name)})
	}
}

// screens draws the screens, what the slots hold, and the codes that are no plain text.
func (v *view) screens(b *bench.Bench, at int) error {
	im, err := firmware.New(b, at)
	if err != nil {
		return err
	}
	m := &im.Modules[0]
	seen := map[byte]*code{}
	for i := range m.Screens {
		setup, err := testbed.Of(b, testbed.At{Module: at, Screen: i})
		if err != nil {
			return err
		}
		r, err := run.Do(&setup, run.Options{})
		if err != nil {
			return err
		}
		glass := r.Last().Glass(&r.Module, r.Contrast)
		title := cmp.Or(m.Screens[i].Name, fmt.Sprintf("screen %d", i+1))
		if i < 4 {
			pic := picture{Name: title, Width: float64(glass.Cols)*6 + 1, Height: float64(glass.Rows)*9 + 1}
			for k, c := range glass.Cells {
				x, y := float64(k%glass.Cols)*6+1, float64(k/glass.Cols)*9+1
				pic.Cells = append(pic.Cells, dot{x, y})
				for line, bits := range c.Dots {
					for col := range 5 {
						if bits>>(4-col)&1 != 0 {
							pic.Dots = append(pic.Dots, dot{x + float64(col), y + float64(line)})
						}
					}
				}
			}
			v.Glasses = append(v.Glasses, pic)
		}
		for k, c := range r.Layout.Cells {
			if c.Code >= ' ' && c.Code <= '~' && string(rune(c.Code)) == cmp.Or(c.Char, " ") {
				continue
			}
			if _, isSlot := r.Module.Slot(c.Code); isSlot || c.Code == ' ' {
				continue
			}
			if seen[c.Code] == nil {
				char := c.Char
				if ch, ok := r.Module.ROM.Rune(c.Code); ok {
					char = string(ch)
				}
				seen[c.Code] = &code{Char: char, Hex: fmt.Sprintf("0x%02X", c.Code), Decimal: fmt.Sprint(c.Code), Binary: fmt.Sprintf("%08b", c.Code), Where: fmt.Sprintf("%s, row %d, column %d", title, k/r.Layout.Cols+1, k%r.Layout.Cols+1)}
				v.Unusual = append(v.Unusual, *seen[c.Code])
			}
		}
	}
	v.slots(b, m)
	return nil
}

// slots draws the glyphs.
func (v *view) slots(b *bench.Bench, m *firmware.Module) {
	loads := slices.Clone(m.Begun)
	for _, s := range m.Screens {
		for _, l := range s.Loads {
			if !slices.Contains(loads, l) {
				loads = append(loads, l)
			}
		}
	}
	slices.SortStableFunc(loads, func(a, b firmware.Load) int { return a.Slot - b.Slot })
	for _, l := range loads {
		p := m.Glyphs[l.Glyph]
		s := slot{Number: l.Slot, Name: nameOf(b, m.At, p), Codes: fmt.Sprintf("%d, %d", l.Slot, l.Slot+8)}
		if code := screen.CodeOf(&m.Display, l.Slot); l.Slot == 0 && code != 0 {
			s.Codes = fmt.Sprintf("%d (0 ends C texts)", code)
		}
		s.Picture = picture{Width: 6, Height: float64(m.Display.CellRows()) + 1}
		for line := range m.Display.CellRows() {
			s.Rows = append(s.Rows, fmt.Sprintf("%02X", p[line]))
			for col := range 5 {
				x, y := float64(col)+0.5, float64(line)+0.5
				s.Picture.Cells = append(s.Picture.Cells, dot{x, y})
				if p[line]>>(4-col)&1 != 0 {
					s.Picture.Dots = append(s.Picture.Dots, dot{x, y})
				}
			}
		}
		v.Glyphs = append(v.Glyphs, s)
	}
}

// nameOf is what a pattern is called on the bench.
func nameOf(b *bench.Bench, at int, p glyph.Pattern) string {
	for _, g := range b.Modules[at].Glyphs {
		if g.Pattern() == p {
			return g.Name
		}
	}
	for _, d := range b.Glyphs {
		if d.Pattern() == p {
			return d.Name
		}
	}
	return ""
}

// steps lists the initialisation, from power-up to the first glyph or text.
func (v *view) steps(r *run.Run) {
	p := r.Program
	for i := range p.Steps {
		s := &p.Steps[i]
		if s.Kind != sequence.Wait && s.Kind != sequence.Park && s.Kind != sequence.Wake && s.Kind != sequence.Setting {
			break
		}
		one := step{What: s.Meaning}
		if s.Sends() {
			one.Byte = fmt.Sprintf("%02X", s.Op.Byte)
			if s.Half {
				one.Byte = fmt.Sprintf("%X", s.Op.Byte>>4)
			}
		}
		var words []string
		for w := s.First; w < s.First+s.Count; w++ {
			words = append(words, p.Coder.Format(p.Words[w]))
		}
		one.Wire = strings.Join(words, " ")
		if wait := max(s.Wait, s.Pause); wait > 0 {
			one.Wait = wait.Round(100 * time.Nanosecond).String()
			one.Wait = strings.NewReplacer("µs", " µs", "ms", " ms").Replace(one.Wait)
		}
		v.Steps = append(v.Steps, one)
	}
}
