package api

import (
	"errors"
	"fmt"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"slatebell/core/bench"
	"slatebell/formats/benchjson"
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
	var patch *benchjson.PatchError
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
		return huma.Error422UnprocessableEntity(err.Error())
	}
	details := make([]error, len(all))
	for i, p := range all {
		details[i] = &huma.ErrorDetail{Message: p.What, Location: p.Path}
	}
	return huma.Error422UnprocessableEntity(all.Error(), details...)
}

// Bounds of what a refusal says again of what was sent.
const (
	echoedValue  = 80 // characters of a value
	echoedErrors = 20
)

// boundEcho keeps a refusal from sending back what was sent: of a value that is
// wrong it repeats as much as people need to find it.
func boundEcho(_ huma.Context, _ string, v any) (any, error) {
	model, ok := v.(*huma.ErrorModel)
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
		e.Message = cut(e.Message, 4*echoedValue)
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
