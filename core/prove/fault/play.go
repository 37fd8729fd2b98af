package fault

import (
	"fmt"
	"hash/maphash"
	"slices"
	"strings"

	"slatebell/core/part/hd44780"
	"slatebell/core/part/module"
	"slatebell/core/wire/glass"
	"slatebell/core/wire/link"
	"slatebell/core/wire/rig"
	"slatebell/core/wire/sequence"
)

// player keeps what was compiled, played and seen, so that nothing is done twice.
type player struct {
	meant    map[meaning]*meant
	programs map[program]*sent
	rigs     map[rigKey]*mounted
	steps    []sequence.Step  // of what is being compiled
	room     []sequence.Step  // that it is compiled in
	scratch  link.Header      // of what is being played
	cells    []rig.ShownCell  // of what was played just now
	bytes    []byte           // of what is hashed
	plays    map[uint64]int32 // index in played by the hash of what reaches the controllers: of 64 bits, for some thousands
	played   []played
	byEnd    map[uint64]int32 // the same by the hash of how it ended
	byPlayed map[uint64]int32 // the same by its own hash
	seed     maphash.Seed
	views    map[viewKey]int32 // index in seen
	seen     []glass.View
	byView   map[uint64]int32 // index in seen by its key
}

func newPlayer() player {
	return player{
		meant: map[meaning]*meant{}, programs: map[program]*sent{}, rigs: map[rigKey]*mounted{}, plays: map[uint64]int32{}, byEnd: map[uint64]int32{}, byPlayed: map[uint64]int32{}, seed: maphash.MakeSeed(),
		views: map[viewKey]int32{}, byView: map[uint64]int32{},
	}
}

// playKey is all that reaches the controllers.
type playKey struct {
	drives  link.Drives
	inputs  register
	mapping int8
	invert  bool
	deaf    bool
	slow    bool
	lost    int32
	program program
	kept    bool // supply stayed on: a second time after the first
}

// played is what became of it.
type played struct {
	cells         []rig.ShownCell
	on, two, tall bool
	bright        uint8
	light         bool
	rest          link.Pins
}

// rigKey is what a rig is made for.
type rigKey struct {
	mapping int8
	invert  bool
	slow    bool
}

// viewKey is all that what is seen depends on.
type viewKey struct {
	play     int32
	dead     bool
	lit      bool
	rom      int8
	contrast int32 // thousandths
	vdd      int32
}

// look plays a state and returns what is seen of it, as an index into seen.
func (x *Index) look(st *state) (int32, error) {
	j := st.join(&x.header)
	return x.lookAt(st, &j, false)
}

// lookAt is look for wires that are worked out already; kept says that the supply
// stays on while the program begins anew.
func (x *Index) lookAt(st *state, j *joined, kept bool) (int32, error) {
	play, err := x.play(st, j, kept)
	if err != nil {
		return 0, err
	}
	p := &x.played[play]
	contrast := j.contrastOf(p.rest)
	key := viewKey{play: play, dead: j.dead, lit: p.light && !j.shorted, rom: st.rom, contrast: int32(contrast * 1000), vdd: j.vdd}
	if j.dead { // what the controllers hold does not matter
		key = viewKey{play: -1, dead: true, lit: j.drives.High&link.Backlight != 0}
	}
	if v, ok := x.views[key]; ok {
		return v, nil
	}
	view := x.see(st, j, p, contrast)
	k := view.Key()
	v, ok := x.byView[k]
	if !ok {
		v = int32(len(x.seen))
		x.seen = append(x.seen, view)
		x.byView[k] = v
	}
	x.views[key] = v
	return v, nil
}

// see draws what was played.
func (x *Index) see(st *state, j *joined, p *played, contrast float64) glass.View {
	m := st.real(j)
	g := rig.Glass{Cols: m.Geometry.Cols, Rows: m.Geometry.Rows, CellRows: m.CellRows(), Cells: p.cells, On: p.on, Light: p.light}
	if j.dead {
		g.On, g.Light = false, j.drives.High&link.Backlight != 0
	}
	if st.rom > 0 {
		g.Cells = redrawn(&m, p.cells)
	}
	g.Look = m.Look(contrast, hd44780.Duty(p.two, p.tall), p.bright)
	if j.dead {
		g.Look = module.Look{}
	}
	return glass.See(&g, m.Technology, make([]glass.Cell, 0, len(p.cells)))
}

