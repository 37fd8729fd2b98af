package wirehex

import (
	"bufio"
	"fmt"
	"io"

	"slatebell/core/wire/sequence"
)

// Write writes the wire words of a program, one step a line; steps without any,
// pure waits, give no line.
func Write(w io.Writer, p *sequence.Program) error {
	out := bufio.NewWriter(w)
	for i := range p.Steps {
		s := &p.Steps[i]
		for j, word := range p.Words[s.First : s.First+s.Count] {
			if j > 0 {
				out.WriteByte(' ')
			}
			out.WriteString(p.Coder.FormatFull(word))
		}
		if s.Count > 0 {
			out.WriteByte('\n')
		}
	}
	if err := out.Flush(); err != nil {
		return fmt.Errorf("writing wire traffic: %w", err)
	}
	return nil
}
