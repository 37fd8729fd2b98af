package store

import "fmt"

// Give stores copies of a bench, one for each name, as they are given out. Its log stays with the bench.
// Its errors are Get's.
func (s *Store) Give(id uint, names []string, called func(bench, to string) string) ([]Record, error) {
	of, err := s.Get(id)
	if err != nil {
		return nil, err
	}
	out := make([]Record, 0, len(names))
	for _, to := range names {
		b := of.Bench
		b.Name = called(of.Bench.Name, to)
		r, err := s.create(b, Giving{id, to}, nil)
		if err != nil {
			return out, fmt.Errorf("giving a copy to %s: %w", to, err)
		}
		out = append(out, r)
	}
	return out, nil
}

// Given lists the copies of a bench that were given out and are not in the bin, by their names.
func (s *Store) Given(id uint) ([]Record, error) {
	return s.records(fmt.Sprintf("binned_at IS NULL AND given_from = %d", id), "given_to, id")
}
