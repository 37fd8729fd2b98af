package plan

import (
	"math"
	"strings"
	"testing"

	"slatebell/core/bench"
	"slatebell/core/finding"
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
		p := Of(&b)
		rail := &p.Rails[0]
		if c.mV == 3300 {
			rail = &p.Rails[1]
		}
		got := float64(rail.Loads[len(rail.Loads)-1].Planned) / 1e6 // nanoamperes
		if c.mV == 5000 && math.Abs(got-(c.mA+1)) > 0.1 {
			t.Errorf("%s, %g Ω: the rail gives it %.2f mA, want %.2f and 1 of the module", c.tint, c.ohm, got, c.mA)
		}
		var found *finding.Finding
		for i := range p.Findings {
			if strings.HasPrefix(p.Findings[i].Code, "module.backlight") {
				found = &p.Findings[i]
			}
		}
		switch {
		case c.code == "" && found != nil, c.code != "" && (found == nil || found.Code != c.code):
			t.Errorf("%s, %g Ω: found %+v, want %q", c.tint, c.ohm, found, c.code)
		case c.take != 0 && *found.Remedies[0].Patch[1].Value.(bench.Fitting).LightOhm != c.take:
			t.Errorf("%s, %g Ω: %s", c.tint, c.ohm, found.Remedies[0].Label)
		}
		m.Display.Light = "open"
		for _, f := range Check(&b) {
			if strings.HasPrefix(f.Code, "module.backlight") {
				t.Errorf("%s, none: %s", c.tint, f.What)
			}
		}
	}
}
