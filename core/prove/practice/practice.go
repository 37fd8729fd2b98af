// Package practice is rounds in which a maker looks for a fault that is hidden in the
// simulated bench: each inspection costs the minutes that it costs in life, hints cost
// more, and the score is held against the finder's own plan.
//
// It stands above diagnose, and keeps what is hidden to itself until it is answered.
package practice

import (
	"fmt"
	"math"
	"slices"

	"slatebell/core/prove/diagnose"
	"slatebell/core/prove/fault"
	"slatebell/core/say"
	"slatebell/core/wire/glass"
)

// Level is how hard a round is.
type Level int

// The levels.
const (
	Nothing Level = 1 + iota // nothing is on the glass, or blocks only
	Wrong                    // characters are on the glass, and not those that were sent
	Any                      // any fault that shows
	Two                      // two faults at once
)

// Levels says what each level is.
var Levels = map[Level]string{
	Nothing: "Nothing but blocks, or nothing at all",
	Wrong:   "Characters, and not those that were sent",
	Any:     "Any fault that shows",
	Two:     "Two faults at once",
}

// HintMinutes is what each hint costs.
const HintMinutes = 4

// Round is one round. Make it with Begin.
type Round struct {
	Level   Level
	Topic   fault.Topic // "" for any
	Spent   float64     // minutes
	Done    []string    // tests, in their order
	Hints   []string
	Verdict *Verdict // nil until it is answered

	finder *diagnose.Finder
	hidden int // the case
}

// Attach lets a round go on with another finder of the same module, as one that was
// simulated anew.
func (r *Round) Attach(f *diagnose.Finder) { r.finder = f }

// Verdict is how a round ended.
type Verdict struct {
	Right   bool
	Hidden  []*fault.Fault
	Minutes float64  // spent
	Best    float64  // of the finder's plan
	Plan    []string // tests of that plan
	Score   int      // 0–100
}

// Begin hides a fault; one of an input need not show before the input is used. pick returns a number below n by chance. Its error says that
// there is none of that level and topic.
func Begin(f *diagnose.Finder, level Level, topic fault.Topic, pick func(n int) int) (*Round, error) {
	return begin(f, level, topic, pick, func(*fault.Fault) bool { return true })
}

// BeginBuilt hides a fault as Begin does, one that hardware can be built with.
func BeginBuilt(f *diagnose.Finder, level Level, topic fault.Topic, pick func(n int) int) (*Round, error) {
	return begin(f, level, topic, pick, (*fault.Fault).Built)
}

func begin(f *diagnose.Finder, level Level, topic fault.Topic, pick func(n int) int, may func(*fault.Fault) bool) (*Round, error) {
	x := f.Index
	var list []int
	for i := range x.Cases {
		c := &x.Cases[i]
		if c.A == 0 || (c.B >= 0) != (level == Two) || !shows(x, c, level) && !(topic == fault.Inputs && level == Any) || !about(x, c, topic) ||
			!may(&x.Faults[c.A]) || c.B >= 0 && !may(&x.Faults[c.B]) {
			continue
		}
		list = append(list, i)
		if level == Two && len(list) == 2000 { // the likeliest come first
			break
		}
	}
	if len(list) == 0 {
		return nil, fmt.Errorf("no fault of this module is about %s and shows “%s”; choose another topic or level", topic, Levels[level])
	}
	return &Round{Level: level, Topic: topic, finder: f, hidden: list[pick(len(list))]}, nil
}

// shows reports whether a case shows what a level asks for.
func shows(x *fault.Index, c *fault.Case, level Level) bool {
	v, sound := x.View(c.View), x.View(0)
	if c.View == 0 {
		return false
	}
	class := v.Class()
	readable := class.Readable()
	switch level {
	case Nothing:
		return !readable
	case Wrong:
		return readable && (v.Shaded || !slices.Equal(v.Cells, sound.Cells))
	}
	return true
}

// about reports whether a case is about a topic.
func about(x *fault.Index, c *fault.Case, topic fault.Topic) bool {
	return topic == "" || x.Faults[c.A].Topic == topic || c.B >= 0 && x.Faults[c.B].Topic == topic
}

// Look is what the glass shows.
func (r *Round) Look() *glass.View { return r.finder.Index.View(r.secret().View) }

// Secret is what is hidden, for tests and for the stand-in that is built with it: nothing that answers a maker asks for it
// before the verdict.
func (r *Round) Secret() []*fault.Fault { return r.finder.FaultsOf(r.secret()) }

func (r *Round) secret() *fault.Case { return &r.finder.Index.Cases[r.hidden] }

// Inspect carries a test out, and counts its minutes; done once, it costs nothing more.
// Shows says what it shows.
func (r *Round) Inspect(test string) error {
	t, ok := r.finder.Test(test)
	switch {
	case !ok:
		return fmt.Errorf("test %q is not known for this module", test)
	case r.Verdict != nil:
		return fmt.Errorf("this round is over; begin another")
	case !slices.Contains(r.Done, test):
		r.Spent += t.Minutes
		r.Done = append(r.Done, test)
	}
	return nil
}

