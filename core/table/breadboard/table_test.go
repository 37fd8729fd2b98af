package breadboard

import (
	"slices"
	"strings"
	"testing"

	"periph.io/x/conn/v3/physic"

	"slatebell/core/bench"
	"slatebell/core/finding"
	"slatebell/core/wire/link"
)

// TestHoles checks the boards against common practice: a pitch of 2.54 mm, a gap of
// 7.62 mm, 25 and 50 holes a rail, two conductors a column, rails that split in the
// middle.
func TestHoles(t *testing.T) {
	half := Board{Breadboard: bench.Breadboard{ID: "b", Columns: 30, SplitRails: true}}
	full := Board{Breadboard: bench.Breadboard{ID: "b", Columns: 63}}
	if railHoles(30) != 25 || railHoles(63) != 50 {
		t.Errorf("rails of %d and %d holes", railHoles(30), railHoles(63))
	}
	if gap := (E.Y() - F.Y()) * Pitch; gap < 7.619 || gap > 7.621 {
		t.Errorf("e and f are %.2f mm apart", gap)
	}
	if xs := full.RailXs(); len(xs) != 50 || xs[0] < 0 || xs[49] > 62 || xs[5]-xs[4] != 2 {
		t.Errorf("rail holes at %v", xs)
	}
	conductors := map[int]int{}
	for _, row := range Rows() {
		for n := 1; n <= 30; n++ {
			h := Hole{0, row, n}
			if !half.Has(h) {
				continue
			}
			conductors[half.strip(h)]++
			back, err := parseHole(&half, 0, strings.TrimPrefix(name([]Board{half}, h), "b/"))
			if back != h || err != nil {
				t.Errorf("%s reads back as %+v, %v", name([]Board{half}, h), back, err)
			}
			if same := half.inStrip(h); !slices.Contains(same, h) || slices.ContainsFunc(same, func(o Hole) bool { return half.strip(o) != half.strip(h) }) {
				t.Errorf("%s: strip %v", name([]Board{half}, h), same)
			}
		}
	}
	if len(conductors) != strips(30) {
		t.Errorf("%d conductors, want %d", len(conductors), strips(30))
	}
	for i, n := range conductors {
		if want := map[bool]int{true: 5, false: 0}[i < 60]; n != want && (i < 60 || n < 12) {
			t.Errorf("conductor %d has %d holes", i, n)
		}
	}
	for _, bad := range []string{"", "a0", "a31", "k1", "top+26", "top3", "b-1", "ä1"} {
		if h, err := parseHole(&half, 0, bad); err == nil {
			t.Errorf("%q is read as %+v", bad, h)
		}
	}
}

// wired returns a planned bench of one 4-bit LCD, id module-1.
func wired(t *testing.T) bench.Bench {
	t.Helper()
	b := oneModule("ATmega328P", "parallel4", "16x2", "lcd")
	w, err := Plan(&b)
	if err != nil {
		t.Fatal(err)
	}
	b.Wiring = w
	return b
}

// wire returns the index of the wire with an end on a pin's strip, or on the pin.
func wireTo(t *testing.T, b *bench.Bench, pin string) int {
	t.Helper()
	for _, i := range Lay(b).List() {
		if i.From == pin || i.To == pin {
			return i.Number - 1
		}
	}
	t.Fatalf("no wire meets %s", pin)
	return -1
}

func findingsOf(list []finding.Finding) string {
	var codes []string
	for _, f := range list {
		codes = append(codes, f.Code)
	}
	return strings.Join(codes, " ")
}

