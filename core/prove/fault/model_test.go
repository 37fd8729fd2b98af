package fault

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"slatebell/core/part/module"
	"slatebell/core/wire/link"
	"slatebell/core/wire/sequence"
)

// pinModel is a module of 16 × 2 on parallel lines, written from the data sheet
// (HD44780U, ADE-207-272(Z), instruction table, figures 23 and 24, and the pull-ups of
// its pins, from memory) to hold the rig against; it shares nothing with it. It is told
// the levels of its header pins one change after the other.
type pinModel struct {
	pins     map[string]bool
	wide     bool // eight lines
	two, on  bool
	low      bool // a low nibble is awaited
	high     byte
	memory   [2][40]byte
	row, col int
	glyphs   bool // the address counter stands in CGRAM
	glyph    int
	down     bool
	shifts   bool
	offset   int
	busy     time.Duration
}

func newPinModel() *pinModel {
	m := &pinModel{wide: true, pins: map[string]bool{}, busy: 10 * time.Millisecond}
	for r := range m.memory {
		for c := range m.memory[r] {
			m.memory[r][c] = ' '
		}
	}
	return m
}

// set puts all pins to new levels at once. What counts of the other pins is how they
// stood before E fell.
func (m *pinModel) set(at time.Duration, pins map[string]bool) {
	before := m.pins
	m.pins = pins
	if before["E"] && !pins["E"] {
		m.fall(at, before)
	}
}

func (m *pinModel) fall(at time.Duration, p map[string]bool) {
	var b byte
	for i := range 8 {
		if p[fmt.Sprintf("D%d", i)] {
			b |= 1 << i
		}
	}
	if p["R/W"] {
		if !m.wide {
			if m.low = !m.low; m.low {
				return
			}
		}
		if p["RS"] && at >= m.busy {
			m.move(!m.down)
			m.busy = at + 37*time.Microsecond
		}
		return
	}
	if !m.wide {
		if !m.low {
			m.high, m.low = b&0xF0, true
			return
		}
		b, m.low = m.high|b>>4, false
	}
	if at < m.busy {
		return
	}
	m.busy = at + 37*time.Microsecond
	if p["RS"] {
		if m.glyphs {
			m.move(!m.down)
			return
		}
		m.memory[m.row][m.col] = b
		m.move(!m.down)
		if m.shifts {
			m.offset += map[bool]int{false: 1, true: -1}[m.down]
		}
		return
	}
	switch {
	case b&0x80 != 0:
		m.glyphs = false
		m.address(int(b & 0x7F))
	case b&0x40 != 0:
		m.glyphs, m.glyph = true, int(b&0x3F)
	case b&0x20 != 0:
		was := m.row*40 + m.col
		m.wide, m.two, m.low = b&0x10 != 0, b&0x08 != 0, false
		m.row, m.col = was/40, was%40
	case b&0x10 != 0:
		if b&0x08 != 0 {
			m.offset += map[bool]int{false: 1, true: -1}[b&0x04 != 0]
		} else {
			m.move(b&0x04 != 0)
		}
	case b&0x08 != 0:
		m.on = b&0x04 != 0
	case b&0x04 != 0:
		m.down, m.shifts = b&0x02 == 0, b&0x01 != 0
	case b&0x03 != 0:
		m.busy = at + 1520*time.Microsecond
		m.glyphs, m.row, m.col, m.offset = false, 0, 0, 0
		if b&0x03 == 1 {
			m.down = false
			for r := range m.memory {
				for c := range m.memory[r] {
					m.memory[r][c] = ' '
				}
			}
		}
	default:
		m.busy -= 37 * time.Microsecond // no instruction
	}
}

// address goes to an address; one that a memory of one or of two lines lacks is taken
// round, as the rig takes it.
func (m *pinModel) address(a int) {
	if m.two {
		m.row, m.col = a>>6, a&0x3F%40
		return
	}
	a %= 80
	m.row, m.col = a/40, a%40
}

func (m *pinModel) move(up bool) {
	step := map[bool]int{true: 1, false: -1}[up]
	if m.glyphs {
		m.glyph = (m.glyph + step + 64) % 64
		return
	}
	at := (m.row*40 + m.col + step + 80) % 80
	m.row, m.col = at/40, at%40
}

