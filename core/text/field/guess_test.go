package field

import (
	"slices"
	"strings"
	"testing"
)

func TestGuess(t *testing.T) {
	number := func(name string, width int, min, max float64, d Digits, sample string) Field {
		return Field{Name: name, Width: width, Kind: Number, Range: Range{min, max}, Digits: d, Sample: sample}
	}
	for _, c := range []struct {
		before, text string
		want         Field
	}{
		{"Tide ", "3.2 m", number("Tide", 5, 0, 9.9, Digits{Decimals: 1, Unit: " m"}, "3.2")},
		{"Boats:", "007", number("Boats", 3, 0, 999, Digits{}, "007")},
		{"dB=", "+1,25", number("dB", 5, -9.99, 9.99, Digits{Decimals: 2, Mark: "comma", Sign: "always"}, "1.25")},
		{"12 ", "-4", number("field", 2, -9, 9, Digits{}, "-4")},
		{"", "123456789", number("field", 9, 0, 999999, Digits{}, "123456789")},
		{"High  water ", "14:05", Field{Name: "water", Width: 5, Kind: Clock, Format: "%H:%M", Sample: "14:05"}},
		{"", "8:30:15", Field{Name: "field", Width: 7, Kind: Clock, Format: "%H:%M:%S", Sample: "8:30:15"}},
		{"Gusts ", "      ", Field{Name: "Gusts", Width: 6, Kind: Free}},
		{"Wind ", "NW", Field{Name: "Wind", Width: 2, Kind: Text, Values: []string{"NW"}, Sample: "NW"}},
		{strings.Repeat("y", 50), "x", Field{Name: strings.Repeat("y", 36), Width: 1, Kind: Text, Values: []string{"x"}, Sample: "x"}},
	} {
		from := len(c.before)
		c.want.Col = from
		got := Guess(c.before+c.text+" and more", from, from+len(c.text), nil)
		if !same(got, c.want) {
			t.Errorf("%q|%q:\n%+v; expected\n%+v", c.before, c.text, got, c.want)
		}
		again := Guess(c.before+c.text, from, from+len(c.text), []Field{got, {Name: got.Name + " 2"}})
		if again.Name != c.want.Name+" 3" {
			t.Errorf("%q beside two others is called %q", c.text, again.Name)
		}
	}
	if beyond := Guess("Tide", 6, 9, nil); beyond.Kind != Free || beyond.Name != "Tide" || beyond.Width != 3 {
		t.Errorf("behind the end of the row: %+v", beyond)
	}
}

// What is guessed shows the text that it was guessed from.
func TestGuessShows(t *testing.T) {
	for _, text := range []string{"3.2 m", "007", "+1,25", "-4", "14:05", "8:30:15", "NW", "rising", "0", "99.9%"} {
		f := Guess(text, 0, len(text), nil)
		got, err := f.Show(f.Sample)
		if err != nil || got != text && strings.TrimLeft(got, "0") != strings.TrimLeft(text, "0") { // but for leading zeros
			t.Errorf("%q is shown as %q (%v)", text, got, err)
		}
	}
}

func same(a, b Field) bool {
	values := slices.Equal(a.Values, b.Values)
	a.Values, b.Values = nil, nil
	return values && a.Name == b.Name && a.Col == b.Col && a.Width == b.Width && a.Kind == b.Kind && a.Range == b.Range && a.Digits == b.Digits && a.Format == b.Format && a.Sample == b.Sample
}
