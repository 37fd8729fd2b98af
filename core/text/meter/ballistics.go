package meter

import (
	"cmp"
	"math"
	"math/bits"
	"slices"

	"slatebell/core/part/circuit"
)

// SampleMs is how often a follower looks at its signal, in milliseconds.
const SampleMs = 10

// MaxLevel bounds what a follower follows: readings of converters of up to 14 bits.
const MaxLevel = 1<<14 - 1

// Follower follows the size of a signal as a resistor and a capacitor do, with one time
// constant while it rises and another while it falls. It reckons in whole numbers of at
// most 30 bits, as the smallest hosts do, and keeps what a division leaves.
type Follower struct{ Rise, Fall int32 }

// NewFollower returns a follower of two time constants in milliseconds; 0 stands for at
// once.
func NewFollower(riseMs, fallMs float64) Follower { return Follower{share(riseMs), share(fallMs)} }

// one is the share of a whole step.
const one = 1 << 13

// sub is how many bits of a level stand behind the unit.
const sub = 3

// share is how much of the distance a sample covers, in 1/8192.
func share(ms float64) int32 {
	if ms <= 0 {
		return one
	}
	return max(int32(math.Round(one*(1-math.Exp(-SampleMs/ms)))), 1)
}

// Needle is where a follower stands: Level in eighths of a unit, and what the last
// division left.
type Needle struct{ Level, Rest int32 }

// Follow moves a needle by one sample towards the size of a signal.
func (f Follower) Follow(n Needle, signal int64) Needle {
	distance := Size(signal)<<sub - n.Level
	if distance == 0 {
		return Needle{Level: n.Level}
	}
	by := f.Rise
	if distance < 0 {
		by = f.Fall
	}
	if (distance < 0) != (n.Rest < 0) {
		n.Rest = 0
	}
	moved := distance*by + n.Rest
	return Needle{n.Level + moved/one, moved % one}
}

// Eighths is a level in whole units as a needle counts it.
func Eighths(units int64) int32 { return int32(units) << sub }

// Units is the needle's level in whole units.
func (n Needle) Units() int64 { return int64((n.Level + 1<<(sub-1)) >> sub) }

// Size is a signal without its sign, within what a follower follows.
func Size(signal int64) int32 { return int32(min(max(signal, -signal), MaxLevel)) }

// Silence is what Decibels returns for no level at all, in tenths of a decibel.
const Silence = -999

// Decibels returns 20 log10(level/reference) in tenths of a decibel, both in eighths of a
// unit, as a program without logarithms reckons it: within 0.2 dB.
func Decibels(level, reference int32) int64 {
	if level <= 0 {
		return Silence
	}
	// 20 log10 2 = 6.0206 dB an octave, of which log2 gives 256 parts: 60.206 · 65536/256
	const tenth = 15413
	if d := log2(level) - log2(max(reference, 1)); d < 0 {
		return -int64((-d*tenth + 1<<15) >> 16)
	} else {
		return int64((d*tenth + 1<<15) >> 16)
	}
}

// log2 is the binary logarithm in 256ths: the place of the first one, then a bit for each
// squaring of what is behind it.
func log2(v int32) int32 {
	n := int32(bits.Len32(uint32(v))) - 1
	m := v << 14 >> n // 1 ≤ m/2^14 < 2
	if n > 14 {
		m = v >> (n - 14)
	}
	for range 8 {
		m = m * m >> 14
		n <<= 1
		if m >= 1<<15 {
			m >>= 1
			n++
		}
	}
	return n
}

// Preset is the ballistics of an instrument that a standard describes.
type Preset struct {
	Name, Title    string
	RiseMs, FallMs float64 // time constants
	HoldMs         int
	Says           string
}

// Presets are instruments by their standards; their figures are from memory. A standard
// states what is read after a burst or a fall, from which the time constants follow.
var Presets = []Preset{
	// IEC 60268-17: 99 % of a steady tone in 300 ms, falling alike
	{"vu", "Volume unit (IEC 60268-17)", 300 / math.Log(100), 300 / math.Log(100), 1000, "99 % of a steady tone in 300 ms, and falls alike"},
	// IEC 60268-10: a burst of 10 ms reads 1 dB below the steady tone, falls 20 dB in 1.7 s
	{"peak-1", "Peak programme, type I (IEC 60268-10)", -10 / math.Log(1-math.Pow(10, -1.0/20)), 1700 / math.Log(10), 2000, "a burst of 10 ms reads −1 dB; falls 20 dB in 1.7 s"},
	// a burst of 10 ms reads 2.5 dB below, falls 24 dB in 2.8 s
	{"peak-2", "Peak programme, type II (IEC 60268-10)", -10 / math.Log(1-math.Pow(10, -2.5/20)), 2800 / math.Log(math.Pow(10, 24.0/20)), 2000, "a burst of 10 ms reads −2.5 dB; falls 24 dB in 2.8 s"},
}

// FallTime is how long a resistor in ohms and a capacitor in farads take to fall to a
// share of where they began (0 to 1), in seconds: e^(−t/RC).
func FallTime(ohms, farads, to float64) float64 { return -ohms * farads * math.Log(to) }

// Pair is a resistor and a capacitor, and the fall that they give in seconds.
type Pair struct{ Ohms, Farads, Fall float64 }

// Pairs finds resistors of series E24 and capacitors of E6, both by IEC 60063, whose fall to
// a share comes nearest to a wished time in seconds; the nearest first, at most n. Resistors
// are 1 kΩ to 910 kΩ, so that a diode feeds them and a converter's input does not load them;
// capacitors 10 nF to 68 µF.
func Pairs(seconds, to float64, n int) []Pair {
	var out []Pair
	for c := range 24 {
		farads := float64(circuit.E6[c%6]) * math.Pow10(c/6-9)
		for r := range 72 {
			ohms := float64(circuit.E24[r%24]) * math.Pow10(r/24+2)
			out = append(out, Pair{ohms, farads, FallTime(ohms, farads, to)})
		}
	}
	slices.SortFunc(out, func(a, b Pair) int {
		return cmp.Or(cmp.Compare(math.Abs(math.Log(a.Fall/seconds)), math.Abs(math.Log(b.Fall/seconds))), cmp.Compare(a.Ohms, b.Ohms))
	})
	return out[:min(n, len(out))]
}
