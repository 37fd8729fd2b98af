package store

import (
	"encoding/json"
	"errors"
	"slices"
	"sync"

	"gorm.io/gorm"

	"slatebell/core/bench"
	"slatebell/core/bench/edit"
	"slatebell/core/bench/merge"
	"slatebell/core/finding"
	"slatebell/formats/benchjson"
)

// Writer is who makes a change.
type Writer struct {
	Page string // as it names itself
	Who  string // name of the device; "" for the desk
}

// Patched is a bench with a patch of it stored.
type Patched struct {
	Record
	// Rest brings whoever made the patch from what they have to what is stored, where others had changed the bench meanwhile.
	Rest finding.Patch
}

// Patch stores an RFC 6902 patch that a page made against a revision. Where another revision is
// stored and the state of that one is known, both changes are merged (benchjson.Merge); where both changed the
// same place, nothing is written and the error is a *StaleError with the clashes. Its other errors are Update's.
//
// Patches of a bench that wait for each other are written together, each with a revision of its own; of
// those the last is kept as a state.
func (s *Store) Patch(id uint, revision int, patch []byte, by Writer) (Patched, error) {
	p := &patching{id: id, revision: revision, patch: patch, by: by}
	s.waiting.add(p)
	s.turn.Lock()
	defer s.turn.Unlock()
	if !p.done {
		s.patchAll(id, s.waiting.take(id))
	}
	return p.out, p.err
}

// patching is a patch that waits to be stored.
type patching struct {
	id       uint
	revision int
	patch    []byte
	by       Writer

	done bool
	out  Patched
	err  error
}

// waiting are the patches that wait.
type waiting struct {
	mu   sync.Mutex
	list []*patching
}

func (w *waiting) add(p *patching) {
	w.mu.Lock()
	defer w.mu.Unlock()
	w.list = append(w.list, p)
}

// take takes those of a bench, in their order.
func (w *waiting) take(id uint) (out []*patching) {
	w.mu.Lock()
	defer w.mu.Unlock()
	var others []*patching
	for _, p := range w.list {
		if p.id == id {
			out = append(out, p)
		} else {
			others = append(others, p)
		}
	}
	w.list = others
	return out
}

// patchAll stores patches of a bench in one transaction, and tells each. Whoever calls it has the turn.
func (s *Store) patchAll(id uint, batch []*patching) {
	var told []Notice
	err := s.write(func(tx *gorm.DB) error {
		first, err := s.current(tx, id)
		if err != nil {
			return err
		}
		stored, by := first, ""
		for _, p := range batch {
			next, as, err := s.patched(tx, &stored, p)
			if err != nil || next == nil {
				p.err = err
				continue
			}
			before, after := stored, s.following(&stored, *next)
			stored, by = after, p.by.Who
			p.out.Record = after
			s.recent.add(&after, as)
			told = append(told, Notice{id, Changed, &before, &after, as, p.by.Page})
		}
		if stored.Revision == first.Revision {
			return nil
		}
		return s.put(tx, &first, &stored, by)
	})
	if err != nil {
		s.recent.forget(id)
		told = nil
	}
	for _, p := range batch {
		p.done = true
		if err != nil && p.err == nil {
			p.out, p.err = Patched{}, err
		}
	}
	for _, n := range told {
		s.tell(n)
	}
}

// patched returns what a patch makes of a bench, and the patch that leads there; nil where it is so already.
func (s *Store) patched(tx *gorm.DB, stored *Record, p *patching) (*bench.Bench, finding.Patch, error) {
	ops, since, known := s.recent.since(stored.ID, p.revision, p.patch)
	if known && p.revision <= stored.Revision && merge.Disjoint(since, ops) || p.revision == stored.Revision {
		next, err := benchjson.Patch(&stored.Bench, p.patch)
		if err != nil {
			return nil, nil, err
		}
		if p.out.Rest = since; p.revision == stored.Revision {
			p.out.Rest = nil
		}
		return &next, untested(ops), nil
	}
	base, err := s.base(tx, stored.ID, p.revision)
	if errors.Is(err, ErrNotFound) {
		return nil, nil, &StaleError{Given: p.revision, Current: *stored}
	}
	if err != nil {
		return nil, nil, err
	}
	merged, rest, clashes, err := benchjson.Merge(&base, &stored.Bench, p.patch)
	if len(clashes) > 0 {
		err = &StaleError{p.revision, *stored, clashes}
	}
	if err != nil {
		return nil, nil, err
	}
	p.out.Rest = rest
	if benchjson.Same(&merged, &stored.Bench) { // others did it too
		p.out.Record = *stored
		return nil, nil, nil
	}
	as, err := benchjson.Diff(&stored.Bench, &merged)
	return &merged, as, err
}

// base returns a bench as it was at a revision: from its state, or from an earlier one and the patches that followed.
func (s *Store) base(tx *gorm.DB, id uint, revision int) (bench.Bench, error) {
	rec, err := state(tx, id, revision)
	if !errors.Is(err, ErrNotFound) {
		return rec.Bench, err
	}
	var earlier []int
	if err := tx.Model(&stateRow{}).Where("bench_id = ? AND revision < ?", id, revision).Order("revision DESC").Limit(1).Pluck("revision", &earlier).Error; err != nil {
		return bench.Bench{}, err
	}
	if len(earlier) == 0 {
		return bench.Bench{}, ErrNotFound
	}
	patches, known := s.recent.between(id, earlier[0], revision)
	if !known {
		return bench.Bench{}, ErrNotFound
	}
	if rec, err = state(tx, id, earlier[0]); err != nil {
		return bench.Bench{}, err
	}
	doc, err := json.Marshal(rec.Bench)
	if err != nil {
		return bench.Bench{}, err
	}
	ops, err := json.Marshal(slices.Concat(patches...))
	if err != nil {
		return bench.Bench{}, err
	}
	if doc, err = edit.PatchDocument(doc, ops, benchjson.MaxSize); err != nil {
		return bench.Bench{}, ErrNotFound // it is as good as not kept
	}
	return benchjson.Decode(doc)
}
