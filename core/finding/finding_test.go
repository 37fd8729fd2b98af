package finding

import "testing"

// TestWorst orders the severities.
func TestWorst(t *testing.T) {
	for i, s := range []Severity{Error, Warning, Note} {
		if s.Rank() != i {
			t.Errorf("%s ranks %d", s, s.Rank())
		}
	}
	list := func(s ...Severity) (out []Finding) {
		for _, one := range s {
			out = append(out, Finding{Severity: one})
		}
		return out
	}
	for want, l := range map[Severity][]Finding{"": nil, Note: list(Note), Warning: list(Note, Warning, Note), Error: list(Warning, Error, Note)} {
		if got := Worst(l); got != want {
			t.Errorf("worst of %v is %q", l, got)
		}
	}
}
