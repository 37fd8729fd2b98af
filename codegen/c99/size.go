package c99

import (
	_ "embed"
	"encoding/json"
	"regexp"
	"strings"

	"slatebell/codegen/layout"
	"slatebell/core/part/host"
	"slatebell/core/ship/firmware"
)

// Size is what the example of a program takes on an ATmega328P, in bytes.
type Size struct {
	Flash  int // about: within 6 % or 100 bytes, as TestSizes shows
	RAM    int // static; the stack comes on top
	Tables int // of Flash: the tables of the displays
}

//go:embed sizes.json
var weightsText []byte

// weights are how much flash each part of the driver takes, by its name, as fitted to
// programs that were compiled (TestSizes -update).
var weights = func() map[string]float64 {
	w := map[string]float64{}
	_ = json.Unmarshal(weightsText, &w) // TestSizes reads it too
	return w
}()

// SizeOf estimates the size of the C program of an image.
func SizeOf(im *firmware.Image) (Size, error) {
	v, err := New(im)
	if err != nil {
		return Size{}, err
	}
	s := Size{Tables: v.TableBytes(), RAM: v.ram()}
	flash := float64(s.Tables)
	for name, n := range v.Parts() {
		flash += n * weights[name]
	}
	s.Flash = int(flash + 0.5)
	return s, nil
}

// Parts counts the parts of the driver that a bench needs.
func (v *View) Parts() map[string]float64 {
	h, st := &v.Has, &v.Has.Stage
	out := map[string]float64{"start, calls, example": 1, "modules": float64(len(v.Modules))}
	for name, is := range map[string]bool{
		"backpack": h.Backpack, "register": h.Shift, "parallel": h.Parallel, "pins": h.Pins, "expander": h.Expander, "mixed links": h.Expander && h.Parallel,
		"poll bus": h.PollBus, "poll pins": h.PollPins, "transactions": h.PerByte || h.PerOperation, "set-up": h.OtherSetup,
		"two controllers": h.Two, "both memories": h.BothMemories, "glyphs": h.Glyphs, "glyphs held": h.Held, "cursor": h.Cursor,
		"fields": h.Fields, "number": h.Number, "elapsed": h.Elapsed, "days": h.Days, "list": h.List, "clock": h.Clock, "bar": h.Bar,
		"zeros": h.Zeros, "groups": h.Groups, "under": h.Under, "rest": h.Rest, "turn": h.Turn, "centre": h.Centre, "names of days and months": v.Clock.Names, "year day": v.Clock.YearDay,
		"wide": v.ValueType == "int32_t" && h.Values, "wide number": v.ValueType == "int32_t" && (h.Number || h.Elapsed), "wide bar": v.ValueType == "int32_t" && h.Bar,
		"free text": h.Free, "tape": h.Tape, "dots": h.Dark && !h.GlassLight,
		"show": st.Any, "show: feeds": st.Feeds, "show: cut": st.Cut, "show: texts": st.FreeFeeds, "show: edit": st.Edit, "show: edit of text": st.EditFree, "show: serial line": st.Serial, "show: UTF-8": st.UTF8,
		"show: meter": st.Meter, "show: decibels": st.Decibels, "show: peak": st.Peak, "show: shift": st.Shift, "show: slots": st.Slots, "show: effect": st.Effect, "show: off": st.Off,
		"show: two controllers": st.Any && h.Two, "show: parallel": st.Any && h.Parallel, "show: one input kind": st.Any && !st.Edit && !st.Serial && !st.Meter && !st.Feeds && !st.FreeFeeds,
		"tables": len(v.Members) > 0, "pauses": !v.Pauses.Simple, "several kinds": h.Fields && !v.OneKind, "8 lines": h.Parallel8,
	} {
		if is {
			out[name] = 1
		}
	}
	l := &v.Reads
	for name, n := range map[string]int{
		"inputs": layout.One(l.Any()), "inputs: pins": layout.One(len(l.Pins) > 0), "inputs: each pin": len(l.Pins), "inputs: buttons": len(l.Buttons), "inputs: contacts": len(l.Contacts), "inputs: one contact": layout.One(len(l.Contacts) > 0),
		"inputs: encoders": layout.One(len(l.Encoders) > 0), "inputs: each encoder": len(l.Encoders), "inputs: voltages": layout.One(len(l.Analogue) > 0), "inputs: each voltage": len(l.Analogue), "inputs: wide scale": layout.One(l.Wide),
		"inputs: lines": len(l.Lines), "inputs: looked at": layout.One(l.Timed()), "inputs: levels": layout.One(len(l.Buttons)+len(l.Contacts) > 0), "inputs: references": layout.One(l.References()), "inputs: counted": layout.One(len(l.Contacts)+len(l.Encoders) > 0), "inputs: voltages, no feeds": layout.One(len(l.Analogue) > 0 && !st.Feeds),
	} {
		if n > 0 {
			out[name] = float64(n)
		}
	}
	out["clock cases"] = float64(len(v.Cases))
	out["members"] = float64(len(v.Members))
	out["counts"] = float64(len(v.Counts))
	for i := range v.Modules {
		out["shows"] += float64(layout.One(v.Modules[i].Stage != nil))
	}
	return out
}

var (
	comments = regexp.MustCompile(`(?s)/\*.*?\*/`)
	quoted   = regexp.MustCompile(`'(\\.|[^'])'`)
	marked   = regexp.MustCompile("\x02[^\x03]*\x03|\x04")
)

