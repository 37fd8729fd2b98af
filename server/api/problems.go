package api

import (
	"errors"
	"fmt"
	"net/http"
	"reflect"
	"slices"

	"github.com/danielgtaylor/huma/v2"

	"slatebell/core/bench"
	"slatebell/core/bench/edit"
	"slatebell/core/place"
	"slatebell/server/store"
)

// troubles are the statuses that answer for a database that cannot do its work;
// all of them may pass, so that asking again is right.
var troubles = map[store.Kind]int{store.Full: http.StatusInsufficientStorage, store.Locked: http.StatusServiceUnavailable, store.ReadOnly: http.StatusServiceUnavailable}

// storeError turns the store's errors, and those of a change that it was to
// make, into problem details.
func storeError(err error) error {
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
		return invalid(err)
	}
	return huma.Error500InternalServerError("the bench could not be read or stored", err)
}

// invalid turns a document's problems into problem details.
func invalid(err error) error {
	var all bench.Problems
	var one bench.Problem
	switch {
	case errors.As(err, &one):
		all = bench.Problems{one}
	case !errors.As(err, &all):
		return refused(err)
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

// refusing says of an operation that what it refuses is a Refusal.
func refusing(doc *huma.OpenAPI, op *huma.Operation) {
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

// refused turns an error into problem details.
func refused(err error) error {
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

// boundEcho keeps a refusal from sending back what was sent: of a value that is
// wrong it repeats as much as people need to find it.
func boundEcho(_ huma.Context, _ string, v any) (any, error) {
	model, ok := v.(*huma.ErrorModel)
	if r, refusal := v.(*Refusal); refusal {
		r.told()
		model, ok = &r.ErrorModel, true
	}
	if !ok {
		return v, nil
	}
	if model.Status == http.StatusRequestEntityTooLarge {
		model.Detail = tooLarge
	}
	if more := len(model.Errors) - echoedErrors; more > 0 {
		model.Errors = append(model.Errors[:echoedErrors:echoedErrors], &huma.ErrorDetail{Message: fmt.Sprintf("and %d more", more)})
	}
	for _, e := range model.Errors {
		switch v := e.Value.(type) {
		case nil, bool, float64, int:
		case string:
			e.Value = cut(v, echoedValue)
		default:
			e.Value = nil
		}
		e.Message = cut(e.Message, echoedMessage)
	}
	return v, nil
}

// cut returns a text of at most n characters, with a mark where there were more.
func cut(text string, n int) string {
	if runes := []rune(text); len(runes) > n {
		return string(runes[:n]) + "…"
	}
	return text
}
