package screen

import (
	"fmt"
	"slices"
	"strings"

	"golang.org/x/text/unicode/norm"

	"slatebell/core/finding"
	"slatebell/core/part/module"
	"slatebell/core/place"
	"slatebell/core/say"
	"slatebell/core/text/field"
	"slatebell/core/text/glyph"
)

// CodeOf returns the code that shows a slot on a module: the slot's number or,
// for slot 0, its other code 8, since code 0 ends a string in C.
func CodeOf(m *module.Module, slot int) byte {
	if other, ok := m.ROM.Slot(glyph.Slots); slot == 0 && ok && other == 0 {
		return glyph.Slots
	}
	return byte(slot)
}

// Named returns the drawings of a library that rows, and texts of fields, name by
// key.
func Named(rows []string, fields []field.Field, library glyph.Library) (out glyph.Library) {
	named := map[int]bool{}
	for i := range fields {
		rows = slices.Concat(rows, fields[i].Values)
	}
	for _, row := range rows {
		for _, ch := range row {
			if key := keyOf(ch); key != 0 && !named[key] {
				named[key] = true
				if d, ok := library.Keyed(key); ok {
					out = append(out, *d)
				}
			}
		}
	}
	return out
}

// placeDrawings gives each drawing that the screen names by key the code that
// shows it: a code of the ROM where that has the very dots, else a slot. Slots
// whose glyphs the screen does not show may be taken for it.
func (c *composer) placeDrawings() {
	codes := map[glyph.Pattern]byte{}
	used := [glyph.Slots]bool{} // by what the screen shows
	for _, cell := range c.Cells {
		if slot, ok := c.module.Slot(cell.Code); ok && !cell.Named() {
			used[slot] = true
		}
	}
	wanted := c.patterns()
	var left []glyph.Pattern // in no slot yet
	for _, p := range wanted {
		if code, ok := glyph.Equal(c.module.ROM, p, c.module.Tall); ok {
			codes[p] = code
		} else if slot, ok := c.Text.Bank.Holds(p, c.module.SlotStep()); ok {
			codes[p], used[slot] = CodeOf(c.module, slot), true
		} else {
			left = append(left, p)
		}
	}
	over := 0
	for _, p := range left {
		slot, ok := c.takeSlot(&used)
		if !ok {
			over++
			continue
		}
		codes[p] = CodeOf(c.module, slot)
		c.hold(slot, p)
	}
	said := false
	for i := range c.Cells {
		cell := &c.Cells[i]
		if !cell.Drawn {
			if cell.Key != 0 {
				cell.Missing = true
				c.judgeLost(i)
			}
			continue
		}
		code, ok := codes[cell.Pattern]
		if ok {
			cell.Code = code
			continue
		}
		cell.Missing = true
		if !said {
			c.judgeTooMany(i, codes, over)
			said = true
		}
	}
}

// Named reports whether a cell shows a drawing rather than a code.
func (c *Composed) Named() bool { return c.Drawn || c.Key != 0 }

// patterns lists the drawings on the screen, each once, in reading order.
func (c *composer) patterns() (out []glyph.Pattern) {
	for i := range c.Cells {
		if cell := &c.Cells[i]; cell.Drawn && !slices.Contains(out, cell.Pattern) {
			out = append(out, cell.Pattern)
		}
	}
	return out
}

// takeSlot returns a slot that the screen does not use yet: one that the screen
// before does not show, and an empty one, first.
func (c *composer) takeSlot(used *[glyph.Slots]bool) (slot int, ok bool) {
	for _, shown := range []bool{false, true} {
		for _, empty := range []bool{true, false} {
			for slot := 0; slot < glyph.Slots; slot += c.module.SlotStep() {
				if _, drawn := c.Text.Bank.In(slot); !used[slot] && drawn != empty && c.Text.Shown[slot] == shown {
					used[slot] = true
					return slot, true
				}
			}
		}
	}
	return 0, false
}

// hold puts a pattern into a slot for as long as the screen is shown.
func (c *composer) hold(slot int, p glyph.Pattern) {
	name := ""
	for i := range c.Library {
		if c.Library[i].Pattern() == p {
			name = c.Library[i].Name
			break
		}
	}
	bank := slices.DeleteFunc(slices.Clone(c.Layout.Bank), func(g glyph.Glyph) bool { return g.Slot == slot })
	c.Layout.Bank = append(bank, glyph.New(slot, name, p))
}

