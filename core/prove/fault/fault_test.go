package fault

import (
	"fmt"
	"math/rand/v2"
	"os"
	"slices"
	"strings"
	"testing"

	"periph.io/x/conn/v3/physic"

	"slatebell/core/bench"
	"slatebell/core/bench/show"
	"slatebell/core/part/charrom"
	"slatebell/core/part/circuit"
	"slatebell/core/part/module"
	"slatebell/core/table/touch"
	"slatebell/core/table/wiring"
	"slatebell/core/text/glyph"
	"slatebell/core/text/screen"
	"slatebell/core/wire/glass"
	"slatebell/core/wire/link"
	"slatebell/core/wire/rig"
)

// subject is a module on a link that shows some rows.
func subject(t testing.TB, geometry string, kind link.Kind, tech module.Technology, rows ...string) *Subject {
	t.Helper()
	g, err := module.ParseGeometry(geometry)
	if err != nil {
		t.Fatal(err)
	}
	m := module.Module{Geometry: g, Technology: tech, ROM: charrom.A00()}
	s := &Subject{Module: m, Link: link.New(kind), Text: screen.Text{Rows: rows}}
	s.Link.Enables = g.Controllers
	if g.Controllers == 2 {
		s.Link.Mapping.E2, s.Link.Mapping.Backlight = s.Link.Mapping.Backlight, link.Open
	}
	s.Fitting = Fitting{Contrast: min(m.UsualContrast(), 1), Pot: 10_000 * physic.Ohm, Light: 220 * physic.Ohm, Lamp: module.UsualBacklight("green")}
	return s
}

func index(t testing.TB, s *Subject) *Index {
	t.Helper()
	x, err := New(s, nil)
	if err != nil {
		t.Fatal(err)
	}
	return x
}

// tide is a subject of each link, with glyphs and a row that is too long.
func tide(t testing.TB, geometry string, kind link.Kind, tech module.Technology) *Subject {
	s := subject(t, geometry, kind, tech, "Tide 3.2 m \uE000", "High water at 14:05 and 02:31")
	s.Text.Bank = glyph.Bank{glyph.New(0, "wave", glyph.Pattern{0, 8, 21, 2, 0, 8, 21, 2}), glyph.New(1, "oar", glyph.Pattern{1, 2, 4, 8, 16, 24, 24})}
	s.Others = []screen.Text{{Rows: []string{"Slip clear, 3 afloat", "Wind NW 4"}}}
	return s
}

// TestCatalogue lists and plays the catalogue on every link: ids are unique, texts are
// whole, four-bit modules have 10,000 cases, every code is met somewhere, and the same
// subject gives the same symptoms again.
func TestCatalogue(t *testing.T) {
	met := map[string]bool{}
	for _, kind := range link.Kinds {
		for _, c := range []struct {
			geometry string
			tech     module.Technology
		}{{"16x2", module.LCD}, {"20x2", module.VFD}, {"40x4", module.LCD}, {"8x1", module.LCD}} {
			if kind == link.Parallel8 && c.geometry != "16x2" {
				continue // its 40,320 orders take a second each
			}
			s := tide(t, c.geometry, kind, c.tech)
			if c.tech == module.VFD {
				s.Module.Family = 1
			}
			if c.geometry == "20x2" {
				listening(t, s)
			}
			x := index(t, s)
			ids := map[string]bool{}
			for i := range x.Faults {
				f := &x.Faults[i]
				met[f.Code] = true
				if text := f.What() + f.Where() + f.Fix(); ids[f.ID] || strings.Contains(text, "%") || strings.Contains(text, "  ") || f.Weight <= 0 || len(f.ID) > 120 {
					t.Errorf("%s %s: %s is twice there or badly said: %s (%s), %s", kind, c.geometry, f.ID, f.What(), f.Where(), f.Fix())
				}
				ids[f.ID] = true
			}
			if c.geometry == "16x2" && len(x.Cases) < Wanted {
				t.Errorf("%s: %d cases", kind, len(x.Cases))
			}
			if kind == link.Parallel8 {
				if n := len(x.Faults); n < 40320 {
					t.Errorf("%d faults; the orders of eight lines alone are 40,320", n)
				}
				continue
			}
			again := index(t, s)
			for i, c := range x.Cases {
				a, b := x.View(c.View), again.View(again.Cases[i].View)
				if a.Key() != b.Key() {
					t.Fatalf("%s: case %d shows something else the second time", kind, i)
				}
			}
		}
	}
	for _, code := range Codes() {
		if !met[code] {
			t.Errorf("%s is in no catalogue", code)
		}
	}
}

