package photo

import (
	"math"

	"slatebell/core/part/module"
	"slatebell/core/text/glyph"
)

// Sight is how the dots of one cell look in one photograph.
type Sight struct {
	Dots   []float64 `json:"dots" nullable:"false" minItems:"40" maxItems:"55" doc:"row by row: 0 off, 1 on"`
	Leak   float64   `json:"leak" minimum:"0" maximum:"1" doc:"the part of a dot's light that falls on those beside it"`
	Spread float64   `json:"spread" minimum:"0.01" maximum:"1000" doc:"how far a dot's value is off, as a standard deviation"`
}

// Sight is how a cell looks. A blank glass has none.
func (r *Reading) Sight(cell int) Sight {
	return Sight{Dots: r.Cells[cell].Dots, Leak: r.leak, Spread: r.spread}
}

// Drawn is what all cells show, dot by dot, whatever they may mean.
func (r *Reading) Drawn() []glyph.Pattern {
	out := make([]glyph.Pattern, len(r.Cells))
	for i := range r.Cells {
		if !r.Blank {
			out[i], _ = Drawn([]Sight{r.Sight(i)})
		}
	}
	return out
}

// Shown is what the codes of a screen show, with the glyphs that the slots hold.
func Shown(m *module.Module, glyphs glyph.Bank, screen []byte) (out []glyph.Pattern) {
	for _, code := range screen {
		out = append(out, patternOf(m, glyphs, code))
	}
	return out
}

// Drawn is what a cell shows of which nobody knows what it may show, by all sights of it, which have the same number of dots: the dots
// that are on, and how sure each dot is, 0.5–1.
func Drawn(sights []Sight) (p glyph.Pattern, sure []float64) {
	n := len(sights[0].Dots)
	on := make([]float64, n)
	for i := range on {
		sum := 0.0
		for _, s := range sights {
			sum += s.Dots[i] - 0.5
		}
		if sum > 0 {
			on[i] = 1
		}
	}
	cost := func() (sum float64) {
		for _, s := range sights {
			for i, v := range s.Dots {
				sum += unlikely(v, blurred(on, i, s.Leak), s.Spread)
			}
		}
		return sum
	}
	sure = make([]float64, n)
	least := cost()
	for again := true; again; { // each dot the other way, while that explains the sights better
		again = false
		for i := range on {
			on[i] = 1 - on[i]
			switch other := cost(); {
			case other < least:
				least, again = other, true
				continue
			default:
				sure[i] = 1 / (1 + math.Exp((least-other)/together))
			}
			on[i] = 1 - on[i]
		}
	}
	for i, v := range on {
		if v > 0 {
			p[i/width] |= 1 << (width - 1 - i%width)
		}
	}
	return p, sure
}
