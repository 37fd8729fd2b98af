// Package field is named places on a screen whose text changes: what they show for
// a value, the longest and the shortest that they can show, and what becomes of a
// value that does not fit.
//
// It stands below screen in the flow screens, fields, glyphs → cells → operations
// → wire traffic → rig → glass. It formats values as a program on the host would;
// it reads no clock.
package field

import (
	"slices"
	"strings"
	"unicode/utf8"

	"golang.org/x/text/unicode/norm"

	"slatebell/core/text/meter"
)

// Kind says what a field shows.
type Kind string

// The kinds.
const (
	Number  Kind = "number"
	Text    Kind = "text"    // one of a list of texts
	Choice  Kind = "choice"  // a state, by its number from 0 on, each with its word
	Clock   Kind = "clock"   // a time of day or a date
	Elapsed Kind = "elapsed" // time since a start
	Bar     Kind = "bar"     // a value as a bar, with glyphs of its own
	Free    Kind = "free"    // text that is not known before: a message, or one that is typed on the device
	Cursor  Kind = "cursor"  // nothing: a place for the cursor
	Tape    Kind = "tape"    // text that moves through it; made of a scene's effect, never kept in a bench
)

// Field is a named place on a screen whose text changes. Places are 0-based.
type Field struct {
	Name   string   `json:"name" minLength:"1" maxLength:"40"`
	Row    int      `json:"row" minimum:"0" maximum:"63"`
	Col    int      `json:"col" minimum:"0" maximum:"399"`
	Width  int      `json:"width" minimum:"1" maximum:"80" doc:"cells"`
	Kind   Kind     `json:"kind" enum:"number,text,clock,elapsed,choice,bar,free,cursor"`
	Look   Look     `json:"look,omitzero" doc:"how it stands in its cells"`
	Range  Range    `json:"range,omitzero" doc:"number, bar: least and greatest value; elapsed: seconds"`
	Digits Digits   `json:"digits,omitzero" doc:"number: how it is written"`
	Values []string `json:"values,omitempty" nullable:"false" maxItems:"200" doc:"text, choice: what it may show, each at most 80 characters"`
	Format string   `json:"format,omitempty" maxLength:"40" doc:"clock: conversions of strftime in the C locale, as %H:%M; elapsed: s, m:ss, h:mm:ss or d hh:mm"`
	Gauge  Gauge    `json:"gauge,omitzero" doc:"bar: its look"`
	PerSec float64  `json:"perSecond,omitempty" minimum:"0" maximum:"100000" doc:"how often a second it is written; absent: not said"`
	Sample string   `json:"sample,omitempty" maxLength:"80" doc:"the value that it shows while the screen is composed"`
}

// Look is how a value stands in the cells of its field. Absent members have the
// usual meaning of the field's kind.
type Look struct {
	Align   string `json:"align,omitempty" enum:"left,right,centre" doc:"absent: right for number and elapsed, else left"`
	Fill    string `json:"fill,omitempty" maxLength:"4" doc:"the character in the cells that a value leaves free, or none: they are not written, and old characters stay; absent: spaces"`
	TooLong string `json:"tooLong,omitempty" enum:"cut,hashes,shift,page,scroll" doc:"what becomes of a value that is too long: cut off, ### in its place, or what follows it on the row moves on; of free text also: it goes on from the first cell again, or moves up to show its end; absent: hashes for number and elapsed, else cut"`
}

// NoFill is the fill that leaves free cells as they are.
const NoFill = "none"

// Range is the values that a field may have.
type Range struct {
	Min float64 `json:"min,omitempty"`
	Max float64 `json:"max,omitempty"`
}

// Digits is how a number is written.
type Digits struct {
	Decimals  int    `json:"decimals,omitempty" minimum:"0" maximum:"6" doc:"digits behind the decimal mark"`
	Cut       bool   `json:"cut,omitempty" doc:"further digits are cut off: 24.99 without decimals is 24; absent: it is rounded"`
	Mark      string `json:"mark,omitempty" enum:"comma" doc:"the decimal mark; absent: a point"`
	Sign      string `json:"sign,omitempty" enum:"always,space" doc:"before what is not negative: + or a space; absent: nothing"`
	Thousands string `json:"thousands,omitempty" enum:"comma,point,apostrophe,space" doc:"between groups of three digits; absent: nothing"`
	Zeros     bool   `json:"zeros,omitempty" doc:"zeros fill the field between sign and digits"`
	Unit      string `json:"unit,omitempty" maxLength:"20" doc:"written behind the number, with the space that it begins with"`
}

