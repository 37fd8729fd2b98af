package codegen

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"slatebell/core/bench/show"
	"slatebell/core/part/hd44780"
	"slatebell/core/part/host"
	"slatebell/core/quoting"
	"slatebell/core/ship/firmware"
	"slatebell/core/text/field"
	"slatebell/core/wire/link"
)

// view is what the templates are filled in with.
type view struct {
	Has                          has
	Written                      string
	KeepsOwn                     []string
	File, Name                   string
	Modules                      []display
	BusHz, Buffer, MaxScreens    int
	TextMax, WidthMax, DigitsMax int
	FreeMax, Longest, SampleMs   int                                        // characters of a free text, of a message; ms between samples of a meter
	Flash                        int                                        // ms that a step of what is edited shows its mark at most
	Wait                         struct{ Supply, First, Second, Third int } // µs
	Clock                        clocks
	Counts                       []count
	Rounds                       int
	Turns                        bool // some display shows one screen after the other
	Reads                        listening
	onlyC

	board host.Board
}

// onlyC is what the templates of C need beside.
type onlyC struct {
	Guard                      string
	ValueType, Magnitude, Wide string
	FlashValue                 string
	OneKind                    bool // the fields are all of one kind
	Kinds                      string
	Members                    []member
	Accessors                  []string
	Tables                     []string
	Pauses                     struct{ Simple bool }
	Targets                    []string // ATmegas that the example can be built for
	Flags                      flags
	Sketch                     *sketchPort
	Upload                     *upload // how it gets there; nil where the host is no ATmega
	NotAVR                     string  // why it cannot be built for an ATmega328P
}

// upload is how the example gets onto the bench's own host.
type upload struct {
	MCU, Part, Programmer string // as make, and avrdude, call them
	Port                  string // for example
}

// uploads are the hosts that a loader of their own takes programs for, by avrdude: what its
// arguments -p and -c ask for (avrdude manual, from memory).
var uploads = map[string]upload{
	"ATmega328P": {"atmega328p", "m328p", "arduino", "/dev/ttyUSB0"},
	"ATmega2560": {"atmega2560", "m2560", "wiring", "/dev/ttyACM0"},
}

// display is a display as its callers have it.
type display struct {
	At           int
	Ident, Title string
	Screens      []shownScreen
	Setters      []setter
	Moves        []move
	Light        string
	Shadow       int
	State        string
	Stage        *stage // nil where nothing is played
	image        *firmware.Module
}

type shownScreen struct {
	Enum, Says string
	Last       bool
}

// setter is the call that tells a value.
type setter struct {
	Index, Number           int // of the value: in the image, and in the program
	Func, Type, Param, Says string
	Clock, Text, Hidden     bool
	Enums                   []enum
}

type enum struct {
	Name, Says string
	Last       bool
}

// move is the call that puts the cursor into a place.
type move struct {
	Index, Screen, Enable int
	Func, Says            string
	Address               uint8
}

// count is a value that the example counts.
type count struct {
	Module           int
	Var, Func        string
	Start, Low, High int64
}