// TestFaults makes the mistakes of the trade, one by one: each has its code, names its
// pins and holes, and its remedy settles it.
func TestFaults(t *testing.T) {
	drop := func(b *bench.Bench, i int) { b.Wiring.Wires = slices.Delete(b.Wiring.Wires, i, i+1) }
	for name, c := range map[string]struct {
		spoil  func(b *bench.Bench)
		codes  string
		says   string
		settle bool // its first remedy settles all
	}{
		"sound":        {func(*bench.Bench) {}, "", "", false},
		"E open":       {func(b *bench.Bench) { drop(b, wireTo(t, b, "module-1/E")) }, "wiring.open", "New module/E (board-1/a12) is not joined to New module/E", true},
		"R/W open":     {func(b *bench.Bench) { drop(b, wireTo(t, b, "module-1/R/W")) }, "wiring.rw-open", "New module/R/W (board-1/a11)", true},
		"VO open":      {func(b *bench.Bench) { drop(b, wireTo(t, b, "module-1/VO")) }, "wiring.vo-open", "Contrast of New module/wiper (board-1/c4) is not joined to New module/VO", true},
		"ground gone":  {func(b *bench.Bench) { drop(b, wireTo(t, b, "host/GND")) }, "wiring.no-ground", "top- of board-1", true},
		"5 V gone":     {func(b *bench.Bench) { drop(b, wireTo(t, b, "host/5V")) }, "wiring.rail-open", "The rail top+ of board-1 is not joined to 5V", true},
		"one hole off": {func(b *bench.Bench) { b.Wiring.Wires[wireTo(t, b, "host/D4")].To = "board-1/e16" }, "wiring.open wiring.stray", "New module/D3 (board-1/a16)", true},
		"exchanged":    {exchange("host/D2", "host/D3"), "wiring.wrong wiring.wrong", "New module/E (board-1/a12) belongs to New module/E and is joined to New module/RS", true},
		"another pin":  {func(b *bench.Bench) { b.Wiring.Wires[wireTo(t, b, "host/D7")].From = "host/D8" }, "wiring.wrong", "is joined to host/D8", true},
		"among strays": {func(b *bench.Bench) {
			drop(b, wireTo(t, b, "module-1/E"))
			for _, w := range [][2]string{{"d12", "d13"}, {"c13", "c14"}, {"d14", "d15"}, {"c15", "c16"}} {
				add(b, "board-1/"+w[0], "board-1/"+w[1])
			}
			add(b, "host/AREF", "board-1/b16")
		}, "wiring.wrong", "New module/E (board-1/a12) belongs to New module/E and is joined to host/AREF", false},
		"short":         {func(b *bench.Bench) { add(b, "board-1/top+3", "board-1/top-4") }, "wiring.short", "GND and 5V are joined", false},
		"pot ends":      {func(b *bench.Bench) { add(b, "board-1/a3", "board-1/a5") }, "wiring.short wiring.pot-ends", "Both ends of Contrast of New module", false},
		"hole twice":    {func(b *bench.Bench) { add(b, "board-1/e12", "board-1/f12") }, "wiring.hole-twice", "hole board-1/e12, where wire", false},
		"pin twice":     {func(b *bench.Bench) { add(b, "host/D2", "board-1/h29") }, "wiring.pin-twice", "both end on host/D2", false},
		"no such hole":  {func(b *bench.Bench) { add(b, "board-1/e99", "board-2/a1") }, "wiring.no-such-end wiring.no-such-end", `"board-2/a1" is neither a hole nor a pin`, false},
		"off the board": {func(b *bench.Bench) { b.Wiring.Placements[1].Hole = "a29" }, "wiring.off-board", "does not lie in holes with all its legs", false},
		"no such part":  {func(b *bench.Bench) { b.Wiring.Placements[0].Part = "bell" }, "wiring.no-such-part", `"bell" lies on the table`, false},
		"no such place": {func(b *bench.Bench) { b.Wiring.Placements[0].Hole = "z3" }, "wiring.no-such-hole", `"z3" is no hole of board-1`, false},
	} {
		b := wired(t)
		c.spoil(&b)
		list := Check(&b)
		codes := findingsOf(list)
		if c.codes != "" && !strings.HasPrefix(codes, c.codes) && !strings.Contains(" "+codes+" ", " "+c.codes+" ") || c.codes == "" && codes != "" {
			t.Errorf("%s: %s, want %s", name, codes, c.codes)
		}
		text := ""
		for _, f := range list {
			text += f.What + "\n"
		}
		if !strings.Contains(text, c.says) {
			t.Errorf("%s says %q, want %q", name, text, c.says)
		}
		if !c.settle {
			continue
		}
		settled := false
		for _, f := range list {
			for _, r := range f.Remedies {
				for _, op := range r.Patch {
					if wires, ok := op.Value.([]bench.Wire); ok && op.Op == "replace" {
						other := b
						other.Wiring.Wires = wires
						settled = settled || len(Check(&other)) == 0
					}
				}
			}
		}
		if !settled {
			t.Errorf("%s: no remedy of %+v settles it", name, list)
		}
	}
}

