package firmware

import (
	"bytes"
	"cmp"
	"fmt"

	"slatebell/core/field"
	"slatebell/core/finding"
	"slatebell/core/rig"
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
		step int // after it the glass is to show
		want []byte
		call string
	}
	var dues []due
	did := func(format string, args ...any) {
		dues = append(dues, due{p.builder.Sent(), p.Shows(), fmt.Sprintf(format, args...)})
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
			if from == to || len(m.Screens) > MaxScreens && to > from+1 {
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
	contrast := m.Display.UsualContrast()
	next := 0
	hold := func(step int) {
		for ; next < len(dues) && dues[next].step <= step+1; next++ {
			mo := hardware.Moment()
			glass := mo.Glass(&m.Display, contrast)
			codes := make([]byte, len(glass.Cells))
			for i, c := range glass.Cells {
				codes[i] = c.Code
			}
			if !bytes.Equal(codes, dues[next].want) {
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

// title names a screen.
func (m *Module) title(screen int) string {
	return "“" + cmp.Or(m.Screens[screen].Name, m.Screens[screen].ID) + "”"
}
