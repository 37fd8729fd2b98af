package store

import (
	"bytes"
	"errors"
	"fmt"
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
		if c.Path != made[len(made)-1-i] || c.Why != "of that night" {
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
