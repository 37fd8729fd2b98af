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

// Linear fails a test where work of Growth times n takes more than Growth times as long as work of n, with some slack. The least of several
// runs counts; where a machine was busy with others, it is asked again. What work returns is what is measured.
func Linear(t testing.TB, n int, work func(n int) func()) {
	t.Helper()
	little, much := work(n), work(Growth*n)
	var one, many time.Duration
	for range 4 {
		one, many = least(one, little), least(many, much)
		if float64(many) <= Growth*Slack*float64(one) {
			return
		}
	}
	t.Errorf("%d of it take %v, %d take %v: %.1f times as long for each", n, one, Growth*n, many, float64(many)/float64(one)/Growth)
}

// least is the shortest of some runs, and of those before; 0 where there were none.
func least(before time.Duration, work func()) time.Duration {
	for range 3 {
		begun := time.Now()
		work()
		if took := max(time.Since(begun), 1); before == 0 || took < before {
			before = took
		}
	}
	return before
}