// TableBytes counts the bytes of the tables in flash: a pointer is two, as is a number of
// 16 bits.
func (v *View) TableBytes() (n int) {
	texts := append([]string(nil), v.Tables...)
	for _, m := range v.Modules {
		texts = append(texts, m.State)
	}
	for _, text := range texts {
		text = quoted.ReplaceAllString(comments.ReplaceAllString(marked.ReplaceAllString(text, ""), ""), "0")
		for _, statement := range strings.Split(text, ";") {
			head, body, ok := strings.Cut(statement, "=")
			if !ok || !strings.Contains(head, "SLATE_FLASH") {
				continue
			}
			if size := rowSize(head); size > 0 {
				n += size * max(strings.Count(body, "{")-1, 1)
				continue
			}
			n += initialised(head, strings.NewReplacer("{", "", "}", "").Replace(body))
		}
	}
	return n
}

// rowSizes are how many bytes a row of a show's tables takes on an AVR, which leaves no gaps.
var rowSizes = map[string]int{"scene": 7, "end": 7, "input": 14, "feed": 14, "edit": 18, "key": 7, "typed": 17, "effect": 11, "meter": 17}

// rowSize is how many bytes a row of a table takes; 0 where it is no table of a show.
func rowSize(head string) int {
	_, kind, _ := strings.Cut(head, "struct slate_")
	kind, _, _ = strings.Cut(kind, " ")
	return rowSizes[kind]
}

// initialised counts the bytes of a list of initialisers.
func initialised(head, body string) (n int) {
	wide := strings.Contains(head, "*") || strings.Contains(head, "uint16_t")
	for _, value := range strings.Split(body, ",") {
		value = strings.TrimSpace(value)
		switch {
		case value == "":
		case wide, strings.ContainsAny(value, "_&") && strings.ToLower(value) == value:
			n += 2
		default:
			n++
		}
	}
	return n
}

// stageRAM is what a show keeps.
func (v *View) stageRAM(i int) int {
	r, st := &v.Modules[i].Stage.Tables, &v.Has.Stage
	entry := 4 + v.FreeMax*layout.One(st.EditFree)
	n := 8 + 12 + 2 + 16*max(len(r.Inputs), 1) + max((len(r.Ends)+7)/8, 1) // pointers, times, scene; inputs; ends
	n += layout.One(st.Edit)*(2+3+4+8+entry+entry*max(len(r.Fields), 1)) + layout.One(st.Tape) + 3*layout.One(st.Slots)
	n += layout.One(st.Meter)*(2+16*max(len(r.Meters), 1)) + layout.One(st.Serial)*(2+(2*v.Longest+3+5*layout.One(st.UTF8))*max(len(r.Lines), 1))
	return n
}

// ram adds up what the driver keeps.
func (v *View) ram() (n int) {
	h := &v.Has
	value := 2
	if v.ValueType == "int32_t" {
		value = 4
	}
	n = 1 + layout.One(h.Backpack) // what failed; whether a transaction is open
	l := &v.Reads
	n += 5*(len(l.Buttons)+len(l.Contacts)) + 4*len(l.Encoders) + 4*layout.One(l.Timed()) + 5*layout.One(len(l.Analogue) > 0) + layout.One(l.References())
	for _, line := range l.Lines {
		n += line.Buffer + 1 + 4 + 2*layout.One(line.Buffer > 254)
	}
	if h.Stage.Any {
		n += 2 // the example's clock
	}
	if h.Free {
		n++
	}
	if h.Fields {
		n += v.WidthMax
		if h.Number || h.Elapsed || h.List || h.Clock || h.Bar || h.Free { // else all that is written moves, and stands in flash
			n += v.TextMax + 1
		}
		if h.Number || h.Elapsed || v.Clock.Numbers {
			n += v.DigitsMax
		}
	}
	for i := range v.Modules {
		if v.Modules[i].Stage != nil {
			n += v.stageRAM(i)
		}
		n++ // whether the example has begun it
		n += layout.One(h.Dark && !h.GlassLight) + 3*layout.One(h.Stage.Edit) + layout.One(h.Stage.Shift) + 2*layout.One(h.SeveralTexts)
		n += 3 + layout.One(h.Expander) + layout.One(h.GlassLight) + 8*layout.One(h.Held) + 2*layout.One(len(v.Members) > 0) + 2*layout.One(h.SeveralValues) + 2*layout.One(h.SeveralTimes) + 2*layout.One(h.SeveralShadows)
		if h.Two {
			n += 5
		} else {
			n += 2
		}
		if h.Fields {
			n += v.Modules[i].Shadow
		}
		clocks, texts := 0, 0
		for _, s := range v.Modules[i].Setters {
			clocks += layout.One(s.Clock)
			texts += layout.One(s.Text)
		}
		if h.Values {
			n += value * max(len(v.Modules[i].Setters)-clocks-texts+layout.Peaks(v.Modules[i].Image), 1)
		}
		if h.Free {
			n += (1 + v.FreeMax) * max(texts, 1)
		}
		if h.Clock {
			n += 7 * max(clocks, 1)
		}
	}
	return n
}

// Memory is what a host has for a program, in bytes: flash beside its loader, and RAM (the parts' data
// sheets and common loaders, from memory).
type Memory struct{ Flash, RAM int }

var memories = map[string]Memory{"ATmega328P": {32256, 2048}, "ATmega2560": {253952, 8192}}

// MemoryOf is what a host has for a C program. It is false for hosts of which the size of a program
// cannot be told.
func MemoryOf(board *host.Board) (Memory, bool) {
	m, ok := memories[board.Chip]
	return m, ok
}
