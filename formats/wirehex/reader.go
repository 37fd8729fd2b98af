// Package wirehex reads and writes wire traffic as plain hexadecimal, one step
// a line: expander or shifted bytes of two digits. A word of a parallel link is
// its nibble or byte, with RS, R/W and the enable in the digits above it: on
// four lines bit 4 is RS, bit 5 R/W, bit 6 the second enable and bit 7 both; on
// eight lines the same from bit 8 on. So 4 is a nibble to the instruction
// register and 14 the same nibble to the data register.
package wirehex

import (
	"bytes"
	"fmt"
	"io"

	"slatebell/core/wire/link"
)

// quoted bounds how much of a word that cannot be read is quoted, in bytes.
const quoted = 40

// Reader reads words in hexadecimal, separated by spaces, tabs, commas,
// semicolons or line ends, each with or without 0x. It takes time in proportion
// to what it reads, and keeps none of it.
type Reader struct {
	in       io.Reader
	digits   int // at most, in a word
	expected string

	buf       [32 << 10]byte
	next, end int   // what of buf is still to be read
	failed    error // why there is nothing behind it
	line, col int   // of the next byte, counted from 1; all before an error is ASCII
}

// NewReader returns a reader for the traffic of one kind of link.
func NewReader(r io.Reader, kind link.Kind) *Reader {
	rd := &Reader{in: r, digits: 2, line: 1, col: 1, expected: "a byte of two hexadecimal digits such as 4D"}
	switch kind {
	case link.Parallel4:
		rd.expected = "a nibble such as 4, or 14 where RS is high"
	case link.Parallel8:
		rd.digits, rd.expected = 3, "a byte such as 41, or 141 where RS is high"
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

// What a byte is to the reader, if it is no digit.
const (
	separator = 0x10 + iota
	newline
	other
)

// separators stand between words of a line.
const separators = " \t,\r;"

// classes holds each byte's value as a digit, or what else it is.
var classes = func() (c [256]uint8) {
	for b := range c {
		c[b] = other
	}
	for i, b := range []byte("0123456789") {
		c[b] = uint8(i)
	}
	for i, b := range []byte("abcdef") {
		c[b], c[b-'a'+'A'] = uint8(10+i), uint8(10+i)
	}
	for _, b := range []byte(separators) {
		c[b] = separator
	}
	c['\n'] = newline
	return c
}()

// fill reads more, behind what is still to be read; it reports whether there is
// any.
func (r *Reader) fill() bool {
	copy(r.buf[:], r.buf[r.next:r.end])
	r.next, r.end = 0, r.end-r.next
	for r.failed == nil { // there is room: a word is shorter than the buffer
		var n int
		n, r.failed = r.in.Read(r.buf[r.end:])
		r.end += n
		if n > 0 {
			return true
		}
	}
	return false
}

// Next returns the next word, io.EOF after the last, or a *SyntaxError, which
// stands for good.
func (r *Reader) Next() (link.Word, error) {
	for {
		for ; r.next < r.end; r.next++ {
			switch class := classes[r.buf[r.next]]; class {
			case separator:
				r.col++
			case newline:
				r.line, r.col = r.line+1, 1
			default:
				return r.word()
			}
		}
		if r.fill() {
			continue
		}
		if _, syntax := r.failed.(*SyntaxError); syntax || r.failed == io.EOF {
			return 0, r.failed
		}
		return 0, fmt.Errorf("reading wire traffic: %w", r.failed)
	}
}

// word reads the word that begins with the next byte.
func (r *Reader) word() (w link.Word, err error) {
	if r.end-r.next <= quoted { // the longest that matters is then whole
		for r.end-r.next <= quoted && r.fill() {
		}
	}
	text := r.buf[r.next:r.end]
	i := 0
	if len(text) > 1 && text[0] == '0' && text[1]|0x20 == 'x' {
		i = 2
	}
	first := i
	for ; i < len(text); i++ {
		class := classes[text[i]]
		if class >= separator {
			break
		}
		w = w<<4 | link.Word(class)
	}
	if whole := i == len(text) || classes[text[i]] != other; !whole || i == first || i-first > r.digits {
		return 0, r.refuse(text)
	}
	r.next += i
	r.col += i
	return w, nil
}

// refuse ends the reading at a word.
func (r *Reader) refuse(text []byte) error {
	end := bytes.IndexAny(text, separators+"\n")
	if end < 0 {
		end = len(text)
	}
	found := string(text[:min(end, quoted)])
	if end > quoted {
		found += "…"
	}
	r.failed = &SyntaxError{r.line, r.col, found, r.expected}
	r.next = r.end
	return r.failed
}