// Gauge is how a bar looks; see meter.Bar.
type Gauge struct {
	Dots   int  `json:"dots,omitempty" minimum:"0" maximum:"5" doc:"that a step is long; absent: 1"`
	Gap    int  `json:"gap,omitempty" minimum:"0" maximum:"2" doc:"dark dots after each step of a cell"`
	Centre bool `json:"centre,omitempty" doc:"it grows from the middle to both sides"`
	Frame  bool `json:"frame,omitempty" doc:"a line runs round it"`
}

// SameValue reports whether another field of the same name shows the same value as this one, so
// that a program is told once for both: free text goes on from one in the next.
func (f *Field) SameValue(o *Field) bool {
	return f.Kind == o.Kind && f.Kind != Cursor && f.Digits.Decimals == o.Digits.Decimals && f.Digits.Cut == o.Digits.Cut && f.Range == o.Range && slices.Equal(f.Values, o.Values)
}

// Align is where a value stands.
func (f *Field) Align() string {
	switch {
	case f.Look.Align != "":
		return f.Look.Align
	case f.Kind == Number, f.Kind == Elapsed:
		return "right"
	}
	return "left"
}

// TooLong is what becomes of a value that does not fit: cut, hashes or shift.
func (f *Field) TooLong() string {
	switch {
	case f.Look.TooLong != "":
		return f.Look.TooLong
	case f.Kind == Number, f.Kind == Elapsed:
		return "hashes"
	}
	return "cut"
}

// Fills reports whether the cells that a value leaves free are written.
func (f *Field) Fills() bool { return f.Look.Fill != NoFill }

// Shows returns what stands in the field's cells for a text: as many characters as
// the field has cells, more where a text that is too long moves on what follows,
// fewer where free cells are not written.
func (f *Field) Shows(text string) []rune {
	chars := []rune(norm.NFC.String(text))
	if n := len(chars); n > f.Width {
		switch f.TooLong() {
		case "hashes":
			return slices.Repeat([]rune{'#'}, f.Width)
		case "shift":
			return chars
		}
		return chars[:f.Width]
	}
	free := f.Width - len(chars)
	fill := ' '
	if r, n := utf8.DecodeRuneInString(f.Look.Fill); n == len(f.Look.Fill) && n > 0 {
		fill = r
	}
	before := 0
	switch f.Align() {
	case "right":
		before = free
	case "centre":
		before = free / 2
	}
	if !f.Fills() {
		return chars // it is printed from its first cell on
	}
	return slices.Concat(slices.Repeat([]rune{fill}, before), chars, slices.Repeat([]rune{fill}, free-before))
}

// From is the first character that an area of cells shows of a free text, by what becomes
// of one that is too long: the first, the first of its last page, or as many steps later as
// show its end. A step is a row where the area has several, else a cell.
func From(tooLong string, length, area, step int) int {
	over := length - area
	if over <= 0 || area <= 0 || step <= 0 {
		return 0
	}
	switch tooLong {
	case "page":
		return (length - 1) / area * area
	case "scroll":
		return (over + step - 1) / step * step
	}
	return 0
}

// Meter is the bar that a field of kind Bar draws.
func (f *Field) Meter() meter.Bar {
	return meter.Bar{Cells: f.Width, Dots: f.Gauge.Dots, Gap: f.Gauge.Gap, Centre: f.Gauge.Centre, Frame: f.Gauge.Frame}
}

// length counts characters as cells count them.
func length(s string) int { return utf8.RuneCountInString(norm.NFC.String(s)) }

// separators are the characters between groups of three digits.
var separators = map[string]string{"comma": ",", "point": ".", "apostrophe": "'", "space": " "}

// sign is what stands before a number.
func (d *Digits) sign(negative bool) string {
	switch {
	case negative:
		return "-"
	case d.Sign == "always":
		return "+"
	case d.Sign == "space":
		return " "
	}
	return ""
}

// grouped puts separators between groups of three digits.
func grouped(digits, separator string) string {
	if separator == "" || len(digits) <= 3 {
		return digits
	}
	head := (len(digits)-1)%3 + 1
	var b strings.Builder
	b.WriteString(digits[:head])
	for i := head; i < len(digits); i += 3 {
		b.WriteString(separator + digits[i:i+3])
	}
	return b.String()
}
