package store

import (
	"bytes"
	"errors"
	"strings"
	"testing"
	"time"

	"slatebell/core/bench"
	"slatebell/core/bench/logbook"
)

// TestLog writes entries, reads them back with their pictures, changes and deletes them;
// they go with their bench when it is passed on, and when it is deleted for good.
func TestLog(t *testing.T) {
	s, err := Open(t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	defer s.Close()
	when := time.Date(2026, 5, 1, 14, 5, 0, 0, time.UTC)
	b := bench.New("Boathouse")
	brought := logbook.Entry{ID: 77, At: when.Add(-time.Hour), Kind: logbook.Note, Text: "brought along", Pictures: []logbook.Picture{{Name: "old.png", Type: "image/png", Data: []byte("old")}}}
	rec, err := s.Create(b, brought)
	if err != nil {
		t.Fatal(err)
	}
	other, _ := s.Create(bench.New("Slip"))
	e := logbook.Entry{At: when, Kind: logbook.Found, Module: "module-1", Text: "D6 and D7", Causes: []string{"wire.swapped"}, Pictures: []logbook.Picture{{Name: "a.png", Type: "image/png", Data: []byte("one")}, {Name: "b.jpg", Type: "image/jpeg", Data: []byte("two")}}}
	kept, err := s.Note(rec.ID, e)
	if err != nil || kept.ID == 0 || len(kept.Pictures) != 2 || kept.Pictures[0].Data != nil {
		t.Fatalf("%+v, %v", kept, err)
	}
	if e, err := s.Reword(rec.ID, kept.ID, "D6 and D7, at the header"); err != nil || e.Text != "D6 and D7, at the header" || len(e.Pictures) != 2 || !e.At.Equal(when) {
		t.Errorf("reworded: %+v, %v", e, err)
	}
	log, err := s.Log(rec.ID)
	if err != nil || len(log) != 2 || log[0].Text != "brought along" || log[1].Text != "D6 and D7, at the header" || log[1].Causes[0] != "wire.swapped" || log[0].Pictures[0].Data != nil {
		t.Fatalf("%+v, %v", log, err)
	}
	// what was found counts for all benches, once where a bench and its log were copied, not from the bin
	another := e
	another.At, another.Pictures = when.Add(time.Minute), nil
	kept2, err := s.Note(other.ID, another)
	if err != nil {
		t.Fatal(err)
	}
	copy1, err := s.Create(bench.New("Copy"), another)
	if err != nil {
		t.Fatal(err)
	}
	causes := func() int {
		t.Helper()
		all, err := s.Causes()
		if err != nil {
			t.Fatal(err)
		}
		return logbook.Counts(all)["wire.swapped"]
	}
	if n := causes(); n != 2 {
		t.Errorf("found %d times at three benches, one of them a copy; want 2", n)
	}
	if err := s.Discard(copy1.ID); err != nil {
		t.Fatal(err)
	}
	if err := s.Strike(other.ID, kept2.ID); err != nil {
		t.Fatal(err)
	}
	if n := causes(); n != 1 {
		t.Errorf("found %d times with one taken back and one in the bin; want 1", n)
	}
	full, err := s.FullLog(rec.ID)
	if err != nil || !bytes.Equal(full[1].Pictures[1].Data, []byte("two")) || !bytes.Equal(full[0].Pictures[0].Data, []byte("old")) {
		t.Errorf("%+v, %v", full, err)
	}
	if p, err := s.Picture(rec.ID, kept.ID, 1); err != nil || p.Type != "image/jpeg" || string(p.Data) != "two" {
		t.Errorf("%+v, %v", p, err)
	}
	if _, err := s.Update(rec.ID, 1, Replace(b)); err != nil {
		t.Fatal(err)
	}
	if log, _ := s.Log(rec.ID); len(log) != 2 {
		t.Errorf("a change of the bench left %d entries", len(log))
	}
	for what, err := range map[string]error{
		"another bench's picture": second(s.Picture(other.ID, kept.ID, 0)), "a picture that is not there": second(s.Picture(rec.ID, kept.ID, 3)),
		"another bench's entry": s.Strike(other.ID, kept.ID), "no entry": second(s.Reword(rec.ID, 99, "x")),
	} {
		if !errors.Is(err, ErrNoEntry) {
			t.Errorf("%s: %v", what, err)
		}
	}
	if _, err := s.Note(99, e); !errors.Is(err, ErrNotFound) {
		t.Errorf("a log of nothing: %v", err)
	}
	if _, err := s.Note(rec.ID, logbook.Entry{At: when, Kind: "tea", Text: "x"}); err == nil || !strings.Contains(err.Error(), "tea") {
		t.Errorf("an entry that cannot be: %v", err)
	}
	if _, err := s.Reword(rec.ID, log[0].ID, strings.Repeat("x", 4001)); err == nil {
		t.Error("a text that is too long")
	}
	if err := s.Strike(rec.ID, kept.ID); err != nil {
		t.Fatal(err)
	}
	if err := s.Discard(rec.ID); err != nil {
		t.Fatal(err)
	}
	if _, err := s.Log(rec.ID); !errors.Is(err, ErrBinned) {
		t.Errorf("the log of a bench in the bin: %v", err)
	}
	if _, err := s.EmptyBin(); err != nil {
		t.Fatal(err)
	}
	var rows, pictures int64
	s.db.Model(&entryRow{}).Count(&rows)
	s.db.Model(&pictureRow{}).Count(&pictures)
	if rows != 0 || pictures != 0 {
		t.Errorf("%d entries and %d pictures are left of a bench that is gone", rows, pictures)
	}
}

// second is the error of two results.
func second[T any](_ T, err error) error { return err }