func newView(im *firmware.Image) (*view, error) {
	v := &view{
		board:   im.Host,
		Written: written, KeepsOwn: strings.Split(keepsOwn, "\n"), Name: quoting.ASCIIComment(im.Name), BusHz: im.BusHz, Buffer: buffer, MaxScreens: firmware.MaxScreens,
		onlyC: onlyC{Flags: usualFlags, ValueType: "int16_t", Magnitude: "uint16_t", Wide: "uint32_t", FlashValue: "FLASH_WORD"},
	}
	if err := digitsAsUsual(im); err != nil {
		return nil, err
	}
	used := names{}
	v.File = used.of(im.Name, "bench")
	v.Guard = strings.ToUpper(v.File) + "_H"
	v.Wait.Supply, v.Wait.First, v.Wait.Second = microseconds(hd44780.WaitAt3V), microseconds(hd44780.WaitAfterFirst), microseconds(hd44780.WaitAfterSecond)
	v.Wait.Third = microseconds(hd44780.ExecutionTime(hd44780.Command(0x30), hd44780.MinOscillator))
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
	if err := v.tables(im); err != nil {
		return nil, err
	}
	v.Clock = newClocks(im, v.Has.ClockPadded)
	v.example(im)
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

// widths finds the type of values, and the longest texts.
func (v *view) widths(im *firmware.Image) {
	v.TextMax, v.WidthMax, v.DigitsMax = 1, 1, 6
	h := &v.Has
	v.OneKind = one(h.Number)+one(h.Elapsed)+one(h.List)+one(h.Clock)+one(h.Bar)+one(h.Free)+one(h.Tape) == 1
	if h.Stage.Any { // a signal may have no field
		v.ValueType, v.Magnitude, v.FlashValue = "int32_t", "uint32_t", "FLASH_LONG"
	}
	for i := range im.Modules {
		m := &im.Modules[i]
		for _, val := range m.Values {
			if val.Low < -32768 || val.High > 32767 || v.Has.Days {
				v.ValueType, v.Magnitude, v.FlashValue = "int32_t", "uint32_t", "FLASH_LONG"
			}
		}
		for k := range m.Places {
			p := &m.Places[k]
			v.WidthMax, v.TextMax = max(v.WidthMax, p.Width), max(v.TextMax, p.Width+1)
		}
	}
	if v.ValueType == "int32_t" {
		v.Wide, v.DigitsMax = "uint64_t", 11
	}
}

// example chooses what the example counts, and which ATmegas it can be built for.
func (v *view) example(im *firmware.Image) {
	v.Rounds = 1
	counted := names{}
	for i := range v.Modules {
		if v.Modules[i].Stage != nil {
			continue // it plays its show
		}
		v.Turns = true
		v.Rounds = lcm(v.Rounds, len(v.Modules[i].Screens))
		for _, s := range v.Modules[i].Setters {
			if val := &v.Modules[i].image.Values[s.Index]; val.Kind == field.Number {
				v.Counts = append(v.Counts, count{i, counted.of(strings.TrimPrefix(s.Func, v.Modules[i].Ident+"_set_"), "count"), s.Func, val.Start, val.Low, val.High})
				break
			}
		}
	}
	if v.Rounds > 255 {
		v.Rounds = 240
	}
	why := ""
	for _, part := range []string{"ATmega328P", "ATmega2560"} {
		board, _ := host.ByPart(part)
		ok := !v.Reads.Any() || im.Host.Chip == part
		if !ok {
			why = fmt.Sprintf("Its inputs are on pins of an %s, which an ATmega328P has not; use port_calls.h", im.Host.Chip)
		}
		for i := range im.Modules {
			for line, label := range im.Modules[i].Pins {
				if _, there := board.Number(label); im.Modules[i].Link.Kind != link.Backpack && (!there || im.Host.Chip != part) {
					ok = false
					why = fmt.Sprintf("%s is on pin %s of an %s, which an ATmega328P has not; use port_calls.h", line, label, im.Host.Chip)
				}
			}
		}
		if ok {
			v.Targets = append(v.Targets, strings.ToLower(part))
			if part == im.Host.Chip { // what make builds where nothing is said
				slices.Reverse(v.Targets)
			}
		}
	}
	if own, ok := uploads[im.Host.Chip]; ok && slices.Contains(v.Targets, own.MCU) {
		v.Upload = &own
	}
	if !slices.Contains(v.Targets, "atmega328p") {
		v.NotAVR = quoting.Make(why)
	}
}

func lcm(a, b int) int {
	x, y := a, b
	for y != 0 {
		x, y = y, x%y
	}
	return a / x * b
}

// microseconds rounds a wait up.
func microseconds(d time.Duration) int { return int((d + time.Microsecond - 1) / time.Microsecond) }

func one(b bool) int {
	if b {
		return 1
	}
	return 0
}
