// Package screen is composed text: rows of characters laid onto the cells of a
// module by its ROM, with what does not fit and what the ROM lacks named, and
// the comparison of what was composed with what the glass shows.
//
// It is the head of the flow screen → cells → operations → wire traffic → rig →
// glass, and its end: Compare closes the loop.
package screen

import (
	"fmt"
	"strings"

	"golang.org/x/text/unicode/norm"

	"slatebell/core/finding"
	"slatebell/core/glyph"
	"slatebell/core/module"
	"slatebell/core/rig"
)

// CodeBase is the first of 256 private-use characters that stand for the codes
// 0x00–0xFF themselves, whatever the ROM shows there: U+E000–U+E0FF. So every
// cell of a row is one character.
const CodeBase = 0xE000

// Screen is a composed text, a string a row. Rows may be longer than the module
// is wide, and more than it has: nothing that was typed is lost.
type Screen struct {
	Rows []string `json:"rows" nullable:"false" maxItems:"64" doc:"text of each row; U+E000–U+E0FF stand for the codes 00–FF"`
}

// MaxRow is how many characters a row may hold.
const MaxRow = 400

// Parse splits text at line ends into rows, and reads the escapes \xHH as codes
// and \\ as a backslash; any other backslash stands for itself.
func Parse(text string) Screen {
	text = strings.ReplaceAll(text, "\r\n", "\n")
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
	return Screen{Rows: strings.Split(b.String(), "\n")}
}

func hexDigit(c byte) int {
	return strings.IndexByte("0123456789ABCDEF", strings.ToUpper(string(c))[0])
}

// Cell is one composed cell.
type Cell struct {
	Char    string // what was typed there; "" for a cell left empty
	Code    byte   // what goes to DDRAM
	Missing bool   // the ROM lacks Char, so Code is a space
}

