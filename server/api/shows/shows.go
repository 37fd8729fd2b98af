// Package shows answers for shows: it plays them, judges them, reads and writes what happens to their
// inputs, and reckons the electrics of those.
package shows

import (
	"context"
	"fmt"
	"net/http"
	"slices"
	"strconv"
	"sync"
	"sync/atomic"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"slatebell/core/bench"
	"slatebell/core/bench/show"
	"slatebell/core/finding"
	"slatebell/core/part/charrom"
	"slatebell/core/ship/firmware"
	"slatebell/core/ship/play"
	"slatebell/core/table/breadboard"
	"slatebell/core/table/pinout"
	"slatebell/core/table/touch"
	"slatebell/formats/eventcsv"
	"slatebell/server/api/answer"
	"slatebell/server/api/progress"
	"slatebell/server/cache"
)

// PlayRequest begins the shows of modules.
type PlayRequest struct {
	Bench   bench.Bench `json:"bench"`
	Modules []int       `json:"modules" minItems:"1" maxItems:"16" nullable:"false" doc:"indexes"`
	Events  []PlayEvent `json:"events,omitempty" nullable:"false" maxItems:"100000" doc:"what has happened before, in the order of its times"`
	UntilMs int64       `json:"untilMs,omitempty" minimum:"0" maximum:"3600000" doc:"up to when they are played at once: a millisecond at least, so that the first glass is there"`
}

// PlayEvent is what happens to an input.
type PlayEvent struct {
	AtMs   int64   `json:"atMs" minimum:"0" maximum:"3600000" doc:"since the shows began; what would lie in the past happens now"`
	Input  string  `json:"input" maxLength:"40" doc:"id"`
	Module string  `json:"module,omitempty" maxLength:"40" doc:"id; absent: every module that is played and has such an input"`
	Value  float64 `json:"value,omitempty" doc:"button: 1 pressed, 0 let go; counter: steps; signal: its value"`
	Text   string  `json:"text,omitempty" maxLength:"1000" doc:"serial: the text that begins to come, with the escapes \\n, \\r, \\f, \\t, \\\\ and \\xHH"`
}

// PlayOn goes on with shows that were begun.
type PlayOn struct {
	Events     []PlayEvent `json:"events,omitempty" nullable:"false" maxItems:"1000"`
	UntilMs    int64       `json:"untilMs" minimum:"0" maximum:"3600000" doc:"up to when"`
	Step       bool        `json:"step,omitempty" doc:"up to the next change that is sent, but not beyond untilMs"`
	ForecastMs int64       `json:"forecastMs,omitempty" minimum:"0" maximum:"3600000" doc:"tell the scenes that come up to then if nothing happens"`
}

// Plays keeps the shows that were begun last. Make it with NewPlays.
type Plays struct {
	next    atomic.Int64
	kept    *cache.Cache[*playing]
	watches *progress.Watches
}

// New returns an empty Plays, which tells watches how far a judgement has come.
func New(w *progress.Watches) *Plays { return &Plays{kept: cache.New[*playing](MaxPlays), watches: w} }

// Rest lets go of all shows.
func (k *Plays) Rest() { k.kept.Shrink(0) }

// MaxPlays is how many shows are kept; the longest unused goes.
const MaxPlays = 6

// playing is shows that are under way.
type playing struct {
	mu      sync.Mutex
	id      string
	bench   *bench.Bench
	modules []int
	shows   []*show.Show
	roms    []*charrom.ROM
	live    *play.Live
	lines   map[[2]int]time.Duration // until when the serial lines of parts are taken
	wired   []map[int]touch.Line     // of each part, its inputs as they lie on the table
}

// longestPlay is how far shows are played, in milliseconds.
const longestPlay = 3_600_000

// playable is a bench with all pins given, once it is valid and has the modules.
func playable(b *bench.Bench, modules ...int) (*bench.Bench, error) {
	if err := b.Validate(); err != nil {
		return nil, answer.Invalid(err)
	}
	for _, at := range modules {
		if at < 0 || at >= len(b.Modules) {
			return nil, huma.Error422UnprocessableEntity("no such module on this bench")
		}
	}
	pinned := pinout.Pinned(b)
	return &pinned, nil
}

