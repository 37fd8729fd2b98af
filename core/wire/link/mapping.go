package link

import (
	"fmt"
	"strconv"
	"strings"
)

// Open marks a line of a Mapping that no output drives.
const Open = -1

// Mapping says which output (0–7) of an expander or shift register drives which
// line of the module; Open where none does.
type Mapping struct {
	RS           int8 `json:"rs"`
	RW           int8 `json:"rw"`
	E            int8 `json:"e"`
	E2           int8 `json:"e2" doc:"second enable; -1 where there is none"`
	Backlight    int8 `json:"backlight"`
	D4           int8 `json:"d4"`
	D5           int8 `json:"d5"`
	D6           int8 `json:"d6"`
	D7           int8 `json:"d7"`
	BacklightLow bool `json:"backlightLow,omitempty" doc:"the backlight is on while its output is low"`
}

// UsualMapping is how most backpacks are wired (common practice).
var UsualMapping = Mapping{RS: 0, RW: 1, E: 2, E2: Open, Backlight: 3, D4: 4, D5: 5, D6: 6, D7: 7}

// UsualShiftMapping is a plain wiring for a 74HC595, R/W tied to ground
// (common practice).
var UsualShiftMapping = Mapping{RS: 0, RW: Open, E: 1, E2: Open, Backlight: 2, D4: 4, D5: 5, D6: 6, D7: 7}

// mapped is a line of a Mapping with the header pin it reaches.
type mapped struct {
	Line
	output int8
	must   bool
}

func (m *Mapping) lines() [9]mapped {
	return [9]mapped{
		{LineRS, m.RS, true}, {LineRW, m.RW, false}, {LineE, m.E, true}, {LineE2, m.E2, false},
		{LineBL, m.Backlight, false},
		{LineD4, m.D4, true}, {LineD5, m.D5, true}, {LineD6, m.D6, true}, {LineD7, m.D7, true},
	}
}

// Driven is an output with the line that it drives.
type Driven struct {
	Line   Line // none of D0–D3
	Output int8 // 0–7
}

// Outputs lists the outputs that drive a line.
func (m *Mapping) Outputs() []Driven {
	var out []Driven
	for _, l := range m.lines() {
		if l.output != Open {
			out = append(out, Driven{l.Line, l.output})
		}
	}
	return out
}

// Validate reports an output used twice or out of range, or a line left open
// that the module needs.
func (m *Mapping) Validate(enables int, readWrite bool) error {
	used := [8]string{}
	for _, l := range m.lines() {
		need := l.must || l.Line == LineE2 && enables == 2 || l.Line == LineRW && readWrite
		switch {
		case l.output == Open && need:
			return fmt.Errorf("mapping: %s has no output; expected one of P0–P7", l.Line)
		case l.output == Open:
		case l.output < 0 || l.output > 7:
			return fmt.Errorf("mapping: %s on output %d; expected 0–7, or -1 for none", l.Line, l.output)
		case used[l.output] != "":
			return fmt.Errorf("mapping: output P%d drives both %s and %s; each needs its own output", l.output, used[l.output], l.Line)
		default:
			used[l.output] = l.String()
		}
	}
	return nil
}

// String writes the mapping as ParseMapping reads it.
func (m Mapping) String() string {
	var parts []string
	for _, l := range m.lines() {
		if l.output == Open {
			continue
		}
		sign := ""
		if l.Line == LineBL && m.BacklightLow {
			sign = "!"
		}
		parts = append(parts, fmt.Sprintf("%s%s=%d", sign, l.Line, l.output))
	}
	return strings.Join(parts, ",")
}

// ParseMapping reads a mapping such as "RS=0,RW=1,E=2,BL=3,D4=4,D5=5,D6=6,D7=7":
// lines with their outputs, in any order, those left out open; !BL for a
// backlight that is on while its output is low; E2 for a second enable. It
// checks the outputs' range; Validate checks the whole.
func ParseMapping(s string) (Mapping, error) {
	m := Mapping{Open, Open, Open, Open, Open, Open, Open, Open, Open, false}
	targets := map[string]*int8{"RS": &m.RS, "RW": &m.RW, "R/W": &m.RW, "E": &m.E, "E2": &m.E2, "BL": &m.Backlight, "D4": &m.D4, "D5": &m.D5, "D6": &m.D6, "D7": &m.D7}
	for _, part := range strings.Split(s, ",") {
		name, out, _ := strings.Cut(strings.TrimSpace(part), "=")
		name = strings.ToUpper(name)
		if strings.HasPrefix(name, "!") {
			name, m.BacklightLow = name[1:], true
			if name != "BL" {
				return m, fmt.Errorf("mapping %q: a leading ! is for BL alone", part)
			}
		}
		target := targets[name]
		n, err := strconv.ParseUint(strings.TrimPrefix(out, "P"), 10, 3)
		if target == nil || err != nil {
			return m, fmt.Errorf("mapping %q: expected LINE=OUTPUT, a line of RS, RW, E, E2, BL, D4–D7 and an output 0–7, such as %s", part, UsualMapping)
		}
		if *target != Open {
			return m, fmt.Errorf("mapping: %s is named twice", name)
		}
		*target = int8(n)
	}
	return m, nil
}

// pinTable is what each byte on the outputs puts on the header pins. Lines that
// no output drives: R/W and the second enable are tied to ground, the backlight
// is on; D0–D3 are open, which the controller's pull-ups read as high (data
// sheet, "Pull-up MOS current").
func (m *Mapping) pinTable() (t [256]Pins) {
	for b := range t {
		p := Pins(0x0F)
		for _, l := range m.lines() {
			if l.output >= 0 && b>>l.output&1 != 0 {
				p |= l.Bit()
			}
		}
		if m.BacklightLow {
			p ^= Backlight
		}
		if m.Backlight == Open {
			p |= Backlight
		}
		t[b] = p
	}
	return t
}

// Byte is what stands on the outputs for some levels of the lines: the inverse of Coder.Levels.
func (m *Mapping) Byte(p Pins) (b byte) {
	if m.BacklightLow {
		p ^= Backlight
	}
	for _, l := range m.lines() {
		if l.output >= 0 && p&l.Bit() != 0 {
			b |= 1 << l.output
		}
	}
	return b
}
