package store

import (
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"gorm.io/gorm"

	"slatebell/core/bench"
	"slatebell/core/bench/logbook"
)

// ErrNoEntry means that a bench's log has no entry of that number.
var ErrNoEntry = errors.New("no such entry")

// MaxEntries is how many entries the log of a bench holds.
const MaxEntries = 10_000

// entryRow is an entry of a bench's log; what is not asked for by itself stands in
// its document.
type entryRow struct {
	ID       uint `gorm:"primaryKey"`
	BenchID  uint
	At       time.Time
	Document string
	Sum      uint32
}

func (entryRow) TableName() string { return "entries" }

// entry is the entry that a row holds.
func (r *entryRow) entry() (e logbook.Entry, err error) {
	if err := whole(r); err != nil {
		return e, err
	}
	if err := json.Unmarshal([]byte(r.Document), &e); err != nil {
		return e, fmt.Errorf("reading entry %d: %w", r.ID, err)
	}
	e.ID, e.At = r.ID, r.At.UTC()
	return e, nil
}

// pictureRow is the Nth picture of an entry.
type pictureRow struct {
	EntryID uint `gorm:"primaryKey"`
	N       int  `gorm:"primaryKey"`
	Type    string
	Data    []byte
	Sum     uint32
}

func (pictureRow) TableName() string { return "pictures" }

// Log returns the entries of a bench, without the data of their pictures; ErrNotFound
// or ErrBinned where the bench is not there.
func (s *Store) Log(bench uint) (entries []logbook.Entry, err error) {
	err = s.read(func(db *gorm.DB) error {
		if _, err := get(db, bench); err != nil {
			return err
		}
		entries, err = logOf(db, bench, false)
		return err
	})
	return entries, err
}

// FullLog is Log with the pictures' data, as it is passed on.
func (s *Store) FullLog(bench uint) (entries []logbook.Entry, err error) {
	err = s.read(func(db *gorm.DB) error {
		entries, err = logOf(db, bench, true)
		return err
	})
	return entries, err
}

// Archive returns a bench with its whole log.
func (s *Store) Archive(id uint) (a bench.Archive, err error) {
	r, err := s.Get(id)
	if err != nil {
		return a, err
	}
	log, err := s.FullLog(id)
	return bench.Archive{Bench: r.Bench, Log: log}, err
}

// Archives returns several benches, each with its whole log.
func (s *Store) Archives(ids []uint) (out []bench.Archive, err error) {
	for _, id := range ids {
		a, err := s.Archive(id)
		if err != nil {
			return nil, fmt.Errorf("bench %d: %w", id, err)
		}
		out = append(out, a)
	}
	return out, nil
}

// Causes returns the entries of all benches outside of the bin in which causes were found or begun to
// count anew, in the order of their times: what a maker met at one bench is likelier at the next. The
// entries of a copy of a bench count once.
func (s *Store) Causes() (entries []logbook.Entry, err error) {
	err = s.read(func(db *gorm.DB) error {
		var rows []entryRow
		err := db.Joins("JOIN benches ON benches.id = entries.bench_id AND benches.binned_at IS NULL").
			Where("entries.document LIKE ? OR entries.document LIKE ?", `%"kind":"found"%`, `%"kind":"anew"%`).Order("at, entries.id").Find(&rows).Error
		if err != nil {
			return fmt.Errorf("reading what was found: %w", err)
		}
		type once struct {
			at       time.Time
			document string
		}
		seen := map[once]bool{}
		for _, r := range rows {
			k := once{r.At.UTC(), r.Document}
			if seen[k] {
				continue
			}
			seen[k] = true
			e, err := r.entry()
			if err != nil {
				return err
			}
			entries = append(entries, e)
		}
		return nil
	})
	return entries, err
}

func logOf(db *gorm.DB, bench uint, whole bool) ([]logbook.Entry, error) {
	var rows []entryRow
	if err := db.Where("bench_id = ?", bench).Order("at, id").Find(&rows).Error; err != nil {
		return nil, fmt.Errorf("reading the log of bench %d: %w", bench, err)
	}
	out := make([]logbook.Entry, len(rows))
	for i, r := range rows {
		e, err := r.entry()
		if err != nil {
			return nil, err
		}
		out[i] = e
		for n := 0; whole && n < len(out[i].Pictures); n++ {
			p, err := picture(db, r.ID, n)
			if err != nil {
				return nil, err
			}
			out[i].Pictures[n].Data = p.Data
		}
	}
	return out, nil
}

