package edit

import (
	"encoding/json"
	"errors"
	"fmt"

	jsonpatch "github.com/evanphx/json-patch/v5"

	"slatebell/core/bench"
	"slatebell/core/finding"
)

// PatchError says which operation of a patch could not be carried out.
type PatchError struct {
	Index int    // 0-based
	Op    string // "" where it is the whole patch
	Path  string
	Err   error
}

func (e *PatchError) Error() string {
	if errors.Is(e.Err, jsonpatch.ErrTestFailed) {
		return fmt.Sprintf("operation %d: another value stands at %q than the patch was made for", e.Index+1, e.Path)
	}
	if e.Op == "" {
		return e.Err.Error()
	}
	return fmt.Sprintf("operation %d (%s %q): %v", e.Index+1, e.Op, e.Path, e.Err)
}

func (e *PatchError) Unwrap() error { return e.Err }

// PatchDocument carries an RFC 6902 patch out on a JSON document. What a patch copies within the
// document is bounded by most bytes. Its error is a *PatchError.
func PatchDocument(doc, patch []byte, most int64) ([]byte, error) {
	ops, err := jsonpatch.DecodePatch(patch)
	if err != nil {
		return nil, &PatchError{Err: fmt.Errorf("not a JSON Patch (%w); expected an array of operations such as {\"op\": \"replace\", \"path\": \"/name\", \"value\": \"Gate\"}", err)}
	}
	options := jsonpatch.NewApplyOptions()
	options.SupportNegativeIndices = false
	options.AccumulatedCopySizeLimit = most
	out, err := ops.ApplyWithOptions(doc, options)
	if err != nil {
		return nil, failing(doc, ops, options)
	}
	return out, nil
}

// failing finds the operation at which a patch fails.
func failing(doc []byte, ops jsonpatch.Patch, options *jsonpatch.ApplyOptions) error {
	for i, op := range ops {
		out, err := jsonpatch.Patch{op}.ApplyWithOptions(doc, options)
		if err != nil {
			path, _ := op.Path()
			return &PatchError{Index: i, Op: op.Kind(), Path: path, Err: err}
		}
		doc = out
	}
	return &PatchError{Err: errors.New("the operations together make too large a document")}
}

// mostCopied bounds what a remedy copies within a document, in bytes: more than any remedy does.
const mostCopied = 1 << 20

// Remedied returns the bench that a remedy leads to; b stays as it is. Its error is a *PatchError
// where the bench is no longer the one that the remedy was made for. What it leads to is not
// validated.
func Remedied(b *bench.Bench, r finding.Remedy) (bench.Bench, error) {
	doc, err := json.Marshal(b)
	if err != nil {
		return bench.Bench{}, fmt.Errorf("writing bench: %w", err)
	}
	patch, err := json.Marshal(r.Patch)
	if err != nil {
		return bench.Bench{}, fmt.Errorf("writing remedy: %w", err)
	}
	if doc, err = PatchDocument(doc, patch, mostCopied); err != nil {
		return bench.Bench{}, err
	}
	var out bench.Bench
	if err := json.Unmarshal(doc, &out); err != nil {
		return bench.Bench{}, fmt.Errorf("reading what the remedy leads to: %w", err)
	}
	return out, nil
}
