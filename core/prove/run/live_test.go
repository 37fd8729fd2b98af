package run

import (
	"fmt"
	"slices"
	"strings"
	"testing"
	"unicode/utf8"

	"slatebell/core/part/hd44780"
	"slatebell/core/part/module"
	"slatebell/core/prove/testbed/bedtest"
	"slatebell/core/text/screen"
	"slatebell/core/wire/link"
	"slatebell/core/wire/sequence"
	"slatebell/core/wire/wave"
)

func TestParseLive(t *testing.T) {
	m := bedtest.Slice("backpack")
	m.Display.Geometry = "40x4"
	for text, want := range map[string]string{
		"clear":         "01/2",
		" Shift  LEFT ": "18/2",
		"0x0E":          "0E/2",
		"0b1110":        "0E/2",
		"0000 1110":     "0E/2",
		"row 1":         "80/0", // rows 1 and 2 belong to the first controller,
		"row 4":         "C0/1", // 3 and 4 to the second
		"address 0x14":  "94/2",
		"glyph 3":       "58/2",
		"data 0x41":     "+41/2",
		"'Hi'":          "+48/2 +69/2",
		"read status":   "r00/2",
		"read data":     "+r00/2",
		"home":          "02/2",
		"count down":    "04/2",
		"count up":      "06/2",
		"autoshift":     "07/2",
		"display off":   "08/2",
		"display on":    "0C/2",
		"cursor on":     "0E/2",
		"blink on":      "0D/2",
		"cursor left":   "10/2",
		"cursor right":  "14/2",
		"shift left":    "18/2",
		"shift right":   "1C/2",
		"01000001":      "41/2",
		"row 2":         "C0/0",
		"row 3":         "80/1",
		"address 7f":    "FF/2",
		"glyph 0":       "40/2",
		"blink":         "0D/2",
		"blink off":     "0C/2",
		"cursor":        "0E/2",
		"cursor off":    "0C/2",
		"Backspace":     "10/2 +20/2 10/2",
		"'''":           "+27/2",

		"row 2, col 5":     "C4/0",
		"ROW 3 Column 40 ": "A7/1",
		"row 1,col 1":      "80/0",
		"glyph 7":          "78/2",
		"\"Hi\"":           "+48/2 +69/2",
	} {
		list, err := ParseLive(&m, text, link.Both, 1)
		var got []string
		for _, a := range list {
			sign := map[bool]string{true: "+"}[a.Op.RS] + map[bool]string{true: "r"}[a.Op.RW]
			got = append(got, fmt.Sprintf("%s%02X/%d", sign, a.Op.Byte, a.Enable))
		}
		if err != nil || strings.Join(got, " ") != want {
			t.Errorf("%q: %v, %v; want %s", text, got, err, want)
		}
	}
	if list, err := ParseLive(&m, "row 0, col 4", link.Both, 0); err != nil || len(list) != 1 || list[0].Op.Byte != 0x84 {
		t.Errorf("counted from 0: %v, %v", list, err)
	}
	for text, want := range map[string]string{"row 5": "rows 1–4", "row 2, col 41": "columns 1–40", "row 2, 5": "as in row 1, or row 1, col 5", "row 2, col": "columns 1–40", "row 2, col 0": "columns 1–40", "glyph 8": "is no instruction", "row 0": "rows 1–4", "address 80": "is no instruction", "101": "is no instruction", "12345678": "is no instruction", "0x100": "is no instruction", "0b100000000": "is no instruction", "'": "is no instruction", "data": "is no instruction", "14": "is no instruction", "'é'": "ROM A00 has no 'é' (U+00E9)", "": "is no instruction"} {
		if _, err := ParseLive(&m, text, link.First, 1); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%q: error %v, want %q in it", text, err, want)
		}
	}
}

