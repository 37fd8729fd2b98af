package screen

import (
	"slices"
	"strings"
	"testing"

	"slatebell/core/finding"
	"slatebell/core/text/field"
)

var places = Sources{Rows: "/rows", Fields: "/fields", Glyphs: "/glyphs"}

// TestFieldFindings has a case of its own for each finding about fields, and
// carries out each remedy: the finding is gone then, or counts for less.
func TestFieldFindings(t *testing.T) {
	tide := field.Field{Name: "Tide", Col: 5, Width: 4, Kind: field.Number, Range: field.Range{Min: -10, Max: 9.9}, Digits: field.Digits{Decimals: 1}, Sample: "3.2"}
	with := func(change func(f *field.Field)) field.Field {
		f := tide
		change(&f)
		return f
	}
	wind := field.Field{Name: "Wind", Width: 2, Kind: field.Text, Values: []string{"NW", "S"}}
	for _, c := range []struct {
		code, what string
		fields     []field.Field
		rows       []string
		remedies   int
	}{
		{"field.too-long", "The field “Tide” does not fit at -10.0: “-10.0” takes 5 cells, it has 4.", []field.Field{tide}, []string{"Tide"}, 2},
		{"field.too-long", "“-10.00 m” at -10.00, takes 8", []field.Field{with(func(f *field.Field) { f.Digits.Decimals, f.Digits.Unit, f.Range.Max = 2, " m", 9 })}, []string{"Tide"}, 1},
		{"field.too-long", "does not fit at -10.0", []field.Field{with(func(f *field.Field) { f.Look.TooLong = "cut" })}, []string{"Tide", "x"}, 3},
		{"field.too-long", "does not fit at -10.0", []field.Field{tide}, []string{"Tide     m"}, 2}, // to the left
		{"field.too-long", "does not fit at -10.0", []field.Field{with(func(f *field.Field) { f.Col = 0 })}, nil, 2},
		{"field.too-long", "does not fit at -10", []field.Field{with(func(f *field.Field) { f.Digits = field.Digits{Unit: "dm"} })}, []string{"Tide:    m"}, 1},
		{"field.outside", "row 1, columns 15 to 18, on 2 rows of 16 columns", []field.Field{with(func(f *field.Field) { f.Col, f.Range.Min = 14, 0 })}, nil, 2},
		{"field.outside", "row 3, columns 6 to 9", []field.Field{with(func(f *field.Field) { f.Row, f.Range.Min = 2, 0 })}, nil, 1},
		{"field.overlap", "“Tide” and “Wind” share row 1, column 9", []field.Field{tide, {Name: "Wind", Col: 8, Width: 2, Kind: field.Text, Values: []string{"NW"}}}, nil, 0},
		{"field.same-name", "called “Wind”", []field.Field{wind, {Name: "Wind", Row: 1, Width: 2, Kind: field.Text, Values: []string{"NW"}}}, nil, 1},
		{"field.range", "goes from 9 to -9", []field.Field{with(func(f *field.Field) { f.Range = field.Range{Min: 9, Max: -9} })}, nil, 1},
		{"field.bar", "6 dots a step", []field.Field{{Name: "Water", Width: 4, Kind: field.Bar, Range: field.Range{Max: 9}, Gauge: field.Gauge{Dots: 6}}}, nil, 0},
		{"field.no-values", "has no texts yet", []field.Field{{Name: "Wind", Width: 4, Kind: field.Text}}, nil, 0},
		{"field.format", "%Q is not known", []field.Field{{Name: "Clock", Width: 8, Kind: field.Clock, Format: "%H:%Q"}}, nil, 1},
		{"field.sample", "12.5 is outside of -10.0 to 9.9", []field.Field{with(func(f *field.Field) { f.Sample = "12.5" })}, nil, 1},
		{"field.leftovers", "keeps “W” of “NW” when “S” is written", []field.Field{{Name: "Wind", Width: 2, Kind: field.Text, Values: wind.Values, Look: field.Look{Fill: field.NoFill}}}, nil, 1},
		{"rom.missing-character", "no 'é' (U+00E9), in “étale”", []field.Field{{Name: "Tide", Width: 6, Kind: field.Text, Values: []string{"ebb", "étale"}}}, nil, 1},
		{"rom.missing-character", "Row 1, column 1: ROM A00 has no 'é' (U+00E9). The field “Tide” shows it.", []field.Field{{Name: "Tide", Width: 6, Kind: field.Text, Values: []string{"étale"}}}, nil, 1},
		{"screen.row-too-long", "Row 1 is 1 character too long: “m” is not shown.",
			[]field.Field{with(func(f *field.Field) { f.Look.TooLong, f.Sample, f.Col = "shift", "-10", 11 })}, []string{"               m"}, 0},
		{"field.glyphs", " glyphs over its range, and CGRAM holds 8", []field.Field{{Name: "Water", Width: 4, Kind: field.Bar, Range: field.Range{Max: 9}, Gauge: field.Gauge{Frame: true}}}, nil, 1},
		{"field.too-long", "does not fit at -10.0", []field.Field{with(func(f *field.Field) { f.Col = 1 })}, []string{"     m"}, 2}, // to the left edge
	} {
		compose := func(rows []string, fields []field.Field) *finding.Finding {
			l := Compose(gate(t), Text{Rows: rows, Fields: fields}, places)
			if i := slices.IndexFunc(l.Findings, func(f finding.Finding) bool { return f.Code == c.code }); i >= 0 {
				return &l.Findings[i]
			}
			return nil
		}
		f := compose(c.rows, c.fields)
		whole := strings.HasPrefix(c.what, "The field") && strings.HasSuffix(c.what, ".")
		if f == nil || !strings.Contains(f.What, c.what) || whole && f.What != c.what || f.Fix == "" || f.Path == "" || len(f.Remedies) < c.remedies {
			t.Errorf("%s: %+v; want %q and %d remedies", c.code, f, c.what, c.remedies)
			continue
		}
		for _, r := range f.Remedies {
			fields := slices.Clone(c.fields)
			last := r.Patch[len(r.Patch)-1]
			fields[last.Path[len("/fields/")]-'0'] = last.Value.(field.Field)
			if after := compose(c.rows, fields); after != nil && after.Severity.Rank() <= f.Severity.Rank() {
				t.Errorf("%s: “%s” leaves it: %s", c.code, r.Label, after.What)
			}
		}
	}
}

