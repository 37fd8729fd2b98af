// Package sequence makes the timed steps a host takes: initialise, write a
// screen, load glyphs, poll the busy flag. Each step is an operation with its
// meaning, its words on the wire and the wait after it.
//
// It stands above module and link in the flow screen → cells → operations →
// wire traffic → rig → glass: it is given codes, and gives the rig words with
// the times at which they reach the pins.
package sequence

import (
	"fmt"
	"time"

	"slatebell/core/glyph"
	"slatebell/core/hd44780"
	"slatebell/core/link"
	"slatebell/core/module"
)

// Waits says how long a host waits after an operation.
type Waits string

// The ways to wait.
const (
	WorstCase Waits = "worst"   // execution times at 190 kHz, the slowest the data sheet allows
	Typical   Waits = "typical" // execution times at the module's own oscillator
	PollBusy  Waits = "poll"    // read the busy flag until it clears; needs R/W
)

// Kind says what a step is.
type Kind string

// The kinds of step.
const (
	Wait    Kind = "wait"    // the host waits; nothing is sent
	Park    Kind = "park"    // the expander's outputs are brought to rest
	Wake    Kind = "wake"    // an instruction to an interface of unknown width
	Setting Kind = "setting" // an instruction of the initialisation
	Address Kind = "address" // DDRAM or CGRAM address
	Text    Kind = "text"    // a character for a cell
	Glyph   Kind = "glyph"   // a row of a glyph for CGRAM
	Poll    Kind = "poll"    // a read of the busy flag
	Live    Kind = "live"    // an operation given by hand
)

// Step is one step. Times are from power-up.
type Step struct {
	Kind    Kind
	Op      hd44780.Operation // unless Kind is Wait or Park
	Half    bool              // only the high nibble is sent
	Enable  link.Enable
	Meaning string
	Row     int // cell that a Text step writes, 0-based; -1 otherwise
	Col     int

	First, Count int           // its words in Program.Words
	Start        time.Duration // when its first word begins on the wire
	Wire         time.Duration // how long its words take
	Wait         time.Duration // what the controller needs before the next pulse of E
	Pause        time.Duration // what the host adds; the rest of Wait passes on the wire
}

// Sends reports whether the step carries an operation.
func (s *Step) Sends() bool { return s.Kind != Wait && s.Kind != Park }

// End is when the step, its pause included, is over.
func (s *Step) End() time.Duration { return s.Start + s.Wire + s.Pause }

// Program is a run of steps and its wire traffic. At holds, for each word, the
// time at which the header pins change by it.
type Program struct {
	Steps        []Step
	Words        []link.Word
	At           []time.Duration
	Coder        *link.Coder
	Transactions int           // on I²C
	WireTime     time.Duration // the wire in use
	Finish       time.Duration // the last step over, its execution included
}

// Options say how a program is made.
type Options struct {
	Waits Waits // "" means WorstCase
	Init  bool  // begin at power-up, with the initialisation by instruction

	// Forget begins at power-up too, and leaves the initialisation out.
	Forget bool
	// Brightness of a VFD in quarters below full, 0–3.
	Brightness uint8
	// Glyphs are loaded into CGRAM before the screen is written.
	Glyphs glyph.Bank
	// Live operations follow the screen.
	Live []Aimed
}

// Aimed is an operation given by hand, for the controllers behind an enable. A
// module with one controller takes all of them with its own.
type Aimed struct {
	Op     hd44780.Operation
	Enable link.Enable
}

// Builder appends steps to a program.
type Builder struct {
	program  Program
	module   module.Module
	opts     Options
	coder    *link.Coder
	timeline link.Timeline
	readyAt  time.Duration // the controllers are free again, by the chosen waits
	buffer   []link.Word
}

// NewBuilder checks link and options and returns a builder for a module. The
// link's number of enables is set to the module's number of controllers.
func NewBuilder(m module.Module, l link.Link, o Options) (*Builder, error) {
	l.Enables = m.Geometry.Controllers
	coder, err := link.NewCoder(l)
	if err != nil {
		return nil, err
	}
	if err := CheckWaits(o.Waits, l); err != nil {
		return nil, err
	}
	if o.Waits == "" {
		o.Waits = WorstCase
	}
	b := &Builder{module: m, opts: o, coder: coder, timeline: link.NewTimeline(coder)}
	cells := m.Geometry.Cells()
	b.program = Program{
		Coder: coder,
		Steps: make([]Step, 0, cells+2*m.Geometry.Rows+24),
		Words: make([]link.Word, 0, 5*cells+128),
		At:    make([]time.Duration, 0, 5*cells+128),
	}
	return b, nil
}

