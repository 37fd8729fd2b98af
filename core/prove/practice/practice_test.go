package practice

import (
	"math/rand/v2"
	"strings"
	"testing"

	"periph.io/x/conn/v3/physic"

	"slatebell/core/part/charrom"
	"slatebell/core/part/module"
	"slatebell/core/prove/diagnose"
	"slatebell/core/prove/fault"
	"slatebell/core/text/screen"
	"slatebell/core/wire/glass"
	"slatebell/core/wire/link"
)

func finder(t *testing.T, kind link.Kind) *diagnose.Finder {
	t.Helper()
	g, _ := module.ParseGeometry("16x2")
	m := module.Module{Geometry: g, Technology: module.LCD, ROM: charrom.A00()}
	s := &fault.Subject{Module: m, Link: link.New(kind), Text: screen.Text{Rows: []string{"Tide 3.2 m", "High 14:05"}}}
	s.Fitting = fault.Fitting{Contrast: m.UsualContrast(), Pot: 10_000 * physic.Ohm, Light: 220 * physic.Ohm, Lamp: module.UsualBacklight("green")}
	x, err := fault.New(s, nil)
	if err != nil {
		t.Fatal(err)
	}
	return diagnose.New(x, nil)
}

// TestRounds hides faults of every level and topic: the glass is what the level says,
// whoever follows the finder's own plan and names what is hidden has 100, each test
// costs its minutes once, a hint more than most, and a wrong answer nothing.
func TestRounds(t *testing.T) {
	r := rand.New(rand.NewPCG(5, 6))
	kinds := []link.Kind{link.Parallel4, link.Backpack}
	if testing.Short() {
		kinds = kinds[:1]
	}
	for _, kind := range kinds {
		f := finder(t, kind)
		for level := Nothing; level <= Two; level++ {
			for _, topic := range append([]fault.Topic{""}, fault.Topics...) {
				if topic == fault.Inputs {
					continue // this module has none; core/prove/run's tests find theirs
				}
				begin := func() (*Round, error) { return Begin(f, level, topic, r.IntN) }
				round, err := begin()
				if topic == fault.Bus && kind == link.Parallel4 {
					if err == nil {
						t.Errorf("a fault of the bus on parallel lines")
					}
					continue
				}
				if err != nil {
					if level == Wrong && (topic == fault.Power || topic == fault.Bus) {
						continue // there need be none
					}
					t.Errorf("%s, level %d, %s: %v", kind, level, topic, err)
					continue
				}
				class := round.Look().Class()
				if readable := class == glass.Characters || class == glass.Faint || class == glass.Shaded; level == Nothing && readable || level == Wrong && !readable {
					t.Errorf("level %d shows %s", level, class)
				}
				hidden := f.FaultsOf(round.secret())
				var ids []string
				about := topic == ""
				for _, h := range hidden {
					ids = append(ids, h.ID)
					about = about || h.Topic == topic
				}
				if !about || (len(ids) == 2) != (level == Two) {
					t.Errorf("level %d, %s hides %v", level, topic, ids)
				}
				plan, _, err := f.Plan(round.first(), round.hidden)
				if err != nil {
					t.Fatal(err)
				}
				spent := 0.0
				for _, s := range plan {
					for range 2 { // the second time costs nothing
						if err := round.Inspect(s.Test.ID); err != nil {
							t.Fatal(err)
						}
						if o, err := round.Shows(s.Test.ID); err != nil || o != s.Outcome {
							t.Fatalf("%s shows %d, %v", s.Test.ID, o, err)
						}
					}
					spent += s.Test.Minutes
				}
				if round.Spent != spent {
					t.Errorf("%.1f min spent on tests of %.1f min", round.Spent, spent)
				}
				v, err := round.Answer(ids)
				if err != nil || !v.Right || v.Score != 100 || v.Best != spent || len(v.Plan) != len(plan) {
					t.Errorf("level %d, %v: %+v, %v", level, ids, v, err)
				}
				if _, err := round.Answer(ids); err == nil {
					t.Error("a round is answered twice")
				}
				if err := round.Inspect("power"); err == nil {
					t.Error("a test after the answer")
				}

				if topic != "" {
					continue
				}
				again := &Round{Level: level, Topic: topic, finder: f, hidden: round.hidden}
				for i := range 3 {
					hint, err := again.Hint()
					if err != nil || hint == "" || again.Spent != float64(i+1)*HintMinutes {
						t.Errorf("hint %d: %q, %v, %.1f min", i+1, hint, err, again.Spent)
					}
					for _, h := range hidden {
						if strings.Contains(hint, h.What()) {
							t.Errorf("the hint %q gives the fault away", hint)
						}
					}
				}
				if v, err := again.Answer(ids); err != nil || v.Score >= 100 && v.Best < 11 {
					t.Errorf("with hints: %+v, %v", v, err)
				}
				wrong := &Round{Level: level, finder: f, hidden: round.hidden}
				other := []string{"display.off", "wait.clear"}[:len(ids)]
				if ids[0] == "display.off" || ids[len(ids)-1] == "wait.clear" {
					other = []string{"entry.back", "start.lines"}[:len(ids)]
				}
				if v, err := wrong.Answer(other); err != nil || v.Right || v.Score != 0 {
					t.Errorf("%v for %v: %+v, %v", other, ids, v, err)
				}
			}
		}
	}
}

// TestAnswers takes what nobody can tell from the hidden fault for right, and says what
// an answer lacks.
func TestAnswers(t *testing.T) {
	f := finder(t, link.Parallel4)
	hide := func(id string) *Round {
		for i := range f.Index.Faults {
			if f.Index.Faults[i].ID == id {
				return &Round{Level: Any, finder: f, hidden: i}
			}
		}
		t.Fatalf("no %s", id)
		return nil
	}
	byView := map[int32]string{} // nibbles that are lost in the text, by what they show
	for i := range f.Index.Faults {
		l := f.Index.Faults[i]
		view := f.Index.Cases[i].View
		if l.Code != "nibble.lost" || f.Index.View(view).Class() != glass.Characters || view == 0 {
			continue
		}
		other, same := byView[view]
		byView[view] = l.ID
		if v, err := hide(l.ID).right([]string{"nibble.lost:11.1"}); err != nil || v != (l.ID == "nibble.lost:11.1") {
			t.Errorf("nibble.lost:11.1 for %s: %v, %v", l.ID, v, err)
		}
		if same {
			if v, err := hide(l.ID).right([]string{other}); err != nil || !v {
				t.Errorf("%s for %s, which shows the same: %v, %v", other, l.ID, v, err)
			}
		}
	}
	for _, c := range []struct {
		ids  []string
		want string
	}{
		{nil, "0 faults; expected 1"},
		{[]string{"display.off", "entry.back"}, "2 faults; expected 1"},
		{[]string{"tea.cold"}, `fault "tea.cold" is not in the catalogue`},
	} {
		if _, err := hide("display.off").Answer(c.ids); err == nil || !strings.Contains(err.Error(), c.want) {
			t.Errorf("%v: %v, want %q", c.ids, err, c.want)
		}
	}
	if err := hide("display.off").Inspect("tea"); err == nil {
		t.Error("a test that is not there")
	}
	if _, err := hide("display.off").Shows("power"); err == nil {
		t.Error("what a test shows that was not done")
	}
}
