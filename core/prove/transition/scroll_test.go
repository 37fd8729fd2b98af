package transition

import (
	"math/rand/v2"
	"strings"
	"testing"

	"slatebell/core/finding"
	"slatebell/core/prove/testbed"
	"slatebell/core/prove/testbed/bedtest"
	"slatebell/core/text/screen"
)

// TestScrolled is a property: after every step of a round the row shows the text
// from its next character on, whichever way it scrolls, on every link and on modules
// of one and two lines; and after the round the row is as it was.
func TestScrolled(t *testing.T) {
	r := rand.New(rand.NewPCG(10, 8))
	longest := 0
	for range 120 {
		s := bedtest.Slice([]string{"backpack", "parallel4", "parallel8", "shift"}[r.IntN(4)])
		s.Display.Geometry = []string{"8x1", "8x2", "16x2", "16x1", "20x2", "40x2"}[r.IntN(6)]
		two := strings.HasSuffix(s.Display.Geometry, "2")
		s.Scroll = screen.Scroll{By: []string{ByShift, ByFeed, ByRewrite}[r.IntN(3)], Gap: r.IntN(5)}
		s.Library = bedtest.Marks()
		text := ""
		for range 1 + r.IntN(70) {
			text += []string{"a", "b", " ", "c", bedtest.Key(1)}[r.IntN(5)]
		}
		s.Rows = []string{text + "x"}
		if two && r.IntN(2) == 0 {
			s.Rows, s.Scroll.Row = []string{"", text + "x"}, 1
		}
		if two && s.Scroll.By == ByRewrite {
			s.Rows = append(s.Rows, "still")[:2]
		}
		sc, err := NewScrolled(&s)
		if err != nil {
			t.Fatal(err)
		}
		memory := 80
		if two {
			memory = 40
		}
		if s.Scroll.By == ByShift && sc.Text > memory {
			if len(sc.Frames) > 0 || len(sc.Findings) != 1 || sc.Findings[0].Code != "scroll.memory" || len(sc.Findings[0].Remedies) != 2 {
				t.Fatalf("%d characters in a memory of %d: %+v", sc.Text, memory, sc)
			}
			continue
		}
		longest = max(longest, sc.Text)
		shown := func(frame int) string {
			g, row := sc.Frames[frame], s.Scroll.Row
			out := ""
			for _, c := range g.Cells[row*g.Cols : (row+1)*g.Cols] {
				out += string(rune(c.Code))
			}
			return out
		}
		whole := strings.TrimRight(text+"x", " ")
		for len([]rune(whole)) < sc.Frames[0].Cols {
			whole += " "
		}
		ring := []rune(strings.ReplaceAll(whole, bedtest.Key(1), "\x08") + strings.Repeat(" ", s.Scroll.Gap))
		for len(ring) < sc.Text {
			ring = append(ring, ' ')
		}
		if len(ring) != sc.Text || len(sc.Frames) != sc.Text+1 || len(sc.Steps) != sc.Text {
			t.Fatalf("%s by %s: a text of %d, %d frames, %d steps; want %d", s.Display.Geometry, s.Scroll.By, sc.Text, len(sc.Frames), len(sc.Steps), len(ring))
		}
		for k := range sc.Frames {
			want := ""
			for i := range sc.Frames[0].Cols {
				want += string(ring[(k+i)%len(ring)])
			}
			if got := shown(k); got != want {
				t.Fatalf("%s by %s, row %d: after %d steps %q, want %q", s.Display.Geometry, s.Scroll.By, s.Scroll.Row, k, got, want)
			}
		}
		for _, step := range sc.Steps {
			if s.Scroll.By == ByShift && step.Operations != 1 || s.Scroll.By == ByFeed && step.Operations > 3 {
				t.Fatalf("a step by %s: %+v", s.Scroll.By, step)
			}
		}
	}
	if longest <= 60 {
		t.Errorf("no text was longer than %d", longest)
	}
}

// TestScrollFindings has a case for each finding about scrolling; every remedy
// settles it.
func TestScrollFindings(t *testing.T) {
	long := strings.Repeat("tide ", 9)
	for _, c := range []struct {
		code string
		set  func(s *testbed.Setup)
	}{
		{"scroll.memory", func(s *testbed.Setup) { s.Rows = []string{long}; s.Scroll.By = ByShift }},
		{"scroll.turns", func(s *testbed.Setup) { s.Rows = []string{"tide", "wind"}; s.Scroll.By = ByShift }},
		{"scroll.shares-line", func(s *testbed.Setup) {
			s.Display.Geometry, s.Rows, s.Scroll = "20x4", []string{"", "", "tide"}, screen.Scroll{By: ByFeed, Row: 2}
		}},
		{"scroll.rate", func(s *testbed.Setup) { s.Rows = []string{long}; s.Scroll = screen.Scroll{By: ByRewrite, EveryMs: 2} }},
	} {
		find := func(s *testbed.Setup) *finding.Finding {
			sc, err := NewScrolled(s)
			if err != nil {
				t.Fatal(err)
			}
			for i := range sc.Findings {
				if sc.Findings[i].Code == c.code {
					return &sc.Findings[i]
				}
			}
			return nil
		}
		s := bedtest.Slice("backpack")
		c.set(&s)
		f := find(&s)
		if f == nil || f.Fix == "" || len(f.Remedies) == 0 || f.Path != "/modules/0/screens/0/scroll" {
			t.Errorf("%s: %+v", c.code, f)
			continue
		}
		for _, remedy := range f.Remedies {
			mended := s
			mended.Scroll = remedy.Patch[1].Value.(screen.Scroll)
			if after := find(&mended); after != nil {
				t.Errorf("%s: “%s” leaves it: %s", c.code, remedy.Label, after.What)
			}
		}
	}
	s := bedtest.Slice("backpack", "tide")
	if _, err := NewScrolled(&s); err == nil {
		t.Error("a screen that does not scroll is played")
	}
	blank := bedtest.Slice("backpack", "")
	blank.Scroll.By = ByShift
	if sc, err := NewScrolled(&blank); err != nil || sc.Begin.Operations != 0 || sc.Text != 40 {
		t.Errorf("a blank row: %+v, %v", sc, err)
	}
	s.Scroll = screen.Scroll{By: ByShift, Row: 2}
	if sc, err := NewScrolled(&s); err != nil || len(sc.Frames) > 0 || len(sc.Findings) != 1 || sc.Findings[0].Code != "scroll.no-row" || sc.Findings[0].Remedies[0].Patch[1].Op != "remove" {
		t.Errorf("a row that the module has not: %+v, %v", sc, err)
	}
}
