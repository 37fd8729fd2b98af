package breadboard

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"slatebell/core/bench"
	"slatebell/core/part/host"
)

// backpacks is a bench of so many modules behind backpacks.
func backpacks(part string, n int) bench.Bench {
	b := bench.New("bus")
	b.Host.Part, b.Modules = part, nil
	for i := range n {
		m := bench.NewModule(fmt.Sprintf("m%d", i), "")
		m.Link.Kind, m.Link.Outputs.Address = "backpack", 0x20+i%8
		if i >= 8 {
			m.Link.Outputs.Address = 0x38 + i%8
		}
		b.Modules = append(b.Modules, m)
	}
	return b
}

// laid plans a bench and lays it.
func laid(t *testing.T, b *bench.Bench) (bench.Wiring, *Table) {
	t.Helper()
	w, err := Plan(b)
	if err != nil {
		t.Fatal(err)
	}
	b.Wiring = w
	return w, Lay(b)
}

// TestTrunk plans buses as people join them (common practice): one board, four leads from each
// module and from the host to four strips or rails, none of a module longer than a jumper of
// 20 cm where eight lie about the board.
func TestTrunk(t *testing.T) {
	for _, h := range host.Boards() {
		for n := 2; n <= MaxPlanned; n++ {
			b := backpacks(h.Part, n)
			w, table := laid(t, &b)
			if f := table.Check(); len(f) > 0 {
				t.Errorf("%s, %d modules: %+v", h.Part, n, f[0])
			}
			wires := 4*n + 4
			if n == 4 { // two lines of five ends take a strip each
				wires = 20
			}
			longest := 0 // a host's own may go round its end
			for _, wire := range w.Wires {
				if !isHost(wire.From) && !isHost(wire.To) {
					longest = max(longest, wire.LengthMM)
				}
			}
			if len(w.Boards) != 1 || w.Boards[0].Columns != 30 || len(w.Wires) != wires || n <= 8 && longest > 200 {
				t.Errorf("%s, %d modules: boards %v, %d wires, a module's longest %d mm; want a half-size board, %d wires, 200 mm at most", h.Part, n, w.Boards, len(w.Wires), longest, wires)
			}
			things := table.Arrange().Things
			for i, one := range things {
				for _, other := range things[:i] {
					if one.X < other.X+other.W && other.X < one.X+one.W && one.Y < other.Y+other.H && other.Y < one.Y+one.H {
						t.Errorf("%s, %d modules: %s lies on %s", h.Part, n, one.Part.ID, other.Part.ID)
					}
				}
			}
		}
	}
}

// TestTrunkOfStrips plans buses whose lines have to lie on strips: on a board whose rails are
// split, beside a module on its own header, and with a level converter.
func TestTrunkOfStrips(t *testing.T) {
	split := backpacks("ATmega328P", 8)
	split.Wiring.Boards = []bench.Breadboard{{ID: "board-1", Columns: 63, SplitRails: true}}
	beside := backpacks("ATmega328P", 6)
	m := bench.NewModule("hall", "")
	m.Link.Kind = "parallel4"
	beside.Modules = append(beside.Modules, m)
	converter := backpacks("ESP32", 5)
	converter.Bus.Converter = true
	for name, b := range map[string]bench.Bench{"split": split, "beside": beside, "converter": converter} {
		w, table := laid(t, &b)
		if f := table.Check(); len(f) > 0 {
			t.Errorf("%s: %+v", name, f[0])
		}
		for _, wire := range w.Wires {
			if net := table.netAt(table.Wires[slices.Index(w.Wires, wire)]); !supplyNet(net) && strings.Contains(wire.From+wire.To, "top") {
				t.Errorf("%s: %+v of %s lies on a rail", name, wire, net)
			}
		}
		if len(w.Boards) != 1 {
			t.Errorf("%s: boards %v", name, w.Boards)
		}
	}
}

// TestEarth asks which of its ground pins a host's earth lead leaves: on an RP2040 board the one of
// the edge on which the lines leave (board pin 18), not that on the far edge (38).
func TestEarth(t *testing.T) {
	for _, c := range []struct{ part, kind, want string }{
		{"RP2040", "parallel4", "GND7"}, {"ATmega328P", "parallel4", "GND"},
	} {
		b := oneModule(c.part, c.kind, "16x2", "lcd")
		w, _ := laid(t, &b)
		at := slices.IndexFunc(w.Wires, func(w bench.Wire) bool { return strings.HasPrefix(w.From, "host/GND") })
		if at < 0 || w.Wires[at].From != "host/"+c.want {
			t.Errorf("%s, %s: earth by %+v, want %s", c.part, c.kind, w.Wires, c.want)
		}
	}
}

// TestTrunkOfMany plans more on the bus than a rail has holes: larger boards, then strips on several,
// and every pin joined.
func TestTrunkOfMany(t *testing.T) {
	for n, boards := range map[int]int{10: 1, 24: 1, 45: 2} {
		b := backpacks("ATmega328P", 4)
		for i := range n {
			b.Devices = append(b.Devices, bench.Device{ID: fmt.Sprintf("d%d", i), Part: "X", Address: 8 + i})
		}
		w, table := laid(t, &b)
		if f := table.Check(); len(f) > 0 || len(w.Boards) > boards {
			t.Errorf("%d devices: %d boards, %+v", n, len(w.Boards), f[:min(len(f), 1)])
		}
	}
}

// TestPartsOfNamesakes lists the parts of two modules of one name: each is told apart, and their chips
// are bought as two of one kind.
func TestPartsOfNamesakes(t *testing.T) {
	b := oneModule("ATmega328P", "shift", "16x2", "lcd")
	m := bench.NewModule("other", b.Modules[0].Name)
	m.Link.Kind = "shift"
	b.Modules = append(b.Modules, m)
	_, table := laid(t, &b)
	for _, p := range table.Parts() {
		if strings.HasPrefix(p.What, "74HC") && (p.What != "74HC595" || p.Count != 2 || p.For[0] == p.For[1]) {
			t.Errorf("%d × %q for %q", p.Count, p.What, p.For)
		}
	}
	for _, index := range []int{0, 1} {
		if name := table.moduleName(index); !strings.HasSuffix(name, "("+b.Modules[index].ID+")") {
			t.Errorf("module %d is called %q", index, name)
		}
	}
}
