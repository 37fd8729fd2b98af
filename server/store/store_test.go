package store

import (
	"bytes"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"syscall"
	"testing"

	"gorm.io/gorm"

	"slatebell/core/bench"
)

func TestKeepsAndRefuses(t *testing.T) {
	dir := filepath.Join(t.TempDir(), "new", "place")
	s, err := Open(dir)
	if err != nil {
		t.Fatal(err)
	}
	first, err := s.Create(bench.New("Boathouse"))
	if err != nil || first.Revision != 1 {
		t.Fatalf("%+v, %v", first, err)
	}
	b := first.Bench
	b.Modules[0].Screens[0].Rows = []string{"Tide 3.2 m", "\uE0DF"}
	second, err := s.Update(first.ID, 1, Replace(b))
	if err != nil || second.Revision != 2 {
		t.Fatalf("%+v, %v", second, err)
	}
	b.Name = "stale"
	var stale *StaleError
	if _, err := s.Update(first.ID, 1, Replace(b)); !errors.As(err, &stale) || stale.Current.Revision != 2 || stale.Current.Bench.Name != "Boathouse" {
		t.Errorf("a stale write: %v", err)
	}
	if _, err := s.Update(99, 1, Replace(b)); !errors.Is(err, ErrNotFound) {
		t.Errorf("a write to nothing: %v", err)
	}
	s.Close()

	again, err := Open(dir)
	if err != nil {
		t.Fatal(err)
	}
	defer again.Close()
	kept, err := again.Get(first.ID)
	if err != nil || kept.Revision != 2 || strings.Join(kept.Bench.Modules[0].Screens[0].Rows, "|") != "Tide 3.2 m|\uE0DF" {
		t.Errorf("after reopening: %+v, %v", kept, err)
	}
	var mode string
	var foreign, timeout int
	again.db.Raw("PRAGMA journal_mode").Scan(&mode)
	again.db.Raw("PRAGMA foreign_keys").Scan(&foreign)
	again.db.Raw("PRAGMA busy_timeout").Scan(&timeout)
	if mode != "wal" || foreign != 1 || timeout != 5000 {
		t.Errorf("journal %s, foreign keys %d, busy timeout %d", mode, foreign, timeout)
	}
}

