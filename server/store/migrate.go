package store

import (
	"fmt"

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
}

// migrate brings the schema up to date. SQLite's user_version holds the version
// of a database.
func migrate(db *gorm.DB) error {
	return db.Transaction(func(tx *gorm.DB) error {
		var version int
		if err := tx.Raw("PRAGMA user_version").Scan(&version).Error; err != nil {
			return fmt.Errorf("reading the schema's version: %w", err)
		}
		if version > len(migrations) {
			return fmt.Errorf("the database has schema %d, made by a newer program; this one knows up to %d: start the newer one, or name another directory with --data", version, len(migrations))
		}
		if version == len(migrations) {
			return nil
		}
		for ; version < len(migrations); version++ {
			if err := tx.Exec(migrations[version]).Error; err != nil {
				return fmt.Errorf("migrating to schema %d: %w", version+1, err)
			}
		}
		return tx.Exec(fmt.Sprintf("PRAGMA user_version = %d", version)).Error
	})
}
