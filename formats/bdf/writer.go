package bdf

import (
	"bufio"
	"cmp"
	_ "embed"
	"io"
	"text/template"
	"unicode"
	"unicode/utf8"

	"slatebell/core/quoting"
	"slatebell/core/text/glyph"
)

// firstPrivate is the encoding of the first glyph that stands for no character:
// Unicode's private use area.
const firstPrivate = 0xE000

//go:embed bdf.tmpl
var text string

var form = template.Must(template.New("bdf").Parse(text))

// char is a glyph as the format writes it.
type char struct {
	Name string
	Code int
	Rows []int // shifted so that the leftmost dot is the highest bit of a byte
}

// Write writes glyphs as a font, each in a box of a whole cell. A glyph whose name
// or first tag is a character has that character's encoding; others have one of
// the private use area, in their order.
func Write(w io.Writer, list []glyph.Drawing) error {
	height := glyph.Rows
	taken := map[int]bool{}
	chars := make([]char, len(list))
	for i := range list {
		d := &list[i]
		if len(d.Rows) > glyph.Rows {
			height = glyph.MaxRows
		}
		code := codeOf(d)
		if code == 0 || taken[code] {
			code = firstPrivate + i
		}
		taken[code] = true
		chars[i] = char{Name: nameOf(d), Code: code}
	}
	for i := range list {
		p := list[i].Pattern()
		for _, bits := range p[:height] {
			chars[i].Rows = append(chars[i].Rows, int(bits)<<3)
		}
	}
	out := bufio.NewWriter(w)
	err := form.Execute(out, struct {
		Height, Ascent int // the last line lies below the baseline
		Chars          []char
	}{height, height - 1, chars})
	if err != nil {
		return err
	}
	return out.Flush()
}

// codeOf returns the character that a glyph stands for; 0 for none.
func codeOf(d *glyph.Drawing) int {
	for _, s := range append([]string{d.Name}, d.Tags[:min(1, len(d.Tags))]...) {
		if ch, n := utf8.DecodeRuneInString(s); n == len(s) && n > 0 && ch > ' ' && ch < firstPrivate && ch != utf8.RuneError && unicode.IsPrint(ch) {
			return int(ch)
		}
	}
	return 0
}

// nameOf writes a glyph's name as the format takes it: one word.
func nameOf(d *glyph.Drawing) string {
	return cmp.Or(quoting.Word(d.Name), "unnamed")
}
