package field

import (
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"
	"time"
)

// Case is a value of a field and what it is written as.
type Case struct {
	Value string // as Sample takes it
	Text  string
}

// Len is how many cells the text takes.
func (c Case) Len() int { return length(c.Text) }

// scale is how many units of the last digit make one.
func (f *Field) scale() float64 { return math.Pow10(f.Decimals()) }

// Decimals is how many digits of a value stand behind the decimal mark.
func (f *Field) Decimals() int {
	if f.Kind == Elapsed {
		return 0
	}
	return f.Digits.Decimals
}

// MaxValue bounds the values of a field, either way.
const MaxValue = 1e9

// Ends are the least and the greatest value, in units of the last digit.
func (f *Field) Ends() (low, high int64) {
	return f.Units(f.Range.Min), f.Units(f.Range.Max)
}

// Units brings a value to the last digit that is written: rounded, or its further digits cut off.
func (f *Field) Units(v float64) int64 {
	units := min(max(v, -MaxValue), MaxValue) * f.scale()
	whole := math.Round(units)
	if f.Digits.Cut && math.Abs(units-whole) > 1e-6 { // 0.29 is 28.999… hundredths
		whole = math.Trunc(units)
	}
	return int64(whole)
}

// number writes a number, given in units of its last digit.
func (f *Field) number(units int64) string {
	d := &f.Digits
	digits := strconv.FormatInt(max(units, -units), 10)
	mark, fraction := "", ""
	if n := d.Decimals; n > 0 {
		digits = strings.Repeat("0", max(n+1-len(digits), 0)) + digits
		mark = "."
		if d.Mark == "comma" {
			mark = ","
		}
		digits, fraction = digits[:len(digits)-n], digits[len(digits)-n:]
	}
	sign := d.sign(units < 0)
	body := grouped(digits, separators[d.Thousands]) + mark + fraction + d.Unit
	if d.Zeros {
		body = strings.Repeat("0", max(f.Width-length(sign)-length(body), 0)) + body
	}
	return sign + body
}

// valueOf names a value of a number, given in units of its last digit.
func (f *Field) valueOf(units int64) string {
	return strconv.FormatFloat(float64(units)/f.scale(), 'f', f.Decimals(), 64)
}

// elapsed writes a time in seconds.
func (f *Field) elapsed(seconds int64) string {
	sign := ""
	if seconds < 0 {
		sign, seconds = "-", -seconds
	}
	m, h := seconds/60, seconds/3600
	switch f.Format {
	case "m:ss":
		return fmt.Sprintf("%s%d:%02d", sign, m, seconds%60)
	case "h:mm:ss":
		return fmt.Sprintf("%s%d:%02d:%02d", sign, h, m%60, seconds%60)
	case "d hh:mm":
		return fmt.Sprintf("%s%d %02d:%02d", sign, h/24, h%24, m%60)
	}
	return sign + strconv.FormatInt(seconds, 10)
}

// ElapsedFormats are the forms of elapsed time.
var ElapsedFormats = []string{"s", "m:ss", "h:mm:ss", "d hh:mm"}

// Show returns the text of a value, or says what would be a value of this field.
// An empty value stands for a usual one.
func (f *Field) Show(value string) (string, error) {
	value = strings.TrimSpace(value)
	switch f.Kind {
	case Number, Elapsed, Bar:
		low, high := f.Ends()
		units := min(max(0, low), max(high, low))
		if value != "" {
			v, err := f.parse(value)
			if err != nil {
				return "", err
			}
			units = f.Units(v)
			if units < low || units > high {
				return f.TextOf(units), fmt.Errorf("%s is outside of %s to %s", value, f.valueOf(low), f.valueOf(high))
			}
		}
		return f.TextOf(units), nil
	case Text, Choice:
		return f.listed(value)
	case Free:
		return value, nil
	case Clock:
		at, err := parseTime(value)
		if err != nil {
			return "", err
		}
		return f.ClockText(at)
	}
	return "", nil
}

// TextOf writes a number, given in units of its last digit, or seconds of elapsed time; a
// bar has no text.
func (f *Field) TextOf(units int64) string {
	switch f.Kind {
	case Elapsed:
		return f.elapsed(units)
	case Bar:
		return ""
	}
	return f.number(units)
}

// parse reads a number, or a time as 1:02:03.
func (f *Field) parse(value string) (float64, error) {
	plain := strings.Replace(value, ",", ".", 1)
	if f.Kind == Elapsed && strings.Contains(value, ":") {
		total := 0.0
		for _, part := range strings.Split(value, ":") {
			n, err := strconv.ParseFloat(part, 64)
			if err != nil || n < 0 {
				return 0, fmt.Errorf("%q is no time; expected seconds, or such as 1:02:03", value)
			}
			total = total*60 + n
		}
		return total, nil
	}
	v, err := strconv.ParseFloat(plain, 64)
	if err != nil || math.IsNaN(v) || math.IsInf(v, 0) {
		return 0, fmt.Errorf("%q is no number; expected such as %s", value, f.valueOf(f.Units(f.Range.Max)))
	}
	return v, nil
}

