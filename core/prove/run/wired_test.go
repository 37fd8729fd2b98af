package run

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"time"

	"slatebell/core/bench"
	"slatebell/core/finding"
	"slatebell/core/part/hd44780"
	"slatebell/core/prove/testbed"
	"slatebell/core/table/breadboard"
	"slatebell/core/table/pinout"
	"slatebell/core/table/wiring"
	"slatebell/core/wire/link"
	"slatebell/core/wire/rig"
	"slatebell/internal/soak"
)

// randomBench returns a bench over hosts, links, modules, fittings and devices, with
// pins in the order of the board or in any.
func randomBench(r *rand.Rand) bench.Bench {
	b := bench.New("random")
	b.Host.Part = []string{"ATmega328P", "ATmega2560", "ESP32", "ESP8266", "RP2040"}[r.IntN(5)]
	if r.IntN(4) == 0 {
		b.Host.Supply.From = "supply"
	}
	b.Modules = nil
	for i := range 1 + r.IntN(4) {
		m := bench.NewModule(fmt.Sprintf("m%d", i), fmt.Sprintf("Module %d", i))
		m.Display.Geometry = []string{"8x1", "8x2", "16x1", "16x1split", "16x2", "16x4", "20x2", "20x4", "40x2", "40x4"}[r.IntN(10)]
		if r.IntN(4) == 0 {
			m.Display.Technology, m.Display.Tint = "vfd", "teal"
		} else {
			m.Display.Tint = []string{"green", "blue", "grey", "amber"}[r.IntN(4)]
		}
		m.Link.Kind = string(link.Kinds[r.IntN(len(link.Kinds))])
		if m.Display.Geometry == "40x4" && m.Link.Kind == "shift" { // all eight outputs are taken: the light is always on
			mapping := link.UsualShiftMapping
			mapping.E2, mapping.Backlight = 2, link.Open
			m.Link.Outputs.Mapping = &mapping
		}
		if strings.HasPrefix(m.Link.Kind, "parallel") && r.IntN(4) == 0 {
			m.Link.ReadWrite = true
			m.Link.Waits = []string{"", "poll"}[r.IntN(2)]
			m.Link.HostMV = 5500
		}
		if r.IntN(4) == 0 {
			m.Fitting.Contrast = "ground"
		}
		if r.IntN(3) == 0 {
			none := 0.0
			m.Fitting.LightOhm, m.Fitting.OnBoardOhm = &none, 100
		}
		m.Fitting.Beside = r.IntN(4) == 0
		m.Screens[0].Rows = []string{"Tide 3.2 m ^", "Boats 4/11", "bell", "0123456789"}
		b.Modules = append(b.Modules, m)
		if link.Kind(m.Link.Kind) != link.Backpack && len(pinout.Lines(&b, &b.Modules[i])) > len(pinout.Free(&b)) {
			b.Modules[i].Link = bench.NewModule("x", "").Link
			m.Link.Kind = "backpack"
		}
		if link.Kind(m.Link.Kind) == link.Backpack {
			b.Modules[i].Link.Outputs.Address = 0x20 + i
			continue
		}
		pins := map[string]string{}
		free := pinout.Free(&b)
		if r.IntN(2) == 0 {
			r.Shuffle(len(free), func(i, j int) { free[i], free[j] = free[j], free[i] })
		}
		for k, line := range pinout.Lines(&b, &b.Modules[i]) {
			pins[line] = free[k].Label
		}
		b.Modules[i].Link.Pins = pins
	}
	if free := pinout.Free(&b); r.IntN(3) == 0 && len(free) > 1 {
		pull := func() string { return []string{"", "up", "down"}[r.IntN(3)] }
		m := &b.Modules[r.IntN(len(b.Modules))]
		m.Show.Inputs = []bench.Input{{ID: "bell", Kind: "button", Pin: free[0].Label, Pull: pull()}, {ID: "tide", Kind: "signal", Pin: free[1].Label}}
		if len(free) > 9 && r.IntN(5) == 0 { // parts of several lines and of several pieces
			kind := []string{"knob", "resistor", "follower"}[r.IntN(3)]
			m.Show.Inputs = []bench.Input{
				{ID: "x", Kind: "signal", Pin: free[0].Label, Part: "Tiller"}, {ID: "y", Kind: "signal", Pin: free[1].Label, Part: "Tiller"}, {ID: "go", Kind: "button", Pin: free[2].Label, Part: "Tiller"},
				{ID: "notch", Kind: "counter", Pin: free[3].Label, PinB: free[4].Label, Part: "Wheel"}, {ID: "set", Kind: "button", Pin: free[5].Label, Part: "Wheel"},
				{ID: "a", Kind: "button", Pin: free[6].Label, Button: bench.Button{Ladder: true}}, {ID: "b", Kind: "button", Pin: free[6].Label, Button: bench.Button{Ladder: true}},
				{ID: "tide", Kind: "signal", Pin: free[7].Label, Signal: bench.Sensor{Circuit: bench.Circuit{Kind: kind}}},
				{ID: "radio", Kind: "serial", Pin: free[8].Label, Serial: bench.Serial{SupplyMV: []int{0, 3300, 5000}[r.IntN(3)]}},
			}
		} else if len(free) > 4 {
			m.Show.Inputs = append(m.Show.Inputs, bench.Input{ID: "notch", Kind: "counter", Pin: free[2].Label, PinB: free[3].Label, Pull: pull()}, bench.Input{ID: "radio", Kind: "serial", Pin: free[4].Label})
		}
	}
	if free := pinout.Free(&b); len(free) > 1 && r.IntN(6) == 0 {
		b.Parts = []bench.OwnPart{{ID: "winch", Name: "Winch", Pins: []bench.OwnPin{{Name: "VM", To: "5V"}, {Name: "GND", To: "GND"}, {Name: "IN1", To: free[0].Label}, {Name: "NC"}, {Name: "DIAG", To: free[1].Label, Drives: true}}}}
	}
	for i := range r.IntN(3) {
		b.Devices = append(b.Devices, bench.Device{ID: fmt.Sprintf("d%d", i), Name: "Device", Part: "DS3231", Address: 0x68 + i})
	}
	b.Bus.Converter = b.Host.Board().Logic < 4e9 && r.IntN(2) == 0
	if r.IntN(3) == 0 {
		b.Wiring.Boards = []bench.Breadboard{{ID: "board-1", Columns: []int{30, 63}[r.IntN(2)], SplitRails: r.IntN(2) == 0, Joined: r.IntN(2) == 0}}
	}
	return b
}

