// Package quantile says of times that were measured which of them so many are below.
package quantile

import (
	"cmp"
	"slices"
)

// Of returns the value of a list that a share of it, 0–1, does not exceed, and sorts the list; the zero value of an empty one.
func Of[T cmp.Ordered](list []T, share float64) (of T) {
	if len(list) == 0 {
		return of
	}
	slices.Sort(list)
	return list[min(int(share*float64(len(list))), len(list)-1)]
}
