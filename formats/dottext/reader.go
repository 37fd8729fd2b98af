// Package dottext reads and writes glyphs as people paste them: eight numbers in
// any base, an array of a program, a line of hexadecimal, eight lines of dots and
// blanks.
package dottext

import (
	"fmt"
	"regexp"
	"strconv"
	"strings"
	"unicode/utf8"

	"slatebell/core/say"
	"slatebell/core/text/glyph"
)

// MaxText is how long a text may be, in bytes.
const MaxText = 256 << 10

// Error is a place in a text that cannot be read.
type Error struct {
	Line, Col int    // counted from 1; columns in characters
	What      string // what was wrong, and what would be right
}

func (e *Error) Error() string { return fmt.Sprintf("line %d, column %d: %s", e.Line, e.Col, e.What) }

// Reading is what a text was read as.
type Reading struct {
	Glyphs []glyph.Drawing
	As     string // in words, such as "numbers in binary"
}

// Read reads glyphs from a text. Its error is an *Error.
func Read(text string) (Reading, error) {
	if len(text) > MaxText {
		return Reading{}, &Error{1, 1, fmt.Sprintf("%d bytes of text; at most %d are read", len(text), MaxText)}
	}
	text = strings.ReplaceAll(strings.ReplaceAll(text, "\r\n", "\n"), "\r", "\n")
	if lines, ok := pictureLines(text); ok {
		return readPicture(text, lines)
	}
	r := reader{text: withoutComments(text)}
	return r.read()
}

// reader reads numbers; positions are bytes of the text.
type reader struct {
	text string
	as   map[string]bool // bases that were met
	open error           // a bracket that is not closed
}

// fail returns an error at a place.
func (r *reader) fail(at int, format string, args ...any) error {
	return placed(r.text, at, fmt.Sprintf(format, args...))
}

func placed(text string, at int, what string) *Error {
	before := text[:min(at, len(text))]
	line := strings.Count(before, "\n")
	begin := strings.LastIndexByte(before, '\n') + 1
	return &Error{line + 1, utf8.RuneCountInString(before[begin:]) + 1, what}
}

// comments are what programs say about their numbers; a # begins one where it is
// followed by a blank or a letter, and at the start of a line.
var comments = regexp.MustCompile(`(?s:/\*.*?\*/)|//[^\n]*|(?m:(?:^|[ \t,;])#[ \t!A-Za-z][^\n]*$)|(?m:^#[^\n]*$)|(?m:--[^\n]*$)`)

// withoutComments blanks comments out, so that places stay.
func withoutComments(text string) string {
	return comments.ReplaceAllStringFunc(text, func(c string) string {
		return strings.Map(func(ch rune) rune {
			if ch == '\n' {
				return ch
			}
			return ' '
		}, asBytes(c))
	})
}

// asBytes replaces characters of several bytes by as many blanks.
func asBytes(s string) string {
	b := []byte(s)
	for i := range b {
		if b[i] >= utf8.RuneSelf {
			b[i] = ' '
		}
	}
	return string(b)
}

// span is a part of the text.
type span struct{ from, to int }

func (r *reader) read() (Reading, error) {
	r.as = map[string]bool{}
	groups, err := r.groups()
	if err != nil {
		return Reading{}, err
	}
	var out Reading
	for _, g := range groups {
		values, places, err := r.values(g.span, g.bracket)
		if err != nil {
			return Reading{}, err
		}
		if len(values) == 0 || r.open != nil {
			continue
		}
		glyphs, err := r.cut(values, places)
		if err != nil {
			return Reading{}, err
		}
		for i := range glyphs {
			glyphs[i].Name = g.name
		}
		out.Glyphs = append(out.Glyphs, glyphs...)
	}
	if r.open != nil {
		return Reading{}, r.open
	}
	if len(out.Glyphs) == 0 {
		return Reading{}, r.fail(len(r.text)-len(strings.TrimLeft(r.text, " \n\t")), "no value is here; expected eight rows such as 0b01110, 0x0E or 14, or eight lines of dots and blanks")
	}
	number(out.Glyphs)
	out.As = r.described()
	return out, nil
}

// number tells glyphs of one name apart, and shortens names.
func number(list []glyph.Drawing) {
	count := map[string]int{}
	for _, d := range list {
		count[d.Name]++
	}
	seen := map[string]int{}
	for i := range list {
		name := list[i].Name
		if name != "" && count[name] > 1 {
			seen[name]++
			list[i].Name = fmt.Sprintf("%.34s %d", name, seen[name])
		} else {
			list[i].Name = fmt.Sprintf("%.40s", name)
		}
	}
}

