package store

import (
	"bytes"
	"compress/flate"
	"fmt"
	"io"
	"sync"
	"time"

	"gorm.io/gorm"

	"slatebell/core/bench"
	"slatebell/formats/benchjson"
)

// How long earlier states are kept: each for an hour, the last of each hour for a day, the
// last of each day for a month, and the last few in any case; of one bench no more than maxStates bytes, compressed.
const (
	keepEach   = time.Hour
	keepHourly = 24 * time.Hour
	keepDaily  = 31 * 24 * time.Hour
	keepAlways = 32 // of the last, whatever a clock says that was wrong
	maxStates  = 16 << 20
)

// Thinning out lists every state that is kept, so it is done after every thinEach changes, but no more often than
// thinRest where many work on a bench; and at once after one that takes thinSize bytes.
const (
	thinEach = 16
	thinSize = 64 << 10
	thinRest = 20 * time.Second
)

// State is a bench as it was stored at a revision.
type State struct {
	Revision int
	At       time.Time
	What     string // was changed, for people
	By       string // name of the device that changed it; "" for the desk
	Bytes    int    // that it takes, compressed
}

// stateRow is a state's shape. Its document is compressed by DEFLATE, RFC 1951.
type stateRow struct {
	BenchID  uint `gorm:"primaryKey"`
	Revision int  `gorm:"primaryKey"`
	At       time.Time
	What     string
	By       string
	Document []byte
	Sum      uint32
}

func (stateRow) TableName() string { return "states" }

// States lists the states of a bench that are kept, the newest first: that is how it
// stands now.
func (s *Store) States(id uint) (out []State, err error) {
	err = s.read(func(db *gorm.DB) error {
		if _, err := get(db, id); err != nil {
			return err
		}
		out, err = states(db, id)
		return err
	})
	return out, err
}

func states(db *gorm.DB, id uint) (out []State, err error) {
	if err := db.Model(&stateRow{}).Where("bench_id = ?", id).Order("revision DESC").Select("revision, at, what, by, length(document) AS bytes").Find(&out).Error; err != nil {
		return nil, fmt.Errorf("listing states of bench %d: %w", id, err)
	}
	return out, nil
}

// State returns a bench as it was at a revision that is kept, or ErrNotFound.
func (s *Store) State(id uint, revision int) (rec Record, err error) {
	err = s.read(func(db *gorm.DB) error {
		if _, err := get(db, id); err != nil {
			return err
		}
		rec, err = state(db, id, revision)
		return err
	})
	return rec, err
}

func state(db *gorm.DB, id uint, revision int) (Record, error) {
	r, err := stateOf(db, id, revision)
	if err != nil {
		return Record{}, err
	}
	return r.record()
}

// stateOf returns the row that a bench had at a revision; its name is not kept.
func stateOf(db *gorm.DB, id uint, revision int) (row, error) {
	var r stateRow
	res := db.Where("bench_id = ? AND revision = ?", id, revision).Limit(1).Find(&r)
	if res.Error != nil {
		return row{}, fmt.Errorf("reading revision %d of bench %d: %w", revision, id, res.Error)
	}
	if res.RowsAffected == 0 {
		return row{}, ErrNotFound
	}
	if err := whole(&r); err != nil {
		return row{}, err
	}
	doc, err := io.ReadAll(io.LimitReader(flate.NewReader(bytes.NewReader(r.Document)), benchjson.MaxSize))
	if err != nil {
		return row{}, fmt.Errorf("reading revision %d of bench %d: %w", revision, id, err)
	}
	return row{ID: id, Revision: r.Revision, Document: string(doc), UpdatedAt: r.At}, nil
}

// packers are writers to be used again: each has tables of a megabyte.
var packers = sync.Pool{New: func() any {
	w, _ := flate.NewWriter(io.Discard, flate.BestSpeed) // fails for a level that is none
	return w
}}

// remember keeps a state, and thins out those that came before it where that is due.
func remember(tx *gorm.DB, id uint, revision int, at time.Time, what, by string, doc []byte, due bool) error {
	var packed bytes.Buffer
	w := packers.Get().(*flate.Writer)
	defer packers.Put(w)
	w.Reset(&packed)
	if _, err := w.Write(doc); err != nil {
		return err
	}
	if err := w.Close(); err != nil {
		return err
	}
	if err := insert(tx, &stateRow{BenchID: id, Revision: revision, At: at, What: what, By: by, Document: packed.Bytes()}); err != nil {
		return fmt.Errorf("keeping revision %d of bench %d: %w", revision, id, err)
	}
	if packed.Len() >= thinSize || due {
		return thinOut(tx, id, at)
	}
	return nil
}

// thinOut takes the states of a bench away that need not be kept any more.
func thinOut(tx *gorm.DB, id uint, at time.Time) error {
	all, err := states(tx, id)
	if err != nil {
		return err
	}
	if gone := spare(all, at, maxStates); len(gone) > 0 {
		if err := tx.Where("bench_id = ? AND revision IN ?", id, gone).Delete(&stateRow{}).Error; err != nil {
			return fmt.Errorf("thinning out states of bench %d: %w", id, err)
		}
	}
	return nil
}

// spare lists the revisions that need not be kept any more, of states of which the newest
// comes first. Where those that are to be kept take too much, the changes of the last hour
// are thinned to one a minute, and then the oldest go. The newest always stays.
func spare(all []State, now time.Time, most int) (gone []int) {
	kept := thinned(all, now, keepEach, keepAlways, &gone)
	if size(kept) > most {
		kept = thinned(kept, now, 5*time.Minute, 1, &gone)
	}
	for size(kept) > most && len(kept) > 1 {
		last := kept[len(kept)-1]
		gone, kept = append(gone, last.Revision), kept[:len(kept)-1]
	}
	return gone
}

func size(list []State) (bytes int) {
	for _, s := range list {
		bytes += s.Bytes
	}
	return bytes
}

// thinned leaves the first states and each younger than each, then the last of each minute of the first
// hour, of each hour of the first day, and of each day.
func thinned(list []State, now time.Time, each time.Duration, first int, gone *[]int) (kept []State) {
	taken := map[string]bool{}
	for i, s := range list {
		age := now.Sub(s.At)
		slot, old := "", false
		switch {
		case age < each:
		case age < keepEach:
			slot = s.At.UTC().Format("2006-01-02T15:04")
		case age < keepHourly:
			slot = s.At.UTC().Format("2006-01-02T15")
		case age < keepDaily:
			slot = s.At.UTC().Format("2006-01-02")
		default:
			old = true
		}
		spare := old || slot != "" && taken[slot]
		taken[slot] = true
		if spare && i >= first {
			*gone = append(*gone, s.Revision)
			continue
		}
		kept = append(kept, s)
	}
	return kept
}

// whatChanged is how a state differs from the one before it, in a line.
func whatChanged(before, after *bench.Bench) string {
	const most = 4
	return benchjson.Summary(benchjson.Changed(before, after), most)
}
