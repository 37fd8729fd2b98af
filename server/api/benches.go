package api

import (
	"context"
	"net/http"
	"reflect"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"slatebell/core/bench"
	"slatebell/server/store"
)

// BenchDocument is a stored bench with its revision.
type BenchDocument struct {
	ID       uint        `json:"id"`
	Revision int         `json:"revision" doc:"goes up by one with every change"`
	Updated  time.Time   `json:"updated"`
	Bench    bench.Bench `json:"bench"`
}

func document(r store.Record) BenchDocument {
	return BenchDocument{ID: r.ID, Revision: r.Revision, Updated: r.Updated, Bench: r.Bench}
}

// Summary is a bench as the list shows it.
type Summary struct {
	ID       uint      `json:"id"`
	Name     string    `json:"name"`
	Revision int       `json:"revision"`
	Updated  time.Time `json:"updated"`
	Modules  int       `json:"modules"`
}

// Conflict is the answer to a write against an older revision: problem details
// with the newer document.
type Conflict struct {
	huma.ErrorModel
	Current BenchDocument `json:"current" doc:"what is stored"`
}

func newConflict(stale *store.StaleError) *Conflict {
	return &Conflict{
		ErrorModel: huma.ErrorModel{Status: http.StatusConflict, Title: http.StatusText(http.StatusConflict), Detail: stale.Error() + "; nothing was overwritten"},
		Current:    document(stale.Current),
	}
}

type one struct{ Body BenchDocument }

// BenchPath is the path parameter that names a bench.
type BenchPath struct {
	ID uint `path:"id"`
}

func (s *Server) registerBenches(api huma.API) {
	huma.Register(api, huma.Operation{OperationID: "list-benches", Method: http.MethodGet, Path: "/api/benches", Summary: "List the benches, the last changed first"},
		func(context.Context, *struct{}) (*list[Summary], error) {
			records, err := s.store.List()
			if err != nil {
				return nil, storeError(err)
			}
			out := &list[Summary]{Body: make([]Summary, len(records))}
			for i, r := range records {
				out.Body[i] = Summary{r.ID, r.Bench.Name, r.Revision, r.Updated, len(r.Bench.Modules)}
			}
			return out, nil
		})

	huma.Register(api, huma.Operation{OperationID: "get-bench", Method: http.MethodGet, Path: "/api/benches/{id}", Summary: "Read a bench", Errors: []int{404}},
		func(_ context.Context, in *BenchPath) (*one, error) {
			r, err := s.store.Get(in.ID)
			return &one{document(r)}, storeError(err)
		})

	huma.Register(api, huma.Operation{OperationID: "create-bench", Method: http.MethodPost, Path: "/api/benches", Summary: "Store a new bench", DefaultStatus: http.StatusCreated, Errors: []int{422}, MaxBodyBytes: maxBody},
		func(_ context.Context, in *struct{ Body bench.Bench }) (*one, error) {
			if err := in.Body.Validate(); err != nil {
				return nil, invalid(err)
			}
			r, err := s.store.Create(in.Body)
			return &one{document(r)}, storeError(err)
		})

	huma.Register(api, huma.Operation{OperationID: "update-bench", Method: http.MethodPut, Path: "/api/benches/{id}", Summary: "Store a changed bench",
		Description: "The change is made against a revision. Where another one is stored, the answer is 409 with the stored document, and nothing is overwritten.",
		Responses:   map[string]*huma.Response{"409": conflictResponse(api)}, Errors: []int{404, 422}, MaxBodyBytes: maxBody},
		func(_ context.Context, in *struct {
			BenchPath
			Body struct {
				Revision int         `json:"revision" doc:"the revision the change was made against"`
				Bench    bench.Bench `json:"bench"`
			}
		}) (*one, error) {
			if err := in.Body.Bench.Validate(); err != nil {
				return nil, invalid(err)
			}
			r, err := s.store.Update(in.ID, in.Body.Revision, in.Body.Bench)
			return &one{document(r)}, storeError(err)
		})
}

func conflictResponse(api huma.API) *huma.Response {
	schema := huma.SchemaFromType(api.OpenAPI().Components.Schemas, reflect.TypeFor[Conflict]())
	return &huma.Response{Description: "Another revision is stored", Content: map[string]*huma.MediaType{"application/problem+json": {Schema: schema}}}
}