// described says what the numbers were read as.
func (r *reader) described() string {
	var bases []string
	for _, base := range []string{"binary", "hexadecimal", "octal", "decimal"} {
		if r.as[base] {
			bases = append(bases, base)
		}
	}
	return "numbers in " + say.List(bases)
}

// group is the values between two brackets, or all of a text without any.
type group struct {
	span
	bracket byte // { [ or (; 0 for none
	name    string
}

// groups finds the innermost brackets with values in them: braces where there are
// any, as the brackets of C hold sizes.
func (r *reader) groups() ([]group, error) {
	open := strings.IndexAny(r.text, "{[(")
	if open < 0 {
		if at := strings.IndexAny(r.text, "}])"); at >= 0 {
			return nil, r.fail(at, "a bracket closes that was not opened")
		}
		if at := strings.IndexByte(r.text, '='); at >= 0 && nameBefore(r.text[:at+1]) != "" {
			return []group{{span: span{at + 1, len(r.text)}, name: nameBefore(r.text[:at+1])}}, nil
		}
		return []group{{span: span{0, len(r.text)}}}, nil
	}
	opens, closes := "[(", "])"
	if strings.Contains(r.text, "{") {
		opens, closes = "{", "}"
	}
	var out []group
	var stack []int
	var inner bool // nothing closed since the last bracket opened
	name := ""
	outer := 0 // where what stands before the next outermost bracket begins
	for at := 0; at < len(r.text); at++ {
		ch := r.text[at]
		switch {
		case strings.IndexByte(opens, ch) >= 0:
			if len(stack) == 0 {
				name = nameBefore(r.text[outer:at])
			}
			stack = append(stack, at)
			inner = true
		case strings.IndexByte(closes, ch) >= 0:
			if len(stack) == 0 {
				return nil, r.fail(at, "a bracket closes that was not opened")
			}
			from := stack[len(stack)-1]
			if opens[strings.IndexByte(closes, ch)] != r.text[from] {
				return nil, r.fail(at, "%q closes what %q opened", ch, r.text[from])
			}
			if stack = stack[:len(stack)-1]; inner {
				out = append(out, group{span{from + 1, at}, r.text[from], name})
			}
			inner = false
			if len(stack) == 0 {
				outer = at + 1
			}
		}
	}
	if len(stack) > 0 { // what is wrong within it is said first
		from := stack[len(stack)-1]
		r.open = r.fail(from, "a bracket opens and is not closed")
		if inner {
			out = append(out, group{span{from + 1, len(r.text)}, r.text[from], name})
		}
	}
	return out, nil
}

var named = regexp.MustCompile(`([A-Za-z_]\w*)\s*(?:\[[^\]]*\]\s*)*(?:PROGMEM\s*)?[=:]\s*\w*\s*$`)

// nameBefore returns the name that an array has in a program.
func nameBefore(text string) string {
	if m := named.FindStringSubmatch(text); m != nil {
		return strings.ReplaceAll(m[1], "_", " ")
	}
	return ""
}

var (
	token      = regexp.MustCompile(`[^\s,;|]+`)
	escaped    = regexp.MustCompile(`^[bB]?["']?(?:\\x[0-9A-Fa-f]{2})+["']?$`)
	hexPair    = regexp.MustCompile(`^[0-9A-Fa-f]{2}$`)
	hexRun     = regexp.MustCompile(`^(?:[0-9A-Fa-f]{16}|[0-9A-Fa-f]{20}|[0-9A-Fa-f]{22}|(?:[0-9A-Fa-f]{16}){2,})$`)
	bareBinary = regexp.MustCompile(`^[01]{5,8}$`)
	leadOrABC  = regexp.MustCompile(`^0|[A-Fa-f]`)
)

