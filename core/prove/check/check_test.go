package check

import (
	"fmt"
	"strings"
	"testing"

	"slatebell/core/bench"
	"slatebell/core/prove/run"
	"slatebell/core/prove/testbed"
	"slatebell/core/prove/testbed/bedtest"
	"slatebell/core/text/glyph"
	"slatebell/core/wire/link"
)

// TestCheckAll checks every screen of every module of a bench, says once what
// several screens share, and refuses what cannot be run.
func TestCheckAll(t *testing.T) {
	b := bench.New("Boathouse")
	m := &b.Modules[0]
	m.Link.Outputs.SpeedHz = 400_000
	m.Screens = append(m.Screens, bench.Screen{ID: "two", Rows: []string{"", "", "third"}}, bench.Screen{ID: "three", Rows: []string{"~"}})
	b.Modules = append(b.Modules, bench.NewModule("slip", "Slip"))
	b.Modules[1].Screens[0].Rows = []string{"~"}
	found, err := Check(&b)
	if err != nil {
		t.Fatal(err)
	}
	var got []string
	for _, f := range found {
		got = append(got, f.Code+" "+f.Path)
	}
	want := "bus.clash /modules/0, link.fast-clock /modules/0/link, screen.too-many-rows /modules/0/screens/1/rows/2, rom.missing-character /modules/0/screens/2/rows/0, rom.missing-character /modules/1/screens/0/rows/0"
	if strings.Join(got, ", ") != want {
		t.Errorf("%s\nwant %s", strings.Join(got, ", "), want)
	}
	long := bedtest.Slice("backpack", "", strings.Repeat("x", 401))
	if _, err := run.Do(&long, run.Options{}); err == nil || !strings.HasPrefix(err.Error(), "/modules/0/screens/0/rows/1: 401 characters") {
		t.Errorf("a row beyond what is kept: %v", err)
	}
	odd := bedtest.Slice("backpack")
	odd.Glyphs = glyph.Bank{glyph.New(8, "", glyph.Pattern{})}
	if _, err := run.Do(&odd, run.Options{}); err == nil || !strings.HasPrefix(err.Error(), "/modules/0/glyphs: ") {
		t.Errorf("a ninth slot: %v", err)
	}
	b.Modules[1].Link.Kind = string(link.Parallel4)
	b.Modules[1].Link.Waits = "poll"
	if _, err := Check(&b); err == nil || !strings.HasPrefix(err.Error(), "/modules/1/link/waits: ") {
		t.Errorf("a link that cannot be: %v", err)
	}
	for want, at := range map[string]testbed.At{"module 2; this bench has modules 0–1": {Module: 2, Screen: 0}, "module -1;": {Module: -1, Screen: 0}, "screen 3; this module has screens 0–2": {Module: 0, Screen: 3}, "screen -1;": {Module: 0, Screen: -1}} {
		if _, err := testbed.Of(&b, at); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%+v: %v", at, err)
		}
	}
}

// TestChoices checks the lines of each kind of link (common practice: 2, 3, 6 and
// 10, one more where R/W is joined) and what the screen costs over it; none but the
// module's own is counted as it is set.
func TestChoices(t *testing.T) {
	b := bench.New("Boathouse")
	b.Modules[0].Screens[0].Rows = []string{"Tide"}
	b.Modules[0].Link = bench.Link{Kind: "parallel4", ReadWrite: true, Waits: "poll"}
	choices, err := Choices(&b, testbed.At{})
	if err != nil {
		t.Fatal(err)
	}
	for i, want := range []int{2, 3, 7, 10} {
		c := choices[i]
		if len(c.Lines) != want || c.WireTime <= 0 || c.Finish <= c.WireTime || c.Update <= 0 || c.Update >= c.Finish || c.Words == 0 {
			t.Errorf("%s: %+v, want %d lines", c.Kind, c, want)
		}
		b.Modules[0].Link = c.Link
		r, err := testbed.Of(&b, testbed.At{})
		if err != nil {
			t.Fatal(err)
		}
		if ran, err := run.Do(&r, run.Options{}); err != nil || ran.Program.WireTime != c.WireTime || ran.Program.Finish != c.Finish {
			t.Errorf("%s: said to take %s and %s: %+v, %v", c.Kind, c.WireTime, c.Finish, ran, err)
		}
	}
	if choices[3].WireTime >= choices[2].WireTime || choices[2].WireTime >= choices[0].WireTime {
		t.Errorf("wire times %v, %v and %v on eight lines, four, and I²C", choices[3].WireTime, choices[2].WireTime, choices[0].WireTime)
	}
	if _, err := Choices(&b, testbed.At{Module: 1}); err == nil {
		t.Error("a module that is not there has choices")
	}
}

// BenchmarkCheck16 checks a bench of sixteen modules, each on its own address:
// bus and supply, and every screen run.
func BenchmarkCheck16(b *testing.B) {
	doc := bench.New("Boathouse")
	for i := range 16 {
		m := bench.NewModule(fmt.Sprintf("board-%d", i), "Board")
		m.Link.Outputs.Address = 0x20 + i%8 + i/8*0x18
		m.Screens[0].Rows = []string{"Tide 3.2 m", "High 14:05"}
		doc.Modules = append(doc.Modules[:i:i], m)
	}
	for b.Loop() {
		if _, err := Check(&doc); err != nil {
			b.Fatal(err)
		}
	}
}
