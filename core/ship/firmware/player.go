package firmware

import (
	"fmt"
	"time"

	"slatebell/core/part/hd44780"
	"slatebell/core/text/glyph"
	"slatebell/core/wire/link"
	"slatebell/core/wire/sequence"
	"slatebell/core/wire/update"
)

// Player does what the exported program does for one module, call by call, and keeps the
// steps it sends. Make it with NewPlayer.
type Player struct {
	module  *Module
	builder *sequence.Builder
	values  []Told
	screen  int // that is shown; Blank, or unknown before Begin
	shadow  []byte
	held    [glyph.Slots]int // glyphs in the slots, counted from 1; 0: not known
	at      [2]int           // where the address counters stand; nowhere where that is not known
	want    [2]int           // where the next character goes
	enable  link.Enable
	last    update.Class // of the last operation
	dark    bool         // all dots are off
	shifted int          // by how many cells the glass is shifted to the left
}

const nowhere = -1

// NewPlayer returns a player of a module that has sent nothing yet.
func NewPlayer(m *Module) (*Player, error) {
	b, err := sequence.NewBuilder(m.Display, m.Link, m.options)
	if err != nil {
		return nil, fmt.Errorf("player: %w", err)
	}
	return &Player{module: m, builder: b, values: m.Starts(), screen: nowhere, shadow: make([]byte, m.Shadow)}, nil
}

// Program ends what the player sent so far and returns it; times count from power-up.
func (p *Player) Program() *sequence.Program { return p.builder.Program() }

// Forget lets Program begin with what is sent from now on; its times count on.
func (p *Player) Forget() { p.builder.Forget() }

// Screen is the screen that is shown: Blank, or -1 before Begin.
func (p *Player) Screen() int { return p.screen }

// Done is when the controllers are free and the wire is still.
func (p *Player) Done() time.Duration { return p.builder.Done() }

// Sent is how many steps were sent.
func (p *Player) Sent() int { return p.builder.Sent() }

// Idle lets the host wait up to a time, counted from power-up.
func (p *Player) Idle(until time.Duration) {
	if d := until - p.builder.Now(); d > 0 {
		p.builder.WaitFor(d, "Nothing to do")
	}
}

// Dots switches all dots off, or on again; the text stays.
func (p *Player) Dots(on bool) {
	p.dark = !on
	p.enable = p.module.all()
	p.instruct(hd44780.DisplayOff | hd44780.DisplayOn)
	if on && p.screen >= 0 && p.screen < p.module.Blank() {
		c := p.module.Screens[p.screen].Cursor
		if controller, _, ok := p.module.Display.Geometry.Locate(c.Row, c.Col); ok && (c.Line || c.Block) {
			p.enable = link.Enable(controller)
			p.instruct(c.Control())
		}
	}
	p.builder.Settle()
}

// turns is after how many shifts a glass looks as before: lines of 80 or of 40 characters.
func (m *Module) turns() int {
	if m.Display.Geometry.TwoLine {
		return 40
	}
	return 80
}

// Shift shifts the whole glass by a cell at a time, until it is shifted by so many to the
// left, or with right to the right; 0 brings it home at once.
func (p *Player) Shift(by int, right bool) {
	turns := p.module.turns()
	op, want := byte(hd44780.ShiftBase|hd44780.ShiftGlass), (by%turns+turns)%turns
	if right {
		op, want = op|hd44780.ShiftRight, (turns-want)%turns
	}
	if want == p.shifted {
		return
	}
	p.enable = p.module.all()
	if want == 0 && by == 0 {
		p.instruct(hd44780.HomeByte)
		p.shifted = 0
		p.restore()
		return
	}
	for p.shifted != want {
		p.instruct(op)
		if right {
			p.shifted = (p.shifted + turns - 1) % turns
		} else {
			p.shifted = (p.shifted + 1) % turns
		}
	}
	p.builder.Settle()
}

// restore puts the cursor back, and ends a call.
func (p *Player) restore() {
	if p.screen >= 0 && p.screen < p.module.Blank() {
		p.cursor()
	}
	p.builder.Settle()
}

