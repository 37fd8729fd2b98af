package photo

import (
	"slices"

	"slatebell/core/part/charrom"
	"slatebell/core/part/module"
	"slatebell/core/text/glyph"
)

// look is what a code shows.
type look struct {
	code byte
	on   []float64 // dots, row by row, 1 or 0
	bits uint64    // the same, a bit each
	line bool      // with the cursor's line, which bits leave out
	half Half      // of what bits are, the rest is off
}

// Half says that half of a cell's lines of dots are dead.
type Half uint8

// The halves of a cell that may show alone.
const (
	Whole Half = iota
	Upper
	Lower
)

// looks are all that cells may show.
type looks struct {
	known []look
	ends  []look // of the first and the last cell; nil: any
	any   bool   // in the other cells are looks too that nobody knows
}

// patternOf is what a code shows, a glyph where it is that of a slot that has one.
func patternOf(m *module.Module, glyphs glyph.Bank, code byte) glyph.Pattern {
	if slot, ok := m.Slot(code); ok {
		g, _ := glyphs.In(slot)
		return g.Pattern()
	}
	return glyph.ROMPattern(m.ROM, code, m.Tall)
}

// bitsOf are the dots of a cell, row by row, a bit each.
func bitsOf(p glyph.Pattern, height int) (bits uint64) {
	for i := range width * height {
		if p.Lit(i/width, i%width) {
			bits |= 1 << i
		}
	}
	return bits
}

// looksOf are all that cells may show: each look once, under the code that is likeliest to be meant by it; and what other ROMs have.
func looksOf(m *module.Module, glyphs glyph.Bank, like ...*charrom.ROM) (out looks) {
	seen := map[uint64]bool{}
	add := func(code byte, p glyph.Pattern) {
		one := look{code: code, bits: bitsOf(p, m.CellRows())}
		if seen[one.bits] {
			return
		}
		seen[one.bits] = true
		for i := range width * m.CellRows() {
			one.on = append(one.on, float64(one.bits>>i&1))
		}
		out.known = append(out.known, one)
	}
	add(' ', glyph.Pattern{})
	for code := 0x20; code < 0x100; code++ {
		if m.ROM.Known(byte(code)) {
			add(byte(code), patternOf(m, nil, byte(code)))
		}
	}
	for code := range byte(0x20) { // the slots of CGRAM; and what some ROMs have below the space
		if _, ok := m.Slot(code); ok {
			add(code, patternOf(m, glyphs, code))
		} else if m.ROM.Known(code) {
			add(code, patternOf(m, nil, code))
		}
	}
	add(blockCode, glyph.Full(m.CellRows()))
	for _, rom := range like {
		for code := range 0x100 {
			add(byte(code), glyph.ROMPattern(rom, byte(code), m.Tall))
		}
	}
	return out
}

// lineUnlikely is how much less likely a cell with the cursor's line is than one without, as a logarithm: there is one at most (ours).
const lineUnlikely = 4

// withLine are looks, and each again that leaves the lowest row free, with the cursor's line there.
func withLine(looks []look) []look {
	out := slices.Clip(looks)
	for _, l := range looks {
		low := len(l.on) - width
		if slices.ContainsFunc(l.on[low:], func(v float64) bool { return v > 0 }) {
			continue
		}
		l.on = append(slices.Clone(l.on[:low]), slices.Repeat([]float64{1}, width)...)
		l.line = true
		out = append(out, l)
	}
	return out
}

// What counts against a cell of which half shows, as a logarithm; and how many dots it must show, and hide, at least (ours).
const (
	halfUnlikely = 8
	halfShown    = 4
	halfHidden   = 3
)

// withHalves are looks, and each again as its upper or lower half alone shows it.
func withHalves(looks []look) []look {
	out := slices.Clip(looks)
	for _, l := range looks {
		middle := len(l.on) / width / 2 * width
		for _, half := range []Half{Upper, Lower} {
			one := l
			one.on, one.half = slices.Clone(l.on), half
			if half == Upper {
				clear(one.on[middle:])
			} else {
				clear(one.on[:middle])
			}
			if shown := total(one.on); shown >= halfShown && total(l.on)-shown >= halfHidden {
				out = append(out, one)
			}
		}
	}
	return out
}

// total is how many dots are on.
func total(on []float64) (n float64) {
	for _, v := range on {
		n += v
	}
	return n
}

// blockCode is what a cell is said to show all of whose dots are on, as ROM A00 has it (HD44780U data sheet, table 4).
const blockCode = 0xFF

// blurred is how far a dot of a look is on where each dot gives a part of its light to those beside it.
func blurred(on []float64, i int, leak float64) float64 {
	x, y, n, sum := i%width, i/width, len(on)/width, 0.0
	if x > 0 {
		sum += on[i-1]
	}
	if x < width-1 {
		sum += on[i+1]
	}
	if y > 0 {
		sum += on[i-width]
	}
	if y < n-1 {
		sum += on[i+width]
	}
	return (1-leak)*on[i] + leak*sum/4
}

// blurredLooks are the dots of all looks as they show.
func blurredLooks(looks []look, leak float64) [][]float64 {
	out := make([][]float64, len(looks))
	for k := range looks {
		for i := range looks[k].on {
			out[k] = append(out[k], blurred(looks[k].on, i, leak))
		}
	}
	return out
}
