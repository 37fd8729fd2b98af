package fault

import (
	"bytes"
	"slices"
	"time"

	"periph.io/x/conn/v3/physic"

	"slatebell/core/part/hd44780"
	"slatebell/core/part/module"
	"slatebell/core/text/screen"
	"slatebell/core/wire/link"
	"slatebell/core/wire/sequence"
)

// program says in what a program differs from the one that ought to be sent; the
// zero value in nothing.
type program struct {
	geometry  int8 // one more than the index in module.Geometries that it takes the module for
	start     start
	set       byte // bits of the function set that are turned over
	entry     byte // bits of the entry mode that are turned over
	off, dark bool // display, backlight
	waits     waits
	fast      uint8 // how often as fast as planned the bus is clocked; 0: as planned
	right     bool  // columns counted from 1
	down      bool  // rows counted from 1
	wrap      bool  // to the next row one column too early
	onward    bool  // no address between rows
	uncut     bool  // rows are written beyond the glass
	slot      bool  // glyphs are printed by the code after their slot's
	unloaded  bool
	before    int8  // text that is left from before: one more than the index in Others, or everything
	says      int16 // in place of the screen: testText, or one more than that and the index of a text
}

// everything stands for a glass full of a character that is not in the text.
const everything int8 = -1

// testText is what a program says that sends the test text.
const testText int16 = 1

// start is how a program begins.
type start uint8

const (
	lawful start = iota
	noStart
	byteStart  // 4-bit: whole bytes in place of single nibbles
	halfStart  // 4-bit: a single 0x2; the host began again in the middle of a byte before
	evenStart  // 4-bit: a single 0x2; the host began again between two bytes before
	shortStart // 4-bit: a single 0x2, which is enough after power-up
)

// short reports whether it begins with a single 0x2.
func (s start) short() bool { return s == shortStart || s.again() }

// again reports whether the host began again while the module stayed on.
func (s start) again() bool { return s == halfStart || s == evenStart }

// waits is how a program waits.
type waits uint8

const (
	kept waits = iota
	noWaits
	clearShort // 37 µs after clear
	long       // 5 ms more after every operation
)

// sent is what a program sends.
type sent struct {
	before *sequence.Program // sent before, to the module as it was switched on; nil for nothing
	main   *sequence.Program
	rest   link.Pins // levels of the lines at the end
}

// text is the screen that a program sends.
func (x *Index) text(p *program) screen.Text {
	switch {
	case p.says > testText:
		return x.texts[p.says-testText-1]
	case p.says == testText:
		return screen.Text{Rows: x.testRows, Bank: x.subject.Text.Bank, Library: x.subject.Text.Library}
	}
	return x.subject.Text
}

// send compiles a program, and keeps of it what a rig plays.
func (x *Index) send(p program) (*sent, error) {
	if s, ok := x.programs[p]; ok {
		return s, nil
	}
	s, err := x.compile(p, &x.room)
	if err != nil {
		return nil, err
	}
	s.before, s.main = stripped(s.before), stripped(s.main)
	x.programs[p] = s
	return s, nil
}

// stripped is a program for a rig that nobody asks for its steps: they take more room than all else of it.
func stripped(p *sequence.Program) *sequence.Program {
	if p == nil || len(p.Steps) == 0 {
		return p
	}
	last := &p.Steps[len(p.Steps)-1]
	words := last.First + last.Count // of one that breaks off there are more
	return &sequence.Program{Steps: []sequence.Step{{Count: words}}, Words: p.Words[:words], At: p.At[:words], Coder: p.Coder, Finish: p.Finish}
}

// meant is a program before mistakes are made in its steps.
type meant struct {
	module module.Module
	link   link.Link
	layout screen.Layout
	codes  []byte
	whole  *sequence.Program
}

// root is the part of a program that what it meant depends on.
func (p *program) root() program {
	r := program{geometry: p.geometry, dark: p.dark, slot: p.slot, unloaded: p.unloaded, says: p.says}
	if p.start == noStart {
		r.start = noStart
	}
	if p.waits == noWaits {
		r.waits = noWaits
	}
	return r
}

// meaning is a root, and whether its steps need not say what they mean.
type meaning struct {
	program
	mute bool
}