// redrawn is cells drawn by another ROM; the user's glyphs stay.
func redrawn(m *module.Module, cells []rig.ShownCell) []rig.ShownCell {
	out := append([]rig.ShownCell{}, cells...)
	for i, c := range out {
		if _, own := m.ROM.Slot(c.Code); !own && c.Scanned {
			out[i].Dots = m.ROM.Dots(c.Code)
		}
	}
	return out
}

// play plays a state into the rig, unless what reaches the controllers was played before.
func (x *Index) play(st *state, j *joined, kept bool) (int32, error) {
	key := playKey{drives: j.drives, inputs: st.inputs, mapping: st.bus.mapping, invert: st.bus.inverted, deaf: st.deaf(j), slow: st.slow, lost: st.lost, program: st.program, kept: kept}
	if key.deaf || j.dead {
		key = playKey{deaf: true, drives: link.Drives{High: j.drives.High & link.Backlight, From: [link.Lines]link.Pins{link.LineBL: j.drives.From[link.LineBL]}}, mapping: st.bus.mapping, invert: st.bus.inverted}
	}
	reached := maphash.Comparable(x.seed, key)
	if at, ok := x.plays[reached]; ok {
		return at, nil
	}
	r, err := x.rig(st)
	if err != nil {
		return 0, err
	}
	made := Made{Hardware: link.Hardware{Header: &x.scratch}}
	s, err := x.send(st.program)
	if err != nil {
		return 0, err
	}
	if err := made.make(s, st, j, kept); err != nil {
		return 0, err
	}
	made.play(r.Rig)
	mo, rest := r.Moment(), s.rest
	ended := maphash.Comparable(x.seed, endingOf(&mo, rest))
	at, ok := x.byEnd[ended]
	if !ok {
		at = x.keep(x.drawn(&mo, &r.module, rest))
		x.byEnd[ended] = at
	}
	x.plays[reached] = at
	return at, nil
}

// ending is all that the glass depends on when a program has ended; what is to be seen at other times, and of what is sent next, does not count.
type ending struct {
	states [2]hd44780.State
	blinks [2]bool // the blinking block covers its character
	lit    bool
	rest   link.Pins
}

func endingOf(mo *rig.Moment, rest link.Pins) ending {
	e := ending{lit: mo.Pins&link.Backlight != 0, rest: rest}
	for i := range mo.Controllers {
		c := &mo.Controllers[i]
		s := &e.states[i]
		*s, e.blinks[i] = c.State, c.BlinkOut(mo.At)
		s.Decrement, s.AutoShift, s.FourBit, s.Low, s.High, s.BusyUntil, s.Prefetch, s.Fetched = false, false, false, false, 0, 0, 0, false
	}
	return e
}

// drawn is what a program's end shows, until the next is drawn.
func (x *Index) drawn(mo *rig.Moment, m *module.Module, rest link.Pins) played {
	g := mo.GlassIn(x.cells, m, 1)
	x.cells = g.Cells
	if !g.On { // what the memory holds is not to be seen
		for i := range g.Cells {
			g.Cells[i].Code = 0
		}
	}
	c := &mo.Controllers[0]
	return played{cells: g.Cells, on: g.On, two: c.TwoLine, tall: c.Tall, bright: c.Brightness, light: g.Light, rest: rest}
}

// keep returns the index of what was played, once for all that ended alike.
func (x *Index) keep(p played) int32 {
	x.bytes = append(x.bytes[:0], bit(p.on), bit(p.two), bit(p.tall), p.bright, bit(p.light), byte(p.rest), byte(p.rest>>8))
	for i := range p.cells {
		c := &p.cells[i]
		x.bytes = append(append(append(x.bytes, c.Code, bit(c.Scanned)), c.Dots[:]...), c.Below[:]...)
	}
	h := maphash.Bytes(x.seed, x.bytes)
	at, ok := x.byPlayed[h]
	if !ok {
		p.cells = slices.Clone(p.cells)
		at = int32(len(x.played))
		x.played = append(x.played, p)
		x.byPlayed[h] = at
	}
	return at
}

func bit(b bool) byte {
	if b {
		return 1
	}
	return 0
}

// mounted is a rig with the module in it.
type mounted struct {
	*rig.Rig
	module module.Module
}

// rig returns the rig for a state's expander and oscillator.
func (x *Index) rig(st *state) (*mounted, error) {
	key := rigKey{st.bus.mapping, st.bus.inverted, st.slow}
	if r, ok := x.rigs[key]; ok {
		return r, nil
	}
	m := x.subject.Module
	if st.slow {
		m.Oscillator = hd44780.MinOscillator
	}
	r, err := rig.New(m, st.wired())
	if err != nil {
		return nil, err
	}
	x.rigs[key] = &mounted{r, m}
	return x.rigs[key], nil
}