// TestLiveReads reads by hand on links that can: the busy flag while the
// controller executes, the address counter, and what was written.
func TestLiveReads(t *testing.T) {
	for _, kind := range []string{"backpack", "parallel4", "parallel8"} {
		m := bedtest.Slice(kind, "Tide")
		m.Link.ReadWrite = true
		var live []sequence.Aimed
		for _, text := range []string{"clear", "read status", "'T'", "home", "read data", "read status"} {
			ops, err := ParseLive(&m, text, link.First, 1)
			if err != nil {
				t.Fatal(err)
			}
			live = append(live, ops...)
		}
		r := mustRun(t, m, Options{Live: live})
		var got []string
		for _, read := range r.Reads {
			got = append(got, read.Op.Explain())
		}
		want := []string{"Read busy flag and address: busy, 0x00", "Read data: 0x54", "Read busy flag and address: ready, 0x01"}
		if kind != "backpack" { // so fast that the data read is still under way
			want[2] = "Read busy flag and address: busy, 0x00"
		}
		if !slices.Equal(got, want) || len(r.Findings) > 0 {
			t.Errorf("%s: reads %q, want %q; findings %+v", kind, got, want, r.Findings)
		}
	}
	tied := bedtest.Slice("parallel4")
	if _, err := Do(&tied, Options{Live: []sequence.Aimed{{Op: hd44780.Operation{RW: true}}}}); err == nil || !strings.Contains(err.Error(), "R/W is not joined to the host") {
		t.Errorf("a read with R/W to ground: %v", err)
	}
	two := bedtest.Slice("parallel4")
	two.Display.Geometry, two.Link.ReadWrite = "40x4", true
	if _, err := Do(&two, Options{Live: []sequence.Aimed{{Op: hd44780.Operation{RW: true}, Enable: link.Both}}}); err == nil || !strings.Contains(err.Error(), "against each other") {
		t.Errorf("a read with both enables: %v", err)
	}
}

func TestStops(t *testing.T) {
	r := mustRun(t, bedtest.Slice("backpack", "Tide", "High"), Options{})
	for text, want := range map[string]string{
		"":               "[]",
		"12":             "[11]",
		"Step 3":         "[2]",
		"0x40":           "[15]",
		"address 0x41":   "[16]",
		"address 4":      "[14]", // the counter, after 'e'
		"clear":          "[8]",
		"'i'":            "[12 17]",
		"nothing of it ": "[]",
	} {
		if got, _, err := r.Stops(text); err != nil || fmt.Sprint(got) != want {
			t.Errorf("%q: %v, %v; want %s", text, got, err, want)
		}
	}
	for text, want := range map[string]string{"0": "steps 1–", "step 99": "steps 1–", "0xFF": "at most 0x7F", "address x": "such as 0x40"} {
		if _, _, err := r.Stops(text); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%q: error %v, want %q in it", text, err, want)
		}
	}
}

// FuzzFaults runs random screens with random operations by hand, faults, links
// and timings: nothing panics, and every moment keeps the address counters and
// the shift within their memory.
func FuzzFaults(f *testing.F) {
	f.Add("Tide 3.2 m\nHigh", []byte{0x18, 0x80, 0x41, 0x40, 0xFF}, uint16(0x0123), uint8(20))
	f.Add("é\uE001", []byte{0x02, 0x07, 0x0F, 0x38}, uint16(0x3FF4), uint8(0))
	f.Add("\xee\x80\x01", []byte{}, uint16(16372), uint8('`')) // a screen so short that no step 12 can lose a nibble
	f.Add(strings.Repeat("~", screen.MaxRow+1), []byte{}, uint16(0), uint8(0))
	f.Add("\r", []byte("0"), uint16(16372), uint8('b')) // another computer's line end
	f.Fuzz(func(t *testing.T, text string, ops []byte, choice uint16, at uint8) {
		pick := func(n int) int {
			k := int(choice) % n
			choice = choice/uint16(n) | choice<<13
			return k
		}
		m := bedtest.Slice(string(link.Kinds[pick(4)]))
		m.Display.Geometry = module.Geometries[pick(len(module.Geometries))].Name
		m.Rows = screen.Parse(text)
		m.Link.Outputs.Setup = []string{"", "before", "with-e"}[pick(3)]
		m.Link.PinNS = []int{0, 20, 300}[pick(3)]
		m.Link.Waits = []string{"", "typical"}[pick(2)]
		o := Options{Fault: mistakes[pick(len(mistakes))]}
		for _, b := range ops[:min(len(ops), 200)] {
			o.Live = append(o.Live, sequence.Aimed{Op: hd44780.Operation{RS: b&7 == 5, Byte: b}, Enable: link.Enable(b % 3)})
		}
		r, err := Do(&m, o)
		if err != nil && o.Fault != "" && strings.Contains(err.Error(), "is not in the catalogue") {
			return
		}
		if long := slices.ContainsFunc(m.Rows, func(r string) bool { return utf8.RuneCountInString(r) > screen.MaxRow }); long {
			if err == nil || !strings.Contains(err.Error(), "a row has at most") {
				t.Fatalf("a row that is too long: %v", err)
			}
			return
		}
		if err != nil {
			t.Fatal(err)
		}
		for i := range r.Moments {
			for c := range r.Module.Geometry.Controllers {
				s := &r.Moments[i].Controllers[c]
				if _, ok := s.Index(s.AC); !s.InCGRAM && !ok || s.InCGRAM && s.AC > 63 || int(s.Offset) >= s.Columns() {
					t.Fatalf("before step %d: AC %02X, CGRAM %v, shift %d", i+1, s.AC, s.InCGRAM, s.Offset)
				}
			}
		}
	})
}

