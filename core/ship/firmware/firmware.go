// Package firmware is what the program on a host holds of a bench: for each module its
// initialisation, the changes between its screens as streams of operations, its glyphs
// and when they are loaded, its fields and how they are written. It is the same for
// every language that the program is written in.
//
// It stands above transition, whose strategies it lays down in tables; codegen writes it
// out. A Player does what the program does, call by call, so that the bytes of the one
// can be held against those of the other, and played into the rig before anything is
// handed over.
package firmware

import (
	"cmp"
	"fmt"
	"slices"
	"time"

	"slatebell/core/bench"
	"slatebell/core/bench/show"
	"slatebell/core/part/hd44780"
	"slatebell/core/part/host"
	"slatebell/core/part/module"
	"slatebell/core/prove/testbed"
	"slatebell/core/prove/transition"
	"slatebell/core/text/glyph"
	"slatebell/core/wire/link"
	"slatebell/core/wire/sequence"
	"slatebell/core/wire/update"
)

// Image is what a program holds for modules of a bench.
type Image struct {
	Name     string // of the bench
	Host     host.Board
	BusHz    int    // clock of the bus
	SDA, SCL string // the host's pins of the bus
	Modules  []Module
	Parts    []bench.OwnPart // on the host's pins beside the modules, of which a program knows nothing
}

// Module is one module.
type Module struct {
	At          int    // in the bench
	ID, Name    string // of the document
	Display     module.Module
	Link        link.Link
	Pins        map[string]string // of the host, by line
	Polls       bool              // it waits for the busy flag
	Pauses      Pauses
	Function    byte            // the function set, once the interface has its width
	Setting     Stream          // what follows it
	Glyphs      []glyph.Pattern // all that are ever loaded
	Begun       []Load          // of these, what begin loads
	Held        bool            // others are loaded as screens need them
	Screens     []Screen
	Transitions [][]Stream // [from][to]; from is len(Screens) for a blank glass; nil where the glass is cleared first
	Places      []Place
	Values      []Value
	Show        *show.Show
	Joints      []Joint  // of each input of its show
	Staged      bool     // it has scenes
	Effects     []Effect // of each scene
	Feeds       []Feed
	Edited      []int  // of each field that the show edits, the value
	Shadow      int    // cells that the program keeps in mind: those of the fields of a screen
	Gap         [2]int // cells that are written again rather than passed over by an address: after an instruction, after data

	options sequence.Options
	costs   *update.Costs
}

// Screen is one screen.
type Screen struct {
	At       int // in the module
	ID, Name string
	Loads    []Load // glyphs that it shows and begin does not load
	Cursor   sequence.Cursor
	fixed    []byte // without its fields
	owner    []int  // for each cell the place, counted from 1, that writes it
}

// Load is a glyph, by its number, that goes into a slot.
type Load struct{ Slot, Glyph int }

// Blank stands for a glass that shows spaces only, in place of a screen.
func (m *Module) Blank() int { return len(m.Screens) }

// Pauses is what a host waits between two operations on the wire: by the class of the
// first (instruction, data, long) and whether the second is data. 0 means that the
// wire takes long enough; otherwise a transaction that is open ends first.
type Pauses [3][2]time.Duration

// Simple reports whether it matters only whether the first takes long.
func (p *Pauses) Simple() bool {
	return p[0] == p[1] && p[0][0] == p[0][1] && p[2][0] == p[2][1]
}

// MaxScreens is up to how many screens a module has a table for every change; with more
// each change begins with a clear.
const MaxScreens = 20

// Bare is the image of a bench's host alone: its pins of the bus and its clock.
func Bare(b *bench.Bench) *Image {
	im := &Image{Name: b.Name, Host: b.Host.Board(), BusHz: cmp.Or(b.Bus.SpeedHz, bench.UsualBusHz), Parts: b.Parts}
	im.SDA, im.SCL = im.Host.Canonical(cmp.Or(b.Bus.SDA, im.Host.SDA)), im.Host.Canonical(cmp.Or(b.Bus.SCL, im.Host.SCL))
	return im
}

// New makes the image of some modules of a bench, all of them where none is named. Its
// error is a bench.Problem where one cannot be run, or shows more glyphs than CGRAM holds.
func New(b *bench.Bench, modules ...int) (*Image, error) {
	if len(modules) == 0 {
		for i := range b.Modules {
			modules = append(modules, i)
		}
	}
	b, err := staged(b, modules)
	if err != nil {
		return nil, err
	}
	im := Bare(b)
	for _, at := range modules {
		m, err := newModule(b, at)
		if err != nil {
			return nil, err
		}
		im.Modules = append(im.Modules, *m)
	}
	return im, nil
}

