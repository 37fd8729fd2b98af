package api

import (
	"fmt"
	"strings"
	"testing"

	"slatebell/core/bench"
	"slatebell/core/table/wiring"
	"slatebell/server/api/shows"
	"slatebell/server/demo"
)

// TestPlays begins the demo's shows, works its inputs while they go on, and forgets them: what is
// played in pieces is what is played at once, a step stops at the next change, and what cannot be
// is said.
func TestPlays(t *testing.T) {
	s := serve(t)
	b := demo.Bench()
	begin := func(r shows.PlayRequest) (out shows.Played) {
		t.Helper()
		if res := ask(t, "POST", s.URL+"/api/plays", r, &out); res.StatusCode != 200 {
			t.Fatalf("%d", res.StatusCode)
		}
		return out
	}
	on := func(id string, r shows.PlayOn) (out shows.Played) {
		t.Helper()
		if res := ask(t, "POST", s.URL+"/api/plays/"+id, r, &out); res.StatusCode != 200 {
			t.Fatalf("%d", res.StatusCode)
		}
		return out
	}
	glass := func(p *shows.Played, part int) string {
		frames := p.Parts[part].Frames
		if len(frames) == 0 {
			return ""
		}
		return strings.TrimSpace(frames[len(frames)-1].Glass.Text[0])
	}
	p := begin(shows.PlayRequest{Bench: b, Modules: []int{0, 2}})
	if len(p.Parts) != 2 || p.Parts[1].Module != "slip" || len(p.Parts[0].Findings) > 0 || len(p.Parts[0].Forecast) < 10 {
		t.Fatalf("%+v", p)
	}
	if next := p.Parts[0].Forecast[0]; next.AtMs != 5000 || next.Scene != 1 {
		t.Errorf("%+v comes next", next)
	}
	events := []shows.PlayEvent{{AtMs: 0, Input: "bell", Value: 1}, {AtMs: 100, Input: "bell"}, {AtMs: 100, Input: "radio", Module: "slip", Text: `Otter is out\n`}}
	p = on(p.ID, shows.PlayOn{Events: events, UntilMs: 900})
	if got := p.Parts[0].State.Scene; got != 4 || p.Parts[1].State.Scene != 2 || glass(&p, 1) != "Otter is out" {
		t.Errorf("scenes %d and %d, %q", got, p.Parts[1].State.Scene, glass(&p, 1))
	}
	p = on(p.ID, shows.PlayOn{UntilMs: 60_000, Step: true})
	if p.NowMs < 900 || p.NowMs > 1100 || len(p.Parts[0].Frames)+len(p.Parts[1].Frames) != 1 {
		t.Errorf("a step leads to %d ms", p.NowMs)
	}
	p = on(p.ID, shows.PlayOn{UntilMs: 1050})
	if f := p.Parts[0].Frames; len(f) == 0 || f[len(f)-1].Glass.On || p.Parts[0].State.Scene != 5 {
		t.Errorf("the bell does not pause: %+v", p.Parts[0].State)
	}

	// the same at once
	whole := begin(shows.PlayRequest{Bench: b, Modules: []int{0, 2}, Events: events, UntilMs: 1050})
	for i := range whole.Parts {
		if a, b := fmt.Sprint(whole.Parts[i].State), fmt.Sprint(p.Parts[i].State); a != b {
			t.Errorf("part %d: %s at once, %s in pieces", i, a, b)
		}
	}

	for range shows.MaxPlays {
		begin(shows.PlayRequest{Bench: b, Modules: []int{0}})
	}
	var problem struct{ Detail string }
	if res := ask(t, "POST", s.URL+"/api/plays/"+p.ID, shows.PlayOn{UntilMs: 2000}, &problem); res.StatusCode != 404 || !strings.Contains(problem.Detail, "begin them again") {
		t.Errorf("%d: %s", res.StatusCode, problem.Detail)
	}
	for _, c := range []struct {
		events []shows.PlayEvent
		says   string
	}{
		{[]shows.PlayEvent{{Input: "gong", Value: 1}}, `no input "gong"`},
		{[]shows.PlayEvent{{Input: "radio", Text: `\q`}}, "is no escape"},
	} {
		if res := ask(t, "POST", s.URL+"/api/plays", shows.PlayRequest{Bench: b, Modules: []int{2}, Events: c.events}, &problem); res.StatusCode != 422 || !strings.Contains(problem.Detail, c.says) {
			t.Errorf("%d: %s, want %q", res.StatusCode, problem.Detail, c.says)
		}
	}
	wrong := b
	wrong.Modules = append([]bench.Module{}, b.Modules...)
	wrong.Modules[0].Show.Scenes = append([]bench.Scene{}, b.Modules[0].Show.Scenes...)
	wrong.Modules[0].Show.Scenes[1].Ends = []bench.End{{Next: "gate"}}
	var located struct{ Errors []struct{ Location string } }
	if res := ask(t, "POST", s.URL+"/api/plays", shows.PlayRequest{Bench: wrong, Modules: []int{0}}, &located); res.StatusCode != 422 || len(located.Errors) != 1 || located.Errors[0].Location != "/modules/0/show/scenes/1/ends/0" {
		t.Errorf("%d: %+v", res.StatusCode, located)
	}
}

