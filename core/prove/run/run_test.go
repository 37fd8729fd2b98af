package run

import (
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"
	"time"

	"slatebell/core/finding"
	"slatebell/core/part/charrom"
	"slatebell/core/part/hd44780"
	"slatebell/core/part/module"
	"slatebell/core/prove/testbed"
	"slatebell/core/prove/testbed/bedtest"
	"slatebell/core/text/glyph"
	"slatebell/core/text/screen"
	"slatebell/core/wire/link"
	"slatebell/core/wire/sequence"
)

func mustRun(t *testing.T, m testbed.Setup, o Options) *Run {
	t.Helper()
	r, err := Do(&m, o)
	if err != nil {
		t.Fatal(err)
	}
	return r
}

// words joins a step's words.
func words(r *Run, step int) string {
	s := r.Program.Steps[step]
	var out []string
	for _, w := range r.Program.Words[s.First : s.First+s.Count] {
		out = append(out, r.Program.Coder.Format(w))
	}
	return strings.Join(out, " ")
}

// TestOneCharacter checks the bytes of 'A' on a backpack of the usual mapping
// with its backlight on: 4D 49 1D 19 (common practice; RS P0, E P2, light P3).
// After an instruction, RS is set up one byte earlier, as t_AS asks for.
func TestOneCharacter(t *testing.T) {
	r := mustRun(t, bedtest.Slice("backpack", "AA"), Options{NoInit: true})
	for i, want := range []string{"88 8C 88 0C 08", "49 4D 49 1D 19", "4D 49 1D 19"} {
		if got := words(r, i); got != want {
			t.Errorf("step %d sends %s, want %s", i+1, got, want)
		}
	}
}

// TestInitialisation checks the waits and the order of the data sheet
// ADE-207-272(Z), figures 23 and 24.
func TestInitialisation(t *testing.T) {
	for link, want := range map[string]string{
		"parallel4": "- 30 30 30 20 28 08 01 06 0C",
		"backpack":  "- - 30 30 30 20 28 08 01 06 0C",
	} {
		r := mustRun(t, bedtest.Slice(link), Options{})
		var got []string
		var falls []time.Duration // when each function set was latched
		for i, s := range r.Program.Steps {
			value := "-"
			if s.Sends() {
				value = fmt.Sprintf("%02X", s.Op.Byte)
			}
			got = append(got, value)
			if s.Kind == sequence.Wake {
				falls = append(falls, r.Moments[i+1].Controllers[0].BusyUntil-hd44780.ExecutionTime(s.Op, 0))
			}
		}
		if text := strings.Join(got, " "); text != want {
			t.Errorf("%s: sends %s, want %s", link, text, want)
		}
		if falls[0] < 15*time.Millisecond || falls[1]-falls[0] < 4100*time.Microsecond || falls[2]-falls[1] < 100*time.Microsecond {
			t.Errorf("%s: function sets at %v; want more than 15 ms after power-up, 4.1 ms and 100 µs apart", link, falls)
		}
		if len(r.Findings) > 0 {
			t.Errorf("%s: findings %v", link, r.Findings)
		}
	}
}