// values reads the values of a group, with where each stands.
func (r *reader) values(s span, bracket byte) (values, places []int, err error) {
	found := token.FindAllStringIndex(r.text[s.from:s.to], -1)
	tokens := make([]string, len(found))
	at := make([]int, len(found))
	pairs, marked, bare := len(found) > 0, false, len(found) > 0
	for i, f := range found {
		tokens[i], at[i] = r.text[s.from+f[0]:s.from+f[1]], s.from+f[0]
		pairs = pairs && hexPair.MatchString(tokens[i])
		marked = marked || leadOrABC.MatchString(tokens[i])
		bare = bare && bareBinary.MatchString(tokens[i])
	}
	// eight digits a row in pairs without a word on their base: a line of hexadecimal
	spaced := !strings.Contains(r.text[s.from:s.to], ",") && !strings.Contains(strings.TrimSpace(r.text[s.from:s.to]), "\n")
	pairs = pairs && bracket == 0 && (marked || spaced)
	for i, t := range tokens {
		switch {
		case escaped.MatchString(t):
			r.as["hexadecimal"] = true
			for k := strings.Index(t, `\x`); k >= 0 && k+4 <= len(t) && t[k] == '\\'; k += 4 {
				v, _ := strconv.ParseUint(t[k+2:k+4], 16, 8)
				values, places = append(values, int(v)), append(places, at[i]+k)
			}
		case bracket == 0 && !bare && hexRun.MatchString(t):
			r.as["hexadecimal"] = true
			for k := 0; k < len(t); k += 2 {
				v, _ := strconv.ParseUint(t[k:k+2], 16, 8)
				values, places = append(values, int(v)), append(places, at[i]+k)
			}
		default:
			v, ok := r.value(t, pairs, bare, bracket)
			if !ok {
				return nil, nil, r.fail(at[i], "%q is no row of dots; expected such as 0b01110, B01110, 0x0E, 0Eh or 14", clip(t))
			}
			values, places = append(values, v), append(places, at[i])
		}
	}
	for i, v := range values {
		if v > 0x1F {
			return nil, nil, r.fail(places[i], "%d has more than the five dots of a row; expected 0–31 (0x00–0x1F)", v)
		}
	}
	return values, places, nil
}

// clip shortens what is quoted.
func clip(s string) string {
	if utf8.RuneCountInString(s) > 24 {
		return string([]rune(s)[:24]) + "…"
	}
	return s
}

var bases = []struct {
	form *regexp.Regexp
	base int
	name string
}{
	{regexp.MustCompile(`^(?:0[bB]|[bB]|%)([01_']+)$`), 2, "binary"},
	{regexp.MustCompile(`^([01]{5,8})[bB]$`), 2, "binary"},
	{regexp.MustCompile(`^(?:0[xX]|\$|&[hH])([0-9A-Fa-f]+)[uUlL]*$`), 16, "hexadecimal"},
	{regexp.MustCompile(`^([0-9][0-9A-Fa-f]*)[hH]$`), 16, "hexadecimal"},
	{regexp.MustCompile(`^0[oO]([0-7]+)$`), 8, "octal"},
	{regexp.MustCompile(`^([0-9]+)[uUlL]*$`), 10, "decimal"},
}

// value reads one token.
func (r *reader) value(t string, pairs, bare bool, bracket byte) (int, bool) {
	if pairs || bare {
		base, name := 16, "hexadecimal"
		if bare {
			base, name = 2, "binary"
		}
		v, err := strconv.ParseUint(t, base, 16)
		r.as[name] = true
		return int(v), err == nil
	}
	for _, b := range bases {
		m := b.form.FindStringSubmatch(t)
		if m == nil {
			continue
		}
		digits, base, name := strings.NewReplacer("_", "", "'", "").Replace(m[1]), b.base, b.name
		if base == 10 && bracket == '{' && len(digits) > 1 && digits[0] == '0' { // as C reads it, ISO/IEC 9899, 6.4.4.1
			base, name = 8, "octal"
		}
		v, err := strconv.ParseUint(digits, base, 31)
		if err != nil {
			return 0, false
		}
		r.as[name] = true
		return int(v), true
	}
	return 0, false
}

// cut makes glyphs of rows: of eight each, or one of ten or eleven.
func (r *reader) cut(values, places []int) ([]glyph.Drawing, error) {
	n := len(values)
	per := glyph.Rows
	switch {
	case n == 10 || n == glyph.MaxRows:
		per = n
	case n%glyph.Rows != 0:
		last := places[n-1]
		return nil, r.fail(last, "%d rows end here; a glyph has 8, or 10 or 11 with the 5×10 font", n)
	}
	var out []glyph.Drawing
	for ; len(values) > 0; values = values[per:] {
		out = append(out, glyph.Drawing{Rows: glyph.FromInts(values[:per]).Ints()})
	}
	return out, nil
}
