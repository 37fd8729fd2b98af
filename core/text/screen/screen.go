// Package screen is composed text: rows of characters laid onto the cells of a
// module by its ROM, with what does not fit and what the ROM lacks named, and
// the comparison of what was composed with what the glass shows.
//
// It is the head of the flow screen → cells → operations → wire traffic → rig →
// glass, and its end: Compare closes the loop.
package screen

import (
	"fmt"
	"slices"
	"strings"

	"golang.org/x/text/unicode/norm"

	"slatebell/core/finding"
	"slatebell/core/part/charrom"
	"slatebell/core/part/module"
	"slatebell/core/place"
	"slatebell/core/say"
	"slatebell/core/text/field"
	"slatebell/core/text/glyph"
)

// CodeBase is the first of 256 private-use characters that stand for the codes
// 0x00–0xFF themselves, whatever the ROM shows there: U+E000–U+E0FF. So every
// cell of a row is one character.
const CodeBase = 0xE000

// Typed is how a code is typed into a row: the ROM's character for it, or the code itself where it has none, or is below the space as slots are.
func Typed(rom *charrom.ROM, code byte) rune {
	if ch, known := rom.Rune(code); known && code >= ' ' {
		return ch
	}
	return CodeBase + rune(code)
}

// KeyBase is the first of the private-use characters that stand for drawings of
// the library: U+E100 + key, whatever slot the glyph comes to.
const KeyBase = 0xE100

// MaxRow is how many characters a row may hold.
const MaxRow = 400

// Sources says where a screen's rows and cursor and its module's glyphs stand in
// the bench: RFC 6901 pointers, from which findings and remedies are made.
type Sources struct {
	Rows   string
	Fields string
	Cursor string
	Scroll string
	Glyphs string
}

// Text is a screen as it is composed, and the glyphs that it may show: those in
// the slots of its module, and the drawings that it names by key.
type Text struct {
	Rows    []string
	Fields  []field.Field
	Cursor  Cursor
	Scroll  Scroll
	Bank    glyph.Bank
	Library glyph.Library
	Shown   [glyph.Slots]bool // slots that the screen before shows: they are taken last for drawings
}

// Cursor is where the cursor stands once a screen is written, and what it looks
// like.
type Cursor struct {
	Kind string `json:"kind,omitempty" enum:"none,line,block" doc:"absent: none"`
	Row  int    `json:"row,omitempty" minimum:"0" maximum:"63"`
	Col  int    `json:"col,omitempty" minimum:"0" maximum:"399"`
}

// Scroll lets a row's text, which may be longer than the glass is wide, run through
// it. The zero value lets none.
type Scroll struct {
	By      string `json:"by,omitempty" enum:"shift,feed,rewrite" doc:"the module's own shift, with the text in its memory; the shift, with each character written before it comes into sight; or the row written again; absent: no row scrolls"`
	Row     int    `json:"row,omitempty" minimum:"0" maximum:"63"`
	Gap     int    `json:"gap,omitempty" minimum:"0" maximum:"80" doc:"spaces between the end of the text and its beginning"`
	EveryMs int    `json:"everyMs,omitempty" minimum:"0" maximum:"60000" doc:"time of a step, in milliseconds; absent: 400"`
}

// Runs reports whether a row scrolls.
func (s *Scroll) Runs(row int) bool { return s.By != "" && s.Row == row }

// Parse splits text at line ends (LF, CR or both) into rows, a string each, and reads the escapes \xHH as codes
// and \\ as a backslash; any other backslash stands for itself.
func Parse(text string) []string {
	text = strings.NewReplacer("\r\n", "\n", "\r", "\n").Replace(text)
	var b strings.Builder
	for i := 0; i < len(text); i++ {
		rest := text[i:]
		switch {
		case strings.HasPrefix(rest, `\\`):
			b.WriteByte('\\')
			i++
		case len(rest) >= 4 && strings.HasPrefix(rest, `\x`) && hexDigit(rest[2]) >= 0 && hexDigit(rest[3]) >= 0:
			b.WriteRune(CodeBase + rune(hexDigit(rest[2])<<4|hexDigit(rest[3])))
			i += 3
		default:
			b.WriteByte(rest[0])
		}
	}
	return strings.Split(b.String(), "\n")
}

