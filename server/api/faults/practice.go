package faults

import (
	"context"
	"crypto/hmac"
	"crypto/rand"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"math/big"
	"net/http"
	"slices"
	"sync"

	"github.com/danielgtaylor/huma/v2"

	"slatebell/core/prove/diagnose"
	"slatebell/core/prove/fault"
	"slatebell/core/prove/practice"
	"slatebell/server/api/answer"
	"slatebell/server/api/facts"
	"slatebell/server/api/progress"
)

// RoundRequest asks for a round of practice on a module with one of its screens.
type RoundRequest struct {
	FaultyModule
	Level int    `json:"level" minimum:"1" maximum:"4" doc:"1: nothing to be read; 2: wrong characters; 3: any fault that shows; 4: two at once"`
	Topic string `json:"topic,omitempty" enum:"wires,supply,bus,program,inputs" doc:"absent: any"`
	Built bool   `json:"built,omitempty" doc:"a fault that hardware can be built with: none of the program or of the clock that it gives the bus, none of an input"`
}

// RoundState is how far a round has come. It tells nothing of what is hidden before
// the answer is given.
type RoundState struct {
	ID       string       `json:"id"`
	Level    int          `json:"level"`
	Topic    string       `json:"topic,omitempty"`
	Sent     facts.Glass  `json:"sent" doc:"how the glass ought to look"`
	Glass    facts.Glass  `json:"glass" doc:"how it looks"`
	Spent    float64      `json:"spent" doc:"minutes, as they would be in life"`
	HintCost float64      `json:"hintCost" doc:"minutes of a hint"`
	Hints    []string     `json:"hints" nullable:"false"`
	Tests    []Inspection `json:"tests" nullable:"false" doc:"what can be done"`
	Done     []Inspected  `json:"done" nullable:"false" doc:"what was done, in its order"`
	Verdict  *Verdict     `json:"verdict,omitempty" doc:"once the answer is given"`
}

// Inspection is something that can be done.
type Inspection struct {
	ID      string  `json:"id"`
	Title   string  `json:"title"`
	Do      string  `json:"do"`
	Minutes float64 `json:"minutes"`
	Act     string  `json:"act,omitempty" enum:"send,slow,begin,light,blink,chart,scan,measure" doc:"what of it a host with a bridge does by itself"`

	Text []string `json:"text,omitempty" nullable:"false" doc:"that is sent"`
}

// Inspected is what was done, with what it showed.
type Inspected struct {
	ID    string       `json:"id"`
	Title string       `json:"title"`
	Says  string       `json:"says"`
	Glass *facts.Glass `json:"glass,omitempty"`
}

// Verdict is how a round ended.
type Verdict struct {
	Right   bool          `json:"right"`
	Hidden  []FaultChoice `json:"hidden" nullable:"false"`
	Fix     []string      `json:"fix" nullable:"false"`
	Minutes float64       `json:"minutes"`
	Best    float64       `json:"best" doc:"minutes of the finder’s own plan"`
	Plan    []Inspected   `json:"plan" nullable:"false" doc:"the finder’s own plan"`
	Score   int           `json:"score" doc:"0–100"`
}

// keptRound is a round; whoever uses it holds its lock.
type keptRound struct {
	mu     sync.Mutex
	id     string
	round  *practice.Round
	module FaultyModule
	of     *keptFinder // nil where its catalogue was dropped
	finder *diagnose.Finder
}

// attach lets a round go on with a catalogue, which may have been simulated again.
func (k *keptRound) attach(of *keptFinder) {
	if k.of != of {
		k.of, k.finder = of, diagnose.New(of.x, nil)
		k.round.Attach(k.finder)
	}
}

// chance returns a number below n by chance that nobody can foresee.
func chance(n int) int {
	v, err := rand.Int(rand.Reader, big.NewInt(int64(n)))
	if err != nil {
		return 0 // the system has no chance to give; it never says so
	}
	return int(v.Int64())
}

// inspected words what a test showed.
func (k *keptRound) inspected(test string) Inspected {
	t, _ := k.finder.Test(test)
	o, err := k.round.Shows(test)
	if err != nil {
		return Inspected{ID: t.ID, Title: t.Title, Says: err.Error()}
	}
	out := Inspected{ID: t.ID, Title: t.Title, Says: k.finder.Sees(o)}
	if v, ok := k.of.x.ViewOf(o); ok {
		g := k.of.glass(v)
		out.Glass = &g
	}
	return out
}