func add(b *bench.Bench, from, to string) {
	b.Wiring.Wires = append(b.Wiring.Wires, bench.Wire{From: from, To: to})
}

func exchange(a, c string) func(b *bench.Bench) {
	return func(b *bench.Bench) {
		w := b.Wiring.Wires
		i := slices.IndexFunc(w, func(w bench.Wire) bool { return w.From == a })
		j := slices.IndexFunc(w, func(w bench.Wire) bool { return w.From == c })
		w[i].To, w[j].To = w[j].To, w[i].To
	}
}

// TestNoPins plans for a host without pins, and with labels that it does not have, in
// any case: what there is is wired, and the rest is said.
func TestNoPins(t *testing.T) {
	b := oneModule("Harbour board", "parallel4", "16x2", "lcd")
	odd := oneModule("ATmega328P", "parallel4", "16x2", "lcd")
	odd.Modules[0].Link.Pins = map[string]string{"RS": "d12", "E": "D99", "D4": "D5", "D5": "D4", "D6": "D3", "D7": "D2"}
	bus := oneModule("Harbour board", "backpack", "16x2", "lcd")
	for _, c := range []struct {
		b     bench.Bench
		codes string
		says  string
	}{
		{b, "wiring.no-pin", "RS, E, D4, D5, D6, D7 of New module"},
		{odd, "wiring.no-pin", "drives E of New module"},
		{bus, "", ""},
	} {
		w, err := Plan(&c.b)
		if err != nil {
			t.Fatal(err)
		}
		c.b.Wiring = w
		list := Check(&c.b)
		if findingsOf(list) != c.codes || c.codes != "" && !strings.Contains(list[0].What, c.says) {
			t.Errorf("%s: %+v", c.b.Host.Part, list)
		}
		if j := Joined(&c.b, 0); c.says == "drives E of New module" && (j.Pins["RS"] != "RS" || j.Pins["E"] != "") {
			t.Errorf("driven by %v", j.Pins)
		}
	}
}

// TestRepin moves a lead to a free pin of the host: the program can follow it.
func TestRepin(t *testing.T) {
	b := wired(t)
	b.Modules[0].Link.Pins = map[string]string{"RS": "D2", "E": "D3", "D4": "D4", "D5": "D5", "D6": "D6", "D7": "D7"}
	b.Wiring.Wires[wireTo(t, &b, "host/D7")].From = "host/D8"
	list := Check(&b)
	if len(list) != 1 {
		t.Fatalf("%+v", list)
	}
	for _, r := range list[0].Remedies {
		if r.Label == "Let the program drive D7 by D8" && r.Patch[1].Path == "/modules/0/link/pins" {
			b.Modules[0].Link.Pins = r.Patch[1].Value.(map[string]string)
			if left := Check(&b); len(left) > 0 {
				t.Errorf("then %+v is found", left)
			}
			return
		}
	}
	t.Errorf("no remedy takes the pin over: %+v", list[0].Remedies)
}