// glyphFinding returns a finding about what cell i shows.
func (c *composer) glyphFinding(code string, severity finding.Severity, i int) finding.Finding {
	r, col := c.place(i)
	return finding.Finding{Code: code, Severity: severity, Path: c.rowAt(r), Cells: &finding.Cells{Row: r, Col: col, Len: 1}}
}

// cell names cell i for people.
func (c *composer) cell(i int) place.Place { return place.Cell(c.place(i)) }

// drawingName names the drawing in cell i, as ", 'oar',"; "" for one without a name.
func (c *composer) drawingName(i int) string {
	if d, ok := c.Library.Keyed(c.Cells[i].Key); ok {
		return fmt.Sprintf(", '%s',", d.Name)
	}
	return ""
}

// judgeLost names a cell whose drawing is not in the library.
func (c *composer) judgeLost(i int) {
	f := c.glyphFinding("glyph.lost", finding.Error, i)
	f.Say(place.Sprintf("%P shows a glyph that is not in the library any more (key %d).", c.cell(i), c.Cells[i].Key))
	f.Fix = "Draw it again, or write another character."
	f.Remedies = []finding.Remedy{c.remedy("Leave a space", replaceAll(c.Text.Rows, []rune(c.Cells[i].Char)[0], " "))}
	c.Findings = append(c.Findings, f)
}

// judgeTooMany names the first drawing that found no slot, and offers the one
// among those shown that comes nearest to it.
func (c *composer) judgeTooMany(i int, codes map[glyph.Pattern]byte, over int) {
	holds := glyph.Slots / c.module.SlotStep()
	f := c.glyphFinding("glyph.too-many", finding.Error, i)
	f.Say(place.Sprintf("The screen shows %d glyphs; CGRAM holds %d. %P%s is left empty.", holds+over, holds, c.cell(i), c.drawingName(i)))
	f.Why = "All glyphs that are on the glass at once must be in CGRAM at once."
	f.Fix = "Show fewer different glyphs, write characters of the ROM in their place, or split the screen."
	f.Source = "HD44780U data sheet, ADE-207-272(Z), Character generator RAM"
	if c.Cells[i].Key == 0 { // a field draws it: its bar can be made simpler there
		f.Path = fmt.Sprintf("%s/%d", c.at.Fields, c.Cells[i].Field-1)
		c.Findings = append(c.Findings, f)
		return
	}
	wanted := c.Cells[i].Pattern
	var best *glyph.Drawing
	for j := range c.Cells {
		other, ok := c.Library.Keyed(c.Cells[j].Key)
		if !ok || codes[other.Pattern()] == 0 {
			continue
		}
		if best == nil || wanted.Distance(other.Pattern()) < wanted.Distance(best.Pattern()) {
			best = other
		}
	}
	ch := []rune(c.Cells[i].Char)[0]
	if best != nil {
		n := wanted.Distance(best.Pattern())
		label := fmt.Sprintf("Show '%s' in its place, %d %s of %d other", best.Name, n, say.Plural(n, "dot"), glyph.Columns*c.module.CellRows())
		f.Remedies = append(f.Remedies, c.remedy(label, replaceAll(c.Text.Rows, ch, string(rune(KeyBase+best.Key)))))
	}
	f.Remedies = append(f.Remedies, c.remedy("Leave a space", replaceAll(c.Text.Rows, ch, " ")))
	c.Findings = append(c.Findings, f)
}