// Redraw lets a slot hold another glyph, by its number.
func (p *Player) Redraw(slot, number int) {
	p.load([]Load{{slot, number}})
	p.restore()
}

// Dark reports whether the dots are off.
func (p *Player) Dark() bool { return p.dark }

// Shows is what the glass is to show, row by row; nil before Begin.
func (p *Player) Shows() []byte {
	if p.screen < 0 {
		return nil
	}
	if p.screen == p.module.Blank() {
		blank := make([]byte, p.module.Display.Geometry.Cells())
		for i := range blank {
			blank[i] = ' '
		}
		return blank
	}
	return p.module.Shows(p.screen, p.values)
}

// Begin waits for the supply, initialises the module, and loads the glyphs that have
// slots of their own.
func (p *Player) Begin() {
	m := p.module
	p.builder.PowerUp()
	p.builder.Initialise()
	p.held, p.at, p.last, p.dark = [glyph.Slots]int{}, [2]int{}, update.Instruction, false
	p.load(m.Begun)
	p.screen = m.Blank()
	p.builder.Settle()
}

// load puts glyphs into the slots that do not hold them.
func (p *Player) load(loads []Load) {
	var bank glyph.Bank
	for _, l := range loads {
		if p.held[l.Slot] != l.Glyph+1 {
			p.held[l.Slot] = l.Glyph + 1
			bank = append(bank, glyph.New(l.Slot, "", p.module.Glyphs[l.Glyph]))
		}
	}
	if len(bank) > 0 {
		p.builder.Load(bank)
		p.at, p.last = [2]int{nowhere, nowhere}, update.Data
	}
}

// Show turns what is shown into a screen. It does nothing before Begin.
func (p *Player) Show(screen int) {
	m := p.module
	if p.screen < 0 || p.screen == screen {
		return
	}
	for i := range m.Places {
		if pl := &m.Places[i]; pl.Screen == screen && pl.Value >= 0 {
			copy(p.shadow[pl.Offset:], m.Text(pl, p.values[pl.Value]))
		}
	}
	p.load(m.Screens[screen].Loads)
	streams := m.Transitions[p.screen]
	if streams == nil { // too many screens for a table each
		p.clear()
		streams = m.Transitions[m.Blank()]
	}
	p.enable = link.First
	p.play(streams[screen])
	p.screen = screen
	p.cursor()
	p.builder.Settle()
}

// Clear empties the glass.
func (p *Player) Clear() {
	if p.screen < 0 {
		return
	}
	p.clear()
	p.screen = p.module.Blank()
	p.builder.Settle()
}

// clear empties the glass, and switches off a cursor that a screen has.
func (p *Player) clear() {
	p.enable = p.module.all()
	p.instruct(hd44780.ClearByte)
	if p.screen < p.module.Blank() {
		if c := p.module.Screens[p.screen].Cursor; c.Line || c.Block {
			p.instruct(hd44780.DisplayOff | hd44780.DisplayOn)
		}
	}
}

// Tell gives one of the module's values, and writes it where it is shown.
func (p *Player) Tell(value int, v Told) {
	p.values[value] = v
	for i := range p.module.Places {
		if pl := &p.module.Places[i]; pl.Screen == p.screen && pl.Value == value {
			p.rewrite(pl, p.module.Text(pl, v))
		}
	}
	p.restore()
}

// Hold gives one of the module's values without writing it, for the screen that is shown
// next.
func (p *Player) Hold(value int, v Told) { p.values[value] = v }

// Move puts the cursor into a place for it, while its screen is shown.
func (p *Player) Move(place int) {
	if pl := &p.module.Places[place]; pl.Screen == p.screen {
		p.enable = link.Enable(pl.Controller)
		p.address(int(pl.Address[0]))
		p.builder.Settle()
	}
}

// cursor puts the cursor back where its screen has it.
func (p *Player) cursor() {
	c := p.module.Screens[p.screen].Cursor
	if controller, address, ok := p.module.Display.Geometry.Locate(c.Row, c.Col); ok && (c.Line || c.Block) {
		p.enable = link.Enable(controller)
		p.address(int(address))
	}
}

