package code

import (
	"testing"

	"slatebell/server/demo"
)

// BenchmarkCode writes the demo's whole bench as C, and plays it.
func BenchmarkCode(b *testing.B) {
	r := CodeRequest{demo.Bench(), -1, "c"}
	for b.Loop() {
		if _, err := r.write(); err != nil {
			b.Fatal(err)
		}
	}
}
