// Package merge brings together what two people made of one document at the same time, and finds
// the patch from one state of it to another.
//
// It stands on JSON values as encoding/json decodes them (map[string]any, []any, string, float64,
// bool, nil), beside package edit: a change that was made against an earlier state becomes one
// against what is stored now. The page does the same with what has not been stored yet
// (web/src/work/merge.ts), which a test holds against this package.
package merge

import (
	"reflect"
	"slices"
	"strconv"
	"strings"
)

// Side says whose value stands where both changed the same place.
type Side int

// Sides.
const (
	Theirs Side = iota
	Mine
)

// Clash is a place that both sides changed, each in its own way.
type Clash struct {
	Path string // RFC 6901 pointer, in what the merge leads to where the place is still there
}

// absent stands for a member that an object, or an element that a list, does not have.
type absent struct{}

// Three returns what a document becomes where two changed it at once: each place as whoever
// changed it left it. Places are the members of objects; the elements of lists by their names
// (an id, a slot, the two ends of a wire); the rows of a screen and the dots of a glyph by where
// they stand. Of any other list whose length one side changed, the whole is one place. Where
// both changed the same place differently, it is a clash, and prefer's value stands there.
//
// None of the three is changed, but the result shares parts with them.
func Three(base, mine, theirs any, prefer Side) (any, []Clash) {
	m := merger{prefer: prefer}
	out := m.value("", "", base, mine, theirs)
	return out, m.clashes
}

type merger struct {
	prefer  Side
	clashes []Clash
}

// value merges one place; name is the member of an object in which it stands, or whose list it is in.
func (m *merger) value(path, name string, base, mine, theirs any) any {
	switch {
	case reflect.DeepEqual(mine, theirs), reflect.DeepEqual(base, theirs):
		return mine
	case reflect.DeepEqual(base, mine):
		return theirs
	}
	if a, b, c, ok := threeOf[map[string]any](base, mine, theirs); ok {
		return m.object(path, a, b, c)
	}
	if a, b, c, ok := threeOf[[]any](base, mine, theirs); ok {
		if out, ok := m.list(path, name, a, b, c); ok {
			return out
		}
	}
	return m.clash(path, mine, theirs)
}

func (m *merger) clash(path string, mine, theirs any) any {
	m.clashes = append(m.clashes, Clash{path})
	if m.prefer == Mine {
		return mine
	}
	return theirs
}

// threeOf returns three values of one kind; a base that is not there is an empty one.
func threeOf[T any](base, mine, theirs any) (a, b, c T, ok bool) {
	b, isMine := mine.(T)
	c, isTheirs := theirs.(T)
	a, isBase := base.(T)
	return a, b, c, isMine && isTheirs && (isBase || base == nil || base == any(absent{}))
}

func (m *merger) object(path string, base, mine, theirs map[string]any) any {
	out := make(map[string]any, len(theirs))
	for _, key := range keys(base, mine, theirs) {
		if v := m.value(path+"/"+escaped(key), key, at(base, key), at(mine, key), at(theirs, key)); v != any(absent{}) {
			out[key] = v
		}
	}
	return out
}

func at(object map[string]any, key string) any {
	if v, ok := object[key]; ok {
		return v
	}
	return absent{}
}

// keys lists the members of objects, sorted, so that clashes come in one order.
func keys(objects ...map[string]any) (out []string) {
	for _, o := range objects {
		for key := range o {
			out = append(out, key)
		}
	}
	slices.Sort(out)
	return slices.Compact(out)
}

var escapes = strings.NewReplacer("~", "~0", "/", "~1")

func escaped(key string) string { return escapes.Replace(key) }

// rowLists are lists of texts that are what they are by where they stand, however many there are.
var rowLists = []string{"rows"}

func (m *merger) list(path, name string, base, mine, theirs []any) (any, bool) {
	if slices.Contains(rowLists, name) && texts(base) && texts(mine) && texts(theirs) {
		return m.texts(path, name, base, mine, theirs), true
	}
	for _, by := range names {
		a, okA := by.of(base, name)
		b, okB := by.of(mine, name)
		c, okC := by.of(theirs, name)
		if okA && okB && okC {
			return m.named(path, name, a, b, c), true
		}
	}
	if len(base) != len(mine) || len(base) != len(theirs) {
		return nil, false
	}
	return m.rows(path, name, base, mine, theirs), true
}

func texts(list []any) bool {
	return !slices.ContainsFunc(list, func(v any) bool { _, ok := v.(string); return !ok })
}

// texts merges rows of text. A row behind the end of one list is an empty one.
func (m *merger) texts(path, name string, base, mine, theirs []any) any {
	length := max(len(mine), len(theirs))
	switch len(base) {
	case len(mine):
		length = len(theirs)
	case len(theirs):
		length = len(mine)
	}
	most := max(len(base), len(mine), len(theirs))
	out := m.rows(path, name, padded(base, most), padded(mine, most), padded(theirs, most))
	for len(out) > length && out[len(out)-1] == "" {
		out = out[:len(out)-1]
	}
	return out
}

