// Package log answers for what was written down at a bench.
package log

import (
	"bytes"
	"context"
	"errors"
	"io"
	"net/http"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"slatebell/core/bench/logbook"
	"slatebell/formats/logtext"
	"slatebell/server/api/answer"
	"slatebell/server/store"
)

// Log is what was written down at a bench.
type Log struct {
	Entries []logbook.Entry `json:"entries" nullable:"false" doc:"the newest first"`
	Total   int             `json:"total" doc:"entries of the whole log"`
	Counts  map[string]int  `json:"counts" doc:"how often each cause was found at any bench, since the last entry that begins anew; these move the ranking of causes"`
}

// LogQuery chooses entries.
type LogQuery struct {
	Kinds  string `query:"kinds" maxLength:"200" doc:"kinds with commas between them; absent: all"`
	Module string `query:"module" maxLength:"40" doc:"id; absent: any"`
	Text   string `query:"text" maxLength:"200" doc:"words that stand in an entry"`
	From   string `query:"from" maxLength:"40" doc:"RFC 3339; absent: from the beginning"`
	To     string `query:"to" maxLength:"40" doc:"RFC 3339"`
}

// query reads what is asked for.
func (q *LogQuery) query() (out logbook.Query, err error) {
	for _, k := range strings.Split(q.Kinds, ",") {
		if k != "" {
			out.Kinds = append(out.Kinds, logbook.EntryKind(k))
		}
	}
	out.Module, out.Text = q.Module, q.Text
	for _, t := range []struct {
		text string
		to   *time.Time
	}{{q.From, &out.From}, {q.To, &out.To}} {
		if t.text == "" {
			continue
		}
		if *t.to, err = time.Parse(time.RFC3339, t.text); err != nil {
			return out, huma.Error422UnprocessableEntity("time " + t.text + "; expected such as 2026-05-01T14:05:00Z")
		}
	}
	return out, nil
}

// EntryPath names an entry of a bench's log.
type EntryPath struct {
	answer.BenchPath
	Entry uint `path:"entry"`
}

// logError turns the store's errors about entries into problem details.
func logError(err error) error {
	var trouble *store.Trouble
	switch {
	case err == nil:
		return nil
	case errors.Is(err, store.ErrNoEntry):
		return huma.Error404NotFound("the log has no such entry")
	case errors.Is(err, store.ErrNotFound), errors.Is(err, store.ErrBinned), errors.As(err, &trouble):
		return answer.StoreError(err)
	}
	return answer.Refused(err)
}

// selected reads the entries of a bench that are asked for.
func selected(s *store.Store, id uint, q *LogQuery) (all, some []logbook.Entry, err error) {
	query, err := q.query()
	if err != nil {
		return nil, nil, err
	}
	if all, err = s.Log(id); err != nil {
		return nil, nil, logError(err)
	}
	return all, logbook.Select(all, query), nil
}

type oneEntry struct{ Body logbook.Entry }

func Register(api huma.API, s *store.Store) {
	huma.Register(api, huma.Operation{OperationID: "get-log", Method: http.MethodGet, Path: "/api/benches/{id}/log", Summary: "What was written down at a bench", Errors: []int{404, 410, 422}},
		func(_ context.Context, in *struct {
			answer.BenchPath
			LogQuery
		}) (*struct{ Body Log }, error) {
			all, some, err := selected(s, in.ID, &in.LogQuery)
			if err != nil {
				return nil, err
			}
			causes, err := s.Causes()
			return &struct{ Body Log }{Log{some, len(all), logbook.Counts(causes)}}, err
		})

	huma.Register(api, huma.Operation{OperationID: "add-entry", Method: http.MethodPost, Path: "/api/benches/{id}/log", Summary: "Write an entry into the log", DefaultStatus: http.StatusCreated, Errors: []int{404, 410, 422}},
		func(_ context.Context, in *struct {
			answer.BenchPath
			Body logbook.Entry
		}) (*oneEntry, error) {
			e, err := s.Note(in.ID, in.Body)
			return &oneEntry{e}, logError(err)
		})

	huma.Register(api, huma.Operation{OperationID: "reword-entry", Method: http.MethodPatch, Path: "/api/benches/{id}/log/{entry}", Summary: "Change the text of an entry", Errors: []int{404, 422}},
		func(_ context.Context, in *struct {
			EntryPath
			Body struct {
				Text string `json:"text" maxLength:"4000"`
			}
		}) (*oneEntry, error) {
			e, err := s.Reword(in.ID, in.Entry, in.Body.Text)
			return &oneEntry{e}, logError(err)
		})

	huma.Register(api, huma.Operation{OperationID: "strike-entry", Method: http.MethodDelete, Path: "/api/benches/{id}/log/{entry}", Summary: "Delete an entry with its pictures", DefaultStatus: http.StatusNoContent, Errors: []int{404}},
		func(_ context.Context, in *EntryPath) (*struct{}, error) {
			return nil, logError(s.Strike(in.ID, in.Entry))
		})

	huma.Register(api, huma.Operation{OperationID: "get-picture", Method: http.MethodGet, Path: "/api/benches/{id}/log/{entry}/pictures/{n}", Summary: "A picture of an entry", Errors: []int{404}},
		func(_ context.Context, in *struct {
			EntryPath
			N int `path:"n" minimum:"0" maximum:"3"`
		}) (*huma.StreamResponse, error) {
			p, err := s.Picture(in.ID, in.Entry, in.N)
			if err != nil {
				return nil, logError(err)
			}
			return &huma.StreamResponse{Body: func(ctx huma.Context) {
				ctx.SetHeader("Content-Type", p.Type)
				ctx.BodyWriter().Write(p.Data) // the connection is gone where this fails
			}}, nil
		})

	for _, f := range []struct {
		ending, kind string
		write        func(io.Writer, string, []logbook.Entry) error
	}{
		{"csv", "text/csv; charset=utf-8; header=present", func(w io.Writer, _ string, list []logbook.Entry) error { return logtext.WriteCSV(w, list) }},
		{"md", "text/markdown; charset=utf-8", logtext.WriteMarkdown},
	} {
		huma.Register(api, huma.Operation{OperationID: "get-log-" + f.ending, Method: http.MethodGet, Path: "/api/benches/{id}/log." + f.ending, Summary: "The log as " + f.ending, Errors: []int{404, 410, 422}},
			func(_ context.Context, in *struct {
				answer.BenchPath
				LogQuery
			}) (*huma.StreamResponse, error) {
				_, some, err := selected(s, in.ID, &in.LogQuery)
				if err != nil {
					return nil, err
				}
				r, err := s.Get(in.ID)
				if err != nil {
					return nil, answer.StoreError(err)
				}
				var text bytes.Buffer
				if err := f.write(&text, r.Bench.Name, some); err != nil {
					return nil, err
				}
				return answer.Attachment(f.kind, answer.FileName(r.Bench.Name)+".log."+f.ending, text.Bytes()), nil
			})
	}
}