// CheckWaits reports waits that are not known, or that the link cannot keep; ""
// stands for WorstCase.
func CheckWaits(w Waits, l link.Link) error {
	switch w {
	case "", WorstCase, Typical:
		return nil
	case PollBusy:
		if l.ReadWrite {
			return nil
		}
		return fmt.Errorf("waits %q: the busy flag can be read only where R/W is wired to the host; expected worst or typical", w)
	}
	return fmt.Errorf("waits %q; expected worst, typical or poll", w)
}

// Compile makes the program that shows cells (row by row, a code each) on a
// module: from power-up with o.Init, otherwise onto a module that was
// initialised before and shows something unknown.
func Compile(m module.Module, l link.Link, cells []byte, o Options) (*Program, error) {
	b, err := NewBuilder(m, l, o)
	if err != nil {
		return nil, err
	}
	if len(cells) != m.Geometry.Cells() {
		return nil, fmt.Errorf("%d cells for a module of %d", len(cells), m.Geometry.Cells())
	}
	var shown []byte
	if o.Init || o.Forget {
		b.PowerUp()
	}
	if o.Init {
		b.Initialise()
		shown = make([]byte, len(cells))
		for i := range shown {
			shown[i] = ' '
		}
	}
	b.Load(o.Glyphs)
	b.Update(shown, cells)
	for _, a := range o.Live {
		if err := b.live(a); err != nil {
			return nil, err
		}
	}
	return b.Program(), nil
}

// live appends an operation given by hand.
func (b *Builder) live(a Aimed) error {
	if b.module.Geometry.Controllers == 1 {
		a.Enable = link.First
	}
	if wired := b.coder.Link(); a.Op.RW && !wired.ReadWrite {
		return fmt.Errorf("%s: R/W is not joined to the host on this link, so that nothing can be read; expected a write", a.Op.Lookup().Name)
	}
	if a.Op.RW && a.Enable == link.Both {
		return fmt.Errorf("%s: with both enables high two controllers would drive the bus against each other; expected E or E2", a.Op.Lookup().Name)
	}
	meaning := b.module.Family.Explain(a.Op)
	if a.Op.RW { // the byte is not known before it is read
		meaning = a.Op.Lookup().Name
	}
	b.Do(Live, a.Op, a.Enable, meaning)
	return nil
}

// Program ends the builder's work and returns what it built.
func (b *Builder) Program() *Program {
	b.close()
	p := &b.program
	_, p.Transactions = b.timeline.Words()
	p.WireTime, p.Finish = 0, b.readyAt
	for i := range p.Steps {
		p.WireTime += p.Steps[i].Wire
	}
	if n := len(p.Steps); n > 0 {
		p.Finish = max(p.Finish, p.Steps[n-1].End())
	}
	return p
}

// all is the enable that reaches every controller of the module.
func (b *Builder) all() link.Enable {
	if b.module.Geometry.Controllers == 2 {
		return link.Both
	}
	return link.First
}

// execution is how long to wait after op.
func (b *Builder) execution(op hd44780.Operation) time.Duration {
	if b.opts.Waits == Typical {
		return hd44780.ExecutionTime(op, b.module.Oscillator)
	}
	return hd44780.ExecutionTime(op, hd44780.MinOscillator)
}

// WaitFor appends a pure wait.
func (b *Builder) WaitFor(d time.Duration, meaning string) {
	b.close()
	b.program.Steps = append(b.program.Steps, Step{Kind: Wait, Meaning: meaning, Row: -1, Col: -1, First: len(b.program.Words), Start: b.timeline.Now(), Wait: d, Pause: d})
	b.timeline.Wait(d)
	b.readyAt = max(b.readyAt, b.timeline.Now())
}

// add appends a step that sends words, after a pause until the controllers are
// free. The step's Kind, Op, Half, Enable, Meaning, Row, Col and Wait are given.
func (b *Builder) add(s Step) {
	b.buffer = b.buffer[:0]
	status := s.Sends() && s.Op.Kind() == hd44780.ReadStatus // may come while the controller is busy
	if s.Kind == Park {
		b.buffer = b.coder.Park(b.buffer)
	} else {
		b.buffer = b.coder.Append(b.buffer, s.Op, s.Enable, s.Half)
	}
	if !status {
		b.pauseUntilReady()
	}
	p, wired := &b.program, b.coder.Link()
	s.First, s.Count, s.Start = len(p.Words), len(b.buffer), b.timeline.Now()
	p.Steps = append(p.Steps, s)
	for _, w := range b.buffer {
		at, marked := b.timeline.Send(w)
		p.Words, p.At = append(p.Words, marked), append(p.At, at)
		if wired.Grouping == link.PerByte {
			b.close()
		}
	}
	if wired.Grouping == link.PerOperation {
		b.close()
	}
	p.Steps[len(p.Steps)-1].Wire = b.timeline.Now() - s.Start
	if !status {
		b.readyAt = max(b.readyAt, b.lastFall()+s.Wait)
	}
}

