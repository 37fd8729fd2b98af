package fault

import (
	"testing"

	"slatebell/core/part/module"
	"slatebell/core/wire/link"
	"slatebell/core/wire/sequence"
)

// TestStarts counts the pulses of E with which each mistaken program begins on four lines, against the
// data sheet (HD44780U, ADE-207-272(Z), figure 24): three single nibbles 3 and a single nibble 2, before
// instructions of two nibbles each. Every other mistake leaves the beginning as it ought to be.
func TestStarts(t *testing.T) {
	x := index(t, tide(t, "16x2", link.Parallel4, module.LCD))
	begins := func(p program) (pulses []int) {
		s, err := x.compile(p, nil)
		if err != nil {
			t.Fatal(err)
		}
		for _, step := range s.main.Steps {
			if step.Kind != sequence.Wake {
				continue
			}
			n := 0
			for w := step.First; w < step.First+step.Count; w++ {
				if s.main.Coder.Raises(s.main.Words[w]) {
					n++
				}
			}
			pulses = append(pulses, n)
		}
		return pulses
	}
	lawful := []int{1, 1, 1, 1}
	for what, c := range map[string]struct {
		p    program
		want []int
	}{
		"as it ought to be":  {program{}, lawful},
		"display off":        {program{off: true}, lawful},
		"entry mode":         {program{entry: 1}, lawful},
		"too little waiting": {program{waits: noWaits}, lawful},
		"columns from 1":     {program{right: true}, lawful},
		"whole bytes":        {program{start: byteStart}, []int{2, 2, 2, 2}},
		"a single 2":         {program{start: shortStart}, []int{1}},
		"begun again":        {program{start: evenStart}, []int{1}},
		"no beginning":       {program{start: noStart}, nil},
	} {
		got := begins(c.p)
		if len(got) != len(c.want) {
			t.Errorf("%s: it begins with %v, want %v", what, got, c.want)
			continue
		}
		for i := range got {
			if got[i] != c.want[i] {
				t.Errorf("%s: it begins with %v, want %v", what, got, c.want)
			}
		}
	}
}