func picture(db *gorm.DB, entry uint, n int) (pictureRow, error) {
	var p pictureRow
	err := db.Where("entry_id = ? AND n = ?", entry, n).Take(&p).Error
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return p, ErrNoEntry
	}
	if err == nil {
		err = whole(&p)
	}
	return p, err
}

// Picture returns the nth picture of an entry, from 0.
func (s *Store) Picture(bench, entry uint, n int) (out logbook.Picture, err error) {
	err = s.read(func(db *gorm.DB) error {
		if _, err := entryOf(db, bench, entry); err != nil {
			return err
		}
		p, err := picture(db, entry, n)
		out = logbook.Picture{Type: p.Type, Data: p.Data}
		return err
	})
	return out, err
}

func entryOf(db *gorm.DB, bench, entry uint) (r entryRow, err error) {
	err = db.Where("id = ? AND bench_id = ?", entry, bench).Take(&r).Error
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return r, ErrNoEntry
	}
	return r, err
}

// writeLog writes to the log of a bench, and tells it.
func (s *Store) writeLog(bench uint, do func(tx *gorm.DB) error) error {
	return s.writeInTurn(do, func() { s.tell(Notice{Bench: bench, Kind: Logged}) })
}

// Note adds an entry to the log of a bench, and returns it with its number. Its error
// is logbook's where the entry cannot be.
func (s *Store) Note(bench uint, e logbook.Entry) (out logbook.Entry, err error) {
	err = s.writeLog(bench, func(tx *gorm.DB) error {
		if _, err := get(tx, bench); err != nil {
			return err
		}
		out, err = note(tx, bench, e)
		return err
	})
	return out, err
}

// note stores an entry.
func note(tx *gorm.DB, bench uint, e logbook.Entry) (logbook.Entry, error) {
	if err := e.Validate(); err != nil {
		return e, err
	}
	var count int64
	if err := tx.Model(&entryRow{}).Where("bench_id = ?", bench).Count(&count).Error; err != nil {
		return e, err
	}
	if count >= MaxEntries {
		return e, fmt.Errorf("the log has %d entries; delete some before you add more", count)
	}
	r := entryRow{BenchID: bench, At: e.At.UTC()}
	var err error
	if r.Document, err = document(&e); err != nil {
		return e, err
	}
	if err := insert(tx, &r); err != nil {
		return e, fmt.Errorf("storing an entry: %w", err)
	}
	for n, p := range e.Pictures {
		if err := insert(tx, &pictureRow{EntryID: r.ID, N: n, Type: p.Type, Data: p.Data}); err != nil {
			return e, fmt.Errorf("storing a picture: %w", err)
		}
	}
	e.ID = r.ID
	e.Pictures = bare(e.Pictures)
	return e, nil
}

// document is an entry without what has columns and rows of its own.
func document(e *logbook.Entry) (string, error) {
	d := *e
	d.ID, d.At, d.Pictures = 0, time.Time{}, bare(e.Pictures)
	text, err := json.Marshal(d)
	return string(text), err
}

// bare leaves the data of pictures out.
func bare(list []logbook.Picture) []logbook.Picture {
	var out []logbook.Picture
	for _, p := range list {
		out = append(out, logbook.Picture{Name: p.Name, Type: p.Type})
	}
	return out
}

// Reword changes the text of an entry.
func (s *Store) Reword(bench, entry uint, text string) (out logbook.Entry, err error) {
	err = s.writeLog(bench, func(tx *gorm.DB) error {
		r, err := entryOf(tx, bench, entry)
		if err != nil {
			return err
		}
		if out, err = r.entry(); err != nil {
			return err
		}
		out.Text = text
		if err := out.Validate(); err != nil {
			return err
		}
		if r.Document, err = document(&out); err != nil {
			return err
		}
		return tx.Model(&entryRow{}).Where("id = ?", entry).Updates(map[string]any{"document": r.Document, "sum": r.counted()}).Error
	})
	return out, err
}

// Strike deletes an entry with its pictures.
func (s *Store) Strike(bench, entry uint) error {
	return s.writeLog(bench, func(tx *gorm.DB) error {
		res := tx.Where("id = ? AND bench_id = ?", entry, bench).Delete(&entryRow{})
		if res.Error == nil && res.RowsAffected == 0 {
			return ErrNoEntry
		}
		return res.Error
	})
}
