package store

import (
	"errors"
	"fmt"
	"io/fs"
	"syscall"

	"modernc.org/sqlite"
	sqlite3 "modernc.org/sqlite/lib"
)

// TroubleKind says what keeps a database from its work.
type TroubleKind int

// The kinds of trouble.
const (
	Broken   TroubleKind = iota // none of the others
	ReadOnly                    // it can be read and not written
	Locked                      // another program holds it
	Corrupt                     // it is no database, or a damaged one
	Full                        // there is no room
	Newer                       // a newer program made it
)

// words say what a kind of trouble is, and what to do about it.
var words = map[TroubleKind]struct{ what, todo string }{
	Broken:   {"the database %s cannot be used", "look whether its disk is there and in order, or name another directory with --data"},
	ReadOnly: {"the database %s cannot be written", "allow this user to write the file and its directory, or name another directory with --data"},
	Locked:   {"another program holds the database %s", "stop it, or let it finish; saving goes on by itself"},
	Corrupt:  {"%s is no Slate Bell database, or a damaged one", "put a copy in its place by “slatebell restore FILE” (a copy of every night is beside it, in copies), or name another directory with --data; nothing in it was changed"},
	Full:     {"there is no room left where the database %s lies", "make room on that disk; saving goes on by itself"},
	Newer:    {"%s was made by a newer Slate Bell", "start that one, or name another directory with --data; nothing in it was changed"},
}

// Trouble is an error of the database itself, in words that say what to do.
type Trouble struct {
	Kind TroubleKind
	Path string
	Err  error // may be nil
}

func (t *Trouble) Error() string {
	text := fmt.Sprintf(words[t.Kind].what, t.Path) + ": " + t.Todo()
	if t.Err != nil {
		text += fmt.Sprintf(" (%v)", t.Err)
	}
	return text
}

// What says what the trouble is, and Todo what to do about it.
func (t *Trouble) What() string {
	text := fmt.Sprintf(words[t.Kind].what, t.Path)
	if t.Err != nil {
		text += fmt.Sprintf(" (%v)", t.Err)
	}
	return text
}

// Todo says what to do about it.
func (t *Trouble) Todo() string { return words[t.Kind].todo }

func (t *Trouble) Unwrap() error { return t.Err }

// kinds maps SQLite's primary result codes.
var kinds = map[int]TroubleKind{
	sqlite3.SQLITE_BUSY: Locked, sqlite3.SQLITE_LOCKED: Locked,
	sqlite3.SQLITE_READONLY: ReadOnly, sqlite3.SQLITE_CANTOPEN: ReadOnly, sqlite3.SQLITE_PERM: ReadOnly,
	sqlite3.SQLITE_CORRUPT: Corrupt, sqlite3.SQLITE_NOTADB: Corrupt,
	sqlite3.SQLITE_FULL: Full,
}

// kindOf finds out what is behind an error; false where it is none of the
// database.
func kindOf(err error) (TroubleKind, bool) {
	var s *sqlite.Error
	switch {
	case errors.As(err, &s):
		return kinds[s.Code()&0xFF], true
	case errors.Is(err, syscall.ENOSPC):
		return Full, true
	case errors.Is(err, fs.ErrPermission), errors.Is(err, syscall.EROFS):
		return ReadOnly, true
	}
	return Broken, false
}

// trouble returns an error that kept a database from being opened as a *Trouble.
func trouble(path string, err error) *Trouble {
	var t *Trouble
	if errors.As(err, &t) {
		if t.Path == "" {
			t.Path = path
		}
		return t
	}
	kind, _ := kindOf(err)
	return &Trouble{Kind: kind, Path: path, Err: err}
}

// explained returns an error of the database as a *Trouble, and any other as it
// is.
func explained(path string, err error) error {
	var t *Trouble
	if _, of := kindOf(err); of || errors.As(err, &t) {
		return trouble(path, err)
	}
	return err
}