// TestIndexIsWhatTheRigShows holds views of the index, which are kept by what reaches the
// controllers, against each case played by itself into a rig of its own.
func TestIndexIsWhatTheRigShows(t *testing.T) {
	for _, kind := range link.Kinds[:3] {
		x := index(t, tide(t, "16x2", kind, module.LCD))
		r := rand.New(rand.NewPCG(1, 2))
		for range 400 {
			c := &x.Cases[r.IntN(len(x.Cases))]
			made, err := x.Made(c)
			if err != nil {
				t.Fatal(err)
			}
			hardware, err := rig.New(made.Module, made.Wired)
			if err != nil {
				t.Fatal(err)
			}
			hardware.Wire(made.Hardware)
			if made.Before != nil {
				hardware.Follow(made.Before)
			}
			hardware.Play(made.Program, nil)
			mo := hardware.Moment()
			g := mo.Glass(&made.Module, made.Contrast)
			v := glass.See(&g, module.LCD, nil)
			want := x.View(c.View)
			st := x.state(c)
			if j := st.join(&x.header); j.shorted || j.dead && st.bus.jumper {
				continue // the light of what is not fed is the index's own matter
			}
			if slices.Compare(v.Cells, want.Cells) != 0 && !made.Hardware.Dead {
				t.Errorf("%s %s: the rig shows %q, the index %q", kind, x.Faults[c.A].ID, x.Text(&v), x.Text(want))
			}
		}
	}
}

// TestSymptoms checks what the trade says of mistakes (common practice).
func TestSymptoms(t *testing.T) {
	lcd := tide(t, "16x2", link.Parallel4, module.LCD)
	pack := tide(t, "16x2", link.Backpack, module.LCD)
	tall := subject(t, "16x4", link.Parallel4, module.LCD, "one", "two", "three", "four")
	vfd := subject(t, "20x2", link.Parallel4, module.VFD, "Slip clear")
	vfd.Module.Family = 1
	played := map[*Subject]*Index{}
	line := subject(t, "16x1", link.Parallel4, module.LCD, "Quillfish Slip") // of one line: it needs less
	one := subject(t, "16x1split", link.Parallel4, module.LCD, "Quillfish Slip")
	for _, c := range []struct {
		s     *Subject
		fault string
		class glass.Class
		rows  string // first row as it reads; "" where it does not matter
	}{
		{lcd, Sound, glass.Characters, "Tide 3.2 m ①    "},
		{lcd, "contrast.low", glass.Blank, ""},
		{lcd, "contrast.high", glass.Shaded, "Tide 3.2 m ①    "},
		{line, "contrast.high", glass.AllBlocks, ""},
		{lcd, "contrast.weak", glass.Faint, "Tide 3.2 m ①    "},
		{lcd, "wire.open:VO", glass.Blank, ""},
		{lcd, "wire.open:VDD", glass.Blank, ""},
		{lcd, "supply.3v3", glass.Blank, ""},
		{lcd, "start.none", glass.BlockRow, ""},
		{lcd, "wire.open:E", glass.BlockRow, ""},
		{lcd, "wire.open:R/W", glass.BlockRow, ""},
		{lcd, "display.off", glass.Blank, ""},
		{lcd, "entry.back", glass.Characters, "T               "},
		{lcd, "place.column", glass.Characters, " Tide 3.2 m ①   "},
		{lcd, "glyph.slot", glass.Characters, "Tide 3.2 m ②    "},
		{lcd, "glyph.missing", glass.Characters, "Tide 3.2 m      "},
		{lcd, "text.left:1", glass.Characters, "Tide 3.2 m ①3 af"},
		{lcd, "text.left:other", glass.Characters, "Tide 3.2 m ①****"},
		{lcd, "nibble.lost:3.1", glass.Characters, ""},
		{pack, "bus.address:0x3F", glass.BlockRow, ""},
		{pack, "bus.swapped", glass.BlockRow, ""},
		{pack, "wire.open:VCC", glass.Blank, ""},
		{pack, "light.jumper", glass.Characters, "Tide 3.2 m ①    "},
		{tall, "place.geometry:20x4", glass.Characters, "one             "},
		{tall, "place.onward", glass.Characters, "one             "},
		{vfd, "vfd.link", glass.Blank, ""},
		{one, "place.geometry:16x1", glass.BlockRow, ""},
	} {
		x := played[c.s]
		if x == nil {
			x = index(t, c.s)
			played[c.s] = x
		}
		found, ok := x.Find(c.fault)
		if !ok {
			t.Errorf("%s is not in the catalogue", c.fault)
			continue
		}
		v := x.View(found.View)
		if text := x.Text(v); v.Class() != c.class || c.rows != "" && text[0] != c.rows {
			t.Errorf("%s: %s, %q; want %s, %q", c.fault, v.Class(), text, c.class, c.rows)
		}
	}
	x := played[tall] // rows of a 16×4 are not at a 20×4's addresses: the last two begin four columns further right
	c, _ := x.Find("place.geometry:20x4")
	if text := x.Text(x.View(c.View)); text[2] != "    three       " || text[3] != "    four        " {
		t.Errorf("a 16×4 taken for 20×4 shows %q", text)
	}
	c, _ = x.Find("place.onward") // memory goes on from row 1 to row 3
	if text := x.Text(x.View(c.View)); strings.TrimSpace(text[2]) != "two" {
		t.Errorf("rows without addresses: %q", text)
	}
	x = played[lcd]
	c, _ = x.Find("text.long:2") // beyond column 16 the text goes on in memory that is not shown
	if text := x.Text(x.View(c.View)); text[1] != "High water at 14" {
		t.Errorf("a long row: %q", text)
	}
}

