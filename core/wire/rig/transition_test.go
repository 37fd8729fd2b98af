package rig

import (
	"math/rand/v2"
	"testing"
	"time"

	"periph.io/x/conn/v3/physic"

	"slatebell/core/part/hd44780"
	"slatebell/core/part/module"
	"slatebell/core/text/glyph"
	"slatebell/core/wire/link"
	"slatebell/core/wire/sequence"
	"slatebell/core/wire/update"
)

// someLink makes up a link of any kind, lawful or not, for a geometry.
func someLink(r *rand.Rand, g *module.Geometry) link.Link {
	l := link.New(link.Kinds[r.IntN(4)])
	if g.Controllers == 2 && l.Expander() {
		l.Mapping.Backlight, l.Mapping.E2 = link.Open, l.Mapping.Backlight
	}
	switch l.Kind {
	case link.Backpack:
		l.Speed = []physic.Frequency{20, 100, 400}[r.IntN(3)] * physic.KiloHertz
		l.Grouping = []link.Grouping{link.PerByte, link.PerOperation, link.WholeScreen}[r.IntN(3)]
	case link.ShiftReg:
		l.Speed = []physic.Frequency{50, 500, 8000}[r.IntN(3)] * physic.KiloHertz
	default:
		l.PinTime = []time.Duration{50, 1000, 20000}[r.IntN(3)]
		l.ReadWrite = r.IntN(2) == 0
	}
	l.Setup = []link.Setup{link.SetupLawful, link.SetupBefore}[r.IntN(2)]
	return l
}

// TestCosts holds what a builder measures of any link, with any waits, against two
// things: what plans take is what their programs take to the nanosecond, and the
// costs are of the kind for which update.TestCheapest holds plans against trying
// everything: a data byte costs no less after an instruction than after another,
// an instruction no less after a data byte, and clear takes longest.
func TestCosts(t *testing.T) {
	r := rand.New(rand.NewPCG(10, 3))
	for range 300 {
		g := module.Geometries[r.IntN(len(module.Geometries))]
		m := testModule(t, g.Name)
		m.Oscillator = []physic.Frequency{190, 270, 350}[r.IntN(3)] * physic.KiloHertz
		l := someLink(r, &g)
		o := sequence.Options{Waits: []sequence.Waits{sequence.WorstCase, sequence.Typical, sequence.PollBusy}[r.IntN(3)]}
		if sequence.CheckWaits(o.Waits, l) != nil {
			o.Waits = sequence.Typical
		}
		b, err := sequence.NewBuilder(m, l, o)
		if err != nil {
			t.Fatal(err)
		}
		c := b.Costs()
		after := &c.After
		if after[update.Instruction][1] < after[update.Data][1] || after[update.Data][0] < after[update.Instruction][0] ||
			o.Waits != sequence.PollBusy && after[update.Fresh][1]-after[update.Data][1] != after[update.Fresh][0]-after[update.Instruction][0] ||
			o.Waits != sequence.PollBusy && c.Busy[update.Long] < int64(time.Millisecond) {
			// beyond 100 kHz a word for RS may spare a STOP, so that a change costs less than none
			if l.Kind != link.Backpack || l.Speed <= 100*physic.KiloHertz {
				t.Errorf("%+v, waits %s: %+v", l, o.Waits, c)
			}
		}
		before := time.Duration(0)
		class := update.Fresh
		for range 12 {
			op := []hd44780.Operation{hd44780.Command(0x80), hd44780.Data('A'), hd44780.Command(0x01), hd44780.Command(0x02)}[r.IntN(4)]
			b.Do(sequence.Live, op, link.First, "")
			finish := b.Done()
			now := update.Instruction
			if op.RS {
				now = update.Data
			} else if op.Byte < 4 {
				now = update.Long
			}
			said := c.After[class][0]
			if op.RS {
				said = c.After[class][1]
			}
			said += c.Busy[now] - c.Busy[class]
			if took := int64(finish - before); took != said {
				t.Fatalf("%s, %+v, waits %s: %+v after class %d takes %d ns, said %d", g.Name, l, o.Waits, op, class, took, said)
			}
			before, class = finish, now
		}
	}
}

// TestTransition is a property, on every geometry and link: from a known glass the
// update leaves the wanted one, whatever it may use and whatever glyphs it loads;
// nothing is written before the controller is free, no cell shows a glyph that is
// not there yet, and no plan takes longer than writing what changed.
func TestTransition(t *testing.T) {
	r := rand.New(rand.NewPCG(10, 4))
	for range 400 {
		g := module.Geometries[r.IntN(len(module.Geometries))]
		m := testModule(t, g.Name)
		l := someLink(r, &g)
		first, second := random(r, g.Cells()), random(r, g.Cells())
		var bank glyph.Bank
		if r.IntN(2) == 0 {
			slot := 1 + r.IntN(7)
			bank = glyph.Bank{glyph.New(slot, "wave", glyph.Pattern{1, 2, 4, 8, 16, 8, 4, 2})}
			second[r.IntN(len(second))] = byte(slot)
		}
		l.Enables = g.Controllers
		hardware, err := New(m, l)
		if err != nil {
			t.Fatal(err)
		}
		start, err := sequence.Compile(m, l, first, sequence.Options{Init: true})
		if err != nil {
			t.Fatal(err)
		}
		hardware.Follow(start)
		b, _ := sequence.NewBuilder(m, l, sequence.Options{})
		b.Know(first)
		b.Update(second, bank, sequence.Cursor{}, update.Allowed{Clear: r.IntN(2) == 0, Shift: r.IntN(2) == 0})
		p := b.Program()
		for i := range p.Steps {
			if s := &p.Steps[i]; s.Kind == sequence.Text && len(bank) > 0 && int(s.Op.Byte) == bank[0].Slot && !loadedBefore(p, i) {
				t.Fatalf("%s: step %d shows slot %d before it is loaded", g.Name, i+1, s.Op.Byte)
			}
		}
		hardware.Follow(p)
		mo := hardware.Moment()
		glass := mo.Glass(&m, m.UsualContrast())
		for i, c := range glass.Cells {
			if c.Code != second[i] {
				t.Fatalf("%s on %s: cell %d shows %q, want %q", g.Name, l.Kind, i, c.Code, second[i])
			}
		}
		if kept, more := hardware.Violations(); len(kept)+more > 0 && l.PinTime != 50 {
			t.Fatalf("%s on %+v: %+v", g.Name, l, kept[0])
		}
		plain, _ := sequence.NewBuilder(m, l, sequence.Options{})
		plain.Know(first)
		plain.Load(bank)
		plain.Changed(first, second)
		if other := plain.Program(); p.Finish > other.Finish {
			t.Fatalf("%s on %+v: the update takes %s, writing what changed %s", g.Name, l, p.Finish, other.Finish)
		}
	}
}

func loadedBefore(p *sequence.Program, step int) bool {
	for i := range p.Steps[:step] {
		if p.Steps[i].Kind == sequence.Glyph {
			return true
		}
	}
	return false
}