// judgeSlots names the slots that the screen shows and nothing was drawn for,
// and where just one other was drawn and is not shown, that the two differ.
func (c *composer) judgeSlots() {
	named := [glyph.Slots]bool{}
	for i, cell := range c.Cells {
		slot, ok := c.module.Slot(cell.Code)
		if !ok || cell.Named() || named[slot] {
			continue
		}
		if _, drawn := c.Text.Bank.In(slot); drawn {
			continue
		}
		named[slot] = true
		f := c.glyphFinding("glyph.empty-slot", finding.Warning, i)
		f.Say(place.Sprintf("%P shows slot %d, and no glyph is drawn in it.", c.cell(i), slot))
		f.Why = "CGRAM holds anything after power-up; a real module shows stray dots there."
		f.Fix = "Draw a glyph in the slot, or write another character."
		f.Source = "HD44780U data sheet, ADE-207-272(Z), Reset function"
		if at, only := c.unshown(); only {
			g := c.Text.Bank[at]
			f.Code = "glyph.slot-differs"
			f.Say(place.Sprintf("%P shows slot %d, which is empty; %s was drawn in slot %d, which the screen does not show.", c.cell(i), slot, g.Title(), g.Slot))
			f.Fix = "The slot that is written and the slot that is shown must be the same."
			from := fmt.Sprintf("%s/%d/slot", c.at.Glyphs, at)
			f.Remedies = []finding.Remedy{
				c.remedy(fmt.Sprintf("Show slot %d, %s", g.Slot, g.Title()), c.recoded(slot, CodeOf(c.module, g.Slot))),
				{Label: fmt.Sprintf("Move %s to slot %d", g.Title(), slot), Patch: finding.Patch{finding.Test(from, g.Slot), finding.Replace(from, slot)}},
			}
		}
		c.Findings = append(c.Findings, f)
	}
}

// unshown returns the one glyph of the bank that the screen does not show; false
// where there is none, or more than one.
func (c *composer) unshown() (at int, only bool) {
	count := 0
	for i, g := range c.Text.Bank {
		if g.Slot%c.module.SlotStep() == 0 && !c.shows(g.Slot) {
			at = i
			count++
		}
	}
	return at, count == 1
}

// shows reports whether a cell shows a slot by its code.
func (c *composer) shows(slot int) bool {
	return slices.ContainsFunc(c.Cells, func(cell Composed) bool {
		at, ok := c.module.Slot(cell.Code)
		return ok && !cell.Named() && at == slot
	})
}

// recoded returns the rows with another code wherever they show a slot by code.
func (c *composer) recoded(slot int, code byte) []string {
	return Rekeyed(c.module, c.Text.Rows, map[int]rune{slot: CodeBase + rune(code)})
}

// Rekeyed returns rows with other characters for the slots that they show by code.
func Rekeyed(m *module.Module, rows []string, chars map[int]rune) []string {
	out := make([]string, len(rows))
	for r, row := range rows {
		out[r] = strings.Map(func(ch rune) rune {
			if code, ok := codeOf(ch); ok {
				if slot, ok := m.Slot(code); ok && chars[slot] != 0 {
					return chars[slot]
				}
			}
			return ch
		}, norm.NFC.String(row))
	}
	return out
}

// judgeOddSlots names glyphs that the 5×10 font cannot show where they are.
func (c *composer) judgeOddSlots() {
	step := c.module.SlotStep()
	for at, g := range c.Text.Bank {
		if g.Slot%step == 0 {
			continue
		}
		f := finding.Finding{
			Code: "glyph.odd-slot", Severity: finding.Warning,
			What:   fmt.Sprintf("%s is in slot %d; with 5×10 dots a glyph takes two slots, and begins in an even one.", firstUpper(g.Title()), g.Slot),
			Why:    fmt.Sprintf("The controller does not look at the lowest bit of the code: code %d shows slot %d, with this glyph in its rows from the ninth on.", g.Slot, g.Slot&^1),
			Fix:    "Move it to slot 0, 2, 4 or 6.",
			Source: "HD44780U data sheet, ADE-207-272(Z), Character generator RAM", Path: fmt.Sprintf("%s/%d", c.at.Glyphs, at),
		}
		for slot := 0; slot < glyph.Slots; slot += step {
			_, first := c.Text.Bank.In(slot)
			other, second := c.Text.Bank.In(slot + 1)
			if !first && (!second || other.Slot == g.Slot) {
				from := f.Path + "/slot"
				f.Remedies = []finding.Remedy{{Label: fmt.Sprintf("Move it to slot %d", slot), Patch: finding.Patch{finding.Test(from, g.Slot), finding.Replace(from, slot)}}}
				break
			}
		}
		c.Findings = append(c.Findings, f)
	}
}

