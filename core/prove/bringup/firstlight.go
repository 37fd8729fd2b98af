// Package bringup is the first power-up of a module, step by step: what to do, what the glass shows if all
// is well, and what else one may see with its causes, each computed by playing it into the rig.
//
// It stands above run.
package bringup

import (
	"fmt"
	"slices"
	"strings"

	"periph.io/x/conn/v3/physic"

	"slatebell/core/bench"
	"slatebell/core/part/i2cbus"
	"slatebell/core/part/module"
	"slatebell/core/prove/fault"
	"slatebell/core/prove/run"
	"slatebell/core/prove/testbed"
	"slatebell/core/say"
	"slatebell/core/table/breadboard"
	"slatebell/core/table/wiring"
	"slatebell/core/wire/glass"
	"slatebell/core/wire/link"
	"slatebell/core/wire/rig"
)

// Shown is a glass at one moment, at a contrast.
type Shown struct {
	Module   *module.Module
	Moment   rig.Moment
	Contrast float64
}

// Sight is something that one may see in place of what one should, and what it means.
type Sight struct {
	Says  string
	Glass *Shown // as it looks then; nil where it is not the glass that tells
	Means []Cause
}

// Cause is one thing that a sight can come from.
type Cause struct {
	Says  string
	Wires []int // numbers of the wires to look at
}

// Step is one step of a first power-up.
type Step struct {
	ID      string // within the module
	Title   string
	Do, See string
	Caution string
	Glass   []Shown // as it should look
	Else    []Sight
	Measure string // RFC 6901 pointer to where a measured value goes; "" for none
	Unit    string
	Planned float64 // what is expected of it, in its unit
	Act     fault.Act
}

// lighter makes the steps for one module.
type lighter struct {
	b     *bench.Bench
	index int
	m     *bench.Module
	setup testbed.Setup
	run   *run.Run
	table *breadboard.Table
	list  []breadboard.Item
	path  string
}

// FirstLight returns the steps of a guided power-up of a module as it is wired: each
// with what one should see, drawn by the rig at that moment, and what it means when
// one sees something else. Its error is a bench.Problem.
func FirstLight(b *bench.Bench, index int) ([]Step, error) {
	setup, err := testbed.Of(b, testbed.At{Module: index})
	if err != nil {
		return nil, err
	}
	if strings.TrimSpace(strings.Join(setup.Rows, "")) == "" {
		setup.Rows = []string{"Slate Bell"}
	}
	sound := setup
	sound.Joined = nil // what one should see
	r, err := run.Do(&sound, run.Options{})
	if err != nil {
		return nil, err
	}
	table, err := breadboard.Shown(b)
	if err != nil {
		table = breadboard.Lay(b) // there is no plan: the steps name no wires
	}
	l := &lighter{b: b, index: index, m: &b.Modules[index], setup: sound, run: r, table: table, path: fmt.Sprintf("/modules/%d", index)}
	l.list = l.table.List()
	steps := []Step{l.short(), l.supply()}
	lcd := r.Module.Technology == module.LCD
	if lcd && !r.Module.Unlit && l.m.Link.Kind != string(link.Backpack) {
		steps = append(steps, l.backlight())
	}
	if lcd {
		steps = append(steps, l.contrast(), l.blocks())
	}
	if l.m.Link.Kind == string(link.Backpack) {
		steps = append(steps, l.address())
	}
	text, err := l.text()
	return append(steps, text), err
}

func (l *lighter) shown(mo rig.Moment, contrast float64) Shown {
	return Shown{&l.run.Module, mo, contrast}
}

// of returns the full name of a pin of the module or of a part that serves it; "" where
// there is no such part.
func (l *lighter) of(role wiring.Role, pin string) string {
	if p, ok := l.table.Net.Of(l.index, role); ok {
		return p.Pin(pin)
	}
	return ""
}

// own lists the full names of pins of the module.
func (l *lighter) own(pins ...string) []string {
	for i := range pins {
		pins[i] = l.of(wiring.Itself, pins[i])
	}
	return pins
}

// pin names a pin of the module with where it lies.
func (l *lighter) pin(name string) string {
	full := l.of(wiring.Itself, name)
	if where := l.table.Where(full); where != full {
		return fmt.Sprintf("%s (%s)", name, where)
	}
	return name
}