func hexDigit(c byte) int {
	return strings.IndexByte("0123456789ABCDEF", strings.ToUpper(string(c))[0])
}

// Composed is one composed cell.
type Composed struct {
	Char    string // what was typed there; "" for a cell left empty
	Code    byte   // what goes to DDRAM
	Missing bool   // nothing shows Char, so Code is a space
	Key     int    // of the drawing that Char stands for; 0 for none
	Field   int    // counted from 1, of the field that it belongs to; 0 for none
	Drawn   bool   // it shows Pattern, from whatever slot or code has it
	Pattern glyph.Pattern
}

// Layout is a screen laid onto a module.
type Layout struct {
	Cols, Rows int
	Cells      []Composed // row by row
	Tail       []Composed // what of a row that scrolls lies beyond the glass
	Over       []string   // for each typed row, what did not fit; rows beyond the last whole
	Bank       glyph.Bank // what the slots hold while the screen is shown
	Fields     []Shown    // what each field shows
	Findings   []finding.Finding
}

// Codes returns the layout's codes, row by row.
func (l *Layout) Codes() []byte {
	codes := make([]byte, len(l.Cells))
	for i, c := range l.Cells {
		codes[i] = c.Code
	}
	return codes
}

// composer lays the rows of a screen onto a module.
type composer struct {
	*Layout
	Text
	module  *module.Module
	at      Sources
	written []string // the rows with the fields' texts in them
	owners  [][]int  // for each row and column of them, the field, counted from 1
}

// Compose lays a screen onto a module. Rows may be longer than the module is
// wide, and more than it has: what is left over is named, not lost. Drawings
// that the screen names by key are given slots; those that the ROM has, and
// blank ones, need none.
func Compose(m *module.Module, t Text, at Sources) Layout {
	g := &m.Geometry
	l := Layout{Cols: g.Cols, Rows: g.Rows, Cells: make([]Composed, g.Cells()), Over: make([]string, max(g.Rows, len(t.Rows), lastRow(t.Fields))), Bank: t.Bank}
	for i := range l.Cells {
		l.Cells[i].Code = ' '
	}
	c := composer{Layout: &l, Text: t, module: m, at: at}
	c.showFields()
	if r := t.Scroll.Row; t.Scroll.By != "" && r < min(g.Rows, len(c.written)) {
		long := max(len([]rune(strings.TrimRight(c.written[r], " ")))-g.Cols, 0)
		l.Cells = append(l.Cells, slices.Repeat([]Composed{{Code: ' '}}, long)...)
	}
	for r, text := range c.written {
		col := 0
		for at, ch := range text {
			if over := g.Cells() + col - g.Cols; r < g.Rows && t.Scroll.Runs(r) && col >= g.Cols {
				if col == g.Cols {
					l.Over[r] = strings.TrimRight(text[at:], " ")
				}
				if over < len(l.Cells) {
					c.put(over, ch)
				}
				col++
				continue
			}
			if r >= g.Rows || col >= g.Cols {
				l.Over[r] = strings.TrimRight(text[at:], " ")
				break
			}
			c.put(r*g.Cols+col, ch)
			col++
		}
		c.judgeFit(r)
	}
	c.drawBars()
	c.judgeFields()
	c.judgeOddSlots()
	c.judgeSlots()
	c.placeDrawings()
	c.judgeCodeZero()
	c.judgeInROM()
	c.judgeCursorLine()
	l.Cells, l.Tail = l.Cells[:g.Cells()], l.Cells[g.Cells():]
	return l
}

// rowAt is the pointer to a row.
func (c *composer) rowAt(r int) string { return fmt.Sprintf("%s/%d", c.at.Rows, r) }

// remedy returns the remedy that puts other rows in place of those composed,
// with further changes before it.
func (c *composer) remedy(label string, rows []string, more ...finding.Op) finding.Remedy {
	patch := append(finding.Patch{finding.Test(c.at.Rows, c.Text.Rows)}, more...)
	return finding.Remedy{Label: label, Patch: append(patch, finding.Replace(c.at.Rows, rows))}
}