// lastFall is when E fell for the last time.
func (b *Builder) lastFall() time.Duration {
	at := b.program.At[len(b.program.At)-1]
	if !b.coder.Expanded() {
		setup, high, _ := b.coder.Pulse()
		at += setup + high
	}
	return at
}

// pauseUntilReady makes the host wait where the words in the buffer would let E
// rise before the controllers are free. No pause fits into a transaction, so
// one that is open ends first; its STOP may already take long enough.
func (b *Builder) pauseUntilReady() {
	early := func() time.Duration { return b.readyAt - b.timeline.Now() - b.timeline.FirstRise(b.buffer) }
	if early() <= 0 {
		return
	}
	b.close()
	d := early()
	if n := len(b.program.Steps); d > 0 && n > 0 {
		b.program.Steps[n-1].Pause += d
		b.timeline.Wait(d)
	}
}

// close ends an open transaction; its STOP counts as wire time of the step
// before it.
func (b *Builder) close() {
	if !b.timeline.End() {
		return
	}
	p := &b.program
	p.Words[len(p.Words)-1] |= link.Finish
	last := &p.Steps[len(p.Steps)-1]
	last.Wire = b.timeline.Now() - last.Start
}

// Do appends an operation with the wait it needs. kind and meaning describe it.
func (b *Builder) Do(kind Kind, op hd44780.Operation, en link.Enable, meaning string) {
	b.do(Step{Kind: kind, Op: op, Enable: en, Meaning: meaning, Row: -1, Col: -1})
}

func (b *Builder) do(s Step) {
	if b.opts.Waits != PollBusy || s.Op.Kind() == hd44780.ReadStatus {
		s.Wait = b.execution(s.Op)
		b.add(s)
		return
	}
	b.add(s)
	free := b.lastFall() + hd44780.ExecutionTime(s.Op, b.module.Oscillator)
	first, last := s.Enable, s.Enable
	if s.Enable == link.Both { // one after the other: two must not drive the bus at once
		first, last = link.First, link.Second
	}
	pause := hd44780.ExecutionTime(s.Op, b.module.Oscillator) / pollsPerOperation
	for en := first; en <= last; en++ {
		for polled := false; !polled || b.sampled() < free; polled = true {
			if polled && !b.coder.Expanded() { // an expander's reads are far enough apart
				poll := &b.program.Steps[len(b.program.Steps)-1]
				poll.Wait, poll.Pause = pause, pause
				b.timeline.Wait(pause)
			}
			b.add(Step{Kind: Poll, Op: hd44780.Operation{RW: true}, Enable: en, Meaning: "Read the busy flag", Row: -1, Col: -1})
		}
	}
}

// pollsPerOperation is into how many parts of its execution time the reads of
// the busy flag divide an operation: so often a host looks, without flooding the
// wire during a clear.
const pollsPerOperation = 8

// sampled is when the last step's first pulse of E rose.
func (b *Builder) sampled() time.Duration {
	p := &b.program
	s := &p.Steps[len(p.Steps)-1]
	for i := s.First; i < s.First+s.Count; i++ {
		if b.coder.Raises(p.Words[i]) {
			if b.coder.Expanded() {
				return p.At[i]
			}
			setup, _, _ := b.coder.Pulse()
			return p.At[i] + setup
		}
	}
	return b.timeline.Now()
}

// wake appends an instruction of the initialisation that is sent while the busy
// flag cannot be read: it has a fixed wait.
func (b *Builder) wake(data byte, wait time.Duration, meaning string) {
	b.add(Step{Kind: Wake, Op: hd44780.Command(data), Half: b.coder.Width() == 4, Enable: b.all(), Meaning: meaning, Row: -1, Col: -1, Wait: wait})
}

// PowerUp appends the wait for the supply, and brings an expander's outputs to
// rest. The wait is the data sheet's for 2.7 V, since a host may start before
// its 5 V supply is up.
func (b *Builder) PowerUp() {
	b.WaitFor(hd44780.WaitAt3V, "Supply up: wait more than 40 ms")
	if b.coder.Expanded() {
		b.add(Step{Kind: Park, Enable: b.all(), Meaning: "Expander outputs to rest, E first", Row: -1, Col: -1})
	}
}

