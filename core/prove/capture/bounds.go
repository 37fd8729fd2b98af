package capture

import (
	"math"
	"math/bits"
	"sync"
)

// unrecorded marks a byte whose RS nobody recorded; eitherRS is what counts against each, and withoutRS against all together, as a logarithm (ours).
const (
	unrecorded = 0x200
	eitherRS   = 0.3
	withoutRS  = 5
)

// masks are the bits of a byte that are known when so many of its lines are, from D7 down.
func masks(width int) (out []byte) {
	mask := byte(0)
	out = append(out, mask)
	for bit := 7; bit >= 8-width; bit-- {
		mask |= 1 << bit
		if width == 4 {
			mask |= 1 << (bit - 4)
		}
		out = append(out, mask)
	}
	return out
}

// bounds are the highest evidence that a byte can have of which some bits are known, for each number of known lines, by RS and those bits.
func bounds(width int, of *[512]float64) (out [][1024]float64) {
	for _, mask := range masks(width) {
		var best [1024]float64
		for i := range best {
			best[i] = math.Inf(-1)
		}
		for i, v := range of {
			known := i & (0x100 | int(mask))
			best[known] = math.Max(best[known], v)
			known = unrecorded | i&int(mask)
			best[known] = math.Max(best[known], v-eitherRS)
		}
		out = append(out, best)
	}
	return out
}

// openingShare is how often what a recording begins with three times over is the function set of an initialisation by instruction (ours; HD44780U data
// sheet, ADE-207-272(Z), figures 23 and 24).
const openingShare = 0.95

// opening is how much likelier, as a logarithm, a byte is where a recording begins with it three times over than among all bytes alike.
func opening(width int) (out [512]float64) {
	sets := 0
	is := func(i int) bool { return width == 8 && i&0x1F0 == 0x30 || i == 0x33 }
	for i := range out {
		if is(i) {
			sets++
		}
	}
	for i := range out {
		if is(i) {
			out[i] = math.Log(openingShare / float64(sets) * 512)
		} else {
			out[i] = math.Log((1 - openingShare) / float64(512-sets) * 512)
		}
	}
	return out
}

// limit has the bounds of all exchanges, and of what a recording begins with.
type limit struct{ all, opening [][1024]float64 }

// limits are worked out once, on four lines and on eight.
var limits = map[int]func() limit{4: limitOn(4), 8: limitOn(8)}

func limitOn(width int) func() limit {
	return sync.OnceValue(func() limit {
		of, opens := evidence[width], opening(width)
		return limit{bounds(width, &of), bounds(width, &opens)}
	})
}

// boundsWithout are bounds where one data line, counted from D7 down, was not recorded: its bits are never known, and what is known of a byte is as likely as
// all that it can be together.
func boundsWithout(width, missing int) (out [][1024]float64) {
	unknown := byte(0x80 >> missing)
	if width == 4 {
		unknown |= unknown >> 4
	}
	for depth, mask := range masks(width) {
		var best [1024]float64
		for i := range best {
			best[i] = math.Inf(-1)
		}
		of := evidence[width]
		n := math.Pow(2, float64(bits.OnesCount8(unknown)))
		for i, v := range of {
			known := i & (0x100 | int(mask&^unknown))
			if depth < width {
				best[known] = math.Max(best[known], v)
			} else {
				best[known] = math.Log(math.Exp(best[known]) + math.Exp(v)/n)
			}
		}
		out = append(out, best)
	}
	return out
}