// placed is a remedy whose label names places.
func (c *composer) placed(label place.Text, rows []string) finding.Remedy {
	r := c.remedy(label.S, rows)
	r.Places = label.Places
	return r
}

// place returns row and column of cell i; those of the tail go on in their row.
func (c *composer) place(i int) (r, col int) {
	if n := c.module.Geometry.Cells(); i >= n {
		return c.Scroll.Row, c.Cols + i - n
	}
	return i / c.Cols, i % c.Cols
}

// put lays a character into cell i.
func (c *composer) put(i int, ch rune) {
	m := c.module
	r, col := c.place(i)
	cell := &c.Cells[i]
	cell.Char, cell.Field = string(ch), c.owner(r, col)
	code, ok := codeOf(ch)
	if ok {
		cell.Code = code
		return
	}
	if key := keyOf(ch); key != 0 {
		cell.Key = key
		if d, known := c.Library.Keyed(key); known {
			cell.Drawn, cell.Pattern = true, d.Pattern()
		}
		return
	}
	code, ok = m.ROM.Code(ch)
	if ok {
		cell.Code = code
		return
	}
	cell.Missing = true
	f := finding.Finding{
		Code: "rom.missing-character", Severity: finding.Error,
		Why:  "The controller knows only the characters of its ROM; the cell is left empty.",
		Fix:  "Write it another way, or draw it as a glyph.",
		Path: c.rowAt(r), Cells: &finding.Cells{Row: r, Col: col, Len: 1},
	}
	f.Say(place.Sprintf("%P: ROM %s has no '%c' (U+%04X).", place.Cell(r, col), m.ROM.Name, ch, ch))
	if cell.Field > 0 {
		c.missingInField(&f, cell.Field-1, ch)
		c.Findings = append(c.Findings, f)
		return
	}
	for _, near := range m.ROM.Near(ch) {
		f.Remedies = append(f.Remedies, c.remedy(fmt.Sprintf("Write '%s'", near), replaceAll(c.Text.Rows, ch, near)))
	}
	if d, ok := glyph.Draw(m.ROM, ch); ok {
		if slot, free := c.Text.Bank.Place(glyph.Of(d), m.SlotStep()); free {
			rows := replaceAll(c.Text.Rows, ch, string(CodeBase+rune(CodeOf(m, slot))))
			f.Remedies = append(f.Remedies, c.remedy(fmt.Sprintf("Draw '%c' as a glyph in slot %d", ch, slot), rows, c.drawn(slot, ch, d)...))
		} else {
			f.Fix = "Write it another way, or empty one of the eight slots to draw it as a glyph."
		}
	}
	f.Remedies = append(f.Remedies, c.remedy("Leave a space", replaceAll(c.Text.Rows, ch, " ")))
	c.Findings = append(c.Findings, f)
}

// drawn returns the changes that put a pattern into a free slot; none where the
// slot holds it.
func (c *composer) drawn(slot int, ch rune, d charrom.Dots) []finding.Op {
	g := glyph.New(slot, string(ch), glyph.Of(d))
	switch _, holds := c.Text.Bank.In(slot); {
	case holds:
		return nil
	case len(c.Text.Bank) == 0:
		return []finding.Op{finding.Add(c.at.Glyphs, glyph.Bank{g})}
	}
	return []finding.Op{finding.Test(c.at.Glyphs, c.Text.Bank), finding.Add(c.at.Glyphs+"/-", g)}
}

// replaceAll replaces a character in every row.
func replaceAll(rows []string, ch rune, with string) []string {
	out := make([]string, len(rows))
	for i, r := range rows {
		out[i] = strings.ReplaceAll(norm.NFC.String(r), string(ch), with)
	}
	return out
}