// TestFieldSilence has fields of which nothing is to be said but what is asked for:
// neighbours do not overlap, and of one beyond the glass that alone is said.
func TestFieldSilence(t *testing.T) {
	wind := field.Field{Name: "Wind", Width: 2, Kind: field.Text, Values: []string{"NW"}}
	beside, outside, moves := wind, wind, wind
	below := wind
	below.Row = 1
	beside.Name, beside.Col = "Gusts", 2
	outside.Name, outside.Row, outside.Col = "Sea", 1, 15
	moves.Name, moves.Col, moves.Width, moves.Look.TooLong = "Rain", 4, 1, "shift"
	for _, c := range []struct {
		fields []field.Field
		want   string
	}{
		{[]field.Field{wind, beside}, ""},
		{[]field.Field{wind, below}, ""}, // one value in two places
		{[]field.Field{beside, wind}, ""},
		{[]field.Field{outside}, "field.outside"},
		{[]field.Field{outside, moves}, "field.outside field.too-long"},
	} {
		l := Compose(gate(t), Text{Fields: c.fields}, places)
		var codes []string
		for _, f := range l.Findings {
			codes = append(codes, f.Code)
		}
		if got := strings.Join(codes, " "); got != c.want {
			t.Errorf("%d fields: %q, want %q", len(c.fields), got, c.want)
		}
	}
}

// TestFieldsInRows checks that fields stand in their cells, that the row's own text
// shows where a field leaves cells alone, and that a text that is too long moves on
// what follows it, fields to its right among them.
func TestFieldsInRows(t *testing.T) {
	number := func(col int, sample string, look field.Look) field.Field {
		return field.Field{Name: sample, Col: col, Width: 3, Kind: field.Number, Range: field.Range{Min: -99, Max: 9999}, Sample: sample, Look: look}
	}
	for _, c := range []struct {
		row    string
		fields []field.Field
		want   string
	}{
		{"Tide ... m", []field.Field{number(5, "7", field.Look{})}, "Tide   7 m      "},
		{"Tide ... m", []field.Field{number(5, "7", field.Look{Fill: field.NoFill})}, "Tide 7.. m      "},
		{"Tide ... m", []field.Field{number(5, "1234", field.Look{})}, "Tide ### m      "},
		{"Tide ... m", []field.Field{number(5, "1234", field.Look{TooLong: "shift"}), number(12, "5", field.Look{Align: "left"})}, "Tide 1234 m  5  "},
		{"", []field.Field{number(9, "42", field.Look{Fill: "0"})}, "         042    "},
		{"abc", []field.Field{{Name: "place", Col: 1, Width: 1, Kind: field.Cursor}}, "abc             "},
	} {
		l := Compose(gate(t), Text{Rows: []string{c.row}, Fields: c.fields}, places)
		if got := string(l.Codes()[:16]); got != c.want {
			t.Errorf("%q with %d fields: %q, want %q", c.row, len(c.fields), got, c.want)
		}
	}
	// one that stands below the glass is named, and draws nothing
	below := field.Field{Name: "Water", Row: 2, Width: 4, Kind: field.Bar, Range: field.Range{Max: 20}, Sample: "13"}
	if l := Compose(gate(t), Text{Fields: []field.Field{below}}, places); len(l.Bank) > 0 || len(l.Findings) != 1 || l.Findings[0].Code != "field.outside" {
		t.Errorf("a bar below the glass: %+v, %+v", l.Bank, l.Findings)
	}
	// a bar fills its cells with glyphs of its own, and the ROM's block and space
	bar := field.Field{Name: "Water", Col: 2, Width: 4, Kind: field.Bar, Range: field.Range{Max: 20}, Sample: "13"}
	l := Compose(gate(t), Text{Fields: []field.Field{bar}}, places)
	if codes := l.Codes(); codes[2] != 0xFF || codes[3] != 0xFF || codes[5] != ' ' || len(l.Bank) != 1 || codes[4] != CodeOf(gate(t), l.Bank[0].Slot) || l.Bank[0].Pattern()[3] != 0x1C {
		t.Errorf("a bar at 13 of 20: % X, %+v", codes[:8], l.Bank)
	}
}
