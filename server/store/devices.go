package store

import (
	"errors"
	"fmt"
	"time"

	"gorm.io/gorm"
)

// Device is a device that was let in.
type Device struct {
	ID    uint `gorm:"primaryKey"`
	Name  string
	Role  string
	Token []byte    // SHA-256 of what it shows to be let in
	LetIn time.Time // when it was
	Seen  time.Time // when it last asked for anything, as far as that was stored
}

// TableName names its table.
func (Device) TableName() string { return "devices" }

// ErrNoDevice means that no device of that number was let in.
var ErrNoDevice = errors.New("no such device")

// Devices lists the devices that were let in, the first first.
func (s *Store) Devices() (out []Device, err error) {
	err = s.read(func(db *gorm.DB) error { return db.Order("id").Find(&out).Error })
	if err != nil {
		return nil, fmt.Errorf("listing devices: %w", err)
	}
	return out, nil
}

// KeepDevice stores a device: a new one, whose ID it sets, or what has become of one.
func (s *Store) KeepDevice(d *Device) error {
	return s.write(func(tx *gorm.DB) error { return tx.Save(d).Error })
}

// SeenDevice stores when a device was seen; one that was forgotten stays so.
func (s *Store) SeenDevice(id uint, at time.Time) error {
	return s.write(func(tx *gorm.DB) error {
		return tx.Model(&Device{}).Where("id = ?", id).UpdateColumn("seen", at).Error
	})
}

// ForgetDevice forgets a device, or returns ErrNoDevice.
func (s *Store) ForgetDevice(id uint) error {
	return s.write(func(tx *gorm.DB) error {
		res := tx.Delete(&Device{}, id)
		if res.Error == nil && res.RowsAffected == 0 {
			return ErrNoDevice
		}
		return res.Error
	})
}

// setting is a choice that holds over a start of the program.
type setting struct {
	Name  string `gorm:"primaryKey"`
	Value string
}

func (setting) TableName() string { return "settings" }

// Setting returns a choice that was kept, or "".
func (s *Store) Setting(name string) (value string, err error) {
	err = s.read(func(db *gorm.DB) error {
		var found setting
		err := db.Where("name = ?", name).Limit(1).Find(&found).Error
		value = found.Value
		return err
	})
	return value, err
}

// Keep keeps a choice.
func (s *Store) Keep(name, value string) error {
	return s.write(func(tx *gorm.DB) error { return tx.Save(&setting{name, value}).Error })
}
