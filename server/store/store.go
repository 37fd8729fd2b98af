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
}

func (e *StaleError) Error() string {
	return fmt.Sprintf("bench %d is at revision %d; the change was made against revision %d", e.Current.ID, e.Current.Revision, e.Given)
}

// Record is a stored bench.
type Record struct {
	ID       uint
	Revision int
	Updated  time.Time
	Binned   *time.Time // when it was put into the bin; nil where it was not
	Bench    bench.Bench
}

// row is the table's shape.
type row struct {
	ID        uint `gorm:"primaryKey"`
	Name      string
	Revision  int
	Document  string
	UpdatedAt time.Time
	BinnedAt  *time.Time
}

func (row) TableName() string { return "benches" }

func (r row) record() (Record, error) {
	b, err := benchjson.Decode([]byte(r.Document))
	if err != nil {
		return Record{}, fmt.Errorf("reading bench %d: %w", r.ID, err)
	}
	return Record{ID: r.ID, Revision: r.Revision, Updated: r.UpdatedAt, Binned: r.BinnedAt, Bench: b}, nil
}

// Store is an open database. Its methods may be called at the same time. Where
// the file can be read and not written, it reads, and each write tries again.
type Store struct {
	path string

	now func() time.Time // nil for the wall clock; tests set it

	mu       sync.RWMutex
	db       *gorm.DB
	readOnly error // why nothing can be written; nil where it can
}

func (s *Store) clock() time.Time {
	if s.now == nil {
		return time.Now()
	}
	return s.now()
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
	return explained(s.path, s.db.Transaction(do))
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
	return r.record()
}

// Create stores a new bench at revision 1, and the entries of a log that it brings along.
func (s *Store) Create(b bench.Bench, log ...logbook.Entry) (rec Record, err error) {
	doc, err := json.Marshal(b)
	if err != nil {
		return Record{}, fmt.Errorf("storing bench: %w", err)
	}
	err = s.write(func(tx *gorm.DB) error {
		r := row{Name: b.Name, Revision: 1, Document: string(doc)}
		if err := tx.Create(&r).Error; err != nil {
			return fmt.Errorf("storing bench: %w", err)
		}
		if err := remember(tx, r.ID, 1, r.UpdatedAt, "begun", doc); err != nil {
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
	err = s.write(func(tx *gorm.DB) error {
		stored, err := get(tx, id)
		if err != nil {
			return err
		}
		if stored.Revision != revision {
			return &StaleError{Given: revision, Current: stored}
		}
		next, err := change(stored.Bench)
		if err != nil {
			return err
		}
		doc, err := json.Marshal(next)
		if err != nil {
			return fmt.Errorf("storing bench %d: %w", id, err)
		}
		rec = Record{ID: id, Revision: revision + 1, Updated: s.clock(), Bench: next}
		err = tx.Model(&row{}).Where("id = ?", id).Updates(map[string]any{"name": next.Name, "document": string(doc), "revision": rec.Revision, "updated_at": rec.Updated}).Error
		if err != nil {
			return fmt.Errorf("storing bench %d: %w", id, err)
		}
		if err := s.first(tx, &stored); err != nil {
			return err
		}
		return remember(tx, id, rec.Revision, rec.Updated, whatChanged(&stored.Bench, &next), doc)
	})
	return rec, err
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
	return remember(tx, stored.ID, stored.Revision, stored.Updated, "as it was", doc)
}

// Replace returns the change that Update makes with a whole document.
func Replace(b bench.Bench) func(bench.Bench) (bench.Bench, error) {
	return func(bench.Bench) (bench.Bench, error) { return b, nil }
}