// wires lists the numbers of the wires that meet one of some pins.
func (l *lighter) wires(pins ...string) (out []int) {
	for _, i := range l.list {
		for _, p := range pins {
			if p != "" && (i.From == p || i.To == p) {
				out = append(out, i.Number)
			}
		}
	}
	slices.Sort(out)
	return slices.Compact(out)
}

// rails lists the numbers of the wires that bring a supply to the module.
func (l *lighter) rails(nets ...string) (out []int) {
	own := l.of(wiring.Itself, "")
	for _, i := range l.list {
		if slices.Contains(nets, i.Net) && (strings.HasPrefix(i.From, own) || strings.HasPrefix(i.To, own) || strings.HasPrefix(i.From, "host/") || strings.HasPrefix(i.To, "host/")) {
			out = append(out, i.Number)
		}
	}
	return out
}

func (l *lighter) supplyPins() (ground, supply string) {
	if l.m.Link.Kind == string(link.Backpack) {
		return "GND", "VCC"
	}
	return "VSS", "VDD"
}

func (l *lighter) short() Step {
	ground, supply := l.supplyPins()
	return Step{
		ID: "short", Title: "No short", Do: fmt.Sprintf("Nothing plugged in. Measure the resistance between %s and %s.", l.pin(supply), l.pin(ground)), See: "More than 100 Ω.",
		Caution: "Unplug before you measure or change anything.",
		Else:    []Sight{{Says: "Near 0 Ω", Means: []Cause{{"Supply and ground meet: a wire in the wrong rail, or a bridge of solder.", l.rails("GND", "5V", "3V3")}}}},
	}
}

func (l *lighter) supply() Step {
	ground, supply := l.supplyPins()
	needs, fed := l.run.Module.Needs(), l.run.Module.Fed()
	s := Step{
		ID: "supply", Title: "Supply", Do: fmt.Sprintf("Plug in. Measure the voltage at %s against %s.", l.pin(supply), l.pin(ground)),
		See: fmt.Sprintf("%s; between %s and %s will do.", say.Volts(fed), say.Volts(needs.Min), say.Volts(needs.Max)), Measure: l.path + "/display/measured/supplyMV", Unit: "mV", Planned: float64(fed / physic.MilliVolt), Act: fault.ActMeasure,
		Caution: "If anything smells or grows hot, unplug at once.",
		Else: []Sight{
			{Says: "0 V", Means: []Cause{{"A rail is not joined: to the host, to the other side of the board, or over a split.", l.rails("GND", "5V", "3V3")}}},
			{Says: "A minus before the figure", Means: []Cause{{"Supply and ground are exchanged. Unplug at once.", l.rails("GND", "5V", "3V3")}}},
			{Says: "3.3 V in place of 5 V", Means: []Cause{{"It is on the host’s 3.3 V.", l.rails("3V3")}}},
		},
	}
	if l.run.Module.Technology == module.VFD {
		s.Caution += " A VFD makes tens of volts on its board: touch nothing on it."
	}
	return s
}

func (l *lighter) backlight() Step {
	first := l.run.Moments[0]
	switched := first.Pins&link.Backlight == 0 // by a register, whose outputs begin low
	if switched {
		first = *l.run.Last()
	}
	dark := first
	dark.Pins &^= link.Backlight
	s := Step{
		ID: "light", Title: "Backlight", Do: "Look at the glass.", See: "It is lit from behind.", Glass: []Shown{l.shown(first, l.run.Contrast)},
		Else: []Sight{{Says: "It stays dark", Glass: ptr(l.shown(dark, l.run.Contrast)), Means: []Cause{
			{fmt.Sprintf("%s or %s is open, or the resistor’s strip is missed.", l.pin("A"), l.pin("K")), l.wires(l.of(wiring.Itself, "A"), l.of(wiring.Itself, "K"), l.of(wiring.Light, "1"), l.of(wiring.Light, "2"))},
			{"A and K are exchanged: a diode carries current one way only.", l.wires(l.own("A", "K")...)},
		}}},
	}
	if switched {
		s.Act = fault.ActLight
		s.Do = "Let the program run, which switches it on, and look at the glass."
		s.Else[0].Means = append(s.Else[0].Means, Cause{"The transistor does not switch: its base resistor, or emitter and collector exchanged.", l.wires(l.of(wiring.Base, "1"), l.of(wiring.Base, "2"), l.of(wiring.Switch, "B"), l.of(wiring.Switch, "C"), l.of(wiring.Switch, "E"))})
	}
	if f, ok := breadboard.Light(l.m); ok {
		i := f.Backlight.Current(f.Supply, l.m.Fitting.Light())
		s.See = fmt.Sprintf("It is lit from behind, with about %.3g mA.", float64(i)/float64(physic.MilliAmpere))
		s.Else = append(s.Else, Sight{Says: "Very bright, then weaker", Means: []Cause{{"The resistor is missing or too small. Unplug.", l.wires(l.of(wiring.Light, "1"), l.of(wiring.Light, "2"))}}})
	}
	return s
}

