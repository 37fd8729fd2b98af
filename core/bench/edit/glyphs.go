package edit

import (
	"fmt"
	"reflect"
	"slices"

	"slatebell/core/bench"
	"slatebell/core/finding"
	"slatebell/core/text/glyph"
)

// SetLibrary replaces the bench's library of glyphs.
type SetLibrary struct{ Glyphs glyph.Library }

// Apply carries the edit out.
func (e SetLibrary) Apply(b *bench.Bench) { b.Glyphs = e.Glyphs }

// Patch returns the edit as a patch: of what differs, where drawings changed or were added behind the last
// one.
func (e SetLibrary) Patch(b *bench.Bench) (p finding.Patch) {
	if len(b.Glyphs) == 0 || len(e.Glyphs) < len(b.Glyphs) {
		return change("/glyphs", b.Glyphs, e.Glyphs, finding.Test("/version", b.Version))
	}
	for i, d := range e.Glyphs {
		path := fmt.Sprintf("/glyphs/%d", i)
		switch {
		case i >= len(b.Glyphs):
			p = append(p, finding.Add(path, d))
		case !reflect.DeepEqual(d, b.Glyphs[i]):
			p = append(p, finding.Test(path, b.Glyphs[i]), finding.Replace(path, d))
		}
	}
	if len(p) > 0 {
		last := len(b.Glyphs) - 1
		p = slices.Insert(p, 0, finding.Test(fmt.Sprintf("/glyphs/%d", last), b.Glyphs[last]))
	}
	return p
}

// AddGlyph puts a glyph into a slot of a module that holds none.
type AddGlyph struct {
	Module int
	Glyph  glyph.Glyph
}

// Apply carries the edit out.
func (e AddGlyph) Apply(b *bench.Bench) {
	m := module(b, e.Module)
	m.Glyphs = append(slices.Clone(m.Glyphs), e.Glyph)
}

// Patch returns the edit as a patch.
func (e AddGlyph) Patch(b *bench.Bench) finding.Patch {
	was := b.Modules[e.Module].Glyphs
	path, owner := ofModule(b, e.Module, "/glyphs")
	if len(was) == 0 {
		return change(path, was, glyph.Bank{e.Glyph}, owner)
	}
	return finding.Patch{owner, finding.Test(path, was), finding.Add(path+"/-", e.Glyph)}
}
