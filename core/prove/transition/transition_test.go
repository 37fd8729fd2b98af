package transition

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"slatebell/core/bench"
	"slatebell/core/part/module"
	"slatebell/core/prove/run"
	"slatebell/core/prove/testbed"
	"slatebell/core/prove/testbed/bedtest"
	"slatebell/core/text/field"
	"slatebell/core/text/screen"
	"slatebell/core/wire/sequence"
	"slatebell/internal/soak"
)

// pair makes up two screens for a module of some geometry on some link.
func pair(r *rand.Rand) (from, to testbed.Setup) {
	from = bedtest.Slice([]string{"backpack", "parallel4", "parallel8", "shift"}[r.IntN(4)])
	g := module.Geometries[r.IntN(len(module.Geometries))]
	from.Display.Geometry = g.Name
	if g.Controllers == 2 && (from.Link.Kind == "backpack" || from.Link.Kind == "shift") {
		from.Link.Kind = "parallel4"
	}
	from.Library = bedtest.Marks()
	to = from
	for range g.Rows {
		for _, s := range []*testbed.Setup{&from, &to} {
			row := ""
			for range r.IntN(g.Cols + 1) {
				row += []string{" ", "a", "b", "b", bedtest.Key(1 + r.IntN(4))}[r.IntN(5)]
			}
			s.Rows = append(s.Rows, row)
		}
	}
	if r.IntN(3) == 0 {
		to.Cursor = screen.Cursor{Kind: "line", Row: r.IntN(g.Rows), Col: r.IntN(g.Cols)}
	}
	if r.IntN(3) == 0 {
		from.Cursor = screen.Cursor{Kind: "block", Row: r.IntN(g.Rows), Col: r.IntN(g.Cols)}
	}
	return from, to
}

// TestTransition is a property, on every geometry and link: by every strategy the module
// ends with the new screen, its glyphs and its cursor; no strategy takes less time
// than the cheapest; only a clear, or glyphs for which no slot is free, lets a cell
// show what belongs to neither screen; and written over without a clear, the glass
// keeps the very cells that are said to be left.
func TestTransition(t *testing.T) {
	r := rand.New(rand.NewPCG(soak.Seed(10), 7))
	blinked, left := 0, 0
	for range soak.Rounds(90) {
		from, to := pair(r)
		p, err := New(&from, &to)
		if err != nil {
			t.Fatal(err)
		}
		cheapest, err := p.Play(Cheapest, r.IntN(2) == 0)
		if err != nil {
			t.Fatal(err)
		}
		free := true // no slot that the first screen shows is loaded
		shown := p.From.SlotsShown(&p.module)
		for _, g := range p.Loads {
			free = free && !shown[g.Slot]
		}
		for _, strategy := range Strategies {
			played, err := p.Play(strategy, false)
			if err != nil {
				t.Fatal(err)
			}
			if len(played.Differs) > 0 || len(played.Findings) > 0 {
				t.Fatalf("%s, %s on %s: cells %v differ, %+v", to.Display.Geometry, strategy, to.Link.Kind, played.Differs, played.Findings)
			}
			for i, c := range played.Glass.Cells {
				want := p.module.ROM.Dots(p.after[i])
				if d := p.To.Cells[i]; d.Drawn {
					want = d.Pattern.Dots()
				}
				at := to.Cursor.Row*p.To.Cols + to.Cursor.Col
				if k := to.Cursor.Kind; i == at && k == "line" {
					want[7] = 0x1F
				}
				if c.Dots != want {
					t.Fatalf("%s by %s: cell %d shows %v, want %v", to.Display.Geometry, strategy, i, c.Dots, want)
				}
			}
			if played.Cost.Done < cheapest.Cost.Done {
				t.Fatalf("%s on %s: %s takes %s, the cheapest %s", to.Display.Geometry, to.Link.Kind, strategy, played.Cost.Done, cheapest.Cost.Done)
			}
			if played.Wrong > 0 {
				blinked++
				cleared := slices.ContainsFunc(played.Program.Steps, func(s sequence.Step) bool { return s.Op.Byte == 1 && !s.Op.RS })
				if !cleared && free {
					t.Fatalf("%s by %s: a cell is wrong for %s", to.Display.Geometry, strategy, played.Wrong)
				}
			}
		}
		over, err := p.Play(Overprint, false)
		if err != nil {
			t.Fatal(err)
		}
		if fmt.Sprint(over.Differs) != fmt.Sprint(p.Left()) {
			t.Fatalf("%s: %v are left, said %v", to.Display.Geometry, over.Differs, p.Left())
		}
		left += len(over.Differs)
	}
	if blinked < 18 || left < 36 {
		t.Errorf("%d transitions blinked, %d cells were left", blinked, left)
	}
}

