// Package store keeps benches in SQLite through GORM, each with a revision
// number that a writer must know, and a bin for those taken away.
//
// It stands below server/api; it knows core/bench's document and no HTTP.
package store

import (
	"encoding/json"
	"errors"
	"fmt"
	"sync"
	"time"

	"gorm.io/gorm"

	"slatebell/core/bench"
	"slatebell/core/bench/logbook"
	"slatebell/core/bench/merge"
	"slatebell/core/finding"
	"slatebell/formats/benchjson"
)

// FileName is the database's name in the data directory.
const FileName = "slatebell.db"

// ErrNotFound means that there is no bench of that number.
var ErrNotFound = errors.New("no such bench")

// ErrBinned means that the bench lies in the bin.
var ErrBinned = errors.New("the bench is in the bin")

// StaleError means that a bench was written against an older revision than the
// stored one. Current is the stored one; nothing was written.
type StaleError struct {
	Given   int
	Current Record
	Clashes []merge.Clash // where both changed the same place; none where the state that the change was made against is not kept
}

func (e *StaleError) Error() string {
	if n := len(e.Clashes); n > 0 {
		return fmt.Sprintf("bench %d is at revision %d; what was changed at revision %d was changed there too: %s", e.Current.ID, e.Current.Revision, e.Given, e.Clashes[0].Path)
	}
	return fmt.Sprintf("bench %d is at revision %d; the change was made against revision %d", e.Current.ID, e.Current.Revision, e.Given)
}

// Record is a stored bench.
type Record struct {
	ID       uint
	Revision int
	Updated  time.Time
	Binned   *time.Time // when it was put into the bin; nil where it was not
	Given    Giving
	Bench    bench.Bench
}

// Giving says from which bench a copy was given out, and to whom; its zero value, that it was not.
type Giving struct {
	From uint
	To   string
}

// row is the table's shape.
type row struct {
	ID        uint `gorm:"primaryKey"`
	Name      string
	Revision  int
	Document  string
	UpdatedAt time.Time
	BinnedAt  *time.Time
	GivenFrom uint
	GivenTo   string
	Sum       uint32
}

func (row) TableName() string { return "benches" }

func (r row) record() (Record, error) {
	b, err := benchjson.Decode([]byte(r.Document))
	if err != nil {
		return Record{}, fmt.Errorf("reading bench %d: %w", r.ID, err)
	}
	return Record{ID: r.ID, Revision: r.Revision, Updated: r.UpdatedAt, Binned: r.BinnedAt, Given: Giving{r.GivenFrom, r.GivenTo}, Bench: b}, nil
}

// Store is an open database. Its methods may be called at the same time. Where
// the file can be read and not written, it reads, and each write tries again.
type Store struct {
	path string

	now func() time.Time // nil for the wall clock; tests set it

	recent   recent
	waiting  waiting
	writing  sync.Mutex // one transaction at a time: those that wait in SQLite may wait in vain
	turn     sync.Mutex // of changes that are told of, in the order in which they are stored
	mu       sync.RWMutex
	db       *gorm.DB
	listen   func(Notice)
	readOnly error // why nothing can be written; nil where it can
	mended   []string
}

func (s *Store) clock() time.Time {
	if s.now == nil {
		return time.Now()
	}
	return s.now()
}

// Notice tells that something of a bench was stored.
type Notice struct {
	Bench  uint
	Kind   NoticeKind
	Before *Record // of a bench that was changed, as After
	After  *Record
	Patch  finding.Patch // that leads from the one to the other
	By     string        // the page that did it, as its writer named it
}

// NoticeKind is what was stored.
type NoticeKind string

// Kinds of notices.
const (
	Changed NoticeKind = "changed" // the bench itself
	Logged  NoticeKind = "logged"  // its log
	Moved   NoticeKind = "moved"   // it went into the bin, or came out of it
)

// Listen has each notice told, one after the other for a bench, once it is stored. It is set before anything is asked for.
func (s *Store) Listen(listen func(Notice)) { s.listen = listen }

func (s *Store) tell(n Notice) {
	if s.listen != nil {
		s.listen(n)
	}
}

// read carries out reads.
func (s *Store) read(do func(db *gorm.DB) error) error {
	s.mu.RLock()
	defer s.mu.RUnlock()
	return explained(s.path, do(s.db))
}

// write carries out a transaction. A database that could only be read is opened
// anew first.
func (s *Store) write(do func(tx *gorm.DB) error) error {
	if s.Writable() != nil {
		if err := s.reopen(); err != nil {
			return err
		}
	}
	s.mu.RLock()
	defer s.mu.RUnlock()
	s.writing.Lock()
	defer s.writing.Unlock()
	return explained(s.path, s.db.Transaction(do))
}

// writeInTurn writes, and then does what follows before anybody else writes in turn.
func (s *Store) writeInTurn(do func(tx *gorm.DB) error, then func()) error {
	s.turn.Lock()
	defer s.turn.Unlock()
	if err := s.write(do); err != nil {
		return err
	}
	then()
	return nil
}

// List returns the benches that are not in the bin, the one that was changed
// last first.
func (s *Store) List() ([]Record, error) {
	return s.records("binned_at IS NULL", "updated_at DESC, id DESC")
}