// Shows returns what a test that was done, or is of the plan once the round is over,
// shows of what is hidden.
func (r *Round) Shows(test string) (fault.Outcome, error) {
	t, ok := r.finder.Test(test)
	if !ok || !slices.Contains(r.Done, test) && (r.Verdict == nil || !slices.Contains(r.Verdict.Plan, test)) {
		return 0, fmt.Errorf("test %q was not done", test)
	}
	return r.finder.Index.Probe(r.secret()).Observe(t)
}

// Hint tells a little: first what the fault is about, then the test that the finder
// would do next, again and again.
func (r *Round) Hint() (string, error) {
	if r.Verdict != nil {
		return "", fmt.Errorf("this round is over; begin another")
	}
	hint := ""
	if len(r.Hints) == 0 && r.Topic == "" {
		hint = "It is about " + say.List(r.topics()) + "."
	} else {
		s, err := r.seen()
		if err != nil {
			return "", err
		}
		ranking, err := r.finder.Rank(&s)
		if err != nil {
			return "", err
		}
		next, err := r.finder.Next(ranking, nil)
		switch {
		case err != nil:
			return "", err
		case len(next) == 0:
			hint = "No test tells more: what you have seen is enough."
		default:
			hint = "This tells most now: " + next[0].Test.Title + "."
		}
	}
	r.Spent += HintMinutes
	r.Hints = append(r.Hints, hint)
	return hint, nil
}

func (r *Round) topics() []string {
	names := map[fault.Topic]string{fault.Wires: "the wires", fault.Power: "supply, contrast or light", fault.Bus: "the bus", fault.Program: "the program", fault.Inputs: "the inputs"}
	var out []string
	for _, f := range r.finder.FaultsOf(r.secret()) {
		if n := names[f.Topic]; !slices.Contains(out, n) {
			out = append(out, n)
		}
	}
	return out
}

// first is what is seen before any test.
func (r *Round) first() diagnose.Seen { return r.finder.Look(r.secret()) }

// seen is what is known so far.
func (r *Round) seen() (diagnose.Seen, error) {
	s := r.first()
	for _, test := range r.Done {
		o, err := r.Shows(test)
		if err != nil {
			return s, err
		}
		s.Results = append(s.Results, diagnose.Result{Test: test, Outcome: o})
	}
	return s, nil
}

// Answer ends the round. ids are those of the faults; an answer is right where nobody
// could tell it from what is hidden.
func (r *Round) Answer(ids []string) (*Verdict, error) {
	if r.Verdict != nil {
		return nil, fmt.Errorf("this round is over; begin another")
	}
	want := 1
	if r.Level == Two {
		want = 2
	}
	if len(ids) != want {
		return nil, fmt.Errorf("%d faults; expected %d", len(ids), want)
	}
	right, err := r.right(ids)
	if err != nil {
		return nil, err
	}
	plan, _, err := r.finder.Plan(r.first(), r.hidden)
	if err != nil {
		return nil, err
	}
	v := &Verdict{Right: right, Hidden: r.finder.FaultsOf(r.secret()), Minutes: r.Spent}
	for _, s := range plan {
		v.Best += s.Test.Minutes
		v.Plan = append(v.Plan, s.Test.ID)
	}
	if right {
		v.Score = score(v.Best, v.Minutes)
	}
	r.Verdict = v
	return v, nil
}

// score is 100 for the best plan's minutes or fewer, and less in proportion; a minute
// more or less is chance.
func score(best, spent float64) int {
	return int(math.Round(100 * min(1, (best+1)/(spent+1))))
}

// right reports whether faults are the hidden ones, or cannot be told from them by
// anything that can be seen, measured or read.
func (r *Round) right(ids []string) (bool, error) {
	x := r.finder.Index
	c := fault.Case{A: -1, B: -1}
	for i, id := range ids {
		at, ok := x.Find(id)
		if !ok {
			return false, fmt.Errorf("fault %q is not in the catalogue of this module", id)
		}
		if i == 0 {
			c.A = at.A
		} else {
			c.B = at.A
		}
	}
	hidden := r.secret()
	if c.A == hidden.A && c.B == hidden.B || c.A == hidden.B && c.B == hidden.A {
		return true, nil
	}
	if c.B >= 0 && c.A > c.B {
		c.A, c.B = c.B, c.A
	}
	theirs, ours := x.Probe(&c), x.Probe(hidden)
	for i := range x.Tests {
		a, err := theirs.Observe(&x.Tests[i])
		if err != nil {
			return false, err
		}
		b, err := ours.Observe(&x.Tests[i])
		if err != nil || a != b {
			return false, err
		}
	}
	return true, nil
}