// state words a round.
func (k *keptRound) state() RoundState {
	r, x := k.round, k.of.x
	out := RoundState{ID: k.id, Level: int(r.Level), Topic: string(r.Topic), Sent: k.of.glass(x.View(0)), Glass: k.of.glass(r.Look()), Spent: r.Spent, HintCost: practice.HintMinutes, Hints: append([]string{}, r.Hints...), Tests: []Inspection{}, Done: []Inspected{}}
	for i := range x.Tests {
		t := &x.Tests[i]
		do := Inspection{ID: t.ID, Title: t.Title, Do: t.Do, Minutes: t.Minutes, Act: string(t.Act)}
		if t.Act == fault.ActSend {
			do.Text, _ = x.TestText() // there is none where the module has no characters for it
		}
		out.Tests = append(out.Tests, do)
	}
	slices.SortStableFunc(out.Tests, func(a, b Inspection) int { return int(10*a.Minutes) - int(10*b.Minutes) })
	for _, d := range r.Done {
		out.Done = append(out.Done, k.inspected(d))
	}
	if v := r.Verdict; v != nil {
		out.Verdict = &Verdict{Right: v.Right, Minutes: v.Minutes, Best: v.Best, Score: v.Score, Hidden: []FaultChoice{}, Fix: []string{}, Plan: []Inspected{}}
		for _, f := range v.Hidden {
			out.Verdict.Hidden = append(out.Verdict.Hidden, faultChoice(f))
			out.Verdict.Fix = append(out.Verdict.Fix, f.Fix())
		}
		for _, s := range v.Plan {
			out.Verdict.Plan = append(out.Verdict.Plan, k.inspected(s))
		}
	}
	return out
}

type roundAnswer struct{ Body RoundState }

// on carries something out on a round, and answers with how far it has come.
func (s *Finders) on(r *RoundPath, do func(k *keptRound) error) (*roundAnswer, error) {
	watch, end := s.watches.Follow(&r.Watched)
	defer end()
	k, ok := s.rounds.Get(r.Round)
	if !ok {
		return nil, huma.Error404NotFound("this round is not known any more; begin another")
	}
	k.mu.Lock()
	defer k.mu.Unlock()
	of, done, err := s.finder(&k.module, watch)
	if err != nil {
		return nil, err
	}
	defer done()
	k.attach(of)
	if err := do(k); err != nil {
		return nil, answer.Refused(err)
	}
	return &roundAnswer{k.state()}, nil
}

// Hidden tells what a round hides, and in which module, to the stand-in, which keeps it to itself. Its error is a refusal.
func (s *Finders) Hidden(round string) (module int, ids []string, err error) {
	_, err = s.on(&RoundPath{Round: round}, func(k *keptRound) error {
		module = k.module.Module
		if k.round.Verdict == nil { // else it is taken out
			for _, f := range k.round.Secret() {
				ids = append(ids, f.ID)
			}
		}
		return nil
	})
	return module, ids, err
}

// Contest is rounds in which all who play look for the same hidden faults.
type Contest struct {
	FaultyModule
	Level  int    `json:"level" minimum:"1" maximum:"4"`
	Topic  string `json:"topic,omitempty" enum:"wires,supply,bus,program,inputs"`
	Rounds int    `json:"rounds" minimum:"1" maximum:"20"`
	Seed   string `json:"seed,omitempty" doc:"kept by the program"`
}

// draw returns numbers by chance that nobody foresees who does not have the seed, the same for all of a round.
func (c *Contest) draw(round int) func(n int) int {
	drawn := 0
	return func(n int) int {
		sum := hmac.New(sha256.New, []byte(c.Seed))
		fmt.Fprintf(sum, "%d %d", round, drawn)
		drawn++
		v := new(big.Int).SetBytes(sum.Sum(nil)) // 256 bits: no number below n is likelier than another by anything that matters
		return int(v.Mod(v, big.NewInt(int64(n))).Int64())
	}
}

// contestRound begins a round of a contest, counted from 1.
func (s *Finders) contestRound(watched *progress.Watched, bench uint, nth int) (*roundAnswer, error) {
	c, err := s.Contest(bench)
	if err != nil {
		return nil, err
	}
	if nth < 1 || nth > c.Rounds {
		return nil, answer.Refused(fmt.Errorf("round %d; this contest has rounds 1 to %d", nth, c.Rounds))
	}
	watch, end := s.watches.Follow(watched)
	defer end()
	of, done, err := s.finder(&c.FaultyModule, watch)
	if err != nil {
		return nil, err
	}
	defer done()
	return s.keep(of, &c.FaultyModule, practice.Begin, c.Level, c.Topic, c.draw(nth))
}

