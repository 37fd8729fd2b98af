package chart

import (
	"fmt"
	"slices"
	"strings"

	"slatebell/core/finding"
	"slatebell/core/part/charrom"
	"slatebell/core/part/module"
	"slatebell/core/prove/photo"
	"slatebell/core/say"
	"slatebell/core/text/glyph"
)

// Chart is what is known of a ROM.
type Chart struct {
	Codes   [256]Code
	Screens int
	Missing []int // screens of which there is no photograph
	Like    Like  // the ROM that it has most in common with

	module *module.Module
}

// Code is what a code shows.
type Code struct {
	Pattern glyph.Pattern
	Sure    []float64 // each dot, row by row, 0.5–1
	Sights  int       // how many photographs show it
	Slot    bool      // it shows a glyph of CGRAM
}

// Like says in which codes a chart differs from a ROM, among those that it has.
type Like struct {
	ROM   *charrom.ROM
	Codes []byte
}

// sureDot is how sure a dot must be for nobody to look at it.
const sureDot = 0.9

// Certainty is that of the dot that is least sure; 0 without a sight.
func (c *Code) Certainty() float64 {
	if len(c.Sure) == 0 {
		return 0
	}
	return slices.Min(c.Sure)
}

// Doubtful reports whether some dot of a code that was seen needs an eye.
func (c *Code) Doubtful() bool { return !c.Slot && c.Sights > 0 && c.Certainty() < sureDot }

// Learn puts together what photographs show, in any order, several of one screen too; each must pass Check. What an eye has seen of a code
// counts before any photograph.
func Learn(m *module.Module, shown []Shown, seen map[byte]glyph.Pattern) *Chart {
	screens := Screens(m)
	c := &Chart{Screens: len(screens), module: m}
	var sights [256][]photo.Sight
	for k, codes := range screens {
		there := false
		for i := range shown {
			if shown[i].Screen != k {
				continue
			}
			there = true
			for at, code := range codes {
				sights[code] = append(sights[code], shown[i].Cells[at])
			}
		}
		if !there {
			c.Missing = append(c.Missing, k)
		}
	}
	marks := Marks(m)
	for code := range c.Codes {
		one := &c.Codes[code]
		if one.Sights = len(sights[code]); one.Sights > 0 {
			one.Pattern, one.Sure = photo.Drawn(sights[code])
		}
		if p, is := seen[byte(code)]; is && one.Sights > 0 {
			one.Pattern, one.Sure = p, slices.Repeat([]float64{1}, len(one.Sure))
		}
		if code < 2*glyph.Slots { // the upper eight show the same glyphs once more, or what the ROM has
			g, _ := marks.In(code % glyph.Slots &^ (m.SlotStep() - 1))
			one.Slot = code < glyph.Slots || one.Sights > 0 && one.Pattern.Distance(g.Pattern()) <= 2
		}
	}
	c.Like = c.likest()
	return c
}

// likest is the ROM that a chart has most in common with.
func (c *Chart) likest() (best Like) {
	for i, name := range charrom.Names() {
		rom, _ := charrom.ByName(name)
		one := Like{ROM: rom}
		for code := range c.Codes {
			if k := &c.Codes[code]; k.Sights > 0 && !k.Slot && k.Pattern != glyph.ROMPattern(rom, byte(code), c.module.Tall) {
				one.Codes = append(one.Codes, byte(code))
			}
		}
		if i == 0 || len(one.Codes) < len(best.Codes) {
			best = one
		}
	}
	return best
}

// ROM is the chart as a ROM. A code has the characters of that of the likest ROM where it looks like it, else those of any code of any known
// ROM that looks so, else none; codes that show nothing are left out where the likest ROM has none either.
func (c *Chart) ROM(name string) *charrom.ROM {
	var cells []charrom.Cell
	for code := range c.Codes {
		k := &c.Codes[code]
		if k.Sights == 0 || k.Slot {
			continue
		}
		chars := c.Characters(byte(code))
		if k.Pattern == (glyph.Pattern{}) && chars == "" {
			continue
		}
		cells = append(cells, charrom.Cell{Code: byte(code), Characters: chars, Dots: k.Pattern.Dots(), Below: [2]byte(k.Pattern[glyph.Rows:])})
	}
	return charrom.New(name, cells)
}

// Characters are those of what a code shows, its own first, as ROM has them; it may be empty.
func (c *Chart) Characters(code byte) string {
	p := c.Codes[code].Pattern
	if rom := c.Like.ROM; rom.Known(code) && glyph.ROMPattern(rom, code, c.module.Tall) == p {
		return rom.Spellings(code)
	}
	if p == (glyph.Pattern{}) {
		return ""
	}
	roms := []*charrom.ROM{c.Like.ROM}
	for _, name := range charrom.Names() {
		rom, _ := charrom.ByName(name)
		roms = append(roms, rom)
	}
	for _, rom := range roms {
		if same, ok := glyph.Equal(rom, p, c.module.Tall); ok {
			return rom.Spellings(same)
		}
	}
	return ""
}

// Findings say what is missing, what needs an eye, and which known ROM it is, or nearly.
func (c *Chart) Findings() (out []finding.Finding) {
	if len(c.Missing) > 0 {
		var names []string
		for _, k := range c.Missing {
			names = append(names, fmt.Sprint(k+1))
		}
		out = append(out, finding.Finding{
			Code: "chart.missing", Severity: finding.Error, What: fmt.Sprintf("Of the %d screens of the chart there is no photograph of %s.", c.Screens, say.List(names)),
			Why: "The codes that they show are not in the chart.", Fix: "Photograph these screens too.",
		})
	}
	var doubtful []byte
	known := 0
	for code := range c.Codes {
		k := &c.Codes[code]
		if k.Sights > 0 && !k.Slot {
			if known++; k.Doubtful() {
				doubtful = append(doubtful, byte(code))
			}
		}
	}
	if len(doubtful) > 0 {
		out = append(out, finding.Finding{
			Code: "chart.doubtful", Severity: finding.Warning, What: fmt.Sprintf("Dots of %d %s need an eye: %s.", len(doubtful), say.Plural(len(doubtful), "code"), hex(doubtful)),
			Why: fmt.Sprintf("Some dot of them is less than %.0f %% sure.", 100*sureDot), Fix: "Hold them against the glass, or photograph their screens once more: several pictures are put together.",
		})
	}
	if known > 0 {
		out = append(out, finding.Finding{Code: "chart.like", Severity: finding.Note, What: c.Like.says(known)})
	}
	return out
}

// says writes what a chart is like, of so many codes that are known.
func (l *Like) says(known int) string {
	switch n := len(l.Codes); {
	case n == 0:
		return fmt.Sprintf("It is ROM %s, by %d %s.", l.ROM.Name, known, say.Plural(known, "code"))
	case n*2 > known:
		return fmt.Sprintf("It is like no ROM that is known; %s has most in common with it, but for %d of %d codes.", l.ROM.Name, n, known)
	default:
		return fmt.Sprintf("It is ROM %s but for %d %s: %s.", l.ROM.Name, n, say.Plural(n, "code"), hex(l.Codes))
	}
}

func hex(codes []byte) string {
	var list []string
	for _, c := range codes {
		list = append(list, fmt.Sprintf("0x%02X", c))
	}
	return strings.Join(list, ", ")
}
