package benches

import (
	"context"
	"fmt"
	"io"
	"net/http"
	"os"
	"path/filepath"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"slatebell/server/api/answer"
	"slatebell/server/store"
)

// registerBin adds what is done with benches that are taken away, and with all
// of them at once.
func registerBin(api huma.API, s *store.Store) {
	huma.Register(api, huma.Operation{OperationID: "discard-bench", Method: http.MethodDelete, Path: "/api/benches/{id}", Summary: "Put a bench into the bin", DefaultStatus: http.StatusNoContent, Errors: []int{404}},
		func(_ context.Context, in *answer.BenchPath) (*struct{}, error) {
			return nil, answer.StoreError(s.Discard(in.ID))
		})

	huma.Register(api, huma.Operation{OperationID: "restore-bench", Method: http.MethodPost, Path: "/api/benches/{id}/restore", Summary: "Take a bench out of the bin", Errors: []int{404}},
		func(_ context.Context, in *answer.BenchPath) (*one, error) {
			if err := s.Restore(in.ID); err != nil {
				return nil, answer.StoreError(err)
			}
			return newOne(s.Get(in.ID))
		})

	huma.Register(api, huma.Operation{OperationID: "list-bin", Method: http.MethodGet, Path: "/api/bin", Summary: "List the benches in the bin, the last put there first"},
		func(context.Context, *struct{}) (*answer.List[Summary], error) { return summaries(s.Bin()) })

	type emptied struct {
		Body struct {
			Deleted int `json:"deleted" doc:"how many benches are gone for good"`
		}
	}
	huma.Register(api, huma.Operation{OperationID: "empty-bin", Method: http.MethodDelete, Path: "/api/bin", Summary: "Delete what is in the bin for good"},
		func(context.Context, *struct{}) (*emptied, error) {
			n, err := s.EmptyBin()
			out := &emptied{}
			out.Body.Deleted = n
			return out, answer.StoreError(err)
		})

	huma.Register(api, huma.Operation{OperationID: "get-backup", Method: http.MethodGet, Path: "/api/backup", Summary: "A copy of the whole database"},
		func(context.Context, *struct{}) (*huma.StreamResponse, error) {
			copied, err := backup(s)
			if err != nil {
				return nil, answer.StoreError(err)
			}
			return &huma.StreamResponse{Body: func(ctx huma.Context) {
				defer copied.Close()
				name := time.Now().Format("slatebell-2006-01-02-1504.db")
				ctx.SetHeader("Content-Type", "application/vnd.sqlite3")
				ctx.SetHeader("Content-Disposition", `attachment; filename="`+name+`"`)
				io.Copy(ctx.BodyWriter(), copied) // the connection is gone where this fails
			}}, nil
		})
}

// backup returns a copy of the database in a file that is gone once it is
// closed.
func backup(s *store.Store) (*os.File, error) {
	dir, err := os.MkdirTemp("", "slatebell-backup")
	if err != nil {
		return nil, fmt.Errorf("making a place for the copy: %w", err)
	}
	defer os.RemoveAll(dir) // an open file stays readable
	name := filepath.Join(dir, store.FileName)
	if err := s.Backup(name); err != nil {
		return nil, err
	}
	return os.Open(name)
}
