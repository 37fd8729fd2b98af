package field

import (
	"fmt"
	"math/rand/v2"
	"os"
	"os/exec"
	"strings"
	"testing"

	"golang.org/x/text/language"
	"golang.org/x/text/message"
	"golang.org/x/text/number"
)

// TestNumbers holds what fields write against general libraries: package fmt for
// sign, zeros and width, golang.org/x/text/message for groups of three digits in
// English and German.
func TestNumbers(t *testing.T) {
	rng := rand.New(rand.NewPCG(10, 5))
	english, german := message.NewPrinter(language.English), message.NewPrinter(language.German)
	for range 3000 {
		decimals := rng.IntN(5)
		f := Field{Kind: Number, Width: 1 + rng.IntN(12), Range: Range{-1e6, 1e6}, Digits: Digits{Decimals: decimals}}
		units := rng.Int64N(int64(2e6*f.scale())) - int64(1e6*f.scale())
		value := f.valueOf(units)
		v := float64(units) / f.scale()
		check := func(want string) {
			t.Helper()
			if got, err := f.Show(value); err != nil || got != want {
				t.Fatalf("%s by %+v, %d cells: %q, %v; want %q", value, f.Digits, f.Width, got, err, want)
			}
		}
		check(fmt.Sprintf("%.*f", decimals, v))
		f.Digits.Sign = "always"
		check(fmt.Sprintf("%+.*f", decimals, v))
		f.Digits.Sign, f.Digits.Zeros = "space", true
		check(fmt.Sprintf("% 0*.*f", f.Width, decimals, v))
		f.Digits = Digits{Decimals: decimals, Thousands: "comma"}
		check(english.Sprint(number.Decimal(v, number.Scale(decimals))))
		f.Digits.Thousands, f.Digits.Mark = "point", "comma"
		check(german.Sprint(number.Decimal(v, number.Scale(decimals))))
		f.Digits = Digits{Decimals: decimals, Unit: " m"}
		check(fmt.Sprintf("%.*f m", decimals, v))
	}
}

// TestClock holds every conversion against the date command of the system, in the
// C locale, on days of every month and weekday.
func TestClock(t *testing.T) {
	format := "%H %I %M %S %p %d %e %m %y %Y %a %A %b %B %j %%"
	for _, at := range []string{"2026-01-05 00:00:00", "2026-02-10 01:02:03", "2026-03-18 09:59:59", "2026-04-23 11:11:11", "2026-05-29 12:00:00", "2026-06-06 12:59:01",
		"2026-07-12 13:07:08", "2026-08-31 15:30:00", "2026-09-30 20:20:20", "2026-10-01 21:00:09", "2026-11-25 14:05:00", "2024-12-31 23:59:59"} {
		cmd := exec.Command("date", "-u", "-d", at, "+"+format)
		cmd.Env = append(os.Environ(), "LC_ALL=C")
		want, err := cmd.Output()
		if err != nil {
			t.Fatal(err)
		}
		f := Field{Kind: Clock, Width: 16, Format: format}
		if got, err := f.Show(at); err != nil || got+"\n" != string(want) {
			t.Errorf("%s: %q, %v; date says %q", at, got, err, want)
		}
	}
	for _, c := range []struct{ format, want string }{{"%H:%", "ends in %"}, {"%Q", "%Q is not known"}} {
		f := Field{Kind: Clock, Width: 5, Format: c.format}
		if _, err := f.Show(""); err == nil || !strings.Contains(err.Error(), c.want) {
			t.Errorf("format %q: %v", c.format, err)
		}
	}
	f := Field{Kind: Clock, Width: 16, Format: "%A %d %B"}
	if e := f.Extremes(); e.Longest.Text != "Wednesday 02 September" || e.Shortest.Text != "Friday 01 May" || len(e.Over) != 1 || e.Over[0].Len() < 17 {
		t.Errorf("%+v", e)
	}
}

