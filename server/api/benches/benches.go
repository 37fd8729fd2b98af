// Package benches answers for stored benches: the shelf and its bin, changes with their revisions,
// earlier states, import and export.
package benches

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"net/http"
	"reflect"
	"strconv"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"slatebell/core/bench"
	"slatebell/core/finding"
	"slatebell/core/part/module"
	"slatebell/core/prove/check"
	"slatebell/core/prove/run"
	"slatebell/core/prove/testbed"
	"slatebell/core/table/setup"
	"slatebell/formats/benchjson"
	"slatebell/server/api/answer"
	"slatebell/server/api/facts"
	"slatebell/server/builds"
	"slatebell/server/demo"
	"slatebell/server/room"
	"slatebell/server/store"
)

// Summary is a bench as the list shows it.
type Summary struct {
	answer.Stored
	Name    string       `json:"name"`
	Modules []Silhouette `json:"modules" nullable:"false"`
	Binned  *time.Time   `json:"binned,omitempty" doc:"when it was put into the bin; absent outside of it"`
}

// Silhouette is enough of a module to draw its outline.
type Silhouette struct {
	Name string `json:"name"`
	Cols int    `json:"cols"`
	Rows int    `json:"rows"`
	Tint string `json:"tint,omitempty"`
}

func summary(r store.Record) Summary {
	out := Summary{Stored: answer.StoredOf(r), Name: r.Bench.Name, Binned: r.Binned, Modules: make([]Silhouette, len(r.Bench.Modules))}
	for i := range r.Bench.Modules {
		m := &r.Bench.Modules[i]
		g, _ := module.ParseGeometry(m.Display.Geometry) // it was checked when it was stored
		out.Modules[i] = Silhouette{m.Name, g.Cols, g.Rows, m.Display.Tint}
	}
	return out
}

func summaries(records []store.Record, err error) (*answer.List[Summary], error) {
	if err != nil {
		return nil, answer.StoreError(err)
	}
	out := &answer.List[Summary]{Body: make([]Summary, len(records))}
	for i, r := range records {
		out.Body[i] = summary(r)
	}
	return out, nil
}

// one is the answer that is a bench; its ETag is its revision.
type one struct {
	ETag string `header:"ETag" doc:"the revision in quotes, for If-Match"`
	Body answer.BenchDocument
}

func newOne(r store.Record, err error) (*one, error) {
	return &one{etag(r.Revision), answer.DocumentOf(r)}, answer.StoreError(err)
}

func etag(revision int) string { return strconv.Quote(strconv.Itoa(revision)) }

// revisionOf reads an If-Match header.
func revisionOf(match string) (int, error) {
	if match == "" {
		return 0, huma.NewError(http.StatusPreconditionRequired, `a patch is made against a revision; name it in a header such as If-Match: "3"`)
	}
	n, err := strconv.Atoi(strings.Trim(strings.TrimPrefix(match, "W/"), `"`))
	if err != nil || n < 1 {
		return 0, huma.Error400BadRequest(fmt.Sprintf("If-Match: %.40s; expected the revision in quotes, such as \"3\"", match))
	}
	return n, nil
}

// Patched says at which revision a changed bench is stored.
type Patched struct {
	answer.Stored
	Rest finding.Patch `json:"rest,omitempty" nullable:"false" doc:"brings whoever made the change from what they have to what is stored; absent: it is the same"`
}

// StateFacts is a state of a bench that is kept.
type StateFacts struct {
	Revision int       `json:"revision"`
	At       time.Time `json:"at"`
	What     string    `json:"what" doc:"what was changed"`
	By       string    `json:"by,omitempty" doc:"name of the device that changed it; absent: the desk"`
}

// StateDocument is a bench as it stood, and what differs in it from how it stands now.
type StateDocument struct {
	answer.BenchDocument
	Differs []string `json:"differs" nullable:"false"`
}

// StateAnswer carries a state.
type StateAnswer struct{ Body StateDocument }

