package screen

import (
	"fmt"
	"slices"
	"strings"

	"golang.org/x/text/unicode/norm"

	"slatebell/core/finding"
	"slatebell/core/place"
	"slatebell/core/say"
	"slatebell/core/text/field"
	"slatebell/core/text/glyph"
	"slatebell/core/text/meter"
)

// judgeFields judges each field on its own: its place, its values, and the longest
// and the shortest of them.
func (c *composer) judgeFields() {
	for i := range c.Text.Fields {
		j := fieldJudge{c, i, &c.Text.Fields[i], &c.Layout.Fields[i]}
		j.name()
		j.place()
		if !j.values() {
			continue
		}
		j.tooLong()
		j.leftovers()
		j.unwritable()
		j.glyphs()
	}
}

// fieldJudge judges one field.
type fieldJudge struct {
	*composer
	i     int
	field *field.Field
	shown *Shown
}

func (j *fieldJudge) state(code string, severity finding.Severity, what place.Text, why, fix string, remedies ...finding.Remedy) {
	f := j.field
	found := finding.Finding{Code: code, Severity: severity, What: what.S, Places: what.Places, Why: why, Fix: fix, Path: j.fieldPath(j.i), Remedies: remedies}
	if f.Row < j.Layout.Rows && f.Col < j.Cols {
		found.Cells = &finding.Cells{Row: f.Row, Col: f.Col, Len: min(f.Width, j.Cols-f.Col)}
	}
	j.Findings = append(j.Findings, found)
}

func (j *fieldJudge) change(label string, change func(f *field.Field)) finding.Remedy {
	return j.becomes(j.i, label, change)
}

// name judges a name that stands twice.
func (j *fieldJudge) name() {
	for k := range j.i {
		if o := &j.Text.Fields[k]; o.Name == j.field.Name && !o.SameValue(j.field) {
			free := j.field.Name
			for n := 2; slices.ContainsFunc(j.Text.Fields, func(f field.Field) bool { return f.Name == free }); n++ {
				free = fmt.Sprintf("%s %d", j.field.Name, n)
			}
			j.state("field.same-name", finding.Warning, place.Sprintf("Two fields of the screen are called “%s”.", j.field.Name), "A program cannot tell them apart.", "Give one another name.",
				j.change(fmt.Sprintf("Call it “%s”", free), func(f *field.Field) { f.Name = free }))
			return
		}
	}
}

// place judges where the field stands.
func (j *fieldJudge) place() {
	f := j.field
	if f.Row >= j.Layout.Rows || f.Col+f.Width > j.Cols {
		var remedies []finding.Remedy
		if f.Row < j.Layout.Rows && f.Col < j.Cols {
			remedies = append(remedies, j.change(fmt.Sprintf("Make it %d %s wide", j.Cols-f.Col, say.Plural(j.Cols-f.Col, "cell")), func(f *field.Field) { f.Width = j.Cols - f.Col }))
		}
		if f.Width <= j.Cols {
			row := min(f.Row, j.Layout.Rows-1)
			remedies = append(remedies, j.change("Move it onto the glass", func(f *field.Field) { f.Row, f.Col = row, min(f.Col, j.Cols-f.Width) }))
		}
		j.state("field.outside", finding.Error, place.Sprintf("The field “%s” reaches beyond the glass: %P, on %d rows of %d columns.", f.Name, place.Cells(f.Row, f.Col, f.Width), j.Layout.Rows, j.Cols),
			"What is written there is not seen, or comes out on another row.", "Move it, or make it narrower.", remedies...)
	}
	for k := range j.i {
		if o := &j.Text.Fields[k]; o.Row == f.Row && o.Col < f.Col+f.Width && f.Col < o.Col+o.Width {
			first := max(f.Col, o.Col)
			j.state("field.overlap", finding.Error, place.Sprintf("The fields “%s” and “%s” share %P.", o.Name, f.Name, place.Cell(f.Row, first)),
				"The one that is written last covers the other.", "Move one of them, or make it narrower.")
			break
		}
	}
}