// TestExtremes is the worst case against going through the whole range.
func TestExtremes(t *testing.T) {
	rng := rand.New(rand.NewPCG(10, 6))
	over := 0
	for range 300 {
		f := Field{Kind: []Kind{Number, Number, Elapsed}[rng.IntN(3)], Width: 1 + rng.IntN(8), Format: ElapsedFormats[rng.IntN(4)]}
		f.Digits = Digits{
			Decimals: rng.IntN(3), Sign: []string{"", "always", "space"}[rng.IntN(3)], Thousands: []string{"", "", "comma", "space"}[rng.IntN(4)],
			Zeros: rng.IntN(4) == 0, Unit: []string{"", "", " m", "°C"}[rng.IntN(4)],
		}
		a := float64(rng.IntN(4000)-2000) / []float64{1, 10, 100, 1000}[rng.IntN(4)]
		f.Range = Range{a, a + float64(rng.IntN(3000))/[]float64{1, 10, 100}[rng.IntN(3)]}
		low, high := f.Ends()
		longest, shortest := 0, 1<<30
		var fits [2]int64 // the least distance from zero that does not fit, by side
		found := [2]bool{}
		for u := low; u <= high; u++ {
			n := length(f.TextOf(u))
			longest, shortest = max(longest, n), min(shortest, n)
			side, distance := 0, u
			if u < 0 {
				side, distance = 1, -u
			}
			if n > f.Width && (!found[side] || distance < fits[side]) {
				found[side], fits[side] = true, distance
			}
		}
		e := f.Extremes()
		if e.Longest.Len() != longest || e.Shortest.Len() != shortest {
			t.Fatalf("%+v: longest %+v, shortest %+v; going through all: %d and %d", f, e.Longest, e.Shortest, longest, shortest)
		}
		for _, c := range []Case{e.Longest, e.Shortest} {
			if text, err := f.Show(c.Value); err != nil || text != c.Text {
				t.Fatalf("%+v: %q shows %q, %v; said %q", f, c.Value, text, err, c.Text)
			}
		}
		var want []string
		for side, sign := range []int64{1, -1} {
			if found[side] {
				over++
				want = append(want, f.valueOf(sign*fits[side]))
			}
		}
		var got []string
		for _, c := range e.Over {
			got = append(got, c.Value)
		}
		if fmt.Sprint(got) != fmt.Sprint(want) {
			t.Fatalf("%+v: does not fit from %v on; going through all: %v", f, got, want)
		}
	}
	if over < 60 {
		t.Errorf("%d sides did not fit", over)
	}
	tide := Field{Name: "Tide", Kind: Number, Width: 4, Range: Range{-10, 9.9}, Digits: Digits{Decimals: 1}}
	if e := tide.Extremes(); len(e.Over) != 1 || e.Over[0] != (Case{"-10.0", "-10.0"}) {
		t.Errorf("a tide of −10.0 to 9.9 in four cells: %+v", e)
	}
	way := Field{Kind: Text, Width: 5, Values: []string{"slack", "ebb", "rising", "falling"}}
	if e := way.Extremes(); e.Longest.Text != "falling" || e.Shortest.Text != "ebb" || len(e.Over) != 1 || e.Over[0].Text != "rising" {
		t.Errorf("of a list: %+v", e)
	}
	for value, want := range map[string][2]string{"24.99": {"25", "24"}, "-24.99": {"-25", "-24"}, "0.29": {"0.29", "0.29"}, "19.999": {"20.0", "19.9"}} {
		f := Field{Kind: Number, Width: 6, Range: Range{-100, 100}, Digits: Digits{Decimals: len(want[0][strings.IndexByte(want[0]+".", '.'):])}}
		f.Digits.Decimals = max(f.Digits.Decimals-1, 0)
		for k, cut := range []bool{false, true} {
			f.Digits.Cut = cut
			if got, err := f.Show(value); err != nil || got != want[k] {
				t.Errorf("%s with %d decimals, cut %v: %q, %v; want %q", value, f.Digits.Decimals, cut, got, err, want[k])
			}
		}
	}
	hidden := Field{Kind: Number, Width: 3, Range: Range{0, 9.96}, Digits: Digits{Decimals: 1}}
	if e := hidden.Extremes(); e.Longest.Text != "10.0" {
		t.Errorf("9.96 is rounded: %+v", e)
	}
}