// holes is a model of a breadboard of its own: it names the conductor of each end in
// words, and spreads from end to end along wires and legs until nothing is new.
type holes struct {
	next map[string][]string
}

func newHoles(b *bench.Bench, legs map[string]string) *holes {
	h := &holes{map[string][]string{}}
	split := map[string]bench.Breadboard{}
	for _, board := range b.Wiring.Boards {
		split[board.ID] = board
	}
	conductor := func(end string) string {
		name := conductor(end)
		board, hole, _ := strings.Cut(end, "/")
		at := strings.LastIndexAny(hole, "+-")
		if at < 0 || !split[board].SplitRails {
			return name
		}
		var n int
		fmt.Sscanf(hole[at+1:], "%d", &n)
		return fmt.Sprint(name, " half ", n > split[board].Columns/6*5/2)
	}
	join := func(a, b string) {
		h.next[a], h.next[b] = append(h.next[a], b), append(h.next[b], a)
	}
	for pin, hole := range legs {
		join(pin, conductor(hole))
	}
	for _, w := range b.Wiring.Wires {
		join(conductor(w.From), conductor(w.To))
	}
	for _, board := range b.Wiring.Boards {
		for _, half := range []string{"", " half false", " half true"} {
			if board.Joined {
				join(board.ID+" top+"+half, board.ID+" bottom+"+half)
				join(board.ID+" top-"+half, board.ID+" bottom-"+half)
			}
		}
	}
	join("converter/GND", "converter/GND2")
	for _, other := range []string{"host/GND2", "host/GND3", "host/GND4", "host/GND5", "host/GND6", "host/GND7", "host/GND8"} {
		join("host/GND", other)
	}
	return h
}