func padded(list []any, length int) []any {
	out := slices.Clone(list)
	for len(out) < length {
		out = append(out, "")
	}
	return out
}

// rows merges lists of one length, place by place.
func (m *merger) rows(path, name string, base, mine, theirs []any) []any {
	out := make([]any, len(base))
	for i := range out {
		out[i] = m.value(path+"/"+strconv.Itoa(i), name, base[i], mine[i], theirs[i])
	}
	return out
}

// named merges lists whose elements have names: in the order of whoever changed it, an element
// that one side added behind the one that it stands behind there.
func (m *merger) named(path, name string, base, mine, theirs keyed) any {
	order, agreed := ordered(base.order, mine.order, theirs.order, m.prefer)
	if !agreed {
		m.clashes = append(m.clashes, Clash{path})
	}
	out := []any{}
	for _, key := range order {
		v := m.value(path+"/"+strconv.Itoa(len(out)), name, base.at(key), mine.at(key), theirs.at(key))
		if v != any(absent{}) {
			out = append(out, v)
		}
	}
	return out
}

// ordered returns the order of all elements, and whether at most one side moved those that all have.
func ordered(base, mine, theirs []string, prefer Side) (order []string, agreed bool) {
	everywhere := common(base, mine, theirs)
	was, first, second := everywhere(base), everywhere(theirs), everywhere(mine)
	lead, other := theirs, mine
	agreed = true
	switch {
	case slices.Equal(first, second), slices.Equal(was, second):
	case slices.Equal(was, first):
		lead, other = mine, theirs
	default:
		agreed = false
		if prefer == Mine {
			lead, other = mine, theirs
		}
	}
	return woven(lead, other, base), agreed
}

// common returns what takes from a list the names that stand in all of some lists.
func common(lists ...[]string) func([]string) []string {
	count := map[string]int{}
	for _, list := range lists {
		for _, key := range list {
			count[key]++
		}
	}
	return func(list []string) (out []string) {
		for _, key := range list {
			if count[key] == len(lists) {
				out = append(out, key)
			}
		}
		return out
	}
}

// woven is the leading order, with what only the other, or only the base, has behind what stands
// before it there.
func woven(lead, other, base []string) []string {
	out := slices.Clone(lead)
	there := map[string]bool{}
	for _, key := range out {
		there[key] = true
	}
	for _, list := range [][]string{other, base} {
		for i, key := range list {
			if there[key] {
				continue
			}
			there[key] = true
			place := 0
			if i > 0 {
				place = slices.Index(out, list[i-1]) + 1
			}
			out = slices.Insert(out, place, key)
		}
	}
	return out
}

// keyed is a list whose elements have names.
type keyed struct {
	order  []string
	values map[string]any
}

func (k *keyed) at(key string) any {
	if v, ok := k.values[key]; ok {
		return v
	}
	return absent{}
}

// naming says by which members the elements of a list are told apart.
type naming struct {
	members []string // of an element that is an object; nil: it is a text that stands for itself
	only    string   // the name of the list; "" for any
}

// names are tried in turn: the first that names every element, and none twice, is taken.
var names = []naming{
	{[]string{"id"}, ""},
	{[]string{"slot"}, ""},
	{[]string{"key"}, ""},
	{[]string{"part"}, "placements"},
	{[]string{"from", "to"}, ""},
	{[]string{"module", "step"}, ""},
	{[]string{"field", "input"}, ""},
	{[]string{"file", "section"}, ""},
	{[]string{"label"}, ""},
	{[]string{"name"}, ""},
	{nil, "done"},
	{nil, "tags"},
}

// of names the elements of a list; false where it cannot.
func (n naming) of(list []any, name string) (keyed, bool) {
	out := keyed{values: make(map[string]any, len(list))}
	if n.only != "" && n.only != name {
		return out, false
	}
	for _, v := range list {
		key, ok := n.key(v)
		if _, twice := out.values[key]; !ok || twice {
			return out, false
		}
		out.order = append(out.order, key)
		out.values[key] = v
	}
	return out, true
}

func (n naming) key(v any) (string, bool) {
	if n.members == nil {
		text, ok := v.(string)
		return text, ok
	}
	object, ok := v.(map[string]any)
	if !ok {
		return "", false
	}
	var key strings.Builder
	for _, member := range n.members {
		switch v := object[member].(type) {
		case string:
			key.WriteString(strconv.Quote(v))
		case float64:
			key.WriteString(strconv.FormatFloat(v, 'g', -1, 64))
		default:
			return "", false
		}
	}
	return key.String(), true
}
