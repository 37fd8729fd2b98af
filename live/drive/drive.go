// Package drive turns what a module is to show into records for a bridge: it keeps in mind what the real module holds by
// what was sent to it, and sends the cheapest update from there.
package drive

import (
	"context"
	"fmt"
	"reflect"
	"time"

	"slatebell/core/bench"
	"slatebell/core/part/hd44780"
	"slatebell/core/part/module"
	"slatebell/core/prove/testbed"
	"slatebell/core/ship/bridge"
	"slatebell/core/text/glyph"
	"slatebell/core/text/screen"
	"slatebell/core/wire/link"
	"slatebell/core/wire/rig"
	"slatebell/core/wire/sequence"
	"slatebell/core/wire/update"
	"slatebell/live/protocol"
	"slatebell/live/session"
)

// Module drives one module of a bench through a bridge. Make it with New.
type Module struct {
	*bridge.Module
	index   byte // in the bridge
	coder   *link.Coder
	reads   session.Reads
	glyphs  glyph.Bank // loaded last
	options sequence.Options
	builder *sequence.Builder
	costs   *update.Costs
	begun   bool
	off     bool          // the display is off
	extra   time.Duration // waited after each step that sends, beyond what it needs
}

// Picture is what a module's glass is to show.
type Picture struct {
	Cells  []byte // a code each, row by row
	Glyphs glyph.Bank
	Cursor sequence.Cursor
	Off    bool // the display is off, and keeps its text
}

// Of returns the picture that a simulated glass shows, with what its CGRAM holds.
func Of(m *module.Module, g *rig.Glass, cgram [64]byte) Picture {
	p := Picture{Cells: make([]byte, len(g.Cells)), Cursor: g.Cursor, Off: !g.On}
	for i, c := range g.Cells {
		p.Cells[i] = c.Code
	}
	size := 8 * m.SlotStep()
	for slot := 0; slot < glyph.Slots; slot += m.SlotStep() {
		var dots glyph.Pattern
		copy(dots[:], cgram[8*slot:8*slot+min(size, len(dots))])
		for i := range dots {
			dots[i] &= 0x1F
		}
		p.Glyphs = append(p.Glyphs, glyph.New(slot, "", dots))
	}
	return p
}

// Compose returns the picture of a screen that a bench has. Its error is a bench.Problem.
func Compose(b *bench.Bench, at testbed.At) (Picture, error) {
	setup, err := testbed.Of(b, at)
	if err != nil {
		return Picture{}, err
	}
	return ComposeSetup(&setup)
}

// ComposeSetup returns the picture of what a run would show.
func ComposeSetup(s *testbed.Setup) (Picture, error) {
	mod, _, err := s.Build()
	if err != nil {
		return Picture{}, err
	}
	l := screen.Compose(&mod, s.Text(), s.Sources())
	return Picture{Cells: l.Codes(), Glyphs: l.Bank, Cursor: testbed.CursorOf(s.Cursor)}, nil
}

// New returns the driver of a module, by its place in the plan. What it was set to wait for is what it waits for, but for
// the busy flag, in whose place it waits as for the slowest module: an answer would take longer than that.
func New(p *bridge.Plan, b *bench.Bench, at int) (*Module, error) {
	m := &Module{Module: &p.Modules[at], index: byte(at), reads: isRead(p)}
	doc := &b.Modules[m.At]
	m.options = sequence.Options{Waits: sequence.Waits(doc.Link.Waits), Brightness: uint8(doc.Display.Supply.Brightness)}
	if m.options.Waits == sequence.PollBusy {
		m.options.Waits = sequence.WorstCase
	}
	var err error
	if m.coder, err = link.NewCoder(m.Link); err == nil {
		err = m.anew()
	}
	if err != nil {
		return nil, bench.ProblemOf(fmt.Sprintf("/modules/%d/link", m.At), err)
	}
	m.costs = m.builder.Costs()
	return m, nil
}

// all is the enable that reaches every controller.
func (m *Module) all() link.Enable {
	if m.Link.Enables == 2 {
		return link.Both
	}
	return link.First
}