// Reading is the sample of a number, of elapsed time or of a bar in units of its last
// digit; where there is none it is the value nearest to zero, or the middle of a bar's
// range.
func (f *Field) Reading() int64 {
	if v, err := f.parse(strings.TrimSpace(f.Sample)); err == nil {
		return f.Units(v)
	}
	low, high := f.Ends()
	if f.Kind == Bar {
		return f.Units((f.Range.Min + f.Range.Max) / 2)
	}
	return min(max(0, low), max(high, low))
}

// Step is how far a bar is lit for a value in units of its last digit, in whole numbers
// as a program on the host reckons: see meter.Bar.Step.
func (f *Field) Step(units int64) int {
	bar := f.Meter()
	least, most := bar.Range()
	low, high := f.Ends()
	if high <= low {
		return least
	}
	span := high - low
	return least + int(((min(max(units, low), high)-low)*2*int64(most-least)+span)/(2*span))
}

// Chosen is the place in the list of the sample of a text or a choice.
func (f *Field) Chosen() int {
	text, _ := f.listed(strings.TrimSpace(f.Sample))
	return max(slices.Index(f.Values, text), 0)
}

// Time is the sample of a clock.
func (f *Field) Time() time.Time {
	at, _ := parseTime(strings.TrimSpace(f.Sample))
	return at
}

// listed returns a value of a list: a text itself, or the word of a state, by its
// number or as it stands there.
func (f *Field) listed(value string) (string, error) {
	if len(f.Values) == 0 {
		return value, fmt.Errorf("the list of %q is empty; expected what it may show", f.Name)
	}
	if value == "" {
		return f.Values[0], nil
	}
	if n, err := strconv.Atoi(value); f.Kind == Choice && err == nil && n >= 0 && n < len(f.Values) {
		return f.Values[n], nil
	}
	for _, v := range f.Values {
		if strings.TrimSpace(v) == value {
			return v, nil
		}
	}
	return value, fmt.Errorf("“%s” is not in the list of %q", value, f.Name)
}

// usualTime is what a clock shows where no value is given.
var usualTime = time.Date(2026, time.November, 25, 14, 5, 0, 0, time.UTC)

// parseTime reads a time of day, a date, or both.
func parseTime(value string) (time.Time, error) {
	if value == "" {
		return usualTime, nil
	}
	for _, form := range []string{"15:04", "15:04:05", "2006-01-02", "2006-01-02 15:04", "2006-01-02 15:04:05", "2006-01-02T15:04", "2006-01-02T15:04:05"} {
		if at, err := time.Parse(form, value); err == nil {
			if at.Year() == 0 {
				at = time.Date(usualTime.Year(), usualTime.Month(), usualTime.Day(), at.Hour(), at.Minute(), at.Second(), 0, time.UTC)
			}
			return at, nil
		}
	}
	return usualTime, fmt.Errorf("%q is no time; expected such as 14:05, 14:05:30 or 2026-11-25 14:05", value)
}

// conversions are those of strftime that a clock knows, in the C locale
// (ISO/IEC 9899, 7.27.3.5), with their form for package time.
var conversions = map[byte]string{
	'H': "15", 'I': "03", 'M': "04", 'S': "05", 'p': "PM", 'd': "02", 'e': "_2", 'm': "01", 'y': "06", 'Y': "2006",
	'a': "Mon", 'A': "Monday", 'b': "Jan", 'B': "January", 'j': "002",
}

// ClockText writes a time by the field's format.
func (f *Field) ClockText(at time.Time) (string, error) {
	format := f.Format
	if format == "" {
		format = "%H:%M"
	}
	var b strings.Builder
	for i := 0; i < len(format); i++ {
		if format[i] != '%' {
			b.WriteByte(format[i])
			continue
		}
		if i++; i == len(format) {
			return b.String() + "%", fmt.Errorf("format %q ends in %%; expected a conversion such as %%H behind it, or %%%%", format)
		}
		form, ok := conversions[format[i]]
		switch {
		case format[i] == '%':
			b.WriteByte('%')
		case !ok:
			return format, fmt.Errorf("format %q: %%%c is not known; expected %%H %%I %%M %%S %%p %%d %%e %%m %%y %%Y %%a %%A %%b %%B %%j or %%%%", format, format[i])
		default:
			b.WriteString(at.Format(form))
		}
	}
	return b.String(), nil
}
