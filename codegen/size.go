package codegen

import (
	_ "embed"
	"encoding/json"
	"regexp"
	"strings"

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
	v, err := newView(im)
	if err != nil {
		return Size{}, err
	}
	s := Size{Tables: v.tableBytes(), RAM: v.ram()}
	flash := float64(s.Tables)
	for name, n := range v.parts() {
		flash += n * weights[name]
	}
	s.Flash = int(flash + 0.5)
	return s, nil
}

// parts counts the parts of the driver that a bench needs.
func (v *view) parts() map[string]float64 {
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
		"inputs": one(l.Any()), "inputs: pins": one(len(l.Pins) > 0), "inputs: each pin": len(l.Pins), "inputs: buttons": len(l.Buttons), "inputs: contacts": len(l.Contacts), "inputs: one contact": one(len(l.Contacts) > 0),
		"inputs: encoders": one(len(l.Encoders) > 0), "inputs: each encoder": len(l.Encoders), "inputs: voltages": one(len(l.Analogue) > 0), "inputs: each voltage": len(l.Analogue), "inputs: wide scale": one(l.Wide),
		"inputs: lines": len(l.Lines), "inputs: looked at": one(l.Timed()), "inputs: levels": one(len(l.Buttons)+len(l.Contacts) > 0), "inputs: references": one(l.References()), "inputs: counted": one(len(l.Contacts)+len(l.Encoders) > 0), "inputs: voltages, no feeds": one(len(l.Analogue) > 0 && !st.Feeds),
	} {
		if n > 0 {
			out[name] = float64(n)
		}
	}
	out["clock cases"] = float64(len(v.Clock.Cases))
	out["members"] = float64(len(v.Members))
	out["counts"] = float64(len(v.Counts))
	for i := range v.Modules {
		out["shows"] += float64(one(v.Modules[i].Stage != nil))
	}
	return out
}

var (
	comments = regexp.MustCompile(`(?s)/\*.*?\*/`)
	quoted   = regexp.MustCompile(`'(\\.|[^'])'`)
	marked   = regexp.MustCompile("\x02[^\x03]*\x03|\x04")
)

// tableBytes counts the bytes of the tables in flash: a pointer is two, as is a number of
// 16 bits.
func (v *view) tableBytes() (n int) {
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
func (v *view) stageRAM(i int) int {
	r, st := &v.Modules[i].Stage.tables, &v.Has.Stage
	entry := 4 + v.FreeMax*one(st.EditFree)
	n := 8 + 12 + 2 + 16*max(len(r.Inputs), 1) + max((len(r.Ends)+7)/8, 1) // pointers, times, scene; inputs; ends
	n += one(st.Edit)*(2+3+4+8+entry+entry*max(len(r.Fields), 1)) + one(st.Tape) + 3*one(st.Slots)
	n += one(st.Meter)*(2+16*max(len(r.Meters), 1)) + one(st.Serial)*(2+(2*v.Longest+3+5*one(st.UTF8))*max(len(r.Lines), 1))
	return n
}

// ram adds up what the driver keeps.
func (v *view) ram() (n int) {
	h := &v.Has
	value := 2
	if v.ValueType == "int32_t" {
		value = 4
	}
	n = 1 + one(h.Backpack) // what failed; whether a transaction is open
	l := &v.Reads
	n += 5*(len(l.Buttons)+len(l.Contacts)) + 4*len(l.Encoders) + 4*one(l.Timed()) + 5*one(len(l.Analogue) > 0) + one(l.References())
	for _, line := range l.Lines {
		n += line.Buffer + 1 + 4 + 2*one(line.Buffer > 254)
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
		n += one(h.Dark && !h.GlassLight) + 3*one(h.Stage.Edit) + one(h.Stage.Shift) + 2*one(h.SeveralTexts)
		n += 3 + one(h.Expander) + one(h.GlassLight) + 8*one(h.Held) + 2*one(len(v.Members) > 0) + 2*one(h.SeveralValues) + 2*one(h.SeveralTimes) + 2*one(h.SeveralShadows)
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
			clocks += one(s.Clock)
			texts += one(s.Text)
		}
		if h.Values {
			n += value * max(len(v.Modules[i].Setters)-clocks-texts+peaks(v.Modules[i].image), 1)
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
