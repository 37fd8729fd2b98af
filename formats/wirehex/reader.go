// Package wirehex reads and writes wire traffic as plain hexadecimal, one step
// a line: expander or shifted bytes of two digits. A word of a parallel link is
// its nibble or byte, with RS, R/W and the enable in the digits above it: on
// four lines bit 4 is RS, bit 5 R/W, bit 6 the second enable and bit 7 both; on
// eight lines the same from bit 8 on. So 4 is a nibble to the instruction
// register and 14 the same nibble to the data register.
package wirehex

import (
	"bufio"
	"errors"
	"fmt"
	"io"
	"strings"

	"slatebell/core/link"
)

// maxLine bounds a line, in bytes.
const maxLine = 1 << 20

// Reader reads words in hexadecimal, separated by spaces, tabs, commas or line
// ends, each with or without 0x.
type Reader struct {
	lines      *bufio.Scanner
	digits     int // at most, in a word
	line, col  int
	rest       string
	consumed   int
	expectText string
}

// NewReader returns a reader for the traffic of one kind of link.
func NewReader(r io.Reader, kind link.Kind) *Reader {
	rd := &Reader{lines: bufio.NewScanner(r), digits: 2, expectText: "a byte of two hexadecimal digits such as 4D"}
	rd.lines.Buffer(nil, maxLine)
	switch kind {
	case link.Parallel4:
		rd.expectText = "a nibble such as 4, or 14 where RS is high"
	case link.Parallel8:
		rd.digits, rd.expectText = 3, "a byte such as 41, or 141 where RS is high"
	}
	return rd
}

// SyntaxError says where the traffic could not be read. Line and Col count from
// 1; Col counts characters.
type SyntaxError struct {
	Line, Col int
	Found     string
	Expected  string
}

func (e *SyntaxError) Error() string {
	return fmt.Sprintf("line %d, column %d: %q is not hexadecimal wire traffic; expected %s", e.Line, e.Col, e.Found, e.Expected)
}

const separators = " \t,\r;"

// Next returns the next word, io.EOF after the last, or a *SyntaxError.
func (r *Reader) Next() (link.Word, error) {
	for {
		trimmed := strings.TrimLeft(r.rest, separators)
		r.consumed += len([]rune(r.rest)) - len([]rune(trimmed))
		r.rest = trimmed
		if r.rest != "" {
			break
		}
		if !r.lines.Scan() {
			if err := r.lines.Err(); errors.Is(err, bufio.ErrTooLong) {
				return 0, &SyntaxError{r.line + 1, 1, "…", fmt.Sprintf("lines of at most %d bytes", maxLine)}
			} else if err != nil {
				return 0, fmt.Errorf("reading wire traffic: %w", err)
			}
			return 0, io.EOF
		}
		r.line++
		r.rest, r.consumed = r.lines.Text(), 0
	}
	token := r.rest
	if i := strings.IndexAny(token, separators); i >= 0 {
		token = token[:i]
	}
	r.col = r.consumed + 1
	w, ok := parse(token, r.digits)
	if !ok {
		return 0, &SyntaxError{r.line, r.col, token, r.expectText}
	}
	r.rest = r.rest[len(token):]
	r.consumed += len([]rune(token))
	return w, nil
}

func parse(token string, most int) (w link.Word, ok bool) {
	if strings.HasPrefix(token, "0x") || strings.HasPrefix(token, "0X") {
		token = token[2:]
	}
	if token == "" || len(token) > most {
		return 0, false
	}
	for _, c := range []byte(token) {
		d := strings.IndexByte("0123456789abcdef", c|0x20)
		if d < 0 || c < '0' {
			return 0, false
		}
		w = w<<4 | link.Word(d)
	}
	return w, true
}
