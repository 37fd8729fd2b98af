package glyph

import (
	"bytes"
	"fmt"
	"strings"
	"testing"

	"slatebell/core/part/charrom"
	"slatebell/internal/golden"
)

func TestBank(t *testing.T) {
	full := Bank{}
	for slot := range Slots {
		full = append(full, New(slot, "", Pattern{byte(slot + 1)}))
	}
	if err := full.Validate(); err != nil {
		t.Fatal(err)
	}
	if slot, ok := full.Place(Pattern{4}, 1); slot != 3 || !ok {
		t.Errorf("a pattern that slot 3 holds goes to %d, %v", slot, ok)
	}
	if _, ok := full.Place(Pattern{31}, 1); ok {
		t.Error("a ninth glyph found a slot")
	}
	if slot, ok := append(full[:2:2], full[3:]...).Place(Pattern{31}, 1); slot != 2 || !ok {
		t.Errorf("the free slot 2 is %d, %v", slot, ok)
	}
	if slot, ok := full[:1].Place(Pattern{31}, 2); slot != 2 || !ok {
		t.Errorf("the next slot of the 5×10 font is %d, %v", slot, ok)
	}
	for want, b := range map[string]Bank{
		"glyph 1 is in slot 8":    {New(8, "", Pattern{})},
		"slot 2 holds two glyphs": {New(2, "", Pattern{}), New(2, "", Pattern{1})},
		"slot 0: 2 rows of dots":  {{Rows: []int{1, 2}}},
		"slot 0: row 2 is 32":     {{Rows: []int{0, 32, 0, 0, 0, 0, 0, 0}}},
	} {
		if err := b.Validate(); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("error %v, want %q in it", err, want)
		}
	}
}

// picture writes dots as rows of # and a point.
func picture(d charrom.Dots) string {
	var b strings.Builder
	for row := range 8 {
		for col := range 5 {
			b.WriteByte(map[bool]byte{true: '#', false: '.'}[d.Lit(row, col)])
		}
		b.WriteByte('\n')
	}
	return b.String()
}

// TestDraw checks letters with marks: the letter's dots stay whole, and every
// mark leaves the letter recognisable from its neighbours.
func TestDraw(t *testing.T) {
	rom := charrom.A00()
	if d, ok := Draw(rom, 'č'); !ok || picture(d) != ".#.#.\n..#..\n.###.\n#....\n#....\n#...#\n.###.\n.....\n" {
		t.Errorf("č, %v:\n%s", ok, picture(d))
	}
	if d, ok := Draw(rom, 'Č'); !ok || picture(d) != "#...#\n.###.\n#...#\n#....\n#....\n#....\n#...#\n.###.\n" {
		t.Errorf("Č, %v:\n%s", ok, picture(d))
	}
	seen := map[charrom.Dots]rune{}
	var all bytes.Buffer
	for _, ch := range "ẁẀǹẅẄẍẗẘẙạȩǫāăąćčďēĕėęěğĩīįńňōŏőřśşšťũūŭůűųŵŷźżžĀĂĄĆČĎĒĖĘĚĞĨĪĮŃŇŌŐŘŚŠŤŨŪŮŰŴŶŹŻŽ" {
		d, ok := Draw(rom, ch)
		if !ok {
			t.Errorf("%c is not drawn", ch)
		}
		if other, twice := seen[d]; twice {
			t.Errorf("%c and %c look alike:\n%s", ch, other, picture(d))
		}
		seen[d] = ch
		fmt.Fprintf(&all, "%c\n%s", ch, picture(d))
	}
	golden.Check(t, "testdata/letters.golden", all.Bytes())
	for _, ch := range []rune{'漢', 'ǭ', '☃'} {
		if _, ok := Draw(rom, ch); ok {
			t.Errorf("%c is drawn from nowhere", ch)
		}
	}
}

// TestNoRoom draws marks onto letters that fill their cell: where a letter takes
// the place of its mark, none is drawn.
func TestNoRoom(t *testing.T) {
	full := strings.Repeat("##### ##### .....\n", 7) + "##### ..... #####\n"
	rom, err := charrom.Parse(strings.NewReader("rom Own\n41=A 45=E 47=G\n" + full))
	if err != nil {
		t.Fatal(err)
	}
	for ch, want := range map[rune]bool{
		'Ǎ': false, // A fills all eight rows: no room above, even moved down
		'Ạ': false, // nor below
		'Ě': true,  // E leaves the eighth row, so it moves down
		'Ẹ': true,  // and there the dot has room
		'Ḡ': true,  // G leaves the rows above
		'Ģ': false, // and takes the eighth
	} {
		if d, ok := Draw(rom, ch); ok != want {
			t.Errorf("%c is drawn: %v\n%s", ch, ok, picture(d))
		}
	}
	if d, _ := Draw(rom, 'Ě'); picture(d) != "#...#\n"+strings.Repeat("#####\n", 7) {
		t.Errorf("Ě:\n%s", picture(d))
	}
}
