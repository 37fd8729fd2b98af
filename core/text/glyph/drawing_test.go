package glyph

import (
	"math/rand/v2"
	"reflect"
	"slices"
	"strings"
	"testing"
)

// What is added gets keys that nothing else has; a glyph that is there under its name is not added again;
// who holds the library before keeps it as it was.
func TestLibraryGrows(t *testing.T) {
	rng := rand.New(rand.NewPCG(24, 3))
	for range 300 {
		var before Library
		for range rng.IntN(6) {
			before = append(before, someDrawing(rng))
		}
		before, _, _ = Library{}.With(before)
		was := slices.Clone(before)
		var fresh []Drawing
		for range 1 + rng.IntN(5) {
			fresh = append(fresh, someDrawing(rng))
		}
		after, keys, err := before.With(fresh)
		if err != nil {
			t.Fatal(err)
		}
		if at, err := after.Validate(); err != nil && !strings.Contains(err.Error(), "of picture") {
			t.Fatalf("drawing %d: %v", at, err)
		}
		if !reflect.DeepEqual(before, was) {
			t.Fatal("the library before has changed")
		}
		for i, key := range keys {
			d, ok := after.Keyed(key)
			if !ok || d.Name != fresh[i].Name || d.Pattern() != fresh[i].Pattern() {
				t.Fatalf("key %d is not of %q", key, fresh[i].Name)
			}
		}
		again, same, _ := after.With(fresh)
		for i, d := range fresh {
			if d.Part == nil && same[i] != keys[i] {
				t.Fatalf("%q was added twice", d.Name)
			}
		}
		if len(again) < len(after) {
			t.Fatal("the library shrank")
		}
	}
	full := make(Library, MaxKey)
	for i := range full {
		full[i] = Drawing{Key: i + 1, Rows: make([]int, Rows)}
	}
	if _, _, err := full.With([]Drawing{{Name: "one more", Rows: make([]int, Rows)}}); err == nil {
		t.Error("a key beyond the last one was given")
	}
}

func someDrawing(rng *rand.Rand) Drawing {
	d := Drawing{Name: string(rune('a' + rng.IntN(3))), Rows: make([]int, Rows)}
	d.Rows[rng.IntN(2)] = rng.IntN(2)
	if rng.IntN(3) == 0 {
		d.Part = &InPicture{Picture: "boat", Col: rng.IntN(40), Row: rng.IntN(4)}
	}
	return d
}

func TestPictures(t *testing.T) {
	l := Library{{Name: "boat 1", Part: &InPicture{Picture: "boat"}}, {Name: "boat 2", Part: &InPicture{Picture: "boat", Col: 1}}, {Name: "boat 2"}, {Part: &InPicture{Picture: "boat 2"}}}
	long := strings.Repeat("æ", 50)
	for wish, want := range map[string]string{"": "picture", "oar": "oar", "boat": "boat 3", "boat 2": "boat 2 2", long: long[:2*mostPicture]} {
		if got := l.FreePicture(wish); got != want {
			t.Errorf("%q: %q; expected %q", wish, got, want)
		}
	}
	named := l.Framed("boat", "gig")
	if named[0].Part.Picture != "gig" || named[1].Name != "gig 2" || named[2].Name != "boat 2" || named[3].Part.Picture != "boat 2" {
		t.Errorf("renamed: %+v", named)
	}
	if l[0].Part.Picture != "boat" {
		t.Error("the library before has changed")
	}
}
