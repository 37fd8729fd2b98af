package rig

import (
	"math/rand/v2"
	"strings"
	"testing"
	"time"

	"slatebell/core/part/hd44780"
	"slatebell/core/wire/link"
	"slatebell/core/wire/sequence"
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

// TestDuration checks the units at their borders.
func TestDuration(t *testing.T) {
	for d, want := range map[time.Duration]string{
		0: "0 ns", 999: "999 ns", 1000: "1 µs", 999_999: "1000 µs", 52_579: "52.58 µs", time.Millisecond: "1 ms", 40 * time.Millisecond: "40 ms",
		time.Second - 1: "1000 ms", time.Second: "1 s", 2500 * time.Millisecond: "2.5 s",
	} {
		if got := Duration(d); got != want {
			t.Errorf("%d ns is written %q, want %q", d.Nanoseconds(), got, want)
		}
	}
}

// TestFindings states violations: one line a kind in the order of their first
// step, counted, and what was not kept.
func TestFindings(t *testing.T) {
	v := func(kind hd44780.ViolationKind, step int) Violation {
		return Violation{hd44780.Violation{Kind: kind, Measured: 20, Limit: 40, Value: 0x30}, 0, step}
	}
	got := Findings([]Violation{v(hd44780.AddressSetup, 4), v(hd44780.OutsideMemory, -1), v(hd44780.AddressSetup, 6), v(hd44780.AddressSetup, 7)}, 2)
	want := []string{
		"t_AS broken: RS or R/W was stable for 20 ns, at least 40 ns needed (step 5), and 2 more times.",
		"DDRAM address 0x30 does not exist.",
		"2 more violations were not kept.",
	}
	for i, f := range got {
		if i >= len(want) || f.What != want[i] || (f.Step != nil) != (i == 0) || i == 0 && *f.Step != 4 {
			t.Errorf("finding %d: %q, step %v", i, f.What, f.Step)
		}
	}
	if len(got) != len(want) || len(Findings(nil, 0)) != 0 {
		t.Errorf("%d findings", len(got))
	}
	for kind := hd44780.WhileBusy; kind <= hd44780.FunctionLate; kind++ { // each has words
		if f := Findings([]Violation{v(kind, 0)}, 0); len(f) != 1 || f[0].Code == "" || f[0].Why == "" || f[0].Fix == "" {
			t.Errorf("kind %d: %+v", kind, f)
		}
	}
}

// TestFlood checks that a rig keeps a thousand violations and counts the others.
func TestFlood(t *testing.T) {
	l := link.New(link.Parallel8)
	r, err := New(testModule(t, "16x2"), l)
	if err != nil {
		t.Fatal(err)
	}
	for i := range 1200 {
		r.Feed(50*time.Millisecond+time.Duration(i)*10*time.Millisecond, 0xFF) // an address that the memory lacks
	}
	kept, more := r.Violations()
	if len(kept) != 1000 || len(kept)+more != 1200+1 { // and one instruction before any function set
		t.Errorf("%d kept, %d more", len(kept), more)
	}
}

// TestJudgeNamesTheStep leaves the backlight's bit out of a word in the middle of
// a program: the finding names the step it belongs to, and only the first.
func TestJudgeNamesTheStep(t *testing.T) {
	m := testModule(t, "16x2")
	l := link.New(link.Backpack)
	p, err := sequence.Compile(m, l, random(rand.New(rand.NewPCG(1, 2)), 32), sequence.Options{Init: true})
	if err != nil {
		t.Fatal(err)
	}
	for _, step := range []int{14, 20} {
		p.Words[p.Steps[step].First+1] &^= 0x08 // P3, in the usual wiring
	}
	r, err := New(m, l)
	if err != nil {
		t.Fatal(err)
	}
	r.Play(p, nil)
	found := r.Judge()
	if len(found) != 1 || found[0].What != "The backlight goes off in step 15." || *found[0].Step != 14 {
		t.Errorf("%+v", found)
	}
	if kept, more := r.Violations(); len(kept)+more > 0 {
		t.Errorf("%+v", kept)
	}
	for _, w := range []link.Word{0x5D, 0x58, 0x5D} { // traffic of no program: RS falls and rises with E
		r.Feed(r.Now(), w)
	}
	if kept, _ := r.Violations(); len(kept) == 0 || kept[0].Step != -1 {
		t.Errorf("behind the program: %+v", kept)
	}
}
