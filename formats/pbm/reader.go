// Package pbm reads and writes portable bitmaps, Netpbm's PBM: P1, in characters,
// and P4, in bits. A black dot is a lit one.
package pbm

import (
	"bytes"
	"fmt"

	"slatebell/core/text/picture"
)

// MaxSide bounds a bitmap, in dots.
const MaxSide = 8192

// Is reports whether data begins as a portable bitmap does.
func Is(data []byte) bool {
	return bytes.HasPrefix(data, []byte("P1")) || bytes.HasPrefix(data, []byte("P4"))
}

// reader goes through a bitmap.
type reader struct {
	data []byte
	at   int
}

// Read reads the first bitmap of data. Errors name the line where text stands, the
// byte where bits do.
func Read(data []byte) (picture.Plane, error) {
	r := reader{data: data, at: 2}
	if !Is(data) {
		return picture.Plane{}, r.fail("it does not begin with P1 or P4")
	}
	w, err := r.number("width")
	if err != nil {
		return picture.Plane{}, err
	}
	h, err := r.number("height")
	if err != nil {
		return picture.Plane{}, err
	}
	if w < 1 || h < 1 || w > MaxSide || h > MaxSide || w*h > MaxSide*MaxSide/16 {
		return picture.Plane{}, r.fail("a bitmap of %d × %d dots; expected 1–%d each way", w, h, MaxSide)
	}
	p := picture.NewPlane(w, h)
	if data[1] == '4' {
		return p, r.bits(&p)
	}
	for i := range p.Lit {
		r.skip()
		if r.at >= len(r.data) {
			return p, r.fail("%d of %d dots are there", i, len(p.Lit))
		}
		switch r.data[r.at] {
		case '1':
			p.Lit[i] = true
		case '0':
		default:
			return p, r.fail("%q is no dot; expected 0 or 1", r.data[r.at])
		}
		r.at++
	}
	return p, nil
}

// bits reads the rows of P4, each of whole bytes, the leftmost dot in the highest
// bit.
func (r *reader) bits(p *picture.Plane) error {
	if r.at >= len(r.data) || !space(r.data[r.at]) {
		return r.fail("no blank after the height")
	}
	r.at++
	per := (p.W + 7) / 8
	if have := len(r.data) - r.at; have < per*p.H {
		return fmt.Errorf("byte %d: %d bytes of dots; %d × %d dots take %d", len(r.data), have, p.W, p.H, per*p.H)
	}
	for y := range p.H {
		for x := range p.W {
			p.Lit[y*p.W+x] = r.data[r.at+y*per+x/8]>>(7-x%8)&1 != 0
		}
	}
	return nil
}

func space(b byte) bool { return b == ' ' || b >= '\t' && b <= '\r' }

// skip skips blanks and comments.
func (r *reader) skip() {
	for r.at < len(r.data) {
		switch b := r.data[r.at]; {
		case space(b):
			r.at++
		case b == '#':
			for r.at < len(r.data) && r.data[r.at] != '\n' {
				r.at++
			}
		default:
			return
		}
	}
}

func (r *reader) number(what string) (n int, err error) {
	r.skip()
	from := r.at
	for ; r.at < len(r.data) && r.data[r.at] >= '0' && r.data[r.at] <= '9'; r.at++ {
		if n = n*10 + int(r.data[r.at]-'0'); n > 1<<24 {
			break
		}
	}
	if r.at == from {
		return 0, r.fail("no %s; expected a number of dots", what)
	}
	return n, nil
}

func (r *reader) fail(format string, args ...any) error {
	line := bytes.Count(r.data[:min(r.at, len(r.data))], []byte("\n")) + 1
	return fmt.Errorf("line %d: %s", line, fmt.Sprintf(format, args...))
}
