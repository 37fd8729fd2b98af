package fault

import (
	"math"
	"math/rand/v2"
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
	testLength  = 8
	testChanges = 60  // that are tried, of a text that was looked for once
	testStarts  = 160 // that chance makes where there is none
	testLonger  = 240 // changes of theirs that are tried
	mostStrands = 140 // faults that are played for each
)

// foundTexts are test texts that were looked for once, among several hundreds and for modules of up to five sizes together: one for a row,
// and one for two.
var foundTexts = map[link.Kind][2][]string{
	link.Backpack:  {{"i?22P+hr"}, {"EFNYidBr", "a+g+7AnB"}},
	link.ShiftReg:  {{"WA4UZ#VP"}, {"VhyYiCWS", "G+g+78tZ"}},
	link.Parallel4: {{"U5CC5E8B"}, {"VhyYiCWS", "G+g+78XZ"}},
	link.Parallel8: {{"yahXa6yD"}, {"ihNa+d=G", "Y+T77Mf8"}},
}

// found returns the text that was looked for once, where the module's ROM shows each character of it as others do.
func (x *Index) found(rows int) []string {
	text := foundTexts[x.subject.Link.Kind][rows-1]
	rom, usual := x.subject.Module.ROM, charrom.A00()
	for _, ch := range strings.Join(text, "") {
		if code, ok := rom.Code(ch); !ok || code != byte(ch) || rom.Dots(code) != usual.Dots(code) {
			return nil
		}
	}
	return text
}

// TestText returns the rows of the test text: of those that were tried the one that
// tells most about which wire is at fault. It begins with one that was looked for once, or by chance where the module's ROM lacks its
// characters, and changes a character at a time for as long as that tells more, the same way each time.
func (x *Index) TestText() ([]string, error) {
	if x.testRows != nil {
		return x.testRows, nil
	}
	bare := x.bare()
	g := &x.subject.Module.Geometry
	rows, n := min(g.Rows, 2), min(g.Cols, testLength)
	r := rand.New(rand.NewPCG(1, uint64(g.Cols)))
	split := func(text []byte) (out []string) {
		for i := range rows {
			out = append(out, string(text[i*n:(i+1)*n]))
		}
		return out
	}
	starts, changes := [][]byte{}, testChanges
	if text := x.found(rows); text != nil {
		starts = append(starts, []byte(strings.Join(text, "")))
	} else {
		changes = testLonger
		for range testStarts {
			text := make([]byte, rows*n)
			for i := range text {
				text[i] = testSigns[r.IntN(len(testSigns))]
			}
			starts = append(starts, text)
		}
	}
	var best []byte
	most := -1.0
	tried := 0
	try := func(text []byte) error {
		x.Watch.Tell("Looking for the text that tells most", tried, len(starts)+changes)
		tried++
		told, err := bare.Told(split(text))
		if err == nil && told >= most { // as good is taken too, so that it does not stand still
			best, most = text, told
		}
		return err
	}
	for _, text := range starts {
		if err := try(text); err != nil {
			return nil, err
		}
	}
	for range changes {
		next := append([]byte{}, best...)
		next[r.IntN(len(next))] = testSigns[r.IntN(len(testSigns))]
		if err := try(next); err != nil {
			return nil, err
		}
	}
	x.testRows = split(best)
	return x.testRows, nil
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