// TestTransitionDimmed checks that a VFD stays as bright as it was set, in transitions and
// in rows that scroll.
func TestTransitionDimmed(t *testing.T) {
	s := bedtest.Slice("parallel8", "Tide rising to the quay")
	s.Display.Technology, s.Display.Supply.Brightness, s.Display.Controller.Family = "vfd", 2, "vfd-function-set"
	s.Scroll = screen.Scroll{By: ByRewrite}
	r := ran(t, s, run.Options{})
	want := r.Last().Glass(&r.Module, r.Contrast).Look
	p, err := New(&s, &s)
	if err != nil {
		t.Fatal(err)
	}
	played, err := p.Play(Padded, false)
	if err != nil || played.Glass.Look != want {
		t.Errorf("%v, %+v, %v", want, played.Glass.Look, err)
	}
	if sc, err := NewScrolled(&s); err != nil || sc.Frames[3].Look != want {
		t.Errorf("scrolling: %v, %v", want, err)
	}
}

// two is a bench whose module has two screens, the second with a field.
func two() *bench.Bench {
	b := bench.New("two")
	m := &b.Modules[0]
	m.Screens = []bench.Screen{
		{ID: "high", Name: "High", Rows: []string{"Tide rising", "High 14:05"}},
		{ID: "low", Name: "Low", Rows: []string{"Tide", "Low 20:11"}, Fields: []field.Field{{Name: "Tide", Col: 5, Width: 5, Kind: field.Number, Range: field.Range{Min: -2, Max: 12}, Digits: field.Digits{Decimals: 1}, Sample: "3.2"}}},
	}
	return &b
}

// whole works a table out, row after row.
func whole(b *bench.Bench, at int) (changes []Change, j *Judged, err error) {
	table, err := NewTable(b, at)
	if err != nil {
		return nil, nil, err
	}
	for from := range table.Rows() {
		row, err := table.Row(from)
		if err != nil {
			return nil, nil, err
		}
		changes = append(changes, row...)
	}
	j, err = table.Judge()
	return changes, j, err
}

