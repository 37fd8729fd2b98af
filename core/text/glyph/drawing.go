package glyph

import (
	"cmp"
	"fmt"
	"slices"

	"slatebell/core/place"
)

// MaxKey is the highest key of a drawing.
const MaxKey = 4095

// Drawing is a glyph of a library, in no slot: a screen shows it by its key, and
// the slot is found when the screen is composed.
type Drawing struct {
	Key  int        `json:"key,omitempty" minimum:"0" maximum:"4095" doc:"the character U+E100 + key shows it on a screen; 0 or absent: it is on none"`
	Name string     `json:"name" maxLength:"40"`
	Rows []int      `json:"rows" nullable:"false" minItems:"8" maxItems:"11" doc:"dots, top row first, 0–31; bit 4 is the leftmost dot; rows 9–11 are of the 5×10 font"`
	Tags []string   `json:"tags,omitempty" nullable:"false" maxItems:"20"`
	Part *InPicture `json:"part,omitempty" doc:"its place in a picture of several cells"`
}

// InPicture is the place of a drawing in a picture of several cells.
type InPicture struct {
	Picture string `json:"picture" minLength:"1" maxLength:"40" doc:"name of the picture"`
	Col     int    `json:"col" minimum:"0" maximum:"39"`
	Row     int    `json:"row" minimum:"0" maximum:"3"`
}

// Pattern returns the drawing's dots.
func (d *Drawing) Pattern() Pattern { return FromInts(d.Rows) }

// Library is drawings, in any order.
type Library []Drawing

// Keyed returns the drawing of a key.
func (l Library) Keyed(key int) (*Drawing, bool) {
	if key == 0 {
		return nil, false
	}
	i := slices.IndexFunc(l, func(d Drawing) bool { return d.Key == key })
	if i < 0 {
		return nil, false
	}
	return &l[i], true
}

// Free returns the lowest key above all that are taken, or the lowest free one
// where there is none above; 0 where all are taken.
func (l Library) Free() int {
	top := 0
	taken := map[int]bool{0: true}
	for _, d := range l {
		top, taken[d.Key] = max(top, d.Key), true
	}
	if top < MaxKey {
		return top + 1
	}
	for key := 1; key <= MaxKey; key++ {
		if !taken[key] {
			return key
		}
	}
	return 0
}

// With returns the library with drawings added, each with a key of its own, and their keys in the same
// order. A drawing of one cell that is there already under the same name is not added again. It fails
// where no keys are left.
func (l Library) With(fresh []Drawing) (out Library, keys []int, err error) {
	out = slices.Clone(l)
	keys = make([]int, len(fresh))
	for i, d := range fresh {
		at := -1
		if d.Part == nil {
			at = slices.IndexFunc(out, func(o Drawing) bool {
				return o.Part == nil && o.Name == d.Name && o.Pattern() == d.Pattern()
			})
		}
		if at < 0 {
			at = len(out)
			d.Key = 0
			out = append(out, d)
		}
		if out[at].Key == 0 {
			out[at].Key = out.Free()
		}
		if keys[i] = out[at].Key; keys[i] == 0 {
			return nil, nil, fmt.Errorf("all %d keys of the library are taken; delete glyphs that no screen shows", MaxKey)
		}
	}
	return out, keys, nil
}

// mostPicture is how long the name of a picture may be, so that a number fits behind it.
const mostPicture = 34

// FreePicture returns a name that no picture of the library has: the one that is wished for, or with a
// number behind it.
func (l Library) FreePicture(wish string) string {
	runes := []rune(wish)
	stem := cmp.Or(string(runes[:min(len(runes), mostPicture)]), "picture")
	name := stem
	for n := 2; slices.ContainsFunc(l, func(d Drawing) bool { return d.Part != nil && d.Part.Picture == name }); n++ {
		name = fmt.Sprintf("%s %d", stem, n)
	}
	return name
}

// Framed returns the library with the drawings of a picture under another name.
func (l Library) Framed(picture, name string) Library {
	out := slices.Clone(l)
	n := 0
	for i, d := range out {
		if d.Part == nil || d.Part.Picture != picture {
			continue
		}
		n++
		part := *d.Part
		part.Picture = name
		out[i].Name, out[i].Part = fmt.Sprintf("%s %d", name, n), &part
	}
	return out
}

// Validate reports the first drawing that cannot be, by its index.
func (l Library) Validate() (at int, err error) {
	keys := map[int]int{}
	places := map[InPicture]int{}
	for i, d := range l {
		if d.Key < 0 || d.Key > MaxKey {
			return i, fmt.Errorf("key %d; expected 1–%d, or none", d.Key, MaxKey)
		}
		if other, twice := keys[d.Key]; twice && d.Key != 0 {
			return i, fmt.Errorf("key %d is drawing %d's; each needs its own", d.Key, other+1)
		}
		keys[d.Key] = i
		if err := CheckRows(d.Rows); err != nil {
			return i, err
		}
		if d.Part == nil {
			continue
		}
		if other, twice := places[*d.Part]; twice {
			return i, place.Errorf("%P of picture %q is drawing %d's", place.Cell(d.Part.Row, d.Part.Col), d.Part.Picture, other+1)
		}
		places[*d.Part] = i
	}
	return 0, nil
}
