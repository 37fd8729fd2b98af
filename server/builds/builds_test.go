package builds

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"slatebell/core/bench/show"
	"slatebell/core/finding"
	"slatebell/core/ship/firmware"
	"slatebell/core/ship/play"
	"slatebell/core/table/breadboard"
	"slatebell/core/table/setup"
)

// TestBuilds lays every build in every size by every link on three hosts: nothing is found, all its
// inputs are read, its program is proved, its wires join what they should, and what it plays with
// nobody at hand is what its scenes say.
func TestBuilds(t *testing.T) {
	for _, build := range List() {
		for _, size := range build.Sizes {
			for _, kind := range []string{"backpack", "parallel4", "shift"} {
				for _, part := range []string{"ATmega328P", "ATmega2560", "RP2040"} {
					if (build.count > 0 || build.onBus) && kind != "backpack" || build.onBus && part == "RP2040" {
						continue
					}
					t.Run(fmt.Sprint(build.ID, " ", size, " ", kind, " ", part), func(t *testing.T) {
						b, err := Make(build.ID, setup.Beginning{Geometry: size, Technology: "lcd", Link: kind, Host: part, Backpack: kind == "backpack"})
						if err != nil {
							t.Fatal(err)
						}
						found := setup.Check(&b)
						table := breadboard.Lay(&b)
						found = append(found, table.Check()...)
						for i := range b.Modules {
							found = append(found, show.Check(&b, i)...)
						}
						for _, f := range found {
							if f.Severity == finding.Error {
								t.Errorf("%s: %s", f.Code, f.What)
							}
						}
						im, err := firmware.New(&b)
						if err != nil {
							t.Fatal(err)
						}
						for i := range im.Modules {
							m := &im.Modules[i]
							if unread := m.Unread(); len(unread) > 0 {
								t.Errorf("not read: %v", unread)
							}
							if i > 0 {
								continue
							}
							if proof, err := m.Prove(); err != nil || len(proof.Findings) > 0 {
								t.Errorf("not proved: %v %+v", err, proof.Findings)
							}
							if _, err := play.Play(m, nil, 3000); err != nil {
								t.Error(err)
							}
						}
					})
				}
			}
		}
	}
	for id, c := range map[string]struct {
		size  string
		wants string
	}{"drum": {"16x2", "is no build; expected one of words, seconds"}, "words": {"40x4", "is composed for 16x2, 20x2, 20x4; 40x4 is not among them"}} {
		if _, err := Make(id, setup.Beginning{Geometry: c.size, Technology: "lcd"}); err == nil || !strings.Contains(err.Error(), c.wants) {
			t.Errorf("%s: %v", id, err)
		}
	}
	if _, err := Make("messages", setup.Beginning{Geometry: "16x2", Technology: "lcd", Host: "ATtiny85", Backpack: true}); err == nil || err.Error() != "no pin of the host is left for Radio; take a link with fewer lines, or another host" {
		t.Errorf("messages on a host without a serial line: %v", err)
	}
	if b, err := Make("clock", setup.Beginning{Geometry: "16x2", Technology: "lcd", Host: "RP2040"}); err != nil || b.Code.In("main.py", "each second") == "" || b.Code.In("bench.ino", "each second") == "" {
		t.Errorf("a clock on a host that takes MicroPython: %v, %+v", err, b.Code)
	}
	if got := IDs(); len(got) != 10 || slices.Contains(got, "") {
		t.Errorf("%v", got)
	}
}
