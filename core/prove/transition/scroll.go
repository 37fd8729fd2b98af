package transition

import (
	"fmt"
	"slices"
	"time"

	"slatebell/core/bench"
	"slatebell/core/finding"
	"slatebell/core/part/hd44780"
	"slatebell/core/place"
	"slatebell/core/prove/testbed"
	"slatebell/core/say"
	"slatebell/core/wire/rig"
	"slatebell/core/wire/sequence"
	"slatebell/core/wire/update"
)

// UsualScroll is the time of a step where none is given (common practice).
const UsualScroll = 400 * time.Millisecond

// The ways in which a row scrolls.
const (
	ByShift   = "shift"   // the text is written into the memory once; then the glass moves over it
	ByFeed    = "feed"    // the glass moves, and each character is written before it comes into sight
	ByRewrite = "rewrite" // the row is written again for every step
)

// Scrolled is a row of a screen that runs through the glass, played over one round.
type Scrolled struct {
	By       string
	Text     int         // characters, the gap included: so many steps until the row is as it was
	Begin    Cost        // what puts the text into the memory, before the first step
	Steps    []Cost      // of each step of a round
	Frames   []rig.Glass // the glass before the first step, and after each
	Turns    []int       // other rows, 0-based, that move with it
	Findings []finding.Finding
}

// Worst is what the dearest step costs.
func (s *Scrolled) Worst() (worst Cost) {
	for _, c := range s.Steps {
		if c.Done > worst.Done {
			worst = c
		}
	}
	return worst
}

// scroller moves the row of a screen.
type scroller struct {
	*Scrolled
	setup      *testbed.Setup
	transition *Transition // from the screen to itself: module, link, layout
	builder    *sequence.Builder
	rig        *rig.Rig
	text       []byte // codes, the gap included
	line       int    // characters that a line of the memory holds
}

// NewScrolled plays the row of a screen that scrolls; where that cannot be, it has
// no frames, and a finding says why. Its error is a bench.Problem, or says that no row
// scrolls.
func NewScrolled(s *testbed.Setup) (*Scrolled, error) {
	if s.Scroll.By == "" {
		return nil, fmt.Errorf("no row of the screen scrolls; expected by shift, feed or rewrite")
	}
	p, err := New(s, s)
	if err != nil {
		return nil, err
	}
	g := &p.module.Geometry
	if s.Scroll.Row >= g.Rows {
		path := s.Sources().Scroll
		return &Scrolled{By: s.Scroll.By, Findings: []finding.Finding{{
			Code: "scroll.no-row", Severity: finding.Error, Path: path,
			What: fmt.Sprintf("Row %d is to run through the glass, and the module has %d.", s.Scroll.Row+1, g.Rows), Fix: "Let another row run, or none.",
			Remedies: []finding.Remedy{{Label: "Let none run", Patch: finding.Patch{finding.Test(path, s.Scroll), finding.Remove(path)}}},
		}}}, nil
	}
	c := &scroller{Scrolled: &Scrolled{By: s.Scroll.By}, setup: s, transition: p, line: hd44780.LineOf(g.TwoLine)}
	row := p.after[s.Scroll.Row*g.Cols : (s.Scroll.Row+1)*g.Cols]
	c.text = slices.Clone(row)
	for _, cell := range p.To.Tail {
		c.text = append(c.text, cell.Code)
	}
	for len(c.text) > g.Cols && c.text[len(c.text)-1] == ' ' {
		c.text = c.text[:len(c.text)-1]
	}
	c.text = append(c.text, slices.Repeat([]byte{' '}, s.Scroll.Gap)...)
	if c.By == ByShift { // the memory is the ring: what the text leaves of it are spaces
		c.text = append(c.text, slices.Repeat([]byte{' '}, max(c.line-len(c.text), 0))...)
	}
	c.Text = len(c.text)
	return c.play()
}

// play plays one round.
func (c *scroller) play() (*Scrolled, error) {
	p := c.transition
	start, err := sequence.Compile(p.module, p.wired, p.after, sequence.Options{Init: true, Glyphs: p.To.Bank, Brightness: p.options.Brightness})
	if err != nil {
		return nil, bench.ProblemOf(c.setup.Pointer("/link"), err)
	}
	if c.rig, err = rig.New(p.module, p.wired); err != nil {
		return nil, bench.ProblemOf(c.setup.Pointer("/link"), err)
	}
	c.rig.Follow(start)
	if c.builder, err = sequence.NewBuilder(p.module, p.wired, p.options); err != nil {
		return nil, bench.ProblemOf(c.setup.Pointer("/link"), err)
	}
	c.builder.Know(p.after)
	c.judge()
	if c.By == ByShift {
		if c.Text > c.line {
			return c.Scrolled, nil // the memory does not hold it: a finding says so
		}
		c.Begin = c.send(func() { c.fill() })
	}
	c.Frames = append(c.Frames, c.look())
	for n := range c.Text {
		c.Steps = append(c.Steps, c.send(func() { c.step(n + 1) }))
		c.Frames = append(c.Frames, c.look())
	}
	c.judgeTime()
	return c.Scrolled, nil
}

// send plays what build appends to the program, and returns what it costs.
func (c *scroller) send(build func()) Cost {
	c.builder.Restart()
	build()
	program := c.builder.Program()
	c.rig.Follow(program)
	return costOfProgram(program)
}

