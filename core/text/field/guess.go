package field

import (
	"fmt"
	"math"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"

	"golang.org/x/text/unicode/norm"
)

var (
	clockText  = regexp.MustCompile(`^\d{1,2}:\d\d(:\d\d)?$`)
	numberText = regexp.MustCompile(`^([-+]?)(\d+)(?:([.,])(\d+))?([^\d]{0,6})$`)
)

// mostGuess is how many whole digits a range that is guessed may have.
const mostGuess = 6

// Guess returns a field for cells of a row in which a text stands, so that it shows what stands there. What
// it is called is the word before it; others are the fields of the screen, whose names are taken.
//
// row is the whole row, a character a cell; from and to are its first cell and the one behind its last.
// The field's Row is left 0.
func Guess(row string, from, to int, others []Field) Field {
	cells := []rune(norm.NFC.String(row))
	if n := to - len(cells); n > 0 {
		cells = append(cells, []rune(strings.Repeat(" ", n))...)
	}
	f := Field{Col: from, Width: to - from}
	guessKind(&f, strings.TrimSpace(string(cells[from:to])))
	like := "field"
	if words := strings.Fields(string(cells[:from])); len(words) > 0 {
		word := strings.TrimRight(words[len(words)-1], ":=")
		if strings.ContainsFunc(word, unicode.IsLetter) {
			like = word
		}
	}
	like = string([]rune(like)[:min(36, utf8.RuneCountInString(like))])
	f.Name = like
	for n := 2; slices.ContainsFunc(others, func(o Field) bool { return o.Name == f.Name }); n++ {
		f.Name = fmt.Sprintf("%s %d", like, n)
	}
	return f
}

// guessKind says of what kind a field is that shows a text.
func guessKind(f *Field, text string) {
	f.Sample = text
	switch m := numberText.FindStringSubmatch(text); {
	case text == "":
		f.Kind = Free
	case clockText.MatchString(text):
		f.Kind, f.Format = Clock, "%H:%M"
		if strings.Count(text, ":") == 2 {
			f.Format = "%H:%M:%S"
		}
	case m == nil:
		f.Kind, f.Values = Text, []string{text}
	default:
		sign, whole, mark, fraction, unit := m[1], m[2], m[3], m[4], m[5]
		f.Kind = Number
		f.Digits = Digits{Decimals: min(len(fraction), mostGuess), Unit: unit}
		if mark == "," {
			f.Digits.Mark = "comma"
		}
		if sign == "+" {
			f.Digits.Sign = "always"
		}
		room := f.Width - utf8.RuneCountInString(unit)
		if f.Digits.Decimals > 0 {
			room -= f.Digits.Decimals + 1
		}
		if sign != "" {
			room--
		}
		// The greatest value that fits, such as 99.9: rounded, as binary fractions are not exact.
		step := math.Pow10(-f.Digits.Decimals)
		greatest := strconv.FormatFloat(math.Pow10(min(max(room, 1), mostGuess))-step, 'f', f.Digits.Decimals, 64)
		f.Range.Max, _ = strconv.ParseFloat(greatest, 64)
		if sign != "" {
			f.Range.Min = -f.Range.Max
		}
		f.Sample = strings.TrimPrefix(sign, "+") + whole
		if fraction != "" {
			f.Sample += "." + fraction
		}
	}
}