// TestJoinedPins holds what drives the header, and the voltages there, against worked
// figures: 220 Ω before a white backlight, VO at both ends of the potentiometer, and
// an open VO that the module's ladder pulls up.
func TestJoinedPins(t *testing.T) {
	b := wired(t)
	b.Modules[0].Display.Tint = "blue"
	turn := 0.0
	b.Modules[0].Fitting.Turn = &turn
	j := Joined(&b, 0)
	if want := (map[string]string{"RS": "RS", "RW": "low", "E": "E", "D4": "D4", "D5": "D5", "D6": "D6", "D7": "D7", "BL": "high"}); !mapsEqual(j.Pins, want) {
		t.Errorf("driven by %v", j.Pins)
	}
	if *j.VOMV != 0 || j.LightMA < 8.2 || j.LightMA > 8.3 || j.Dead != "" {
		t.Errorf("VO %d mV, %.2f mA, %q", *j.VOMV, j.LightMA, j.Dead)
	}
	turn = 1
	if j = Joined(&b, 0); *j.VOMV < 4990 {
		t.Errorf("with the knob at VDD VO is %d mV", *j.VOMV)
	}
	b.Wiring.Wires = slices.DeleteFunc(b.Wiring.Wires, func(w bench.Wire) bool { return w.Colour == "white" })
	if j = Joined(&b, 0); *j.VOMV != 5000 {
		t.Errorf("an open VO is %d mV", *j.VOMV)
	}
	for pin, dead := range map[string]string{"host/GND": "VSS (board-1/a7) is not joined to ground", "host/5V": "VDD (board-1/a8) is not joined to a supply"} {
		spoiled := wired(t)
		i := wireTo(t, &spoiled, pin)
		spoiled.Wiring.Wires = slices.Delete(spoiled.Wiring.Wires, i, i+1)
		if j := Joined(&spoiled, 0); j.Dead != dead {
			t.Errorf("without %s: %q, want %q", pin, j.Dead, dead)
		}
	}
	bare := oneModule("ATmega328P", "parallel4", "16x2", "lcd")
	if Joined(&bare, 0) != nil || Check(&bare) != nil {
		t.Error("a bare table joins something")
	}
	header, err := j.Compile()
	if err != nil || header.Pins(0)&link.Backlight == 0 {
		t.Errorf("the light is out: %v", err)
	}
}

func mapsEqual(a, b map[string]string) bool {
	if len(a) != len(b) {
		return false
	}
	for k, v := range a {
		if b[k] != v {
			return false
		}
	}
	return true
}

// TestBus takes leads of a bus away and exchanges them, on a backpack behind a level
// converter.
func TestBus(t *testing.T) {
	b := oneModule("RP2040", "backpack", "16x2", "lcd")
	b.Bus.Converter = true
	w, err := Plan(&b)
	if err != nil {
		t.Fatal(err)
	}
	b.Wiring = w
	if j := Joined(&b, 0); j.NoAck != "" || j.Dead != "" {
		t.Fatalf("%+v", j)
	}
	for pin, want := range map[string]string{"module-1/SDA": "SDA is not joined to GP0", "host/GP1": "SCL is not joined to GP1", "converter/LV": "is not joined", "module-1/VCC": "VCC (New module/VCC) is not joined to a supply"} {
		spoiled := b
		spoiled.Wiring.Wires = slices.Clone(b.Wiring.Wires)
		i := wireTo(t, &spoiled, pin)
		spoiled.Wiring.Wires = slices.Delete(spoiled.Wiring.Wires, i, i+1)
		j := Joined(&spoiled, 0)
		if pin != "converter/LV" && !strings.Contains(j.NoAck+j.Dead, want) {
			t.Errorf("without %s: %q %q, want %q", pin, j.NoAck, j.Dead, want)
		}
		if len(Check(&spoiled)) == 0 {
			t.Errorf("without %s nothing is found", pin)
		}
	}
	lower := b
	lower.Bus.SDA, lower.Bus.SCL = "gp0", "gp1"
	if j := Joined(&lower, 0); j.NoAck != "" {
		t.Errorf("with its pins in lower case: %q", j.NoAck)
	}
	swapped := b
	swapped.Wiring.Wires = slices.Clone(b.Wiring.Wires)
	exchange("module-1/SDA", "module-1/SCL")(&swapped)
	if j := Joined(&swapped, 0); j.NoAck != "SDA and SCL are exchanged" {
		t.Errorf("exchanged: %q", j.NoAck)
	}
}

