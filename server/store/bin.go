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
		var r row
		res := tx.Limit(1).Find(&r, id)
		if res.Error == nil && res.RowsAffected == 0 {
			return ErrNotFound
		}
		if res.Error != nil {
			return res.Error
		}
		if err := whole(&r); err != nil {
			return err
		}
		r.BinnedAt = binned
		return tx.Model(&row{}).Where("id = ?", id).UpdateColumns(map[string]any{"binned_at": binned, "sum": r.counted()}).Error
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
