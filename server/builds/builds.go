// Package builds is benches to begin from: each laid, wired, composed and playing, for a module of the
// maker's own size, link and host. Their scenario is made up, as the demo's is.
//
// It stands beside demo, above core and below server/api.
package builds

import (
	"fmt"
	"slices"
	"strings"

	"periph.io/x/conn/v3/physic"

	"slatebell/core/bench"
	"slatebell/core/part/host"
	"slatebell/core/part/module"
	"slatebell/core/table/breadboard"
	"slatebell/core/table/pinout"
	"slatebell/core/table/setup"
	"slatebell/core/text/field"
)

// Build is one thing to begin from.
type Build struct {
	ID, Title string
	What      string   // one sees of it
	Needs     string   // beside module and host; "" for nothing
	Sizes     []string // that it is composed for
	count     int      // modules, where it is of several
	onBus     bool     // it reads parts on the bus, by lines of its own
	lay       func(*table)
}

// list is the gallery, in the order in which makers come to it (common practice).
var list = []Build{
	{ID: "words", Title: "First words", What: "Two lines that stay.", Sizes: small, lay: words},
	{ID: "seconds", Title: "Seconds since the start", What: "Minutes and seconds count on.", Sizes: small, lay: seconds},
	{ID: "clock", Title: "A clock with the temperature", What: "The time of a clock chip, and the warmth beside it.", Needs: "a DS3231 and an LM75 on the bus", Sizes: small, onBus: true, lay: clock},
	{ID: "states", Title: "Two states by a button", What: "A press turns one screen into the other.", Needs: "a button", Sizes: small, lay: states},
	{ID: "list", Title: "A list stepped by a knob", What: "Names follow each other as the knob turns.", Needs: "a potentiometer of 10 kΩ", Sizes: small, lay: names},
	{ID: "messages", Title: "Messages over a serial line", What: "What a telephone sends stands there until the next.", Needs: "a radio or another host that sends", Sizes: small, lay: messages},
	{ID: "sign", Title: "A sign that walks", What: "A sign goes along a row and back.", Sizes: small, lay: sign},
	{ID: "meter", Title: "A meter of two channels", What: "Two bars rise at once and fall slowly.", Needs: "for each channel a diode, a capacitor of 10 µF, a resistor and a potentiometer", Sizes: small, lay: meters},
	{ID: "value", Title: "A value set with a stick", What: "Left and right choose a digit, up and down step it, a press accepts.", Needs: "a stick of two ways and a press", Sizes: small, lay: value},
	{ID: "eight", Title: "Eight modules on one bus", What: "Each shows its own berth.", Needs: "eight backpacks, seven of them with bridged pads", Sizes: small, count: 8, lay: eight},
}

// small are the sizes that builds are composed for.
var small = []string{"16x2", "20x2", "20x4"}

// List returns the builds.
func List() []Build { return slices.Clone(list) }

// table is a bench that is being laid.
type table struct {
	bench      *bench.Bench
	m          *bench.Module
	cols, rows int
}

// Make lays a build for what a maker said of the table. Its error names what does not fit, and what would.
func Make(id string, s setup.Beginning) (bench.Bench, error) {
	i := slices.IndexFunc(list, func(b Build) bool { return b.ID == id })
	if i < 0 {
		return bench.Bench{}, fmt.Errorf("%q is no build; expected one of %s", id, strings.Join(IDs(), ", "))
	}
	build := &list[i]
	if !slices.Contains(build.Sizes, s.Geometry) {
		return bench.Bench{}, fmt.Errorf("“%s” is composed for %s; %s is not among them", build.Title, strings.Join(build.Sizes, ", "), s.Geometry)
	}
	if build.count > 0 {
		s.Count, s.Link, s.Backpack = build.count, "backpack", true
	}
	if build.onBus {
		s.Link, s.Backpack = "backpack", true // so that there is a bus
	}
	if s.Name == "" {
		s.Name = build.Title
	}
	if s.Host == "" && s.Board.Part == "" {
		s.Host = "ATmega328P"
	}
	b, err := setup.Begin(&s)
	if err != nil {
		return b, err
	}
	g, err := module.ParseGeometry(s.Geometry)
	if err != nil {
		return b, err
	}
	for k := range b.Modules {
		m := &b.Modules[k]
		m.Screens, m.Changes = nil, "steady"
		build.lay(&table{&b, m, g.Cols, g.Rows})
	}
	if b.Host.Board().Logic < 4*physic.Volt && slices.ContainsFunc(b.Modules, func(m bench.Module) bool { return m.Link.Kind == "backpack" }) {
		b.Bus.Converter = true // backpacks are fed with 5 V
	}
	if build.count > 0 {
		b.Host.Supply = bench.HostFeed{From: "supply", LimitMA: 2000} // a port gives too little
	}
	if b, err = joined(&b); err != nil {
		return b, err
	}
	if planned, err := breadboard.Plan(&b); err == nil {
		b.Wiring = planned
	} // where it does not fit on boards, it is wired by hand
	return b, b.Validate()
}

// IDs lists the builds by their ids.
func IDs() (out []string) {
	for _, b := range list {
		out = append(out, b.ID)
	}
	return out
}

// joined gives the inputs their pins. Its error names those for which the host has none.
func joined(b *bench.Bench) (bench.Bench, error) {
	edits, left := pinout.JoinInputs(b)
	if len(left) > 0 {
		return *b, fmt.Errorf("no pin of the host is left for %s; take a link with fewer lines, or another host", strings.Join(left, ", "))
	}
	out := *b
	for _, e := range edits {
		e.Apply(&out)
	}
	return out, nil
}

func (t *table) board() *host.Board {
	board := t.bench.Host.Board()
	return &board
}

// screen adds a screen; its rows are cut to the glass.
func (t *table) screen(id, name string, rows []string, fields ...field.Field) {
	for i := range rows {
		if cells := []rune(rows[i]); len(cells) > t.cols {
			rows[i] = string(cells[:t.cols])
		}
	}
	t.m.Screens = append(t.m.Screens, bench.Screen{ID: id, Name: name, Rows: rows[:min(len(rows), t.rows)], Fields: fields})
}

// centred is a text in the middle of a row.
func (t *table) centred(text string) string {
	return strings.Repeat(" ", max((t.cols-len([]rune(text)))/2, 0)) + text
}

// middle are two rows in the middle of the glass.
func (t *table) middle(first, second string) []string {
	rows := make([]string, t.rows)
	at := (t.rows - 2) / 2
	rows[at], rows[at+1] = t.centred(first), t.centred(second)
	return rows
}