// Initialise appends the initialisation by instruction after PowerUp, data
// sheet figures 23 (8-bit) and 24 (4-bit).
func (b *Builder) Initialise() {
	wakeByte := hd44780.FuncBase | hd44780.EightBit
	b.wake(wakeByte, hd44780.WaitAfterFirst, "8-bit interface, first of three")
	b.wake(wakeByte, hd44780.WaitAfterSecond, "8-bit interface, second of three")
	b.wake(wakeByte, b.execution(hd44780.Command(wakeByte)), "8-bit interface, third of three")
	set := hd44780.FuncBase
	if b.coder.Width() == 8 {
		set |= hd44780.EightBit
	} else {
		b.wake(set, b.execution(hd44780.Command(set)), "4-bit interface from here on")
	}
	if b.module.Geometry.TwoLine {
		set |= hd44780.TwoLine
	} else if b.module.Tall {
		set |= hd44780.Tall
	}
	b.functionSet(set)
	b.setting(hd44780.DisplayOff)
	b.setting(hd44780.ClearByte)
	b.setting(hd44780.EntryBase | hd44780.Increment)
	b.setting(hd44780.DisplayOff | hd44780.DisplayOn)
}

// percent names a brightness in quarters below full.
func percent(brightness uint8) int { return 100 - 25*int(brightness&3) }

// functionSet appends the function set that fixes width and lines, and the
// brightness of a VFD where its family takes it.
func (b *Builder) functionSet(set byte) {
	dim := b.opts.Brightness & 3
	switch b.module.Family {
	case hd44780.VFDFunctionSet:
		b.setting(set | dim)
	case hd44780.VFDDataByte:
		b.setting(set)
		b.Do(Setting, hd44780.Data(dim), b.all(), fmt.Sprintf("Brightness %d %%, a data byte directly after the function set", percent(dim)))
	default:
		b.setting(set)
	}
}

func (b *Builder) setting(data byte) {
	op := hd44780.Command(data)
	b.Do(Setting, op, b.all(), b.module.Family.Explain(op))
}

// Load appends what puts glyphs into CGRAM, slot after slot. It leaves the
// address counter in CGRAM; Update sets it before every run of cells.
func (b *Builder) Load(bank glyph.Bank) {
	follows := -1 // slot at which the address counter stands
	for slot := range glyph.Slots {
		g, ok := bank.In(slot)
		if !ok {
			continue
		}
		if slot != follows {
			b.Do(Address, hd44780.Command(hd44780.CGRAMBase|byte(slot*8)), b.all(), fmt.Sprintf("CGRAM address 0x%02X: slot %d", slot*8, slot))
		}
		rows := g.Dots()
		for row := range b.module.CellRows() { // rows 9–11 of the 5×10 font stay dark
			bits := byte(0)
			if row < len(rows) {
				bits = rows[row]
			}
			b.Do(Glyph, hd44780.Data(bits), b.all(), fmt.Sprintf("Row %d of %s, slot %d", row+1, g.Title(), slot))
		}
		if !b.module.Tall {
			follows = slot + 1
		}
	}
}

// maxGap is how many unchanged cells between two changed ones are rewritten
// rather than skipped: an address instruction costs as much as a character.
const maxGap = 1

// Update appends what turns the shown cells into others. A nil shown means
// unknown: every cell is written. Each run of cells begins with its address.
func (b *Builder) Update(shown, cells []byte) {
	g := &b.module.Geometry
	for _, seg := range g.Segments {
		base := seg.Row*g.Cols + seg.Col
		next, open := 0, false // next cell of the open run
		for i := range seg.Len {
			if shown != nil && shown[base+i] == cells[base+i] {
				continue
			}
			if !open || i-next > maxGap {
				b.address(seg, i)
				next, open = i, true
			}
			for ; next <= i; next++ {
				b.character(seg, next, cells[base+next])
			}
		}
	}
}

func enableOf(seg module.Segment) link.Enable {
	if seg.Controller == 1 {
		return link.Second
	}
	return link.First
}

func (b *Builder) address(seg module.Segment, i int) {
	a := seg.Start + uint8(i)
	b.Do(Address, hd44780.Command(hd44780.DDRAMBase|a), enableOf(seg),
		fmt.Sprintf("DDRAM address 0x%02X: row %d, column %d", a, seg.Row+1, seg.Col+i+1))
}

func (b *Builder) character(seg module.Segment, i int, code byte) {
	row, col := seg.Row, seg.Col+i
	b.do(Step{Kind: Text, Op: hd44780.Data(code), Enable: enableOf(seg), Row: row, Col: col,
		Meaning: fmt.Sprintf("%s: row %d, column %d", b.name(code), row+1, col+1)})
}

// name says in words what a code shows.
func (b *Builder) name(code byte) string {
	if code == ' ' {
		return "space"
	}
	if ch, ok := b.module.ROM.Rune(code); ok {
		return "'" + string(ch) + "'"
	}
	if slot, ok := b.module.Slot(code); ok {
		if g, drawn := b.opts.Glyphs.In(slot); drawn {
			return fmt.Sprintf("glyph %s, slot %d", g.Title(), slot)
		}
		return fmt.Sprintf("glyph in slot %d", slot)
	}
	return fmt.Sprintf("code 0x%02X", code)
}