func (s *Store) records(which, order string) (records []Record, err error) {
	err = s.read(func(db *gorm.DB) error {
		var rows []row
		if err := db.Where(which).Order(order).Find(&rows).Error; err != nil {
			return fmt.Errorf("listing benches: %w", err)
		}
		records = make([]Record, len(rows))
		for i, r := range rows {
			if records[i], err = r.record(); err != nil {
				return err
			}
		}
		return nil
	})
	return records, err
}

// Get returns a bench, ErrBinned where it is in the bin, or ErrNotFound.
func (s *Store) Get(id uint) (rec Record, err error) {
	err = s.read(func(db *gorm.DB) error {
		rec, err = get(db, id)
		return err
	})
	return rec, err
}

// get reads a bench that is not in the bin.
func get(db *gorm.DB, id uint) (Record, error) {
	var r row
	err := db.Take(&r, id).Error
	switch {
	case errors.Is(err, gorm.ErrRecordNotFound):
		return Record{}, ErrNotFound
	case err != nil:
		return Record{}, fmt.Errorf("reading bench %d: %w", id, err)
	case r.BinnedAt != nil:
		return Record{}, ErrBinned
	}
	if err := whole(&r); err != nil {
		return Record{}, err
	}
	return r.record()
}

// Create stores a new bench at revision 1, and the entries of a log that it brings along.
func (s *Store) Create(b bench.Bench, log ...logbook.Entry) (rec Record, err error) {
	return s.create(b, Giving{}, log)
}

func (s *Store) create(b bench.Bench, given Giving, log []logbook.Entry) (rec Record, err error) {
	doc, err := json.Marshal(b)
	if err != nil {
		return Record{}, fmt.Errorf("storing bench: %w", err)
	}
	err = s.write(func(tx *gorm.DB) error {
		r := row{Name: b.Name, Revision: 1, Document: string(doc), GivenFrom: given.From, GivenTo: given.To}
		if err := insert(tx, &r); err != nil {
			return fmt.Errorf("storing bench: %w", err)
		}
		if err := remember(tx, r.ID, 1, r.UpdatedAt, "begun", "", doc, false); err != nil {
			return err
		}
		for _, e := range log {
			if _, err := note(tx, r.ID, e); err != nil {
				return fmt.Errorf("storing the bench’s log: %w", err)
			}
		}
		rec, err = r.record()
		return err
	})
	return rec, err
}

// Update replaces a bench that is at the given revision by what change makes of
// it, and returns it at the next. Where another revision is stored, it writes
// nothing and returns a *StaleError; where there is none, ErrNotFound or
// ErrBinned. An error of change, which must leave what it is given as it is, is returned as it
// is.
func (s *Store) Update(id uint, revision int, change func(bench.Bench) (bench.Bench, error)) (rec Record, err error) {
	var before Record
	var patch finding.Patch
	err = s.writeInTurn(func(tx *gorm.DB) error {
		if before, err = s.current(tx, id); err != nil {
			return err
		}
		if before.Revision != revision {
			return &StaleError{Given: revision, Current: before}
		}
		next, err := change(before.Bench)
		if err != nil {
			return err
		}
		if patch, err = benchjson.Diff(&before.Bench, &next); err != nil {
			return err
		}
		rec = s.following(&before, next)
		return s.put(tx, &before, &rec, "")
	}, func() {
		s.recent.add(&rec, patch)
		s.tell(Notice{id, Changed, &before, &rec, patch, ""})
	})
	return rec, err
}

// following is a bench as it is after a change.
func (s *Store) following(before *Record, next bench.Bench) Record {
	return Record{ID: before.ID, Revision: before.Revision + 1, Updated: s.clock(), Given: before.Given, Bench: next}
}

// put writes what became of a bench, and keeps its state.
func (s *Store) put(tx *gorm.DB, before, rec *Record, by string) error {
	doc, err := json.Marshal(rec.Bench)
	if err != nil {
		return fmt.Errorf("storing bench %d: %w", rec.ID, err)
	}
	r := row{ID: rec.ID, Revision: rec.Revision, Name: rec.Bench.Name, Document: string(doc), BinnedAt: rec.Binned, GivenFrom: rec.Given.From, GivenTo: rec.Given.To}
	err = tx.Model(&row{}).Where("id = ?", rec.ID).Updates(map[string]any{"name": r.Name, "document": r.Document, "revision": r.Revision, "updated_at": rec.Updated, "sum": r.counted()}).Error
	if err != nil {
		return fmt.Errorf("storing bench %d: %w", rec.ID, err)
	}
	if s.recent.of(rec.ID) == nil {
		if err := s.first(tx, before); err != nil {
			return err
		}
	}
	return remember(tx, rec.ID, rec.Revision, rec.Updated, whatChanged(&before.Bench, &rec.Bench), by, doc, s.recent.thins(before, rec))
}

// first keeps the state of a bench that was stored before states were kept.
func (s *Store) first(tx *gorm.DB, stored *Record) error {
	var n int64
	if err := tx.Model(&stateRow{}).Where("bench_id = ? AND revision = ?", stored.ID, stored.Revision).Count(&n).Error; err != nil || n > 0 {
		return err
	}
	doc, err := json.Marshal(stored.Bench)
	if err != nil {
		return err
	}
	return remember(tx, stored.ID, stored.Revision, stored.Updated, "as it was", "", doc, false)
}

// Replace returns the change that Update makes with a whole document.
func Replace(b bench.Bench) func(bench.Bench) (bench.Bench, error) {
	return func(bench.Bench) (bench.Bench, error) { return b, nil }
}