// begin begins shows, and takes in what has happened.
func (r *PlayRequest) begin() (*playing, error) {
	pinned, err := playable(&r.Bench, r.Modules...)
	if err != nil {
		return nil, err
	}
	p := &playing{bench: pinned, modules: r.Modules, lines: map[[2]int]time.Duration{}}
	var parts []play.Track
	var table *breadboard.Table
	if breadboard.Laid(pinned) {
		table = breadboard.Lay(pinned)
	}
	for _, at := range r.Modules {
		im, err := firmware.New(pinned, at)
		if err != nil {
			return nil, answer.Invalid(err)
		}
		p.shows, p.roms = append(p.shows, im.Modules[0].Show), append(p.roms, im.Modules[0].Display.ROM)
		part := play.Track{Module: &im.Modules[0]}
		if table != nil {
			part.Lines = table.Lines(at)
		}
		p.wired = append(p.wired, part.Lines)
		parts = append(parts, part)
	}
	if p.live, err = play.Begin(parts); err != nil {
		return nil, answer.Invalid(err)
	}
	return p, p.happens(r.Events)
}

// happens takes in events.
func (p *playing) happens(events []PlayEvent) error {
	for i := range events {
		e := &events[i]
		there := false
		for part, at := range p.modules {
			m := &p.bench.Modules[at]
			input, ok := e.of(m)
			if !ok {
				continue
			}
			there = true
			if err := p.happen(part, input, &m.Show.Inputs[input], e); err != nil {
				return err
			}
		}
		if !there {
			return huma.Error422UnprocessableEntity(fmt.Sprintf("event %d: there is no input %q on the modules that are played", i+1, e.Input))
		}
	}
	return nil
}

func (p *playing) happen(part, input int, in *bench.Input, e *PlayEvent) error {
	line := [2]int{part, input}
	begins := max(time.Duration(max(e.AtMs, p.live.Now()))*time.Millisecond, p.lines[line])
	list, err := e.events(in, input, begins)
	for _, one := range list {
		p.live.Happens(part, one)
		p.lines[line] = one.Moment()
	}
	return err
}

// of is the input of a module that an event is for; false where it is for another's.
func (e *PlayEvent) of(m *bench.Module) (input int, ok bool) {
	input = slices.IndexFunc(m.Show.Inputs, func(in bench.Input) bool { return in.ID == e.Input })
	return input, input >= 0 && (e.Module == "" || e.Module == m.ID)
}

// events are what happens to an input; a text of a serial line begins to come at a time.
func (e *PlayEvent) events(in *bench.Input, input int, begins time.Duration) ([]show.Event, error) {
	if in.Kind != string(show.Serial) {
		return []show.Event{{At: e.AtMs, Input: input, Value: show.Units(e.Value, in.Signal.Decimals)}}, nil
	}
	text, err := eventcsv.Unescape(e.Text)
	if err != nil {
		return nil, answer.Refused(err)
	}
	return show.Typed(in, input, begins, text), nil
}

// on goes on, and tells what became of the shows.
func (p *playing) on(r *PlayOn) (*Played, error) {
	p.mu.Lock()
	defer p.mu.Unlock()
	if err := p.happens(r.Events); err != nil {
		return nil, err
	}
	var list []play.Playing
	if r.Step {
		list = p.live.Step(r.UntilMs)
	} else {
		list = p.live.Until(max(r.UntilMs, p.live.Now()))
	}
	out := &Played{ID: p.id, NowMs: p.live.Now()}
	for i := range list {
		part := p.part(i, &list[i])
		if r.ForecastMs > 0 {
			part.Forecast = scenes(p.live.Forecast(i, r.ForecastMs))
		}
		out.Parts = append(out.Parts, part)
	}
	return out, nil
}