func ptr[T any](v T) *T { return &v }

func (l *lighter) contrast() Step {
	first := l.run.Moments[0]
	low, high, _ := l.run.Module.Window(25)
	usual := l.run.Module.UsualContrast()
	s := Step{
		ID: "contrast", Title: "Contrast", Do: "Turn the potentiometer from one end to the other, slowly; then to where the blocks just stand out.",
		See:   fmt.Sprintf("Blocks at the end where VO is at ground, nothing at the other. It reads well with VO between %s and %s.", say.Volts(low), say.Volts(high)),
		Glass: []Shown{l.shown(first, 1), l.shown(first, min(usual, 1)), l.shown(first, 0)}, Measure: l.path + "/display/measured/voMV", Unit: "mV", Planned: float64(l.run.Module.VO(usual) / physic.MilliVolt), Act: fault.ActMeasure,
		Else: []Sight{{Says: "Nothing at either end", Glass: ptr(l.shown(first, 0)), Means: []Cause{
			{fmt.Sprintf("%s is open, or the wiper’s strip is missed.", l.pin("VO")), l.wires(l.of(wiring.Itself, "VO"), l.of(wiring.Contrast, "wiper"))},
			{"Both ends of the potentiometer are on one rail.", l.wires(l.of(wiring.Contrast, "1"), l.of(wiring.Contrast, "3"))},
			{"The module is not fed.", l.rails("GND", "5V", "3V3")},
		}}},
	}
	switch {
	case l.m.Link.Kind == string(link.Backpack):
		s.Else[0].Means = []Cause{{"The trimmer was not turned far enough: it takes a screwdriver and many see nothing for half of its turn.", nil}, s.Else[0].Means[2]}
		s.Do = "Turn the small trimmer on the backpack from one end to the other, slowly; then to where the blocks just stand out."
	case l.m.Fitting.Pot() == 0:
		s.Do, s.See, s.Glass = "VO is at ground: there is nothing to turn.", "Blocks, as dark as they get.", []Shown{l.shown(first, 1)}
		if l.m.Fitting.Fixed() > 0 {
			s.Do, s.See, s.Glass = "A resistor gives VO its voltage: there is nothing to turn.", "Blocks that stand out.", []Shown{l.shown(first, l.run.Contrast)}
			s.Else[0].Means[0].Wires, s.Else[0].Means[1] = l.wires(l.of(wiring.Itself, "VO"), l.of(wiring.Fixed, "1")), Cause{"The resistor’s other end is not on ground.", l.wires(l.of(wiring.Fixed, "2"))}
		}
	}
	return s
}

func (l *lighter) blocks() Step {
	first := l.run.Moments[0]
	last := *l.run.Last()
	what := "A row of solid blocks in the first line: the module is alive, and not initialised yet."
	if !l.run.Module.Geometry.TwoLine {
		what = "A row of solid blocks: the module is alive, and not initialised yet."
	}
	return Step{
		ID: "blocks", Title: "Row of blocks", Do: "Keep the program from running, or hold the host’s reset.", See: what, Glass: []Shown{l.shown(first, l.run.Contrast)},
		Else: []Sight{
			{Says: "Text, or an empty glass with even shade", Glass: ptr(l.shown(last, l.run.Contrast)), Means: []Cause{{"A program has initialised it already: that is as good.", nil}}},
			{Says: "Nothing at all", Glass: ptr(l.shown(first, 0)), Means: []Cause{{"Contrast, or no supply: go back a step.", l.rails("GND", "5V", "3V3")}}},
		},
	}
}

