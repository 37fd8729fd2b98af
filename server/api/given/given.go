// Package given answers for benches that are given out to the room as copies: how far each is, all of
// them as one archive, and contests in which all look for the same hidden faults.
package given

import (
	"archive/zip"
	"cmp"
	"context"
	"crypto/rand"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"slices"
	"strings"
	"unicode/utf8"

	"github.com/danielgtaylor/huma/v2"

	"slatebell/core/bench"
	"slatebell/core/bench/logbook"
	"slatebell/core/finding"
	"slatebell/core/prove/check"
	"slatebell/core/table/breadboard"
	"slatebell/formats/benchjson"
	"slatebell/server/api/answer"
	"slatebell/server/api/faults"
	"slatebell/server/cache"
	"slatebell/server/feed"
	"slatebell/server/store"
)

// Bounds of what is given out.
const (
	mostCopies  = 60
	longestName = 40 // characters
)

// GivenCopy is a copy of a bench that was given out, and how far it is.
type GivenCopy struct {
	answer.Stored
	To   string `json:"to" doc:"whose it is"`
	Name string `json:"name" doc:"of the copy"`
	Progress
	Rounds []GivenRound `json:"rounds" nullable:"false" doc:"rounds of practice, the first first"`
	Here   []Looker     `json:"here" nullable:"false" doc:"who has it open"`
}

// Progress is how far a bench is, by what stands in it.
type Progress struct {
	Done     int    `json:"done" doc:"steps of the work list that are ticked off"`
	Steps    int    `json:"steps" doc:"of the work list"`
	Lit      int    `json:"lit" doc:"steps of first light that are done"`
	Open     int    `json:"open" doc:"findings that are no notes"`
	Screens  int    `json:"screens" doc:"with a text"`
	Findings string `json:"findings,omitempty" doc:"what the gravest of them says"`
}

// GivenRound is how a round of practice went.
type GivenRound struct {
	logbook.Round
	Text string `json:"text"`
}

// Looker is somebody who has a copy open.
type Looker struct {
	Who  string `json:"who" doc:"name of the device; empty: the desk"`
	View string `json:"view,omitempty"`
}

// GiveRequest gives a bench out.
type GiveRequest struct {
	Names []string `json:"names" nullable:"false" minItems:"1" maxItems:"60" doc:"whose copies they are, 1 to 40 characters each"`
}

// names returns the names in order, each once, or what is wrong with one.
func (g *GiveRequest) names(there []store.Record) ([]string, error) {
	var out []string
	for _, n := range g.Names {
		n = strings.Join(strings.Fields(n), " ")
		if l := utf8.RuneCountInString(n); l == 0 || l > longestName {
			return nil, fmt.Errorf("name %q has %d characters; expected 1 to %d", answer.Cut(n, 50), l, longestName)
		}
		has := func(r store.Record) bool { return r.Given.To == n }
		if slices.Contains(out, n) || slices.ContainsFunc(there, has) {
			return nil, fmt.Errorf("%s has a copy already; names tell copies apart", n)
		}
		out = append(out, n)
	}
	if len(out)+len(there) > mostCopies {
		return nil, fmt.Errorf("%d copies with those that are out; expected at most %d", len(out)+len(there), mostCopies)
	}
	return out, nil
}

// called names a copy, within what a bench's name may have.
func called(bench, to string) string { return answer.Cut(to+": "+bench, 79) }

// progressOf works out how far a bench is.
func progressOf(b *bench.Bench) Progress {
	out := Progress{Lit: len(b.Wiring.Lit)}
	for _, task := range breadboard.Lay(b).Work() {
		out.Steps++
		if task.Done {
			out.Done++
		}
	}
	if found, err := check.Check(b); err == nil {
		for _, f := range found {
			if f.Severity != finding.Note {
				out.Open++
				out.Findings = cmp.Or(out.Findings, f.What)
			}
		}
	}
	for i := range b.Modules {
		for _, screen := range b.Modules[i].Screens {
			if strings.TrimSpace(strings.Join(screen.Rows, "")) != "" {
				out.Screens++
			}
		}
	}
	return out
}

// copies are the benches that were given out. How far each is is worked out once for a revision: whoever gave them out looks
// every few seconds.
type copies struct {
	s    *store.Store
	f    *feed.Feed
	done *cache.Cache[Progress]
}

// one is how far a copy is.
func (c *copies) one(r store.Record, here []feed.Seen) (GivenCopy, error) {
	out := GivenCopy{Stored: answer.StoredOf(r), To: r.Given.To, Name: r.Bench.Name, Rounds: []GivenRound{}, Here: []Looker{}}
	var err error
	out.Progress, err = c.done.Do(fmt.Sprint(r.ID, " ", r.Revision), func() (Progress, int, error) { return progressOf(&r.Bench), 1, nil })
	if err != nil {
		return GivenCopy{}, err
	}
	log, err := c.s.Log(r.ID)
	if err != nil {
		return GivenCopy{}, err
	}
	for _, e := range log {
		if e.Round != nil {
			out.Rounds = append(out.Rounds, GivenRound{*e.Round, e.Text})
		}
	}
	for _, w := range here {
		out.Here = append(out.Here, Looker{w.Who, w.View})
	}
	return out, nil
}

// of lists the copies of a bench.
func (c *copies) of(id uint) (*answer.List[GivenCopy], error) {
	records, err := c.s.Given(id)
	if err != nil {
		return nil, answer.StoreError(err)
	}
	here := c.f.Everybody()
	out := &answer.List[GivenCopy]{Body: []GivenCopy{}}
	for _, r := range records {
		one, err := c.one(r, here[r.ID])
		if err != nil {
			return nil, answer.StoreError(err)
		}
		out.Body = append(out.Body, one)
	}
	return out, nil
}

