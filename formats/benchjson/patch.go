package benchjson

import (
	"encoding/json"
	"fmt"

	"slatebell/core/bench"
	"slatebell/core/bench/edit"
	"slatebell/core/finding"
)

// Patch applies an RFC 6902 patch to a document and returns the document that it
// leads to, read as Read does. Nothing of b is changed. Its error is an
// *edit.PatchError where an operation cannot be carried out, and otherwise as Read's.
func Patch(b *bench.Bench, patch []byte) (bench.Bench, error) {
	if out, ok := keystroke(b, patch); ok {
		return out, nil
	}
	return patched(b, patch)
}

// patched is Patch of any patch.
func patched(b *bench.Bench, patch []byte) (bench.Bench, error) {
	doc, err := json.Marshal(b)
	if err != nil {
		return bench.Bench{}, fmt.Errorf("writing bench: %w", err)
	}
	if doc, err = edit.PatchDocument(doc, patch, MaxSize); err != nil {
		return bench.Bench{}, err
	}
	a, err := ParseArchive(doc)
	if err == nil && len(a.Log) > 0 {
		err = bench.Problems{{Path: "/log", What: "the log is kept by itself; expected a change of the bench"}}
	}
	return a.Bench, err
}

// Remedy applies a finding's remedy, and reads what it leads to as Read does.
func Remedy(b *bench.Bench, r finding.Remedy) (bench.Bench, error) {
	patch, err := json.Marshal(r.Patch)
	if err != nil {
		return bench.Bench{}, fmt.Errorf("writing remedy: %w", err)
	}
	return Patch(b, patch)
}