// TestTable checks what every change on a module takes against transitions of their
// own, the rate of a field against the time of its update, and the findings.
func TestTable(t *testing.T) {
	b := two()
	changes, m, err := whole(b, 0)
	if err != nil || len(changes) != 2 || len(m.Fields) != 1 {
		t.Fatalf("%+v, %v", m, err)
	}
	for _, c := range changes {
		from, _ := testbed.Of(b, testbed.At{Module: 0, Screen: c.From})
		to, _ := testbed.Of(b, testbed.At{Module: 0, Screen: c.To})
		p, _ := New(&from, &to)
		played, err := p.Play(Cheapest, false)
		if err != nil || played.Cost != c.Cost || len(p.Left()) != c.Left {
			t.Errorf("%d to %d: %+v, %v; the table has %+v", c.From, c.To, played.Cost, err, c)
		}
	}
	// an address and five characters on a backpack at 100 kHz: START and the address
	// byte, 5 + 5 + 4 × 4 bytes of 90 µs, and 52.6 µs until the last is carried out
	if f := m.Fields[0]; f.Cost.Operations != 6 || f.Cost.Words != 26 || f.Cost.Done.Microseconds() != 4+27*90+52 || int(f.Rate) != 402 {
		t.Errorf("%+v", f)
	}
	codes := func(change func(*bench.Module)) string {
		b := two()
		change(&b.Modules[0])
		list, err := Check(b, 0)
		if err != nil {
			t.Fatal(err)
		}
		var out []string
		for _, f := range list {
			if strings.HasPrefix(f.Code, "screen.") || strings.HasPrefix(f.Code, "field.") {
				out = append(out, string(f.Severity)+" "+f.Code)
			}
		}
		return strings.Join(out, ", ")
	}
	fast := func(rates ...float64) func(*bench.Module) {
		return func(m *bench.Module) {
			m.Changes = "steady"
			for i, rate := range rates {
				f := m.Screens[1].Fields[0]
				f.Name, f.Row, f.PerSec = fmt.Sprint("field ", i), i, rate
				m.Screens[1].Fields = append(m.Screens[1].Fields[:i:i], f)
			}
			m.Screens[1].Rows = nil
		}
	}
	for _, c := range []struct {
		change func(*bench.Module)
		want   string
	}{
		{func(*bench.Module) {}, "note screen.leftovers"},
		{func(m *bench.Module) { m.Changes, m.Loading.Loop = "over", true }, "warning screen.leftovers"},
		{func(m *bench.Module) { m.Changes = "pad" }, ""},
		{func(m *bench.Module) { m.Changes = "steady" }, ""},
		{func(m *bench.Module) { m.Changes = "clear" }, "note screen.blinks"},
		{fast(402), ""},
		{fast(403), "error field.rate"},
		{fast(200, 201), ""},
		{fast(200, 250), "error screen.rates"},
	} {
		if got := codes(c.change); got != c.want {
			t.Errorf("%q; want %q", got, c.want)
		}
	}
	list, _ := Check(b, 0)
	for _, f := range list {
		if f.Code == "screen.leftovers" && (f.What != "Written over “High”, “Low” leaves “g” of it in row 1; cells with old characters: 2." || len(f.Remedies) != 2) {
			t.Errorf("%+v", f)
		}
	}
	if _, err := NewTable(b, 1); err == nil || !strings.Contains(err.Error(), "module 1") {
		t.Error(err)
	}
}

// BenchmarkCheapest plans the update of a whole 40×4 and sends it.
func BenchmarkCheapest(b *testing.B) {
	from := bedtest.Slice("parallel4", strings.Repeat("Tide 3.2 m rising  ", 2), strings.Repeat("High 14:05 ", 3), "Boats out 3 of 11", "Wind NW 4, gusts 6")
	from.Display.Geometry = "40x4"
	to := from
	to.Rows = []string{strings.Repeat("Tide 2.9 m falling ", 2), strings.Repeat("Low  20:11 ", 3), "Boats out 11 of 11", "Wind W 5, gusts 7"}
	p, err := New(&from, &to)
	if err != nil {
		b.Fatal(err)
	}
	for b.Loop() {
		if _, err := p.Program(Cheapest, false); err != nil {
			b.Fatal(err)
		}
	}
}

// BenchmarkTable computes every change between 30 screens of a 20×4.
func BenchmarkTable(b *testing.B) {
	doc := bench.New("thirty")
	m := &doc.Modules[0]
	m.Display.Geometry, m.Screens = "20x4", nil
	for i := range 30 {
		m.Screens = append(m.Screens, bench.Screen{ID: fmt.Sprint("s", i), Rows: []string{fmt.Sprintf("Tide %d.2 m rising", i), "High water 14:05", strings.Repeat("*", i%20), fmt.Sprintf("Boats out %d of 11", i)}})
	}
	for b.Loop() {
		if _, _, err := whole(&doc, 0); err != nil {
			b.Fatal(err)
		}
	}
}

// TestSplitRow writes over the row of a 16×1 whose halves lie in two lines of the memory: it is one text, so
// that the spaces before its second half are written too, and what is left is what stands behind its end.
func TestSplitRow(t *testing.T) {
	from := bedtest.Slice("parallel4", "Flood until 1405")
	from.Display.Geometry = "16x1split"
	to := from
	to.Rows = []string{"Ebb        20"}
	p, err := New(&from, &to)
	if err != nil {
		t.Fatal(err)
	}
	if left := p.Left(); !slices.Equal(left, []int{13, 14, 15}) {
		t.Errorf("left are %v", left)
	}
	over, err := p.Play(Overprint, false)
	if err != nil {
		t.Fatal(err)
	}
	text := ""
	for _, c := range over.Glass.Cells {
		text += string(rune(c.Code))
	}
	if text != "Ebb        20405" {
		t.Errorf("written over: %q", text)
	}
}