// Layout is a screen laid onto a module.
type Layout struct {
	Cols, Rows int
	Cells      []Cell   // row by row
	Over       []string // for each typed row, what did not fit; rows beyond the last whole
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

// Compose lays a screen onto a module whose slots hold a bank's glyphs.
func Compose(m *module.Module, s Screen, bank glyph.Bank) Layout {
	g := &m.Geometry
	l := Layout{Cols: g.Cols, Rows: g.Rows, Cells: make([]Cell, g.Cells()), Over: make([]string, max(g.Rows, len(s.Rows)))}
	for i := range l.Cells {
		l.Cells[i].Code = ' '
	}
	for r, text := range s.Rows {
		text = norm.NFC.String(text)
		col := 0
		for at, ch := range text {
			if r >= g.Rows || col >= g.Cols {
				l.Over[r] = strings.TrimRight(text[at:], " ")
				break
			}
			l.place(m, s, bank, r, col, ch)
			col++
		}
		l.judgeFit(m, s, r)
	}
	l.judgeSlots(m, bank)
	return l
}

func (l *Layout) place(m *module.Module, s Screen, bank glyph.Bank, r, col int, ch rune) {
	cell := &l.Cells[r*l.Cols+col]
	cell.Char = string(ch)
	if ch >= CodeBase && ch <= CodeBase+0xFF {
		cell.Code = byte(ch - CodeBase)
		return
	}
	code, ok := m.ROM.Code(ch)
	if ok {
		cell.Code = code
		return
	}
	cell.Missing = true
	f := finding.Finding{
		Code: "rom.missing-character", Severity: finding.Error,
		What:  fmt.Sprintf("Row %d, column %d: ROM %s has no '%c' (U+%04X).", r+1, col+1, m.ROM.Name, ch, ch),
		Why:   "The controller knows only the characters of its ROM; the cell is left empty.",
		Fix:   "Write it another way, or draw it as a glyph.",
		Place: &finding.Place{Row: r, Col: col, Len: 1},
	}
	for _, near := range m.ROM.Near(ch) {
		f.Remedies = append(f.Remedies, finding.Remedy{
			Label: fmt.Sprintf("Write '%s'", near),
			Rows:  replaceAll(s.Rows, ch, near),
		})
	}
	if d, ok := glyph.Draw(m.ROM, ch); ok {
		if slot, free := bank.Place(d, m.SlotStep()); free {
			change := finding.GlyphChange(glyph.New(slot, string(ch), d))
			f.Remedies = append(f.Remedies, finding.Remedy{
				Label: fmt.Sprintf("Draw '%c' as a glyph in slot %d", ch, slot),
				Rows:  replaceAll(s.Rows, ch, string(CodeBase+rune(slot))), Glyph: &change,
			})
		} else {
			f.Fix = "Write it another way, or empty one of the eight slots to draw it as a glyph."
		}
	}
	f.Remedies = append(f.Remedies, finding.Remedy{Label: "Leave a space", Rows: replaceAll(s.Rows, ch, " ")})
	l.Findings = append(l.Findings, f)
}

// replaceAll replaces a character in every row.
func replaceAll(rows []string, ch rune, with string) []string {
	out := make([]string, len(rows))
	for i, r := range rows {
		out[i] = strings.ReplaceAll(norm.NFC.String(r), string(ch), with)
	}
	return out
}

// judgeSlots names the slots that the screen shows and nothing was drawn for.
func (l *Layout) judgeSlots(m *module.Module, bank glyph.Bank) {
	named := [glyph.Slots]bool{}
	for i, c := range l.Cells {
		slot, ok := m.Slot(c.Code)
		if !ok || named[slot] {
			continue
		}
		if _, drawn := bank.In(slot); drawn {
			continue
		}
		named[slot] = true
		l.Findings = append(l.Findings, finding.Finding{
			Code: "glyph.empty-slot", Severity: finding.Warning,
			What:  fmt.Sprintf("Row %d, column %d shows slot %d, and no glyph is drawn in it.", i/l.Cols+1, i%l.Cols+1, slot),
			Why:   "CGRAM holds anything after power-up; a real module shows stray dots there.",
			Fix:   "Draw a glyph in the slot, or write another character.",
			Place: &finding.Place{Row: i / l.Cols, Col: i % l.Cols, Len: 1}, Source: "HD44780U data sheet, ADE-207-272(Z), Reset function",
		})
	}
}

// judgeFit names what of row r is left over.
func (l *Layout) judgeFit(m *module.Module, s Screen, r int) {
	over := l.Over[r]
	if over == "" {
		return
	}
	n := len([]rune(over))
	title := m.Geometry.Title
	if r >= l.Rows {
		l.Findings = append(l.Findings, finding.Finding{
			Code: "screen.too-many-rows", Severity: finding.Error,
			What:     fmt.Sprintf("Row %d does not exist on a %s module: “%s” is not shown.", r+1, title, display(over)),
			Fix:      "Shorten the screen, or split it into two that follow each other.",
			Place:    &finding.Place{Row: r, Col: 0, Len: n},
			Remedies: []finding.Remedy{{Label: fmt.Sprintf("Drop row %d", r+1), Rows: edited(s.Rows, r, "")}},
		})
		return
	}
	f := finding.Finding{
		Code: "screen.row-too-long", Severity: finding.Error,
		What:  fmt.Sprintf("Row %d is %d %s too long: “%s” is not shown.", r+1, n, plural(n, "character"), display(over)),
		Why:   fmt.Sprintf("The module has %d columns; further characters would go to memory that is not shown, or to another row.", l.Cols),
		Fix:   "Shorten the row, or move its end to another row.",
		Place: &finding.Place{Row: r, Col: l.Cols, Len: n},
	}
	kept := string([]rune(norm.NFC.String(s.Rows[r]))[:l.Cols])
	if r+1 < l.Rows && (r+1 >= len(s.Rows) || strings.TrimSpace(s.Rows[r+1]) == "") {
		rows := edited(s.Rows, r, kept)
		rows = edited(rows, r+1, strings.TrimLeft(over, " "))
		f.Remedies = append(f.Remedies, finding.Remedy{Label: fmt.Sprintf("Move “%s” to row %d", display(over), r+2), Rows: rows})
	}
	f.Remedies = append(f.Remedies, finding.Remedy{Label: fmt.Sprintf("Cut at column %d", l.Cols), Rows: edited(s.Rows, r, kept)})
	l.Findings = append(l.Findings, f)
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

// display writes codes that stand for themselves as escapes.
func display(text string) string {
	var b strings.Builder
	for _, ch := range text {
		if ch >= CodeBase && ch <= CodeBase+0xFF {
			fmt.Fprintf(&b, `\x%02X`, ch-CodeBase)
		} else {
			b.WriteRune(ch)
		}
	}
	return b.String()
}

func plural(n int, word string) string {
	if n == 1 {
		return word
	}
	return word + "s"
}

// Compare names the cells at which a glass shows another code than was
// composed, a finding for each row that differs.
func (l *Layout) Compare(g *rig.Glass) []finding.Finding {
	if !g.On {
		return []finding.Finding{{
			Code: "glass.off", Severity: finding.Error,
			What: "The simulated module shows no text: its display is off.",
			Why:  "No display-on instruction reached the controller.",
			Fix:  "Initialise the module before the text, at the address and link it really has, and keep its waits.",
		}}
	}
	var out []finding.Finding
	for r := range l.Rows {
		first, n := -1, 0
		for c := range l.Cols {
			if cell := g.Cells[r*l.Cols+c]; cell.Code != l.Cells[r*l.Cols+c].Code || !cell.Scanned {
				n++
				if first < 0 {
					first = c
				}
			}
		}
		if n == 0 {
			continue
		}
		i := r*l.Cols + first
		out = append(out, finding.Finding{
			Code: "glass.differs", Severity: finding.Error,
			What: fmt.Sprintf("Row %d of the glass differs from the screen in %d %s, first in column %d: 0x%02X is shown, 0x%02X was composed.",
				r+1, n, plural(n, "cell"), first+1, g.Cells[i].Code, l.Cells[i].Code),
			Why:   "What the controller's memory holds is not what was composed.",
			Fix:   "Look at the findings about the wire, and step through the bytes to where it goes wrong.",
			Place: &finding.Place{Row: r, Col: first, Len: n},
		})
	}
	return out
}
