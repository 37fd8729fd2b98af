package merge

import (
	"reflect"
	"strconv"
	"strings"
)

var unescapes = strings.NewReplacer("~1", "/", "~0", "~")

// Unchanged reports whether the place that an RFC 6901 pointer names in one state holds the same in
// another, where elements of lists are found again by their names. A place that is in neither is unchanged.
func Unchanged(pointer string, before, after any) bool {
	list := ""
	for token := range strings.SplitSeq(strings.TrimPrefix(pointer, "/"), "/") {
		if pointer == "" {
			break
		}
		token = unescapes.Replace(token)
		if was, ok := before.([]any); ok {
			is, ok := after.([]any)
			i, err := strconv.Atoi(token)
			if !ok || err != nil || i < 0 {
				return reflect.DeepEqual(before, after)
			}
			before, after = element(was, i), found(was, is, list, i)
			continue
		}
		was, ok1 := before.(map[string]any)
		is, ok2 := after.(map[string]any)
		if !ok1 || !ok2 {
			break
		}
		before, after, list = at(was, token), at(is, token), token
	}
	return reflect.DeepEqual(before, after)
}

// found is the element of one list that has the name of another's element i; the one at the same
// place where they have no names.
func found(was, is []any, list string, i int) any {
	for _, by := range names {
		a, ok1 := by.of(was, list)
		b, ok2 := by.of(is, list)
		if ok1 && ok2 && i < len(a.order) {
			return b.at(a.order[i])
		}
	}
	return element(is, i)
}

func element(list []any, i int) any {
	if i < len(list) {
		return list[i]
	}
	return absent{}
}