// TestShows checks how texts stand in their cells.
func TestShows(t *testing.T) {
	for _, c := range []struct {
		kind       Kind
		look       Look
		text, want string
	}{
		{Number, Look{}, "7", "    7"},
		{Text, Look{}, "ebb", "ebb  "},
		{Text, Look{Align: "centre"}, "ebb", " ebb "},
		{Text, Look{Align: "centre"}, "flow", "flow "},
		{Text, Look{Align: "right", Fill: "·"}, "ebb", "··ebb"},
		{Text, Look{Fill: NoFill, Align: "right"}, "ebb", "ebb"},
		{Number, Look{}, "-10.00", "#####"},
		{Text, Look{}, "rising", "risin"},
		{Text, Look{TooLong: "shift"}, "rising", "rising"},
		{Number, Look{TooLong: "cut"}, "-10.00", "-10.0"},
		{Text, Look{}, "e\u0301bb", "ébb  "},
	} {
		f := Field{Kind: c.kind, Width: 5, Look: c.look}
		if got := string(f.Shows(c.text)); got != c.want {
			t.Errorf("%s %q by %+v: %q, want %q", c.kind, c.text, c.look, got, c.want)
		}
	}
}

// TestSamples reads values, and says of others what would be one.
func TestSamples(t *testing.T) {
	number := Field{Name: "Tide", Kind: Number, Width: 5, Range: Range{-2, 12}, Digits: Digits{Decimals: 1, Unit: " m"}}
	state := Field{Name: "Gate", Kind: Choice, Width: 6, Values: []string{"shut", "open"}}
	run := Field{Kind: Elapsed, Width: 8, Range: Range{0, 9e4}, Format: "h:mm:ss"}
	for _, c := range []struct {
		f                 *Field
		value, want, fail string
	}{
		{&number, "3,25", "3.3 m", ""}, {&number, "", "0.0 m", ""}, {&number, "-0.04", "0.0 m", ""}, {&number, "12.1", "12.1 m", "12.1 is outside of -2.0 to 12.0"}, {&number, "high", "", "expected such as 12.0"}, {&number, "-inf", "", "expected such as 12.0"},
		{&state, "1", "open", ""}, {&state, "shut", "shut", ""}, {&state, "", "shut", ""}, {&state, "2", "2", "not in the list"},
		{&run, "3661", "1:01:01", ""}, {&run, "1:01:01", "1:01:01", ""}, {&run, "1:x", "", "expected seconds, or such as 1:02:03"},
		{&Field{Kind: Text, Name: "Crew"}, "", "", "the list of \"Crew\" is empty"},
		{&Field{Kind: Clock}, "9:61", "", "expected such as 14:05"}, {&Field{Kind: Clock}, "", "14:05", ""}, {&Field{Kind: Cursor}, "", "", ""},
	} {
		got, err := c.f.Show(c.value)
		if c.fail == "" && err != nil || c.fail != "" && (err == nil || !strings.Contains(err.Error(), c.fail)) || got != c.want {
			t.Errorf("%s %q: %q, %v; want %q, %q", c.f.Kind, c.value, got, err, c.want, c.fail)
		}
	}
}

// TestFrom lays messages that are too long over an area of two rows of four cells: cut, page after
// page, or rows that move up; over one row letter by letter.
func TestFrom(t *testing.T) {
	for _, c := range []struct {
		rule         string
		length, step int
		want         int
	}{
		{"", 8, 4, 0}, {"", 20, 4, 0},
		{"page", 8, 4, 0}, {"page", 9, 4, 8}, {"page", 16, 4, 8}, {"page", 17, 4, 16},
		{"scroll", 8, 4, 0}, {"scroll", 9, 4, 4}, {"scroll", 12, 4, 4}, {"scroll", 13, 4, 8},
		{"scroll", 9, 1, 1}, {"scroll", 20, 1, 12},
	} {
		if got := From(c.rule, c.length, 8, c.step); got != c.want {
			t.Errorf("%q of %d characters, steps of %d: from %d, want %d", c.rule, c.length, c.step, got, c.want)
		}
	}
}
