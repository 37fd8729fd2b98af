package place

import (
	"errors"
	"fmt"
	"reflect"
	"testing"
)

func TestSprintf(t *testing.T) {
	at := func(p Place, at, n int) Place { p.At, p.Len = at, n; return p }
	for _, c := range []struct {
		got  Text
		want string
		at   []Place
	}{
		{Sprintf("none: %d %%", 3), "none: 3 %", nil},
		{Sprintf("%P, “%s” at %P.", Row(1), "ö %P row 4", Column(15)), "Row 2, “ö %P row 4” at column 16.", []Place{at(Row(1), 0, 5), at(Column(15), 23, 9)}},
		{Sprintf("🔔 %s: %P", "oar", Cell(0, 9)), "🔔 oar: row 1, column 10", []Place{at(Cell(0, 9), 7, 16)}},
		{Sprintf("The show: %P.", Errorf("%P is %d", Row(3), 7)), "The show: row 4 is 7.", []Place{at(Row(3), 10, 5)}},
		{Sprintf("%d of %P and %d", 1, Cells(2, 3, 4), 5), "1 of row 3, columns 4 to 7 and 5", []Place{at(Cells(2, 3, 4), 5, 21)}},
	} {
		if c.got.S != c.want || !reflect.DeepEqual(c.got.Places, c.at) {
			t.Errorf("%q with %+v, want %q with %+v", c.got.S, c.got.Places, c.want, c.at)
		}
		for _, p := range c.got.Places {
			if name := string([]rune(c.got.S)[p.At : p.At+p.Len]); name[1:] != p.String()[1:] {
				t.Errorf("%q stands where %v does", name, p)
			}
		}
	}
}

func TestOf(t *testing.T) {
	known := Errorf("%P is empty", Row(0))
	if got := Of(known); !reflect.DeepEqual(got, known) {
		t.Errorf("of a text: %+v", got)
	}
	if got := Of(fmt.Errorf("tape: %w", known)); got.Places != nil || got.S != "tape: row 1 is empty" {
		t.Errorf("wrapped, where its places stand elsewhere: %+v", got)
	}
	if got := Of(errors.New("x")); got.S != "x" || got.Places != nil {
		t.Errorf("of an error: %+v", got)
	}
}
