package pbm

import (
	"bufio"
	"fmt"
	"io"

	"slatebell/core/text/picture"
)

// Write writes a plane as P1, a line of characters a row.
func Write(w io.Writer, p *picture.Plane) error {
	out := bufio.NewWriter(w)
	fmt.Fprintf(out, "P1\n%d %d\n", p.W, p.H)
	for y := range p.H {
		for x := range p.W {
			if x > 0 && x%35 == 0 {
				out.WriteByte('\n') // lines have at most 70 characters
			} else if x > 0 {
				out.WriteByte(' ')
			}
			out.WriteByte("01"[bit(p.At(x, y))])
		}
		out.WriteByte('\n')
	}
	return out.Flush()
}

// WriteBits writes a plane as P4.
func WriteBits(w io.Writer, p *picture.Plane) error {
	out := bufio.NewWriter(w)
	fmt.Fprintf(out, "P4\n%d %d\n", p.W, p.H)
	for y := range p.H {
		for x := 0; x < p.W; x += 8 {
			b := 0
			for k := range 8 {
				b = b<<1 | bit(p.At(x+k, y))
			}
			out.WriteByte(byte(b))
		}
	}
	return out.Flush()
}

func bit(lit bool) int {
	if lit {
		return 1
	}
	return 0
}