func registerBenches(api huma.API, s *store.Store) {
	conflict := map[string]*huma.Response{"409": conflictResponse(api)}

	huma.Register(api, huma.Operation{OperationID: "list-benches", Method: http.MethodGet, Path: "/api/benches", Summary: "List the benches, the last changed first"},
		func(context.Context, *struct{}) (*answer.List[Summary], error) { return summaries(s.List()) })

	huma.Register(api, huma.Operation{OperationID: "get-bench", Method: http.MethodGet, Path: "/api/benches/{id}", Summary: "Read a bench", Errors: []int{404, 410}},
		func(_ context.Context, in *answer.BenchPath) (*one, error) { return newOne(s.Get(in.ID)) })

	huma.Register(api, huma.Operation{OperationID: "create-bench", Method: http.MethodPost, Path: "/api/benches", Summary: "Store a new bench", DefaultStatus: http.StatusCreated, Errors: []int{422}},
		func(_ context.Context, in *struct{ Body bench.Archive }) (*one, error) {
			if err := in.Body.Validate(); err != nil {
				return nil, answer.Invalid(err)
			}
			return newOne(s.Create(in.Body.Bench, in.Body.Log...))
		})

	huma.Register(api, huma.Operation{OperationID: "begin-bench", Method: http.MethodPost, Path: "/api/benches/new", Summary: "Store a new bench with one module as makers first buy it", DefaultStatus: http.StatusCreated},
		func(context.Context, *struct{}) (*one, error) { return newOne(s.Create(bench.New("New bench"))) })

	huma.Register(api, huma.Operation{OperationID: "begin-from-parts", Method: http.MethodPost, Path: "/api/benches/begin", Summary: "Store a new bench of the parts that a maker has, links chosen, pins and addresses allotted", DefaultStatus: http.StatusCreated, Errors: []int{422}},
		func(_ context.Context, in *struct{ Body BeginRequest }) (*one, error) {
			b, err := in.Body.begin()
			if err != nil {
				return nil, answer.Refused(err)
			}
			return newOne(s.Create(b))
		})

	huma.Register(api, huma.Operation{OperationID: "open-demo", Method: http.MethodPost, Path: "/api/benches/demo", Summary: "The demo's bench as it is on the shelf; stored, with its log, where it is not there"},
		func(context.Context, *struct{}) (*one, error) {
			records, err := s.List()
			if err != nil {
				return nil, answer.StoreError(err)
			}
			a := demo.Archive()
			for _, r := range records {
				if r.Bench.Name == a.Name && r.Given == (store.Giving{}) {
					return newOne(r, nil)
				}
			}
			return newOne(s.Create(a.Bench, a.Log...))
		})

	huma.Register(api, huma.Operation{OperationID: "import-bench", Method: http.MethodPost, Path: "/api/benches/import", Summary: "Store a bench from a document of any version", DefaultStatus: http.StatusCreated,
		Description: "A document that cannot be read is refused with the line and column, or the RFC 6901 pointer, of what is wrong; nothing is stored then.", Errors: []int{422}, SkipValidateBody: true},
		func(_ context.Context, in *struct {
			RawBody []byte `contentType:"application/json"`
		}) (*one, error) {
			a, err := benchjson.ParseArchive(in.RawBody)
			if err != nil {
				return nil, answer.Invalid(err)
			}
			return newOne(s.Create(a.Bench, a.Log...))
		})

	huma.Register(api, huma.Operation{OperationID: "update-bench", Method: http.MethodPut, Path: "/api/benches/{id}", Summary: "Store a changed bench",
		Description: "The change is made against a revision. Where another one is stored, the answer is 409 with the stored document, and nothing is overwritten.",
		Responses:   conflict, Errors: []int{404, 410, 422}},
		func(_ context.Context, in *struct {
			answer.BenchPath
			Body struct {
				Revision int         `json:"revision" doc:"the revision the change was made against"`
				Bench    bench.Bench `json:"bench"`
			}
		}) (*one, error) {
			if err := in.Body.Bench.Validate(); err != nil {
				return nil, answer.Invalid(err)
			}
			return newOne(s.Update(in.ID, in.Body.Revision, store.Replace(in.Body.Bench)))
		})

	huma.Register(api, huma.Operation{OperationID: "patch-bench", Method: http.MethodPatch, Path: "/api/benches/{id}", Summary: "Store a change of a bench as an RFC 6902 patch",
		Description: "The patch is made against the revision that If-Match names. Where another one is stored, both changes are merged; where both changed the same place, the answer is 409 with the stored document and those places. A remedy of a finding is such a patch.",
		Responses:   conflict, Errors: []int{400, 404, 410, 415, 422, 428}},
		func(ctx context.Context, in *struct {
			answer.BenchPath
			IfMatch     string `header:"If-Match" doc:"the revision in quotes"`
			ContentType string `header:"Content-Type"`
			Page        string `query:"page" maxLength:"40" doc:"the page that made the change, as it named itself"`
			RawBody     []byte `contentType:"application/json-patch+json"`
		}) (*struct {
			ETag string `header:"ETag"`
			Body Patched
		}, error) {
			if kind, _, _ := strings.Cut(in.ContentType, ";"); kind != "application/json-patch+json" {
				return nil, huma.Error415UnsupportedMediaType(fmt.Sprintf("content type %.60q; expected application/json-patch+json", kind))
			}
			revision, err := revisionOf(in.IfMatch)
			if err != nil {
				return nil, err
			}
			r, err := inTurn(ctx, func() (store.Patched, error) {
				return s.Patch(in.ID, revision, in.RawBody, store.Writer{Page: in.Page, Who: room.From(ctx).Name})
			})
			if err != nil {
				return nil, answer.StoreError(err)
			}
			return &struct {
				ETag string `header:"ETag"`
				Body Patched
			}{etag(r.Revision), Patched{answer.StoredOf(r.Record), r.Rest}}, nil
		})

	huma.Register(api, huma.Operation{OperationID: "duplicate-bench", Method: http.MethodPost, Path: "/api/benches/{id}/copies", Summary: "Store a copy of a bench", DefaultStatus: http.StatusCreated, Errors: []int{404, 410}},
		func(_ context.Context, in *answer.BenchPath) (*one, error) {
			r, err := s.Get(in.ID)
			if err != nil {
				return nil, answer.StoreError(err)
			}
			r.Bench.Name = CopyName(r.Bench.Name)
			return newOne(s.Create(r.Bench))
		})

	huma.Register(api, huma.Operation{OperationID: "list-states", Method: http.MethodGet, Path: "/api/benches/{id}/states", Summary: "How a bench stood before, the newest first",
		Description: "Each change is kept for an hour, the last of each hour for a day, and the last of each day for a month.", Errors: []int{404, 410}},
		func(_ context.Context, in *answer.BenchPath) (*answer.List[StateFacts], error) {
			states, err := s.States(in.ID)
			if err != nil {
				return nil, answer.StoreError(err)
			}
			out := &answer.List[StateFacts]{Body: make([]StateFacts, len(states))}
			for i, st := range states {
				out.Body[i] = StateFacts{st.Revision, st.At, st.What, st.By}
			}
			return out, nil
		})

	huma.Register(api, huma.Operation{OperationID: "get-state", Method: http.MethodGet, Path: "/api/benches/{id}/states/{revision}", Summary: "A bench as it stood at a revision", Errors: []int{404, 410}},
		func(_ context.Context, in *struct {
			answer.BenchPath
			Revision int `path:"revision" minimum:"1"`
		}) (*StateAnswer, error) {
			r, err := s.State(in.ID, in.Revision)
			if errors.Is(err, store.ErrNotFound) {
				return nil, huma.Error404NotFound(fmt.Sprintf("revision %d of this bench is not kept any more", in.Revision))
			}
			if err != nil {
				return nil, answer.StoreError(err)
			}
			now, err := s.Get(in.ID)
			if err != nil {
				return nil, answer.StoreError(err)
			}
			return &StateAnswer{StateDocument{answer.DocumentOf(r), append([]string{}, benchjson.Changed(&now.Bench, &r.Bench)...)}}, nil
		})

	huma.Register(api, huma.Operation{OperationID: "export-bench", Method: http.MethodGet, Path: "/api/benches/{id}/bench.json", Summary: "A bench as an open document, to keep or to pass on", Errors: []int{404, 410}},
		func(_ context.Context, in *answer.BenchPath) (*huma.StreamResponse, error) {
			a, err := s.Archive(in.ID)
			if err != nil {
				return nil, answer.StoreError(err)
			}
			var text bytes.Buffer
			if err := benchjson.WriteArchive(&text, &a); err != nil {
				return nil, err
			}
			return answer.Attachment("application/json", answer.FileName(a.Bench.Name)+".bench.json", text.Bytes()), nil
		})

	huma.Register(api, huma.Operation{OperationID: "get-glasses", Method: http.MethodGet, Path: "/api/benches/{id}/glasses", Summary: "What the modules of a bench show first", Errors: []int{404, 410}},
		func(_ context.Context, in *answer.BenchPath) (*answer.List[*facts.Glass], error) {
			r, err := s.Get(in.ID)
			if err != nil {
				return nil, answer.StoreError(err)
			}
			return &answer.List[*facts.Glass]{Body: firstGlasses(&r.Bench)}, nil
		})

	huma.Register(api, huma.Operation{OperationID: "check-bench", Method: http.MethodGet, Path: "/api/benches/{id}/findings", Summary: "What is found on all modules of a bench", Errors: []int{404, 410}},
		func(_ context.Context, in *answer.BenchPath) (*answer.List[finding.Finding], error) {
			r, err := s.Get(in.ID)
			if err != nil {
				return nil, answer.StoreError(err)
			}
			found, err := check.Check(&r.Bench)
			if err != nil {
				return nil, answer.Invalid(err)
			}
			return &answer.List[finding.Finding]{Body: append([]finding.Finding{}, found...)}, nil
		})
}

