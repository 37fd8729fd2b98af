package i2cbus

import (
	"errors"
	"fmt"
	"strings"
	"testing"
)

// TestSimulated asks a simulated bus as a host would: what is there acknowledges,
// and nothing does over lines that do not work.
func TestSimulated(t *testing.T) {
	bus := Simulated{Answers: []Address{0x27, 0x68, 0x27, 0x03}}
	if got := fmt.Sprint(Scan(&bus)); got != "[0x27 0x68]" { // what is reserved is not asked
		t.Errorf("a scan finds %s", got)
	}
	read := []byte{0, 0}
	if err := bus.Tx(0x27, []byte{1}, read); err != nil || read[1] != 0xFF {
		t.Errorf("a read gives %v, %v", read, err)
	}
	if err := bus.Tx(0x26, nil, nil); !errors.Is(err, ErrNoAnswer) {
		t.Errorf("0x26: %v", err)
	}
	if err := bus.Tx(0x127, nil, nil); err == nil || errors.Is(err, ErrNoAnswer) {
		t.Errorf("0x127: %v", err)
	}
	for _, l := range []Lines{{Swapped: true}, {NoGround: true}, {NoPullUp: true}} {
		bus.Lines = l
		if got := Scan(&bus); len(got) != 0 || l.Dead() == "" {
			t.Errorf("%+v: %v answer", l, got)
		}
	}
}

// TestCompare holds answers against what is expected: moved parts are recognised
// within their own addresses and across both expanders.
func TestCompare(t *testing.T) {
	part := func(name string) Part { p, _ := ByName(name); return p }
	gate, lamps, clock := Expected{"Gate", part("PCF8574"), 0x27}, Expected{"Lamps", part("MCP23017"), 0x20}, Expected{"Clock", part("DS3231"), 0x68}
	pwm := Expected{"Lights", part("PCA9685"), 0x40}
	for _, c := range []struct {
		expected []Expected
		found    []Address
		want     []string // each begins so
	}{
		{[]Expected{gate, clock}, []Address{0x68, 0x27}, []string{"0x27 expected 0x00 Gate", "0x68 expected 0x00 Clock"}},
		{[]Expected{gate, {"Slip", part("PCF8574"), 0x27}}, []Address{0x27}, []string{"0x27 expected 0x00 Gate and Slip (they answer as one"}},
		{[]Expected{gate}, []Address{0x25}, []string{"0x25 unexpected 0x27 may be PCF8574, PCF8575, MCP23017, MCP23008 (a backpack with PCF8574 and pads closed: A1); probably Gate, planned at 0x27", "0x27 missing 0x25 Gate: something answers at 0x25, which it has with pads closed: A1"}},
		{[]Expected{gate}, []Address{0x3E, 0x3F}, []string{"0x3E unexpected 0x00", "0x3F unexpected 0x27", "0x27 missing 0x3F Gate: something answers at 0x3F, which is a PCF8574A's"}},
		{[]Expected{gate}, []Address{0x3C}, []string{"0x3C unexpected 0x27", "0x27 missing 0x3C"}},
		{[]Expected{lamps}, []Address{0x22}, []string{"0x22 unexpected 0x20", "0x20 missing 0x22 Lamps: something answers at 0x22, which it can have too"}},
		{[]Expected{gate, lamps}, []Address{0x22}, []string{"0x22 unexpected 0x20", "0x20 missing 0x22 Lamps", "0x27 missing 0x00 Gate: not there, or without supply; with pads closed: none"}},
		{[]Expected{clock}, []Address{0x27}, []string{"0x27 unexpected 0x00 may be PCF8574", "0x68 missing 0x00 Clock: not there, without supply"}},
		{[]Expected{clock}, nil, []string{"0x68 missing 0x00 Clock: nothing answers at all"}},
		{[]Expected{pwm}, []Address{0x40, 0x70}, []string{"0x40 expected 0x00 Lights"}}, // all-call is its own
		{nil, []Address{0x0A, 0x7C}, []string{"0x0A unexpected 0x00 no part in the table has it", "0x7C unexpected 0x00 reserved for the device ID"}},
	} {
		got := Compare(c.expected, c.found)
		right := len(got) == len(c.want)
		for i := range min(len(got), len(c.want)) {
			m := got[i]
			right = right && strings.HasPrefix(fmt.Sprintf("%s %s %s %s", m.At, m.Verdict, m.Moved, m.Says), c.want[i])
		}
		if !right {
			t.Errorf("%v found of %v:\n%+v\nwant %q", c.found, c.expected, got, c.want)
		}
	}
}
