package store

import (
	"fmt"
	"net/url"
	"os"
	"path/filepath"

	"gorm.io/gorm"
)

// Backup writes a copy of the database, consistent while others write, to a file
// that must not exist yet.
func (s *Store) Backup(file string) error {
	s.mu.RLock()
	defer s.mu.RUnlock()
	return explained(file, copyInto(s.db, file))
}

// Backup copies the database in a directory as Store.Backup does, without
// writing to it: a running program is not disturbed.
func Backup(dir, file string) error {
	path := filepath.Join(dir, FileName)
	if _, err := os.Stat(path); err != nil {
		return fmt.Errorf("there is no database %s; name its directory with --data", path)
	}
	db, err := connect(path, url.Values{"mode": {"ro"}, "_pragma": {"busy_timeout(5000)"}})
	if err != nil {
		return trouble(path, err)
	}
	defer closeDB(db)
	return explained(file, copyInto(db, file))
}

func copyInto(db *gorm.DB, file string) error {
	if _, err := os.Lstat(file); err == nil {
		return fmt.Errorf("%s is there already; choose a name that is free", file)
	}
	if err := db.Exec("VACUUM INTO ?", file).Error; err != nil {
		os.Remove(file) // half a copy is none
		return fmt.Errorf("copying the database to %s: %w", file, err)
	}
	return nil
}
