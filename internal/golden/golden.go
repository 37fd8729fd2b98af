// Package golden holds what a test prints against what stands in a file, which a
// person looked through when it was written.
package golden

import (
	"bytes"
	"flag"
	"os"
	"testing"
)

var update = flag.Bool("update", false, "write what is printed now to testdata")

// Check fails a test where got is not what a file says; with -update it writes
// the file instead.
func Check(t testing.TB, file string, got []byte) {
	t.Helper()
	if *update {
		if err := os.WriteFile(file, got, 0o644); err != nil {
			t.Fatal(err)
		}
	}
	want, err := os.ReadFile(file)
	if err != nil {
		t.Fatal(err)
	}
	if bytes.Equal(got, want) {
		return
	}
	at := 0
	for at < min(len(got), len(want)) && got[at] == want[at] {
		at++
	}
	t.Errorf("%s differs from line %d on: %.80q, want %.80q", file, 1+bytes.Count(want[:at], []byte("\n")), got[at:], want[at:])
}
