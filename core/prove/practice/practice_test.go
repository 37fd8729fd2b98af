package practice

import (
	"math"
	"math/rand/v2"
	"slices"
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

// TestScores holds scores against makers who know nothing of the finder: one who does the tests in an
// order drawn by chance until what was seen leaves one cause, and one who by luck does no test too many, found
// by trying all sets of up to three tests. Nobody is quicker than luck, the finder's plan is quicker than chance, and
// a score is the plan's minutes in those that were spent.
func TestScores(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 8))
	planned, chance, luck, full, rounds := 0.0, 0.0, 0.0, 0, 0
	for _, kind := range []link.Kind{link.Parallel4, link.Backpack} {
		f := finder(t, kind)
		for range 25 {
			begun, err := Begin(f, Any, "", r.IntN)
			if err != nil {
				t.Fatal(err)
			}
			k := known(t, f, begun.hidden)
			var ids []string
			for _, h := range begun.Secret() {
				ids = append(ids, h.ID)
			}
			lucky := k.luckiest()
			if math.IsInf(lucky, 1) {
				continue // three tests do not single it out
			}
			maker := &Round{Level: Any, finder: f, hidden: begun.hidden}
			var done []int
			for _, test := range r.Perm(len(f.Index.Tests)) {
				if k.sure(done) {
					break
				}
				done = append(done, test)
				if err := maker.Inspect(f.Index.Tests[test].ID); err != nil {
					t.Fatal(err)
				}
			}
			v, err := maker.Answer(ids)
			if err != nil || !v.Right {
				t.Fatalf("%v: %+v, %v", ids, v, err)
			}
			minutes := 0.0
			for _, test := range done {
				minutes += f.Index.Tests[test].Minutes
			}
			if want := int(math.Round(100 * min(1, (v.Best+1)/(minutes+1)))); v.Minutes != minutes || v.Score != want {
				t.Errorf("%v: %d points for %.1f minutes where the plan takes %.1f; want %d", ids, v.Score, v.Minutes, v.Best, want)
			}
			if minutes < lucky {
				t.Errorf("%v: %.1f minutes by chance, where luck takes %.1f", ids, minutes, lucky)
			}
			if v.Best < lucky {
				t.Errorf("%v: the plan takes %.1f minutes, where nothing singles it out in less than %.1f", ids, v.Best, lucky)
			}
			planned, chance, luck, rounds = planned+v.Best, chance+minutes, luck+lucky, rounds+1
			if v.Score == 100 {
				full++
			}
		}
	}
	t.Logf("%d rounds: by luck %.1f minutes, by the plan %.1f, by chance %.1f; %d of those by chance have 100", rounds, luck, planned, chance, full)
	if rounds < 30 || planned > chance/1.5 || full > rounds/2 {
		t.Errorf("%d rounds: by the plan %.1f minutes, by chance %.1f, %d with 100", rounds, planned, chance, full)
	}
}

// knowledge is what tests tell of the causes that show the same glass at first.
type knowledge struct {
	tests   []fault.Test
	weight  []float64
	alike   []bool // whether no test at all tells the cause from the hidden one
	differs [][]bool
}

// known plays every test on every cause that shows at first what the hidden one shows.
func known(t *testing.T, f *diagnose.Finder, hidden int) *knowledge {
	t.Helper()
	x := f.Index
	mine, err := x.Probe(&x.Cases[hidden]).All()
	if err != nil {
		t.Fatal(err)
	}
	k := &knowledge{tests: x.Tests}
	for i := range x.Cases {
		c := &x.Cases[i]
		if c.View != x.Cases[hidden].View || c.B >= 0 {
			continue
		}
		theirs, err := x.Probe(c).All()
		if err != nil {
			t.Fatal(err)
		}
		differs, alike := make([]bool, len(theirs)), true
		for n := range theirs {
			differs[n] = theirs[n] != mine[n]
			alike = alike && !differs[n]
		}
		k.weight, k.alike, k.differs = append(k.weight, c.Weight), append(k.alike, alike), append(k.differs, differs)
	}
	return k
}

// sure reports whether tests leave the hidden cause, with those that nothing tells from it, as good as alone.
func (k *knowledge) sure(done []int) bool {
	mine, all := 0.0, 0.0
	for i, w := range k.weight {
		if slices.ContainsFunc(done, func(test int) bool { return k.differs[i][test] }) {
			continue
		}
		all += w
		if k.alike[i] {
			mine += w
		}
	}
	return mine >= diagnose.Sure*all
}

// luckiest is the fewest minutes in which up to three tests make sure; infinite where none do.
func (k *knowledge) luckiest() float64 {
	best := math.Inf(1)
	var try func(from int, done []int, minutes float64)
	try = func(from int, done []int, minutes float64) {
		if minutes >= best {
			return
		}
		if k.sure(done) {
			best = minutes
			return
		}
		for i := from; i < len(k.tests) && len(done) < 3; i++ {
			try(i+1, append(slices.Clone(done), i), minutes+k.tests[i].Minutes)
		}
	}
	try(0, nil, 0)
	return best
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
