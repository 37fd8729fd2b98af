package store

import (
	"fmt"
	"testing"

	"slatebell/core/bench"
	"slatebell/server/demo"
)

// BenchmarkUpdate stores a change of a bench, its state kept beside it.
func BenchmarkUpdate(b *testing.B) {
	s, err := Open(b.TempDir())
	if err != nil {
		b.Fatal(err)
	}
	defer s.Close()
	doc := demo.Bench()
	r, err := s.Create(doc)
	if err != nil {
		b.Fatal(err)
	}
	for i := 0; b.Loop(); i++ {
		if r, err = s.Update(r.ID, r.Revision, func(was bench.Bench) (bench.Bench, error) {
			was.Name = fmt.Sprint(i)
			return was, nil
		}); err != nil {
			b.Fatal(err)
		}
	}
}
