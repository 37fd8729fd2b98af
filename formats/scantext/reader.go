// Package scantext reads what a host's I²C scanner printed, in whatever words:
// sentences, lists in decimal or hexadecimal, lists of a programming language,
// the table of 8 × 16 addresses. There is no format to hold to; the reader knows
// what such print-outs have in common, and says how it took what could be taken
// in two ways.
package scantext

import (
	"errors"
	"fmt"
	"io"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"slatebell/core/part/i2cbus"
)

// MaxSize is how many bytes of a print-out are read.
const MaxSize = 64 << 10

// Reading is what a print-out says.
type Reading struct {
	Found  []i2cbus.Address // that answered, ascending, each once
	Notes  []string         // how ambiguous numbers were taken
	Silent bool             // the scanner says that nothing answered
}

// ErrNone is the error where no address can be read.
var ErrNone = errors.New("no address can be read; expected what a scanner prints, such as 0x27, 39, [39, 104] or a table of addresses")

// Read reads a print-out. Which addresses are expected settles what a bare number
// means: 39 is 0x27 in decimal and 0x39 in hexadecimal, and 0x4E may be the 8-bit
// form of 0x27. Where nothing can be read, the error is ErrNone; Silent is set
// with it where the scanner says that it found nothing.
func Read(r io.Reader, expected []i2cbus.Address) (*Reading, error) {
	data, err := io.ReadAll(io.LimitReader(r, MaxSize+1))
	if err != nil {
		return nil, err
	}
	if len(data) > MaxSize {
		return nil, fmt.Errorf("the print-out is longer than %d kB; expected what a scan of one bus prints", MaxSize>>10)
	}
	text := strings.ReplaceAll(string(data), "\r", "\n")
	reading := &Reading{}
	found, is := table(text)
	if reading.Found = found; !is {
		reading.Found, reading.Notes = prose(text, expected)
	}
	if len(reading.Found) == 0 {
		reading.Silent = is || nothing.MatchString(text)
		return reading, ErrNone
	}
	slices.Sort(reading.Found)
	reading.Found = slices.Compact(reading.Found)
	return reading, nil
}

// A row of the table of addresses begins with its first one: 20: or 0x20: or 2x:,
// or 20 alone before cells of which some are empty.
var (
	tableRow  = regexp.MustCompile(`^\s*(?:0[xX])?([0-7])[0xX]\s*([:|]|\s)(.*)$`)
	emptyCell = regexp.MustCompile(`(?:^|\s)(?:--?|\.\.?|__?)(?:\s|$)`)
)

// table reads the rows of a table of 8 × 16 addresses: a cell holds its own
// address, or a mark where something answers, or nothing. The first row often
// begins later, as its first addresses are reserved. It reports whether the text
// is such a table; a list that only looks like one row is none.
func table(text string) (found []i2cbus.Address, is bool) {
	rows := 0
	for line := range strings.Lines(text) {
		m := tableRow.FindStringSubmatch(strings.TrimRight(line, "\n"))
		if m == nil || strings.TrimSpace(m[2]) == "" && !emptyCell.MatchString(m[3]) {
			continue
		}
		cells := strings.Fields(strings.ReplaceAll(m[3], "|", " "))
		if len(cells) < 2 || len(cells) > 16 {
			continue
		}
		rows++
		first := int(m[1][0]-'0') << 4
		at := first
		if first == 0 {
			at = 16 - len(cells)
		}
		for i, cell := range cells {
			own, err := strconv.ParseUint(strings.TrimPrefix(strings.ToLower(cell), "0x"), 16, 8)
			switch {
			case err == nil && len(cell) > 1 && int(own)&^15 == first:
				found = append(found, i2cbus.Address(own))
			case slices.Contains(marks, strings.ToLower(cell)):
				found = append(found, i2cbus.Address(at+i))
			}
		}
	}
	return found, rows > 1
}

// marks stand in a table for something that answers, or is in use already.
var marks = []string{"uu", "x", "xx", "*", "**", "#", "##", "@", "ok", "ack", "o", "1", "y", "yes"}

