package setup

import (
	"fmt"
	"regexp"
	"slices"
	"strconv"

	"slatebell/core/bench"
	"slatebell/core/bench/edit"
	"slatebell/core/part/i2cbus"
	"slatebell/core/table/bus"
	"slatebell/core/table/pinout"
	"slatebell/core/text/glyph"
	"slatebell/core/wire/link"
)

// Addition is a change that puts modules on a bench.
type Addition struct {
	Modules []bench.Module // the new ones
	Why     string         // of what does not fit; "" where all do
	Would   []string       // what would make it fit
}

// Edits are the change of the bench.
func (a *Addition) Edits() (out edit.List) {
	for _, m := range a.Modules {
		out = append(out, edit.AddModule{Module: m})
	}
	return out
}

// IDs lists the ids of the new modules.
func (a *Addition) IDs() []string {
	out := make([]string, len(a.Modules))
	for i := range a.Modules {
		out[i] = a.Modules[i].ID
	}
	return out
}

// Like returns the change that adds n modules like one of a bench, each with a
// name, a screen that shows it, and an address or pins that nothing else has. Of
// what does not fit it says why, and what would.
func Like(b *bench.Bench, index, n int) (Addition, error) {
	var a Addition
	if index < 0 || index >= len(b.Modules) {
		return a, fmt.Errorf("module %d; this bench has modules 0–%d", index, len(b.Modules)-1)
	}
	if n < 1 || n > bench.MaxModules {
		return a, fmt.Errorf("%d modules; expected 1–%d", n, bench.MaxModules)
	}
	room := bench.MaxModules - len(b.Modules)
	like := &b.Modules[index]
	grown := *b
	grown.Modules = slices.Clone(b.Modules)
	for range min(n, room) {
		m, ok := another(&grown, like)
		if !ok {
			a.Why, a.Would = lack(&grown, like)
			break
		}
		grown.Modules = append(grown.Modules, m)
		a.Modules = append(a.Modules, m)
	}
	if len(a.Modules) < n && a.Why == "" {
		a.Why = fmt.Sprintf("a bench holds %d modules", bench.MaxModules)
		a.Would = []string{"a second bench"}
	}
	return a, nil
}

// another returns a module like one, with what is free on the bench.
func another(b *bench.Bench, like *bench.Module) (bench.Module, bool) {
	m := *like
	m.ID, m.Name = fresh(b, like)
	m.Glyphs = append(glyph.Bank{}, like.Glyphs...)
	if len(m.Glyphs) == 0 {
		m.Glyphs = nil
	}
	m.Display.Measured = bench.Measured{} // of the one that was measured
	m.Screens, m.Show = []bench.Screen{{ID: "screen-1", Rows: []string{m.Name}}}, bench.Show{}
	if m.Link.Kind == string(link.Backpack) {
		at, ok := freeAddress(b, like)
		m.Link.Outputs.Address = int(at)
		return m, ok
	}
	if len(like.Link.Pins) == 0 {
		return m, len(pinout.Lines(b, &m)) <= len(pinout.Free(b))-unpinned(b)
	}
	pins, missing := pinout.AllotFor(b, pinout.Lines(b, &m))
	m.Link.Pins = pins
	return m, len(missing) == 0
}

// unpinned counts the lines of modules whose pins are not chosen yet.
func unpinned(b *bench.Bench) int {
	n := 0
	for i := range b.Modules {
		if m := &b.Modules[i]; m.Link.Kind != string(link.Backpack) && len(m.Link.Pins) == 0 {
			n += len(pinout.Lines(b, m))
		}
	}
	return n
}