// TestRawByte sends bytes to an expander as they are. What they do is worked out by hand from the
// usual wiring (P0 RS, P1 R/W, P2 E, P3 backlight, P4–P7 D4–D7; common practice): 4D 49 writes the
// high nibble of 'A' as data, 1D 19 the low one (the same bytes as in the project's reference figures,
// from memory), and A5 is seen on P7, P5, P2 and P0.
func TestRawByte(t *testing.T) {
	m := bedtest.Slice("backpack", "Tide")
	m.Link.Outputs.Backlight = true
	var live []sequence.Aimed
	for _, text := range []string{"home", "raw 4D", "raw 49", "raw 1d", "raw 0x19", "A5"} {
		ops, err := ParseLive(&m, text, link.First, 1)
		if err != nil {
			t.Fatalf("%s: %v", text, err)
		}
		live = append(live, ops...)
	}
	r := mustRun(t, m, Options{Live: live[:5]})
	glass := r.Last().Glass(&r.Module, r.Contrast)
	if got := glass.Text(r.Module.ROM)[0]; !strings.HasPrefix(got, "Aide") {
		t.Errorf("the glass shows %q", got)
	}
	r = mustRun(t, m, Options{Live: live})
	last := len(r.Program.Steps) - 1
	if step := r.Program.Steps[last]; step.Kind != sequence.Raw || step.Meaning != "Raw byte 0xA5 to the outputs: P7 P5 P2 P0 high" || step.Count != 1 {
		t.Errorf("%+v", step)
	}
	trace := wave.DrawOutputs(r.Program, last, last, r.Hardware)
	levels := slices.Clone(trace.Initial)
	for _, c := range trace.Changes {
		levels[c.Signal] = c.High
	}
	for bit := range 8 {
		at := slices.Index(trace.Signals, fmt.Sprintf("P%d", bit))
		if at < 0 || trace.Initial[at] != (0x19>>bit&1 != 0) || levels[at] != (0xA5>>bit&1 != 0) {
			t.Errorf("P%d of %v: %v, then %v", bit, trace.Signals, trace.Initial, levels)
		}
	}
	if !slices.Contains(trace.Signals, "SDA") || !slices.Contains(trace.Signals, "SCL") {
		t.Errorf("signals %v", trace.Signals)
	}
	parallel := bedtest.Slice("parallel4", "Tide")
	if _, err := Do(&parallel, Options{Live: []sequence.Aimed{{Op: hd44780.Operation{Byte: 0xA5}, Raw: true}}}); err == nil || !strings.Contains(err.Error(), "no expander") {
		t.Errorf("without an expander: %v", err)
	}
}
