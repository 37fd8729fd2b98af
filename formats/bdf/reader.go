// Package bdf reads and writes the Glyph Bitmap Distribution Format, version 2.1,
// as far as cells of 5×8 and 5×11 dots go.
package bdf

import (
	"bufio"
	"bytes"
	"fmt"
	"strconv"
	"strings"

	"slatebell/core/text/glyph"
)

// Is reports whether data begins as a font in this format does.
func Is(data []byte) bool { return bytes.HasPrefix(data, []byte("STARTFONT")) }

// MaxGlyphs is how many glyphs are read at most.
const MaxGlyphs = 2000

// box is a bounding box: its size, and its lower left corner from the origin.
type box struct{ w, h, x, y int }

// font is what is known while a font is read.
type font struct {
	line  int
	box   box
	glyph *glyph.Drawing
	own   box
	code  int
	out   []glyph.Drawing
}

// Read reads the glyphs of a font. Each has the name that its STARTCHAR gives it,
// with blanks for underlines, and the character of its encoding as a tag where
// that is a printed one. Errors name the line.
func Read(data []byte) ([]glyph.Drawing, error) {
	f := font{}
	lines := bufio.NewScanner(bytes.NewReader(data))
	lines.Buffer(nil, 1<<20)
	ended := false
	for lines.Scan() {
		f.line++
		word, rest, _ := strings.Cut(strings.TrimSpace(lines.Text()), " ")
		rest = strings.TrimSpace(rest)
		if f.line == 1 && word != "STARTFONT" {
			return nil, f.fail("%q; expected STARTFONT 2.1", clip(word))
		}
		if word == "ENDFONT" {
			ended = true
			break
		}
		if word == "BITMAP" {
			if err := f.bitmap(lines); err != nil {
				return nil, err
			}
			continue
		}
		if err := f.keyword(word, rest); err != nil {
			return nil, err
		}
	}
	switch err := lines.Err(); {
	case err != nil:
		return nil, f.fail("%v", err)
	case f.glyph != nil:
		return nil, f.fail("the font ends within glyph %q", f.glyph.Name)
	case !ended:
		return nil, f.fail("the font ends without ENDFONT")
	case len(f.out) == 0:
		return nil, f.fail("the font has no glyphs")
	}
	return f.out, nil
}

func (f *font) fail(format string, args ...any) error {
	return fmt.Errorf("line %d: %s", f.line, fmt.Sprintf(format, args...))
}

func clip(s string) string { return fmt.Sprintf("%.20s", s) }

// numbers reads so many numbers.
func (f *font) numbers(word, rest string, into ...*int) error {
	fields := strings.Fields(rest)
	if len(fields) < len(into) {
		return f.fail("%s has %d numbers; expected %d", word, len(fields), len(into))
	}
	for i, to := range into {
		n, err := strconv.Atoi(fields[i])
		if err != nil || n < -4096 || n > 1<<21 {
			return f.fail("%s: %q is no number that can be", word, clip(fields[i]))
		}
		*to = n
	}
	return nil
}

// keyword takes a line that is no bitmap.
func (f *font) keyword(word, rest string) error {
	switch word {
	case "FONTBOUNDINGBOX":
		return f.numbers(word, rest, &f.box.w, &f.box.h, &f.box.x, &f.box.y)
	case "STARTCHAR":
		if f.glyph != nil {
			return f.fail("a glyph begins within glyph %q", f.glyph.Name)
		}
		if len(f.out) == MaxGlyphs {
			return f.fail("more than %d glyphs", MaxGlyphs)
		}
		f.glyph = &glyph.Drawing{Name: strings.ReplaceAll(rest, "_", " ")}
		f.own, f.code = f.box, -1
	case "ENCODING":
		return f.numbers(word, rest, &f.code)
	case "BBX":
		return f.numbers(word, rest, &f.own.w, &f.own.h, &f.own.x, &f.own.y)
	case "ENDCHAR":
		return f.fail("ENDCHAR without a BITMAP")
	}
	return nil
}

// bitmap reads a glyph's rows up to ENDCHAR, and puts them into a cell.
func (f *font) bitmap(lines *bufio.Scanner) error {
	if f.glyph == nil {
		return f.fail("BITMAP without STARTCHAR")
	}
	top := f.box.h + f.box.y - (f.own.y + f.own.h) // row of the cell in which it begins
	left := f.own.x - f.box.x
	var p glyph.Pattern
	rows := 0
	for lines.Scan() {
		f.line++
		text := strings.TrimSpace(lines.Text())
		if text == "ENDCHAR" {
			if rows != f.own.h {
				return f.fail("glyph %q has %d rows; its BBX says %d", f.glyph.Name, rows, f.own.h)
			}
			f.finish(p)
			return nil
		}
		bits, err := strconv.ParseUint(text, 16, 64)
		if err != nil || len(text) < (f.own.w+3)/4 || len(text) > 16 {
			return f.fail("%q is no row of %d dots in hexadecimal", clip(text), f.own.w)
		}
		for x := range 4 * len(text) {
			if bits>>(4*len(text)-1-x)&1 == 0 {
				continue
			}
			row, col := top+rows, left+x
			if row < 0 || row >= glyph.MaxRows || col < 0 || col >= glyph.Columns {
				return f.fail("glyph %q has a dot in row %d, column %d; a cell has 5 × 8 dots, or 5 × 11", f.glyph.Name, row+1, col+1)
			}
			p[row] |= 1 << (glyph.Columns - 1 - col)
		}
		rows++
	}
	return f.fail("the font ends within glyph %q", f.glyph.Name)
}

// finish keeps the glyph that was read.
func (f *font) finish(p glyph.Pattern) {
	d := *f.glyph
	d.Name = string([]rune(d.Name)[:min(len([]rune(d.Name)), 40)])
	d.Rows = p.Ints()
	if f.code > ' ' && f.code != 0x7F && f.code < firstPrivate {
		d.Tags = []string{string(rune(f.code))}
	}
	f.out = append(f.out, d)
	f.glyph = nil
}