// freeAddress returns the address for one more backpack, beside all that is there:
// the one that it is planned at where that is free, or else with the fewest pads
// closed, of the same expander before the other.
func freeAddress(b *bench.Bench, like *bench.Module) (i2cbus.Address, bool) {
	same, ok := i2cbus.Expander(i2cbus.Address(like.Link.Outputs.Address))
	if !ok {
		same, _ = i2cbus.ByName("PCF8574")
	}
	nodes := bus.Nodes(b)
	if exact := (i2cbus.Part{Addresses: []i2cbus.Address{i2cbus.Address(like.Link.Outputs.Address)}}); ok {
		if at, free := bus.Vacant(append(nodes, bus.Node{Part: exact, Channel: like.Link.Outputs.Channel}), len(nodes)); free {
			return at, true
		}
	}
	for _, part := range append([]i2cbus.Part{same}, i2cbus.Expanders()...) {
		if at, ok := bus.Vacant(append(nodes, bus.Node{Part: part, Channel: like.Link.Outputs.Channel}), len(nodes)); ok {
			return at, true
		}
	}
	return 0, false
}

// lack says why no further module fits, and what would make it.
func lack(b *bench.Bench, like *bench.Module) (string, []string) {
	if like.Link.Kind == string(link.Backpack) {
		return "no address of an expander is free on this bus", bus.Room(b)
	}
	lines := len(pinout.Lines(b, like))
	would := []string{"backpacks: two pins for all of them"}
	if like.Link.Kind != string(link.ShiftReg) {
		would = append(would, "shift registers: three pins each", "sharing RS and data, with an enable of its own for each")
	}
	return fmt.Sprintf("%d pins of the host are free, %d are needed", max(len(pinout.Free(b))-unpinned(b), 0), lines), append(would, "a host with more pins")
}

var numbered = regexp.MustCompile(`^(.*?)[ -]*(\d+)$`)

// fresh returns an id and a name that no module has: those of the one it is like,
// counted on.
func fresh(b *bench.Bench, like *bench.Module) (id, name string) {
	taken := func(of func(*bench.Module) string, v string) bool {
		return slices.ContainsFunc(b.Modules, func(m bench.Module) bool { return of(&m) == v })
	}
	next := func(of func(*bench.Module) string, joint, fallback string, most int) string {
		stem, n := of(like), 2
		if stem == "" {
			stem = fallback
		}
		if m := numbered.FindStringSubmatch(stem); m != nil && m[1] != "" {
			if at, err := strconv.Atoi(m[2]); err == nil && at < 1_000_000 {
				stem, n = m[1], at+1
			}
		}
		for {
			count := joint + strconv.Itoa(n)
			runes := []rune(stem)
			v := string(runes[:min(len(runes), most-len(count))]) + count
			if !taken(of, v) {
				return v
			}
			n++
		}
	}
	id = next(func(m *bench.Module) string { return m.ID }, "-", "module", 40)
	return id, next(func(m *bench.Module) string { return m.Name }, " ", "Module", 80)
}

// Rehost returns the change that puts another host on a bench: the pins of the
// bus, of every link and of what is listened to are allotted afresh, as far as the new host has them.
func Rehost(b *bench.Bench, h bench.Host) edit.List {
	edits := edit.List{edit.SetHost{Host: h}}
	other := edit.Applied(b, edits...)
	board := other.Host.Board()
	if len(board.Pins) == 0 { // nobody stated them yet: what was planned stays until then
		return edits
	}
	do := func(e edit.Edit) {
		e.Apply(&other)
		edits = append(edits, e)
	}
	bus := other.Bus
	bus.SDA, bus.SCL = board.SDA, board.SCL
	do(edit.SetBus{Bus: bus})
	pinned := other // modules whose pins are allotted anew take none of the old ones'
	for i := range pinned.Modules {
		edit.SetPins{Module: i}.Apply(&pinned)
	}
	for i := range b.Modules {
		was := &b.Modules[i].Link
		if was.HostMV != 0 {
			do(edit.SetHostVoltage{Module: i})
		}
		if len(was.Pins) == 0 {
			continue
		}
		pins, missing := pinout.AllotFor(&pinned, pinout.Lines(&pinned, &pinned.Modules[i]))
		if len(missing) > 0 {
			pins = nil
		}
		edit.SetPins{Module: i, Pins: pins}.Apply(&pinned)
		do(edit.SetPins{Module: i, Pins: pins})
	}
	return append(edits, pinout.Rejoin(b, &other)...)
}
