package store

import (
	"time"

	"gorm.io/gorm"
)

// Bin returns the benches in the bin, the one that was put there last first.
func (s *Store) Bin() ([]Record, error) {
	return s.records("binned_at IS NOT NULL", "binned_at DESC, id DESC")
}

// Discard puts a bench into the bin, and Restore takes it out again; both leave
// it as it is where it is there already, and return ErrNotFound where there is
// none.
func (s *Store) Discard(id uint) error {
	now := time.Now()
	return s.move(id, &now)
}

// Restore is the way back from Discard.
func (s *Store) Restore(id uint) error { return s.move(id, nil) }

func (s *Store) move(id uint, binned *time.Time) error {
	return s.writeInTurn(func(tx *gorm.DB) error {
		res := tx.Model(&row{}).Where("id = ?", id).UpdateColumn("binned_at", binned)
		if res.Error == nil && res.RowsAffected == 0 {
			return ErrNotFound
		}
		return res.Error
	}, func() { s.tell(Notice{Bench: id, Kind: Moved}) })
}

// EmptyBin deletes what is in the bin for good, and returns how many benches
// that were.
func (s *Store) EmptyBin() (n int, err error) {
	err = s.write(func(tx *gorm.DB) error {
		res := tx.Where("binned_at IS NOT NULL").Delete(&row{})
		n = int(res.RowsAffected)
		return res.Error
	})
	return n, err
}
