// Package store keeps benches in SQLite through GORM, each with a revision
// number that a writer must know.
//
// It stands below server/api; it knows core/bench's document and no HTTP.
package store

import (
	"encoding/json"
	"errors"
	"fmt"
	"net/url"
	"os"
	"path/filepath"
	"time"

	"gorm.io/driver/sqlite"
	"gorm.io/gorm"
	"gorm.io/gorm/logger"
	_ "modernc.org/sqlite" // the driver named "sqlite"

	"slatebell/core/bench"
)

// FileName is the database's name in the data directory.
const FileName = "slatebell.db"

// ErrNotFound means that there is no bench of that number.
var ErrNotFound = errors.New("no such bench")

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
	Bench    bench.Bench
}

// row is the table's shape.
type row struct {
	ID        uint `gorm:"primaryKey"`
	Name      string
	Revision  int
	Document  string
	UpdatedAt time.Time
}

func (row) TableName() string { return "benches" }

func (r row) record() (Record, error) {
	rec := Record{ID: r.ID, Revision: r.Revision, Updated: r.UpdatedAt}
	if err := json.Unmarshal([]byte(r.Document), &rec.Bench); err != nil {
		return Record{}, fmt.Errorf("reading bench %d: %w", r.ID, err)
	}
	return rec, nil
}

// Store is an open database. Its methods may be called at the same time.
type Store struct{ db *gorm.DB }

// Open opens the database in a directory, which it makes where it is missing,
// and brings its schema up to date. WAL, foreign keys and a busy timeout of 5 s
// are on.
func Open(dir string) (*Store, error) {
	if err := os.MkdirAll(dir, 0o755); err != nil {
		return nil, fmt.Errorf("making data directory: %w", err)
	}
	return open(filepath.Join(dir, FileName))
}

func open(path string) (*Store, error) {
	pragmas := url.Values{"_pragma": {"journal_mode(WAL)", "foreign_keys(1)", "busy_timeout(5000)"}, "_txlock": {"immediate"}}
	dsn := "file:" + (&url.URL{Path: path}).EscapedPath() + "?" + pragmas.Encode()
	db, err := gorm.Open(sqlite.Dialector{DriverName: "sqlite", DSN: dsn}, &gorm.Config{Logger: logger.Discard, SkipDefaultTransaction: true})
	if err != nil {
		return nil, fmt.Errorf("opening %s: %w", path, err)
	}
	s := &Store{db}
	if err := migrate(db); err != nil {
		s.Close()
		return nil, fmt.Errorf("opening %s: %w", path, err)
	}
	return s, nil
}

// Close closes the database.
func (s *Store) Close() error {
	db, err := s.db.DB()
	if err != nil {
		return err
	}
	return db.Close()
}

// List returns all benches, the one that was changed last first.
func (s *Store) List() ([]Record, error) {
	var rows []row
	if err := s.db.Order("updated_at DESC, id DESC").Find(&rows).Error; err != nil {
		return nil, fmt.Errorf("listing benches: %w", err)
	}
	records := make([]Record, len(rows))
	for i, r := range rows {
		rec, err := r.record()
		if err != nil {
			return nil, err
		}
		records[i] = rec
	}
	return records, nil
}

// Get returns a bench, or ErrNotFound.
func (s *Store) Get(id uint) (Record, error) {
	return get(s.db, id)
}

func get(db *gorm.DB, id uint) (Record, error) {
	var r row
	err := db.Take(&r, id).Error
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return Record{}, ErrNotFound
	}
	if err != nil {
		return Record{}, fmt.Errorf("reading bench %d: %w", id, err)
	}
	return r.record()
}

// Create stores a new bench at revision 1.
func (s *Store) Create(b bench.Bench) (Record, error) {
	doc, err := json.Marshal(b)
	if err != nil {
		return Record{}, fmt.Errorf("storing bench: %w", err)
	}
	r := row{Name: b.Name, Revision: 1, Document: string(doc)}
	if err := s.db.Create(&r).Error; err != nil {
		return Record{}, fmt.Errorf("storing bench: %w", err)
	}
	return r.record()
}

// Update replaces a bench that is at the given revision, and returns it at the
// next. Where another revision is stored, it writes nothing and returns a
// *StaleError; where there is none, ErrNotFound.
func (s *Store) Update(id uint, revision int, b bench.Bench) (Record, error) {
	doc, err := json.Marshal(b)
	if err != nil {
		return Record{}, fmt.Errorf("storing bench %d: %w", id, err)
	}
	var out Record
	err = s.db.Transaction(func(tx *gorm.DB) error {
		res := tx.Model(&row{}).Where("id = ? AND revision = ?", id, revision).
			Updates(map[string]any{"name": b.Name, "document": string(doc), "revision": revision + 1, "updated_at": time.Now()})
		if res.Error != nil {
			return fmt.Errorf("storing bench %d: %w", id, res.Error)
		}
		stored, err := get(tx, id)
		if err != nil {
			return err
		}
		if res.RowsAffected == 0 {
			return &StaleError{Given: revision, Current: stored}
		}
		out = stored
		return nil
	})
	return out, err
}
