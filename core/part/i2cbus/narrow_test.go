package i2cbus

import (
	"strings"
	"testing"
)

// TestNarrow puts every backpack on the table and tells what can be seen of it:
// what is left always holds it, and all evidence together leaves it alone.
func TestNarrow(t *testing.T) {
	for _, true_ := range Narrow(Evidence{}) {
		pads := PadsFor(true_.At)
		for mask := range 8 {
			var e Evidence
			if mask&1 != 0 {
				e.Printed = true_.Part.Name
			}
			if mask&2 != 0 {
				e.Pads = &pads
			}
			if mask&4 != 0 {
				e.Answers = []Address{0x68, true_.At}
			}
			left := Narrow(e)
			want := []int{16, 8, 2, 1, 1, 1, 1, 1}[mask]
			found := false
			for _, b := range left {
				found = found || b.At == true_.At && b.Part.Name == true_.Part.Name
			}
			known, next := Advice(e)
			if len(left) != want || !found || known == "" || next == "" || (want == 1) != strings.Contains(known, "pads closed") {
				t.Errorf("%s at %s, evidence %d: %d left, want %d; %s %s", true_.Part.Name, true_.At, mask, len(left), want, known, next)
			}
		}
	}
	none, first := Pads(0), Pads(1)
	for want, e := range map[string]Evidence{
		"It may be a PCF8574 (0x20–0x27) or a PCF8574A (0x38–0x3F). A scan":                 {},
		"It is a PCF8574, at one of 0x27, 0x26, 0x25, 0x24, 0x23, 0x22, 0x21, 0x20. A scan": {Printed: "PCF8574"},
		"It is at 0x26 or, with the letter A in its name, at 0x3E. A scan":                  {Pads: &first},
		"It may be a PCF8574 (0x20–0x27) or a PCF8574A (0x38–0x3F). Look at the pads":       {Answers: []Address{0x20, 0x3F}},
		"It is at 0x27 or, with the letter A in its name, at 0x3F. Scan again":              {Pads: &none, Answers: []Address{0x27, 0x3F}},
		"It is a PCF8574A at 0x3E, pads closed: A0. Plan it there.":                         {Printed: "PCF8574A", Pads: &first},
	} {
		if known, next := Advice(e); !strings.HasPrefix(known+" "+next, want) {
			t.Errorf("%+v: %s %s", e, known, next)
		}
	}
	if known, _ := Advice(Evidence{Printed: "PCF8574", Pads: &none, Answers: []Address{0x3F}}); !strings.Contains(known, "do not go together") {
		t.Errorf("a contradiction: %s", known)
	}
}