// rewrite writes the cells of a place that change: from the address counter on where
// that is near enough, and over cells that are right already where that is cheaper than
// an address.
func (p *Player) rewrite(pl *Place, text []byte) {
	p.enable = link.Enable(pl.Controller)
	shadow := p.shadow[pl.Offset:][:pl.Width]
	changed := func(from int) int {
		for from < len(text) && text[from] == shadow[from] {
			from++
		}
		return from
	}
	here := len(text) // the cell at the address counter
	for i, a := range pl.Address {
		if p.at[pl.Controller] == int(a) {
			here = i
		}
	}
	first := changed(here)
	if first == len(text) || first-here > p.module.Gap[p.last&1] {
		here, first = len(text), changed(0)
	}
	for range 2 { // up to the end, then from the beginning on
		for i := first; i < len(text); i = changed(i) {
			if here > i || i-here > p.module.Gap[p.last&1] || here == len(text) {
				p.address(int(pl.Address[i]))
				here = i
			}
			for ; here <= i; here++ {
				shadow[here] = text[here]
				p.aim(int(pl.Address[here]))
				p.write(text[here])
			}
		}
		first = changed(0)
	}
}

// aim says where the next character goes; where the counter stands elsewhere, write sets it.
func (p *Player) aim(address int) { p.want[p.enable&1] = address }

// address sets the address counter, unless it stands there.
func (p *Player) address(a int) {
	p.aim(a)
	if p.at[p.enable&1] != a || p.enable == link.Both {
		p.send(hd44780.Command(hd44780.DDRAMBase | byte(a)))
		p.each(func(i int) { p.at[i], p.want[i] = a, a })
	}
}

// each does something for every controller that is enabled.
func (p *Player) each(do func(i int)) {
	for i := range p.module.Display.Geometry.Controllers {
		if p.enable == link.Both || int(p.enable) == i {
			do(i)
		}
	}
}

// write sends a character, which the address counter then steps over.
func (p *Player) write(code byte) {
	if to := p.want[p.enable&1]; p.at[p.enable&1] != to {
		p.address(to)
	}
	p.send(hd44780.Data(code))
	p.each(func(i int) {
		p.at[i] = p.module.after(p.at[i])
		p.want[i] = p.at[i]
	})
}

// after is the address behind another.
func (m *Module) after(a int) int {
	switch {
	case !m.Display.Geometry.TwoLine && a == 0x4F, a == 0x67:
		return 0
	case m.Display.Geometry.TwoLine && a == 0x27:
		return 0x40
	}
	return a + 1
}

// instruct sends an instruction; while the dots are off, a cursor's looks do not switch
// them on.
func (p *Player) instruct(b byte) {
	if p.dark && b&^0x07 == hd44780.DisplayOff {
		b &^= hd44780.DisplayOn
	}
	op := hd44780.Command(b)
	p.send(op)
	if p.last == update.Long {
		p.each(func(i int) { p.at[i], p.want[i] = 0, 0 })
	}
}

func (p *Player) send(op hd44780.Operation) {
	p.last = sequence.ClassOf(op)
	kind := sequence.Setting
	if op.RS {
		kind = sequence.Text
	} else if op.Byte >= hd44780.DDRAMBase {
		kind = sequence.Address
	}
	p.builder.Do(kind, op, p.enable, "")
}

// play sends a stream.
func (p *Player) play(s Stream) {
	for i := 0; s[i] != EndMark; {
		mark := s[i]
		i++
		switch {
		case mark >= AddressMark:
			p.address(int(mark &^ AddressMark))
		case mark >= FieldMark:
			for n := range int(mark&^FieldMark) + 1 {
				p.write(p.shadow[int(s[i])+n])
			}
			i++
		case mark >= TextMark:
			for range int(mark&^TextMark) + 1 {
				p.write(s[i])
				i++
			}
		case mark >= EnableMark:
			p.enable = link.Enable(mark - EnableMark)
		default:
			p.instruct(mark)
		}
	}
}