// TestJudgePlay asks what helps a module that falls behind; core holds what is proposed.
func TestJudgePlay(t *testing.T) {
	s := serve(t)
	b := demo.Bench()
	b.Bus.SpeedHz = 10_000
	b.Modules[0].Show.Inputs[1].Signal.Source.SampleMs = 5
	b.Modules[0].Show.Inputs[1].Signal.Source.PeriodMs = 500
	var out shows.PlayJudgement
	res := ask(t, "POST", s.URL+"/api/plays/judge", shows.JudgeRequest{Bench: b, Module: 0, Events: []shows.PlayEvent{{AtMs: 100, Input: "bell", Value: 1}, {AtMs: 200, Input: "radio", Module: "slip", Text: "x"}}, UntilMs: 2000}, &out)
	if res.StatusCode != 200 || len(out.Findings) != 1 || out.Findings[0].Code != "play.behind" || len(out.Findings[0].Remedies) == 0 {
		t.Errorf("%d: %+v", res.StatusCode, out)
	}
}

// TestFall works out figures that are checked in core, and holds that they arrive with their units.
func TestFall(t *testing.T) {
	s := serve(t)
	var out shows.Fall
	ask(t, "POST", s.URL+"/api/fall", shows.FallRequest{FallMs: 1700, Ohms: 10e3, Farads: 10e-6}, &out)
	if len(out.Pairs) == 0 || out.Pairs[0].FallMs < 1600 || out.Pairs[0].FallMs > 1800 || out.GivenMs < 230.2 || out.GivenMs > 230.4 || len(out.Presets) != 3 {
		t.Errorf("%+v", out)
	}
	var read shows.Fall
	var problem struct{ Detail string }
	ask(t, "POST", s.URL+"/api/fall", shows.FallRequest{FallMs: 1, Read: []int{0, 352, 710}}, &read)
	if read.Stick.Low != 176 || read.Stick.High != 531 { // common practice: 175 and 530
		t.Errorf("%+v", read.Stick)
	}
	if res := ask(t, "POST", s.URL+"/api/fall", shows.FallRequest{FallMs: 1, Read: []int{5, 5, 710}}, &problem); res.StatusCode != 422 || !strings.Contains(problem.Detail, "expected the least") {
		t.Errorf("%d: %s", res.StatusCode, problem.Detail)
	}
	if out.Stick.Greatest != 675 || out.Stick.Low != 168 && out.Stick.Low != 169 {
		t.Errorf("a stick at 3.3 V on a converter at 5 V: %+v", out.Stick)
	}
}

// TestStickOfHost takes a stick's levels from the supply that the wiring feeds it with: the
// host's own where nothing else is said; its middle is half of that, its levels a quarter and
// three quarters (common practice).
func TestStickOfHost(t *testing.T) {
	s := serve(t)
	for _, c := range []struct {
		part                   string
		supplyMV               int
		middle, low, high, top int
	}{{"ATmega328P", 0, 511, 255, 767, 1023}, {"ATmega328P", 3300, 337, 168, 506, 675}, {"RP2040", 0, 2047, 1023, 3071, 4095}} {
		var out shows.Fall
		ask(t, "POST", s.URL+"/api/fall", map[string]any{"fallMs": 1000, "host": map[string]any{"part": c.part}, "supplyMV": c.supplyMV}, &out)
		near := func(a, b int) bool { return a-b <= 2 && b-a <= 2 }
		if st := out.Stick; !near(st.Middle, c.middle) || !near(st.Low, c.low) || !near(st.High, c.high) || !near(st.Greatest, c.top) {
			t.Errorf("%s fed %d mV: %+v", c.part, c.supplyMV, st)
		}
		b := bench.New("stick")
		b.Host.Part, b.Modules[0].Link.Kind = c.part, "parallel4"
		b.Modules[0].Show.Inputs = []bench.Input{{ID: "x", Kind: "signal", Pin: map[string]string{"RP2040": "GP26"}[c.part], Signal: bench.Sensor{SupplyMV: c.supplyMV}}}
		if c.part != "RP2040" {
			b.Modules[0].Show.Inputs[0].Pin = "A3"
		}
		nets := wiring.Of(&b)
		net, _ := nets.NetOf("module-1-x/VCC")
		if want := map[bool]string{true: "5V", false: "3V3"}[out.Stick.SupplyMV > 3600]; net == nil || net.Name != want {
			t.Errorf("%s fed %d mV: the wiring feeds it from %+v, want %s", c.part, c.supplyMV, net, want)
		}
	}
}
