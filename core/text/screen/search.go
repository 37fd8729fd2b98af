package screen

import (
	"unicode"

	"golang.org/x/text/unicode/norm"

	"slatebell/core/part/charrom"
)

// Hit is a place where a text was found: in a row, or with Field in the name or a
// value of a field.
type Hit struct {
	Row, Col, Len int    // 0-based, in cells
	Field         int    // counted from 1; 0 for a row's own text
	Text          string // the row, or what of the field was found
}

// Search finds a text in a screen's rows and fields, whatever its case, its accents
// and the width of its characters. Codes are read as what the ROM shows for them.
func Search(rom *charrom.ROM, t Text, query string) (hits []Hit) {
	var sought []rune
	for _, ch := range query {
		sought = append(sought, folded(ch)...)
	}
	if len(sought) == 0 {
		return nil
	}
	for r, row := range t.Rows {
		for _, at := range find(rom, row, sought) {
			hits = append(hits, Hit{Row: r, Col: at[0], Len: at[1], Text: display(row)})
		}
	}
	for i := range t.Fields {
		f := &t.Fields[i]
		for _, text := range append([]string{f.Name}, f.Values...) {
			if len(find(rom, text, sought)) > 0 {
				hits = append(hits, Hit{Row: f.Row, Col: f.Col, Len: f.Width, Field: i + 1, Text: display(text)})
				break
			}
		}
	}
	return hits
}

// find returns the places of a text in a row, as column and number of cells.
func find(rom *charrom.ROM, row string, sought []rune) (places [][2]int) {
	var text []rune
	var cols []int // of each character of text
	for col, ch := range []rune(norm.NFC.String(row)) {
		if code, ok := codeOf(ch); ok {
			if shown, known := rom.Rune(code); known {
				ch = shown
			}
		}
		for _, f := range folded(ch) {
			text, cols = append(text, f), append(cols, col)
		}
	}
	for at := 0; at+len(sought) <= len(text); at++ {
		if string(text[at:at+len(sought)]) == string(sought) {
			places = append(places, [2]int{cols[at], cols[at+len(sought)-1] - cols[at] + 1})
			at += len(sought) - 1
		}
	}
	return places
}

// folded is a character without case, accent and width, as Unicode decomposes it;
// accents alone are nothing.
func folded(ch rune) (out []rune) {
	for _, d := range norm.NFKD.String(string(ch)) {
		if !unicode.Is(unicode.Mn, d) {
			out = append(out, unicode.ToLower(unicode.ToUpper(d)))
		}
	}
	return out
}
