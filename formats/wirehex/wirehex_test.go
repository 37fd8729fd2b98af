package wirehex

import (
	"bytes"
	"errors"
	"io"
	"testing"

	"slatebell/core/link"
)

// FuzzReader checks that any input ends in words or in a located error, and
// that an error's column points at what it quotes.
func FuzzReader(f *testing.F) {
	f.Add([]byte("4D 49,0x1D\r\n19"), uint8(0))
	f.Add([]byte("14 1\n0x141 zz"), uint8(3))
	f.Fuzz(func(t *testing.T, text []byte, kind uint8) {
		r := NewReader(bytes.NewReader(text), link.Kinds[int(kind)%4])
		for {
			w, err := r.Next()
			var syntax *SyntaxError
			switch {
			case err == io.EOF:
				return
			case errors.As(err, &syntax):
				lines := bytes.Split(text, []byte("\n"))
				if syntax.Line < 1 || syntax.Line > len(lines) {
					t.Fatalf("%v of %d lines", err, len(lines))
				}
				line := []rune(string(lines[syntax.Line-1]))
				if syntax.Col < 1 || syntax.Col > len(line) {
					t.Fatalf("%v in %q", err, string(line))
				}
				return
			case err != nil:
				t.Fatal(err)
			case w&link.Marks != 0:
				t.Fatalf("word %X carries marks", w)
			}
		}
	})
}