// anew forgets what the module holds.
func (m *Module) anew() (err error) {
	m.off, m.glyphs = false, nil
	m.builder, err = sequence.NewBuilder(m.Display, m.Link, m.options)
	if err == nil && m.costs != nil {
		m.builder.Measured(m.costs)
	}
	return err
}

// Slowly lets the host wait so much more after each byte, until it is told otherwise: what then shows is no matter of waits.
func (m *Module) Slowly(extra time.Duration) { m.extra = extra }

// Lost takes it that nothing is known of the module any more: it is initialised before anything else is sent.
func (m *Module) Lost() { m.begun = false }

// Show returns what brings a picture onto the glass: the cheapest update of what it is taken to show, with the
// initialisation before it where nothing is known. Nothing where the glass shows it already.
func (m *Module) Show(p *Picture) ([]protocol.Record, error) {
	if len(p.Cells) != m.Display.Geometry.Cells() {
		return nil, fmt.Errorf("a picture of %d cells for a glass of %d", len(p.Cells), m.Display.Geometry.Cells())
	}
	if !m.begun {
		if err := m.anew(); err != nil {
			return nil, err
		}
		m.builder.PowerUp()
		m.builder.Initialise()
		m.begun = true
	} else {
		m.builder.Restart()
	}
	if p.Off {
		m.builder.Do(sequence.Setting, hd44780.Command(hd44780.DisplayOff), m.all(), "")
		m.off = true
		return m.cut(m.builder.Program()), nil
	}
	m.glyphs = p.Glyphs
	m.builder.Update(p.Cells, p.Glyphs, p.Cursor, update.Allowed{})
	if m.off {
		m.builder.Do(sequence.Setting, hd44780.Command(p.Cursor.Control()), m.all(), "")
		m.off = false
	}
	m.builder.Leave(p.Cursor)
	return m.cut(m.builder.Program()), nil
}

// Do returns what carries operations out as they were given by hand, on a module that was initialised before.
func (m *Module) Do(live []sequence.Aimed) ([]protocol.Record, error) {
	if !m.begun {
		return nil, fmt.Errorf("%s was not initialised yet", m.Name)
	}
	m.builder.Restart()
	for _, a := range live {
		if a.Op.RW && !m.Reads {
			return nil, fmt.Errorf("%s cannot be read: %s", m.Name, m.Why)
		}
		if err := m.builder.ByHand(a); err != nil {
			return nil, err
		}
	}
	return m.cut(m.builder.Program()), nil
}

// Alike reports whether another driver is for a module that is the same and joined in the same way.
func (m *Module) Alike(o *Module) bool {
	return m.index == o.index && reflect.DeepEqual(*m.Module, *o.Module) && reflect.DeepEqual(m.options, o.options)
}

// Exchange carries operations out over a line, and returns what they read: a byte each.
func (m *Module) Exchange(ctx context.Context, line *session.Session, ops []sequence.Aimed) ([]byte, error) {
	records, err := m.Do(ops)
	if err != nil {
		return nil, err
	}
	got, err := line.Do(ctx, records, m.reads)
	if err != nil {
		return nil, err
	}
	return m.Bytes(got)
}

// Bare returns the records of one operation without what is to pass after it, on a module that was initialised before.
func (m *Module) Bare(op sequence.Aimed) ([]protocol.Record, error) {
	if _, err := m.Do([]sequence.Aimed{op}); err != nil {
		return nil, err
	}
	return m.words(nil, m.builder.Program().Words), nil
}

// Light returns what switches the backlight, where the link can, on a module that was initialised before; the next word of the link
// gives it its own level again.
func (m *Module) Light(on bool) ([]protocol.Record, error) {
	if !m.Link.SwitchesLight() {
		return nil, fmt.Errorf("the light of %s is not switched by its link: it is lit while it is fed", m.Name)
	}
	var lit link.Pins
	if on {
		lit = link.Backlight
	}
	return m.Do([]sequence.Aimed{{Op: hd44780.Operation{Byte: m.Link.Mapping.Byte(lit)}, Raw: true}})
}

