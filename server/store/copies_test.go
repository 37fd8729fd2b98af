package store

import (
	"bytes"
	"compress/gzip"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"slatebell/core/bench"
)

// TestCopyOfNight lets days pass, on some of which something is changed.
func TestCopyOfNight(t *testing.T) {
	dir := filepath.Join(t.TempDir(), "shop [2]") // no pattern
	s, err := Open(dir)
	if err != nil {
		t.Fatal(err)
	}
	defer s.Close()
	day := time.Date(2026, 5, 1, 3, 0, 0, 0, time.Local)
	s.now = func() time.Time { return day }
	var made []string
	for i := range 12 {
		if i != 4 { // nothing is changed on that day
			if _, err := s.Create(bench.New(fmt.Sprint("day ", i))); err != nil {
				t.Fatal(err)
			}
		}
		for _, hour := range []int{3, 9} {
			day = time.Date(2026, 5, 1+i, hour, 0, 0, 0, time.Local)
			name, err := s.CopyOfNight()
			if want := i != 4 && hour == 3; err != nil || (name != "") != want {
				t.Fatalf("day %d at %d: %q, %v", i, hour, name, err)
			}
			if name != "" {
				made = append(made, name)
			}
		}
	}
	day = day.AddDate(0, 0, -3) // a clock that is set back
	s.Create(bench.New("later, by another clock"))
	if name, err := s.CopyOfNight(); name != "" || err != nil {
		t.Errorf("with the clock set back: %q, %v", name, err)
	}
	list, err := Copies(dir)
	if err != nil || len(list) != Nights {
		t.Fatalf("%d copies are kept, want %d, %v", len(list), Nights, err)
	}
	for i, c := range list {
		if c.Path != made[len(made)-1-i] || c.Why != "the copy of that day" {
			t.Errorf("copy %d is %+v, want %s", i, c, made[len(made)-1-i])
		}
		if got, err := Examine(c.Path); err != nil || got.Benches != 11-i || !got.Current() || len(got.Damage) > 0 {
			t.Errorf("%s: %+v, %v", c.Path, got, err)
		}
	}
}

// TestRestoreDatabase goes back to copies, and refuses what is none, with everything left as it was.
func TestRestoreDatabase(t *testing.T) {
	now := time.Date(2026, 5, 1, 14, 5, 0, 0, time.UTC)
	place := t.TempDir()
	at := func(name string) string { return filepath.Join(place, name) }
	made := func(dir string, names ...string) string {
		s, err := Open(dir)
		if err != nil {
			t.Fatal(err)
		}
		defer s.Close()
		for _, name := range names {
			if _, err := s.Create(bench.New(name)); err != nil {
				t.Fatal(err)
			}
		}
		return dir
	}
	good, newer := at("good.db"), at("newer.db")
	if err := Backup(made(at("a"), "one", "two"), good); err != nil {
		t.Fatal(err)
	}
	data, err := os.ReadFile(good)
	if err != nil {
		t.Fatal(err)
	}
	write := func(name string, data []byte) string {
		if err := os.WriteFile(at(name), data, 0o644); err != nil {
			t.Fatal(err)
		}
		return at(name)
	}
	write("newer.db", data)
	foreign := at("foreign.db")
	for name, change := range map[string]string{newer: "PRAGMA user_version = 99", foreign: "CREATE TABLE tides (at TEXT)"} {
		db, err := connect(name, nil)
		if err != nil {
			t.Fatal(err)
		}
		db.Exec(change)
		closeDB(db)
	}
	damaged := bytes.Clone(data)
	copy(damaged[len(damaged)/2:], bytes.Repeat([]byte{0xA5}, 4096))

	dir := made(at("shop"), "mine")
	path := filepath.Join(dir, FileName)
	before, _ := os.ReadFile(path)
	for file, want := range map[string]string{
		at("nowhere.db"): "no such file",
		write("text.db", []byte("tides, at noon")): "is no Slate Bell database, or a damaged one",
		write("empty.db", nil):                     "it has no tables",
		write("damaged.db", damaged):               "is no Slate Bell database, or a damaged one",
		write("half.db", data[:len(data)/2]):       "is no Slate Bell database, or a damaged one",
		newer:                                      "was made by a newer Slate Bell: start that one",
		foreign:                                    "its tables are another program's",
		path:                                       "is the database itself",
	} {
		was, _ := os.ReadFile(file)
		_, kept, err := RestoreDatabase(dir, file, now)
		if err == nil || !strings.Contains(err.Error(), want) || kept != "" {
			t.Errorf("%s: %q, %v, want %q", file, kept, err, want)
		}
		if is, _ := os.ReadFile(file); !bytes.Equal(is, was) {
			t.Errorf("%s was changed", file)
		}
	}
	running, err := Open(dir)
	if err != nil {
		t.Fatal(err)
	}
	var trouble *Trouble
	if _, _, err := RestoreDatabase(dir, good, now); !errors.As(err, &trouble) || trouble.Kind != Locked {
		t.Errorf("while a program runs: %v", err)
	}
	running.Close()
	if after, _ := os.ReadFile(path); !bytes.Equal(after, before) {
		t.Error("a refusal has changed the database")
	}
	if left, _ := filepath.Glob(filepath.Join(dir, "*")); !slices.Equal(left, []string{path}) {
		t.Errorf("refusals have left %v", left)
	}

	names := func(dir string) (out []string) {
		s, err := Open(dir)
		if err != nil {
			t.Fatal(err)
		}
		defer s.Close()
		records, err := s.List()
		if err != nil {
			t.Fatal(err)
		}
		for _, r := range records {
			out = append(out, r.Bench.Name)
		}
		slices.Sort(out)
		return out
	}
	for i, want := range []string{"before-restore-2026-05-01T140500.db", "before-restore-2026-05-01T140500-2.db", "before-restore-2026-05-01T140500-3.db"} {
		if i == 2 { // what is there is damaged, and has a write-ahead log
			os.WriteFile(path, damaged, 0o644)
			os.WriteFile(path+"-wal", []byte("half a frame"), 0o644)
		}
		c, kept, err := RestoreDatabase(dir, good, now)
		if err != nil || c.Benches != 2 || filepath.Base(kept) != want {
			t.Fatalf("%+v, %q, %v", c, kept, err)
		}
		if got := names(dir); !slices.Equal(got, []string{"one", "two"}) {
			t.Errorf("restored: %v", got)
		}
		if i == 0 {
			if _, _, err := RestoreDatabase(at("fresh"), kept, now); err != nil {
				t.Error(err)
			}
			if got := names(at("fresh")); !slices.Equal(got, []string{"mine"}) {
				t.Errorf("what was kept holds %v", got)
			}
		}
	}
	if list, err := Copies(dir); err != nil || len(list) != 3 || list[0].Why != "before another was put in its place" {
		t.Errorf("%+v, %v", list, err)
	}
}