// judgeFit names what of row r is left over.
func (c *composer) judgeFit(r int) {
	over := c.Over[r]
	if over == "" || r < c.Layout.Rows && c.Text.Scroll.Runs(r) {
		return
	}
	n := len([]rune(over))
	typed := r < len(c.Text.Rows) && (r >= c.Layout.Rows || len([]rune(norm.NFC.String(c.Text.Rows[r]))) > c.Cols)
	if !typed && !c.moved(r) {
		return // a field reaches beyond the glass: that is said of the field
	}
	if r >= c.Layout.Rows {
		f := finding.Finding{
			Code: "screen.too-many-rows", Severity: finding.Error,
			Fix:  "Shorten the screen, or split it into two that follow each other.",
			Path: c.rowAt(r), Cells: &finding.Cells{Row: r, Col: 0, Len: n},
			Remedies: []finding.Remedy{c.placed(place.Sprintf("Drop %P", place.Row(r)), edited(c.Text.Rows, r, ""))},
		}
		f.Say(place.Sprintf("%P does not exist on a %s module: “%s” is not shown.", place.Row(r), c.module.Geometry.Title, display(over)))
		c.Findings = append(c.Findings, f)
		return
	}
	f := finding.Finding{
		Code: "screen.row-too-long", Severity: finding.Error,
		Why:  fmt.Sprintf("The module has %d columns; further characters would go to memory that is not shown, or to another row.", c.Cols),
		Fix:  "Shorten the row, or move its end to another row.",
		Path: c.rowAt(r), Cells: &finding.Cells{Row: r, Col: c.Cols, Len: n},
	}
	f.Say(place.Sprintf("%P is %d %s too long: “%s” is not shown.", place.Row(r), n, say.Plural(n, "character"), display(over)))
	if !typed {
		f.Why = "A field's value is too long for its cells, and moves on what follows it."
		f.Fix = "Make the field wider, or show ### where a value does not fit."
		c.Findings = append(c.Findings, f)
		return
	}
	kept := string([]rune(norm.NFC.String(c.Text.Rows[r]))[:c.Cols])
	if r+1 < c.Layout.Rows && (r+1 >= len(c.Text.Rows) || strings.TrimSpace(c.Text.Rows[r+1]) == "") {
		rows := edited(edited(c.Text.Rows, r, kept), r+1, strings.TrimLeft(over, " "))
		f.Remedies = append(f.Remedies, c.placed(place.Sprintf("Move “%s” to %P", display(over), place.Row(r+1)), rows))
	}
	f.Remedies = append(f.Remedies, c.placed(place.Sprintf("Cut at %P", place.Column(c.Cols-1)), edited(c.Text.Rows, r, kept)))
	if c.at.Scroll != "" && c.Text.Scroll.By == "" {
		f.Remedies = append(f.Remedies, finding.Remedy{Label: "Let it run through the glass", Patch: finding.Patch{
			finding.Test(c.at.Rows, c.Text.Rows), finding.Add(c.at.Scroll, Scroll{By: "rewrite", Row: r, Gap: 3}),
		}})
	}
	c.Findings = append(c.Findings, f)
}

// edited returns rows with row r replaced, made longer where it must be. Empty
// rows at the end are dropped.
func edited(rows []string, r int, text string) []string {
	out := append([]string(nil), rows...)
	for len(out) <= r {
		out = append(out, "")
	}
	out[r] = text
	for len(out) > 0 && out[len(out)-1] == "" {
		out = out[:len(out)-1]
	}
	return out
}

// codeOf returns the code that a character stands for, where it stands for one.
func codeOf(ch rune) (byte, bool) {
	if ch < CodeBase || ch > CodeBase+0xFF {
		return 0, false
	}
	return byte(ch - CodeBase), true
}

// keyOf returns the key of the drawing that a character stands for; 0 for none.
func keyOf(ch rune) int {
	if ch <= KeyBase || ch > KeyBase+glyph.MaxKey {
		return 0
	}
	return int(ch - KeyBase)
}

// display writes codes that stand for themselves as escapes.
func display(text string) string {
	var b strings.Builder
	for _, ch := range text {
		if code, ok := codeOf(ch); ok {
			fmt.Fprintf(&b, `\x%02X`, code)
		} else if keyOf(ch) != 0 {
			b.WriteRune('◫')
		} else {
			b.WriteRune(ch)
		}
	}
	return b.String()
}
