package run

import (
	"fmt"
	"strings"
	"testing"

	"slatebell/core/bench"
	"slatebell/core/bench/edit"
	"slatebell/core/finding"
	"slatebell/core/prove/fault"
	"slatebell/core/prove/testbed"
	"slatebell/core/prove/testbed/bedtest"
)

// outline writes findings as code, place and remedies, a line each.
func outline(list []finding.Finding) string {
	var b strings.Builder
	for _, f := range list {
		fmt.Fprintf(&b, "%s %s %s", f.Severity, f.Code, f.Path)
		for _, r := range f.Remedies {
			fmt.Fprintf(&b, " [%s:", r.Label)
			for _, op := range r.Patch {
				fmt.Fprintf(&b, " %s %s", op.Op, op.Path)
			}
			b.WriteString("]")
		}
		b.WriteString("\n")
	}
	return b.String()
}

// TestPlacesAndRemedies checks where in the bench each judgement points and what
// its remedies change, for the second module of a bench and its third screen.
func TestPlacesAndRemedies(t *testing.T) {
	const setup = "/modules/1/link/outputs/setup"
	const pins = " [Let 1000 ns pass between two changes of the pins: test /modules/1/link/pinNs remove /modules/1/link/pinNs]\n"
	for _, c := range []struct {
		name  string
		kind  string
		spoil func(s *testbed.Setup)
		want  string
	}{
		{"sound", "backpack", func(s *testbed.Setup) {}, ""},
		{"with E", "backpack", func(s *testbed.Setup) { s.Link.Outputs.Setup = "with-e" },
			"warning timing.t-as /modules/1/link [Set RS up before E: test " + setup + " replace " + setup + "]\n"},
		{"own clock", "backpack", func(s *testbed.Setup) { s.Link.Outputs.SpeedHz = 100_001 },
			"warning link.fast-clock /modules/1/link [Set the clock to 100 kHz: test /modules/1/link/outputs/speedHz replace /modules/1/link/outputs/speedHz]\n"},
		{"the bus's clock", "backpack", func(s *testbed.Setup) { s.Host.BusHz = 400_000 },
			"warning link.fast-clock /modules/1/link [Set the clock to 100 kHz: test /bus/speedHz replace /bus/speedHz]\n"},
		{"100 kHz, said", "backpack", func(s *testbed.Setup) { s.Host.BusHz = 100_000 }, ""},
		{"a shift register's clock", "shift", func(s *testbed.Setup) { s.Link.Outputs.SpeedHz, s.Host.BusHz = 400_000, 400_000 }, ""},
		{"reads at 3.3 V", "parallel4", func(s *testbed.Setup) { s.Link.ReadWrite, s.Host.BearsMV = true, 3300 },
			"error link.read-voltage /modules/1/link [Tie R/W to ground, and wait fixed times: test /modules/1/link/readWrite remove /modules/1/link/readWrite]\n"},
		{"polls at 3.3 V", "parallel8", func(s *testbed.Setup) { s.Link.ReadWrite, s.Link.Waits, s.Link.HostMV = true, "poll", 3300 },
			"error link.read-voltage /modules/1/link [Tie R/W to ground, and wait fixed times: test /modules/1/link/readWrite remove /modules/1/link/readWrite remove /modules/1/link/waits]\n"},
		{"reads at 5 V", "parallel4", func(s *testbed.Setup) { s.Link.ReadWrite, s.Host.BearsMV = true, 5000 }, ""},
		{"a 3.3 V host that reads nothing", "parallel4", func(s *testbed.Setup) { s.Host.BearsMV = 3300 }, ""},
		{"a 3.3 V host behind an expander", "backpack", func(s *testbed.Setup) { s.Host.BearsMV = 3300 }, ""},
		{"hasty pins", "parallel4", func(s *testbed.Setup) { s.Link.PinNS = 100 }, "warning timing.pw-eh /modules/1/link" + pins + "warning timing.t-cyc-e /modules/1/link" + pins},
		{"faint", "backpack", func(s *testbed.Setup) { s.Display.Supply.Contrast = new(float64) },
			"warning glass.faint /modules/1/display [Set VO to 0.5 V, where it reads well: test /modules/1/display/supply/contrast remove /modules/1/display/supply/contrast]\n"},
		{"faint, as measured", "backpack", func(s *testbed.Setup) { s.Display.Measured.VOMV = new(4900) }, "warning glass.faint /modules/1/display\n"},
		{"blocks", "backpack", func(s *testbed.Setup) { s.Display.Supply.Contrast = new(1.1) },
			"warning glass.blocks /modules/1/display [Set VO to 0.5 V, where it reads well: test /modules/1/display/supply/contrast remove /modules/1/display/supply/contrast]\n"},
		{"3.3 V and a potentiometer", "backpack", func(s *testbed.Setup) { s.Display.Supply.MilliVolts = 3300 }, "warning glass.vo-below-ground /modules/1/display\n"},
		{"3.3 V and VO below ground", "backpack", func(s *testbed.Setup) { s.Display.Supply.MilliVolts, s.Display.Supply.Contrast = 3300, new(1.36) }, ""},
		{"4.4 V, which is enough", "backpack", func(s *testbed.Setup) { s.Display.Supply.MilliVolts = 4500 }, ""},
		{"a VFD at 3.3 V", "parallel8", func(s *testbed.Setup) { s.Display.Technology, s.Display.Supply.MilliVolts = "vfd", 3300 }, "error module.supply /modules/1/display\n"},
		{"a VFD at its lowest", "parallel8", func(s *testbed.Setup) { s.Display.Technology, s.Display.Supply.MilliVolts = "vfd", 4750 }, ""},
		{"a VFD at its highest", "parallel8", func(s *testbed.Setup) { s.Display.Technology, s.Display.Supply.MilliVolts = "vfd", 5250 }, ""},
		{"a VFD beyond", "parallel8", func(s *testbed.Setup) { s.Display.Technology, s.Display.Supply.MilliVolts = "vfd", 5251 }, "error module.supply /modules/1/display\n"},
		{"a row too long", "backpack", func(s *testbed.Setup) { s.Rows = []string{"", "Tide at the landing"} },
			"error screen.row-too-long /modules/1/screens/2/rows/1 [Cut at column 16: test /modules/1/screens/2/rows replace /modules/1/screens/2/rows] [Let it run through the glass: test /modules/1/screens/2/rows add /modules/1/screens/2/scroll]\n"},
	} {
		s := bedtest.Slice(c.kind, "Tide", "High")
		s.At = testbed.At{Module: 1, Screen: 2}
		c.spoil(&s)
		r := mustRun(t, s, Options{})
		if got := outline(r.Findings); got != c.want {
			t.Errorf("%s:\n%swant\n%s", c.name, got, c.want)
		}
	}
	s := bedtest.Slice("backpack", "Tide")
	s.Link.Outputs.Setup = "with-e"
	if found := mustRun(t, s, Options{Fault: "bus.address:0x20"}).Findings; len(found) == 0 || len(found[0].Remedies) > 0 {
		t.Errorf("a wrong address: %s", outline(found))
	}
	if found := mustRun(t, bedtest.Slice("backpack", "Tide", "High"), Options{Fault: "nibble.lost:12.1"}).Findings; !strings.Contains(outline(found), "glass.differs /modules/0/screens/0/rows\n") || !strings.Contains(outline(found), "wire.half-byte /modules/0/link\n") {
		t.Errorf("a lost nibble: %s", outline(found))
	}
}

