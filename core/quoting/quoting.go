// Package quoting puts texts of a bench into other languages as texts: whatever someone
// typed, or wrote into a document that is passed on, stays a comment, a string, a cell. It is
// the one place where that is done; every writer of formats, and what prints on a
// terminal, calls it.
package quoting

import (
	"encoding/xml"
	"strings"
	"unicode"
)

// Line puts a text into one line that a terminal shows as it is: characters that control, that
// end lines or that turn the direction of writing become a question mark.
func Line(text string) string {
	return strings.Map(func(r rune) rune {
		if controls(r) {
			return '?'
		}
		return r
	}, text)
}

// Lines is Line for each line of a text, which keeps its line feeds.
func Lines(text string) string {
	lines := strings.Split(text, "\n")
	for i := range lines {
		lines[i] = Line(lines[i])
	}
	return strings.Join(lines, "\n")
}

// controls reports whether a character does something rather than show: a control of ASCII,
// ISO 8859-1 or Unicode (categories Cc, Zl, Zp), the end of a line, or a bidirectional
// control (Unicode Standard Annex #9, 2).
func controls(r rune) bool {
	switch {
	case unicode.IsControl(r), r == '\u2028', r == '\u2029', r == unicode.ReplacementChar:
		return true
	}
	return unicode.Is(unicode.Bidi_Control, r)
}

// Comment puts a text into a comment of C or Python, of one line: it neither ends a comment
// nor begins one (ISO/IEC 9899:1999, 6.4.9), joins no lines, and is no mark of an own section.
func Comment(text string) string {
	text = Line(text)
	for _, pair := range [][2]string{{"*/", "* /"}, {"/*", "/ *"}, {"//", "/ /"}, {"??", "? ?"}} {
		for strings.Contains(text, pair[0]) {
			text = strings.ReplaceAll(text, pair[0], pair[1])
		}
	}
	for strings.Contains(text, "----") {
		text = strings.ReplaceAll(text, "----", "- -")
	}
	if before, ends := strings.CutSuffix(text, `\`); ends {
		text = before + "/"
	}
	return text
}

// ASCIIComment is Comment for compilers that read nothing but ASCII: what is not becomes a
// question mark.
func ASCIIComment(text string) string {
	return Comment(strings.Map(func(r rune) rune {
		if r < ' ' || r > '~' {
			return '?'
		}
		return r
	}, text))
}

// Docstring puts a text between the quotation marks of a docstring of Python (The Python
// Language Reference, 2.4.1).
func Docstring(text string) string {
	return strings.NewReplacer(`\`, `\\`, `"`, `\"`).Replace(ASCIIComment(text))
}

// Python writes a text as a string of Python with its quotation marks.
func Python(text string) string {
	const digits = "0123456789abcdef"
	var b strings.Builder
	b.WriteByte('"')
	for _, r := range text {
		switch {
		case r == '"' || r == '\\':
			b.WriteByte('\\')
			b.WriteRune(r)
		case r >= ' ' && r <= '~':
			b.WriteRune(r)
		default:
			b.WriteString(`\U`)
			for shift := 28; shift >= 0; shift -= 4 {
				b.WriteByte(digits[uint32(r)>>shift&15])
			}
		}
	}
	b.WriteByte('"')
	return b.String()
}

// Make puts a text between quotation marks in a recipe of a Makefile, where make and the
// shell both read it: letters, digits and harmless signs of ASCII stay, all else becomes a
// question mark.
func Make(text string) string {
	return strings.Map(func(r rune) rune {
		switch {
		case r >= 'a' && r <= 'z', r >= 'A' && r <= 'Z', r >= '0' && r <= '9', strings.ContainsRune(" .,:;()/_+-", r):
			return r
		}
		return '?'
	}, text)
}

// Cell puts a text into a cell of comma-separated values that a spreadsheet opens: what it
// would take for a formula begins with an apostrophe. Numbers stay as they are, and so do the
// lines of a text of several.
func Cell(text string) string {
	text = Lines(strings.ReplaceAll(text, "\r\n", "\n"))
	if first := strings.TrimSpace(text); first == "" || !strings.ContainsRune("=+-@", rune(first[0])) || number(first) {
		return text
	}
	return "'" + text
}

// number reports whether a text is a sign and digits, with one point at most.
func number(text string) bool {
	digits := strings.TrimLeft(text, "+-")
	return len(text)-len(digits) <= 1 && digits != "" && strings.Trim(digits, "0123456789.") == "" && strings.Count(digits, ".") <= 1
}

// Cells is Cell for a record.
func Cells(record []string) []string {
	for i := range record {
		record[i] = Cell(record[i])
	}
	return record
}

// Markdown puts a text into a line of Markdown, with nothing of it taken for markup
// (CommonMark 0.31, 2.4 and 6).
func Markdown(text string) string {
	var b strings.Builder
	for _, r := range Line(strings.Join(strings.Fields(text), " ")) {
		if strings.ContainsRune("\\`*_{}[]<>#|~!&", r) {
			b.WriteByte('\\')
		}
		b.WriteRune(r)
	}
	return b.String()
}

// XML puts a text into an element or attribute of XML, and of SVG (Extensible Markup Language
// 1.0, 2.2 and 2.4).
func XML(text string) string {
	var b strings.Builder
	xml.EscapeText(&b, []byte(Line(text))) // a Builder does not fail
	return b.String()
}

// Code writes a text as a code span of Markdown (CommonMark 0.31, 6.1).
func Code(text string) string { return "`" + strings.ReplaceAll(Line(text), "`", "'") + "`" }

// Word writes a text as one word, as a name in BDF 2.1 is.
func Word(text string) string {
	return strings.Join(strings.FieldsFunc(text, func(r rune) bool { return unicode.IsSpace(r) || controls(r) }), "_")
}
