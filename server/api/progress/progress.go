// Package progress tells how far a request has come that takes long.
package progress

import (
	"context"
	"net/http"
	"sync"

	"github.com/danielgtaylor/huma/v2"

	"slatebell/core/prove/fault"
	"slatebell/server/api/answer"
)

// Watched is how an operation is followed that takes long: whoever asks chooses a name, sends it
// in a header, and asks for its progress until the answer is there.
type Watched struct {
	Watch string `header:"Watch" maxLength:"40" doc:"name under which the progress of this request can be asked for"`
}

// Progress is how far a request has come.
type Progress struct {
	Doing string `json:"doing" doc:"what is being done; empty: it has not begun, or is done"`
	Done  int    `json:"done"`
	Of    int    `json:"of" doc:"how many have to be"`
}

// Watches keeps the progress of requests that are followed.
type Watches struct {
	mu   sync.Mutex
	kept map[string]Progress
}

// Follow returns what is to be told of a request's progress, and what ends it; nothing is kept
// of a request that nobody follows.
func (w *Watches) Follow(r *Watched) (tell fault.Watch, end func()) {
	if r.Watch == "" {
		return nil, func() {}
	}
	tell = func(doing string, done, of int) {
		w.mu.Lock()
		defer w.mu.Unlock()
		if w.kept == nil {
			w.kept = map[string]Progress{}
		}
		w.kept[r.Watch] = Progress{doing, done, of}
	}
	return tell, func() {
		w.mu.Lock()
		defer w.mu.Unlock()
		delete(w.kept, r.Watch)
	}
}

func Register(api huma.API, w *Watches) {
	huma.Register(api, huma.Operation{OperationID: "get-progress", Method: http.MethodGet, Path: "/api/progress/{watch}", Summary: "Tell how far a request has come that is followed"},
		func(_ context.Context, in *struct {
			Watch string `path:"watch" maxLength:"40"`
		}) (*answer.Body[Progress], error) {
			w.mu.Lock()
			defer w.mu.Unlock()
			return &answer.Body[Progress]{Body: w.kept[in.Watch]}, nil
		})
}
