package diagnose

import (
	"fmt"
	"slices"
	"strings"

	"slatebell/core/part/charrom"
	"slatebell/core/place"
	"slatebell/core/prove/fault"
	"slatebell/core/text/screen"
	"slatebell/core/wire/glass"
)

// Unreadable and Block stand for cells that cannot be typed: other dots, and a solid
// block.
const (
	Unreadable = '\uFFFD'
	Block      = '█'
)

// fillerDots are what stands for any text that may be left.
var fillerDots = glass.Of(charrom.A00().Dots(fault.Filler), [3]byte{})

// typed reads what stands on the glass: for each cell what it may look like; nil where
// nothing was typed. What was not typed of a row is blank.
func (f *Finder) typed(rows []string) ([]character, error) {
	if rows == nil {
		return nil, nil
	}
	g := f.Index.View(0)
	if len(rows) > g.Rows && strings.TrimSpace(strings.Join(rows[g.Rows:], "")) != "" {
		return nil, fmt.Errorf("%d rows seen; the glass has %d", len(rows), g.Rows)
	}
	out := make([]character, len(g.Cells))
	for i := range out {
		out[i] = character{dots: []glass.Cell{0}}
	}
	for r, row := range rows[:min(len(rows), g.Rows)] {
		cells := []rune(strings.TrimRight(row, " "))
		if len(cells) > g.Cols {
			return nil, place.Errorf("%P: %d characters seen; the glass has %d columns", place.Row(r), len(cells), g.Cols)
		}
		for col, ch := range cells {
			s := &out[r*g.Cols+col]
			switch {
			case ch == Unreadable:
				*s = character{other: true}
			case ch == Block:
				*s = character{block: true}
			case ch >= screen.CodeBase && ch < screen.CodeBase+256:
				*s = character{dots: []glass.Cell{f.Index.Looks(byte(ch - screen.CodeBase))}}
			default:
				if s.dots = f.Index.LooksOf(ch); s.dots == nil {
					return nil, place.Errorf("%P: %q is not in this module’s ROM; type a character of it, a code as \\xHH, or %c for characters that cannot be typed", place.Cell(r, col), ch, Unreadable)
				}
			}
		}
	}
	return out, nil
}

// read puts what a photograph says of cells in the place of what was typed of them; nil where there is neither.
func (f *Finder) read(typed []character, read []Read) ([]character, error) {
	if read == nil {
		return typed, nil
	}
	g := f.Index.View(0)
	if len(read) != len(g.Cells) {
		return nil, fmt.Errorf("%d cells were read; the glass has %d", len(read), len(g.Cells))
	}
	if typed == nil {
		typed = slices.Repeat([]character{{dots: []glass.Cell{0}}}, len(read))
	}
	for i, r := range read {
		if r.Sure > 0 {
			typed[i] = f.coded(r.Code)
			next := f.coded(r.Next)
			typed[i].sure, typed[i].next, typed[i].also = r.Sure, &next, r.Also
		}
	}
	return typed, nil
}

// coded is what a code shows.
func (f *Finder) coded(code byte) character {
	dots := f.Index.Looks(code)
	return character{dots: []glass.Cell{dots}, block: dots&allLit == allLit}
}

// Picture is what was typed as a glass would show it; characters that cannot be typed are
// drawn as a frame.
func (f *Finder) Picture(rows []string) (glass.View, error) {
	sent := f.Index.View(0)
	v := glass.View{Cols: sent.Cols, Rows: sent.Rows, Light: true, Cells: make([]glass.Cell, len(sent.Cells))}
	characters, err := f.typed(rows)
	for i, s := range characters {
		switch {
		case s.block:
			v.Cells[i] = glass.Dark
		case s.other:
			v.Cells[i] = frame
		default:
			v.Cells[i] = s.dots[0]
		}
	}
	return v, err
}

// frame stands for other dots.
var frame = glass.Of(charrom.Dots{0x15, 0x00, 0x11, 0x00, 0x11, 0x00, 0x15}, [3]byte{})

// Pattern is how a glass differs from what was sent.
type Pattern string

// The patterns, of glasses on which characters can be read.
const (
	Right      Pattern = "right"       // as it ought to be
	Shifted    Pattern = "shifted"     // the text is there, some columns off
	EveryOther Pattern = "every-other" // every other character is missing
	RowsOff    Pattern = "rows"        // rows are missing or in the wrong place
	More       Pattern = "more"        // characters that were not sent stand beside the text
	Partly     Pattern = "partly"      // half of the text is right, or all that is seen of it
	Garbage    Pattern = "garbage"     // other characters than were sent
)

// Patterns lists the patterns.
var Patterns = []Pattern{Right, Shifted, EveryOther, RowsOff, More, Partly, Garbage}