func (c *scroller) look() rig.Glass {
	mo := c.rig.Moment()
	return mo.Glass(&c.transition.module, c.transition.contrast)
}

// step moves the row so that it shows the text from its n-th character on.
func (c *scroller) step(n int) {
	cols := c.transition.module.Geometry.Cols
	at := func(i int) byte { return c.text[i%len(c.text)] }
	switch c.By {
	case ByShift:
		c.builder.ShiftLeft()
	case ByFeed:
		if cols == c.line { // all that the line holds is on the glass
			c.builder.ShiftLeft()
			c.builder.Hidden(c.setup.Scroll.Row, cols-1, at(n+cols-1))
			return
		}
		c.builder.Hidden(c.setup.Scroll.Row, cols, at(n+cols-1))
		c.builder.ShiftLeft()
	default:
		cells := slices.Clone(c.transition.after)
		for i := range cols {
			cells[c.setup.Scroll.Row*cols+i] = at(n + i)
		}
		c.builder.Update(cells, nil, sequence.Cursor{}, update.Allowed{})
	}
}

// fill writes what of the text lies beyond the glass into the memory.
func (c *scroller) fill() {
	cols := c.transition.module.Geometry.Cols
	for i := cols; i < c.lastChar(); i++ {
		c.builder.Hidden(c.setup.Scroll.Row, i, c.text[i])
	}
}

// lastChar is how many characters the text has before the spaces at its end.
func (c *scroller) lastChar() int {
	n := len(c.text)
	for n > 0 && c.text[n-1] == ' ' {
		n--
	}
	return n
}

// judge states what the way itself brings with it.
func (c *scroller) judge() {
	s := &c.setup.Scroll
	g := &c.transition.module.Geometry
	path := c.setup.Sources().Scroll
	to := func(label, by string) finding.Remedy {
		next := *s
		next.By = by
		return finding.Remedy{Label: label, Patch: finding.Patch{finding.Test(path, *s), finding.Replace(path, next)}}
	}
	if c.By != ByRewrite {
		for r := range g.Rows {
			if r != s.Row && c.transition.To.Text(r, 0) != "" {
				c.Turns = append(c.Turns, r)
			}
		}
	}
	if c.By == ByShift && c.Text > c.line {
		says := place.Sprintf("The text of %P has %d characters with its gap; a line of the module's memory holds %d.", place.Row(s.Row), c.Text, c.line)
		c.Findings = append(c.Findings, finding.Finding{
			Code: "scroll.memory", Severity: finding.Error, Path: path,
			What: says.S, Places: says.Places,
			Why: "The display shift turns each line within its own memory.", Fix: "Write each character before it comes into sight, or write the row again for every step.",
			Source:   "HD44780U data sheet, ADE-207-272(Z), Display data RAM",
			Remedies: []finding.Remedy{to("Write each character before it comes into sight", ByFeed), to("Write the row again for every step", ByRewrite)},
		})
	}
	if len(c.Turns) > 0 {
		says := place.Sprintf("%P turns as well: the display shift moves every row.", place.Row(c.Turns[0]))
		c.Findings = append(c.Findings, finding.Finding{
			Code: "scroll.turns", Severity: finding.Warning, Path: path,
			What: says.S, Places: says.Places,
			Why: "There is one display shift for the whole memory.", Fix: "Write the row again for every step, or leave the other rows empty.",
			Source:   "HD44780U data sheet, ADE-207-272(Z), Cursor or display shift",
			Remedies: []finding.Remedy{to("Write the row again for every step", ByRewrite)},
		})
	}
	for _, seg := range g.Segments {
		if c.By != ByRewrite && seg.Row == s.Row && (seg.Start&0x3F != 0 || seg.Col != 0 || g.Rows > 2 && g.Controllers == 1) {
			c.Findings = append(c.Findings, finding.Finding{
				Code: "scroll.shares-line", Severity: finding.Warning, Path: path,
				What: fmt.Sprintf("Row %d shares its line of the memory with another row: what leaves the one comes into the other.", s.Row+1),
				Fix:  "Write the row again for every step.", Source: "HD44780U data sheet, ADE-207-272(Z), Display data RAM",
				Remedies: []finding.Remedy{to("Write the row again for every step", ByRewrite)},
			})
			break
		}
	}
}

// judgeTime names steps that take longer than there is time for them.
func (c *scroller) judgeTime() {
	s := &c.setup.Scroll
	every := UsualScroll
	if s.EveryMs > 0 {
		every = time.Duration(s.EveryMs) * time.Millisecond
	}
	worst := c.Worst()
	if worst.Done <= every {
		return
	}
	path := c.setup.Sources().Scroll
	next := *s
	next.EveryMs = int((worst.Done + time.Millisecond - 1) / time.Millisecond)
	c.Findings = append(c.Findings, finding.Finding{
		Code: "scroll.rate", Severity: finding.Error, Path: path,
		What:     fmt.Sprintf("A step is to take %s; over this link it takes up to %s.", say.Milliseconds(every), say.Milliseconds(worst.Done)),
		Fix:      "Let it scroll slower, or join the module by a faster link.",
		Remedies: []finding.Remedy{{Label: fmt.Sprintf("A step every %d ms", next.EveryMs), Patch: finding.Patch{finding.Test(path, *s), finding.Replace(path, next)}}},
	})
}
