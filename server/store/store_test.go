package store

import (
	"errors"
	"fmt"
	"path/filepath"
	"strings"
	"sync"
	"testing"

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
	b.Modules[0].Screen.Rows = []string{"Tide 3.2 m", "\uE0DF"}
	second, err := s.Update(first.ID, 1, b)
	if err != nil || second.Revision != 2 {
		t.Fatalf("%+v, %v", second, err)
	}
	b.Name = "stale"
	var stale *StaleError
	if _, err := s.Update(first.ID, 1, b); !errors.As(err, &stale) || stale.Current.Revision != 2 || stale.Current.Bench.Name != "Boathouse" {
		t.Errorf("a stale write: %v", err)
	}
	if _, err := s.Update(99, 1, b); !errors.Is(err, ErrNotFound) {
		t.Errorf("a write to nothing: %v", err)
	}
	s.Close()

	again, err := Open(dir)
	if err != nil {
		t.Fatal(err)
	}
	defer again.Close()
	kept, err := again.Get(first.ID)
	if err != nil || kept.Revision != 2 || strings.Join(kept.Bench.Modules[0].Screen.Rows, "|") != "Tide 3.2 m|\uE0DF" {
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
			_, err := s.Update(rec.ID, 1, rec.Bench)
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

// TestMigrations starts from every earlier schema, with a bench in it where
// that schema can hold one.
func TestMigrations(t *testing.T) {
	for version := 0; version <= len(migrations); version++ {
		path := filepath.Join(t.TempDir(), FileName)
		old, err := open(path)
		if err != nil {
			t.Fatal(err)
		}
		if _, err := old.Create(bench.New("kept")); err != nil {
			t.Fatal(err)
		}
		if version == 0 {
			old.db.Exec("DROP TABLE benches")
		}
		old.db.Exec(fmt.Sprintf("PRAGMA user_version = %d", version))
		old.Close()
		s, err := open(path)
		if err != nil {
			t.Fatalf("from schema %d: %v", version, err)
		}
		records, err := s.List()
		if want := min(version, 1); err != nil || len(records) != want {
			t.Errorf("from schema %d: %d benches, want %d, %v", version, len(records), want, err)
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
	if _, err := open(path); err == nil || !strings.Contains(err.Error(), "made by a newer program") {
		t.Errorf("a newer schema: %v", err)
	}
}
