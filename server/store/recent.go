package store

import (
	"encoding/json"
	"slices"
	"time"

	"gorm.io/gorm"

	"slatebell/core/finding"
)

// How much of what was done last is remembered: benches, and changes of each.
const (
	recentBenches = 8
	recentChanges = 512
)

// recent remembers the benches that were changed last, so that many who work on one at once need not each have it read
// and compared anew. Whoever uses it has the store's turn.
type recent struct{ benches []*changed }

// changed is a bench that was changed, as it is stored, and the patches that led there.
type changed struct {
	rec     Record
	thinned time.Time       // when its states were thinned out last
	patches []finding.Patch // the last leads to rec, each from the revision before
}

func (r *recent) of(id uint) *changed {
	for _, c := range r.benches {
		if c.rec.ID == id {
			return c
		}
	}
	return nil
}

// add remembers what a bench has become, and the patch that led there.
func (r *recent) add(rec *Record, patch finding.Patch) {
	c := r.of(rec.ID)
	if c == nil {
		c = &changed{}
	} else {
		r.benches = slices.DeleteFunc(r.benches, func(o *changed) bool { return o == c })
	}
	r.benches = append(r.benches, c)
	if len(r.benches) > recentBenches {
		r.benches = slices.Delete(r.benches, 0, 1)
	}
	if c.rec.Revision != rec.Revision-1 {
		c.patches = nil
	}
	if len(c.patches) == recentChanges {
		c.patches = slices.Delete(c.patches, 0, recentChanges/2)
	}
	c.patches = append(c.patches, patch)
	c.rec = *rec
}

// since returns the operations of a patch that was made against a revision, and those by which others brought
// the bench from there to what is stored; known is false where that is not remembered, or the patch is none.
func (r *recent) since(id uint, revision int, patch []byte) (ops, since finding.Patch, known bool) {
	if json.Unmarshal(patch, &ops) != nil {
		return nil, nil, false
	}
	c := r.of(id)
	if c == nil {
		return ops, nil, false
	}
	patches, known := r.between(id, revision, c.rec.Revision)
	return ops, slices.Concat(patches...), known
}

// between returns the patches that led from one revision of a bench to another, where they are remembered.
func (r *recent) between(id uint, from, to int) (patches []finding.Patch, known bool) {
	c := r.of(id)
	if c == nil {
		return nil, false
	}
	first := c.rec.Revision - len(c.patches) // the revision before the first of them
	if from < first || from > to || to > c.rec.Revision {
		return nil, false
	}
	return c.patches[from-first : to-first], true
}

// forget forgets a bench of which what was remembered may not be stored.
func (r *recent) forget(id uint) {
	r.benches = slices.DeleteFunc(r.benches, func(c *changed) bool { return c.rec.ID == id })
}

// untested is a patch without its tests.
func untested(ops finding.Patch) finding.Patch {
	out := make(finding.Patch, 0, len(ops))
	for _, op := range ops {
		if op.Op != "test" {
			out = append(out, op)
		}
	}
	return out
}

// current reads a bench that is not in the bin, from memory where it is there as it is stored.
func (s *Store) current(tx *gorm.DB, id uint) (Record, error) {
	c := s.recent.of(id)
	if c == nil {
		return get(tx, id)
	}
	var now row
	if err := tx.Model(&row{}).Select("revision", "binned_at").Where("id = ?", id).Limit(1).Find(&now).Error; err != nil {
		return Record{}, err
	}
	if now.BinnedAt != nil || now.Revision != c.rec.Revision { // another program may have written it
		return get(tx, id)
	}
	return c.rec, nil
}

// thins reports whether the states of a bench are to be thinned out with a change from one revision to another.
func (r *recent) thins(before, after *Record) bool {
	if before.Revision/thinEach == after.Revision/thinEach {
		return false
	}
	c := r.of(after.ID)
	if c == nil {
		return true
	}
	if rest := after.Updated.Sub(c.thinned); rest >= 0 && rest < thinRest {
		return false
	}
	c.thinned = after.Updated
	return true
}
