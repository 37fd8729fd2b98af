package store

import (
	"cmp"
	"encoding/json"
	"fmt"
	"maps"
	"slices"

	"gorm.io/gorm"

	"slatebell/core/bench"
	"slatebell/core/part/host"
)

// Hosts returns the boards that makers described themselves, of all benches outside of the bin, in the
// order of their names: of several of one name, the one that was written last.
func (s *Store) Hosts() (out []bench.Host, err error) {
	err = s.read(func(db *gorm.DB) error {
		var documents []string
		err := db.Model(&row{}).Where("binned_at IS NULL AND json_extract(document, '$.host.pins[0]') IS NOT NULL").Order("updated_at").
			Pluck("json_extract(document, '$.host')", &documents).Error
		if err != nil {
			return fmt.Errorf("reading hosts: %w", err)
		}
		named := map[string]bench.Host{}
		for _, text := range documents {
			var h bench.Host
			if json.Unmarshal([]byte(text), &h) != nil {
				continue // of an older version
			}
			if _, known := host.ByPart(h.Part); !known && h.Part != "" {
				named[h.Part] = bench.Host{Part: h.Part, BearsMV: h.BearsMV, Pins: h.Pins, Facts: h.Facts}
			}
		}
		out = slices.SortedFunc(maps.Values(named), func(a, b bench.Host) int { return cmp.Compare(a.Part, b.Part) })
		return nil
	})
	return out, err
}
