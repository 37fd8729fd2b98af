package meter

import (
	"math"
	"testing"
)

// steps lets a needle follow a signal for a time, and returns its readings, one a sample.
func steps(f Follower, n Needle, signal int64, ms int) (out []Needle) {
	for range ms / SampleMs {
		n = f.Follow(n, signal)
		out = append(out, n)
	}
	return out
}

// TestStandards holds the presets against the figures of their standards (from memory), in
// whole numbers as they run on a host: rise to 99 %, and fall in decibels.
func TestStandards(t *testing.T) {
	decibels := func(n Needle, full int64) float64 {
		return 20 * math.Log10(float64(n.Level)/8/float64(full))
	}
	for _, full := range []int64{MaxLevel, 4095, 1023} {
		for i, want := range []struct {
			rise, low, high float64 // ms to 99 %; ms of the fall, least and most
			by              float64 // dB
			burst           float64 // dB below a steady tone after 10 ms
		}{
			{300, 270, 330, 40, 0},   // IEC 60268-17: 300 ms ± 10 %; to 1 % alike
			{0, 1400, 2000, 20, 1},   // IEC 60268-10 type I: 1.7 s ± 0.3 s; 10 ms: −1 dB ± 0.5
			{0, 2500, 3100, 24, 2.5}, // type II: 2.8 s ± 0.3 s; 10 ms: −2.5 dB ± 0.5
		} {
			p := Presets[i]
			f := NewFollower(p.RiseMs, p.FallMs)
			up := steps(f, Needle{}, full, 3000)
			if got := up[len(up)-1].Units(); got != full {
				t.Errorf("%s settles at %d of %d", p.Name, got, full)
			}
			reached := 0.0
			for k, n := range up {
				if float64(n.Level) >= 0.99*8*float64(full) {
					reached = float64((k + 1) * SampleMs)
					break
				}
			}
			if want.rise > 0 && math.Abs(reached-want.rise) > want.rise/10 {
				t.Errorf("%s: 99 %% of %d after %v ms, want %v", p.Name, full, reached, want.rise)
			}
			if b := -decibels(up[0], full); want.burst > 0 && math.Abs(b-want.burst) > 0.5 {
				t.Errorf("%s: a burst of 10 ms reads %.2f dB below", p.Name, b)
			}
			down := steps(f, Needle{Level: int32(full) << 3}, 0, 20000)
			fell := 0.0
			for k, n := range down {
				if decibels(n, full) <= -want.by {
					fell = float64((k + 1) * SampleMs)
					break
				}
			}
			if fell < want.low || fell > want.high {
				t.Errorf("%s: −%v dB of %d after %v ms, want %v–%v", p.Name, want.by, full, fell, want.low, want.high)
			}
			if last := down[len(down)-1]; last.Level != 0 {
				t.Errorf("%s stops at %d eighths", p.Name, last.Level)
			}
		}
	}
}

// TestFollower holds whole numbers against e^(−t/RC), for every time constant at which a
// host can follow, and shows that no level is passed and none left standing.
func TestFollower(t *testing.T) {
	for _, ms := range []float64{20, 47, 100, 330, 738, 1013, 2000} {
		f := NewFollower(0, ms)
		n := Needle{Level: 1000 << 3}
		for k := 1; k <= int(3*ms/SampleMs); k++ {
			before := n.Level
			n = f.Follow(n, 0)
			want := 1000 * 8 * math.Exp(-float64(k*SampleMs)/ms)
			if math.Abs(float64(n.Level)-want) > 0.02*want+8 || n.Level > before || n.Level < 0 {
				t.Fatalf("RC %v ms, after %d ms: %d eighths, want %.1f", ms, k*SampleMs, n.Level, want)
			}
		}
	}
	if n := NewFollower(0, 0).Follow(Needle{}, -700); n.Units() != 700 {
		t.Errorf("without times −700 reads %d", n.Units())
	}
}

// TestDecibels holds whole numbers against the logarithm of package math.
func TestDecibels(t *testing.T) {
	for _, reference := range []int32{16, 775, 1023 << 3, MaxLevel << 3} {
		for level := int32(1); level <= MaxLevel<<3; level += 1 + level/50 {
			want := 200 * math.Log10(float64(level)/float64(reference))
			if got := Decibels(level, reference); math.Abs(float64(got)-want) > 2 {
				t.Fatalf("%d of %d: %d tenths, want %.2f", level, reference, got, want)
			}
		}
	}
	if Decibels(0, 16) != Silence || Decibels(512, 512) != 0 {
		t.Error("silence, or 0 dB")
	}
}

// TestPairs: the proposed pairs come within 5 % of the wish by e^(−t/RC), the nearest first.
func TestPairs(t *testing.T) {
	for _, seconds := range []float64{0.05, 0.3, 1.7, 2.8, 10} {
		pairs := Pairs(seconds, 0.1, 4)
		for i, p := range pairs {
			left := math.Exp(-p.Fall / (p.Ohms * p.Farads))
			if math.Abs(left-0.1) > 1e-9 || math.Abs(p.Fall/seconds-1) > 0.05 || i > 0 && math.Abs(math.Log(p.Fall/seconds)) < math.Abs(math.Log(pairs[i-1].Fall/seconds)) {
				t.Errorf("%v s: %+v leaves %v", seconds, p, left)
			}
		}
	}
	// 10 kΩ and 10 µF fall from full to a tenth in 2.303 RC
	if got := FallTime(10e3, 10e-6, 0.1); math.Abs(got-0.2303) > 1e-4 {
		t.Errorf("10 kΩ, 10 µF: %v s", got)
	}
}