// TestOneWins races writers against one revision: each revision is won once.
func TestOneWins(t *testing.T) {
	s, err := Open(t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	defer s.Close()
	rec, err := s.Create(bench.New("race"))
	if err != nil {
		t.Fatal(err)
	}
	var mu sync.Mutex
	won := 0
	var all sync.WaitGroup
	for range 8 {
		all.Go(func() {
			_, err := s.Update(rec.ID, 1, Replace(rec.Bench))
			var stale *StaleError
			mu.Lock()
			defer mu.Unlock()
			if err == nil {
				won++
			} else if !errors.As(err, &stale) {
				t.Error(err)
			}
		})
	}
	all.Wait()
	if won != 1 {
		t.Errorf("%d writers won one revision", won)
	}
}

// TestMigrations starts from every earlier schema, with a bench of document
// version 1 in it where that schema can hold one.
func TestMigrations(t *testing.T) {
	demo, err := os.ReadFile("../../formats/benchjson/testdata/v1/demo.json")
	if err != nil {
		t.Fatal(err)
	}
	for version := range migrations {
		path := filepath.Join(t.TempDir(), FileName)
		db, err := connect(path, nil)
		if err != nil {
			t.Fatal(err)
		}
		for _, step := range migrations[:version] {
			db.Exec(step)
		}
		if version > 0 {
			db.Exec("INSERT INTO benches (name, revision, document, updated_at) VALUES ('kept', 7, ?, CURRENT_TIMESTAMP)", string(demo))
		}
		db.Exec(fmt.Sprintf("PRAGMA user_version = %d", version))
		closeDB(db)
		s, err := open(path)
		if err != nil {
			t.Fatalf("from schema %d: %v", version, err)
		}
		records, err := s.List()
		if want := min(version, 1); err != nil || len(records) != want {
			t.Fatalf("from schema %d: %d benches, want %d, %v", version, len(records), want, err)
		}
		if version > 0 && (records[0].Revision != 7 || records[0].Bench.Version != bench.Version || records[0].Bench.Modules[1].Display.Geometry != "20x4") {
			t.Errorf("from schema %d: %+v", version, records[0])
		}
		s.Close()
	}
	path := filepath.Join(t.TempDir(), FileName)
	s, err := open(path)
	if err != nil {
		t.Fatal(err)
	}
	s.db.Exec("PRAGMA user_version = 99")
	s.Close()
	if _, err := open(path); err == nil || !strings.Contains(err.Error(), "was made by a newer Slate Bell") {
		t.Errorf("a newer schema: %v", err)
	}
}

func TestBin(t *testing.T) {
	s, err := Open(t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	defer s.Close()
	for _, name := range []string{"gate", "hall"} {
		if _, err := s.Create(bench.New(name)); err != nil {
			t.Fatal(err)
		}
	}
	names := func(list func() ([]Record, error)) (out []string) {
		records, err := list()
		if err != nil {
			t.Fatal(err)
		}
		for _, r := range records {
			out = append(out, r.Bench.Name)
		}
		return out
	}
	if err := s.Discard(1); err != nil {
		t.Fatal(err)
	}
	if list, bin := names(s.List), names(s.Bin); !slices.Equal(list, []string{"hall"}) || !slices.Equal(bin, []string{"gate"}) {
		t.Errorf("list %v, bin %v", list, bin)
	}
	_, get := s.Get(1)
	_, put := s.Update(1, 1, Replace(bench.New("x")))
	if !errors.Is(get, ErrBinned) || !errors.Is(put, ErrBinned) {
		t.Errorf("a bench in the bin: read %v, write %v", get, put)
	}
	if err := s.Restore(1); err != nil || len(names(s.Bin)) != 0 {
		t.Errorf("restore: %v", err)
	}
	if r, err := s.Get(1); err != nil || r.Revision != 1 || r.Binned != nil {
		t.Errorf("restored: %+v, %v", r, err)
	}
	s.Discard(2)
	if n, err := s.EmptyBin(); n != 1 || err != nil || !slices.Equal(names(s.List), []string{"gate"}) {
		t.Errorf("emptied of %d, %v", n, err)
	}
	if d, r := s.Discard(2), s.Restore(2); !errors.Is(d, ErrNotFound) || !errors.Is(r, ErrNotFound) {
		t.Errorf("a bench that is gone: %v, %v", d, r)
	}
}

// TestBackup copies a database that is being written; the copy opens, and holds
// a state that was there.
func TestBackup(t *testing.T) {
	dir, to := t.TempDir(), t.TempDir()
	s, err := Open(dir)
	if err != nil {
		t.Fatal(err)
	}
	defer s.Close()
	rec, err := s.Create(bench.New("revision 1"))
	if err != nil {
		t.Fatal(err)
	}
	stop := make(chan struct{})
	var writer sync.WaitGroup
	writer.Go(func() {
		for r := rec; ; {
			select {
			case <-stop:
				return
			default:
			}
			next, err := s.Update(r.ID, r.Revision, Replace(bench.New(fmt.Sprintf("revision %d", r.Revision+1))))
			if err != nil {
				t.Error(err)
				return
			}
			r = next
		}
	})
	for i, backup := range []func(string) error{s.Backup, func(file string) error { return Backup(dir, file) }} {
		place := filepath.Join(to, fmt.Sprint(i))
		os.Mkdir(place, 0o755)
		if err := backup(filepath.Join(place, FileName)); err != nil {
			t.Fatal(err)
		}
		copied, err := Open(place)
		if err != nil {
			t.Fatal(err)
		}
		r, err := copied.Get(1)
		if err != nil || r.Bench.Name != fmt.Sprintf("revision %d", r.Revision) {
			t.Errorf("the copy holds %+v, %v", r, err)
		}
		copied.Close()
		if err := backup(filepath.Join(place, FileName)); err == nil || !strings.Contains(err.Error(), "is there already") {
			t.Errorf("over another copy: %v", err)
		}
	}
	close(stop)
	writer.Wait()
}

// TestReadable reads a database that another program is writing, its log
// included, and refuses one of an earlier schema with a word about it.
func TestReadable(t *testing.T) {
	dir := t.TempDir()
	path := filepath.Join(dir, FileName)
	s, err := Open(dir)
	if err != nil {
		t.Fatal(err)
	}
	defer s.Close()
	if _, err := s.Create(bench.New("in the log")); err != nil {
		t.Fatal(err)
	}
	db, err := readable(path)
	if err != nil {
		t.Fatal(err)
	}
	if r, err := get(db, 1); err != nil || r.Bench.Name != "in the log" {
		t.Errorf("%+v, %v", r, err)
	}
	closeDB(db)
	s.db.Exec("PRAGMA user_version = 1")
	if _, err := readable(path); err == nil || !strings.Contains(err.Error(), "must be written once to be brought up to date") {
		t.Errorf("an earlier schema: %v", err)
	}
	if _, err := Open(filepath.Join(path, "below a file")); err == nil || !strings.Contains(err.Error(), "making data directory") {
		t.Errorf("a directory below a file: %v", err)
	}
}

// TestKinds sorts errors by what is to be done about them.
func TestKinds(t *testing.T) {
	for err, want := range map[error]TroubleKind{
		syscall.ENOSPC: Full, fs.ErrPermission: ReadOnly, syscall.EROFS: ReadOnly, syscall.EACCES: ReadOnly,
	} {
		if kind, of := kindOf(fmt.Errorf("writing: %w", err)); kind != want || !of {
			t.Errorf("%v is of kind %d, %v", err, kind, of)
		}
	}
	plain := errors.New("some other error")
	if kind, of := kindOf(plain); kind != Broken || of {
		t.Errorf("any error is of kind %d, %v", kind, of)
	}
	if got := trouble("x.db", plain); got.Kind != Broken || !errors.Is(got, plain) || !strings.HasPrefix(got.Error(), "the database x.db cannot be used: look whether its disk is there") {
		t.Errorf("%v", got)
	}
	if got := explained("x.db", plain); got != plain {
		t.Errorf("an error that is none of the database: %v", got)
	}
	for kind := Broken; kind <= Newer; kind++ {
		if text := (&Trouble{Kind: kind, Path: "x.db"}).Error(); !strings.Contains(text, "x.db") || strings.Contains(text, "%!") || strings.HasSuffix(text, ")") {
			t.Errorf("kind %d: %s", kind, text)
		}
	}
}

// TestTrouble opens and writes databases that cannot do their work: each says so
// with what to do, nothing that was acknowledged is lost, and writing goes on
// once the trouble is over.
func TestTrouble(t *testing.T) {
	made := func(t *testing.T) (dir string) {
		dir = t.TempDir()
		s, err := Open(dir)
		if err != nil {
			t.Fatal(err)
		}
		defer s.Close()
		if _, err := s.Create(bench.New("kept")); err != nil {
			t.Fatal(err)
		}
		return dir
	}
	is := func(t *testing.T, err error, kind TroubleKind, want string) {
		t.Helper()
		var trouble *Trouble
		if !errors.As(err, &trouble) || trouble.Kind != kind || !strings.Contains(err.Error(), want) {
			t.Errorf("%v, want kind %d and %q", err, kind, want)
		}
	}
	t.Run("no database", func(t *testing.T) {
		dir := t.TempDir()
		os.WriteFile(filepath.Join(dir, FileName), []byte(strings.Repeat("tide tables ", 2000)), 0o644)
		_, err := Open(dir)
		is(t, err, Corrupt, "is no Slate Bell database, or a damaged one: put a copy in its place by “slatebell restore FILE”")
	})
	t.Run("damaged", func(t *testing.T) {
		dir := made(t)
		f, _ := os.OpenFile(filepath.Join(dir, FileName), os.O_WRONLY, 0)
		f.WriteAt(bytes.Repeat([]byte{0x5A}, 2000), 100)
		f.Close()
		_, err := Open(dir)
		is(t, err, Corrupt, "slatebell restore")
	})
	t.Run("locked", func(t *testing.T) {
		dir := made(t)
		s, err := Open(dir)
		if err != nil {
			t.Fatal(err)
		}
		defer s.Close()
		s.db.Exec("PRAGMA busy_timeout = 50")
		other, err := connect(filepath.Join(dir, FileName), nil)
		if err != nil {
			t.Fatal(err)
		}
		defer closeDB(other)
		lock := other.Session(&gorm.Session{}).Begin()
		lock.Exec("UPDATE benches SET name = name")
		_, err = s.Update(1, 1, Replace(bench.New("later")))
		is(t, err, Locked, "stop it, or let it finish")
		lock.Rollback()
		if r, err := s.Update(1, 1, Replace(bench.New("later"))); err != nil || r.Revision != 2 {
			t.Errorf("once it is free: %+v, %v", r, err)
		}
	})
	t.Run("full", func(t *testing.T) {
		s, err := Open(made(t))
		if err != nil {
			t.Fatal(err)
		}
		defer s.Close()
		pool, _ := s.db.DB()
		pool.SetMaxOpenConns(1) // the bound is the connection's
		s.db.Exec("PRAGMA max_page_count = 1")
		large := bench.New("large")
		large.Modules[0].Screens[0].Rows = slices.Repeat([]string{strings.Repeat("x", 400)}, 64)
		_, err = s.Update(1, 1, Replace(large))
		is(t, err, Full, "make room on that disk; saving goes on by itself")
		s.db.Exec("PRAGMA max_page_count = 1000")
		if r, err := s.Update(1, 1, Replace(large)); err != nil || r.Revision != 2 {
			t.Errorf("once there is room: %+v, %v", r, err)
		}
	})
	t.Run("read-only", func(t *testing.T) {
		dir := made(t)
		path := filepath.Join(dir, FileName)
		db, err := readable(path) // as open does where nothing can be written
		if err != nil {
			t.Fatal(err)
		}
		s := &Store{path: path, db: db, readOnly: &Trouble{Kind: ReadOnly, Path: path}}
		defer s.Close()
		is(t, s.Writable(), ReadOnly, "allow this user to write the file and its directory")
		if r, err := s.Get(1); err != nil || r.Bench.Name != "kept" {
			t.Errorf("reading: %+v, %v", r, err)
		}
		if r, err := s.Update(1, 1, Replace(bench.New("later"))); err != nil || r.Revision != 2 || s.Writable() != nil {
			t.Errorf("once it can be written: %+v, %v", r, err)
		}
	})
}