// judgeCodeZero notes code 0 on the screen, which ends a string in C.
func (c *composer) judgeCodeZero() {
	if CodeOf(c.module, 0) == 0 {
		return // the slot has no other code
	}
	i := slices.IndexFunc(c.Cells, func(cell Composed) bool { return cell.Char == string(rune(CodeBase)) })
	if i < 0 {
		return
	}
	f := c.glyphFinding("glyph.code-zero", finding.Note, i)
	f.Say(place.Sprintf("%P is code 0, which ends a string in C: a program that prints the row as a string stops there.", c.cell(i)))
	f.Fix = "Write code 8: it shows slot 0 as well."
	f.Source = "ISO/IEC 9899, 5.2.1; HD44780U data sheet, ADE-207-272(Z), Character generator RAM"
	f.Remedies = []finding.Remedy{c.remedy("Write code 8 in its place", replaceAll(c.Text.Rows, CodeBase, string(rune(CodeBase+glyph.Slots))))}
	c.Findings = append(c.Findings, f)
}

// judgeInROM notes glyphs on the screen that the ROM has as well.
func (c *composer) judgeInROM() {
	named := [glyph.Slots]bool{}
	for i, cell := range c.Cells {
		slot, ok := c.module.Slot(cell.Code)
		if !ok || cell.Named() || named[slot] {
			continue
		}
		named[slot] = true
		g, drawn := c.Text.Bank.In(slot)
		if !drawn {
			continue
		}
		code, ok := glyph.Equal(c.module.ROM, g.Pattern(), c.module.Tall)
		if !ok {
			continue
		}
		char, title := CodeBase+rune(code), fmt.Sprintf("code 0x%02X", code)
		if ch, ok := c.module.ROM.Rune(code); ok && ch != ' ' {
			char, title = ch, fmt.Sprintf("'%c', code 0x%02X", ch, code)
		}
		f := c.glyphFinding("glyph.in-rom", finding.Note, i)
		f.What = fmt.Sprintf("%s in slot %d has the very dots of %s of ROM %s.", firstUpper(g.Title()), slot, title, c.module.ROM.Name)
		f.Fix = "Write the ROM's character: the slot is free for another glyph then."
		f.Remedies = []finding.Remedy{c.remedy("Write "+title, replaceCode(c.recoded(slot, code), code, char))}
		c.Findings = append(c.Findings, f)
	}
}

// replaceCode writes a character in place of a code.
func replaceCode(rows []string, code byte, ch rune) []string {
	return replaceAll(rows, CodeBase+rune(code), string(ch))
}

// judgeCursorLine notes a glyph in the cursor's cell whose dots reach into the
// line in which the underline cursor is drawn.
func (c *composer) judgeCursorLine() {
	k := c.Cursor
	if k.Kind != "line" || k.Row >= c.Layout.Rows || k.Col >= c.Cols {
		return
	}
	i := k.Row*c.Cols + k.Col
	slot, ok := c.module.Slot(c.Cells[i].Code)
	if !ok {
		return
	}
	line := c.module.CellRows()
	g, drawn := c.Layout.Bank.In(slot)
	if !drawn || g.Pattern()[line-1] == 0 {
		return
	}
	f := c.glyphFinding("glyph.cursor-line", finding.Note, i)
	f.What = fmt.Sprintf("The cursor underlines %s in slot %d, whose dots reach into line %d, the cursor's own.", g.Title(), slot, line)
	f.Why = "The two are laid over each other: the glyph's lowest line cannot be seen below the cursor."
	f.Fix = "Keep the line dark, or let the cursor blink as a block."
	f.Source = "HD44780U data sheet, ADE-207-272(Z), Character generator RAM"
	at := c.at.Cursor + "/kind"
	f.Remedies = []finding.Remedy{{Label: "Let the cursor blink as a block", Patch: finding.Patch{finding.Test(at, k.Kind), finding.Replace(at, "block")}}}
	c.Findings = append(c.Findings, f)
}

// firstUpper begins a sentence with a glyph's title.
func firstUpper(s string) string { return strings.ToUpper(s[:1]) + s[1:] }
