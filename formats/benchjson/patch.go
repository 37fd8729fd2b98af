package benchjson

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

// Patch applies an RFC 6902 patch to a document and returns the document that it
// leads to, read as Read does. Nothing of b is changed. Its error is a
// *PatchError where an operation cannot be carried out, and otherwise as Read's.
func Patch(b *bench.Bench, patch []byte) (bench.Bench, error) {
	doc, err := json.Marshal(b)
	if err != nil {
		return bench.Bench{}, fmt.Errorf("writing bench: %w", err)
	}
	ops, err := jsonpatch.DecodePatch(patch)
	if err != nil {
		return bench.Bench{}, &PatchError{Err: fmt.Errorf("not a JSON Patch (%w); expected an array of operations such as {\"op\": \"replace\", \"path\": \"/name\", \"value\": \"Gate\"}", err)}
	}
	options := jsonpatch.NewApplyOptions()
	options.SupportNegativeIndices = false
	options.AccumulatedCopySizeLimit = MaxSize
	out, err := ops.ApplyWithOptions(doc, options)
	if err != nil {
		return bench.Bench{}, failing(doc, ops, options)
	}
	return Parse(out)
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

// Remedy applies a finding's remedy.
func Remedy(b *bench.Bench, r finding.Remedy) (bench.Bench, error) {
	patch, err := json.Marshal(r.Patch)
	if err != nil {
		return bench.Bench{}, fmt.Errorf("writing remedy: %w", err)
	}
	return Patch(b, patch)
}