func newModule(b *bench.Bench, at int) (*Module, error) {
	first, err := testbed.Of(b, testbed.At{Module: at})
	if err != nil {
		return nil, err
	}
	doc := &b.Modules[at]
	m := &Module{At: at, ID: doc.ID, Name: doc.Name, Pins: doc.Link.Pins}
	if m.Display, m.Link, err = first.Build(); err != nil {
		return nil, err
	}
	m.Link.Enables = m.Display.Geometry.Controllers
	m.options = sequence.Options{Waits: sequence.Waits(doc.Link.Waits), Brightness: uint8(doc.Display.Supply.Brightness)}
	m.Polls = m.options.Waits == sequence.PollBusy
	builder, err := sequence.NewBuilder(m.Display, m.Link, m.options)
	if err != nil {
		return nil, bench.ProblemOf(fmt.Sprintf("/modules/%d/link", at), err)
	}
	m.costs = builder.Costs()
	m.Gap = [2]int{m.costs.Reach(update.Instruction), m.costs.Reach(update.Data)}
	if err := m.measurePauses(); err != nil {
		return nil, err
	}
	builder.Initialise()
	setting := settings(builder.Program())
	m.Function = setting.Steps[0].Op.Byte
	setting.Steps = setting.Steps[1:]
	m.Setting = m.stream(setting, nil)
	banks, err := m.glyphs(b)
	if err != nil {
		return nil, err
	}
	if err := m.screens(b, banks); err != nil {
		return nil, err
	}
	if err := m.stage(doc); err != nil {
		return nil, err
	}
	board := b.Host.Board()
	m.Joints = joints(b, m.At, &board)
	if err := m.effects(doc, b.Glyphs, banks); err != nil {
		return nil, err
	}
	return m, m.transitions(transition.Strategy(doc.Changes))
}

// settings are the steps of an initialisation that follow once the interface has its
// width.
func settings(p *sequence.Program) *sequence.Program {
	p.Steps = slices.DeleteFunc(p.Steps, func(s sequence.Step) bool { return s.Kind != sequence.Setting })
	return p
}

// measurePauses finds out what the host waits between two operations. On parallel links
// and shift registers, whose hosts may be faster than planned, it is the whole execution.
func (m *Module) measurePauses() error {
	samples := [...]hd44780.Operation{hd44780.Command(hd44780.DDRAMBase), hd44780.Data(' '), hd44780.Command(hd44780.ClearByte)}
	if m.Polls {
		return nil
	}
	for before := range samples {
		for now := range 2 {
			b, err := sequence.NewBuilder(m.Display, m.Link, m.options)
			if err != nil {
				return err
			}
			b.Do(sequence.Setting, samples[before], link.First, "")
			b.Do(sequence.Setting, samples[now], link.First, "")
			p := b.Program()
			first, second := p.Steps[0], p.Steps[1]
			switch {
			case m.Link.Kind != link.Backpack:
				m.Pauses[before][now] = first.Wait
			case first.Pause > 0:
				m.Pauses[before][now] = first.Pause
			case p.Words[second.First]&link.Begin != 0 && m.Link.Grouping == link.WholeScreen:
				m.Pauses[before][now] = 1 // the end of the transaction takes long enough
			}
		}
		if p := &m.Pauses[before]; p[0] > 0 && p[1] > 0 { // one wait for both is simpler
			p[0], p[1] = max(p[0], p[1]), max(p[0], p[1])
		}
	}
	return nil
}

// transitions makes a stream for each change of screens.
func (m *Module) transitions(strategy transition.Strategy) error {
	if strategy == "" {
		strategy = transition.Cheapest
	}
	n := len(m.Screens)
	m.Transitions = make([][]Stream, n+1)
	for from := range n + 1 {
		if from < n && n > MaxScreens {
			continue
		}
		m.Transitions[from] = make([]Stream, n)
		for to := range n {
			if from == to {
				continue
			}
			s, err := m.transition(strategy, from, to)
			if err != nil {
				return err
			}
			m.Transitions[from][to] = s
		}
	}
	return nil
}

// Codes that stand for the cells of fields while a transition is planned: what a field
// shows is not known then, so that its cells are written.
const (
	wasField = '$'
	isField  = '#'
)

// transition is the change from one screen to another.
func (m *Module) transition(strategy transition.Strategy, from, to int) (Stream, error) {
	b, err := sequence.NewBuilder(m.Display, m.Link, m.options)
	if err != nil {
		return nil, err
	}
	b.Measured(m.costs)
	next := &m.Screens[to]
	before, after := slices.Repeat([]byte{' '}, len(next.fixed)), slices.Clone(next.fixed)
	var unsure []int
	if from < len(m.Screens) {
		copy(before, m.Screens[from].fixed)
		for i, place := range m.Screens[from].owner {
			if place > 0 {
				before[i] = wasField
				unsure = append(unsure, i)
			}
		}
	}
	for i, place := range next.owner {
		if place > 0 {
			after[i] = isField
			unsure = append(unsure, i)
		}
	}
	b.Know(before)
	b.Unsure(unsure)
	switch {
	case from < len(m.Screens):
		b.Stands(m.Screens[from].Cursor)
	case len(m.Glyphs) == 0: // nothing has moved the address counter since the clear
		b.Do(sequence.Setting, hd44780.Command(hd44780.ClearByte), m.all(), "")
		b.Restart()
		b.Unsure(unsure)
	}
	x := transition.Exchange{Before: before, After: after, Cursor: next.Cursor}
	if err := x.By(strategy, b); err != nil {
		return nil, bench.ProblemOf(fmt.Sprintf("/modules/%d/changes", m.At), err)
	}
	return m.stream(b.Program(), next), nil
}

// all is the enable that reaches every controller.
func (m *Module) all() link.Enable {
	if m.Display.Geometry.Controllers == 2 {
		return link.Both
	}
	return link.First
}