// mean compiles what a program meant, once for all that share their root.
func (x *Index) mean(p meaning) (*meant, error) {
	if at, ok := x.meant[p]; ok {
		return at, nil
	}
	sub := x.subject
	out := &meant{module: sub.Module, link: sub.Link}
	m := &out.module
	if p.geometry > 0 {
		m.Geometry = module.Geometries[p.geometry-1]
	}
	out.link.Backlight = out.link.Backlight && !p.dark
	out.layout = screen.Compose(m, x.text(&p.program), screen.Sources{})
	o := sub.Options
	o.Init, o.Forget, o.Hasty, o.Glyphs = p.start != noStart, p.start == noStart, p.waits == noWaits, out.layout.Bank
	o.Mute = p.mute
	if p.unloaded {
		o.Glyphs = nil
	}
	out.codes = out.layout.Codes()
	if p.slot {
		for i, c := range out.codes {
			if slot, ok := m.ROM.Slot(c); ok {
				out.codes[i] = byte(slot+m.SlotStep()) % 8
			}
		}
	}
	var err error
	if out.whole, err = sequence.Compile(*m, out.link, out.codes, o); err != nil {
		return nil, err
	}
	x.meant[p] = out
	return out, nil
}

// compile makes a program with all its steps: for good, or in the room of one that is needed no more, where the steps need not say what they mean.
func (x *Index) compile(p program, room *[]sequence.Step) (*sent, error) {
	s, err := x.mistaken(p, room)
	if err != nil {
		return nil, err
	}
	if n := len(s.main.Words); n > 0 {
		s.rest = s.main.Coder.Levels(s.main.Words[n-1])
	}
	return s, nil
}

// mistaken makes a program with its mistakes.
func (x *Index) mistaken(p program, room *[]sequence.Step) (*sent, error) {
	was, err := x.mean(meaning{p.root(), room != nil})
	if err != nil {
		return nil, err
	}
	if p == (program{says: p.says}) {
		return &sent{main: was.whole}, nil
	}
	x.steps = append(x.steps[:0], was.whole.Steps...)
	if p.right || p.down || p.wrap || p.onward || p.uncut || p.before != 0 {
		x.steps = x.naive(was, &p, x.steps)
	}
	steps := x.steps
	for i := range steps {
		p.edit(&steps[i], was.module.Oscillator)
	}
	out := &sent{}
	if p.start.short() {
		steps = short(steps)
	}
	if p.start.again() {
		out.before = broken(was.whole, p.start == halfStart)
	}
	if room == nil {
		room = new([]sequence.Step)
	}
	if out.main, err = sequence.Again(was.module, was.link, steps, *room); err != nil {
		return nil, err
	}
	*room = out.main.Steps
	if p.fast > 1 {
		hurry(out.main, p.fast)
	}
	return out, nil
}

// edit changes a step as the program's mistakes have it.
func (p *program) edit(s *sequence.Step, osc physic.Frequency) {
	if p.waits == long && s.Sends() {
		s.Wait += 5 * time.Millisecond
	}
	if s.Kind == sequence.Wake && p.start == byteStart {
		s.Half = false
	}
	if s.Kind != sequence.Setting || s.Op.RS {
		return
	}
	switch s.Op.Kind() {
	case hd44780.FunctionSet:
		s.Op.Byte ^= p.set
	case hd44780.EntryMode:
		s.Op.Byte ^= p.entry
	case hd44780.DisplayControl:
		if p.off {
			s.Op.Byte &^= hd44780.DisplayOn
		}
	case hd44780.Clear:
		if p.waits == clearShort {
			s.Wait = hd44780.ExecutionTime(hd44780.Data(' '), osc)
		}
	}
}

// broken ends a program at its first character: in the middle of its byte, or behind it.
func broken(whole *sequence.Program, inside bool) *sequence.Program {
	cut := *whole
	for i := range whole.Steps {
		s := &whole.Steps[i]
		if s.Kind != sequence.Text {
			continue
		}
		cut.Steps = slices.Clone(whole.Steps[:i+1])
		last := &cut.Steps[i]
		for w := s.First; inside && w < s.First+s.Count; w++ { // up to the end of its first pulse of E
			if whole.Coder.Raises(whole.Words[w]) {
				last.Count = w - s.First + 1
				if whole.Coder.Expanded() {
					last.Count++
				}
				break
			}
		}
		cut.Finish = s.Start + s.Wire
		break
	}
	return &cut
}