// TestOutcomes tries every test on a part of the cases: what is told apart is said apart,
// since results are known by what they say.
func TestOutcomes(t *testing.T) {
	for _, kind := range link.Kinds[:3] {
		x := index(t, tide(t, "16x2", kind, module.LCD))
		names := make([]map[string]Outcome, len(x.Tests))
		for i := range x.Cases {
			if i >= len(x.Faults) && i%40 != 0 {
				continue
			}
			p := x.Probe(&x.Cases[i])
			for k := range x.Tests {
				o, err := p.Observe(&x.Tests[k])
				if err != nil {
					t.Fatal(err)
				}
				if names[k] == nil {
					names[k] = map[string]Outcome{}
				}
				if other, ok := names[k][x.Key(o)]; ok && other != o {
					t.Errorf("%s: two outcomes of %s say %q", kind, x.Tests[k].ID, x.Key(o))
				}
				names[k][x.Key(o)] = o
			}
		}
		for k := range x.Tests {
			if len(names[k]) < 2 {
				t.Errorf("%s: %s tells nothing", kind, x.Tests[k].ID)
			}
		}
	}
}

// TestContrast holds VO of every fault that leaves the module fed against nodal analysis.
func TestContrast(t *testing.T) {
	x := index(t, subject(t, "16x2", link.Parallel4, module.LCD, "Tide"))
	tried := 0
	for i := range x.Faults {
		if f := &x.Faults[i]; f.Topic == Program || f.alone {
			continue
		}
		st := x.state(&x.Cases[i])
		j := st.join(&x.header)
		if j.dead || j.voLines != 0 {
			continue
		}
		tried++
		const ground, supply, wiper, vo = 0, 1, 2, 3
		var n circuit.Network
		n.Hold(ground, 0)
		n.Hold(supply, st.fed())
		ends := map[end]int{atGround: ground, atSupply: supply}
		part := func(r physic.ElectricResistance, by float64) physic.ElectricResistance {
			return max(physic.ElectricResistance(float64(r)*by), physic.MilliOhm)
		}
		n.Resistor(ends[st.pot.low], wiper, part(st.pot.ohm, st.pot.turn))
		n.Resistor(wiper, ends[st.pot.high], part(st.pot.ohm, 1-st.pot.turn))
		n.Resistor(vo, supply, x.subject.Module.Ladder())
		pins := st.at(&x.header)
		f := pins[x.header.index["VO"]]
		for _, w := range []struct {
			is bool
			to int
		}{{f.ground, ground}, {f.supply || f.lamp, supply}, {f.wiper, wiper}} {
			if w.is {
				n.Resistor(vo, w.to, physic.MilliOhm)
			}
		}
		solved := n.Solve()
		v, _ := solved.Voltage(vo)
		if got := j.vo; got < int32(v/physic.MilliVolt)-40 || got > int32(v/physic.MilliVolt)+40 {
			t.Errorf("%s: VO at %d mV, by nodal analysis %s", x.Faults[i].ID, got, v)
		}
	}
	if tried < 80 {
		t.Errorf("%d faults compared", tried)
	}
}

