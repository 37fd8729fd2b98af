// Package together answers for what several people do on one bench: what is stored reaches all who
// have it open, and each sees where the others are.
package together

import (
	"context"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/sse"

	"slatebell/formats/benchjson"
	"slatebell/server/api/answer"
	"slatebell/server/feed"
	"slatebell/server/room"
	"slatebell/server/store"
)

// beat is how often a page hears that it is still connected.
const beat = 10 * time.Second

// Events of a bench, by the type of what they carry.
type (
	// Renewed is the whole bench, where the revision that a page has is not kept any more.
	Renewed answer.BenchDocument
	// Here is everybody who has the bench open.
	Here struct {
		All []feed.Seen `json:"all" nullable:"false"`
	}
	// Logged tells that the log has changed.
	Logged struct{}
	// Moved tells that the bench went into the bin, or came out of it.
	Moved struct {
		Binned bool `json:"binned"`
	}
	// Beat tells that nothing has happened.
	Beat struct{}
)

// PageRequest says which page asks.
type PageRequest struct {
	answer.BenchPath
	Page string `query:"page" minLength:"1" maxLength:"40" required:"true" doc:"a name that the page gives itself"`
}

type watchRequest struct {
	PageRequest
	Since int `query:"since" minimum:"0" doc:"the revision that the page has"`
	Last  int `header:"Last-Event-ID" doc:"the revision that it had last, where it comes back"`
}

// Register registers what is asked of benches that several people have open.
func Register(api huma.API, s *store.Store, f *feed.Feed) {
	sse.Register(api, huma.Operation{OperationID: "watch-bench", Method: http.MethodGet, Path: "/api/benches/{id}/events", Summary: "What happens on a bench, as it happens",
		Description: "A change carries an RFC 6902 patch from one revision to the next; who comes back with Last-Event-ID, or with the revision that they have, gets what they missed.", Errors: []int{404, 410}},
		map[string]any{"change": feed.Change{}, "renewed": Renewed{}, "here": Here{}, "logged": Logged{}, "moved": Moved{}, "beat": Beat{}},
		func(ctx context.Context, in *watchRequest, send sse.Sender) { watch(ctx, s, f, in, send) })

	huma.Register(api, huma.Operation{OperationID: "be-here", Method: http.MethodPost, Path: "/api/benches/{id}/here", Summary: "Where a page is on a bench that it watches", DefaultStatus: http.StatusNoContent},
		func(ctx context.Context, in *struct {
			PageRequest
			Body feed.Whereabouts
		}) (*struct{}, error) {
			f.At(in.ID, in.Page, room.From(ctx).Name, in.Body)
			return nil, nil
		})
}

func watch(ctx context.Context, s *store.Store, f *feed.Feed, in *watchRequest, send sse.Sender) {
	known := max(in.Since, in.Last)
	w := f.Watch(in.ID, in.Page, room.From(ctx).Name)
	defer w.Leave()
	stream := stream{s: s, bench: in.ID, known: known, send: send}
	if stream.catchUp() != nil {
		return
	}
	ticker := time.NewTicker(beat)
	defer ticker.Stop()
	for {
		select {
		case <-ctx.Done():
			return
		case _, open := <-w.Wake:
			if !open || stream.pass(w.Take(stream.known)) != nil {
				return
			}
		case <-ticker.C:
			if send.Data(Beat{}) != nil {
				return
			}
		}
	}
}

// stream is what one page hears.
type stream struct {
	s     *store.Store
	bench uint
	known int
	send  sse.Sender
}

func (t *stream) pass(n feed.News) error {
	for _, c := range n.Changes {
		if err := t.send(sse.Message{ID: c.Revision, Data: c}); err != nil {
			return err
		}
		t.known = c.Revision
	}
	if n.Behind {
		if err := t.catchUp(); err != nil {
			return err
		}
	}
	if n.Logged {
		if err := t.send.Data(Logged{}); err != nil {
			return err
		}
	}
	if n.Moved {
		_, err := t.s.Get(t.bench)
		if err := t.send.Data(Moved{err != nil}); err != nil {
			return err
		}
	}
	if n.Here != nil {
		return t.send.Data(Here{n.Here})
	}
	return nil
}

// catchUp brings a page from the revision that it knows to what is stored.
func (t *stream) catchUp() error {
	now, err := t.s.Get(t.bench)
	if err != nil {
		return t.send.Data(Moved{true})
	}
	if now.Revision == t.known {
		return nil
	}
	var data any = Renewed(answer.DocumentOf(now))
	if was, err := t.s.State(t.bench, t.known); err == nil {
		if patch, err := benchjson.Diff(&was.Bench, &now.Bench); err == nil {
			data = feed.Change{Revision: now.Revision, From: t.known, Patch: patch}
		}
	}
	if err := t.send(sse.Message{ID: now.Revision, Data: data}); err != nil {
		return err
	}
	t.known = now.Revision
	return nil
}