// wired is the link as the hardware is made.
func (st *state) wired() link.Link {
	l := st.s.Link
	if st.bus.mapping > 0 {
		l.Mapping = Mappings[st.bus.mapping-1].Mapping
	}
	l.Mapping.BacklightLow = l.Mapping.BacklightLow != st.bus.inverted
	if st.bus.address != 0 {
		l.Address = uint8(st.bus.address)
	}
	return l
}

// Made is a subject with faults made in it, ready to be played.
type Made struct {
	Module   module.Module     // as it really is
	Wired    link.Link         // as the hardware is made
	Before   *sequence.Program // sent before the program, to the module as it was switched on; nil for nothing
	Program  *sequence.Program
	Hardware link.Hardware
	Contrast float64 // VDD − VO as a part of VDD
	quiet    bool
	twice    bool
	lit      bool // not fed: its light is, all the same
	shorted  bool // the light's supply is
}

// Glass is what the module shows at a moment.
func (m *Made) Glass(mo *rig.Moment) rig.Glass {
	g := mo.Glass(&m.Module, m.Contrast)
	if m.Hardware.Dead {
		g.On, g.Light, g.Look = false, m.lit, module.Look{}
	}
	g.Light = g.Light && !m.shorted
	return g
}

// Make makes the faults of one or two ids in a subject.
func Make(s *Subject, ids ...string) (*Made, error) {
	x, err := listed(s, slices.ContainsFunc(ids, func(id string) bool { return strings.HasPrefix(id, "wire.order") }))
	if err != nil {
		return nil, err
	}
	if len(ids) == 0 || len(ids) > 2 {
		return nil, fmt.Errorf("%d faults at once; expected one or two", len(ids))
	}
	c := Case{A: -1, B: -1}
	places := [2]*int32{&c.A, &c.B}
	for n, id := range ids {
		i, ok := x.byID[id]
		if !ok {
			return nil, fmt.Errorf("fault %q is not in the catalogue of this module and link", id)
		}
		*places[n] = int32(i)
	}
	return x.Made(&c)
}

// Made makes the faults of a case, to be played outside the index.
func (x *Index) Made(c *Case) (*Made, error) {
	st := x.state(c)
	j := st.join(&x.header)
	s, err := x.compile(st.program, nil)
	if err != nil {
		return nil, err
	}
	m := &Made{}
	if err := m.make(s, &st, &j, false); err != nil {
		return nil, err
	}
	m.Module, m.Wired, m.quiet = st.real(&j), st.wired(), false
	m.Contrast = j.contrastOf(s.rest)
	m.lit, m.shorted = j.drives.High&link.Backlight != 0, j.shorted && !j.dead
	return m, nil
}

// make puts together what is played, in the header that m has, if it has one.
func (m *Made) make(s *sent, st *state, j *joined, kept bool) error {
	m.Before, m.Program, m.quiet, m.twice = s.before, s.main, true, kept
	header := m.Hardware.Header
	if header == nil {
		header = new(link.Header)
	}
	j.drives.CompileTo(header)
	m.Hardware = link.Hardware{Lost: int(st.lost), Dead: j.dead, NoAck: !j.dead && st.deaf(j), Header: header}
	if st.inputs != soundRegister {
		joined := link.Joined{Register: map[string]string{"SRCLR": link.Supply, "OE": link.Ground}}
		for in, line := range map[string]uint8{"SER": st.inputs.ser, "SRCLK": st.inputs.clock, "RCLK": st.inputs.latch} {
			if line != 0 {
				joined.Register[in] = []string{"data", "clock", "latch"}[line-1]
			}
		}
		if err := header.Shift(&joined); err != nil {
			return err
		}
	}
	return nil
}

// play plays what was made into a rig.
func (m *Made) play(r *rig.Rig) {
	r.Again(m.Hardware, m.quiet)
	if m.Before != nil {
		r.Follow(m.Before)
	}
	if m.twice {
		r.Follow(m.Program)
		r.Lose(0) // it went missing once
	}
	r.Play(m.Program, nil)
}

// deaf reports whether nothing that the program sends reaches the module's pins.
func (st *state) deaf(j *joined) bool {
	b := &st.bus
	return st.serial || st.s.Link.Kind == link.Backpack && (b.SDA || b.SCL || b.VCC || b.GND || b.swapped || b.unpulled || b.strong || b.address != 0 || st.apart)
}
