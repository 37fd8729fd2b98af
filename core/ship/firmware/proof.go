package firmware

import (
	"cmp"
	"fmt"
	"slices"

	"slatebell/core/finding"
	"slatebell/core/text/field"
	"slatebell/core/text/glyph"
	"slatebell/core/wire/rig"
)

// Proof is what came of playing a module's program into the rig: every change of screens,
// and every value at its ends.
type Proof struct {
	Calls    int
	Words    int // on the wire
	Findings []finding.Finding
}

// Prove makes every call of a module's program, plays what is sent into the rig, and holds
// the glass against what it is to show after each.
func (m *Module) Prove() (*Proof, error) {
	p, err := NewPlayer(m)
	if err != nil {
		return nil, err
	}
	type due struct {
		step   int // after it the glass is to show
		screen int
		want   []byte
		call   string
	}
	var dues []due
	did := func(format string, args ...any) {
		dues = append(dues, due{p.builder.Sent(), p.Screen(), p.Shows(), fmt.Sprintf(format, args...)})
	}
	p.Begin()
	did("begin")
	values := func(screen int) {
		for i := range m.Places {
			pl := &m.Places[i]
			if pl.Screen != screen || pl.Value < 0 {
				continue
			}
			v := &m.Values[pl.Value]
			told := []Told{{Units: v.High}, {Units: v.Low}, {Units: v.Start}}
			if v.Kind == field.Clock {
				told = []Told{{Time: v.Time.AddDate(0, 7, 3)}, {Time: v.Time}}
			}
			for _, to := range told {
				p.Tell(pl.Value, to)
				did("%s set", v.Name)
			}
		}
	}
	for from := range m.Screens {
		p.Show(from)
		did("%s shown", m.title(from))
		values(from)
		for to := range m.Screens {
			// Without a table each change begins with a clear, so that it is the same from everywhere: one way to each screen tells.
			if from == to || len(m.Screens) > MaxScreens && to != (from+1)%len(m.Screens) {
				continue
			}
			p.Show(to)
			did("%s after %s", m.title(to), m.title(from))
			p.Show(from)
			did("%s after %s", m.title(from), m.title(to))
		}
		p.Clear()
		did("cleared")
	}
	hardware, err := rig.New(m.Display, m.Link)
	if err != nil {
		return nil, err
	}
	program := p.Program()
	out := &Proof{Calls: len(dues), Words: len(program.Words)}
	next := 0
	hold := func(step int) {
		for ; next < len(dues) && dues[next].step <= step+1; next++ {
			if m.Differs(hardware.Moment(), dues[next].screen, dues[next].want, false) >= 0 {
				out.Findings = append(out.Findings, finding.Finding{
					Code: "code.glass-differs", Severity: finding.Error, Path: fmt.Sprintf("/modules/%d/changes", m.At),
					What: fmt.Sprintf("%s: the glass shows something else than the screen.", dues[next].call),
					Why:  "The way of changing screens that is chosen leaves old characters where nothing writes over them.",
					Fix:  "Choose another way of changing screens.",
				})
				next = len(dues)
				return
			}
		}
	}
	hardware.Play(program, hold)
	violations, more := hardware.Violations()
	out.Findings = append(out.Findings, rig.Findings(violations, more)...)
	return out, nil
}

// Differs is the first cell of a glass that does not show what it is to show, by its code
// and by its dots, the cursor aside; -1 where all is as it ought to be. screen is Blank for
// an empty glass; dark says that the dots are to be off.
func (m *Module) Differs(mo rig.Moment, screen int, codes []byte, dark bool) int {
	for i := range mo.Controllers {
		mo.Controllers[i].CursorOn, mo.Controllers[i].BlinkOn = false, false
	}
	slots := map[int]glyph.Pattern{}
	loads := m.Begun
	if screen < m.Blank() {
		loads = append(slices.Clone(loads), m.Screens[screen].Loads...)
	}
	for _, l := range loads {
		slots[l.Slot] = m.Glyphs[l.Glyph]
	}
	glass := mo.Glass(&m.Display, m.Display.UsualContrast())
	if glass.On == dark {
		return 0
	}
	for i, c := range glass.Cells {
		if c.Code != codes[i] {
			return i
		}
		want := glyph.ROMPattern(m.Display.ROM, c.Code, m.Display.Tall)
		if slot, ok := m.Display.Slot(c.Code); ok {
			drawn, known := slots[slot]
			if !known { // nothing was drawn for it: that is said of the screen
				continue
			}
			want = drawn
		}
		shows := glyph.Of(c.Dots)
		if m.Display.Tall {
			shows = glyph.Of(c.Dots, c.Below[:]...)
		}
		if !dark && shows != want {
			return i
		}
	}
	return -1
}

// title names a screen.
func (m *Module) title(screen int) string {
	return "“" + cmp.Or(m.Screens[screen].Name, m.Screens[screen].ID) + "”"
}