var (
	nothing = regexp.MustCompile(`(?i)\b(no|0|zero|keine)\b[^\n]*\b(devices?|address(es)?|found|answers?)\b|nothing (found|answers)|not? found|^\s*\[\s*\]\s*$|\bnone\b`)
	// What is printed of addresses that do not answer.
	silent = regexp.MustCompile(`(?i)\berror|\bnack\b|\bno\s+(ack|answer|response|reply|i2c|device)|\bnot\s+(found|responding|answering|present|ack)|time-?\s?out|\bfail`)
	calm   = regexp.MustCompile(`(?i)\b(no|0|without)\s+errors?`)
	// Numbers that are no addresses.
	clutter = []*regexp.Regexp{
		regexp.MustCompile(`\b\d{4}-\d{2}-\d{2}\b`),                    // dates
		regexp.MustCompile(`\b\d{1,2}:\d{2}(?::\d{2})?(?:[.,]\d+)?\b`), // times of day
		regexp.MustCompile(`\b\d+\.\d+\b`),                             // voltages, versions
		regexp.MustCompile(`(?i)\b\d+\s*(?:[kM]?Hz|kbit|baud|m?s|µs|us|m?V|k?Ω|k?ohms?|pF|%|bytes?|bits?|pins?|times)\b`),
		regexp.MustCompile(`(?i)\b\d+\s+(?:I2C\s+|I²C\s+)?(?:devices?|addresses|found|slaves?|targets?|nodes?|results?)\b`),
		regexp.MustCompile(`(?i)\b(?:sda|scl|gpio|gp|pins?|port|bus|channel|mux|wire|line|baud|rate|freq\w*|clock|speed)\s*[#:=(]*\s*\d+\b`),
		regexp.MustCompile(`(?i)\b(?:i2c|twi|bus)[-_]?\d*\s*\(\s*\d+[^)]*\)`), // a call that opens a bus
	}
	ranged = regexp.MustCompile(`(?i)(?:0x)?[0-9a-f]+\s*(?:to|through|-|–|\.\.+|until)\s*(?:0x)?[0-9a-f]+`)
	sweeps = regexp.MustCompile(`(?i)scan|rang|from|between|prob|check|test`)
	// An ordinal stands before another number: "1. 39", "Device 1: 39".
	ordinal = regexp.MustCompile(`(?i)(?:^|\bdevice|\bno\.?|#)\s*\d+\s*[:.)]\s+`)

	plain    = regexp.MustCompile(`0[xX][0-9A-Fa-f]+|\\x[0-9A-Fa-f]{2}|0[bB][01]{7,8}\b|\bB[01]{7,8}\b|\b[0-9A-Fa-f]{2}[hH]\b|[$&][0-9A-Fa-f]{2}\b`)
	bare     = regexp.MustCompile(`[0-9A-Za-z_²]+`)
	onlyHex  = regexp.MustCompile(`^[\s,;\[\](){}'"]*(?:[0-9A-Fa-f]{2}[\s,;\[\](){}'"]*)+$`)
	saysHex  = regexp.MustCompile(`(?i)\bhex`)
	saysDec  = regexp.MustCompile(`(?i)\bdec`)
	forms    = regexp.MustCompile(`(?i)8[- ]?bit|\b(?:write|read|shifted|[wr])\b`)
	counting = regexp.MustCompile(`(?i)(?:found|count|total|number|devices?)[^0-9\n]*$`)
)

// token is one number of a print-out.
type token struct {
	text     string
	explicit bool // its base is written with it
	value    int  // where it is
	line     int
	forms    bool   // its line names 8-bit forms
	before   string // what stands before it in its line
}

// prose reads numbers out of words and lists.
func prose(text string, expected []i2cbus.Address) ([]i2cbus.Address, []string) {
	var tokens []token
	n := 0
	for line := range strings.Lines(text) {
		n++
		tokens = append(tokens, scanLine(strings.TrimSpace(line), n)...)
	}
	if slices.ContainsFunc(tokens, func(t token) bool { return t.explicit }) {
		tokens = slices.DeleteFunc(tokens, func(t token) bool { return !t.explicit })
	}
	tokens = slices.DeleteFunc(tokens, func(t token) bool { // how many there are is no address
		v, err := strconv.Atoi(t.text)
		return !t.explicit && err == nil && v == len(tokens)-1 && counting.MatchString(t.before)
	})
	if len(tokens) == 0 {
		return nil, nil
	}
	return take(tokens, text, expected)
}

