// Package charrom is the character generator ROM of a controller: which
// character each code stands for, and the dots it shows.
//
// It stands one floor above hd44780 in the flow screen → cells → operations →
// wire traffic → rig → glass: screens ask it for codes, the rig for dots.
package charrom

import (
	_ "embed"
	"maps"
	"slices"
	"strings"
	"sync"
	"unicode"

	"golang.org/x/text/unicode/norm"
)

// Dots is the pattern of one 5×8 cell, a byte a row, top row first; bit 4 is
// the leftmost dot and bits 7–5 are not shown. It is laid out as in CGRAM.
type Dots [8]byte

// Lit reports whether the dot in a row (0–7) and column (0–4) is on.
func (d Dots) Lit(row, col int) bool { return d[row]>>(4-col)&1 != 0 }

// ROM maps codes to characters and dots. Codes 0x00–0x0F are the user's glyphs
// unless the ROM defines 0x08–0x0F otherwise; the ROM has no dots for them.
type ROM struct {
	Name  string
	runes [256]string // the code's own character first, then its other spellings
	dots  [256]Dots
	below [256][2]byte // rows 9 and 10 in the 5×10 font
	known [256]bool    // the table has the code
	codes map[rune]byte
}

// Cell is what a ROM has at a code.
type Cell struct {
	Code       byte
	Characters string // the code's own first, then other spellings of it; empty where it is reached by number only
	Dots       Dots
	Below      [2]byte // rows 9 and 10 in the 5×10 font
}

// New returns a ROM of some cells, one a code.
func New(name string, cells []Cell) *ROM {
	r := &ROM{Name: name, codes: map[rune]byte{}}
	for _, c := range cells {
		r.add(c)
	}
	return r
}

func (r *ROM) add(c Cell) {
	r.known[c.Code], r.runes[c.Code], r.dots[c.Code], r.below[c.Code] = true, c.Characters, c.Dots, c.Below
	for _, ch := range c.Characters {
		if _, taken := r.codes[ch]; !taken {
			r.codes[ch] = c.Code
		}
	}
}

// Spellings returns the character that a code stands for, and then what else is written with it.
func (r *ROM) Spellings(code byte) string { return r.runes[code] }

// Known reports whether the ROM's table has a code.
func (r *ROM) Known(code byte) bool { return r.known[code] }

// Dots returns what a code shows.
func (r *ROM) Dots(code byte) Dots { return r.dots[code] }

// Below returns rows 9 and 10 of a code in the 5×10 font, laid out as in Dots.
func (r *ROM) Below(code byte) [2]byte { return r.below[code] }

// Slot returns the slot of the user's glyph that a code shows: codes 0–7, and
// 8–15 once more unless the ROM defines them. It returns false for other codes.
func (r *ROM) Slot(code byte) (slot int, ok bool) {
	return int(code & 7), code < 8 || code < 16 && !r.known[code]
}

// Rune returns the character that a code stands for; false where there is none
// in Unicode, or the ROM has nothing there.
func (r *ROM) Rune(code byte) (rune, bool) {
	for _, ch := range r.runes[code] {
		return ch, true
	}
	return 0, false
}

// Code returns the lowest code that shows a character.
func (r *ROM) Code(ch rune) (byte, bool) {
	code, ok := r.codes[ch]
	return code, ok
}

// Characters lists every character that has a code, in their order.
func (r *ROM) Characters() []rune { return slices.Sorted(maps.Keys(r.codes)) }

// spelled lists what people write in place of characters that Unicode does not
// decompose (common practice).
var spelled = map[rune]string{
	'ß': "ss", 'æ': "ae", 'Æ': "AE", 'œ': "oe", 'Œ': "OE", 'ø': "o", 'Ø': "O", 'ł': "l", 'Ł': "L",
	'đ': "d", 'Đ': "D", 'þ': "th", 'Þ': "Th", 'ð': "d", 'Ð': "D",
	'‘': "'", '’': "'", '‚': ",", '“': "\"", '”': "\"", '„': "\"", '«': "<", '»': ">",
	'–': "-", '—': "-", '−': "-", '‐': "-", '…': "...", '•': ".", '·': ".", '×': "x",
	'€': "EUR", '\\': "/", '~': "-", '¦': "|", '\t': " ", '\u00a0': " ", '✓': "v", '▶': ">", '◀': "<",
	'↑': "^", '↓': "v", '≤': "<=", '≥': ">=", '≠': "!=", '±': "+-", 'Δ': "d", 'λ': "l", '′': "'", '″': "\"",
}

// Near returns what the ROM has that comes near a character it lacks, nearest
// first: each a run of characters that it can show. A letter of the other case
// comes near only where the ROM has none of its own. It may be empty.
func (r *ROM) Near(ch rune) []string {
	var near []string
	add := func(s string) {
		if s == "" || s == string(ch) {
			return
		}
		for _, c := range s {
			if _, ok := r.Code(c); !ok {
				return
			}
		}
		for _, have := range near {
			if have == s {
				return
			}
		}
		near = append(near, s)
	}
	base := func(c rune) string { return string([]rune(norm.NFKD.String(string(c)))[:1]) }
	add(base(ch))
	add(spelled[ch])
	if len(near) > 0 {
		return near
	}
	other := unicode.ToLower(ch)
	if other == ch {
		other = unicode.ToUpper(ch)
	}
	add(string(other))
	add(spelled[other])
	add(base(other))
	return near
}

//go:embed a00.chart
var a00Chart string

// A00 is the Japanese standard ROM, code A00: ASCII with ¥ for the backslash
// and arrows for ~ and DEL, half-width katakana after JIS X 0201, and a last
// part of Greek and signs.
var A00 = builtIn(a00Chart)

//go:embed a02.chart
var a02Chart string

// A02 is the European standard ROM, code A02: ASCII, arrows and marks at
// 0x10–0x1F, Cyrillic and Greek at 0x80–0x9F, and from 0xA0 on a set close to
// ISO 8859-1.
var A02 = builtIn(a02Chart)

// builtIn reads a chart that ships with the package when it is first asked for.
func builtIn(chart string) func() *ROM {
	return sync.OnceValue(func() *ROM {
		r, err := Parse(strings.NewReader(chart))
		if err != nil { // the charts' own test keeps this from happening
			panic(err)
		}
		return r
	})
}

// Names lists the built-in ROMs.
func Names() []string { return []string{"A00", "A02"} }

// ByName returns a built-in ROM.
func ByName(name string) (*ROM, bool) {
	switch name {
	case "A00":
		return A00(), true
	case "A02":
		return A02(), true
	}
	return nil, false
}
