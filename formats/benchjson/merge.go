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
	was, mine, theirs, err := plain3(base, &next, stored)
	if err != nil {
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
	was, is, _, err := plain3(before, after, after)
	if err != nil {
		return nil, err
	}
	return merge.Diff(was, is), nil
}

func plain3(a, b, c *bench.Bench) (x, y, z any, err error) {
	for _, one := range []struct {
		from *bench.Bench
		to   *any
	}{{a, &x}, {b, &y}, {c, &z}} {
		doc, err := json.Marshal(one.from)
		if err == nil {
			err = json.Unmarshal(doc, one.to)
		}
		if err != nil {
			return nil, nil, nil, fmt.Errorf("writing bench: %w", err)
		}
	}
	return x, y, z, nil
}
