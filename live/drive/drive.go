// Package drive turns what a module is to show into records for a bridge: it keeps in mind what the real module holds by
// what was sent to it, and sends the cheapest update from there.
package drive

import (
	"fmt"
	"reflect"
	"slices"
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
)

// Module drives one module of a bench through a bridge. Make it with New.
type Module struct {
	*bridge.Module
	index   byte // in the bridge
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
	m := &Module{Module: &p.Modules[at], index: byte(at)}
	doc := &b.Modules[m.At]
	m.options = sequence.Options{Waits: sequence.Waits(doc.Link.Waits), Brightness: uint8(doc.Display.Supply.Brightness)}
	if m.options.Waits == sequence.PollBusy {
		m.options.Waits = sequence.WorstCase
	}
	if err := m.anew(); err != nil {
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
	m.off = false
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

// Answers is what operations given by hand have read, by what the bridge returned: a byte each.
func (m *Module) Answers(results []byte) ([]byte, error) { return m.bytesOf(results) }

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

// IsRead reports whether a pulse of any module of a plan reads, for session.Do.
func IsRead(p *bridge.Plan) func(*protocol.Record) bool {
	return func(r *protocol.Record) bool {
		return r.Op == protocol.OpPulse && int(r.Module) < len(p.Modules) && p.Modules[r.Module].Link.Reads(link.Word(r.Word))
	}
}

// Memory is what a module holds by its own word.
type Memory struct {
	DDRAM [][]byte // of each controller, by index: 80 bytes, or 40 and 40
	CGRAM [][]byte // of each controller, 64 bytes
}

// ReadMemory returns what makes a module tell its memory: the address counter is set before each part, and left unknown.
// parse makes sense of what it answers.
func (m *Module) ReadMemory() (records []protocol.Record, parse func(results []byte) (*Memory, error), err error) {
	if !m.Reads {
		return nil, nil, fmt.Errorf("%s cannot be read: %s", m.Name, m.Why)
	}
	if !m.begun {
		return nil, nil, fmt.Errorf("%s was not initialised yet", m.Name)
	}
	var ops []sequence.Aimed
	enables := []link.Enable{link.First, link.Second}[:m.Display.Geometry.Controllers]
	lines := m.lines()
	data := hd44780.Operation{RS: true, RW: true}
	for _, en := range enables {
		for _, l := range lines {
			ops = append(ops, sequence.Aimed{Op: hd44780.Command(hd44780.DDRAMBase | l.start), Enable: en})
			ops = append(ops, slices.Repeat([]sequence.Aimed{{Op: data, Enable: en}}, l.cells)...)
		}
		ops = append(ops, sequence.Aimed{Op: hd44780.Command(hd44780.CGRAMBase), Enable: en})
		ops = append(ops, slices.Repeat([]sequence.Aimed{{Op: data, Enable: en}}, 64)...)
	}
	if records, err = m.Do(ops); err != nil {
		return nil, nil, err
	}
	return records, func(results []byte) (*Memory, error) {
		bytes, err := m.bytesOf(results)
		if err != nil {
			return nil, err
		}
		out := &Memory{}
		for range enables {
			var ddram []byte
			for _, l := range lines {
				if len(bytes) < l.cells {
					return nil, fmt.Errorf("%d bytes came back; expected more", len(bytes))
				}
				ddram, bytes = append(ddram, bytes[:l.cells]...), bytes[l.cells:]
			}
			if len(bytes) < 64 {
				return nil, fmt.Errorf("%d bytes of CGRAM came back; expected 64", len(bytes))
			}
			out.DDRAM, out.CGRAM, bytes = append(out.DDRAM, ddram), append(out.CGRAM, bytes[:64]), bytes[64:]
		}
		return out, nil
	}, nil
}

// line is a run of DDRAM.
type line struct {
	start byte
	cells int
}

// lines are the runs of a controller's DDRAM (data sheet ADE-207-272(Z), "Display data RAM").
func (m *Module) lines() []line {
	if m.Display.Geometry.TwoLine {
		return []line{{0x00, 40}, {0x40, 40}}
	}
	return []line{{0x00, 80}}
}

// bytesOf puts what was read together: on four lines two nibbles, the high one first.
func (m *Module) bytesOf(results []byte) ([]byte, error) {
	if m.Link.Width() == 8 {
		return results, nil
	}
	if len(results)%2 != 0 {
		return nil, fmt.Errorf("half a byte came back")
	}
	coder, err := link.NewCoder(m.Link)
	if err != nil {
		return nil, err
	}
	nibble := func(b byte) byte { return b & 0xF0 }
	if coder.Expanded() {
		nibble = func(b byte) byte { return byte(coder.Levels(link.Word(b))) & 0xF0 }
	}
	out := make([]byte, len(results)/2)
	for i := range out {
		out[i] = nibble(results[2*i]) | nibble(results[2*i+1])>>4
	}
	return out, nil
}

// Window is what of the memory stands in a module's window while the glass is not shifted: row by row, a code a cell.
func (r *Memory) Window(m *module.Module) [][]byte {
	g := &m.Geometry
	out := make([][]byte, g.Rows)
	for row := range out {
		out[row] = make([]byte, g.Cols)
		for col := range out[row] {
			controller, addr, ok := g.Locate(row, col)
			at := int(addr)
			if g.TwoLine && addr >= 0x40 {
				at = 40 + int(addr) - 0x40
			}
			if ok && controller < len(r.DDRAM) && at < len(r.DDRAM[controller]) {
				out[row][col] = r.DDRAM[controller][at]
			}
		}
	}
	return out
}