// TestGlassEqualsScreen is the loop's property: whatever is composed within the
// module and its ROM stands on the glass, and no limit is broken, on every
// geometry, link, way of waiting, lawful set-up and grouping.
func TestGlassEqualsScreen(t *testing.T) {
	random := rand.New(rand.NewPCG(7, 44780))
	pick := func(list ...string) string { return list[random.IntN(len(list))] }
	for range 1500 {
		g := module.Geometries[random.IntN(len(module.Geometries))]
		m := bedtest.Slice(string(link.Kinds[random.IntN(4)]))
		m.Display.Geometry, m.Display.Controller.ROM = g.Name, pick("A00", "A02")
		if m.Display.Technology = pick("lcd", "vfd"); m.Display.Technology == "vfd" {
			m.Display.Controller.Family, m.Display.Supply.Brightness = pick("vfd-function-set", "vfd-data-byte"), random.IntN(4)
		} else if !g.TwoLine {
			m.Display.Controller.Font = pick("5x8", "5x10")
		}
		bank := make([]charrom.Dots, glyph.Slots)
		for slot := range bank {
			if bank[slot] = randomDots(random); m.Display.Controller.Font == "5x10" {
				bank[slot] = bank[slot&^1]
			}
			if m.Display.Controller.Font != "5x10" || slot%2 == 0 {
				m.Glyphs = append(m.Glyphs, glyph.New(slot, "", glyph.Of(bank[slot])))
			}
		}
		for range g.Rows {
			m.Rows = append(m.Rows, randomRow(random, g.Cols))
		}
		m.Display.Controller.OscillatorKHz = 190 + random.IntN(161)
		m.Link.Waits = pick("worst", "typical", "poll")
		m.Link.ReadWrite = true
		if m.Link.Kind == "shift" && m.Link.Waits == "poll" {
			m.Link.Waits = "worst"
		}
		if m.Link.Kind == "backpack" {
			m.Link.Outputs.Transactions, m.Link.Outputs.Setup = pick("byte", "operation", "screen"), pick("lawful", "before")
			m.Link.Outputs.SpeedHz = 1000 * (10 + random.IntN(91))
		}
		r := mustRun(t, m, Options{})
		what := fmt.Sprintf("%s on %s, %s, waits %s, %d kHz, %+v", m.Display.Geometry, m.Link.Kind, m.Display.Technology, m.Link.Waits, m.Display.Controller.OscillatorKHz, m.Link)
		if worst := finding.Worst(r.Findings); worst != "" && worst != finding.Note {
			t.Fatalf("%s: %+v", what, r.Findings[0])
		}
		glass := r.Last().Glass(&r.Module, r.Contrast)
		for i, c := range glass.Cells {
			want := r.Layout.Cells[i].Code
			dots := r.Module.ROM.Dots(want)
			if slot, ok := r.Module.ROM.Slot(want); ok {
				dots = bank[slot]
			}
			if c.Code != want || c.Dots != dots || c.Below != [3]byte{} && r.Module.ROM.Below(want) == [2]byte{} {
				t.Fatalf("%s: cell %d shows %02X, want %02X, dots %v, want %v", what, i, c.Code, want, c.Dots, dots)
			}
		}
		if want := 1 - 0.25*float64(m.Display.Supply.Brightness); m.Display.Technology == "vfd" && glass.Look.Lit != want {
			t.Fatalf("%s: brightness %v, want %v", what, glass.Look.Lit, want)
		}
	}
}

// TestTallFont checks the 5×10 font on a module of one line: the letter whose
// tail goes below the eighth row, a glyph over two slots, the cursor in line 11,
// and the same module before initialisation, whose duty reaches 8 rows only
// (data sheet ADE-207-272(Z), "Character generator RAM" and tables 4 to 6, from
// memory).
func TestTallFont(t *testing.T) {
	m := bedtest.Slice("parallel8", "\uE0E7\uE003")
	m.Display.Geometry, m.Display.Controller.Font = "8x1", "5x10"
	m.Glyphs = glyph.Bank{glyph.New(2, "bar", glyph.Pattern{0x1F})}
	r := mustRun(t, m, Options{Live: []sequence.Aimed{{Op: hd44780.Command(0x0E)}}})
	glass := r.Last().Glass(&r.Module, r.Contrast)
	g, bar, cursor := glass.Cells[0], glass.Cells[1], glass.Cells[2]
	if glass.CellRows != 11 || glass.Short || g.Below != [3]byte{0x01, 0x0E, 0} || bar.Dots != (charrom.Dots{0x1F}) || bar.Below != [3]byte{} || cursor.Below != [3]byte{0, 0, 0x1F} || cursor.Dots[7] != 0 {
		t.Errorf("g %v, bar %v, cursor %v", g, bar, cursor)
	}
	if before := r.Moments[0].Glass(&r.Module, r.Contrast); !before.Short {
		t.Error("before initialisation all 11 rows are scanned")
	}
	if len(r.Findings) > 0 {
		t.Errorf("findings %+v", r.Findings)
	}
	m.Display.Geometry = "16x2"
	if _, err := Do(&m, Options{}); err == nil || !strings.Contains(err.Error(), "on one line only") {
		t.Errorf("5×10 dots on two lines: %v", err)
	}
}

// randomRow returns up to a number of codes that stand for themselves.
func randomRow(random *rand.Rand, cols int) string {
	var b strings.Builder
	for range random.IntN(cols + 1) {
		b.WriteRune(screen.CodeBase + rune(random.IntN(256)))
	}
	return b.String()
}

func randomDots(random *rand.Rand) (d charrom.Dots) {
	for i := range d {
		d[i] = byte(random.IntN(32))
	}
	return d
}