// values judges what the field may show; false where nothing more can be said.
func (j *fieldJudge) values() bool {
	f := j.field
	switch {
	case (f.Kind == field.Number || f.Kind == field.Elapsed) && f.Range.Max < f.Range.Min, f.Kind == field.Bar && f.Range.Max <= f.Range.Min:
		j.state("field.range", finding.Error, place.Sprintf("The field “%s” goes from %g to %g.", f.Name, f.Range.Min, f.Range.Max), "There is no value between.", "Give a least value below the greatest.",
			j.change("Exchange the two", func(f *field.Field) { f.Range.Min, f.Range.Max = f.Range.Max, f.Range.Min }))
		return false
	case f.Kind == field.Bar:
		if err := f.Meter().Check(); err != nil {
			j.state("field.bar", finding.Error, place.Sprintf("The bar “%s” cannot be drawn: %s.", f.Name, err), "", "Change its width or its steps.")
			return false
		}
	}
	_, err := f.Show(f.Sample)
	if err == nil {
		return true
	}
	listed := (f.Kind == field.Text || f.Kind == field.Choice) && len(f.Values) == 0
	switch _, unusual := f.Show(""); {
	case listed:
		j.state("field.no-values", finding.Warning, place.Sprintf("The field “%s” has no texts yet.", f.Name), "What it shows, and whether it fits, is not known.", "List what it may show.")
	case unusual != nil:
		j.state("field.format", finding.Error, place.Sprintf("The field “%s”: %s.", f.Name, unusual), "", "Correct the format.", j.change("Write hours and minutes, %H:%M", func(f *field.Field) { f.Format = "%H:%M" }))
		return false
	default:
		j.state("field.sample", finding.Warning, place.Sprintf("The field “%s” shows something that it never will: %s.", f.Name, err), "", "Choose another value to compose with.",
			j.change("Take a usual one", func(f *field.Field) { f.Sample = "" }))
	}
	return !listed
}

// tooLong judges values that do not fit.
func (j *fieldJudge) tooLong() {
	f, e := j.field, &j.shown.Extremes
	if len(e.Over) == 0 {
		return
	}
	first := e.Over[0]
	for _, o := range e.Over {
		if o.Len() >= e.Longest.Len() {
			first = o
		}
	}
	what := fmt.Sprintf("The field “%s” does not fit at %s: “%s” takes %d cells, it has %d.", f.Name, first.Value, first.Text, first.Len(), f.Width)
	if longest := e.Longest; longest.Len() > first.Len() {
		what += fmt.Sprintf(" The longest, “%s” at %s, takes %d.", longest.Text, longest.Value, longest.Len())
	}
	severity, why := finding.Warning, ""
	switch f.TooLong() {
	case "hashes":
		why = "It shows ### then, and no value."
	case "shift":
		why = "What follows it on the row moves to the right, and what leaves the row is lost."
	default:
		why = "It is cut off then."
		if f.Kind == field.Number || f.Kind == field.Elapsed {
			severity, why = finding.Error, "Its last digits are cut off then, and another number is shown."
		}
	}
	var remedies []finding.Remedy
	if by, col := e.Longest.Len()-f.Width, j.roomFor(e.Longest.Len()); col >= 0 {
		label := fmt.Sprintf("Make it %d %s wider", by, say.Plural(by, "cell"))
		if col != f.Col {
			label += ", to the left"
		}
		remedies = append(remedies, j.change(label, func(f *field.Field) { f.Width, f.Col = e.Longest.Len(), col }))
	}
	if d := f.Digits.Decimals; f.Kind == field.Number && d > 0 {
		fewer := *f
		fewer.Digits.Decimals = 0
		if fewer.Extremes().Longest.Len() <= f.Width {
			remedies = append(remedies, j.change("Leave the decimals out", func(f *field.Field) { f.Digits.Decimals = 0 }))
		}
	}
	if f.Kind == field.Number && f.Digits.Unit != "" && e.Longest.Len()-len([]rune(f.Digits.Unit)) <= f.Width {
		remedies = append(remedies, j.change("Leave the unit out", func(f *field.Field) { f.Digits.Unit = "" }))
	}
	if severity == finding.Error {
		remedies = append(remedies, j.change("Show ### where it does not fit", func(f *field.Field) { f.Look.TooLong = "hashes" }))
	}
	j.state("field.too-long", severity, place.Text{S: what}, why, "Make the field wider, or its values shorter.", remedies...)
}