// TestTestText holds the text that was found against texts by chance, and against the
// module's own.
func TestTestText(t *testing.T) {
	var cells []charrom.Cell // of a ROM in which some characters of the texts that stand here look otherwise
	for code := byte(' '); code < '}'; code++ {
		dots := charrom.A00().Dots(code)
		if strings.ContainsRune("+V5", rune(code)) {
			dots[0] ^= 1
		}
		cells = append(cells, charrom.Cell{Code: code, Characters: string(rune(code)), Dots: dots})
	}
	for i, kind := range slices.Repeat([]link.Kind{link.Parallel4, link.ShiftReg, link.Backpack, link.Parallel8}, 3) {
		s := subject(t, []string{"16x2", "16x1", "20x4"}[i/4], kind, module.LCD, "Tide 3.2 m", "High 14:05")
		if i == 2 {
			s.Module.ROM = charrom.New("own", cells)
		}
		x := index(t, s)
		if found := x.found(); (found == nil) != (i == 2) {
			t.Errorf("%s: the texts that were found once are %q", kind, found)
		}
		rows, err := x.TestText()
		if err != nil {
			t.Fatal(err)
		}
		best, err := x.Told(rows)
		if err != nil {
			t.Fatal(err)
		}
		if own, _ := x.Told(x.subject.Text.Rows); own > best {
			t.Errorf("%s: %q tells %.3f bits, the screen itself %.3f", kind, rows, best, own)
		}
		r := rand.New(rand.NewPCG(7, 7))
		better, sum := 0, 0.0
		const tries = 150
		for range tries {
			random := make([]string, len(rows))
			for i := range rows {
				for range rows[i] {
					random[i] += string(testSigns[r.IntN(len(testSigns))])
				}
			}
			told, _ := x.Told(random)
			sum += told
			if told > best+1e-9 { // beyond how sums are rounded
				better++
			}
		}
		if better > 0 || best < sum/tries {
			t.Errorf("%s: %q tells %.3f bits; %d of %d texts by chance tell more, %.3f on average", kind, rows, best, better, tries, sum/tries)
		}
	}
}

func TestRefusals(t *testing.T) {
	s := subject(t, "16x2", link.Parallel4, module.LCD, "Tide")
	if _, err := Make(s, "wire.open:Q7"); err == nil || !strings.Contains(err.Error(), "not in the catalogue") {
		t.Errorf("an unknown fault: %v", err)
	}
	s.Options.Waits = "poll"
	if _, err := New(s, nil); err == nil || !strings.Contains(err.Error(), "busy flag") {
		t.Errorf("a program that cannot be: %v", err)
	}
	eight := subject(t, "16x2", link.Parallel8, module.LCD, "Tide")
	if list, err := List(eight); err != nil || len(list) > 1000 {
		t.Errorf("the list of eight lines has %d faults, %v", len(list), err)
	}
	if m, err := Make(eight, "wire.order:D7,D6,D5,D4,D3,D2,D1,D0"); err != nil || m.Hardware.Header == nil {
		t.Errorf("turned end for end: %v", err)
	}
}

// BenchmarkCatalogue builds the catalogue of a 4-bit module: 10,500 cases played and
// indexed.
func BenchmarkCatalogue(b *testing.B) {
	s := subject(b, "16x2", link.Parallel4, module.LCD, "Tide 3.2 m", "High 14:05")
	if k := os.Getenv("LINK"); k != "" {
		s = subject(b, "16x2", link.Kind(k), module.LCD, "Tide 3.2 m", "High 14:05")
	}
	n := 0
	for b.Loop() {
		n = len(index(b, s).Cases)
	}
	b.ReportMetric(float64(n), "cases")
}

// listening gives a subject inputs of every kind, joined as planned; what a program shows of a contact is how
// often it was told that it closed.
func listening(t testing.TB, s *Subject) *Subject {
	t.Helper()
	b := &bench.Bench{Host: bench.Host{Part: "ATmega328P"}, Modules: []bench.Module{bench.NewModule("hall", "Hall")}}
	b.Modules[0].Show.Inputs = []bench.Input{
		{ID: "bell", Name: "Bell", Kind: "button", Pin: "A2"}, {ID: "oar", Name: "Oar", Kind: "button", Pin: "A3", Pull: "down"},
		{ID: "dial", Name: "Dial", Kind: "counter", Pin: "A4", PinB: "A5", Counter: bench.Counter{Count: 9}},
		{ID: "tide", Name: "Tide", Kind: "signal", Pin: "A0"}, {ID: "radio", Name: "Radio", Kind: "serial", Pin: "D0"},
	}
	net := wiring.Of(b)
	c := touch.New(b, &net, touch.Planned(&net))
	for i, in := range b.Modules[0].Show.Inputs {
		one := Input{ID: in.ID, Name: in.Name, Pin: in.Pin, Kind: show.Kind(in.Kind), Index: i, Circuit: c, First: true}
		if in.Kind == "button" || in.Kind == "counter" {
			one.Shows = func(l *touch.Line, closes int) (before, after screen.Text) {
				n, down := int64(0), false
				says := func() screen.Text { return screen.Text{Rows: []string{fmt.Sprintf("%s %d", in.Name, n)}} }
				if e, told := l.Begins(i); told {
					n, down = n+1, e.Value != 0
				}
				before = says()
				for k := range 2 * closes {
					if e, told := l.Tell(show.Event{Value: int64(1 - k%2)}, down); told {
						n, down = n+e.Value, e.Value != 0
					}
				}
				return before, says()
			}
		}
		s.Inputs = append(s.Inputs, one)
	}
	return s
}

