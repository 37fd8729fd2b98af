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
	a := Archive()
	var text bytes.Buffer
	if err := benchjson.WriteArchive(&text, &a); err != nil {
		t.Fatal(err)
	}
	if _, err := benchjson.ParseArchive(text.Bytes()); err != nil {
		t.Error(err)
	}
	golden.Check(t, "testdata/bench.json", text.Bytes())
}
