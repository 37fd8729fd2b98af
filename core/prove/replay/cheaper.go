package replay

import (
	"fmt"
	"slices"
	"time"

	"periph.io/x/conn/v3/physic"

	"slatebell/core/finding"
	"slatebell/core/part/hd44780"
	"slatebell/core/part/module"
	"slatebell/core/say"
	"slatebell/core/text/glyph"
	"slatebell/core/wire/link"
	"slatebell/core/wire/rig"
	"slatebell/core/wire/sequence"
	"slatebell/core/wire/update"
)

// Effort is what showing some screens takes.
type Effort struct {
	Operations int
	Bytes      int           // on the bus with addresses, or into the register; transfers on bare lines
	Time       time.Duration // from the first strobe of each screen until the controller is free again, together
}

// Needless is what a recording sends that changes nothing.
type Needless struct {
	Rewritten int           // characters, onto those that stood there
	Addressed int           // addresses, where the counter stood
	Set       int           // settings that were so already
	Cleared   int           // characters that a clear took away, and that came back with the same screen
	Waits     time.Duration // beyond what link and controller need, within screens
}

// Screen is what stood on the glass when nothing came for some time.
type Screen struct {
	First, Last int           // operations that brought it
	At          time.Duration // of the last
	Recorded    Effort
	Cheapest    Effort
}

// Cheaper is how the screens of a recording would be shown by the cheapest program.
type Cheaper struct {
	Screens  []Screen // the first of them, at most
	More     int      // that are not compared
	Recorded Effort   // of all that are
	Cheapest Effort
	Needless Needless

	programs []*sequence.Program // that show them, one after the other
}

// Of what is a screen (ours): how long nothing must come after it, and how many are compared.
const (
	stillFor    = 20 * time.Millisecond
	mostScreens = 500
)

// Cheaper compares the recording with the cheapest program for the same screens on the same link, with an initialisation where the recording has one, and
// with waits that suffice for the slowest oscillator.
func (r *Replay) Cheaper() (*Cheaper, error) {
	l := r.link
	if clock := r.Clock(); clock > 0 {
		l.Speed = min(max(clock, physic.KiloHertz), 400*physic.KiloHertz)
	}
	b, err := sequence.NewBuilder(r.module, l, sequence.Options{})
	if err != nil {
		return nil, fmt.Errorf("the cheapest program: %w", err)
	}
	out := &Cheaper{}
	now := r.before(0)
	if r.Within {
		b.Know(cells(r.glassOf(&now)))
	} else {
		b.PowerUp()
		b.Initialise()
	}
	costs := b.Costs()
	c := comparison{r: r, b: b, out: out, now: now, begun: now, on: true}
	for i := range r.Operations {
		op := &r.Operations[i]
		if i > 0 && op.At-r.Operations[i-1].At >= stillFor && !r.Untimed {
			if len(out.Screens) == mostScreens {
				out.More++
			} else {
				c.screen(i)
			}
		} else if i > 0 && c.started {
			c.waits(&r.Operations[i-1], op, costs)
		}
		if c.started = c.started || r.Within || op.RS || op.Kind() == hd44780.SetDDRAM || op.Kind() == hd44780.SetCGRAM; c.started {
			c.needless(op)
		}
		repeat(&c.now.Controllers[int(op.Enable)%2], r.origin+op.At, op)
	}
	if len(r.Operations) > c.first && len(out.Screens) < mostScreens {
		c.screen(len(r.Operations))
	}
	for i := range out.Screens {
		s := &out.Screens[i]
		if r.Untimed {
			s.Recorded.Time, out.Needless.Waits = 0, 0
		}
		out.Recorded.add(s.Recorded)
		out.Cheapest.add(s.Cheapest)
	}
	return out, nil
}

func (e *Effort) add(o Effort) {
	e.Operations += o.Operations
	e.Bytes += o.Bytes
	e.Time += o.Time
}

// comparison goes through a recording's operations.
type comparison struct {
	r   *Replay
	b   *sequence.Builder
	out *Cheaper

	now   rig.Moment // before the operation that is looked at
	begun rig.Moment // when the screen began
	first int        // operation of the screen
	bytes int        // of the recording, before it
	wiped [2]bool    // a clear came in it, by controller
	on    bool       // the builder's display is

	started bool // the initialisation, whose waits and settings are never needless, is over

	shown  []byte // by the builder, row by row; nil: nothing yet
	cursor sequence.Cursor
}

// cells are the codes that a glass shows, row by row.
func cells(g rig.Glass) []byte {
	out := make([]byte, len(g.Cells))
	for i, c := range g.Cells {
		out[i] = c.Code
	}
	return out
}

// bankOf are the glyphs that cells show, as CGRAM holds them.
func bankOf(m *module.Module, c *hd44780.Controller, cells []byte) (out glyph.Bank) {
	var shown [glyph.Slots]bool
	for _, code := range cells {
		if slot, ok := m.Slot(code); ok {
			shown[slot] = true
		}
	}
	for slot, is := range shown {
		if is {
			out = append(out, glyphOf(c, slot, m.CellRows()))
		}
	}
	return out
}

// glyphOf is what CGRAM holds in a slot, with so many rows of it.
func glyphOf(c *hd44780.Controller, slot, rows int) glyph.Glyph {
	var p glyph.Pattern
	for row := range rows {
		if at := slot*glyph.Rows + row; at < len(c.CGRAM) {
			p[row] = c.CGRAM[at] & 0x1F
		}
	}
	return glyph.New(slot, fmt.Sprintf("glyph %d", slot), p)
}