func (l *lighter) address() Step {
	at := i2cbus.Address(l.m.Link.Outputs.Address)
	return Step{
		ID: "address", Title: "Address", Do: "Scan the bus.", See: fmt.Sprintf("%s answers: %d in decimal.", at, int(at)), Act: fault.ActScan,
		Else: []Sight{
			{Says: "Nothing answers", Means: []Cause{{"SDA and SCL are exchanged or on the wrong pins, or there is no common ground.", l.wires(l.own("SDA", "SCL", "GND", "VCC")...)}}},
			{Says: "Another address answers", Means: []Cause{{"The pads, or the letter A in the expander’s part number: adopt what answers in the Bus view.", nil}}},
		},
	}
}

// text is the last step: the first text, and what each signal wire that is open, or
// exchanged with its neighbour, would show in its place, played through the rig.
func (l *lighter) text() (Step, error) {
	s := Step{ID: "text", Title: "First text", Do: "Let the program run.", See: "The module’s screen.", Act: fault.ActSend, Glass: []Shown{l.shown(*l.run.Last(), l.run.Contrast)}}
	if l.m.Link.Kind == string(link.Backpack) {
		deaf, err := l.try(link.Joined{NoAck: "no wire"})
		s.Else = []Sight{{Says: "The row of blocks stays", Glass: deaf, Means: []Cause{{"The program’s address is not the module’s, or the bus does not reach it.", l.wires(l.own("SDA", "SCL")...)}}}}
		return s, err
	}
	straight := link.Straight(&l.run.Wired)
	if !l.run.Wired.ReadWrite {
		straight.Pins["RW"] = link.Ground
	}
	straight.Pins["BL"] = link.Supply
	var kinds []Sight
	note := func(j link.Joined, says string, pins ...string) error {
		glass, err := l.try(j)
		if err != nil {
			return err
		}
		cause := Cause{says, l.wires(pins...)}
		key := look(glass)
		if key == look(&s.Glass[0]) {
			return nil // it makes no difference to this text
		}
		for i := range kinds {
			if look(kinds[i].Glass) == key {
				kinds[i].Means = append(kinds[i].Means, cause)
				return nil
			}
		}
		kinds = append(kinds, Sight{Says: describe(glass), Glass: glass, Means: []Cause{cause}})
		return nil
	}
	part, ok := l.table.Net.Of(l.index, wiring.Itself)
	if !ok {
		return s, nil
	}
	var lines []wiring.Pin
	for _, p := range part.Pins {
		if name := strings.Replace(p.Name, "/", "", 1); straight.Pins[name] != "" {
			lines = append(lines, p)
		}
	}
	full := func(p wiring.Pin) string { return part.Pin(p.Name) }
	for i, p := range lines {
		name := strings.Replace(p.Name, "/", "", 1)
		open := straight.Swapped(name, name)
		delete(open.Pins, name)
		if err := note(open, fmt.Sprintf("%s is open.", l.pin(p.Name)), full(p)); err != nil {
			return s, err
		}
		if i > 0 {
			before := lines[i-1]
			other := strings.Replace(before.Name, "/", "", 1)
			if err := note(straight.Swapped(name, other), fmt.Sprintf("%s and %s are exchanged.", before.Name, p.Name), full(before), full(p)); err != nil {
				return s, err
			}
		}
	}
	s.Else = kinds
	return s, nil
}

// try runs the module's screen as it would be joined otherwise.
func (l *lighter) try(j link.Joined) (*Shown, error) {
	setup := l.setup
	setup.Joined = &j
	r, err := run.Do(&setup, run.Options{})
	if err != nil {
		return nil, err
	}
	return &Shown{&r.Module, *r.Last(), l.run.Contrast}, nil
}

// look tells glasses apart that a maker can tell apart.
func look(s *Shown) uint64 {
	g := s.Moment.Glass(s.Module, s.Contrast)
	v := glass.See(&g, s.Module.Technology, nil)
	return v.Key()
}

// describe words a glass that is not what it should be.
func describe(s *Shown) string {
	g := s.Moment.Glass(s.Module, s.Contrast)
	bare := slices.ContainsFunc(g.Cells, func(c rig.ShownCell) bool { return !c.Scanned })
	switch {
	case !g.On && bare && s.Module.Technology == module.LCD:
		return "The row of blocks stays"
	case !g.On && s.Module.Technology == module.VFD:
		return "Nothing shines"
	case !g.On:
		return "Nothing is written: the glass is even"
	case strings.TrimSpace(strings.Join(g.Text(s.Module.ROM), "")) == "":
		return "An empty glass"
	}
	return "Something else is written"
}
