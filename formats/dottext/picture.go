package dottext

import (
	"fmt"
	"strings"
	"unicode/utf8"

	"slatebell/core/text/glyph"
)

// What a dot is drawn with.
const (
	litMarks  = "#XxOo*@█■●▮1"
	darkMarks = ".-_ ·░□○▯0:"
)

// pictureLines returns the lines of a text that is drawn with dots and blanks.
func pictureLines(text string) ([]string, bool) {
	lines := strings.Split(text, "\n")
	for len(lines) > glyph.Rows && strings.TrimSpace(lines[len(lines)-1]) == "" {
		lines = lines[:len(lines)-1]
	}
	for len(lines) > glyph.Rows && strings.TrimSpace(lines[0]) == "" && len(lines)%(glyph.Rows+1) != glyph.Rows {
		lines = lines[1:]
	}
	if len(lines) > 0 && lines[len(lines)-1] == "" && len(lines) < glyph.Rows {
		lines = lines[:len(lines)-1]
	}
	drawn := false
	for _, line := range lines {
		for _, ch := range line {
			if !strings.ContainsRune(litMarks+darkMarks, ch) {
				return nil, false
			}
			drawn = drawn || !strings.ContainsRune("01 ", ch)
		}
	}
	if len(lines) < 2 || !drawn {
		return nil, false // digits alone are read as numbers
	}
	return lines, true
}

// readPicture reads lines of dots and blanks: eight a glyph, with an empty line
// between two.
func readPicture(text string, lines []string) (Reading, error) {
	first := strings.Count(text[:strings.Index(text, lines[0])], "\n") // of the text
	fail := func(line, col int, format string, args ...any) (Reading, error) {
		return Reading{}, &Error{first + line + 1, col + 1, fmt.Sprintf(format, args...)}
	}
	lines = withoutMargin(lines)
	blanks := true // blanks are dark dots, so that lines may end early
	for _, line := range lines {
		if strings.ContainsAny(line, ".-_·░□○▯0:") {
			blanks = false
		}
	}
	out := Reading{As: "lines of dots"}
	per := glyph.Rows
	if n := len(lines); n == 10 || n == glyph.MaxRows {
		per = n
	}
	for at := 0; at < len(lines); at += per + 1 {
		if len(lines) < at+per {
			return fail(len(lines)-1, 0, "%d lines of dots; a glyph has 8, or 10 or 11 with the 5×10 font", len(lines)-at)
		}
		if at+per < len(lines) && strings.TrimSpace(lines[at+per]) != "" {
			return fail(at+per, 0, "a ninth line of dots; a glyph has 8, and an empty line parts it from the next")
		}
		rows := make([]int, per)
		for i := range rows {
			line := lines[at+i]
			if n := utf8.RuneCountInString(line); n > glyph.Columns || n < glyph.Columns && !blanks {
				return fail(at+i, min(n, glyph.Columns), "%d dots in a row; expected 5", n)
			}
			for col, ch := range []rune(line) {
				if strings.ContainsRune(litMarks, ch) {
					rows[i] |= 1 << (glyph.Columns - 1 - col)
				}
			}
		}
		out.Glyphs = append(out.Glyphs, glyph.Drawing{Rows: glyph.FromInts(rows).Ints()})
	}
	return out, nil
}

// withoutMargin takes the blanks away that stand before all lines, where they are
// wider than a cell.
func withoutMargin(lines []string) []string {
	margin, wide := -1, 0
	out := make([]string, len(lines))
	for i, line := range lines {
		out[i] = line
		if strings.TrimSpace(line) == "" {
			continue
		}
		n := len(line) - len(strings.TrimLeft(line, " "))
		if margin < 0 || n < margin {
			margin = n
		}
		wide = max(wide, utf8.RuneCountInString(strings.TrimRight(line, " ")))
	}
	for i, line := range out {
		if wide > glyph.Columns {
			line = line[min(margin, len(line)):]
		}
		if utf8.RuneCountInString(line) > glyph.Columns {
			line = strings.TrimRight(line, " ")
		}
		out[i] = line
	}
	return out
}
