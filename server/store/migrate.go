package store

import (
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"time"

	"gorm.io/gorm"
)

// migrations bring a database from version i to i+1. They are never changed
// once released; their tests start from every earlier version.
var migrations = []string{
	`CREATE TABLE benches (
		id INTEGER PRIMARY KEY AUTOINCREMENT,
		name TEXT NOT NULL,
		revision INTEGER NOT NULL CHECK (revision > 0),
		document TEXT NOT NULL CHECK (json_valid(document)),
		updated_at DATETIME NOT NULL
	)`,
	`ALTER TABLE benches ADD COLUMN binned_at DATETIME`,
	`CREATE TABLE entries (
		id INTEGER PRIMARY KEY AUTOINCREMENT,
		bench_id INTEGER NOT NULL REFERENCES benches(id) ON DELETE CASCADE,
		at DATETIME NOT NULL,
		document TEXT NOT NULL CHECK (json_valid(document))
	);
	CREATE INDEX entries_of_bench ON entries(bench_id, at);
	CREATE TABLE pictures (
		entry_id INTEGER NOT NULL REFERENCES entries(id) ON DELETE CASCADE,
		n INTEGER NOT NULL,
		type TEXT NOT NULL,
		data BLOB NOT NULL,
		PRIMARY KEY (entry_id, n)
	)`,
	`CREATE TABLE states (
		bench_id INTEGER NOT NULL REFERENCES benches(id) ON DELETE CASCADE,
		revision INTEGER NOT NULL CHECK (revision > 0),
		at DATETIME NOT NULL,
		what TEXT NOT NULL,
		document BLOB NOT NULL,
		PRIMARY KEY (bench_id, revision)
	)`,
	`CREATE TABLE devices (
		id INTEGER PRIMARY KEY AUTOINCREMENT,
		name TEXT NOT NULL,
		role TEXT NOT NULL,
		token BLOB NOT NULL UNIQUE,
		let_in DATETIME NOT NULL,
		seen DATETIME NOT NULL
	);
	CREATE TABLE settings (
		name TEXT PRIMARY KEY,
		value TEXT NOT NULL
	);
	ALTER TABLE benches ADD COLUMN given_from INTEGER NOT NULL DEFAULT 0;
	ALTER TABLE benches ADD COLUMN given_to TEXT NOT NULL DEFAULT '';
	ALTER TABLE states ADD COLUMN by TEXT NOT NULL DEFAULT ''`,
	`ALTER TABLE benches ADD COLUMN sum INTEGER NOT NULL DEFAULT 0;
	ALTER TABLE entries ADD COLUMN sum INTEGER NOT NULL DEFAULT 0;
	ALTER TABLE pictures ADD COLUMN sum INTEGER NOT NULL DEFAULT 0;
	ALTER TABLE states ADD COLUMN sum INTEGER NOT NULL DEFAULT 0`,
}

// Versions that brought what is counted in a database.
const (
	schemaOfBin = 2
	schemaOfLog = 3
)

// afterwards is what a migration does besides, by the schema that it leads to.
var afterwards = map[int]func(tx *gorm.DB) error{schemaOfSums: sumUpAll}

// migrate brings the schema up to date. SQLite's user_version holds the version
// of a database.
func migrate(db *gorm.DB) error {
	return db.Transaction(func(tx *gorm.DB) error {
		version, err := known(tx)
		if err != nil {
			return err
		}
		if version == len(migrations) {
			return nil
		}
		for ; version < len(migrations); version++ {
			if err := tx.Exec(migrations[version]).Error; err != nil {
				return fmt.Errorf("migrating to schema %d: %w", version+1, err)
			}
			if also := afterwards[version+1]; also != nil {
				if err := also(tx); err != nil {
					return fmt.Errorf("migrating to schema %d: %w", version+1, err)
				}
			}
		}
		return tx.Exec(fmt.Sprintf("PRAGMA user_version = %d", version)).Error
	})
}

// keepBefore copies a database that is about to be brought up to date, into its copies. It looks first, so that one of a newer program is
// refused untouched.
func keepBefore(path string, now time.Time) error {
	if info, err := os.Stat(path); err != nil || info.Size() == 0 {
		return nil // a new one
	}
	db, err := look(path)
	if err != nil {
		return err
	}
	defer closeDB(db)
	version, err := known(db)
	if err != nil || version == 0 || version == len(migrations) {
		return err
	}
	if damage := damaged(db, "quick_check(1)"); damage != nil {
		return &Trouble{Kind: Corrupt, Path: path, Err: errors.New(damage[0])}
	}
	name, err := place(filepath.Dir(path), fmt.Sprintf("%s-%d", migrated, len(migrations)), now)
	if err == nil {
		err = copyInto(db, name)
	}
	if err != nil {
		return fmt.Errorf("keeping a copy before the database is brought up to date: %w", err)
	}
	return nil
}
