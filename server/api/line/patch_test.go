package line

import (
	"bytes"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"reflect"
	"testing"

	jsonpatch "github.com/evanphx/json-patch/v5"
)

// grown returns a value of JSON by chance, so many levels deep at most.
func grown(r *rand.Rand, depth int) any {
	switch n := r.IntN(4 + 4*max(0, min(depth, 1))); {
	case n == 0:
		return nil
	case n == 1:
		return float64(r.IntN(9))
	case n < 4:
		return fmt.Sprintf("%c~/\"é%d", 'a'+rune(r.IntN(3)), r.IntN(4))
	case n < 6:
		list := []any{}
		for range r.IntN(5) {
			list = append(list, grown(r, depth-1))
		}
		return list
	}
	object := map[string]any{}
	for range r.IntN(5) {
		object[[]string{"a", "a/b", "~1", "m~n", "é", "0"}[r.IntN(6)]] = grown(r, depth-1)
	}
	return object
}

// changed returns a value with some of what it holds changed by chance.
func changed(r *rand.Rand, v any, depth int) any {
	if r.IntN(8) == 0 {
		return grown(r, depth)
	}
	switch v := v.(type) {
	case []any:
		out := []any{}
		for _, one := range v {
			if r.IntN(9) > 0 {
				out = append(out, changed(r, one, depth-1))
			}
			if r.IntN(9) == 0 {
				out = append(out, grown(r, depth-1))
			}
		}
		return out
	case map[string]any:
		out := map[string]any{}
		for name, one := range v {
			if r.IntN(20) > 0 {
				out[name] = changed(r, one, depth-1)
			}
		}
		return out
	}
	return v
}

// TestPatch makes patches between texts by chance, which a general library applies: they make one of the other, and are short.
func TestPatch(t *testing.T) {
	r := rand.New(rand.NewPCG(6, 902))
	made, empty := 0, 0
	for range 20_000 {
		was := map[string]any{"a": grown(r, 4), "b": grown(r, 4), "kept": "as it is"}
		is := changed(r, was, 4)
		before, _ := json.Marshal(was)
		after, _ := json.Marshal(is)
		text, ok := patch(before, append(after, '\n'))
		if same := bytes.Equal(before, after); same && string(text) != "[]" {
			t.Fatalf("%s is patched by %s to be the same", before, text)
		} else if same {
			empty++
		}
		if !ok {
			continue
		}
		made++
		if len(text) > len(after)/2+10 {
			t.Errorf("%s takes a patch as long as %s", after, text)
		}
		p, err := jsonpatch.DecodePatch(text)
		if err != nil {
			t.Fatalf("from %s to %s: %s: %v", before, after, text, err)
		}
		got, err := p.Apply(before)
		if err != nil {
			t.Fatalf("%s on %s: %v", text, before, err)
		}
		var is2 any
		if err := json.Unmarshal(got, &is2); err != nil || !reflect.DeepEqual(is2, is) {
			t.Fatalf("%s on %s is %s, want %s", text, before, got, after)
		}
	}
	if made < 2000 || empty < 100 {
		t.Errorf("%d patches were made, %d of them of nothing: too few to judge", made, empty)
	}
}