// TestDrawnRemedy takes up the offer to draw a character that the ROM lacks: its
// dots, drawn in ROM A02, reach the glass over CGRAM, and nothing is left to
// find. With every slot taken nothing is offered.
func TestDrawnRemedy(t *testing.T) {
	m := bedtest.Slice("backpack", "Café é")
	drawn := func() *finding.Remedy {
		for _, remedy := range mustRun(t, m, Options{}).Findings[0].Remedies {
			if len(remedy.Patch) == 3 {
				return &remedy
			}
		}
		return nil
	}
	remedy := drawn()
	if remedy == nil || remedy.Label != "Draw 'é' as a glyph in slot 0" || remedy.Patch[1].Path != "/modules/0/glyphs" {
		t.Fatalf("offered %+v", remedy)
	}
	m.Rows, m.Glyphs = remedy.Patch[2].Value.([]string), remedy.Patch[1].Value.(glyph.Bank)
	r := mustRun(t, m, Options{})
	glass := r.Last().Glass(&r.Module, r.Contrast)
	a02, _ := charrom.A02().Code('é')
	if text := glass.Text(r.Module.ROM)[0]; text != "Caf① ①          " || m.Rows[0] != "Caf\uE008 \uE008" || glass.Cells[3].Dots != charrom.A02().Dots(a02) || len(r.Findings) > 0 {
		t.Errorf("shows %q, %v; findings %+v", text, glass.Cells[3].Dots, r.Findings)
	}
	m.Rows, m.Glyphs = []string{"Café"}, nil
	for slot := range glyph.Slots {
		m.Glyphs = append(m.Glyphs, glyph.New(slot, "", glyph.Pattern{byte(slot)}))
	}
	if remedy := drawn(); remedy != nil {
		t.Errorf("with every slot taken: %+v", remedy)
	}
}

// codes lists the codes of a run's findings.
func codes(r *Run) string {
	var out []string
	for _, f := range r.Findings {
		out = append(out, f.Code)
	}
	return strings.Join(out, " ")
}

// TestFaults makes the mistakes of the trade; what the glass shows is computed,
// and each is named.
func TestFaults(t *testing.T) {
	for _, kind := range []string{"backpack", "parallel4"} {
		m := bedtest.Slice(kind, "Tide 3.2 m", "High 14:05")
		for _, c := range []struct {
			fault string
			found []string // codes, any of which may stand anywhere in the list
			dark  bool     // the first row is in blocks
		}{
			{"start.none", []string{"start.order"}, true},
			{"wire.open:E", []string{"glass.off"}, true},
			{"wait.none", []string{"timing.while-busy", "glass."}, false},
			{"wire.open:D4", []string{"glass."}, false}, // 0x2 arrives as 0x3: the interface stays eight bits wide
			{"nibble.lost:12.1", []string{"glass.", "wire.half-byte"}, false},
		} {
			r := mustRun(t, m, Options{Fault: c.fault})
			glass := r.Last().Glass(&r.Module, r.Contrast)
			got := codes(r)
			for _, want := range c.found {
				if !strings.Contains(got, want) {
					t.Errorf("%s, %s: findings %s; want %s", kind, c.fault, got, want)
				}
			}
			if c.dark && glass.Look.Dark < 0.7 {
				t.Errorf("%s, %s: no blocks", kind, c.fault)
			}
		}
	}
	away := mustRun(t, bedtest.Slice("backpack", "Tide"), Options{Fault: "bus.address:0x3F"})
	if got := codes(away); !strings.Contains(got, "wire.no-answer") || !strings.Contains(got, "glass.off") {
		t.Errorf("another address: findings %s", got)
	}
	setup := bedtest.Slice("parallel8", "Tide")
	if _, err := Do(&setup, Options{Fault: "bus.swapped"}); err == nil || !strings.Contains(err.Error(), "not in the catalogue") {
		t.Errorf("a fault of another link: %v", err)
	}
}

// TestRisks checks that what breaks a limit is said, with the step.
func TestRisks(t *testing.T) {
	withE := bedtest.Slice("backpack", "Tide")
	withE.Link.Outputs.Setup = "with-e"
	fast := bedtest.Slice("backpack", "Tide")
	fast.Link.Outputs.SpeedHz = 400_000
	reads := bedtest.Slice("parallel4", "Tide")
	reads.Link.ReadWrite, reads.Host.BearsMV = true, 3300
	slow := bedtest.Slice("parallel4", "Tide 3.2 m")
	slow.Link.Waits, slow.Display.Controller.OscillatorKHz = "typical", 270
	for _, c := range []struct {
		m    testbed.Setup
		want string
	}{
		{withE, "timing.t-as"},
		{fast, "link.fast-clock"},
		{reads, "link.read-voltage"},
		{slow, ""},
	} {
		r := mustRun(t, c.m, Options{})
		if got := codes(r); got != c.want {
			t.Errorf("%+v: findings %q, want %q", c.m.Link, got, c.want)
		}
		if len(r.Findings) > 0 && c.want[:4] == "timi" && (r.Findings[0].Step == nil || r.Findings[0].Source == "") {
			t.Errorf("%s names no step or source", c.want)
		}
	}
	// A host that waits for a typical module in front of a slow one.
	r := mustRun(t, slow, Options{})
	r.Module.Oscillator = hd44780.MinOscillator
	if err := r.play(r.Wired, nil, true); err != nil || !strings.Contains(codes(r), "timing.while-busy") {
		t.Errorf("too short a wait: findings %s, %v", codes(r), err)
	}
}

