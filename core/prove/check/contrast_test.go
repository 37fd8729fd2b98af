package check

import (
	"slices"
	"strings"
	"testing"

	"slatebell/core/bench"
	"slatebell/core/finding"
	"slatebell/core/prove/bringup"
	"slatebell/core/prove/run"
	"slatebell/core/prove/testbed"
	"slatebell/core/table/breadboard"
	"slatebell/core/table/wiring"
	"slatebell/core/wire/glass"
)

// judged runs a bench's first screen, and tells what one sees of it and what is found on its
// contrast.
func judged(t *testing.T, b *bench.Bench) (glass.View, *finding.Finding) {
	t.Helper()
	setup, err := testbed.Of(b, testbed.At{})
	if err != nil {
		t.Fatal(err)
	}
	r, err := run.Do(&setup, run.Options{})
	if err != nil {
		t.Fatal(err)
	}
	g := r.Last().Glass(&r.Module, r.Contrast)
	for i := range r.Findings {
		if strings.HasPrefix(r.Findings[i].Code, "glass.") {
			return glass.See(&g, r.Module.Technology, nil), &r.Findings[i]
		}
	}
	return glass.See(&g, r.Module.Technology, nil), nil
}

// TestGround ties VO to ground: on most modules of 5 V the glass is dark, its cells faintly
// shaded, and readable (common practice); where it is not, it is said. The verdict is the
// same before and after the wires are laid, and each remedy settles it.
func TestGround(t *testing.T) {
	for _, c := range []struct {
		geometry string
		mV       int
		class    glass.Class
		code     string
		remedies int
	}{
		{"16x2", 5000, glass.Shaded, "glass.shaded", 2},
		{"20x4", 4900, glass.Characters, "", 0},
		{"16x2", 5500, glass.AllBlocks, "glass.blocks", 2},
		{"16x1", 5000, glass.AllBlocks, "glass.blocks", 2},
		{"16x2", 3300, glass.Blank, "glass.faint", 0},
	} {
		for _, wired := range []bool{false, true} {
			b := bench.New("ground")
			m := &b.Modules[0]
			m.Display.Geometry, m.Display.Supply.MilliVolts, m.Link.Kind, m.Fitting.Contrast = c.geometry, c.mV, "parallel4", "ground"
			m.Screens[0].Rows = []string{"Tide 3.2 m"}
			lay(t, &b, wired)
			view, found := judged(t, &b)
			if view.Class() != c.class {
				t.Errorf("%s fed %d mV, wired %v: %s, want %s", c.geometry, c.mV, wired, view.Class(), c.class)
			}
			switch {
			case c.code == "" && found == nil:
			case found == nil || found.Code != c.code || len(found.Remedies) != c.remedies:
				t.Errorf("%s fed %d mV, wired %v: found %+v, want %s", c.geometry, c.mV, wired, found, c.code)
			default:
				for _, r := range found.Remedies {
					mended := b
					mended.Modules = slices.Clone(b.Modules)
					mended.Modules[0].Fitting = r.Patch[1].Value.(bench.Fitting)
					lay(t, &mended, wired)
					if view, left := judged(t, &mended); left != nil || view.Class() != glass.Characters {
						t.Errorf("%s fed %d mV, wired %v, %s: %s, %+v", c.geometry, c.mV, wired, r.Label, view.Class(), left)
					}
				}
			}
		}
	}
}

// lay plans a bench's wiring, or leaves its table bare.
func lay(t *testing.T, b *bench.Bench, wired bool) {
	t.Helper()
	b.Wiring = bench.Wiring{}
	if !wired {
		return
	}
	doc, err := breadboard.Plan(b)
	if err != nil {
		t.Fatal(err)
	}
	b.Wiring = doc
	for _, f := range breadboard.Check(b) {
		t.Errorf("%s %s", f.Code, f.What)
	}
}

// TestLargePot names a potentiometer of which a sliver is of use, and not the usual one.
func TestLargePot(t *testing.T) {
	for ohm, want := range map[int]string{0: "", 50_000: "", 100_000: "module.pot-large", 250_000: "module.pot-large"} {
		b := bench.New("pot")
		b.Modules[0].Link.Kind, b.Modules[0].Fitting.PotOhm = "parallel4", ohm
		found, err := Check(&b)
		if err != nil {
			t.Fatal(err)
		}
		i := slices.IndexFunc(found, func(f finding.Finding) bool { return strings.HasPrefix(f.Code, "module.pot") })
		if (i >= 0) != (want != "") {
			t.Errorf("%d Ω: %+v", ohm, found)
		}
		if ohm == 250_000 && !strings.Contains(found[i].What, "reads well on 0.95 %") { // about 1 % (common practice)
			t.Errorf("250 kΩ: %s", found[i].What)
		}
	}
}

// TestUnlitGlass is a module without a backlight, wired by the plan: nothing is found on the
// wires, A and K lead nowhere, and its text is seen by the light of the room.
func TestUnlitGlass(t *testing.T) {
	for _, light := range []string{"none", "open"} {
		for _, kind := range []string{"parallel4", "shift"} {
			b := bench.New("unlit")
			m := &b.Modules[0]
			m.Display.Light, m.Link.Kind, m.Screens[0].Rows = light, kind, []string{"Tide 3.2 m"}
			lay(t, &b, true)
			table := breadboard.Lay(&b)
			if _, ok := table.Net.Of(0, wiring.Light); ok {
				t.Errorf("%s %s: it has a backlight resistor", light, kind)
			}
			view, found := judged(t, &b)
			if found != nil || view.Class() != glass.Characters || !view.Light {
				t.Errorf("%s %s: %s, lit %v, %+v", light, kind, view.Class(), view.Light, found)
			}
			steps, err := bringup.FirstLight(&b, 0)
			if err != nil || slices.ContainsFunc(steps, func(s bringup.Step) bool { return s.ID == "light" }) {
				t.Errorf("%s %s: first light asks for a backlight, %v", light, kind, err)
			}
		}
	}
}
