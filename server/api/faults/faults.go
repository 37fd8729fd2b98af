// Package faults answers for what may be wrong: the catalogue of faults, the finder, and rounds of
// practice.
package faults

import (
	"context"
	"crypto/sha256"
	"encoding/json"
	"net/http"
	"runtime"
	"slices"
	"strings"
	"sync"

	"github.com/danielgtaylor/huma/v2"

	"slatebell/core/bench"
	"slatebell/core/finding"
	"slatebell/core/part/i2cbus"
	"slatebell/core/part/module"
	"slatebell/core/prove/diagnose"
	"slatebell/core/prove/fault"
	"slatebell/core/prove/run"
	"slatebell/core/prove/testbed"
	"slatebell/core/wire/glass"
	"slatebell/formats/scantext"
	"slatebell/server/api/answer"
	"slatebell/server/api/facts"
	"slatebell/server/api/progress"
	"slatebell/server/cache"
)

// FaultChoice is a fault of a catalogue.
type FaultChoice struct {
	ID    string   `json:"id"`
	Code  string   `json:"code"`
	Topic string   `json:"topic" doc:"wires, supply, bus, program or inputs"`
	What  string   `json:"what"`
	Where string   `json:"where"`
	Pins  []string `json:"pins,omitempty" nullable:"false" doc:"of the header or the backpack"`
}

func faultChoice(f *fault.Fault) FaultChoice {
	return FaultChoice{f.ID, f.Code, string(f.Topic), f.What(), f.Where(), f.Pins}
}

// mostOrders is how many orders of the data lines a list has; those of eight lines are
// too many to choose from.
const mostOrders = 100

func faultChoices(faults []fault.Fault) *answer.List[FaultChoice] {
	out := &answer.List[FaultChoice]{Body: []FaultChoice{}}
	orders := 0
	for i := range faults {
		f := &faults[i]
		if f.Code == "wire.order" {
			if orders++; orders > mostOrders {
				continue
			}
		}
		if f.ID != fault.Sound {
			out.Body = append(out.Body, faultChoice(f))
		}
	}
	return out
}

// FaultyModule names a module of a bench with one of its screens.
type FaultyModule struct {
	Bench  bench.Bench `json:"bench"`
	Module int         `json:"module" minimum:"0"`
	Screen int         `json:"screen" minimum:"0"`
}

// FindRequest says what is seen of a module, and asks what may be wrong.
type FindRequest struct {
	FaultyModule
	Class   string         `json:"class,omitempty" enum:"blank,row-of-blocks,all-blocks,shaded,faint,signs" doc:"what one would call the glass"`
	Pattern string         `json:"pattern,omitempty" enum:"right,shifted,every-other,rows,more,partly,garbage" doc:"how characters differ from what was sent"`
	Typed   []string       `json:"typed,omitempty" nullable:"false" maxItems:"8" doc:"what stands on the glass, row by row; U+FFFD is a character that cannot be typed, U+2588 a block, U+E000 + code a code"`
	Read    []CellRead     `json:"read,omitempty" nullable:"false" maxItems:"160" doc:"of each cell what a photograph says, in place of what was typed"`
	Wrong   []int          `json:"wrong,omitempty" nullable:"false" maxItems:"160" doc:"cells that are not as they ought to be, row by row"`
	Light   *bool          `json:"light,omitempty" doc:"lit from behind"`
	Printed string         `json:"printed,omitempty" maxLength:"65536" doc:"what a scanner printed"`
	Results []TestResult   `json:"results,omitempty" nullable:"false" maxItems:"60" doc:"of tests"`
	Without []string       `json:"without,omitempty" nullable:"false" maxItems:"2" enum:"meter,upload" doc:"what is not at hand: a meter, or another program to send"`
	Hosted  bool           `json:"hosted,omitempty" doc:"a host with a bridge is connected: what it can do by itself is at once done, and takes no other program"`
	Found   map[string]int `json:"found,omitempty" doc:"how often each cause was found before, by its code"`
}

