package setup

import (
	"cmp"
	"fmt"
	"slices"

	"slatebell/core/bench"
	"slatebell/core/bench/edit"
	"slatebell/core/part/host"
	"slatebell/core/part/i2cbus"
	"slatebell/core/say"
	"slatebell/core/table/bus"
	"slatebell/core/table/pinout"
	"slatebell/core/table/power"
	"slatebell/core/wire/link"
)

// Beginning is what a maker can say of the parts on the table.
type Beginning struct {
	Name       string     `json:"name,omitempty" maxLength:"80" doc:"of the bench; absent: New bench"`
	Geometry   string     `json:"geometry" maxLength:"100" doc:"such as 16x2"`
	Technology string     `json:"technology" enum:"lcd,vfd"`
	Tint       string     `json:"tint,omitempty" enum:"green,blue,grey,amber,teal"`
	Backpack   bool       `json:"backpack,omitempty" doc:"a board with a small chip is on the module's back"`
	Expander   string     `json:"expander,omitempty" enum:"PCF8574,PCF8574A" doc:"what is printed on that chip; absent: not known"`
	Host       string     `json:"host,omitempty" maxLength:"40" doc:"designation; absent: not known"`
	HostMV     int        `json:"hostMV,omitempty" minimum:"0" maximum:"6000" doc:"of a board that is not in the table: the voltage of its logic, in millivolts; absent: 5000"`
	Board      bench.Host `json:"board,omitzero" doc:"a board that its user described for another bench; in place of host"`
	Link       string     `json:"link,omitempty" enum:"backpack,parallel4,parallel8,shift" doc:"absent: the one that is recommended"`
	Count      int        `json:"count,omitempty" minimum:"0" maximum:"64" doc:"how many of the module; absent: 1"`
}

// Begin returns a bench of what a maker said, with every link chosen and pins and
// addresses allotted. Its error is a bench.Problem, or says what does not fit.
func Begin(s *Beginning) (bench.Bench, error) {
	b := bench.New(cmp.Or(s.Name, "New bench"))
	if b.Host.Part = s.Host; s.Board.Part != "" {
		b.Host = bench.Host{Part: s.Board.Part, BearsMV: s.Board.BearsMV, Pins: s.Board.Pins, Facts: s.Board.Facts}
		if _, err := host.ParseSerial(s.Board.Facts.Serial); err != nil {
			return b, bench.Problem{Path: "/board/facts/serial", What: err.Error()}
		}
	} else if _, known := host.ByPart(s.Host); !known && s.Host != "" {
		b.Host.BearsMV = s.HostMV
	}
	board := b.Host.Board()
	if b.Host.Part != "" {
		b.Bus.SDA, b.Bus.SCL = board.SDA, board.SCL
	}
	m := &b.Modules[0]
	m.Name = "First module"
	m.Display.Geometry, m.Display.Technology, m.Display.Tint = s.Geometry, cmp.Or(s.Technology, "lcd"), s.Tint
	if m.Display.Tint == "" && m.Display.Technology == "vfd" {
		m.Display.Tint = "teal"
	}
	if _, err := m.Display.Module(); err != nil {
		return b, err
	}
	kind := link.Kind(s.Link)
	if kind == "" && s.Backpack {
		kind = link.Backpack
	}
	if kind == "" {
		kind = onTable(Options(&b, 0))
	}
	m.Link = newLink(kind, m)
	m.Fitting.Soldered = s.Backpack && kind == link.Backpack
	if kind == link.Backpack && s.Expander == "PCF8574A" {
		m.Link.Outputs.Address = 0x3F
	}
	if kind != link.Backpack {
		m.Link.Pins, _ = pinout.AllotFor(&b, pinout.Lines(&b, m))
	}
	if s.Count > 1 {
		more, err := Like(&b, 0, s.Count-1)
		if err != nil {
			return b, err
		}
		more.Edits().Apply(&b)
		if more.Why != "" && kind != link.Backpack && s.Link == "" { // three lines a module, or a backpack each
			for _, fewer := range []link.Kind{link.ShiftReg, link.Backpack} {
				other := *s
				if other.Link = string(fewer); kind != fewer {
					if began, err := Begin(&other); err == nil {
						return began, nil
					}
				}
			}
		}
		if more.Why != "" {
			return b, fmt.Errorf("%d of %d modules fit: %s; what would make room: %s", len(more.Modules)+1, s.Count, more.Why, say.List(more.Would))
		}
	}
	return b, b.Validate()
}

