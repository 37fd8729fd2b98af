// Package answer is how requests are answered, whatever their subject: bodies and lists, files, and
// refusals that say what was wrong, with the places of the glass that they name.
package answer

import (
	"context"
	"errors"
	"fmt"
	"io"
	"net/http"
	"reflect"
	"slices"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"slatebell/core/bench"
	"slatebell/core/bench/edit"
	"slatebell/core/place"
	"slatebell/server/store"
)

// troubles are the statuses that answer for a database that cannot do its work;
// all of them may pass, so that asking again is right.
var troubles = map[store.TroubleKind]int{store.Full: http.StatusInsufficientStorage, store.Locked: http.StatusServiceUnavailable, store.ReadOnly: http.StatusServiceUnavailable}

// StoreError turns the store's errors, and those of a change that it was to
// make, into problem details.
func StoreError(err error) error {
	var stale *store.StaleError
	var trouble *store.Trouble
	var patch *edit.PatchError
	var problems bench.Problems
	switch {
	case err == nil:
		return nil
	case errors.Is(err, store.ErrNotFound):
		return huma.Error404NotFound("there is no such bench")
	case errors.Is(err, store.ErrBinned):
		return huma.NewError(http.StatusGone, "this bench is in the bin; take it out to go on with it")
	case errors.As(err, &stale):
		return newConflict(stale)
	case errors.As(err, &trouble):
		status, passes := troubles[trouble.Kind]
		if !passes {
			status = http.StatusInternalServerError
		}
		return huma.NewError(status, trouble.Error())
	case errors.As(err, &patch), errors.As(err, &problems):
		return Invalid(err)
	}
	return huma.Error500InternalServerError("the bench could not be read or stored", err)
}

// Invalid turns a document's problems into problem details.
func Invalid(err error) error {
	var all bench.Problems
	var one bench.Problem
	switch {
	case errors.As(err, &one):
		all = bench.Problems{one}
	case !errors.As(err, &all):
		return Refused(err)
	}
	out := &Refusal{ErrorModel: unprocessable(all.Error())}
	for i, p := range all {
		out.Errors = append(out.Errors, &huma.ErrorDetail{Message: p.What, Location: p.Path})
		for _, at := range p.Places {
			out.Places = append(out.Places, PlaceSaid{Place: at, Error: &i})
		}
	}
	return out
}

// Refusal is problem details that know which places of the glass their texts name.
type Refusal struct {
	huma.ErrorModel
	Places []PlaceSaid `json:"places,omitempty" nullable:"false" doc:"rows and columns that the texts name, for those who count them from 0"`
}

// PlaceSaid is a place with the text that names it.
type PlaceSaid struct {
	place.Place
	Error *int `json:"error,omitempty" doc:"index of the error whose message names it; absent: detail does"`
}

// Refusing says of an operation that what it refuses is a Refusal.
func Refusing(doc *huma.OpenAPI, op *huma.Operation) {
	if r := op.Responses["422"]; r != nil {
		for _, media := range r.Content {
			media.Schema = huma.SchemaFromType(doc.Components.Schemas, reflect.TypeFor[Refusal]())
		}
	}
}

func unprocessable(detail string) huma.ErrorModel {
	const status = http.StatusUnprocessableEntity
	return huma.ErrorModel{Status: status, Title: http.StatusText(status), Detail: detail}
}

// Refused turns an error into problem details.
func Refused(err error) error {
	says := place.Of(err)
	out := &Refusal{ErrorModel: unprocessable(says.S)}
	for _, at := range says.Places {
		out.Places = append(out.Places, PlaceSaid{Place: at})
	}
	return out
}

// told drops the places of texts that were cut, or left out.
func (r *Refusal) told() {
	r.Places = slices.DeleteFunc(r.Places, func(p PlaceSaid) bool {
		return p.Error != nil && (*p.Error >= echoedErrors || p.At+p.Len > echoedMessage)
	})
}

// Bounds of what a refusal says again of what was sent.
const (
	echoedValue   = 80 // characters of a value
	echoedErrors  = 20
	echoedMessage = 320 // characters of what is wrong with it
)

// BoundEcho keeps a refusal from sending back what was sent: of a value that is
// wrong it repeats as much as people need to find it.
func BoundEcho(_ huma.Context, _ string, v any) (any, error) {
	model, ok := v.(*huma.ErrorModel)
	if r, refusal := v.(*Refusal); refusal {
		r.told()
		model, ok = &r.ErrorModel, true
	}
	if !ok {
		return v, nil
	}
	if model.Status == http.StatusRequestEntityTooLarge {
		model.Detail = TooLarge
	}
	if more := len(model.Errors) - echoedErrors; more > 0 {
		model.Errors = append(model.Errors[:echoedErrors:echoedErrors], &huma.ErrorDetail{Message: fmt.Sprintf("and %d more", more)})
	}
	for _, e := range model.Errors {
		switch v := e.Value.(type) {
		case nil, bool, float64, int:
		case string:
			e.Value = Cut(v, echoedValue)
		default:
			e.Value = nil
		}
		e.Message = Cut(e.Message, echoedMessage)
	}
	return v, nil
}

