package run

import (
	"slices"
	"testing"

	"slatebell/core/bench"
	"slatebell/core/prove/diagnose"
	"slatebell/core/prove/fault"
	"slatebell/core/prove/practice"
	"slatebell/core/prove/testbed"
	"slatebell/core/text/field"
)

// landing is a module whose show is turned by a bell, shows a number stepped by a dial, a tide and messages.
func landing() *bench.Bench {
	b := bench.New("Landing")
	m := bench.NewModule("hall", "Hall")
	number := field.Field{Name: "Boats", Row: 1, Col: 6, Width: 2, Kind: field.Number, Range: field.Range{Max: 20}, Sample: "0"}
	tide := field.Field{Name: "Tide", Row: 0, Col: 6, Width: 4, Kind: field.Number, Range: field.Range{Max: 1023}, Sample: "512"}
	m.Screens = []bench.Screen{
		{ID: "day", Name: "Day", Rows: []string{"Tide", "Boats"}, Fields: []field.Field{tide, number}},
		{ID: "night", Name: "Night", Rows: []string{"Slip closed", "Night"}},
	}
	m.Show = bench.Show{
		Inputs: []bench.Input{
			{ID: "bell", Name: "Bell", Kind: "button", Pin: "D2"}, {ID: "back", Name: "Back", Kind: "button", Pin: "D3", Pull: "down"},
			{ID: "dial", Name: "Boats", Kind: "counter", Pin: "D4", PinB: "D5", Counter: bench.Counter{Count: 21}},
			{ID: "tide", Name: "Tide", Kind: "signal", Pin: "A0"},
		},
		Scenes: []bench.Scene{
			{ID: "day", Screen: "day", Ends: []bench.End{{Input: "bell", Next: "night"}}},
			{ID: "night", Screen: "night", Ends: []bench.End{{Input: "back", Next: "day"}, {Input: "bell", Next: "day"}}},
		},
		Feeds: []bench.Feed{{Field: "Boats", Input: "dial"}, {Field: "Tide", Input: "tide"}},
	}
	b.Modules = []bench.Module{m}
	return &b
}

// TestFaultsOfInputs lets the finder look for every fault of an input, from a glass that is as it ought to be or
// that a stuck button has turned already: it ends at the fault, or at one that no test tells from it.
func TestFaultsOfInputs(t *testing.T) {
	b := landing()
	s, err := SubjectOf(b, testbed.At{})
	if err != nil {
		t.Fatal(err)
	}
	x, err := fault.New(s, nil)
	if err != nil {
		t.Fatal(err)
	}
	f := diagnose.New(x, nil)
	observed := func(c *fault.Case) []fault.Outcome {
		out, err := x.Probe(c).All()
		if err != nil {
			t.Fatal(err)
		}
		return out
	}
	seen, tests := map[string]int{}, 0
	for i := range x.Faults {
		if x.Faults[i].Topic != fault.Inputs {
			continue
		}
		seen[x.Faults[i].Code]++
		c := &x.Cases[i]
		steps, end, err := f.Plan(f.Look(c), i)
		if err != nil {
			t.Fatal(err)
		}
		tests += len(steps)
		if len(end.Causes) == 0 {
			t.Errorf("%s: no cause is left", x.Faults[i].ID)
			continue
		}
		if got := &x.Cases[end.Causes[0].Case]; got.A != c.A && !slices.Equal(observed(got), observed(c)) {
			t.Errorf("%s: found %s with %.2f after %v", x.Faults[i].ID, x.Faults[got.A].ID, end.Causes[0].Share, steps)
		}
	}
	for code, least := range map[string]int{"input.open": 9, "input.stuck": 2, "input.bounce": 2, "input.pull": 1, "input.rail": 2, "input.swapped": 2} {
		if seen[code] < least {
			t.Errorf("%d faults %s, expected %d at least", seen[code], code, least)
		}
	}
	t.Logf("%d tests in all for %v", tests, seen)
	stuck, ok := x.Find("input.stuck:Bell") // seen as the other screen
	if v := x.View(stuck.View); !ok || x.Text(v)[0] != "Slip closed     " {
		t.Errorf("with the bell stuck the glass is %q", x.Text(v))
	}
	if _, err := practice.Begin(f, practice.Any, fault.Inputs, func(n int) int { return n - 1 }); err != nil {
		t.Error(err)
	}
}