// screen ends one before an operation, and lets the builder show it.
func (c *comparison) screen(next int) {
	r, b := c.r, c.b
	last := &r.Operations[next-1]
	s := Screen{First: c.first, Last: next - 1, At: last.At}
	busy := hd44780.ExecutionTime(last.Operation, r.module.Oscillator)
	s.Recorded = Effort{next - c.first, last.Bytes - c.bytes, last.At - r.Operations[c.first].At + busy}
	g := r.glassOf(&c.now)
	shown := cells(g)
	if glyphs := c.fresh(shown); g.On && (!slices.Equal(shown, c.shown) || len(glyphs) > 0 || g.Cursor != c.cursor) {
		b.Update(shown, glyphs, g.Cursor, update.Allowed{Clear: true, Shift: true})
		b.Leave(g.Cursor)
		c.shown, c.cursor = shown, g.Cursor
	}
	switch {
	case g.On && !c.on:
		b.Do(sequence.Setting, hd44780.Command(g.Cursor.Control()), link.First, "")
	case !g.On && c.on:
		b.Do(sequence.Setting, hd44780.Command(hd44780.DisplayOff), link.First, "")
	}
	c.on = g.On
	program := *b.Program()
	s.Cheapest = effortOf(&program, len(c.out.programs) == 0 && !r.Within)
	c.out.programs = append(c.out.programs, &program)
	b.Restart()
	c.out.Screens = append(c.out.Screens, s)
	if c.wiped[0] || c.wiped[1] {
		before := cells(r.glassOf(&c.begun))
		for i, code := range shown {
			if code == before[i] && code != ' ' {
				c.out.Needless.Cleared++
			}
		}
	}
	c.begun, c.first, c.bytes, c.wiped = c.now, next, last.Bytes, [2]bool{}
}

// effortOf is what a program takes; the first waits for the supply, which does not count.
func effortOf(p *sequence.Program, first bool) Effort {
	e := Effort{Bytes: len(p.Words), Time: p.Finish}
	for i := range p.Steps {
		if p.Steps[i].Sends() {
			e.Operations++
		}
	}
	if p.Coder.Link().Kind == link.Backpack {
		e.Bytes += p.Transactions
	}
	if first {
		e.Time -= hd44780.WaitAt3V
	}
	return e
}

// fresh are the glyphs of cells that the builder has not loaded.
func (c *comparison) fresh(cells []byte) (out glyph.Bank) {
	held, _ := c.b.Held(0)
	for _, g := range bankOf(&c.r.module, &c.now.Controllers[0], cells) {
		p := g.Pattern()
		for row := range c.r.module.CellRows() {
			if at := g.Slot*glyph.Rows + row; at < len(held.CGRAM) && held.CGRAM[at]&0x1F != p[row] {
				out = append(out, g)
				break
			}
		}
	}
	return out
}

// waits counts what lies between two operations beyond what link and controller need.
func (c *comparison) waits(before, op *Operation, costs *update.Costs) {
	class, kind := sequence.ClassOf(before.Operation), 0
	if op.RS {
		kind = 1
	}
	if more := op.At - before.At - time.Duration(costs.After[class][kind]); more > 0 && !op.RW && !before.RW {
		c.out.Needless.Waits += more
	}
}

// needless counts what changes nothing.
func (c *comparison) needless(op *Operation) {
	n, controller := &c.out.Needless, &c.now.Controllers[int(op.Enable)%2]
	switch op.Kind() {
	case hd44780.Clear:
		c.wiped[int(op.Enable)%2] = true
	case hd44780.WriteData:
		if i, ok := controller.Index(controller.AC); ok && !controller.InCGRAM && controller.DDRAM[i] == op.Byte && !c.wiped[int(op.Enable)%2] {
			n.Rewritten++
		}
	case hd44780.SetDDRAM:
		if !controller.InCGRAM && controller.AC == op.Byte&0x7F {
			n.Addressed++
		}
	case hd44780.DisplayControl:
		was := sequence.Cursor{Line: controller.CursorOn, Block: controller.BlinkOn}.Control()
		if !controller.DisplayOn {
			was = hd44780.DisplayOff
		}
		if op.Byte == was {
			n.Set++
		}
	case hd44780.EntryMode:
		if controller.Decrement == (op.Byte&hd44780.Increment == 0) && controller.AutoShift == (op.Byte&hd44780.AutoShift != 0) {
			n.Set++
		}
	}
}

// PerSecond is how often a second screens like those can follow each other; 0 where they take no time.
func (e Effort) PerSecond(screens int) float64 {
	if e.Time <= 0 {
		return 0
	}
	return float64(screens) / e.Time.Seconds()
}

// Finding says how the recording stands beside the cheapest program; nothing where it is about as good.
func (c *Cheaper) Finding() []finding.Finding {
	n := len(c.Screens)
	if n == 0 || c.Recorded.Time*10 <= c.Cheapest.Time*11 && c.Recorded.Bytes*10 <= c.Cheapest.Bytes*11 {
		return nil
	}
	took := " and " + rig.Duration(c.Recorded.Time)
	if c.Recorded.Time == 0 { // nobody knows
		took = ""
	}
	return []finding.Finding{{
		Code: "capture.cheaper", Severity: finding.Note,
		What: fmt.Sprintf("%d %s took %d bytes%s; the cheapest program for the same sends %d bytes in %s.", n, say.Plural(n, "screen"), c.Recorded.Bytes, took, c.Cheapest.Bytes, rig.Duration(c.Cheapest.Time)),
		Fix:  "Write the cells that change and nothing else, and wait no longer than the controller needs.",
	}}
}