// Cut returns a text of at most n characters, with a mark where there were more.
func Cut(text string, n int) string {
	if runes := []rune(text); len(runes) > n {
		return string(runes[:n]) + "…"
	}
	return text
}

// Body is an answer.
type Body[T any] struct{ Body T }

// List is an answer that is a list, empty rather than null.
type List[T any] struct {
	Body []T `nullable:"false"`
}

// One answers with one value.
type One[T any] struct {
	Body T
}

// Module returns a module of a bench by its index.
func Module(b *bench.Bench, at int) (*bench.Module, error) {
	if at < 0 || at >= len(b.Modules) {
		return nil, Refused(fmt.Errorf("there is no module %d; expected 0 to %d", at, len(b.Modules)-1))
	}
	return &b.Modules[at], nil
}

// Answered wraps a function of a request's body, as huma asks for it.
func Answered[In, Out any](do func(*In) (*Out, error)) func(context.Context, *struct{ Body In }) (*Body[Out], error) {
	return func(_ context.Context, in *struct{ Body In }) (*Body[Out], error) {
		out, err := do(&in.Body)
		if err != nil {
			return nil, err
		}
		return &Body[Out]{*out}, nil
	}
}

// Download is an answer that is kept as a file.
type Download = huma.StreamResponse

func File(kind, name string, write func(io.Writer) error) *Download {
	return &Download{Body: func(ctx huma.Context) {
		ctx.SetHeader("Content-Type", kind)
		ctx.SetHeader("Content-Disposition", `attachment; filename="`+name+`"`)
		write(ctx.BodyWriter()) // the connection is gone where this fails
	}}
}

// FileName makes a file's name of a bench's.
func FileName(name string) string {
	var b strings.Builder
	for _, r := range strings.ToLower(name) {
		switch {
		case r >= 'a' && r <= 'z', r >= '0' && r <= '9':
			b.WriteRune(r)
		case b.Len() > 0 && !strings.HasSuffix(b.String(), "-"):
			b.WriteByte('-')
		}
	}
	if text := strings.Trim(b.String(), "-"); text != "" {
		return text
	}
	return "bench"
}

// Attachment answers with a file to keep.
func Attachment(kind, name string, data []byte) *huma.StreamResponse {
	return &huma.StreamResponse{Body: func(ctx huma.Context) {
		ctx.SetHeader("Content-Type", kind)
		ctx.SetHeader("Content-Disposition", `attachment; filename="`+name+`"`)
		ctx.BodyWriter().Write(data) // the connection is gone where this fails
	}}
}

// BenchDocument is a stored bench with its revision.
type BenchDocument struct {
	Stored
	Bench bench.Bench `json:"bench"`
}

// Conflict is the answer to a write against an older revision: problem details
// with the newer document.
type Conflict struct {
	huma.ErrorModel
	Current BenchDocument `json:"current" doc:"what is stored"`
	Clashes []string      `json:"clashes,omitempty" nullable:"false" doc:"RFC 6901 pointers of what both changed; absent: the state that the change was made against is not kept any more"`
}

func newConflict(stale *store.StaleError) *Conflict {
	var clashes []string
	for _, c := range stale.Clashes {
		clashes = append(clashes, c.Path)
	}
	return &Conflict{
		Clashes:    clashes,
		ErrorModel: huma.ErrorModel{Status: http.StatusConflict, Title: http.StatusText(http.StatusConflict), Detail: stale.Error() + "; nothing was overwritten"},
		Current:    DocumentOf(stale.Current),
	}
}

// BenchPath is the path parameter that names a bench.
type BenchPath struct {
	ID uint `path:"id"`
}

// TooLarge is what is said of a body beyond it.
const TooLarge = "the request is larger than 16 MiB; a bench with more pictures in its log is read by slatebell import FILE"

// Stored says at which revision a bench is stored.
type Stored struct {
	ID       uint      `json:"id"`
	Revision int       `json:"revision" doc:"goes up by one with every change"`
	Updated  time.Time `json:"updated"`
}

func StoredOf(r store.Record) Stored { return Stored{r.ID, r.Revision, r.Updated} }

func DocumentOf(r store.Record) BenchDocument { return BenchDocument{StoredOf(r), r.Bench} }