// roomFor returns the column from which on a field of a width finds only free cells
// beside its own, to the right rather than to the left; -1 where there is no room.
func (j *fieldJudge) roomFor(width int) int {
	f := j.field
	free := func(from, to int) bool {
		if from < 0 || to > j.Cols || f.Row >= j.Layout.Rows {
			return false
		}
		for col := from; col < to; col++ {
			cell := &j.Cells[f.Row*j.Cols+col]
			if own := col >= f.Col && col < f.Col+f.Width; !own && (cell.Code != ' ' || cell.Field != 0 || cell.Named()) {
				return false
			}
		}
		return true
	}
	switch {
	case free(f.Col, f.Col+width):
		return f.Col
	case free(f.Col+f.Width-width, f.Col+f.Width):
		return f.Col + f.Width - width
	}
	return -1
}

// leftovers judges a field whose free cells are not written.
func (j *fieldJudge) leftovers() {
	f, e := j.field, &j.shown.Extremes
	long, short := f.Shows(e.Longest.Text), f.Shows(e.Shortest.Text)
	if f.Fills() || len(long) <= len(short) {
		return
	}
	j.state("field.leftovers", finding.Warning,
		place.Sprintf("The field “%s” keeps “%s” of “%s” when “%s” is written over it.", f.Name, strings.TrimLeft(string(long[len(short):]), " "), string(long), string(short)),
		"The module never clears by itself.", "Fill the field with spaces.", j.change("Fill the field with spaces", func(f *field.Field) { f.Look.Fill = "" }))
}

// unwritable names a value of a list with a character that the ROM lacks, while
// another is shown.
func (j *fieldJudge) unwritable() {
	for _, v := range j.field.Values {
		for _, ch := range norm.NFC.String(v) {
			if j.writable(ch) || strings.ContainsRune(j.shown.Text, ch) {
				continue
			}
			f := finding.Finding{
				Code: "rom.missing-character", Severity: finding.Error,
				What: fmt.Sprintf("ROM %s has no '%c' (U+%04X), in “%s”.", j.module.ROM.Name, ch, ch, v),
				Why:  "The controller knows only the characters of its ROM; the cell is left empty.",
			}
			j.missingInField(&f, j.i, ch)
			j.Findings = append(j.Findings, f)
			return
		}
	}
}

// writable reports whether a character can be shown.
func (c *composer) writable(ch rune) bool {
	_, code := codeOf(ch)
	_, inROM := c.module.ROM.Code(ch)
	return code || inROM || keyOf(ch) != 0
}

// glyphs judges a bar that needs more glyphs over its range than the slots hold.
func (j *fieldJudge) glyphs() {
	if j.field.Kind != field.Bar {
		return
	}
	holds := glyph.Slots / j.module.SlotStep()
	set, err := meter.SetOf(j.field.Meter().Patterns(), j.module.ROM, glyph.Slots*glyph.Slots)
	if err != nil || len(set.Glyphs) <= holds {
		return
	}
	j.state("field.glyphs", finding.Warning, place.Sprintf("The bar “%s” needs %d glyphs over its range, and CGRAM holds %d.", j.field.Name, len(set.Glyphs), holds),
		"Some of its values load glyphs anew.", "Take longer steps, or leave the frame out.",
		j.change("Take steps of five dots", func(f *field.Field) { f.Gauge.Dots, f.Gauge.Gap = 5, 0 }))
}
