package bench

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"time"

	"slatebell/core/hd44780"
	"slatebell/core/rig"
	"slatebell/core/screen"
	"slatebell/core/sequence"
)

// slice returns a module on a link with a screen, as the other tests begin.
func slice(link string, rows ...string) Module {
	m := NewModule("gate", "Gate")
	m.Link.Kind = link
	m.Screen = screen.Screen{Rows: rows}
	return m
}

func mustRun(t *testing.T, m Module, o Options) *Run {
	t.Helper()
	r, err := m.Run(o)
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
	r := mustRun(t, slice("backpack", "AA"), Options{NoInit: true})
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
		r := mustRun(t, slice(link), Options{})
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
// module and its ROM stands on the glass, no limit broken, on every link.
func TestGlassEqualsScreen(t *testing.T) {
	random := rand.New(rand.NewPCG(7, 44780))
	for range 300 {
		for _, link := range []string{"backpack", "parallel4"} {
			m := slice(link, randomRow(random), randomRow(random))
			m.OscillatorKHz = 190 + random.IntN(161)
			r := mustRun(t, m, Options{})
			if len(r.Findings) > 0 {
				t.Fatalf("%s, %q at %d kHz: %+v", link, m.Screen.Rows, m.OscillatorKHz, r.Findings[0])
			}
			glass := r.Last().Glass(&r.Module, rig.UsualContrast)
			for i, c := range glass.Cells {
				if c.Code != r.Layout.Cells[i].Code {
					t.Fatalf("%s, %q: cell %d shows %02X, want %02X", link, m.Screen.Rows, i, c.Code, r.Layout.Cells[i].Code)
				}
			}
		}
	}
}

// randomRow returns up to 16 characters of ROM A00 or codes that stand for
// themselves.
func randomRow(random *rand.Rand) string {
	var b strings.Builder
	for range random.IntN(17) {
		b.WriteRune(screen.CodeBase + rune(random.IntN(256)))
	}
	return b.String()
}

// TestLostNibble loses one word of the traffic: the glass must differ and the
// run must say so.
func TestLostNibble(t *testing.T) {
	r := mustRun(t, slice("parallel4", "Tide 3.2 m", "High 14:05"), Options{})
	first := slices.IndexFunc(r.Program.Steps, func(s sequence.Step) bool { return s.Kind == sequence.Text })
	p := *r.Program
	p.Words, p.At = slices.Clone(p.Words), slices.Clone(p.At)
	lost := p.Steps[first].First
	p.Words = slices.Delete(p.Words, lost, lost+1)
	p.At = slices.Delete(p.At, lost, lost+1)
	p.Steps = slices.Clone(p.Steps)
	for i := range p.Steps {
		if s := &p.Steps[i]; i == first {
			s.Count--
		} else if i > first {
			s.First--
		}
	}
	hardware, err := rig.New(r.Module, r.Wired)
	if err != nil {
		t.Fatal(err)
	}
	hardware.Play(&p, nil)
	moment := hardware.Moment()
	glass := moment.Glass(&r.Module, rig.UsualContrast)
	if found := r.Layout.Compare(&glass); len(found) == 0 {
		t.Errorf("the glass shows %q and nothing is said", glass.Text(r.Module.ROM))
	}
}

// TestBeforeInit checks the look of a module that was only powered up: row 1 in
// blocks, row 2 bare (common practice: "the good sign").
func TestBeforeInit(t *testing.T) {
	r := mustRun(t, slice("backpack"), Options{})
	glass := r.Moments[0].Glass(&r.Module, rig.UsualContrast)
	if glass.On || glass.Look.Dark < 0.7 || glass.Look.Unused > 0.1 || !glass.Cells[0].Scanned || glass.Cells[16].Scanned {
		t.Errorf("at power-up: on %v, look %+v, rows scanned %v and %v", glass.On, glass.Look, glass.Cells[0].Scanned, glass.Cells[16].Scanned)
	}
	after := r.Last().Glass(&r.Module, rig.UsualContrast)
	if after.Look.Dark > 0.1 || after.Look.Lit < 0.9 {
		t.Errorf("initialised: look %+v", after.Look)
	}
}

func TestValidate(t *testing.T) {
	for want, spoil := range map[string]func(*Bench){
		"modules[0].link: address 0x28":           func(b *Bench) { b.Modules[0].Link.Address = 0x28 },
		"modules[0].geometry: geometry \"17x2\"":  func(b *Bench) { b.Modules[0].Geometry = "17x2" },
		"modules[0].rom: ROM \"Z9\" is not known": func(b *Bench) { b.Modules[0].ROM = "Z9" },
		"modules[0].oscillatorKHz: 100 kHz":       func(b *Bench) { b.Modules[0].OscillatorKHz = 100 },
		"modules[1].id: \"module-1\" is another":  func(b *Bench) { b.Modules = append(b.Modules, b.Modules[0]) },
		"modules: empty":                          func(b *Bench) { b.Modules = nil },
		"format: \"x\"":                           func(b *Bench) { b.Format = "x" },
		"screen.rows[0]: 401 characters":          func(b *Bench) { b.Modules[0].Screen.Rows = []string{strings.Repeat("x", 401)} },
	} {
		b := New("bench")
		if err := b.Validate(); err != nil {
			t.Fatalf("a new bench: %v", err)
		}
		spoil(&b)
		if err := b.Validate(); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("error %v, want %q in it", err, want)
		}
	}
}

func BenchmarkRun(b *testing.B) {
	m := slice("backpack", "QUILLFISH  GATE", "Tide 3.2m →14:05")
	for b.Loop() {
		if _, err := m.Run(Options{}); err != nil {
			b.Fatal(err)
		}
	}
}
