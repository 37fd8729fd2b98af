package merge

import (
	"strings"

	"slatebell/core/finding"
)

// Disjoint reports whether two patches of one document can be carried out in either order, to the same
// document, as each only replaces values, none of them at or within what the other replaces or tests. It says no of some of which that
// is so, as of those that take elements out of lists.
func Disjoint(a, b finding.Patch) bool {
	for _, x := range a {
		if x.Op != "replace" {
			return false
		}
	}
	for _, y := range b {
		if y.Op != "replace" && y.Op != "test" {
			return false
		}
		for _, x := range a {
			if within(x.Path, y.Path) || within(y.Path, x.Path) {
				return false
			}
		}
	}
	return true
}

// within reports whether a pointer names a place at or within another.
func within(inner, outer string) bool {
	return inner == outer || strings.HasPrefix(inner, outer) && inner[len(outer)] == '/'
}
