package rig

import (
	"strings"
	"testing"
	"time"

	"slatebell/core/link"
)

// TestJudge feeds hand-made traffic that no limit of time forbids and that is
// wrong all the same.
func TestJudge(t *testing.T) {
	const up = 50 * time.Millisecond
	for _, c := range []struct {
		name     string
		kind     link.Kind
		geometry string
		words    []link.Word
		want     string
	}{
		// PCF8574 in the usual wiring; 0x08 is the backlight's output.
		{"whole bytes", link.Backpack, "16x2", []link.Word{0x08, 0x2C, 0x28, 0x2C, 0x28, 0x8C, 0x88}, ""},
		{"a nibble short", link.Backpack, "16x2", []link.Word{0x08, 0x2C, 0x28, 0x2C, 0x28, 0x8C, 0x88, 0x4D, 0x49}, "wire.half-byte"},
		{"the light's bit left out once", link.Backpack, "16x2", []link.Word{0x08, 0x3C, 0x30, 0x3C, 0x38}, "wire.backlight-dropped"},
		{"no light at all", link.Backpack, "16x2", []link.Word{0x34, 0x30, 0x34, 0x30}, ""},
		// Eight lines: R/W in bit 9, the second enable in bit 10, both in bit 11.
		{"a read from each", link.Parallel8, "40x4", []link.Word{0x200, 0x600}, ""},
		{"a read from both", link.Parallel8, "40x4", []link.Word{0xA00}, "wire.contention"},
	} {
		l := link.New(c.kind)
		l.ReadWrite = true
		r, err := New(testModule(t, c.geometry), l)
		if err != nil {
			t.Fatal(err)
		}
		for i, w := range c.words {
			r.Feed(up+time.Duration(i)*5*time.Millisecond, w)
		}
		var got []string
		for _, f := range r.Judge() {
			got = append(got, f.Code)
		}
		if strings.Join(got, " ") != c.want {
			t.Errorf("%s: %v, want %q", c.name, got, c.want)
		}
	}
}

// TestFastHost checks that a host whose pins move every 20 ns breaks the limits
// of the write cycle, and one that takes 250 ns breaks none at 5 V (data sheet
// ADE-207-272(Z), "Bus timing characteristics", from memory).
func TestFastHost(t *testing.T) {
	for pin, want := range map[time.Duration]string{
		20:  "timing.t-as timing.pw-eh timing.t-dsw timing.t-cyc-e",
		100: "timing.pw-eh timing.t-cyc-e",
		250: "",
	} {
		l := link.New(link.Parallel4)
		l.PinTime = pin
		r, err := New(testModule(t, "16x2"), l)
		if err != nil {
			t.Fatal(err)
		}
		for i, w := range []link.Word{0x3, 0x14, 0x12} {
			r.Feed(50*time.Millisecond+time.Duration(i)*3*pin, w)
		}
		found := map[string]bool{}
		for _, f := range Findings(r.Violations()) {
			found[f.Code] = true
		}
		for _, code := range strings.Fields("timing.t-as timing.pw-eh timing.t-dsw timing.t-cyc-e") {
			if found[code] != strings.Contains(want, code) {
				t.Errorf("%s a pin: %s found %v, want among %q", pin, code, found[code], want)
			}
		}
	}
}
