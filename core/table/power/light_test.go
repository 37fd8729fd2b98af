package power

import (
	"math"
	"testing"

	"slatebell/core/bench"
	"slatebell/core/bench/edit"
	"slatebell/core/finding"

	"periph.io/x/conn/v3/physic"
)

// TestLights works the backlight's current out by hand, (supply − forward voltage) / (resistor +
// the diode's own slope), and holds rail and finding against it: a yellow-green array of 4.15 V
// and 2 Ω, made for 100 mA; a white one of 3.1 V and 10 Ω, made for 20 mA (common practice).
func TestLights(t *testing.T) {
	for _, c := range []struct {
		tint string
		ohm  float64
		mV   int
		mA   float64
		code string
		take float64 // the resistor that is proposed
	}{
		{"green", 0, 5000, 425, "module.backlight-current", 6.8},
		{"green", 6.8, 5000, 96.6, "", 0},
		{"green", 220, 5000, 3.83, "", 0},
		{"green", 3.3, 5000, 160.4, "module.backlight-current", 6.8},
		{"blue", 0, 5000, 190, "module.backlight-current", 100},
		{"blue", 100, 5000, 17.3, "", 0},
		{"green", 220, 3300, 0, "module.backlight-dark", 0},
	} {
		b := bench.New("light")
		m := &b.Modules[0]
		m.Link.Kind, m.Display.Tint, m.Display.Supply.MilliVolts, m.Fitting.LightOhm = "parallel4", c.tint, c.mV, &c.ohm
		rails, list := Rails(&b), judgeLights(&b)
		rail := &rails[0]
		if c.mV == 3300 {
			rail = &rails[1]
		}
		got := float64(rail.Loads[len(rail.Loads)-1].Planned) / 1e6 // nanoamperes
		if c.mV == 5000 && math.Abs(got-(c.mA+1)) > 0.1 {
			t.Errorf("%s, %g Ω: the rail gives it %.2f mA, want %.2f and 1 of the module", c.tint, c.ohm, got, c.mA)
		}
		var found *finding.Finding
		if len(list) > 0 {
			found = &list[0]
		}
		switch {
		case c.code == "" && found != nil, c.code != "" && (found == nil || found.Code != c.code):
			t.Errorf("%s, %g Ω: found %+v, want %q", c.tint, c.ohm, found, c.code)
		case c.take != 0:
			if mended, err := edit.Remedied(&b, found.Remedies[0]); err != nil || *mended.Modules[0].Fitting.LightOhm != c.take {
				t.Errorf("%s, %g Ω: %s, %v", c.tint, c.ohm, found.Remedies[0].Label, err)
			}
		}
		m.Display.Light = "open"
		for _, f := range judgeLights(&b) {
			t.Errorf("%s, none: %s", c.tint, f.What)
		}
	}
}

// TestOwnLoads reckons what a part of the maker's own draws.
func TestOwnLoads(t *testing.T) {
	b := bench.New("winch")
	before := Rails(&b)[0].Total
	b.Parts = []bench.OwnPart{{ID: "motor", CurrentMA: 300, SupplyMV: 5000}}
	if more := Rails(&b)[0].Total - before; more != 300*physic.MilliAmpere {
		t.Errorf("a part of 300 mA adds %v", more)
	}
}