// onTable is the link of a module that has no backpack: parallel where the host has the pins,
// which takes nothing that is not on the table, else three lines; a backpack where nothing else
// fits.
func onTable(options []Option) link.Kind {
	for _, kind := range []link.Kind{link.Parallel4, link.ShiftReg} {
		for i := range options {
			if options[i].Kind == kind && options[i].Fits {
				return kind
			}
		}
	}
	return link.Backpack
}

// newLink returns a link of a kind with its usual settings, but for what is the
// module's whatever its link: its address, if it had one, its light, and what the
// host's pins bear.
func newLink(kind link.Kind, m *bench.Module) bench.Link {
	if m.Link.Kind == string(kind) {
		return m.Link
	}
	o := bench.Outputs{Address: m.Link.Outputs.Address, Backlight: m.Link.Outputs.Backlight}
	if _, ok := i2cbus.Expander(i2cbus.Address(o.Address)); !ok {
		o.Address = 0x27
	}
	return bench.Link{Kind: string(kind), HostMV: m.Link.HostMV, Outputs: o}
}

// needsConverter reports whether a backpack on a module asks for more than the
// host's bus gives.
func needsConverter(b *bench.Bench, m *bench.Module) bool {
	return !b.Bus.Converter && m.Fed() > b.Host.Board().Logic+bus.SupplyApart
}

// Option is one way to join a module to the host.
type Option struct {
	Kind        link.Kind
	Fits        bool
	Why         string   // where it does not fit: why
	Lines       []string // between host and module
	Pins        map[string]string
	Taken       int // pins of the host that it takes beyond those that are taken anyway
	Left        int // free pins of the host that are left then
	Wires       int
	Parts       []string // to have besides
	For         []string
	Against     []string
	Recommended bool
	Reason      string     // of the one that is recommended
	Link        bench.Link // as it is applied
	Ways        []Way      // where its levels are no match: what may be done about it, for the maker to choose
}

// Way is one way to join levels that do not match.
type Way struct {
	Title   string
	Against string
	Parts   []string // to have besides
	Edits   edit.List
}

// Options compares the links that a module of a bench can have. One of those that
// fit is recommended.
func Options(b *bench.Bench, index int) []Option {
	out := make([]Option, len(link.Kinds))
	for i, k := range link.Kinds {
		out[i] = option(b, index, k)
	}
	best := recommend(b, index, out)
	if best >= 0 {
		out[best].Recommended = true
	}
	return out
}

// Recommended returns the kind of the option that is recommended; a backpack
// where none fits.
func Recommended(options []Option) link.Kind {
	for _, o := range options {
		if o.Recommended {
			return o.Kind
		}
	}
	return link.Backpack
}

