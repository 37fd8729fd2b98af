package wiring

import (
	"encoding/json"
	"testing"

	"slatebell/server/demo"
)

// BenchmarkWiring works out and writes the answer that draws a table of three modules.
func BenchmarkWiring(b *testing.B) {
	doc := demo.Bench()
	for b.Loop() {
		if _, err := json.Marshal(newWiring(&doc)); err != nil {
			b.Fatal(err)
		}
	}
}