// scanLine finds the numbers of a line that may be addresses that answer.
func scanLine(line string, n int) []token {
	if silent.MatchString(calm.ReplaceAllString(line, "")) {
		return nil
	}
	if sweeps.MatchString(line) {
		line = ranged.ReplaceAllString(line, " ")
	}
	var tokens []token
	eight := forms.MatchString(line)
	if at := plain.FindAllStringIndex(line, len(line)); at != nil {
		for _, m := range at {
			word := line[m[0]:m[1]]
			if v, ok := explicit(word); ok {
				tokens = append(tokens, token{text: word, explicit: true, value: v, line: n, forms: eight, before: line[:m[0]]})
			}
		}
		return tokens
	}
	list := onlyHex.MatchString(line)
	for _, c := range clutter {
		line = c.ReplaceAllString(line, " ")
	}
	if rest := ordinal.ReplaceAllString(line, " "); strings.ContainsAny(rest, "0123456789") {
		line = rest
	}
	for _, m := range bare.FindAllStringIndex(line, len(line)) {
		word := line[m[0]:m[1]]
		_, notHex := strconv.ParseUint(word, 16, 8)
		_, notDecimal := strconv.ParseUint(word, 10, 8)
		digitFirst := word[0] >= '0' && word[0] <= '9'
		if notDecimal == nil || notHex == nil && len(word) == 2 && (digitFirst || list) {
			tokens = append(tokens, token{text: word, line: n, forms: eight, before: line[:m[0]]})
		}
	}
	return tokens
}

// explicit reads a number that carries its base.
func explicit(word string) (int, bool) {
	lower := strings.ToLower(word)
	digits, base := lower, 16
	switch {
	case strings.HasPrefix(lower, "0x"), strings.HasPrefix(lower, `\x`):
		digits = lower[2:]
	case strings.HasPrefix(lower, "0b") && len(lower) >= 9:
		digits, base = lower[2:], 2
	case lower[0] == 'b' && len(lower) >= 8:
		digits, base = lower[1:], 2
	case strings.HasSuffix(lower, "h"):
		digits = lower[:len(lower)-1]
	default:
		digits = lower[1:]
	}
	v, err := strconv.ParseUint(digits, base, 8)
	return int(v), err == nil
}

// way is one way to take the numbers of a print-out.
type way struct {
	hex, eight bool
}

// take chooses the way that explains most of what is expected; of equal ones, the
// usual: decimal before hexadecimal, 7 bits before 8.
func take(tokens []token, text string, expected []i2cbus.Address) ([]i2cbus.Address, []string) {
	letters := slices.ContainsFunc(tokens, func(t token) bool { return !t.explicit && strings.ContainsAny(t.text, "abcdefABCDEF") })
	bases := []bool{false, true}
	switch {
	case tokens[0].explicit:
		bases = []bool{true}
	case letters, saysHex.MatchString(text) && !saysDec.MatchString(text):
		bases = []bool{true}
	case saysDec.MatchString(text):
		bases = []bool{false}
	}
	var best way
	var found []i2cbus.Address
	score := -1
	for _, eight := range []bool{false, true} {
		for _, hex := range bases {
			w := way{hex, eight}
			list, ok := w.read(tokens)
			if !ok {
				continue
			}
			hits := 0
			for _, e := range expected {
				if slices.Contains(list, e) {
					hits++
				}
			}
			if hits > score {
				best, found, score = w, list, hits
			}
		}
	}
	return found, best.notes(tokens, found)
}

// read reads the numbers in one way, and reports whether all of them can be
// addresses in it. Of an address and its 8-bit forms in one line that names them
// only the address counts.
func (w way) read(tokens []token) ([]i2cbus.Address, bool) {
	values := make([]int, len(tokens))
	for i, t := range tokens {
		values[i] = t.value
		if !t.explicit {
			base := 10
			if w.hex {
				base = 16
			}
			v, err := strconv.ParseUint(t.text, base, 8)
			if err != nil {
				return nil, false
			}
			values[i] = int(v)
		}
	}
	type place struct{ line, value int }
	named := map[place]bool{}
	for i, v := range values {
		named[place{tokens[i].line, v}] = true
	}
	var list []i2cbus.Address
	for i, v := range values {
		if w.eight {
			v >>= 1
		} else if tokens[i].forms && v > 1 && named[place{tokens[i].line, v >> 1}] {
			continue
		}
		if v > 0x7F {
			return nil, false
		}
		list = append(list, i2cbus.Address(v))
	}
	return list, true
}

// notes says how numbers were taken that could have been taken otherwise.
func (w way) notes(tokens []token, found []i2cbus.Address) []string {
	if len(found) == 0 {
		return nil
	}
	var notes []string
	first := tokens[0]
	if !first.explicit && !strings.ContainsAny(first.text, "abcdefABCDEF") {
		base := "decimal"
		if w.hex {
			base = "hexadecimal"
		}
		notes = append(notes, fmt.Sprintf("%s was read as %s.", first.text, base))
	}
	if w.eight {
		notes = append(notes, fmt.Sprintf("%s was read as an 8-bit form, with the read bit behind the address: %s.", first.text, found[0]))
	}
	return notes
}