// option works out one link of a module, as if the module had none yet.
func option(b *bench.Bench, index int, kind link.Kind) Option {
	m := b.Modules[index]
	lcd := m.Display.Technology != "vfd"
	board := b.Host.Board()
	bare := *b
	bare.Modules = append(append([]bench.Module{}, b.Modules[:index]...), b.Modules[index+1:]...)
	m.Link = newLink(kind, &m)
	o := Option{Kind: kind, Fits: true, Lines: pinout.Lines(b, &m)}
	free := pinout.Free(&bare)
	loose := unpinned(&bare)
	converter := false
	switch kind {
	case link.Backpack:
		if b.Modules[index].Link.Kind != string(kind) {
			address, ok := freeAddress(&bare, &m)
			if o.Fits = ok; !ok {
				o.Why = "no address of an expander is free on this bus"
			}
			m.Link.Outputs.Address = int(address)
		}
		o.Wires = 4
		o.Parts = append(o.Parts, "a backpack (PCF8574 or PCF8574A)")
		if len(bus.Nodes(&bare)) == 0 {
			o.Taken = 2
		}
		o.Pins = map[string]string{}
		o.Pins["SDA"], o.Pins["SCL"], _ = bus.Pins(b)
		converter = needsConverter(b, &m)
		o.For = append(o.For, "two pins of the host for all modules and devices together", "contrast trimmer and backlight switch are on it")
		o.Against = append(o.Against, "slowest: the expander is made for 100 kHz", "its address must be found, and be its own")
	case link.ShiftReg:
		o.Wires = 5
		o.Parts = append(o.Parts, "a 74HC595")
		o.For = append(o.For, "three pins of the host, no address, a fast clock")
		o.Against = append(o.Against, "nothing can be read: fixed waits only", "a chip to wire up beside the module")
		if board.Out.High < power.CMOS(m.Fed()).High {
			o.Parts[0] = "a 74HCT595"
			o.Against = append(o.Against, fmt.Sprintf("a 74HC595 at %s asks for %s, the host gives %s: take a 74HCT595", say.Volts(m.Fed()), say.Volts(power.CMOS(m.Fed()).High), say.Volts(board.Out.High)))
		}
	default:
		o.Wires = len(o.Lines) + 2 // VSS and VDD
		if !m.Link.ReadWrite {
			o.Wires++ // R/W to ground
		}
		if lcd {
			o.Wires += 3 // VO, A and K
		}
		o.For = append(o.For, "fastest, with nothing between host and module")
		o.Against = append(o.Against, fmt.Sprintf("%d wires a module", o.Wires))
		if kind == link.Parallel4 {
			o.For = append(o.For, "half the data lines of 8 bits for a little more time")
		} else {
			o.For = append(o.For, "one transfer a byte: easiest to follow with a scope")
		}
	}
	if kind != link.Backpack {
		o.Taken = len(o.Lines)
		pins, missing := pinout.AllotFor(&bare, o.Lines)
		switch {
		case b.Modules[index].Link.Kind == string(kind) && len(b.Modules[index].Link.Pins) > 0:
			pins, missing = b.Modules[index].Link.Pins, nil
		case len(missing) == 0 && len(board.Pins) > 0:
			m.Link.Pins = pins
		}
		o.Pins = pins
		if len(board.Pins) > 0 && (len(missing) > 0 || len(free)-loose < len(o.Lines)) {
			o.Fits, o.Why = false, fmt.Sprintf("%d pins of the host are free, %d are needed", max(len(free)-loose, 0), len(o.Lines))
		}
		if lcd {
			o.Parts = append(o.Parts, "a potentiometer of 10 kΩ for the contrast", "220 Ω for the backlight, if the module carries none")
		}
	}
	o.Link = m.Link
	applied := *b
	applied.Modules = slices.Clone(b.Modules)
	applied.Modules[index].Link = m.Link
	if o.Fits && len(board.Pins) > 0 {
		o.Left = max(len(pinout.Free(&applied))-unpinned(&applied), 0)
	}
	if converter {
		o.Against = append(o.Against, fmt.Sprintf("at %s an expander asks for %s, this host’s bus gives %s", say.Volts(m.Fed()), say.Volts(power.CMOS(m.Fed()).High), say.Volts(board.Logic)))
		o.Ways = ways(&applied, index)
	}
	return o
}

// ways lists what joins a backpack to a host of a lower voltage.
func ways(b *bench.Bench, index int) []Way {
	bus := b.Bus
	bus.Converter = true
	out := []Way{{Title: "A level converter between", Parts: []string{"a two-way level converter"}, Edits: edit.List{edit.SetBus{Bus: bus}}}}
	if _, r := power.LowerPullUps(b); len(r) > 0 {
		out = append(out, Way{Title: "Its pull-ups off, others to the host’s supply", Against: "outside of the expander’s limits, though many work so", Parts: []string{"two resistors of 4.7 kΩ", "a soldering iron"}, Edits: r})
	}
	if m := &b.Modules[index]; m.Display.Technology != "vfd" {
		display := m.Display
		display.Supply.MilliVolts, display.Supply.Contrast = 3300, nil
		out = append(out, Way{Title: "The module fed 3.3 V", Against: "only a module that is made for it, with VO below ground; read its label", Edits: edit.List{edit.SetDisplay{Module: index, Display: display}}})
	}
	return out
}

// recommend returns the option to take, and says why there.
func recommend(b *bench.Bench, index int, options []Option) int {
	at := map[link.Kind]int{}
	for i, o := range options {
		if o.Fits {
			at[o.Kind] = i
		}
	}
	take := func(kind link.Kind, reason string) int {
		i, ok := at[kind]
		if !ok {
			return -1
		}
		options[i].Reason = reason
		return i
	}
	m := &b.Modules[index]
	if !needsConverter(b, m) {
		if i := take(link.Backpack, "Four wires, two pins of the host however many modules follow, and every level is within its limits."); i >= 0 {
			return i
		}
	} else if i := take(link.Parallel4, "The controller asks for 2.2 V, which this host gives: no level converter is needed, as it would be for a backpack at 5 V."); i >= 0 {
		return i
	}
	if i := take(link.Backpack, "Pins for parallel lines are short; with a level converter every level is within its limits."); i >= 0 {
		return i
	}
	if i := take(link.ShiftReg, "No address of an expander is free, and three pins are the least without one."); i >= 0 {
		return i
	}
	if i := take(link.Parallel4, "No address of an expander is free."); i >= 0 {
		return i
	}
	return -1
}
