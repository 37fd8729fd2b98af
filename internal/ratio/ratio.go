// Package ratio holds what work takes against what more of the same takes in the same run: how long it takes says more of the machine, and
// how it grows says more of the work.
package ratio

import (
	"testing"
	"time"
)

// Growth is how many times as much is done, and Slack how many times longer than so much work that grows with what there is to do may take:
// work that grows with its square would take Growth times longer.
const (
	Growth = 8
	Slack  = 2.5
)

// Linear fails a test where work of Growth times n takes more than Slack times as long as Growth times work of n. Both are of one length where
// work is linear, so that a machine that is busy with others takes as much from the one as from the other. The least of several runs counts,
// taken in turn; where that does not do, it is asked again. What work returns is what is measured.
func Linear(t testing.TB, n int, work func(n int) func()) {
	t.Helper()
	one, much := work(n), work(Growth*n)
	little := func() {
		for range Growth {
			one()
		}
	}
	var few, many time.Duration
	for range 6 {
		for range 3 {
			few, many = least(few, little), least(many, much)
		}
		if float64(many) <= Slack*float64(few) {
			return
		}
	}
	t.Errorf("%d times %d of it take %v, %d take %v: %.1f times as long", Growth, n, few, Growth*n, many, float64(many)/float64(few))
}

// least is how long work takes, or what it took before where that is less; 0 stands for never.
func least(before time.Duration, work func()) time.Duration {
	begun := time.Now()
	work()
	if took := max(time.Since(begun), 1); before == 0 || took < before {
		return took
	}
	return before
}