// TestWork reads the list to work from: the iron first, the supply last, each wire
// once, cautions where they belong, what is done kept.
func TestWork(t *testing.T) {
	b := wired(t)
	b.Wiring.Done = []string{"solder module-1", wireID(b.Wiring.Wires[0])}
	table := Lay(&b)
	work := table.Work()
	sections := []string{Solder, Place, WireUp, Verify, Power}
	at, wires, done := 0, 0, 0
	for _, w := range work {
		for at < len(sections) && w.Section != sections[at] {
			at++
		}
		if w.Wire > 0 {
			wires++
		}
		if w.Done {
			done++
		}
	}
	if at != len(sections)-1 || wires != len(b.Wiring.Wires) || done != 2 {
		t.Errorf("section %d, %d wires of %d, %d done", at, wires, len(b.Wiring.Wires), done)
	}
	last := work[len(work)-2]
	if !strings.HasPrefix(last.Says, "Red, ") || !strings.Contains(last.Says, "host 5V to board-1/top+") || !strings.Contains(work[0].Caution, "burns") {
		t.Errorf("%+v … %+v", work[0], last)
	}
	var parts []string
	for _, p := range table.Parts() {
		parts = append(parts, p.What)
	}
	for _, want := range []string{"potentiometer 10 kΩ", "resistor 220 Ω, 0.25 W", "half-size breadboard", "16 × 2 LCD"} {
		if !slices.Contains(parts, want) {
			t.Errorf("%q is not among %q", want, parts)
		}
	}
}

// TestFigures holds the calculators against worked figures: 1.9 V over 20 mA less the
// diode's own 10 Ω is 85 Ω, so 100 Ω of E12 and 91 Ω of E24; a 250 kΩ potentiometer
// leaves less of its turn than 10 kΩ; at 3.3 V VO has to lie below ground.
func TestFigures(t *testing.T) {
	b := wired(t)
	m := &b.Modules[0]
	m.Display.Tint = "blue"
	f, ok := Light(m)
	if !ok || f.Exact != 85*physic.Ohm || f.Choices[0].R != 100*physic.Ohm || f.Choices[1].R != 91*physic.Ohm {
		t.Errorf("%+v", f)
	}
	if last := f.Choices[len(f.Choices)-1]; last.R != 0 || !strings.Contains(last.Over, "beyond the 20.0 mA") {
		t.Errorf("no resistor: %+v", last)
	}
	c, ok := Contrast(m)
	if !ok || c.Below || c.Curves[3].Useful() >= c.Curves[1].Useful()/2 || c.Curves[1].Useful() <= 0 || len(c.Curves) != 4 {
		t.Errorf("%+v", c)
	}
	m.Display.Supply.MilliVolts = 3300
	if c, _ := Contrast(m); !c.Below {
		t.Error("at 3.3 V VO need not lie below ground")
	}
	m.Display.Technology, m.Display.Tint = "vfd", "teal"
	if _, lit := Light(m); lit {
		t.Error("a VFD has a backlight")
	}
	if _, ok := Contrast(m); ok {
		t.Error("a VFD has a contrast input")
	}
}

// TestBareWires lays wires as the drawing makes them, with no colour and no length, between
// pins, holes and ends that are not there: the list names the colour of the net that each
// carries, or says that any will do.
func TestBareWires(t *testing.T) {
	b := bench.New("bare")
	b.Modules[0].ID, b.Modules[0].Link.Kind = "hall", "parallel4"
	b.Wiring = bench.Wiring{
		Boards:     []bench.Breadboard{{ID: "host", Columns: 30}}, // a board may have a part's name
		Placements: []bench.Placement{{Part: "hall", Board: "host", Hole: "a3"}},
		Wires:      []bench.Wire{{From: "host/GND", To: "host/b3"}, {From: "host/c20", To: "host/c25"}, {From: "nobody/1", To: "host/z9"}},
	}
	table := Lay(&b)
	list, work := table.List(), table.Work()
	for i, want := range []string{"black", "", ""} {
		if list[i].Colour != want {
			t.Errorf("wire %d is %q, want %q", i+1, list[i].Colour, want)
		}
	}
	for _, w := range work {
		if w.Wire > 1 && !strings.HasPrefix(w.Says, "Any colour, ") {
			t.Errorf("wire %d: %s", w.Wire, w.Says)
		}
	}
	if len(table.Check()) == 0 || len(table.Parts()) == 0 {
		t.Error("nothing is found, or nothing is needed")
	}
}