// TestResult is what a test showed.
type TestResult struct {
	Test    string     `json:"test" maxLength:"60"`
	Outcome string     `json:"outcome,omitempty" maxLength:"300" doc:"key of what was seen"`
	MV      *int       `json:"mV,omitempty" minimum:"-20000" maximum:"20000" doc:"what was measured, in place of outcome"`
	Read    []CellRead `json:"read,omitempty" nullable:"false" maxItems:"160" doc:"of each cell what a photograph says, in place of outcome"`
}

// CellRead is what a photograph says of a cell.
type CellRead struct {
	Code int     `json:"code" minimum:"0" maximum:"255" doc:"the likeliest"`
	Sure float64 `json:"sure" minimum:"0" maximum:"1" doc:"0: it says nothing"`
	Next int     `json:"next" minimum:"0" maximum:"255" doc:"the next best code"`
	Also float64 `json:"also" minimum:"0" maximum:"1" doc:"how likely that is"`
}

func readOf(list []CellRead) (out []diagnose.Read) {
	for _, c := range list {
		out = append(out, diagnose.Read{Code: byte(c.Code), Sure: c.Sure, Next: byte(c.Next), Also: c.Also})
	}
	return out
}

// FindResult is what may be wrong, and what to do next.
type FindResult struct {
	Sent    facts.Glass   `json:"sent" doc:"how the glass ought to look"`
	Seen    facts.Glass   `json:"seen" doc:"what was typed, as a glass shows it"`
	Cases   int           `json:"cases" doc:"that were simulated"`
	Looks   []GlassLook   `json:"looks" nullable:"false" doc:"what the glass may look like, each drawn by a case of the catalogue"`
	Causes  []LikelyCause `json:"causes" nullable:"false" doc:"the likeliest first"`
	Tests   []TestChoice  `json:"tests" nullable:"false" doc:"what to do next, what tells most for its minutes first"`
	Text    []string      `json:"text" nullable:"false" doc:"rows of the test text"`
	Settled bool          `json:"settled" doc:"one cause is as good as sure"`
	Doubt   string        `json:"doubt,omitempty" doc:"nothing explains well what was typed"`
}

// GlassLook is one way that the glass may look, with a picture.
type GlassLook struct {
	Class   string      `json:"class"`
	Pattern string      `json:"pattern,omitempty"`
	Glass   facts.Glass `json:"glass"`
}

// LikelyCause is a cause with what it would show.
type LikelyCause struct {
	diagnose.Told
	Glass    facts.Glass      `json:"glass"`
	Remedies []finding.Remedy `json:"remedies,omitempty" nullable:"false" doc:"changes of the bench that plan what is there"`
}

// TestChoice is a test with what it may show.
type TestChoice struct {
	ID       string          `json:"id"`
	Title    string          `json:"title"`
	Do       string          `json:"do"`
	Minutes  float64         `json:"minutes"`
	Meter    bool            `json:"meter,omitempty"`
	Upload   bool            `json:"upload,omitempty" doc:"another program is sent"`
	Volts    bool            `json:"volts,omitempty" doc:"it reads a voltage"`
	Act      string          `json:"act,omitempty" enum:"send,slow,begin,light,blink,chart,scan,measure" doc:"what of it a host with a bridge does by itself"`
	Bits     float64         `json:"bits" doc:"information that it gives"`
	Outcomes []OutcomeChoice `json:"outcomes" nullable:"false"`
}

// OutcomeChoice is what a test may show.
type OutcomeChoice struct {
	Key    string       `json:"key"`
	Says   string       `json:"says"`
	Glass  *facts.Glass `json:"glass,omitempty" doc:"where it is a glass"`
	Chance float64      `json:"chance"`
	Causes []string     `json:"causes" nullable:"false" doc:"what it would mean, the likeliest first"`
	Found  []int        `json:"found,omitempty" nullable:"false" doc:"of a scan: the addresses that answer"`
	KHz    int          `json:"kHz,omitempty" doc:"of an oscillator: its frequency"`
	Scan   bool         `json:"scan,omitempty" doc:"it is what a scan finds"`
}