// conductor names what a hole is part of: a column's half, or a rail.
func conductor(end string) string {
	board, hole, _ := strings.Cut(end, "/")
	if !strings.HasPrefix(board, "board-") {
		return end
	}
	for _, rail := range []string{"top+", "top-", "bottom+", "bottom-"} {
		if strings.HasPrefix(hole, rail) {
			return board + " " + rail
		}
	}
	half := "lower"
	if strings.Contains("fghij", hole[:1]) {
		half = "upper"
	}
	return board + " " + half + hole[1:]
}

func (h *holes) from(pin string) map[string]bool {
	seen := map[string]bool{pin: true}
	for list := []string{pin}; len(list) > 0; list = list[1:] {
		for _, n := range h.next[list[0]] {
			if !seen[n] {
				seen[n] = true
				list = append(list, n)
			}
		}
	}
	return seen
}

// joinsAll reports whether each net is one conductor, and joined to no other.
func joinsAll(h *holes, nets []wiring.Net) bool {
	for _, n := range nets {
		reached := h.from(n.Pins[0])
		for _, other := range nets {
			for _, pin := range other.Pins {
				if reached[pin] != (other.Name == n.Name) {
					return false
				}
			}
		}
	}
	return true
}

// modelText plays a program's lines into controllers through the holes, by rules
// written for this test: low wins, what is open is pulled high but for E, which stays
// low. It returns the glass's rows.
func modelText(t *testing.T, b *bench.Bench, index int, r *Run, h *holes) []string {
	t.Helper()
	m := &b.Modules[index]
	rail5 := "host/" + b.Host.Board().Rail5
	type drive struct {
		lines    []link.Pins
		low, any bool
	}
	names := map[string]link.Pins{"RS": hd44780.RS, "R/W": hd44780.RW, "E": hd44780.E, "E2": link.E2}
	for d := range 8 {
		names[fmt.Sprintf("D%d", d)] = 1 << d
	}
	drives := map[link.Pins]drive{}
	for name, pin := range names {
		reached := h.from(m.ID + "/" + name)
		var d drive
		for line, label := range m.Link.Pins {
			if reached["host/"+label] {
				d.lines, d.any = append(d.lines, names[line]), true
			}
		}
		for i := range b.Modules {
			for _, label := range b.Modules[i].Link.Pins {
				if i != index && reached["host/"+label] {
					d.low = true
				}
			}
		}
		for pin := range reached { // an output of another module's register, at rest
			d.low = d.low || strings.Contains(pin, "-register/Q")
		}
		d.low = d.low || reached["host/GND"] || reached["supply/-"]
		d.any = d.any || reached[rail5] || reached["supply/+"] || reached["host/3V3"]
		for other, pin := range names {
			if pin == hd44780.E || pin == link.E2 {
				continue
			}
			for i := range b.Modules {
				if full := b.Modules[i].ID + "/" + other; full != m.ID+"/"+name && reached[full] {
					d.any = true // another pin's pull-up
				}
			}
		}
		drives[pin] = d
	}
	seen := func(lines link.Pins) (p link.Pins) {
		for pin, d := range drives {
			high := d.any || pin != hd44780.E && pin != link.E2
			for _, l := range d.lines {
				high = high && lines&l != 0
			}
			if high && !d.low {
				p |= pin
			}
		}
		return p
	}
	var cs [2]hd44780.Controller
	for i := range r.Module.Geometry.Controllers {
		cs[i] = hd44780.New(r.Module.Controller(), func(hd44780.Violation) {})
	}
	put := func(at time.Duration, p link.Pins) {
		cs[0].Drive(at, p&0x7FF)
		if r.Module.Geometry.Controllers == 2 {
			second := p & 0x3FF
			if p&link.E2 != 0 {
				second |= hd44780.E
			}
			cs[1].Drive(at, second)
		}
	}
	first := seen(r.Program.Coder.PowerUp())
	cs[0].HoldEnable(first & 0x7FF)
	cs[1].HoldEnable(first&0x3FF | first&link.E2>>1)
	setup, high, _ := r.Program.Coder.Pulse()
	for i, w := range r.Program.Words {
		at, lines := r.Program.At[i], r.Program.Coder.Levels(w)
		put(at, seen(lines))
		put(at+setup, seen(lines|r.Program.Coder.Pulsed(w)))
		put(at+setup+high, seen(lines))
	}
	mo := rig.Moment{At: r.Last().At, Controllers: cs}
	g := mo.Glass(&r.Module, r.Contrast)
	return g.Text(r.Module.ROM)
}