// archive writes the copies of a bench, each with its log.
func archive(w io.Writer, s *store.Store, records []store.Record) error {
	z := zip.NewWriter(w)
	for i, r := range records {
		log, err := s.FullLog(r.ID)
		if err != nil {
			return err
		}
		file, err := z.Create(fmt.Sprintf("%02d-%s.bench.json", i+1, answer.FileName(r.Given.To)))
		if err != nil {
			return err
		}
		if err := benchjson.WriteArchive(file, &bench.Archive{Bench: r.Bench, Log: log}); err != nil {
			return err
		}
	}
	return z.Close()
}

// contests keeps the contests of benches among the store's settings.
type contests struct{ s *store.Store }

func setting(id uint) string { return fmt.Sprintf("contest of bench %d", id) }

// of finds the contest of a bench, or of the bench that it is a copy of; where there is none it is refused.
func (c contests) of(id uint) (*faults.Contest, error) {
	found, err := c.find(id)
	if err == nil && found == nil {
		err = huma.Error404NotFound("no contest was begun for this bench; who gave it out begins one")
	}
	return found, err
}

// find finds the contest of a bench, or of the bench that it is a copy of; nil where there is none.
func (c contests) find(id uint) (*faults.Contest, error) {
	r, err := c.s.Get(id)
	if err != nil {
		return nil, answer.StoreError(err)
	}
	text, err := c.s.Setting(setting(cmp.Or(r.Given.From, id)))
	if err != nil {
		return nil, answer.StoreError(err)
	}
	if text == "" {
		return nil, nil
	}
	out := &faults.Contest{}
	if err := json.Unmarshal([]byte(text), out); err != nil {
		return nil, fmt.Errorf("reading a contest: %w", err)
	}
	return out, nil
}

// begin keeps a contest with a seed of its own.
func (c contests) begin(id uint, of *faults.Contest) error {
	if err := of.Bench.Validate(); err != nil {
		return answer.Invalid(err)
	}
	if _, err := answer.Module(&of.Bench, of.Module); err != nil {
		return err
	}
	of.Seed = rand.Text()
	text, err := json.Marshal(of)
	if err != nil {
		return err
	}
	return answer.StoreError(c.s.Keep(setting(id), string(text)))
}

// ContestState is a contest as those who play see it.
type ContestState struct {
	Begun   bool            `json:"begun"`
	Contest *faults.Contest `json:"contest,omitempty" doc:"without its seed"`
}

// Register registers what is asked of benches that are given out. It returns how contests are found.
func Register(api huma.API, s *store.Store, f *feed.Feed) func(bench uint) (*faults.Contest, error) {
	c := contests{s}
	given := &copies{s, f, cache.New[Progress](4 * mostCopies)}
	op := func(id, method, path, summary string, errors ...int) huma.Operation {
		return huma.Operation{OperationID: id, Method: method, Path: "/api/benches/{id}/" + path, Summary: summary, Errors: errors}
	}
	huma.Register(api, op("give-out", http.MethodPost, "given", "Give a bench out: a copy for each name", 404, 410, 422), func(_ context.Context, in *struct {
		answer.BenchPath
		Body GiveRequest
	}) (*answer.List[GivenCopy], error) {
		there, err := s.Given(in.ID)
		if err != nil {
			return nil, answer.StoreError(err)
		}
		names, err := in.Body.names(there)
		if err != nil {
			return nil, answer.Refused(err)
		}
		if _, err := s.Give(in.ID, names, called); err != nil {
			return nil, answer.StoreError(err)
		}
		return given.of(in.ID)
	})
	huma.Register(api, op("list-given", http.MethodGet, "given", "How far the copies of a bench are"), func(_ context.Context, in *answer.BenchPath) (*answer.List[GivenCopy], error) {
		return given.of(in.ID)
	})
	huma.Register(api, op("collect-given", http.MethodGet, "given.zip", "All copies of a bench as one archive", 404, 410), func(_ context.Context, in *answer.BenchPath) (*answer.Download, error) {
		of, err := s.Get(in.ID)
		if err != nil {
			return nil, answer.StoreError(err)
		}
		records, err := s.Given(in.ID)
		if err != nil {
			return nil, answer.StoreError(err)
		}
		return answer.File("application/zip", answer.FileName(of.Bench.Name)+"-copies.zip", func(w io.Writer) error { return archive(w, s, records) }), nil
	})
	huma.Register(api, op("get-contest", http.MethodGet, "contest", "The contest of a bench, or of the one that it is a copy of", 404, 410), func(_ context.Context, in *answer.BenchPath) (*answer.Body[ContestState], error) {
		found, err := c.find(in.ID)
		if err != nil {
			return nil, err
		}
		if found == nil {
			return &answer.Body[ContestState]{}, nil
		}
		found.Seed = ""
		return &answer.Body[ContestState]{Body: ContestState{true, found}}, nil
	})
	huma.Register(api, op("begin-contest", http.MethodPut, "contest", "Begin a contest, in place of the one before", 404, 410, 422), func(_ context.Context, in *struct {
		answer.BenchPath
		Body faults.Contest
	}) (*answer.Body[ContestState], error) {
		if _, err := s.Get(in.ID); err != nil {
			return nil, answer.StoreError(err)
		}
		if err := c.begin(in.ID, &in.Body); err != nil {
			return nil, err
		}
		in.Body.Seed = ""
		return &answer.Body[ContestState]{Body: ContestState{true, &in.Body}}, nil
	})
	huma.Register(api, op("end-contest", http.MethodDelete, "contest", "End a contest"), func(_ context.Context, in *answer.BenchPath) (*struct{}, error) {
		return nil, answer.StoreError(s.Keep(setting(in.ID), ""))
	})
	return c.of
}
