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
	none := Pads(0)
	if known, _ := Advice(Evidence{Printed: "PCF8574", Pads: &none, Answers: []Address{0x3F}}); !strings.Contains(known, "do not go together") {
		t.Errorf("a contradiction: %s", known)
	}
	if _, next := Advice(Evidence{Answers: []Address{0x20, 0x3F}}); !strings.Contains(next, "pads") {
		t.Errorf("two answers: %s", next)
	}
}
