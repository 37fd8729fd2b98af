package wirehex

import (
	"bytes"
	"errors"
	"fmt"
	"io"
	"strings"
	"testing"
	"testing/iotest"

	"slatebell/core/wire/link"
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

// TestReadersOfAnySize reads the same traffic whole and byte by byte, on one line
// longer than any buffer: words and places of errors do not depend on how the
// bytes come.
func TestReadersOfAnySize(t *testing.T) {
	const words = 40_000
	line := strings.Repeat("4D,0x1d ", words/2)
	for name, in := range map[string]io.Reader{"whole": strings.NewReader(line + "4D49"), "byte by byte": iotest.OneByteReader(strings.NewReader(line + "4D49"))} {
		r := NewReader(in, link.Backpack)
		for i := range words {
			if w, err := r.Next(); err != nil || w != [...]link.Word{0x4D, 0x1D}[i%2] {
				t.Fatalf("%s: word %d is %X, %v", name, i, w, err)
			}
		}
		want := SyntaxError{1, len(line) + 1, "4D49", "a byte of two hexadecimal digits such as 4D"}
		for range 2 { // the error stands
			var got *SyntaxError
			if _, err := r.Next(); !errors.As(err, &got) || *got != want {
				t.Fatalf("%s: %v, want %v", name, err, &want)
			}
		}
	}
	if _, err := NewReader(iotest.ErrReader(io.ErrClosedPipe), link.ShiftReg).Next(); !errors.Is(err, io.ErrClosedPipe) {
		t.Errorf("a broken pipe: %v", err)
	}
	long := strings.Repeat("x", 1<<20)
	if _, err := NewReader(strings.NewReader("4D\n "+long), link.Backpack).Next(); err != nil {
		t.Error(err)
	}
	r := NewReader(strings.NewReader("\n "+long), link.Backpack)
	if _, err := r.Next(); err == nil || len(err.Error()) > 200 || !strings.HasPrefix(err.Error(), `line 2, column 2: "xxx`) {
		t.Errorf("a long word: %.200v", err)
	}
}

// BenchmarkReader reads one line of two sizes: time a byte is the same.
func BenchmarkReader(b *testing.B) {
	for _, size := range []int{300_000, 3_000_000} {
		text := []byte(strings.Repeat("4D 49 1D 19 ", size/12))
		b.Run(fmt.Sprintf("%dkB", size/1000), func(b *testing.B) {
			b.SetBytes(int64(len(text)))
			b.ReportAllocs()
			for b.Loop() {
				r := NewReader(bytes.NewReader(text), link.Backpack)
				for {
					if _, err := r.Next(); err == io.EOF {
						break
					} else if err != nil {
						b.Fatal(err)
					}
				}
			}
		})
	}
}
