package store

import (
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
)

// Open opens the database in a directory, which it makes where it is missing,
// and brings its schema up to date, after a copy of it was kept beside it. All that it holds is looked over first; a bench
// that a disk has damaged is put right from the state that is kept of its revision (see Mended). WAL, foreign keys and a busy timeout of 5 s
// are on. What keeps a database from being opened is a *Trouble.
func Open(dir string) (*Store, error) {
	path := filepath.Join(dir, FileName)
	if err := os.MkdirAll(dir, 0o755); err != nil {
		return nil, fmt.Errorf("making data directory: %w", trouble(path, err))
	}
	return open(path)
}

func open(path string) (*Store, error) {
	s := &Store{path: path}
	err := keepBefore(path, time.Now())
	if err == nil {
		var db *gorm.DB
		db, err = connect(path, url.Values{"_pragma": {"journal_mode(WAL)", "foreign_keys(1)", "busy_timeout(5000)"}, "_txlock": {"immediate"}})
		if err == nil {
			if err = migrate(db); err == nil {
				s.mended, err = check(db)
			}
			if err == nil {
				s.db = db
				return s, nil
			}
			closeDB(db)
		}
	}
	if t := trouble(path, err); t.Kind != ReadOnly {
		return nil, t
	}
	if s.db, err = readable(path); err != nil {
		return nil, trouble(path, err)
	}
	s.readOnly = &Trouble{Kind: ReadOnly, Path: path}
	return s, nil
}

// readable opens a database that cannot be written: with its write-ahead log
// where there is one, else as a file that does not change.
func readable(path string) (*gorm.DB, error) {
	values := url.Values{"mode": {"ro"}, "immutable": {"1"}}
	if info, err := os.Stat(path + "-wal"); err == nil && info.Size() > 0 {
		values.Del("immutable")
	}
	db, err := connect(path, values)
	if err != nil {
		return nil, err
	}
	var version int
	err = db.Raw("PRAGMA user_version").Scan(&version).Error
	if err == nil && version != len(migrations) {
		err = &Trouble{Kind: ReadOnly, Path: path, Err: errors.New("it must be written once to be brought up to date")}
	}
	if err == nil {
		_, err = check(db)
	}
	if err != nil {
		closeDB(db)
		return nil, err
	}
	return db, nil
}

func connect(path string, values url.Values) (*gorm.DB, error) {
	dsn := "file:" + (&url.URL{Path: path}).EscapedPath() + "?" + values.Encode()
	db, err := gorm.Open(sqlite.Dialector{DriverName: "sqlite", DSN: dsn}, &gorm.Config{Logger: logger.Discard, SkipDefaultTransaction: true})
	if err != nil {
		return nil, err
	}
	pool, err := db.DB()
	if err != nil {
		return nil, err
	}
	pool.SetMaxOpenConns(4)
	return db, nil
}

func closeDB(db *gorm.DB) error {
	pool, err := db.DB()
	if err != nil {
		return err
	}
	return pool.Close()
}

// Close closes the database.
func (s *Store) Close() error {
	s.mu.Lock()
	defer s.mu.Unlock()
	return closeDB(s.db)
}

// Mended names what was damaged as the database was opened, and put right.
func (s *Store) Mended() []string { return s.mended }

// Writable returns nil, or the *Trouble that lets the database be read only.
func (s *Store) Writable() error {
	s.mu.RLock()
	defer s.mu.RUnlock()
	return s.readOnly
}

// reopen replaces a database that could only be read by one that can be written.
func (s *Store) reopen() error {
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.readOnly == nil {
		return nil // another writer has done it
	}
	again, err := open(s.path)
	if err != nil {
		return err
	}
	if again.readOnly != nil {
		closeDB(again.db)
		return again.readOnly
	}
	closeDB(s.db)
	s.db, s.readOnly = again.db, nil
	return nil
}