// firstGlasses are the modules of a bench with their first screens, simulated; nil of one that cannot
// be run.
func firstGlasses(b *bench.Bench) []*facts.Glass {
	out := make([]*facts.Glass, len(b.Modules))
	for i := range b.Modules {
		setup, err := testbed.Of(b, testbed.At{Module: i})
		if err != nil {
			continue
		}
		if r, err := run.Do(&setup, run.Options{}); err == nil {
			g := facts.GlassAt(r, r.Last())
			out[i] = &g
		}
	}
	return out
}

// CopyName names a copy, within what a name may have.
func CopyName(name string) string {
	const more = ", copy"
	if runes := []rune(name); len(runes)+len(more) > 80 {
		name = string(runes[:80-len(more)])
	}
	return name + more
}

// early is how long a change waits for the one that it follows.
const early = 2 * time.Second

// inTurn stores a change, and waits where it is made against the revision that comes next: a page that is left sends its last change
// beside the one that is under way, and either may arrive first.
func inTurn(ctx context.Context, patch func() (store.Patched, error)) (store.Patched, error) {
	ctx, cancel := context.WithTimeout(ctx, early)
	defer cancel()
	for wait := 5 * time.Millisecond; ; wait *= 2 {
		out, err := patch()
		var stale *store.StaleError
		if !errors.As(err, &stale) || stale.Given != stale.Current.Revision+1 {
			return out, err
		}
		select {
		case <-ctx.Done():
			return out, err
		case <-time.After(wait):
		}
	}
}

func conflictResponse(api huma.API) *huma.Response {
	schema := huma.SchemaFromType(api.OpenAPI().Components.Schemas, reflect.TypeFor[answer.Conflict]())
	return &huma.Response{Description: "Another revision is stored", Content: map[string]*huma.MediaType{"application/problem+json": {Schema: schema}}}
}

// BeginRequest is what a maker says of the table, and what is to be built on it.
type BeginRequest struct {
	setup.Beginning
	Build string `json:"build,omitempty" maxLength:"40" doc:"id of a build, which is laid, wired and playing; absent: nothing is composed yet"`
}

func (r *BeginRequest) begin() (bench.Bench, error) {
	if r.Build == "" {
		return setup.Begin(&r.Beginning)
	}
	return builds.Make(r.Build, r.Beginning)
}

// Register registers what is asked of benches and of the bin.
func Register(api huma.API, s *store.Store) {
	registerBenches(api, s)
	registerBin(api, s)
}
