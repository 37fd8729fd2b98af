// Package edit holds the changes of a bench that have a name. Each is a value, such as SetPins, that is
// carried out on a bench and gives the RFC 6902 patch which does the same to the bench's document; so
// nobody takes a patch apart to learn what it means. Remedies, acts of the interface, the API and
// the command line are made of them.
//
// It stands above the document in bench, and knows no rule of the job: what is worth changing is
// decided by those who make an edit.
package edit

import (
	"reflect"
	"slices"

	"slatebell/core/bench"
	"slatebell/core/finding"
)

// Edit is one change of the bench that it was made for.
type Edit interface {
	// Apply carries the change out. Lists and maps that it changes are copied first, so that who else
	// holds them does not see it.
	Apply(b *bench.Bench)

	// Patch returns the same change as a patch of the document of b, before it is carried out. It
	// begins with a test of what stands there.
	Patch(b *bench.Bench) finding.Patch
}

// List is several edits, each made for the bench that those before it lead to.
type List []Edit

// Apply carries out all edits in their order.
func (l List) Apply(b *bench.Bench) {
	for _, e := range l {
		e.Apply(b)
	}
}

// Patch returns the patches of all edits as one.
func (l List) Patch(b *bench.Bench) (p finding.Patch) {
	now := *b
	for _, e := range l {
		p = append(p, e.Patch(&now)...)
		e.Apply(&now)
	}
	return p
}

// Applied returns the bench that edits lead to; b stays as it is.
func Applied(b *bench.Bench, edits ...Edit) bench.Bench {
	out := *b
	List(edits).Apply(&out)
	return out
}

// Remedy returns edits as a ready change of a bench, with a label that says what it does.
func Remedy(b *bench.Bench, label string, edits ...Edit) finding.Remedy {
	return finding.Remedy{Label: label, Patch: List(edits).Patch(b)}
}

// module returns a module that can be changed.
func module(b *bench.Bench, at int) *bench.Module {
	b.Modules = slices.Clone(b.Modules)
	return &b.Modules[at]
}

// change returns the operations that put a value where another stands, in a document that leaves
// out what says nothing. Where there is nothing to test, owner says whose it is.
func change(path string, was, to any, owner finding.Op) finding.Patch {
	switch {
	case says(was) && says(to):
		return finding.Patch{finding.Test(path, was), finding.Replace(path, to)}
	case says(was):
		return finding.Patch{finding.Test(path, was), finding.Remove(path)}
	case says(to):
		return finding.Patch{owner, finding.Add(path, to)}
	}
	return nil
}

// says reports whether a value stands in a document: those that say nothing are left out of it.
func says(v any) bool {
	r := reflect.ValueOf(v)
	switch r.Kind() {
	case reflect.Map, reflect.Slice:
		return r.Len() > 0
	case reflect.Invalid:
		return false
	}
	return !r.IsZero()
}
