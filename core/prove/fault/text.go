package fault

import (
	"math"
	"math/rand/v2"
	"slices"
	"strings"

	"slatebell/core/part/charrom"
	"slatebell/core/wire/glass"
	"slatebell/core/wire/link"
)

// Text reads a view as characters, row by row: those of the ROM whose dots are seen,
// glyphs as '①' for slot 0 to '⑧' for slot 7, '█' for a block, and '\uFFFD' for other
// dots.
func (x *Index) Text(v *glass.View) []string {
	if x.letters == nil {
		x.letters = map[glass.Cell]rune{glass.Of(charrom.Dots{}, [3]byte{}): ' '}
		for code := 255; code >= 0; code-- { // the lowest code of those that look alike
			if ch, ok := x.subject.Module.ROM.Rune(byte(code)); ok {
				x.letters[x.dotsOf(byte(code))] = ch
			}
		}
		for slot := 7; slot >= 0; slot-- {
			if _, drawn := x.bank.In(slot); drawn {
				x.letters[x.Looks(byte(slot))] = '①' + rune(slot)
			}
		}
	}
	rows := make([]string, v.Rows)
	for r := range rows {
		var b strings.Builder
		for _, c := range v.Cells[r*v.Cols : (r+1)*v.Cols] {
			ch, known := x.letters[c.Dots()]
			if !known { // with the cursor under it
				ch, known = x.letters[c.Bare()]
			}
			switch {
			case c.Dots() == 0 && c.Shade() != 0:
				ch = '█'
			case !known:
				ch = '\uFFFD'
			}
			b.WriteRune(ch)
		}
		rows[r] = b.String()
	}
	return rows
}

// Looks returns what a code shows on this module: its ROM's character, or the screen's
// glyph in the slot.
func (x *Index) Looks(code byte) glass.Cell {
	m := &x.subject.Module
	slot, ok := m.Slot(code)
	if !ok {
		return x.dotsOf(code)
	}
	if g, drawn := x.bank.In(slot); drawn {
		rows := g.Pattern()
		var d charrom.Dots
		copy(d[:], rows[:])
		var below [3]byte
		if m.Tall {
			copy(below[:], rows[len(d):])
		}
		return glass.Of(d, below)
	}
	return 0
}

// LooksOf returns what a character may look like on this module, by each code that
// shows it; nil where none does. '①' to '⑧' are the glyphs of the slots.
func (x *Index) LooksOf(ch rune) (out []glass.Cell) {
	if ch >= '①' && ch <= '⑧' {
		return []glass.Cell{x.Looks(byte(ch - '①'))}
	}
	for code := range 256 {
		if shown, ok := x.subject.Module.ROM.Rune(byte(code)); ok && shown == ch {
			out = append(out, x.dotsOf(byte(code)))
		}
	}
	if out == nil {
		if code, ok := x.subject.Module.ROM.Code(ch); ok { // one that looks alike
			out = append(out, x.dotsOf(code))
		}
	}
	return out
}

// dotsOf is what a code of the ROM looks like.
func (x *Index) dotsOf(code byte) glass.Cell {
	m := &x.subject.Module
	var below [3]byte
	if m.Tall {
		more := m.ROM.Below(code)
		copy(below[:], more[:])
	}
	return glass.Of(m.ROM.Dots(code), below)
}

// What a test text is made of: characters that are told apart at a look and easily typed.
const (
	testSigns   = "ABCDEFGHJKLMNPRSTUVWXYZabdefghinrty23456789+=#?"
	testLength  = 8   // of a row; no module is narrower
	testStarts  = 160 // that chance makes
	testChanges = 240 // that are tried of the best
	mostStrands = 140 // faults that are played for each
)

// foundTexts are test texts that were looked for once, among some thousands and for modules of six sizes: those for a row, and those for two,
// which stand here one behind the other. Which of them tells most, the module says.
var foundTexts = map[link.Kind][2][]string{
	link.Backpack:  {{"i?22P+hr"}, {"SCCaigKC4APFX+XR"}},
	link.ShiftReg:  {{"WA4UZ#VP"}, {"VhyYiCWSG+g+78tZ"}},
	link.Parallel4: {{"U5CC5E8B"}, {"VhyYiCWSG+g+78XZ"}},
	link.Parallel8: {{"yahXa6yD"}, {"RP8B5dA=+f5XC=e8", "BTV#D8=+YCGRd#+8", "Z64+YSSA=Fy68?N8"}},
}

