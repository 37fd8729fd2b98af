// Package layout lays an image out as programs in every language have it: names for its displays,
// screens and values, the calls that their callers see, what the driver must be able to do, the rows of
// shows, and what is read at which pins.
//
// It stands above core/ship/firmware; the packages of languages fill its view with tables of their own,
// and their templates are filled in with it.
package layout

import (
	"fmt"
	"strings"
	"time"

	"slatebell/codegen/source"
	"slatebell/core/bench/show"
	"slatebell/core/part/hd44780"
	"slatebell/core/part/host"
	"slatebell/core/quoting"
	"slatebell/core/ship/firmware"
	"slatebell/core/text/field"
	"slatebell/core/wire/link"
)

// View is what the templates are filled in with.
type View struct {
	Has                        Needs
	Written                    string
	KeepsOwn                   []string
	File, Name                 string
	Modules                    []Display
	BusHz, Buffer, MaxScreens  int
	TextMax, WidthMax          int
	FreeMax, Longest, SampleMs int                                        // characters of a free text, of a message; ms between samples of a meter
	Flash                      int                                        // ms that a step of what is edited shows its mark at most
	Wait                       struct{ Supply, First, Second, Third int } // µs
	Clock                      Clocks
	Counts                     []Count
	Rounds                     int
	Turns                      bool // some display shows one screen after the other
	Reads                      Listening

	Board host.Board
}

// Display is a display as its callers have it.
type Display struct {
	At           int
	Ident, Title string
	Screens      []Screen
	Setters      []Setter
	Moves        []Move
	Light        string
	Shadow       int
	Stage        *Show // nil where nothing is played
	Image        *firmware.Module
}

// Screen is a screen as its callers have it.
type Screen struct {
	Enum, Says string
	Last       bool
}

// Setter is the call that tells a value.
type Setter struct {
	Index, Number           int // of the value: in the image, and in the program
	Func, Type, Param, Says string
	Clock, Text, Hidden     bool
	Enums                   []Enum
}

// Enum is a word of a value.
type Enum struct {
	Name, Says string
	Last       bool
}

// Move is the call that puts the cursor into a place.
type Move struct {
	Index, Screen, Enable int
	Func, Says            string
	Address               uint8
}

// Count is a value that the example counts.
type Count struct {
	Module           int
	Var, Func        string
	Start, Low, High int64
}

// New lays out an image; its error says what a program cannot hold.
func New(im *firmware.Image) (*View, error) {
	v := &View{
		Board:   im.Host,
		Written: source.Written, KeepsOwn: strings.Split(source.KeepsOwn, "\n"), Name: quoting.ASCIIComment(im.Name), BusHz: im.BusHz, Buffer: buffer, MaxScreens: firmware.MaxScreens,
	}
	if err := digitsAsUsual(im); err != nil {
		return nil, err
	}
	used := Names{}
	v.File = used.Of(im.Name, "bench")
	v.Wait.Supply, v.Wait.First, v.Wait.Second = Microseconds(hd44780.WaitAt3V), Microseconds(hd44780.WaitAfterFirst), Microseconds(hd44780.WaitAfterSecond)
	v.Wait.Third = Microseconds(hd44780.ExecutionTime(hd44780.Command(0x30), hd44780.MinOscillator))
	v.Has = needs(im)
	v.widths(im)
	v.FreeMax, v.SampleMs, v.Flash = max(v.capacity(im), 1), sampleMs, show.Flash
	for i := range im.Modules {
		m := &im.Modules[i]
		if m.Link.Kind == link.Backpack {
			v.BusHz = min(v.BusHz, int(m.Link.Speed/1e6))
		}
		v.Modules = append(v.Modules, v.module(m, used))
	}
	v.Longest = v.longest()
	v.listens(im)
	for i := range v.Modules {
		if st := v.Modules[i].Stage; st != nil {
			if err := st.limits(); err != nil {
				return nil, err
			}
		}
	}
	v.Clock = newClocks(im)
	v.example()
	return v, nil
}

// buffer is how many bytes ports gather for a host that sends them together: what most
// hosts take in one transaction (common practice).
const buffer = 32

// digitsAsUsual reports a ROM whose digits and signs are not where every ROM of the trade
// has them: numbers are written by their ASCII codes.
func digitsAsUsual(im *firmware.Image) error {
	for i := range im.Modules {
		m := &im.Modules[i]
		for _, ch := range "0123456789#+-:" {
			if code, ok := m.Display.ROM.Code(ch); len(m.Values) > 0 && (!ok || rune(code) != ch) {
				return fmt.Errorf("module %q: its ROM %s does not have '%c' at 0x%02X, where the program writes it", m.Name, m.Display.ROM.Name, ch, ch)
			}
		}
	}
	return nil
}

// widths finds the longest texts.
func (v *View) widths(im *firmware.Image) {
	v.TextMax, v.WidthMax = 1, 1
	for i := range im.Modules {
		m := &im.Modules[i]
		for k := range m.Places {
			p := &m.Places[k]
			v.WidthMax, v.TextMax = max(v.WidthMax, p.Width), max(v.TextMax, p.Width+1)
		}
	}
}

// example chooses what the example counts.
func (v *View) example() {
	v.Rounds = 1
	counted := Names{}
	for i := range v.Modules {
		if v.Modules[i].Stage != nil {
			continue // it plays its show
		}
		v.Turns = true
		v.Rounds = lcm(v.Rounds, len(v.Modules[i].Screens))
		for _, s := range v.Modules[i].Setters {
			if val := &v.Modules[i].Image.Values[s.Index]; val.Kind == field.Number {
				v.Counts = append(v.Counts, Count{i, counted.Of(strings.TrimPrefix(s.Func, v.Modules[i].Ident+"_set_"), "count"), s.Func, val.Start, val.Low, val.High})
				break
			}
		}
	}
	if v.Rounds > 255 {
		v.Rounds = 240
	}
}

func lcm(a, b int) int {
	x, y := a, b
	for y != 0 {
		x, y = y, x%y
	}
	return a / x * b
}

// Microseconds rounds a wait up.
func Microseconds(d time.Duration) int { return int((d + time.Microsecond - 1) / time.Microsecond) }

// One is 1 for true, 0 for false.
func One(b bool) int {
	if b {
		return 1
	}
	return 0
}
