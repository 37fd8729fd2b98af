package merge

import (
	"reflect"
	"strconv"

	"slatebell/core/finding"
)

// Diff returns the RFC 6902 patch that makes one document of another; it is empty where they say
// the same. Lists are compared element by element between what both begin and end with, so that it
// takes time in proportion to their length.
func Diff(before, after any) finding.Patch {
	d := differ{out: finding.Patch{}}
	d.value("", before, after)
	return d.out
}

type differ struct{ out finding.Patch }

func (d *differ) add(op finding.Op) { d.out = append(d.out, op) }

func (d *differ) value(path string, before, after any) {
	if a, b, ok := twoOf[map[string]any](before, after); ok {
		d.object(path, a, b)
		return
	}
	if a, b, ok := twoOf[[]any](before, after); ok {
		d.list(path, a, b)
		return
	}
	if !reflect.DeepEqual(before, after) {
		d.add(finding.Replace(path, after))
	}
}

func twoOf[T any](before, after any) (a, b T, ok bool) {
	a, first := before.(T)
	b, second := after.(T)
	return a, b, first && second
}

func (d *differ) object(path string, before, after map[string]any) {
	for _, key := range keys(before, after) {
		was, had := before[key]
		is, has := after[key]
		at := path + "/" + escaped(key)
		switch {
		case !has:
			d.add(finding.Remove(at))
		case !had:
			d.add(finding.Add(at, is))
		default:
			d.value(at, was, is)
		}
	}
}

func (d *differ) list(path string, before, after []any) {
	most := min(len(before), len(after))
	head, tail := 0, 0
	for head < most && reflect.DeepEqual(before[head], after[head]) {
		head++
	}
	for tail < most-head && reflect.DeepEqual(before[len(before)-1-tail], after[len(after)-1-tail]) {
		tail++
	}
	for i := head; i < most-tail; i++ {
		d.value(path+"/"+strconv.Itoa(i), before[i], after[i])
	}
	for range len(before) - most {
		d.add(finding.Remove(path + "/" + strconv.Itoa(most-tail)))
	}
	for i := most - tail; i < len(after)-tail; i++ {
		d.add(finding.Add(path+"/"+strconv.Itoa(i), after[i]))
	}
}
