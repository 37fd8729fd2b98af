package benchjson

import (
	"encoding/json"
	"errors"
	"fmt"

	"slatebell/core/bench"
	"slatebell/core/bench/merge"
	"slatebell/core/finding"
)

// Merge applies a patch that was made against one state of a bench to what became of it since, as
// merge.Three has it. It returns the merged bench, the patch that brings whoever made the change
// there from what they have, and the clashes: where both changed the same place, what the patch tests is no longer so, or
// what both make together cannot be. The bench is then not to be used. Its error is as Patch's.
func Merge(base, stored *bench.Bench, patch []byte) (merged bench.Bench, rest finding.Patch, clashes []merge.Clash, err error) {
	next, err := Patch(base, patch)
	if err != nil {
		return bench.Bench{}, nil, nil, err
	}
	was, err1 := plain(base)
	mine, err2 := plain(&next)
	theirs, err3 := plain(stored)
	if err := errors.Join(err1, err2, err3); err != nil {
		return bench.Bench{}, nil, nil, err
	}
	out, clashes := merge.Three(was, mine, theirs, merge.Theirs)
	clashes = append(clashes, tested(patch, was, theirs)...)
	if len(clashes) > 0 {
		return bench.Bench{}, nil, clashes, nil
	}
	doc, err := json.Marshal(out)
	if err != nil {
		return bench.Bench{}, nil, nil, fmt.Errorf("writing bench: %w", err)
	}
	var problems bench.Problems
	if merged, err = Parse(doc); errors.As(err, &problems) { // each is lawful, and both together are not
		for _, p := range problems {
			clashes = append(clashes, merge.Clash{Path: p.Path})
		}
		return bench.Bench{}, nil, clashes, nil
	}
	if err != nil {
		return bench.Bench{}, nil, nil, err
	}
	return merged, merge.Diff(mine, out), nil, nil
}

// tested lists what a patch tests that is no longer so.
func tested(patch []byte, was, theirs any) (out []merge.Clash) {
	var ops []struct{ Op, Path string }
	if json.Unmarshal(patch, &ops) != nil {
		return nil // it was applied, so it is one
	}
	for _, op := range ops {
		if op.Op == "test" && !merge.Unchanged(op.Path, was, theirs) {
			out = append(out, merge.Clash{Path: op.Path})
		}
	}
	return out
}

// Diff returns the patch that makes one bench of another.
func Diff(before, after *bench.Bench) (finding.Patch, error) {
	was, err1 := plain(before)
	is, err2 := plain(after)
	if err := errors.Join(err1, err2); err != nil {
		return nil, err
	}
	return merge.Diff(was, is), nil
}

// plain is a bench as encoding/json decodes it without a type.
func plain(b *bench.Bench) (out any, err error) {
	doc, err := json.Marshal(b)
	if err == nil {
		err = json.Unmarshal(doc, &out)
	}
	if err != nil {
		return nil, fmt.Errorf("writing bench: %w", err)
	}
	return out, nil
}
