package screen

import (
	"fmt"
	"slices"
	"strings"

	"golang.org/x/text/unicode/norm"

	"slatebell/core/finding"
	"slatebell/core/text/field"
	"slatebell/core/text/meter"
)

// Shown is what a field shows, and what it can show.
type Shown struct {
	Text string // of its sample; "" for a bar and a cursor's place
	field.Extremes
}

// lastRow is how many rows fields reach down.
func lastRow(fields []field.Field) (rows int) {
	for i := range fields {
		rows = max(rows, fields[i].Row+1)
	}
	return rows
}

// showFields writes the fields' texts into the rows, those on the right first: a
// text that is too long may move on what follows it.
func (c *composer) showFields() {
	rows := make([][]rune, max(len(c.Text.Rows), lastRow(c.Text.Fields)))
	c.owners = make([][]int, len(rows))
	for r := range rows {
		if r < len(c.Text.Rows) {
			rows[r] = []rune(norm.NFC.String(c.Text.Rows[r]))
		}
		c.owners[r] = make([]int, len(rows[r]))
	}
	order := make([]int, len(c.Text.Fields))
	for i := range order {
		order[i] = i
	}
	slices.SortStableFunc(order, func(a, b int) int { return c.Text.Fields[b].Col - c.Text.Fields[a].Col })
	c.Layout.Fields = make([]Shown, len(c.Text.Fields))
	for _, i := range order {
		f := &c.Text.Fields[i]
		text, _ := f.Show(f.Sample)
		c.Layout.Fields[i] = Shown{text, f.Extremes()}
		if f.Kind == field.Cursor {
			continue
		}
		chars := f.Shows(text)
		if f.Kind == field.Bar {
			chars = slices.Repeat([]rune{' '}, f.Width)
		}
		row, owners := &rows[f.Row], &c.owners[f.Row]
		for len(*row) < f.Col+f.Width {
			*row, *owners = append(*row, ' '), append(*owners, 0)
		}
		end := f.Col + min(len(chars), f.Width)
		*row = slices.Concat((*row)[:f.Col], chars, (*row)[end:])
		*owners = slices.Concat((*owners)[:f.Col], slices.Repeat([]int{i + 1}, len(chars)), (*owners)[end:])
	}
	c.written = make([]string, len(rows))
	for r, row := range rows {
		c.written[r] = string(row)
	}
}

// moved reports whether a field of row r moves on what follows it.
func (c *composer) moved(r int) bool {
	for i := range c.Text.Fields {
		if f := &c.Text.Fields[i]; f.Row == r && len(f.Shows(c.Layout.Fields[i].Text)) > f.Width {
			return true
		}
	}
	return false
}

// owner is the field, counted from 1, that a column of a written row belongs to.
func (c *composer) owner(r, col int) int {
	if r < len(c.owners) && col < len(c.owners[r]) {
		return c.owners[r][col]
	}
	return 0
}

// drawBars draws the bars of fields into their cells.
func (c *composer) drawBars() {
	for i := range c.Text.Fields {
		f := &c.Text.Fields[i]
		bar := f.Meter()
		if f.Kind != field.Bar || bar.Check() != nil {
			continue
		}
		value := meter.Reading{Value: f.Step(f.Reading())}
		for k, p := range bar.Draw(value) {
			if col := f.Col + k; f.Row < c.Layout.Rows && col < c.Cols {
				cell := &c.Cells[f.Row*c.Cols+col]
				cell.Drawn, cell.Pattern, cell.Field = true, p, i+1
			}
		}
	}
}

// fieldPath is the pointer to a field.
func (c *composer) fieldPath(i int) string { return fmt.Sprintf("%s/%d", c.at.Fields, i) }

// becomes returns the remedy that puts another field in a field's place.
func (c *composer) becomes(i int, label string, change func(f *field.Field)) finding.Remedy {
	next := c.Text.Fields[i]
	next.Values = slices.Clone(next.Values)
	change(&next)
	at := c.fieldPath(i)
	return finding.Remedy{Label: label, Patch: finding.Patch{finding.Test(at, c.Text.Fields[i]), finding.Replace(at, next)}}
}

// missingInField says of a character that the ROM lacks that a field brings it.
func (c *composer) missingInField(f *finding.Finding, i int, ch rune) {
	f.Path = c.fieldPath(i)
	f.What += fmt.Sprintf(" The field “%s” shows it.", c.Text.Fields[i].Name)
	f.Fix = "Write the field's values another way."
	for _, near := range c.module.ROM.Near(ch) {
		f.Remedies = append(f.Remedies, c.becomes(i, fmt.Sprintf("Write '%s'", near), func(f *field.Field) { replaceInField(f, ch, near) }))
	}
}

// replaceInField replaces a character wherever a field has text.
func replaceInField(f *field.Field, ch rune, with string) {
	for _, s := range []*string{&f.Digits.Unit, &f.Format, &f.Look.Fill, &f.Sample} {
		*s = strings.ReplaceAll(norm.NFC.String(*s), string(ch), with)
	}
	for k := range f.Values {
		f.Values[k] = strings.ReplaceAll(norm.NFC.String(f.Values[k]), string(ch), with)
	}
}