// Bounds of an answer.
const (
	ShownCauses   = 12
	shownTests    = 6
	shownOutcomes = 9
)

// Finders keeps the catalogues that were simulated last, and the rounds of practice that were begun
// last. Make it with NewFinders.
type Finders struct {
	catalogues *cache.Cache[*keptFinder]
	rounds     *cache.Cache[*keptRound]
	watches    *progress.Watches
	// Contest finds the contest of a bench; nil where there is none to be asked for.
	Contest func(bench uint) (*Contest, error)
	turns   chan struct{} // as many may compute at a time as there are processors
}

// turn waits until a processor is free, and returns what gives it back: one request after the other is
// answered sooner on the whole than all of them side by side.
func (s *Finders) turn() (done func()) {
	s.turns <- struct{}{}
	return func() { <-s.turns }
}

// Bounds of what Finders keeps.
const (
	maxCases  = 33_000 // cases of catalogues: each takes 150 to 500 bytes
	maxRounds = 64     // as many as may play in a contest
)

// New returns an empty Finders, which tells watches how far a catalogue has come.
func New(w *progress.Watches) *Finders {
	return &Finders{catalogues: cache.New[*keptFinder](maxCases), rounds: cache.New[*keptRound](maxRounds), watches: w, turns: make(chan struct{}, runtime.GOMAXPROCS(0))}
}

// Rest drops the catalogues; rounds go on with new ones.
func (s *Finders) Rest() {
	s.catalogues.Shrink(0)
	for _, k := range s.rounds.Values() {
		k.mu.Lock()
		k.of, k.finder = nil, nil
		k.round.Attach(nil)
		k.mu.Unlock()
	}
}

// keptFinder is a simulated catalogue; whoever uses it holds its lock.
type keptFinder struct {
	mu       sync.Mutex
	x        *fault.Index
	mod      module.Module
	expected []i2cbus.Address // to answer to a scan
}

// finder waits for its turn and returns the catalogue of a module, for nobody else until done is
// called; it tells watch what it does. Catalogues of other modules are simulated beside it.
func (s *Finders) finder(m *FaultyModule, watch fault.Watch) (k *keptFinder, done func(), err error) {
	if err := m.Bench.Validate(); err != nil {
		return nil, nil, answer.Invalid(err)
	}
	subject, err := run.SubjectOf(&m.Bench, testbed.At{Module: m.Module, Screen: m.Screen})
	if err != nil {
		return nil, nil, answer.Invalid(err)
	}
	doc, err := json.Marshal([]any{m.Bench.Modules[m.Module], m.Screen, m.Bench.Host, m.Bench.Bus, m.Bench.Glyphs, subject.Answers})
	if err != nil {
		return nil, nil, err
	}
	key := sha256.Sum256(doc)
	end := s.turn()
	k, err = s.catalogues.Do(string(key[:]), func() (*keptFinder, int, error) {
		x, err := fault.New(subject, watch)
		if err != nil {
			return nil, 0, err
		}
		return &keptFinder{x: x, mod: subject.Module, expected: append(slices.Clone(subject.Answers), i2cbus.Address(subject.Link.Address))}, len(x.Cases), nil
	})
	if err != nil {
		end()
		return nil, nil, answer.Refused(err)
	}
	k.mu.Lock()
	k.x.Watch = watch
	return k, func() { k.mu.Unlock(); end() }, nil
}