// TestWired plans random benches and holds the plan against the netlist, the glass
// through the holes against the screen, and each use of a hole and pin against a
// count of its own. Then it takes a wire away, moves one by a hole, or exchanges two:
// the check must find it, and the glass must show what modelText says.
func TestWired(t *testing.T) {
	r := rand.New(rand.NewPCG(soak.Seed(8), 1))
	count, broken, told := 0, 0, map[string]int{}
	for n := range soak.Rounds(300) {
		count++
		b := randomBench(r)
		w, err := breadboard.Plan(&b)
		if err != nil && strings.Contains(err.Error(), "use a board whose sides are not joined") {
			continue
		}
		if err != nil {
			t.Fatalf("bench %d: %v", n, err)
		}
		b.Wiring = w
		table := breadboard.Lay(&b)
		if f := table.Check(); len(f) > 0 {
			t.Fatalf("bench %d: the plan has findings: %+v", n, f[0])
		}
		for i := range b.Modules {
			if n%5 > 0 { // which takes its time
				break
			}
			for k, l := range table.Lines(i) {
				if in := b.Modules[i].Show.Inputs[k]; !l.Works {
					t.Fatalf("bench %d: %s on %s: %s", n, in.ID, in.Pin, l.Says(in.ID, in.Pin))
				}
			}
		}
		planned := table.List()
		legs := map[string]string{}
		uses := map[string]int{}
		for pin, h := range table.Legs {
			legs[pin] = table.Name(h)
			uses[legs[pin]]++
		}
		for _, wire := range w.Wires {
			uses[wire.From]++
			uses[wire.To]++
			if wire.Colour == "" || wire.LengthMM < 12 || wire.LengthMM > 1500 {
				t.Fatalf("bench %d: wire %+v", n, wire)
			}
		}
		for end, times := range uses {
			if times > 1 {
				t.Fatalf("bench %d: %s is used %d times", n, end, times)
			}
		}
		index := r.IntN(len(b.Modules))
		setup, err := testbed.Of(&b, testbed.At{Module: index})
		if err != nil {
			t.Fatal(err)
		}
		sound, err := Do(&setup, Options{})
		if err != nil {
			t.Fatalf("bench %d: %v", n, err)
		}
		plain := setup
		plain.Joined = nil
		before, err := Do(&plain, Options{})
		if err != nil {
			t.Fatal(err)
		}
		glass, want := sound.Last().Glass(&sound.Module, sound.Contrast), before.Last().Glass(&before.Module, before.Contrast)
		if !slices.Equal(glass.Text(sound.Module.ROM), want.Text(before.Module.ROM)) || glass.Light != want.Light || slices.ContainsFunc(sound.Findings, func(f finding.Finding) bool { return strings.HasPrefix(f.Code, "glass.differs") }) {
			t.Fatalf("bench %d, %s: the glass through the holes shows %q, lit %v; %q, lit %v was meant\n%+v", n, b.Modules[index].Link.Kind, glass.Text(sound.Module.ROM), glass.Light, want.Text(before.Module.ROM), want.Light, setup.Joined)
		}
		what := spoil(r, &b)
		if what == "" {
			continue
		}
		broken++
		list := breadboard.Check(&b)
		if len(list) == 0 && joinsAll(newHoles(&b, legs), table.Net.Nets) {
			broken--
			continue // another hole of the same net
		}
		if len(list) == 0 {
			for _, i := range planned {
				t.Log(i.Number, i.From, i.FromHole, i.To, i.ToHole, i.Net)
			}
			t.Fatalf("bench %d: %s is not found", n, what)
		}
		for _, f := range list {
			told[f.Code]++
		}
		m := &b.Modules[index]
		if !strings.HasPrefix(m.Link.Kind, "parallel") || m.Link.Waits == "poll" {
			continue
		}
		setup, _ = testbed.Of(&b, testbed.At{Module: index})
		after, err := Do(&setup, Options{})
		if err != nil {
			t.Fatalf("bench %d: %v", n, err)
		}
		got := after.Last().Glass(&after.Module, after.Contrast)
		h := newHoles(&b, legs)
		ground, fed := h.from(m.ID+"/VSS"), h.from(m.ID+"/VDD")
		rail5, rail3 := "host/"+b.Host.Board().Rail5, "host/3V3"
		short := h.from("host/GND")
		if short[rail5] || short[rail3] || short["supply/+"] || !ground["host/GND"] || ground[rail5] || ground[rail3] || !fed[rail5] && !fed["supply/+"] && !fed[rail3] || fed["host/GND"] {
			if setup.Joined.Dead == "" || got.On || got.Look.Unused > 0.05 {
				t.Log(planned, b.Host.Part, b.Host.Supply, ground, fed, *setup.Joined)
				t.Fatalf("bench %d: %s leaves the module without supply, and it shows %q", n, what, got.Text(after.Module.ROM))
			}
			continue
		}
		if want := modelText(t, &b, index, after, h); !slices.Equal(got.Text(after.Module.ROM), want) {
			t.Fatalf("bench %d, %s: the glass shows %q, the model %q\n%+v", n, what, got.Text(after.Module.ROM), want, setup.Joined)
		}
	}
	if broken < count/2 {
		t.Errorf("only %d of %d benches were spoiled", broken, count)
	}
	t.Logf("%d spoiled; found %v", broken, told)
}

