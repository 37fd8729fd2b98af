// Package feed passes on what happens on benches to all who have them open: changes of the
// document, of the log, and where the others are.
//
// It stands beside server/store, which tells it what was stored, and below server/api, which sends it to the
// pages. Nobody waits for a watcher: each is woken, and takes what there is once it can; what it missed by then is bounded.
package feed

import (
	"cmp"
	"slices"
	"sync"

	"slatebell/core/finding"
	"slatebell/server/store"
)

// kept is how many changes of a bench are kept for those who are behind; further behind, they
// are brought up from the stored states.
const kept = 64

// Change is a change of a bench that was stored.
type Change struct {
	Revision int           `json:"revision"`
	From     int           `json:"from" doc:"the revision that the patch is against"`
	Patch    finding.Patch `json:"patch" nullable:"false" doc:"RFC 6902"`
	By       string        `json:"by,omitempty" doc:"the page that made it"`
}

// Whereabouts is where somebody is on a bench.
type Whereabouts struct {
	View   string `json:"view,omitempty" maxLength:"40"`
	Module string `json:"module,omitempty" maxLength:"40" doc:"id of the module"`
	Screen string `json:"screen,omitempty" maxLength:"40" doc:"id of the screen that is composed"`
	Row    *int   `json:"row,omitempty" minimum:"0" maximum:"63" doc:"of the cell that is written next; absent: none is"`
	Col    *int   `json:"col,omitempty" minimum:"0" maximum:"399"`
}

// Seen is somebody who has a bench open.
type Seen struct {
	Page string `json:"page" doc:"the page, of which somebody may have several"`
	Who  string `json:"who" doc:"the name under which the device was let in; empty: the desk"`
	Whereabouts
}

// Feed passes on. Its zero value has no watchers.
type Feed struct {
	mu      sync.Mutex
	benches map[uint]*table
	over    bool
}

// table is a bench that is open somewhere.
type table struct {
	changes  []Change // the last of them
	watchers map[*Watcher]bool
}

// Watcher is a page that has a bench open.
type Watcher struct {
	// Wake has a value once there is something to take; it is closed when the program ends.
	Wake <-chan struct{}

	feed  *Feed
	bench uint
	wake  chan struct{}
	seen  Seen
	news  news
}

type news struct{ changed, logged, moved, here bool }

// News is what a watcher has not had yet.
type News struct {
	Changes []Change // each against the one before
	Behind  bool     // the changes are not kept any more: what is stored is to be compared
	Logged  bool     // the log has changed
	Moved   bool     // it went into the bin, or came out of it
	Here    []Seen   // everybody who has it open; nil where that has not changed
}

// Watch begins to watch a bench; the watcher must Leave. Its first News has everybody who is here.
func (f *Feed) Watch(bench uint, page, who string) *Watcher {
	f.mu.Lock()
	defer f.mu.Unlock()
	if f.benches == nil {
		f.benches = map[uint]*table{}
	}
	t := f.benches[bench]
	if t == nil {
		t = &table{watchers: map[*Watcher]bool{}}
		f.benches[bench] = t
	}
	wake := make(chan struct{}, 1)
	w := &Watcher{Wake: wake, feed: f, bench: bench, wake: wake, seen: Seen{Page: page, Who: who}}
	if f.over {
		close(wake)
		return w
	}
	t.watchers[w] = true
	t.tell(func(n *news) { n.here = true })
	return w
}

// tell marks something for all who watch, and wakes them.
func (t *table) tell(mark func(*news)) {
	for w := range t.watchers {
		mark(&w.news)
		select {
		case w.wake <- struct{}{}:
		default: // it is awake
		}
	}
}

// Leave ends a watch.
func (w *Watcher) Leave() {
	f := w.feed
	f.mu.Lock()
	defer f.mu.Unlock()
	t := f.benches[w.bench]
	if t == nil || !t.watchers[w] {
		return
	}
	delete(t.watchers, w)
	if len(t.watchers) == 0 {
		delete(f.benches, w.bench)
		return
	}
	t.tell(func(n *news) { n.here = true })
}

// Take returns what is new to a watcher that knows a revision of the bench.
func (w *Watcher) Take(known int) News {
	f := w.feed
	f.mu.Lock()
	defer f.mu.Unlock()
	t := f.benches[w.bench]
	if t == nil {
		return News{}
	}
	got := w.news
	w.news = news{}
	out := News{Logged: got.logged, Moved: got.moved}
	if got.changed {
		out.Changes, out.Behind = t.since(known)
	}
	if got.here {
		out.Here = t.here()
	}
	return out
}

// since returns the changes after a revision; behind is true where they do not reach back to it.
func (t *table) since(known int) (out []Change, behind bool) {
	for _, c := range t.changes {
		switch {
		case c.Revision <= known:
		case c.From == known:
			out, known = append(out, c), c.Revision
		default:
			return nil, true
		}
	}
	return out, false
}

func (t *table) here() []Seen {
	out := make([]Seen, 0, len(t.watchers))
	for w := range t.watchers {
		out = append(out, w.seen)
	}
	slices.SortFunc(out, func(a, b Seen) int { return cmp.Or(cmp.Compare(a.Who, b.Who), cmp.Compare(a.Page, b.Page)) })
	return out
}

// At tells where a page is on a bench that it watches.
func (f *Feed) At(bench uint, page, who string, at Whereabouts) {
	f.mu.Lock()
	defer f.mu.Unlock()
	t := f.benches[bench]
	if t == nil {
		return
	}
	moved := false
	for w := range t.watchers {
		if w.seen.Page == page && w.seen.Who == who {
			w.seen.Whereabouts, moved = at, true
		}
	}
	if moved {
		t.tell(func(n *news) { n.here = true })
	}
}

// Everybody lists who has which bench open.
func (f *Feed) Everybody() map[uint][]Seen {
	f.mu.Lock()
	defer f.mu.Unlock()
	out := map[uint][]Seen{}
	for id, t := range f.benches {
		out[id] = t.here()
	}
	return out
}

// Stored passes on what the store tells. It is called for one notice at a time.
func (f *Feed) Stored(n store.Notice) {
	f.mu.Lock()
	defer f.mu.Unlock()
	t := f.benches[n.Bench]
	if t == nil {
		return
	}
	if n.Kind == store.Changed {
		if len(t.changes) == kept {
			t.changes = slices.Delete(t.changes, 0, kept/2)
		}
		t.changes = append(t.changes, Change{n.After.Revision, n.Before.Revision, n.Patch, n.By})
	}
	t.tell(func(m *news) {
		switch n.Kind {
		case store.Changed:
			m.changed = true
		case store.Logged:
			m.logged = true
		case store.Moved:
			m.moved = true
		}
	})
}

// Close ends all watches, and lets none begin.
func (f *Feed) Close() {
	f.mu.Lock()
	defer f.mu.Unlock()
	f.over = true
	for _, t := range f.benches {
		for w := range t.watchers {
			close(w.wake)
		}
	}
	f.benches = map[uint]*table{}
}