// TestWays checks that the default is the fastest way that breaks nothing, on
// every geometry, that it beats one transaction a byte by more than half, and
// that raising E together with RS is named as breaking t_AS.
func TestWays(t *testing.T) {
	for _, g := range module.Geometries {
		for _, kind := range []string{"backpack", "shift"} {
			m := bedtest.Slice(kind, "QUILL", "Tide")
			m.Display.Geometry = g.Name
			ways, err := Ways(&m)
			if err != nil {
				t.Fatal(err)
			}
			if !ways[0].Best || ways[0].Setup != link.SetupLawful {
				t.Errorf("%s, %s: the default is not the best of %+v", g.Name, kind, ways)
			}
			for _, w := range ways {
				if broken := len(w.Breaks) > 0; broken != (w.Setup == link.SetupWithE) || broken && w.Breaks[0].Code != "timing.t-as" {
					t.Errorf("%s, %s, %s %s breaks %+v", g.Name, kind, w.Grouping, w.Setup, w.Breaks)
				}
				if w.Grouping == link.PerByte && w.Setup == link.SetupBefore && ways[0].WireTime*2 > w.WireTime {
					t.Errorf("%s: %s, and %s the plain way", g.Name, ways[0].WireTime, w.WireTime)
				}
			}
		}
	}
	if ways, err := Ways(new(testbed.Setup)); ways != nil || err != nil {
		t.Errorf("a link without outputs: %v, %v", ways, err)
	}
}

// TestBeforeInit checks the look of a module that was only powered up: row 1 in
// blocks, row 2 bare (common practice: "the good sign").
func TestBeforeInit(t *testing.T) {
	r := mustRun(t, bedtest.Slice("backpack"), Options{})
	glass := r.Moments[0].Glass(&r.Module, r.Contrast)
	if glass.On || glass.Look.Dark < 0.7 || glass.Look.Unused > 0.1 || !glass.Cells[0].Scanned || glass.Cells[16].Scanned {
		t.Errorf("at power-up: on %v, look %+v, rows scanned %v and %v", glass.On, glass.Look, glass.Cells[0].Scanned, glass.Cells[16].Scanned)
	}
	after := r.Last().Glass(&r.Module, r.Contrast)
	if after.Look.Dark > 0.1 || after.Look.Lit < 0.9 {
		t.Errorf("initialised: look %+v", after.Look)
	}
}

func BenchmarkRun(b *testing.B) {
	full := bedtest.Slice("backpack")
	full.Display.Geometry = "40x4"
	for range 4 {
		full.Rows = append(full.Rows, strings.Repeat("Tide", 10))
	}
	for name, m := range map[string]testbed.Setup{"16x2": bedtest.Slice("backpack", "QUILLFISH  GATE", "Tide 3.2m →14:05"), "40x4": full} {
		b.Run(name, func(b *testing.B) {
			for b.Loop() {
				if _, err := Do(&m, Options{}); err != nil {
					b.Fatal(err)
				}
			}
		})
	}
}

// TestLostPulse loses the first pulse of E of every step in turn, and of the
// first character where no step is named.
func TestLostPulse(t *testing.T) {
	for _, kind := range link.Kinds {
		m := bedtest.Slice(string(kind), "Tide")
		sound := mustRun(t, m, Options{})
		p := sound.Program
		for i := range p.Steps {
			s := &p.Steps[i]
			first := -1
			for w := s.First + s.Count - 1; w >= s.First; w-- {
				if p.Coder.Raises(p.Words[w]) {
					first = w
				}
			}
			if first < 0 {
				continue // nothing is sent that could go missing
			}
			lost := mustRun(t, m, Options{Fault: fmt.Sprintf("nibble.lost:%d.1", i+1)})
			if lost.Hardware.Lost != first+1 {
				t.Errorf("%s, step %d: word %d is lost, want %d", kind, i+1, lost.Hardware.Lost, first+1)
			}
		}
	}
}