// found returns the texts that were looked for once, those of which the module's ROM shows each character as others do.
func (x *Index) found() (texts []string) {
	rom, usual := x.subject.Module.ROM, charrom.A00()
	for _, text := range foundTexts[x.subject.Link.Kind][x.testHeight()-1] {
		if !strings.ContainsFunc(text, func(ch rune) bool {
			code, ok := rom.Code(ch)
			return !ok || code != byte(ch) || rom.Dots(code) != usual.Dots(code)
		}) {
			texts = append(texts, text)
		}
	}
	return texts
}

// testHeight is how many rows the test text has.
func (x *Index) testHeight() int { return min(x.subject.Module.Geometry.Rows, 2) }

// TestText returns the rows of the test text, the one that tells most about which wire is at fault of those that were tried: of what was looked
// for once, or of a search where the module's ROM lacks its characters, the same each time.
func (x *Index) TestText() ([]string, error) {
	if x.testRows == nil {
		t := trial{x: x.bare(), most: -1}
		found := x.found()
		for _, text := range found {
			if err := t.try([]byte(text)); err != nil {
				return nil, err
			}
		}
		if found == nil {
			if err := x.search(&t); err != nil {
				return nil, err
			}
		}
		x.testRows = split(t.best)
	}
	return x.testRows, nil
}

// split parts a text into rows.
func split(text []byte) (rows []string) {
	for row := range slices.Chunk(text, testLength) {
		rows = append(rows, string(row))
	}
	return rows
}

// trial tries texts, and keeps the one that tells most.
type trial struct {
	x    *Index
	best []byte
	most float64
}

func (t *trial) try(text []byte) error {
	told, err := t.x.Told(split(text))
	if err == nil && told >= t.most { // as good is taken too, so that a search does not stand still
		t.best, t.most = text, told
	}
	return err
}

// search looks for a test text: it begins with the best that chance makes, and changes a character at a time.
func (x *Index) search(t *trial) error {
	r := rand.New(rand.NewPCG(1, uint64(x.subject.Module.Geometry.Cols)))
	sign := func() byte { return testSigns[r.IntN(len(testSigns))] }
	for tried := range testStarts + testChanges {
		x.Watch.Tell("Looking for the text that tells most", tried, testStarts+testChanges)
		text := slices.Clone(t.best)
		if tried < testStarts {
			text = make([]byte, x.testHeight()*testLength)
			for i := range text {
				text[i] = sign()
			}
		} else {
			text[r.IntN(len(text))] = sign()
		}
		if err := t.try(text); err != nil {
			return err
		}
	}
	return nil
}

// bare is an index of the same catalogue that has played nothing yet, so that what is
// only tried is not kept.
func (x *Index) bare() *Index {
	b := empty(x.subject)
	b.base, b.Faults, b.Cases, b.strands = x.base, x.Faults, x.Cases, x.strands
	return b
}

// Told is how much a text tells about which wire is at fault, in bits: the information
// in what is seen of it.
func (x *Index) Told(rows []string) (float64, error) {
	if x.strands == nil {
		x.strands = x.wireStates()
	}
	b := x.bare()
	b.testRows = rows
	weight, total := map[int32]float64{}, 0.0
	for i := range x.strands {
		s := &x.strands[i]
		v, err := b.lookAt(&s.state, &s.joined, false)
		if err != nil {
			return 0, err
		}
		weight[v] += s.weight
		total += s.weight
	}
	bits := 0.0
	for _, s := range x.strands { // in order, so that it is the same each time
		v, _ := b.lookAt(&s.state, &s.joined, false)
		bits -= s.weight / total * math.Log2(weight[v]/total)
	}
	return bits, nil
}

// strand is a fault of wires that reaches the controllers, worked out once.
type strand struct {
	state  state
	joined joined
	weight float64
}

// wireStates lists the faults of wires and of the bus that leave the module fed, each
// that differs to the controllers once, so many at most that a search takes no time.
func (x *Index) wireStates() (out []strand) {
	at := map[playKey]int{}
	for i := range x.Faults {
		f := &x.Faults[i]
		if f.Topic == Program && f.Code != Sound || len(out) == mostStrands {
			continue
		}
		st := x.state(&x.Cases[i])
		st.program.says = testText
		j := st.join(&x.header)
		if j.dead || st.deaf(&j) {
			continue
		}
		key := playKey{drives: j.drives, inputs: st.inputs, mapping: st.bus.mapping}
		if k, ok := at[key]; ok {
			out[k].weight += f.Weight
			continue
		}
		at[key] = len(out)
		out = append(out, strand{st, j, max(f.Weight, 1)})
	}
	return out
}
