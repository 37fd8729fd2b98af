// Package soak lets tests of random cases run as long as a person says: a few cases in `make test`,
// which are the same each time, and with `make soak FOR=10m` others for so long.
package soak

import (
	"iter"
	"os"
	"testing"
	"time"
)

// For is how long a test of random cases is to run; 0 where it is to run its usual number. It is
// what the environment variable SOAK says, such as 10m.
func For() time.Duration {
	d, err := time.ParseDuration(os.Getenv("SOAK"))
	if err != nil {
		return 0
	}
	return d
}

// Seed is where the random cases begin: the usual seed, or the clock while soaking.
func Seed(usual uint64) uint64 {
	if For() == 0 {
		return usual
	}
	return uint64(time.Now().UnixNano())
}

// Rounds counts from 0: the usual number of rounds, a quarter of them in a short run (make quick), and on
// until the time is over while soaking.
func Rounds(usual int) iter.Seq[int] {
	if testing.Short() {
		usual = (usual + 3) / 4
	}
	until := time.Now().Add(For())
	return func(yield func(int) bool) {
		for n := 0; n < usual || time.Now().Before(until); n++ {
			if !yield(n) {
				return
			}
		}
	}
}