// glass draws what is seen.
func (k *keptFinder) glass(v *glass.View) facts.Glass {
	out := facts.Glass{Cols: v.Cols, Rows: v.Rows, CellRows: k.mod.CellRows(), Light: v.Light, Text: k.x.Text(v), On: true, Lit: 1}
	for i, c := range v.Cells {
		dots, below := c.Unpack()
		out.Dots = append(out.Dots, dots[:]...)
		out.Dots = append(out.Dots, below[:out.CellRows-len(dots)]...)
		out.Codes = append(out.Codes, 0)
		switch {
		case c.Shade() == glass.Dark:
			out.Dark = 0.92
		case c.Shade() == glass.Grey:
			out.Dark = 0.45
		}
		if c.Faint() {
			out.Lit = 0.4
		}
		if c.Shade() == 0 && c.Dots() == 0 {
			if out.Bare == nil {
				out.Bare = make([]bool, len(v.Cells))
			}
			out.Bare[i] = true
		}
	}
	if v.Shaded {
		out.Dark, out.Bare = glass.Faintest, nil
	}
	if out.Dark == 0 {
		out.Bare = nil
	}
	return out
}

// said is what a request says. Its error says what of it cannot be read.
func (k *keptFinder) said(r *FindRequest, f *diagnose.Finder) (*diagnose.Seen, error) {
	s := &diagnose.Seen{Class: glass.Class(r.Class), Pattern: diagnose.Pattern(r.Pattern), Typed: r.Typed, Read: readOf(r.Read), Wrong: r.Wrong, Light: r.Light}
	for _, t := range r.Results {
		s.Results = append(s.Results, diagnose.Result{Test: t.Test, Key: t.Outcome, MV: t.MV, Read: readOf(t.Read)})
	}
	if _, ok := f.Test("scan"); ok && strings.TrimSpace(r.Printed) != "" {
		reading, err := scantext.Read(strings.NewReader(r.Printed), k.expected)
		if err != nil && !(reading != nil && reading.Silent) {
			return nil, err
		}
		slices.Sort(reading.Found)
		s.Results = append(s.Results, diagnose.Result{Test: "scan", Scanned: append([]i2cbus.Address{}, slices.Compact(reading.Found)...)})
	}
	return s, nil
}

// find answers what may be wrong.
func (k *keptFinder) find(r *FindRequest) (*FindResult, error) {
	f := diagnose.New(k.x, r.Found)
	f.Hosted = r.Hosted
	s, err := k.said(r, f)
	if err != nil {
		return nil, answer.Refused(err)
	}
	ranking, err := f.Rank(s)
	if err != nil {
		return nil, answer.Refused(err)
	}
	next, err := f.Next(ranking, func(t *fault.Test) bool {
		return !(t.Meter && slices.Contains(r.Without, "meter")) && !(t.Upload && slices.Contains(r.Without, "upload"))
	})
	if err != nil {
		return nil, err
	}
	text, err := k.x.TestText()
	if err != nil {
		return nil, err
	}
	typed, err := f.Picture(r.Typed)
	if err != nil {
		return nil, answer.Refused(err)
	}
	out := &FindResult{Sent: k.glass(k.x.View(0)), Seen: k.glass(&typed), Cases: len(k.x.Cases), Text: text, Causes: []LikelyCause{}, Tests: []TestChoice{}, Looks: []GlassLook{}}
	for _, l := range f.Looks() {
		out.Looks = append(out.Looks, GlassLook{string(l.Class), string(l.Pattern), k.glass(k.x.View(l.View))})
	}
	for _, c := range ranking.Causes[:min(len(ranking.Causes), ShownCauses)] {
		out.Causes = append(out.Causes, k.cause(r, f, s, c))
	}
	out.Doubt = ranking.Doubt(s)
	out.Settled = len(ranking.Causes) > 0 && ranking.Causes[0].Share >= diagnose.Sure
	for i := range next {
		if i >= shownTests && !next[i].ByHost { // what costs next to nothing is always there
			continue
		}
		out.Tests = append(out.Tests, k.choice(f, s, ranking, &next[i]))
	}
	return out, nil
}