// stored writes a database that an earlier program of this house made, of its demo, and returns its directory. The first has a bench of document version 1.
func stored(t *testing.T, schema int) string {
	t.Helper()
	packed, err := os.Open(fmt.Sprintf("testdata/schema-%d.db.gz", schema))
	if err != nil {
		t.Fatalf("%v: a new schema needs a database that was made before the next one", err)
	}
	defer packed.Close()
	z, err := gzip.NewReader(packed)
	if err != nil {
		t.Fatal(err)
	}
	data, err := io.ReadAll(z)
	if err != nil {
		t.Fatal(err)
	}
	dir := t.TempDir()
	if err := os.WriteFile(filepath.Join(dir, FileName), data, 0o644); err != nil {
		t.Fatal(err)
	}
	return dir
}

// TestStored opens a database of each earlier program: its bench is there, and a copy of it as it was.
func TestStored(t *testing.T) {
	for schema := 1; schema <= len(migrations); schema++ {
		dir := stored(t, schema)
		path := filepath.Join(dir, FileName)
		before, _ := os.ReadFile(path)
		c, err := Examine(path)
		if err != nil || c.Schema != schema || c.Benches != 1 || len(c.Damage) > 0 || (c.Entries > 0) != (schema >= 3) {
			t.Errorf("schema %d: %+v, %v", schema, c, err)
		}
		if after, _ := os.ReadFile(path); !bytes.Equal(after, before) {
			t.Errorf("schema %d: looking at it has changed it", schema)
		}
		for range 2 {
			s, err := Open(dir)
			if err != nil {
				t.Fatalf("schema %d: %v", schema, err)
			}
			records, err := s.List()
			if err != nil || len(records) != 1 || records[0].Bench.Name != "Quillfish Landing" || len(records[0].Bench.Modules) != 3 || records[0].Bench.Version != bench.Version {
				t.Errorf("schema %d: %+v, %v", schema, records, err)
			}
			if log, err := s.FullLog(records[0].ID); err != nil || (len(log) > 0) != (schema >= 3) {
				t.Errorf("schema %d: %d entries, %v", schema, len(log), err)
			}
			s.Close()
		}
		copies, err := Copies(dir)
		if schema == len(migrations) {
			if err != nil || len(copies) != 0 {
				t.Errorf("of the present schema %v was copied, %v", copies, err)
			}
			continue
		}
		if err != nil || len(copies) != 1 || copies[0].Why != fmt.Sprintf("before it was brought to schema %d", len(migrations)) {
			t.Fatalf("schema %d: %+v, %v", schema, copies, err)
		}
		if kept, err := Examine(copies[0].Path); err != nil || kept.Schema != schema || kept.Benches != 1 {
			t.Errorf("schema %d: the copy is %+v, %v", schema, kept, err)
		}
		if _, _, err := RestoreDatabase(dir, copies[0].Path, time.Now()); err != nil {
			t.Errorf("schema %d: the way back: %v", schema, err)
		}
		if c, err := Examine(path); err != nil || c.Schema != schema {
			t.Errorf("schema %d: gone back to: %+v, %v", schema, c, err)
		}
	}
}

// TestNewer refuses a database of a newer program without touching it, in either way that SQLite keeps its journal.
func TestNewer(t *testing.T) {
	for _, mode := range []string{"DELETE", "WAL"} {
		dir := stored(t, len(migrations))
		path := filepath.Join(dir, FileName)
		db, err := connect(path, nil)
		if err != nil {
			t.Fatal(err)
		}
		db.Exec("PRAGMA journal_mode = " + mode)
		db.Exec("PRAGMA user_version = 99")
		closeDB(db)
		before, _ := os.ReadFile(path)
		var trouble *Trouble
		if _, err := Open(dir); !errors.As(err, &trouble) || trouble.Kind != Newer || !strings.Contains(err.Error(), "it has schema 99") {
			t.Errorf("%s: %v", mode, err)
		}
		if after, _ := os.ReadFile(path); !bytes.Equal(after, before) {
			t.Errorf("%s: the refusal has changed it", mode)
		}
		if left, _ := filepath.Glob(filepath.Join(dir, "*")); !slices.Equal(left, []string{path}) {
			t.Errorf("%s: the refusal has left %v", mode, left)
		}
	}
}