// text is what both rows show; blocks and empty rows are left to the optics.
func (m *pinModel) text() string {
	if !m.on {
		return "off"
	}
	var b strings.Builder
	for r := range 2 {
		for c := range 16 {
			at := ((c+m.offset)%40 + 40) % 40
			if !m.two { // one line of 80; the second row is not driven
				at = ((c+m.offset)%80 + 80) % 80
				if r == 1 {
					b.WriteByte(' ')
					continue
				}
				b.WriteByte(m.memory[at/40][at%40])
				continue
			}
			b.WriteByte(m.memory[r][at])
		}
		b.WriteByte('|')
	}
	return b.String()
}

// pulsed sends a program's pulses to the model through wires: for each pin of the
// header the line that reaches it, ground, or "" for none.
func pulsed(p *sequence.Program, four bool, wires map[string]string) *pinModel {
	m := newPinModel()
	for i, w := range p.Words {
		word := uint16(w)
		lines := map[string]bool{}
		width := 8
		if four {
			width = 4
		}
		for d := 8 - width; d < 8; d++ {
			lines[fmt.Sprintf("D%d", d)] = word>>(d-(8-width))&1 != 0
		}
		lines["RS"] = word>>width&1 != 0
		for phase, e := range []bool{false, true, false} {
			lines["E"] = e
			pins := map[string]bool{}
			for _, pin := range []string{"RS", "R/W", "E", "D0", "D1", "D2", "D3", "D4", "D5", "D6", "D7"} {
				switch from := wires[pin]; from {
				case "":
					pins[pin] = pin != "E" // pulled up, but for E
				case "ground":
				default:
					pins[pin] = lines[from]
				}
			}
			m.set(p.At[i]+time.Duration(phase)*link.UsualPinTime, pins)
		}
	}
	return m
}

// TestAgainstPins holds what every open wire and every exchange of two signal wires
// shows against the model, on four lines and on eight.
func TestAgainstPins(t *testing.T) {
	for _, kind := range []link.Kind{link.Parallel4, link.Parallel8} {
		s := subject(t, "16x2", kind, module.LCD, "Tide 3.2 m", "High 14:05")
		x := index(t, s)
		sent, err := x.compile(program{}, nil)
		if err != nil {
			t.Fatal(err)
		}
		four := kind == link.Parallel4
		straight := map[string]string{"RS": "RS", "R/W": "ground", "E": "E", "D4": "D4", "D5": "D5", "D6": "D6", "D7": "D7"}
		if !four {
			for _, d := range []string{"D0", "D1", "D2", "D3"} {
				straight[d] = d
			}
		}
		compared := 0
		for i := range x.Faults {
			f := &x.Faults[i]
			wires := map[string]string{}
			for pin, from := range straight {
				wires[pin] = from
			}
			signal := true
			for _, p := range f.Pins {
				signal = signal && (p == "RS" || p == "R/W" || p == "E" || p[0] == 'D' && len(p) == 2)
			}
			switch {
			case !signal || i > 1000:
				continue
			case f.Code == Sound:
			case f.Code == "wire.open":
				delete(wires, f.Pins[0])
			case f.Code == "wire.swapped" || f.Code == "wire.moved":
				a, b := f.Pins[0], f.Pins[1]
				wires[a], wires[b] = straight[b], straight[a]
			default:
				continue
			}
			compared++
			m := pulsed(sent.main, four, wires)
			st := x.state(&x.Cases[i])
			j := st.join(&x.header)
			play, err := x.play(&st, &j, false)
			if err != nil {
				t.Fatal(err)
			}
			got := "off"
			if p := &x.played[play]; p.on {
				var b strings.Builder
				for k, c := range p.cells {
					ch := c.Code
					if !c.Scanned {
						ch = ' '
					}
					b.WriteByte(ch)
					if k%16 == 15 {
						b.WriteByte('|')
					}
				}
				got = b.String()
			}
			if want := m.text(); got != want {
				t.Errorf("%s, %s: the rig shows %q, the model %q", kind, f.ID, got, want)
			}
		}
		if compared < 50 {
			t.Errorf("%s: %d compared", kind, compared)
		}
	}
}