// TestAdopt plans a bench as a fault says that its module is: run so, the screen that
// was spoilt stands.
func TestAdopt(t *testing.T) {
	b := bench.New("Boathouse")
	b.Modules[0].Screens[0].Rows = []string{"Tide 3.2 m"}
	subject, err := SubjectOf(&b, testbed.At{})
	if err != nil {
		t.Fatal(err)
	}
	list, err := fault.List(subject)
	if err != nil {
		t.Fatal(err)
	}
	adopted := map[string]bool{}
	for i := range list {
		for _, r := range Adopt(&b, 0, &list[i]) {
			next, err := edit.Remedied(&b, r)
			if err != nil {
				t.Fatalf("%s: %v", list[i].ID, err)
			}
			adopted[list[i].Code] = true
			after, err := SubjectOf(&next, testbed.At{})
			if err != nil {
				t.Fatal(err)
			}
			real := list[i].Real()
			if real.Address != 0 && after.Link.Address != uint8(real.Address) || real.Mapping != nil && after.Link.Mapping != *real.Mapping || real.ROM != "" && next.Modules[0].Display.Controller.ROM != real.ROM || real.Inverted && !after.Link.Mapping.BacklightLow {
				t.Errorf("%s: planned as %+v", list[i].ID, after.Link)
			}
		}
	}
	if len(adopted) != 4 {
		t.Errorf("adopted %v", adopted)
	}
}
