package demo

import (
	"bytes"
	"testing"

	"slatebell/formats/benchjson"
	"slatebell/internal/golden"
)

// TestBench holds the demo against the document that was looked through when it
// was written; it is valid, and reads back.
func TestBench(t *testing.T) {
	b := Bench()
	var text bytes.Buffer
	if err := benchjson.Write(&text, &b); err != nil {
		t.Fatal(err)
	}
	if _, err := benchjson.Parse(text.Bytes()); err != nil {
		t.Error(err)
	}
	golden.Check(t, "testdata/bench.json", text.Bytes())
}
