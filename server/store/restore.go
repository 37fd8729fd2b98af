package store

import (
	"errors"
	"fmt"
	"io"
	"io/fs"
	"net/url"
	"os"
	"path/filepath"
	"time"
)

// RestoreDatabase puts a copy in the place of the database in a directory, which is made where it is missing. No program may have it open. What was there is
// kept among the copies, under the name that is returned, "" where there was none. Nothing is changed where it fails: the copy is examined first,
// and one that is damaged, newer than this program or no database of its kind is refused.
func RestoreDatabase(dir, file string, now time.Time) (c Condition, kept string, err error) {
	if c, err = Examine(file); err != nil {
		return c, "", err
	}
	if len(c.Damage) > 0 {
		return c, "", &Trouble{Kind: Corrupt, Path: file, Err: errors.New(c.Damage[0])}
	}
	path := filepath.Join(dir, FileName)
	if same(path, file) {
		return c, "", fmt.Errorf("%s is the database itself; name a copy of it (those that were made by themselves are in %s)", file, filepath.Join(dir, CopiesDir))
	}
	if err := os.MkdirAll(dir, 0o755); err != nil {
		return c, "", trouble(path, err)
	}
	next := path + ".new"
	os.Remove(next) // of one that was broken off
	defer os.Remove(next)
	db, err := look(file)
	if err != nil {
		return c, "", trouble(file, err)
	}
	err = copyInto(db, next)
	closeDB(db)
	if err != nil {
		return c, "", explained(next, err)
	}
	if _, err := os.Lstat(path); errors.Is(err, fs.ErrNotExist) {
		return c, "", explained(path, os.Rename(next, path))
	}
	if err := setAside(path); err != nil {
		return c, "", err
	}
	if kept, err = place(dir, replaced, now); err == nil {
		err = another(path, kept)
	}
	if err != nil {
		return c, "", explained(kept, fmt.Errorf("keeping what is there: %w", err))
	}
	// A write-ahead log is there only of a database that SQLite could not read: it goes with it.
	for _, tail := range []string{"-wal", "-shm"} {
		if err := os.Rename(path+tail, kept+tail); err != nil && !errors.Is(err, fs.ErrNotExist) {
			return c, kept, explained(path, err)
		}
	}
	return c, kept, explained(path, os.Rename(next, path))
}

// setAside writes what a database's write-ahead log holds into it, and fails where another program has it open. One that is damaged is left
// as it is.
func setAside(path string) error {
	db, err := connect(path, url.Values{"_pragma": {"locking_mode(EXCLUSIVE)", "busy_timeout(500)"}})
	if err == nil {
		var mode string
		err = db.Raw("PRAGMA journal_mode = DELETE").Scan(&mode).Error
		closeDB(db)
	}
	if err == nil {
		return nil
	}
	if t := trouble(path, err); t.Kind != Corrupt {
		return t
	}
	return nil
}

// same reports whether two names are of one file.
func same(a, b string) bool {
	first, err := os.Stat(a)
	if err != nil {
		return false
	}
	second, err := os.Stat(b)
	return err == nil && os.SameFile(first, second)
}

// another gives a file a second name; where the disk knows no such thing, it is copied.
func another(path, name string) error {
	if os.Link(path, name) == nil {
		return nil
	}
	in, err := os.Open(path)
	if err != nil {
		return err
	}
	defer in.Close()
	out, err := os.OpenFile(name, os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o644)
	if err != nil {
		return err
	}
	if _, err := io.Copy(out, in); err != nil {
		out.Close()
		os.Remove(name)
		return err
	}
	return errors.Join(out.Sync(), out.Close())
}