// spoil takes a wire away, moves an end into the next strip, or exchanges two ends,
// so that other conductors are joined; it says what it did, or "".
func spoil(r *rand.Rand, b *bench.Bench) string {
	wires := slices.Clone(b.Wiring.Wires)
	b.Wiring.Wires = wires
	i := r.IntN(len(wires))
	switch r.IntN(3) {
	case 0:
		b.Wiring.Wires = slices.Delete(wires, i, i+1)
		return fmt.Sprintf("wire %d of %d taken away", i+1, len(wires)+1)
	case 1:
		board, hole, _ := strings.Cut(wires[i].To, "/")
		if !strings.HasPrefix(board, "board-") || strings.ContainsAny(hole, "+-") {
			return ""
		}
		var col int
		fmt.Sscanf(hole[1:], "%d", &col)
		next := fmt.Sprintf("%s/%s%d", board, hole[:1], col+1)
		for _, w := range wires {
			if w.From == next || w.To == next {
				return ""
			}
		}
		was := wires[i].To
		wires[i].To = next
		if table := breadboard.Lay(b); len(table.Check()) > 0 && strings.Contains(table.Check()[0].Code, "twice") {
			wires[i].To = was
			return ""
		}
		return fmt.Sprintf("wire from %s moved from %s to %s", wires[i].From, was, next)
	}
	j := r.IntN(len(wires))
	if conductor(wires[i].To) == conductor(wires[j].To) || conductor(wires[i].From) == conductor(wires[j].From) || i == j {
		return ""
	}
	table := breadboard.Lay(b)
	list := table.List()
	if list[i].Net == list[j].Net {
		return ""
	}
	wires[i].To, wires[j].To = wires[j].To, wires[i].To
	return fmt.Sprintf("%s–%s exchanged with %s–%s", wires[i].From, wires[j].To, wires[j].From, wires[i].To)
}
