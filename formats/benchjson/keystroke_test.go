package benchjson_test

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"reflect"
	"strings"
	"testing"

	"slatebell/formats/benchjson"
	"slatebell/internal/lawful"
)

// TestKeystroke holds the short way of patches that replace rows against the one of every patch, on random benches: both lead to the same
// bench, and what the one does not take on leaves the bench as it was.
func TestKeystroke(t *testing.T) {
	r := rand.New(rand.NewPCG(28, 1))
	values := []string{`"Tide 3.2 m"`, `"\ue002 \ue103"`, `"\ud800"`, `"two\nlines"`, `7`, `null`, `["Tide"]`, `""`, "\"\xff\"", `"` + strings.Repeat("~", 401) + `"`, `"` + strings.Repeat("~", 400) + `"`}
	taken := 0
	for range 20 {
		b, err := lawful.Bench(r)
		if err != nil {
			t.Fatal(err)
		}
		if first, err := benchjson.Patched(b, []byte("[]")); err == nil {
			b = &first // as it is read, with nothing that is left out where it is empty
		}
		before, _ := json.Marshal(b)
		for range 12 {
			var ops []string
			for range 1 + r.IntN(3) {
				m := r.IntN(len(b.Modules))
				path := fmt.Sprintf("/modules/%d/screens/%d/rows/%d", m, r.IntN(len(b.Modules[m].Screens)), r.IntN(2))
				switch r.IntN(20) {
				case 0:
					path = "/name"
				case 1:
					path = strings.Replace(path, "/0", "/00", 1)
				case 2:
					path = strings.Replace(path, "/screens/", "/screens/9", 1)
				}
				op := "replace"
				if r.IntN(12) == 0 {
					op = []string{"add", "test", "remove"}[r.IntN(3)]
				}
				value := values[0]
				if r.IntN(3) == 0 {
					value = values[r.IntN(len(values))]
				}
				ops = append(ops, fmt.Sprintf(`{"op": %q, "path": %q, "value": %s}`, op, path, value))
			}
			patch := []byte("[" + strings.Join(ops, ",") + "]")
			got, ok := benchjson.Keystroke(b, patch)
			if after, _ := json.Marshal(b); string(after) != string(before) {
				t.Fatalf("%s has changed the bench that it was made for", patch)
			}
			if !ok {
				continue
			}
			taken++
			want, err := benchjson.Patched(b, patch)
			if err != nil || !reflect.DeepEqual(got, want) {
				one, _ := json.Marshal(got)
				other, _ := json.Marshal(want)
				t.Fatalf("%s leads to\n%s\nand by the long way to\n%s, %v", patch, one, other, err)
			}
		}
	}
	if taken < 50 {
		t.Errorf("%d patches went the short way", taken)
	}
}
