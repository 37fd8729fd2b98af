package ratio

import (
	"fmt"
	"testing"
)

// told is a test that notes what it is told in place of failing.
type told struct {
	testing.TB
	says []string
}

func (t *told) Helper()                        {}
func (t *told) Errorf(format string, a ...any) { t.says = append(t.says, fmt.Sprintf(format, a...)) }

// TestLinear lets pass what grows with n, and not what grows with its square.
func TestLinear(t *testing.T) {
	sum := 0
	spin := func(rounds int) func() {
		return func() {
			for i := range rounds {
				sum += i & sum
			}
		}
	}
	Linear(t, 200_000, spin)
	var square told
	Linear(&square, 300, func(n int) func() { return spin(n * n) })
	if len(square.says) != 1 {
		t.Errorf("of what grows with the square is said %q", square.says)
	}
}
