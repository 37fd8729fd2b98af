package store

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"gorm.io/gorm"
)

// Copies of the database lie in a directory of their own beside it.
const (
	CopiesDir = "copies"
	Nights    = 7 // of the nightly ones so many are kept; those made before a change of the database stay until somebody removes them
)

// Whys of copies, with which their names begin.
const (
	nightly  = "nightly"
	migrated = "before-schema" // and its number
	replaced = "before-restore"
)

// Copy is a copy of the database that the program has made by itself.
type Copy struct {
	Path  string    `json:"path"`
	At    time.Time `json:"at"`
	Bytes int64     `json:"bytes"`
	Why   string    `json:"why"` // for people
}

// Copies lists the copies beside the database in a directory, the latest first.
func Copies(dir string) ([]Copy, error) {
	entries, err := os.ReadDir(filepath.Join(dir, CopiesDir))
	out := []Copy{}
	if errors.Is(err, fs.ErrNotExist) {
		return out, nil
	}
	if err != nil {
		return nil, err
	}
	for _, e := range entries {
		name, isCopy := strings.CutSuffix(e.Name(), ".db")
		info, err := e.Info()
		if !isCopy || err != nil { // what is being written has another ending; what is gone by now is none
			continue
		}
		c := Copy{Path: filepath.Join(dir, CopiesDir, e.Name()), At: info.ModTime(), Bytes: info.Size(), Why: "put there by somebody"}
		switch {
		case strings.HasPrefix(name, nightly+"-"):
			c.Why = "the copy of that day"
		case strings.HasPrefix(name, migrated+"-"):
			number, _, _ := strings.Cut(strings.TrimPrefix(name, migrated+"-"), "-")
			c.Why = "before it was brought to schema " + number
		case strings.HasPrefix(name, replaced+"-"):
			c.Why = "before another was put in its place"
		}
		out = append(out, c)
	}
	slices.SortFunc(out, func(a, b Copy) int { return cmp.Or(b.At.Compare(a.At), strings.Compare(b.Path, a.Path)) })
	return out, nil
}

// stamp is how a time stands in a copy's name.
const stamp = "2006-01-02T150405"

// place returns a free name among the copies, whose directory it makes.
func place(dir, why string, at time.Time) (string, error) {
	dir = filepath.Join(dir, CopiesDir)
	if err := os.MkdirAll(dir, 0o755); err != nil {
		return "", err
	}
	name := filepath.Join(dir, why+"-"+at.Format(stamp))
	free := name + ".db"
	for n := 2; ; n++ {
		if _, err := os.Lstat(free); errors.Is(err, fs.ErrNotExist) {
			return free, nil
		} else if err != nil {
			return "", err
		}
		free = fmt.Sprintf("%s-%d.db", name, n)
	}
}

// CopyOfNight copies the database where it was changed since its last nightly copy and has none of this day, and lets go of those beyond
// Nights. It returns the copy's name, "" where none was made.
func (s *Store) CopyOfNight() (string, error) {
	now := s.clock()
	dir := filepath.Dir(s.path)
	name := filepath.Join(dir, CopiesDir, nightly+"-"+now.Format(time.DateOnly)+".db")
	kept, err := nights(dir, name)
	if err != nil {
		return "", err
	}
	if len(kept) > 0 && (kept[0] == name || kept[0] < name && !changedSince(s.path, kept[0])) {
		return "", nil
	}
	var benches int64
	if err := s.read(func(db *gorm.DB) error { return db.Model(&row{}).Count(&benches).Error }); err != nil || benches == 0 {
		return "", err // nothing to keep yet
	}
	if err := os.MkdirAll(filepath.Dir(name), 0o755); err != nil {
		return "", err
	}
	part := name + ".part"
	os.Remove(part) // of a program that ended while it wrote
	if err := s.Backup(part); err != nil {
		return "", err
	}
	c, err := Examine(part)
	if err == nil && len(c.Damage) > 0 { // none that is good goes for it
		err = &Trouble{Kind: Corrupt, Path: s.path, Err: errors.New(c.Damage[0])}
	}
	if err == nil {
		err = os.Rename(part, name)
	}
	if err != nil {
		os.Remove(part)
		return "", err
	}
	for _, old := range kept[min(Nights-1, len(kept)):] {
		err = errors.Join(err, os.Remove(old))
	}
	return name, err
}

// nights returns the nightly copies, the latest first. Those later than the one of today were made by a clock that was set back since, or
// today's goes wrong: they come last.
func nights(dir, today string) ([]string, error) {
	names, err := filepath.Glob(filepath.Join(escapeGlob(filepath.Join(dir, CopiesDir)), nightly+"-*.db"))
	later := func(name string) int {
		if name > today {
			return 1
		}
		return 0
	}
	slices.SortFunc(names, func(a, b string) int { return cmp.Or(later(a)-later(b), strings.Compare(b, a)) })
	return names, err
}

// escapeGlob returns a pattern that matches a name only.
func escapeGlob(name string) string {
	return strings.NewReplacer("*", "[*]", "?", "[?]", "[", "[[]").Replace(name)
}

// changedSince reports whether a database, or its write-ahead log, was written after a copy of it.
func changedSince(path, copied string) bool {
	at, err := os.Stat(copied)
	if err != nil {
		return true
	}
	for _, name := range []string{path, path + "-wal"} {
		if info, err := os.Stat(name); err == nil && info.ModTime().After(at.ModTime()) {
			return true
		}
	}
	return false
}

// CopyNightly makes the copy of each night until the context is done: now, and then whenever so long has gone by; told hears of each, and of
// what kept one from being made.
func (s *Store) CopyNightly(ctx context.Context, every time.Duration, told func(name string, err error)) {
	ticks := time.NewTicker(every)
	defer ticks.Stop()
	for {
		if name, err := s.CopyOfNight(); name != "" || err != nil {
			told(name, err)
		}
		select {
		case <-ctx.Done():
			return
		case <-ticks.C:
		}
	}
}
