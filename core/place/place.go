// Package place names rows and columns of the glass in texts. Makers count them from 1 or from 0,
// so a place travels beside its text as data: whoever shows the text writes the place as it is
// counted there, and the text alone counts from 1.
package place

import (
	"errors"
	"fmt"
	"strings"
	"unicode/utf8"
)

// Place is one place that a text names: cells of a row, a whole row, or a column. Rows and
// columns are 0-based; those that are not named are nil.
type Place struct {
	At   int  `json:"at" doc:"where it stands in the text, in characters (Unicode code points)"`
	Len  int  `json:"len" doc:"how many characters of the text it takes, counted from 1 as the text does"`
	Row  *int `json:"row,omitempty"`
	Col  *int `json:"col,omitempty"`
	Last *int `json:"last,omitempty" doc:"the last column, of more than one"`
}

// Text is a text with the places that it names, in their order.
type Text struct {
	S      string
	Places []Place
}

// Error makes a text an error that still knows its places.
func (t Text) Error() string { return t.S }

// Cell names one cell.
func Cell(row, col int) Place { return Place{Row: &row, Col: &col} }

// Cells names the cells of a row from col on, n of them.
func Cells(row, col, n int) Place {
	last := col + n - 1
	return Place{Row: &row, Col: &col, Last: &last}
}

// Row names a row.
func Row(row int) Place { return Place{Row: &row} }

// Column names a column.
func Column(col int) Place { return Place{Col: &col} }

// String names the place, counted from 1: "row 2, columns 3 to 8".
func (p Place) String() string {
	var parts []string
	if p.Row != nil {
		parts = append(parts, fmt.Sprintf("row %d", *p.Row+1))
	}
	switch {
	case p.Col != nil && p.Last != nil:
		parts = append(parts, fmt.Sprintf("columns %d to %d", *p.Col+1, *p.Last+1))
	case p.Col != nil:
		parts = append(parts, fmt.Sprintf("column %d", *p.Col+1))
	}
	return strings.Join(parts, ", ")
}

// mark stands in a format where a place belongs.
const mark = "%P"

// Sprintf is fmt.Sprintf with the verb %P for a Place, which begins with a capital where a
// sentence does, and for a Text. Its other arguments stand in their order between those, so
// explicit indices are not for it.
func Sprintf(format string, args ...any) Text { return written(true, format, args) }

// Errorf is Sprintf for an error, which begins in lower case.
func Errorf(format string, args ...any) Text { return written(false, format, args) }

func written(sentence bool, format string, args []any) Text {
	var t Text
	pieces := strings.Split(format, mark)
	for i, piece := range pieces {
		n := 0
		for n < len(args) && !hasPlaces(args[n]) {
			n++
		}
		t.S += fmt.Sprintf(piece, args[:n]...)
		args = args[n:]
		if i < len(pieces)-1 && len(args) > 0 {
			t.add(args[0], sentence)
			args = args[1:]
		}
	}
	return t
}

// hasPlaces says whether an argument is for %P.
func hasPlaces(arg any) bool {
	switch arg.(type) {
	case Place, Text:
		return true
	}
	return false
}

// add appends a Place or a Text.
func (t *Text) add(arg any, sentence bool) {
	at := utf8.RuneCountInString(t.S)
	switch a := arg.(type) {
	case Place:
		name := a.String()
		if sentence && (t.S == "" || strings.HasSuffix(t.S, ". ")) {
			name = strings.ToUpper(name[:1]) + name[1:]
		}
		a.At, a.Len = at, utf8.RuneCountInString(name)
		t.S, t.Places = t.S+name, append(t.Places, a)
	case Text:
		t.S += a.S
		for _, p := range a.Places {
			p.At += at
			t.Places = append(t.Places, p)
		}
	}
}

// Of returns the text of an error, with its places where it knows them.
func Of(err error) Text {
	var t Text
	if errors.As(err, &t) && t.S == err.Error() {
		return t
	}
	return Text{S: err.Error()}
}
