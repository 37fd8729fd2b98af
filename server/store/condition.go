package store

import (
	"errors"
	"fmt"
	"net/url"
	"os"

	"gorm.io/gorm"
)

// Condition is how a database file is found.
type Condition struct {
	Path    string
	Bytes   int64 // with its write-ahead log
	Schema  int   // version, from 1
	Benches int   // on the shelf
	Binned  int
	Entries int      // of all logs
	Damage  []string // what is wrong with it, as SQLite says; none in one that is whole
}

// Current reports whether a database has the schema that this program writes.
func (c Condition) Current() bool { return c.Schema == len(migrations) }

// Examine looks a database file over, page by page, and writes nothing. Its error is a *Trouble: no file, one that cannot be read, that is
// no database of this program, or a newer one's. Where it can be read in part, what is damaged is in the condition.
func Examine(path string) (Condition, error) {
	c := Condition{Path: path}
	info, err := os.Stat(path)
	if err != nil {
		return c, trouble(path, err)
	}
	c.Bytes = info.Size()
	if wal, err := os.Stat(path + "-wal"); err == nil {
		c.Bytes += wal.Size()
	}
	db, err := look(path)
	if err != nil {
		return c, trouble(path, err)
	}
	defer closeDB(db)
	if c.Schema, err = known(db); err != nil {
		return c, trouble(path, err)
	}
	if c.Schema == 0 {
		return c, &Trouble{Kind: Corrupt, Path: path, Err: errors.New("it has no tables")}
	}
	c.Damage = damaged(db, "integrity_check(20)")
	count := func(into *int, table, where string) {
		if err := db.Raw("SELECT count(*) FROM " + table + " WHERE " + where).Scan(into).Error; err != nil {
			c.Damage = append(c.Damage, fmt.Sprintf("reading %s: %v", table, err))
		}
	}
	if c.Schema < schemaOfBin {
		count(&c.Benches, "benches", "true")
		return c, nil
	}
	count(&c.Benches, "benches", "binned_at IS NULL")
	count(&c.Binned, "benches", "binned_at IS NOT NULL")
	if c.Schema >= schemaOfLog {
		count(&c.Entries, "entries", "true")
	}
	if c.Schema >= schemaOfSums {
		if err := judge(db, func(_ summed, err error) { c.Damage = append(c.Damage, errors.Unwrap(err).Error()) }); err != nil {
			c.Damage = append(c.Damage, fmt.Sprintf("reading every row: %v", err))
		}
	}
	return c, nil
}

// look opens a database to read it: with its write-ahead log where there is one, else as a file that does not change, so that nothing is
// laid beside it.
func look(path string) (*gorm.DB, error) {
	values := url.Values{"mode": {"ro"}, "_pragma": {"busy_timeout(5000)"}}
	if _, err := os.Stat(path + "-wal"); err != nil {
		values.Set("immutable", "1")
	}
	return connect(path, values)
}

// known returns the schema's version of a database; 0 of one without tables. Its error says that it is another program's, or a newer one's.
func known(db *gorm.DB) (version int, err error) {
	if err := db.Raw("PRAGMA user_version").Scan(&version).Error; err != nil {
		return 0, fmt.Errorf("reading the schema's version: %w", err)
	}
	var tables, ours int
	if err := db.Raw("SELECT count(*), count(*) FILTER (WHERE name = 'benches') FROM sqlite_schema WHERE type = 'table'").Row().Scan(&tables, &ours); err != nil {
		return 0, fmt.Errorf("reading the schema: %w", err)
	}
	switch {
	case version > len(migrations):
		return version, &Trouble{Kind: Newer, Err: fmt.Errorf("it has schema %d, this program knows up to %d", version, len(migrations))}
	case ours == 0 && (version != 0 || tables > 0), ours > 0 && version == 0:
		return version, &Trouble{Kind: Corrupt, Err: errors.New("its tables are another program's")}
	}
	return version, nil
}