// short leaves out the three instructions that bring any phase back in step.
func short(steps []sequence.Step) []sequence.Step {
	wakes := 0
	return slices.DeleteFunc(steps, func(s sequence.Step) bool {
		if s.Kind == sequence.Wake {
			wakes++
		}
		return s.Kind == sequence.Wake && wakes <= 3
	})
}

// hurry lets the wire of a program run faster than it was planned for, with the pauses
// that the host adds as they are.
func hurry(p *sequence.Program, by uint8) {
	now := time.Duration(0)
	for i := range p.Steps {
		s := &p.Steps[i]
		for w := s.First; w < s.First+s.Count; w++ {
			p.At[w] = now + (p.At[w]-s.Start)/time.Duration(by)
		}
		s.Start, s.Wire = now, s.Wire/time.Duration(by)
		now = s.End()
	}
	p.Finish = now
}

// naive writes the text as makers' own programs do, behind the initialisation and the
// glyphs: for each row its address, then its characters as far as it was typed.
func (x *Index) naive(was *meant, p *program, steps []sequence.Step) []sequence.Step {
	cut := slices.IndexFunc(steps, func(s sequence.Step) bool { return s.Kind == sequence.Text })
	if cut < 0 {
		cut = len(steps)
	}
	for cut > 0 && steps[cut-1].Kind == sequence.Address { // those of the first cells, not of glyphs
		cut--
	}
	w := writer{module: &was.module, program: p, steps: steps[:cut]}
	if p.before == everything {
		w.write(bytes.Repeat([]byte{Filler}, len(was.codes)), nil)
	} else if p.before > 0 {
		old := screen.Compose(&was.module, x.subject.Others[p.before-1], screen.Sources{})
		w.write(old.Codes(), nil)
	}
	var over []string
	if p.uncut {
		over = was.layout.Over
	}
	w.write(was.codes, over)
	for _, s := range was.whole.Steps[cut:] {
		if s.Kind == sequence.Live {
			w.steps = append(w.steps, s)
		}
	}
	return w.steps
}

// Filler is the character that stands for any text that may be left.
const Filler = '*'

// writer appends the steps that write rows.
type writer struct {
	module  *module.Module
	program *program
	steps   []sequence.Step
}

func (w *writer) send(kind sequence.StepKind, op hd44780.Operation, controller int, meaning string) {
	en := link.First
	if controller == 1 {
		en = link.Second
	}
	w.steps = append(w.steps, sequence.Step{Kind: kind, Op: op, Enable: en, Meaning: meaning, Row: -1, Col: -1, Wait: hd44780.ExecutionTime(op, hd44780.MinOscillator)})
}

// write writes rows; over is what of each lies beyond the glass.
func (w *writer) write(codes []byte, over []string) {
	g := &w.module.Geometry
	for _, seg := range g.Segments {
		row := codes[seg.Row*g.Cols+seg.Col:][:seg.Len]
		n := len(row)
		for n > 0 && row[n-1] == ' ' {
			n--
		}
		target := seg
		if w.program.down { // beyond the last row it stays there
			target = g.Segments[min(seg.Row+1, len(g.Segments)-1)]
		}
		at := target.Start
		if w.program.right {
			at++
		}
		if !w.program.onward || seg.Row == 0 && seg.Col == 0 {
			w.send(sequence.Address, hd44780.Command(hd44780.DDRAMBase|at), target.Controller, "Address of the row")
		}
		if w.program.onward && seg.Row+1 < g.Rows {
			n = seg.Len // the next row follows
		}
		for col, c := range row[:n] {
			if w.program.wrap && col == seg.Len-1 && seg.Row+1 < g.Rows {
				next := g.Segments[seg.Row+1]
				w.send(sequence.Address, hd44780.Command(hd44780.DDRAMBase|next.Start), next.Controller, "Address of the next row")
			}
			w.send(sequence.Text, hd44780.Data(c), target.Controller, "Character")
		}
		if seg.Row < len(over) && seg.Col+seg.Len == g.Cols {
			for _, ch := range over[seg.Row] {
				if code, ok := w.module.ROM.Code(ch); ok {
					w.send(sequence.Text, hd44780.Data(code), target.Controller, "Character beyond the glass")
				}
			}
		}
	}
}