type beginner func(f *diagnose.Finder, level practice.Level, topic fault.Topic, pick func(n int) int) (*practice.Round, error)

// keep begins a round and keeps it.
func (s *Finders) keep(of *keptFinder, module *FaultyModule, begin beginner, level int, topic string, pick func(n int) int) (*roundAnswer, error) {
	f := diagnose.New(of.x, nil)
	round, err := begin(f, practice.Level(level), fault.Topic(topic), pick)
	if err != nil {
		return nil, answer.Refused(err)
	}
	id := make([]byte, 8)
	rand.Read(id)
	k := &keptRound{id: hex.EncodeToString(id), round: round, module: *module, finder: f, of: of}
	s.rounds.Put(k.id, k, 1)
	return &roundAnswer{k.state()}, nil
}

// RoundPath names a round.
type RoundPath struct {
	progress.Watched
	Round string `path:"round" maxLength:"40"`
}

func registerPractice(api huma.API, s *Finders) {
	huma.Register(api, huma.Operation{OperationID: "begin-round", Method: http.MethodPost, Path: "/api/practice", Summary: "Begin a round of practice: a fault is hidden in the simulated module", DefaultStatus: http.StatusCreated, Errors: []int{422}},
		func(_ context.Context, in *struct {
			progress.Watched
			Body RoundRequest
		}) (*roundAnswer, error) {
			watch, end := s.watches.Follow(&in.Watched)
			defer end()
			of, done, err := s.finder(&in.Body.FaultyModule, watch)
			if err != nil {
				return nil, err
			}
			defer done()
			begin := practice.Begin
			if in.Body.Built {
				begin = practice.BeginBuilt
			}
			return s.keep(of, &in.Body.FaultyModule, begin, in.Body.Level, in.Body.Topic, chance)
		})

	huma.Register(api, huma.Operation{OperationID: "begin-contest-round", Method: http.MethodPost, Path: "/api/benches/{id}/contest/rounds/{nth}", Summary: "Begin a round of a contest: the same fault is hidden for all who play", DefaultStatus: http.StatusCreated, Errors: []int{404, 422}},
		func(_ context.Context, in *struct {
			answer.BenchPath
			progress.Watched
			Nth int `path:"nth" minimum:"1" maximum:"20"`
		}) (*roundAnswer, error) {
			return s.contestRound(&in.Watched, in.ID, in.Nth)
		})

	huma.Register(api, huma.Operation{OperationID: "get-round", Method: http.MethodGet, Path: "/api/practice/{round}", Summary: "How far a round has come", Errors: []int{404}},
		func(_ context.Context, in *RoundPath) (*roundAnswer, error) {
			return s.on(in, func(*keptRound) error { return nil })
		})

	huma.Register(api, huma.Operation{OperationID: "inspect", Method: http.MethodPost, Path: "/api/practice/{round}/tests/{test}", Summary: "Carry a test out on the hidden fault; it costs its minutes", Errors: []int{404, 422}},
		func(_ context.Context, in *struct {
			RoundPath
			Test string `path:"test" maxLength:"40"`
		}) (*roundAnswer, error) {
			return s.on(&in.RoundPath, func(k *keptRound) error {
				return k.round.Inspect(in.Test)
			})
		})

	huma.Register(api, huma.Operation{OperationID: "hint", Method: http.MethodPost, Path: "/api/practice/{round}/hints", Summary: "Ask for a hint; it costs more than a test", Errors: []int{404, 422}},
		func(_ context.Context, in *RoundPath) (*roundAnswer, error) {
			return s.on(in, func(k *keptRound) error {
				_, err := k.round.Hint()
				return err
			})
		})

	huma.Register(api, huma.Operation{OperationID: "answer-round", Method: http.MethodPost, Path: "/api/practice/{round}/answer", Summary: "Name the fault; that ends the round", Errors: []int{404, 422}},
		func(_ context.Context, in *struct {
			RoundPath
			Body struct {
				Faults []string `json:"faults" nullable:"false" maxItems:"2" doc:"ids of the catalogue"`
			}
		}) (*roundAnswer, error) {
			return s.on(&in.RoundPath, func(k *keptRound) error {
				_, err := k.round.Answer(in.Body.Faults)
				return err
			})
		})
}