// JudgeRequest asks where a module's show falls behind, and what would help.
type JudgeRequest struct {
	Bench   bench.Bench `json:"bench"`
	Module  int         `json:"module" minimum:"0" doc:"index"`
	Events  []PlayEvent `json:"events,omitempty" nullable:"false" maxItems:"100000"`
	UntilMs int64       `json:"untilMs" minimum:"0" maximum:"600000"`
}

// PlayJudgement is what was found.
type PlayJudgement struct {
	Findings []finding.Finding `json:"findings" nullable:"false"`
}

func (r *JudgeRequest) judge(watch func(done, of int)) (*PlayJudgement, error) {
	b, err := playable(&r.Bench, r.Module)
	if err != nil {
		return nil, err
	}
	var events []show.Event
	m := &b.Modules[r.Module]
	for i := range r.Events {
		e := &r.Events[i]
		input, ok := e.of(m)
		if !ok {
			continue
		}
		list, err := e.events(&m.Show.Inputs[input], input, time.Duration(e.AtMs)*time.Millisecond)
		if err != nil {
			return nil, err
		}
		events = append(events, list...)
	}
	slices.SortStableFunc(events, func(a, b show.Event) int { return int(a.Moment() - b.Moment()) })
	found, err := play.Judge(b, r.Module, events, r.UntilMs, watch)
	if err != nil {
		return nil, answer.Invalid(err)
	}
	return &PlayJudgement{append([]finding.Finding{}, found...)}, nil
}

func registerPlays(api huma.API, k *Plays) {
	post := func(id, path, summary string, errors ...int) huma.Operation {
		return huma.Operation{OperationID: id, Method: http.MethodPost, Path: path, Summary: summary, Errors: append(errors, 422)}
	}
	huma.Register(api, post("begin-play", "/api/plays", "Begin the shows of modules on one host"), answer.Answered(func(r *PlayRequest) (*Played, error) {
		p, err := r.begin()
		if err != nil {
			return nil, err
		}
		p.id = strconv.FormatInt(k.next.Add(1), 10)
		k.kept.Put(p.id, p, 1)
		out, err := p.on(&PlayOn{UntilMs: max(r.UntilMs, 1), ForecastMs: min(r.UntilMs+60_000, longestPlay)})
		if err != nil {
			return nil, err
		}
		for i, at := range r.Modules {
			out.Parts[i].Findings = append([]finding.Finding{}, show.Check(&r.Bench, at)...)
		}
		return out, nil
	}))
	huma.Register(api, post("play-on", "/api/plays/{id}", "Go on with shows that were begun", 404), func(_ context.Context, in *struct {
		ID   string `path:"id" maxLength:"20"`
		Body PlayOn
	}) (*answer.Body[Played], error) {
		p, ok := k.kept.Get(in.ID)
		if !ok {
			return nil, huma.Error404NotFound("these shows are not kept any more; begin them again with what has happened")
		}
		out, err := p.on(&in.Body)
		if err != nil {
			return nil, err
		}
		return &answer.Body[Played]{Body: *out}, nil
	})
	huma.Register(api, post("edit-show", "/api/plays/edits", "The change that adds a scene or an input to a show, or takes one away with all that names it"), answer.Answered((*EditRequest).edit))
	huma.Register(api, post("change-events", "/api/events", "Read what happened to inputs from a file, or write it"), answer.Answered((*EventFile).change))
	huma.Register(api, post("judge-play", "/api/plays/judge", "Say where a show falls behind, and play what would help"), func(_ context.Context, in *struct {
		progress.Watched
		Body JudgeRequest
	}) (*answer.Body[PlayJudgement], error) {
		watch, end := k.watches.Follow(&in.Watched)
		defer end()
		out, err := in.Body.judge(func(done, of int) { watch.Tell("Playing what might help", done, of) })
		if err != nil {
			return nil, err
		}
		return &answer.Body[PlayJudgement]{Body: *out}, nil
	})
}

// Register registers shows that are played, and the electrics of their inputs.
func Register(api huma.API, k *Plays) {
	registerPlays(api, k)
	registerFall(api)
}
