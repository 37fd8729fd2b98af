package field

import (
	"sort"
	"strings"
	"time"
)

// Extremes are the longest and the shortest text that a field can show, and the
// values nearest to zero, or first in their list or calendar, that give them.
type Extremes struct {
	Longest, Shortest Case
	Over              []Case // the first value that does not fit: on either side of zero, for numbers
}

// Extremes computes the longest and the shortest text from range, list or format.
func (f *Field) Extremes() Extremes {
	var e Extremes
	switch f.Kind {
	case Number, Elapsed:
		return f.extremesOfRange()
	case Text, Choice:
		for i, v := range f.Values {
			c := Case{v, v}
			if i == 0 || c.Len() > e.Longest.Len() {
				e.Longest = c
			}
			if i == 0 || c.Len() < e.Shortest.Len() {
				e.Shortest = c
			}
			if c.Len() > f.Width && len(e.Over) == 0 {
				e.Over = []Case{c}
			}
		}
	case Clock:
		// only names of weekdays and months differ in length: a year of days, at any hour
		for day := time.Date(2026, time.January, 1, 22, 48, 59, 0, time.UTC); day.Year() == 2026; day = day.AddDate(0, 0, 1) {
			text, err := f.ClockText(day)
			if err != nil {
				return Extremes{}
			}
			c := Case{day.Format("2006-01-02 15:04:05"), text}
			if e.Longest.Value == "" || c.Len() > e.Longest.Len() {
				e.Longest = c
			}
			if e.Shortest.Value == "" || c.Len() < e.Shortest.Len() {
				e.Shortest = c
			}
			if c.Len() > f.Width && len(e.Over) == 0 {
				e.Over = []Case{c}
			}
			if !strings.Contains(f.Format, "%A") && !strings.Contains(f.Format, "%B") {
				break
			}
		}
	}
	return e
}

// extremesOfRange uses that texts grow with the distance from zero, on each side.
func (f *Field) extremesOfRange() (e Extremes) {
	low, high := f.Ends()
	if high < low {
		return e
	}
	at := func(units int64) Case { return Case{f.valueOf(units), f.TextOf(units)} }
	near := min(max(0, low), high) // nearest to zero
	e.Longest, e.Shortest = at(near), at(near)
	var sides []int64
	if high > near || high >= 0 {
		sides = append(sides, high)
	}
	if low < 0 {
		sides = append(sides, low)
	}
	for _, end := range sides {
		sign, from := int64(1), max(near, 0)
		if end < 0 {
			sign, from = -1, max(-near, 1)
		}
		// distance from zero at which the text has at least so many characters
		first := func(n int) int64 {
			span := int(sign*end - from + 1)
			return sign * (from + int64(sort.Search(span, func(i int) bool { return at(sign*(from+int64(i))).Len() >= n })))
		}
		if c := at(end); c.Len() > e.Longest.Len() {
			e.Longest = at(first(c.Len()))
		}
		if c := at(sign * from); c.Len() < e.Shortest.Len() {
			e.Shortest = c
		}
		if at(end).Len() > f.Width {
			e.Over = append(e.Over, at(first(f.Width+1)))
		}
	}
	return e
}