// cause words a cause.
func (k *keptFinder) cause(r *FindRequest, f *diagnose.Finder, s *diagnose.Seen, c diagnose.Cause) LikelyCause {
	of := &k.x.Cases[c.Case]
	out := LikelyCause{Told: f.Tell(s, c), Glass: k.glass(k.x.View(of.View))}
	for _, one := range f.FaultsOf(of) {
		out.Remedies = append(out.Remedies, run.Adopt(&r.Bench, r.Module, one)...)
	}
	return out
}

// choice words a test that is proposed.
func (k *keptFinder) choice(f *diagnose.Finder, s *diagnose.Seen, r *diagnose.Ranking, p *diagnose.Proposal) TestChoice {
	t := TestChoice{ID: p.Test.ID, Title: p.Test.Title, Do: p.Test.Do, Minutes: p.Minutes, Meter: p.Test.Meter, Upload: p.Test.Upload && !p.ByHost, Volts: p.Test.Volts, Act: string(p.Test.Act), Bits: p.Bits}
	for _, b := range p.Branches[:min(len(p.Branches), shownOutcomes)] {
		o := OutcomeChoice{Key: k.x.Key(b.Outcome), Says: f.Sees(b.Outcome), Chance: b.Chance, KHz: k.x.Oscillator(b.Outcome), Causes: []string{}}
		if v, ok := k.x.ViewOf(b.Outcome); ok {
			g := k.glass(v)
			o.Glass = &g
		}
		if found, ok := k.x.Answers(b.Outcome); ok {
			o.Scan = true
			for _, a := range found {
				o.Found = append(o.Found, int(a))
			}
		}
		for _, i := range b.Causes[:min(len(b.Causes), 3)] {
			o.Causes = append(o.Causes, f.Tell(s, r.Causes[i]).What)
		}
		t.Outcomes = append(t.Outcomes, o)
	}
	return t
}

func registerFaults(api huma.API, s *Finders) {
	huma.Register(api, huma.Operation{OperationID: "list-faults", Method: http.MethodPost, Path: "/api/faults", Summary: "List the faults that can be made in a module with its screen", Errors: []int{422}},
		func(_ context.Context, in *struct{ Body testbed.Setup }) (*answer.List[FaultChoice], error) {
			subject, err := run.Subject(&in.Body)
			if err != nil {
				return nil, answer.Invalid(err)
			}
			faults, err := fault.List(subject)
			if err != nil {
				return nil, answer.Refused(err)
			}
			return faultChoices(faults), nil
		})

	huma.Register(api, huma.Operation{OperationID: "list-module-faults", Method: http.MethodPost, Path: "/api/faults/catalogue", Summary: "List the faults that are looked for, and hidden, in a module of a bench", Errors: []int{422}},
		func(_ context.Context, in *struct{ Body FaultyModule }) (*answer.List[FaultChoice], error) {
			k, done, err := s.finder(&in.Body, nil)
			if err != nil {
				return nil, err
			}
			defer done()
			return faultChoices(k.x.Faults), nil
		})

	huma.Register(api, huma.Operation{OperationID: "find-faults", Method: http.MethodPost, Path: "/api/faults/find", Summary: "Find what may be wrong from what is seen, and what to do next", Errors: []int{422}},
		func(_ context.Context, in *struct {
			progress.Watched
			Body FindRequest
		}) (*struct{ Body FindResult }, error) {
			watch, end := s.watches.Follow(&in.Watched)
			defer end()
			k, done, err := s.finder(&in.Body.FaultyModule, watch)
			if err != nil {
				return nil, err
			}
			defer done()
			r, err := k.find(&in.Body)
			if err != nil {
				return nil, err
			}
			return &struct{ Body FindResult }{*r}, nil
		})
}

// Register registers the catalogue of faults, the finder and practice.
func Register(api huma.API, s *Finders) {
	registerFaults(api, s)
	registerPractice(api, s)
}