// Held is what a controller holds by what it was sent: its state, and which places of its DDRAM, by index, are known.
func (m *Module) Held(controller int) (s *hd44780.State, known []bool) {
	return m.builder.Held(controller)
}

// Loaded are the glyphs that were loaded last.
func (m *Module) Loaded() glyph.Bank { return m.glyphs }

// longestWait is the longest that one record waits.
const longestWait = 60 * time.Millisecond

// cut cuts a program into records.
func (m *Module) cut(p *sequence.Program) (out []protocol.Record) {
	wait := func(d time.Duration) {
		for ; d > 0; d -= longestWait {
			us := (min(d, longestWait) + time.Microsecond - 1) / time.Microsecond
			out = append(out, protocol.Record{Op: protocol.OpWait, Micros: uint16(us)})
		}
	}
	for i := range p.Steps {
		s := &p.Steps[i]
		out = m.words(out, p.Words[s.First:s.First+s.Count])
		switch {
		case s.Kind == sequence.Wait, m.Link.Kind == link.Backpack && i < len(p.Steps)-1:
			wait(s.Pause)
		default: // a host may be faster than was planned, and what comes next begins at any time
			wait(s.Wait)
		}
		if s.Count > 0 {
			wait(m.extra)
		}
	}
	return out
}

// words appends the records of a step's words. Those of one step are carried out together, so that no E is left high where
// something fails between.
func (m *Module) words(out []protocol.Record, words []link.Word) []protocol.Record {
	if m.Link.Kind == link.Backpack {
		return m.transfer(out, words)
	}
	for _, w := range words {
		r := protocol.Record{Op: protocol.OpPulse, Module: m.index, Word: uint16(w)}
		if m.Link.Kind == link.ShiftReg {
			r = protocol.Record{Op: protocol.OpLatch, Module: m.index, Word: uint16(w &^ link.Marks)}
		}
		out = append(out, r)
	}
	return out
}

// transfer appends words of the bus to the transaction that is open, where they are of it and it has room, or begins another.
func (m *Module) transfer(out []protocol.Record, words []link.Word) []protocol.Record {
	for i, w := range words {
		var open *protocol.Record
		if n := len(out) - 1; n >= 0 && out[n].Op == protocol.OpWrite {
			open = &out[n]
		}
		switch {
		case w&link.Read != 0:
			if open != nil {
				open.Hold = true
			}
			out = append(out, protocol.Record{Op: protocol.OpRead, Address: m.Link.Address, Count: 1, Joins: i > 0})
		case open != nil && w&link.Begin == 0 && (i > 0 || !open.Joins && len(open.Data)+len(words) <= protocol.MostData):
			open.Data = append(open.Data, byte(w))
		default:
			out = append(out, protocol.Record{Op: protocol.OpWrite, Address: m.Link.Address, Data: []byte{byte(w)}, Joins: i > 0})
		}
	}
	return out
}

// IsRead reports whether a pulse of a module of its plan reads, for session.Do.
func (m *Module) IsRead(r *protocol.Record) bool { return m.reads(r) }

// Raises reports whether a word of the link puts an enable high.
func (m *Module) Raises(w link.Word) bool { return m.coder.Raises(w) }

// isRead reports whether a pulse of any module of a plan reads.
func isRead(p *bridge.Plan) session.Reads {
	return func(r *protocol.Record) bool {
		return r.Op == protocol.OpPulse && int(r.Module) < len(p.Modules) && p.Modules[r.Module].Link.Reads(link.Word(r.Word))
	}
}

// Bytes puts together what a bridge has read: on four lines two nibbles, the high one first.
func (m *Module) Bytes(results []byte) ([]byte, error) {
	if m.Link.Width() == 8 {
		return results, nil
	}
	if len(results)%2 != 0 {
		return nil, fmt.Errorf("half a byte came back")
	}
	nibble := func(b byte) byte { return b & 0xF0 }
	if m.coder.Expanded() {
		nibble = func(b byte) byte { return byte(m.coder.Levels(link.Word(b))) & 0xF0 }
	}
	out := make([]byte, len(results)/2)
	for i := range out {
		out[i] = nibble(results[2*i]) | nibble(results[2*i+1])>>4
	}
	return out, nil
}