// TestInputs tries every fault of the inputs: before it is used a button shows nothing of it unless it is stuck,
// and then what the program is told of its pin, what a meter reads there, and which joint it is.
func TestInputs(t *testing.T) {
	x := index(t, listening(t, tide(t, "16x2", link.Parallel4, module.LCD)))
	for _, c := range []struct{ fault, before, use, pin string }{
		{Sound, "Tide 3.2 m ①", "Bell 1", "5.0 V, then 0.0 V"},
		{"input.open:1,Bell", "Tide 3.2 m ①", "Bell 0", "5.0 V, then 5.0 V"},
		{"input.open:2,Bell", "Tide 3.2 m ①", "Bell 0", "5.0 V, then 5.0 V"},
		{"input.rail:2,Bell", "Tide 3.2 m ①", "Bell 0", "5.0 V, then 5.0 V"},
		{"input.stuck:Bell", "Bell 1", "Bell 1", "0.0 V, then 0.0 V"},
		{"input.bounce:Bell", "Tide 3.2 m ①", "Bell 3", "5.0 V, then 0.0 V"},
		{"input.open:1,Oar", "Tide 3.2 m ①", "Oar 0", "0.0 V, then 0.0 V"},
		{"input.pull:Oar", "Tide 3.2 m ①", "Oar 1", "wanders, then 5.0 V"},
		{"input.stuck:Oar", "Oar 1", "Oar 1", "5.0 V, then 5.0 V"},
		{"input.swapped:A,B,Dial", "Tide 3.2 m ①", "Dial -1", "5.0 V, then 5.0 V"},
		{"input.open:C,Dial", "Tide 3.2 m ①", "Dial 0", "5.0 V, then 5.0 V"},
		{"input.open:OUT,Tide", "Tide 3.2 m ①", "it wanders", "wanders, then wanders"},
		{"input.open:GND,Tide", "Tide 3.2 m ①", "it stays as at 100 %", "5.0 V, then 5.0 V"},
		{"input.swapped:GND,VCC,Tide", "Tide 3.2 m ①", "it goes the other way", "5.0 V, then 0.0 V"},
		{"input.open:TX,Radio", "Tide 3.2 m ①", "nothing comes", "wanders, then wanders"},
		{"input.open:GND,Radio", "Tide 3.2 m ①", "nothing comes", "5.0 V, then 0.0 V"},
	} {
		found, ok := x.Find(c.fault)
		if !ok {
			t.Errorf("%s is not in the catalogue", c.fault)
			continue
		}
		if got := strings.TrimSpace(x.Text(x.View(found.View))[0]); got != c.before {
			t.Errorf("%s: before it is used the glass is %q, want %q", c.fault, got, c.before)
		}
		id := "bell"
		for _, in := range x.subject.Inputs {
			if strings.HasSuffix(c.fault, in.Name) {
				id = in.ID
			}
		}
		got := map[string]string{}
		p := x.Probe(found)
		for i := range x.Tests {
			if test := &x.Tests[i]; strings.HasSuffix(test.ID, ":"+id) {
				o, err := p.Observe(test)
				if err != nil {
					t.Fatal(err)
				}
				said := ""
				if v, glass := x.ViewOf(o); glass {
					said = strings.TrimSpace(x.Text(v)[0])
				} else {
					said = x.Says(o)
				}
				got[strings.TrimSuffix(test.ID, ":"+id)] = said
			}
		}
		joint := strings.TrimSuffix(x.Faults[found.A].What(), ".")
		if c.fault == Sound || strings.HasPrefix(c.fault, "input.bounce") { // nobody sees it bounce
			joint = "its joints are sound"
		}
		if got["use"] != c.use || got["pin"] != c.pin || got["joint"] != joint {
			t.Errorf("%s: %q; want %q, %q and %q", c.fault, got, c.use, c.pin, joint)
		}
	}
}