// pattern returns how a view differs from what was sent; "" where no characters are seen.
func (f *Finder) pattern(at int32) Pattern {
	for int(at) >= len(f.kinds) {
		f.kinds = append(f.kinds, "")
	}
	if f.kinds[at] == "" {
		f.kinds[at] = patternOf(f.Index.View(at), f.Index.View(0))
	}
	return f.kinds[at]
}

func patternOf(v, sent *glass.View) Pattern {
	if !v.Class().Readable() {
		return "none"
	}
	right, characters, more, other := 0, 0, 0, 0
	for i, s := range sent.Cells {
		d := v.Cells[i].Dots()
		switch {
		case s.Dots() != 0:
			characters++
			if d == s.Dots() {
				right++
			} else if d != 0 {
				other++
			}
		case d != 0:
			more++
		}
	}
	switch {
	case right == characters && more == 0:
		return Right
	case right == characters:
		return More
	case shifted(v, sent):
		return Shifted
	case rowsOff(v, sent):
		return RowsOff
	case everyOther(v, sent):
		return EveryOther
	case 2*right >= characters, right > 0 && other+more == 0:
		return Partly
	}
	return Garbage
}

// row is the dots of a row, without the blanks around them if they are cut.
func row(v *glass.View, r int, cut bool) []glass.Cell {
	var out []glass.Cell
	for _, c := range v.Cells[r*v.Cols : (r+1)*v.Cols] {
		out = append(out, c.Dots())
	}
	for cut && len(out) > 0 && out[len(out)-1] == 0 {
		out = out[:len(out)-1]
	}
	for cut && len(out) > 0 && out[0] == 0 {
		out = out[1:]
	}
	return out
}

func equal(a, b []glass.Cell) bool {
	if len(a) != len(b) {
		return false
	}
	for i := range a {
		if a[i] != b[i] {
			return false
		}
	}
	return true
}

// shifted reports whether each row stands some columns off, none left out.
func shifted(v, sent *glass.View) bool {
	moved := false
	for r := range sent.Rows {
		if !equal(row(v, r, true), row(sent, r, true)) {
			return false
		}
		moved = moved || !equal(row(v, r, false), row(sent, r, false))
	}
	return moved
}

// rowsOff reports whether each row is empty, or one that was sent, and not all are
// where they were sent to.
func rowsOff(v, sent *glass.View) bool {
	any := false
	for r := range v.Rows {
		seen := row(v, r, true)
		found := len(seen) == 0
		for s := 0; s < sent.Rows && !found; s++ {
			found = equal(seen, row(sent, s, true))
		}
		if !found {
			return false
		}
		any = any || len(seen) > 0
	}
	return any
}

// everyOther reports whether what is seen is every other character of what was sent.
func everyOther(v, sent *glass.View) bool {
	var text, seen []glass.Cell
	for i, c := range sent.Cells {
		if c.Dots() != 0 {
			text = append(text, c.Dots())
		}
		if d := v.Cells[i].Dots(); d != 0 {
			seen = append(seen, d)
		}
	}
	if len(seen) < 2 {
		return false
	}
	for begin := range 2 {
		hits := 0
		for i, at := 0, begin; i < len(seen) && at < len(text); i, at = i+1, at+2 {
			if seen[i] == text[at] {
				hits++
			}
		}
		if 4*hits >= 3*len(seen) && 2*len(seen) <= len(text)+1 {
			return true
		}
	}
	return false
}

// GlassLook is one way that a glass may look, with a view that shows it.
type GlassLook struct {
	Class   glass.Class
	Pattern Pattern
	View    int32
}

// Looks lists the ways that the glass may look, each as the likeliest single fault
// shows it.
func (f *Finder) Looks() []GlassLook {
	var out []GlassLook
	best := map[[2]string]int{}
	for i := range f.Index.Faults {
		c := &f.Index.Cases[i]
		v := f.Index.View(c.View)
		l := GlassLook{Class: v.Class(), View: c.View}
		if l.Class == glass.Characters {
			l.Pattern = f.pattern(c.View)
		}
		key := [2]string{string(l.Class), string(l.Pattern)}
		at, ok := best[key]
		switch {
		case !ok:
			best[key] = i
			out = append(out, l)
		case f.prior[i] > f.prior[at]:
			best[key] = i
			for j := range out {
				if out[j].Class == l.Class && out[j].Pattern == l.Pattern {
					out[j] = l
				}
			}
		}
	}
	rank := func(l *GlassLook) int {
		return 10*slices.Index(glass.Classes, l.Class) + slices.Index(Patterns, l.Pattern)
	}
	slices.SortFunc(out, func(a, b GlassLook) int { return rank(&a) - rank(&b) })
	return out
}
