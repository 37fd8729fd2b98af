package fault_test

import (
	"fmt"
	"slatebell/core/prove/fault"
	"slatebell/core/table/bus"
	"slatebell/core/table/tabletest"
	"strings"
	"testing"

	"slatebell/core/part/i2cbus"
)

// TestScans makes every mistake on the demo's bus, and holds what is said of it.
func TestScans(t *testing.T) {
	b := tabletest.Landing()
	nodes := bus.Nodes(&b)
	if len(nodes) != 3 {
		t.Fatalf("%+v", nodes)
	}
	for _, c := range []struct {
		mistake fault.Mistake
		want    string // verdicts by address
		says    string
	}{
		{fault.AsPlanned, "0x20 expected, 0x27 expected, 0x68 expected", "Gate board"},
		{fault.Swapped, "0x20 missing, 0x27 missing, 0x68 missing", "swapped"},
		{fault.NoGround, "0x20 missing, 0x27 missing, 0x68 missing", "nothing answers at all"},
		{fault.NoPullUps, "0x20 missing, 0x27 missing, 0x68 missing", "pulls the lines up"},
		{fault.WrongPads, "0x20 expected, 0x68 expected, 0x26 unexpected, 0x27 missing", "with pads closed: A0"},
		{fault.Gone, "0x20 expected, 0x68 expected, 0x27 missing", "not there"},
		{fault.Twins, "0x20 expected, 0x68 expected, 0x27 missing", "Gate board"},
	} {
		s, err := fault.ScanBus(&b, 0, c.mistake, 0)
		if err != nil {
			t.Fatal(err)
		}
		var got, says []string
		for _, m := range i2cbus.Compare(bus.Expected(&b, 0), s.Found) {
			got = append(got, fmt.Sprintf("%s %s", m.At, m.Verdict))
			says = append(says, m.Says)
		}
		if strings.Join(got, ", ") != c.want || !strings.Contains(strings.Join(says, "; "), c.says) || (s.Why != "") != (len(s.Found) == 0) || len(s.Print) == 0 {
			t.Errorf("%q: %v, %q, %q", c.mistake, got, says, s.Why)
		}
	}
	for _, bad := range []struct {
		m  fault.Mistake
		of int
	}{{"smoke", 0}, {fault.Gone, 3}, {fault.Twins, -1}} {
		if _, err := fault.ScanBus(&b, 0, bad.m, bad.of); err == nil {
			t.Errorf("%v was scanned", bad)
		}
	}
	b.Bus.SDA = "D9"
	if s, _ := fault.ScanBus(&b, 0, fault.AsPlanned, 0); len(s.Found) != 0 || !strings.Contains(s.Why, "D9") {
		t.Errorf("SDA on D9: %+v", s)
	}
}
