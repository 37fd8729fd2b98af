package codegen

import (
	"encoding/json"
	"flag"
	"maps"
	"math"
	"math/rand/v2"
	"os"
	"path/filepath"
	"slices"
	"testing"

	"slatebell/codegen/c99"
	"slatebell/core/bench"
	"slatebell/core/ship/firmware"
	"slatebell/core/ship/firmware/firmtest"
	"slatebell/core/table/pinout"
	"slatebell/core/table/setup"
	"slatebell/server/builds"
	"slatebell/server/demo"
)

var update = flag.Bool("update", false, "fit sizes.json to programs that are compiled anew")

// TestSizes compiles the examples of random benches and holds what SizeOf says of them
// against avr-size.
func TestSizes(t *testing.T) {
	if *update {
		fit(t)
	}
	hold := func(seed uint64, _ *rand.Rand, im *firmware.Image) {
		dir, v := write(t, im, C)
		if !slices.Contains(v.Targets, "atmega328p") {
			return // its pins are those of another
		}
		run(t, dir, "make", "-s", "atmega328p")
		flash, ram := sizes(t, filepath.Join(dir, "firmware.elf"))
		s, err := c99.SizeOf(im)
		if err != nil {
			t.Fatal(err)
		}
		t.Logf("%d: flash %d, said %d (tables %d); RAM %d, said %d", seed, flash, s.Flash, s.Tables, ram, s.RAM)
		if math.Abs(float64(s.Flash-flash)) > max(0.06*float64(flash), 100) {
			t.Errorf("bench %d: %d bytes of flash, said to be %d", seed, flash, s.Flash)
		}
		if math.Abs(float64(s.RAM-ram)) > 4 {
			t.Errorf("bench %d: %d bytes of RAM, said to be %d", seed, ram, s.RAM)
		}
	}
	images(9000, 12, hold)
	withShows(9100, 10, hold)
	withInputs(9200, 8, hold)
	b := demo.Bench() // as a maker's
	for i := range b.Modules {
		only := b
		only.Modules = b.Modules[i : i+1]
		im, err := firmware.New(&only)
		if err != nil {
			t.Fatal(err)
		}
		hold(uint64(i), nil, im)
	}
	for i, build := range builds.List() {
		b, err := builds.Make(build.ID, setup.Beginning{Geometry: "16x2", Technology: "lcd", Link: []string{"backpack", "parallel4"}[i%2], Host: "ATmega328P"})
		if err != nil {
			t.Fatal(err)
		}
		im, err := firmware.New(&b)
		if err != nil {
			t.Fatal(err)
		}
		hold(uint64(100+i), nil, im)
	}
}

// withInputs makes images of random benches whose shows listen at the pins of an ATmega328P.
func withInputs(from, n uint64, do func(seed uint64, r *rand.Rand, im *firmware.Image)) {
	for seed := from; n > 0; seed++ {
		r := rand.New(rand.NewPCG(seed, 14))
		b := firmtest.Bench(r)
		b.Host.Part, b.Modules = "ATmega328P", b.Modules[:1]
		m := &b.Modules[0]
		firmtest.Stage(r, m)
		drop(r, m)
		for k := range m.Show.Inputs {
			in := &m.Show.Inputs[k]
			in.Signal.Average = r.IntN(9)
			if r.IntN(4) == 0 {
				in.Signal.ReferenceMV = 1100
			}
			if r.IntN(3) == 0 {
				in.Signal.Scale = bench.Scale{To: bench.Point{Reading: 1 + r.IntN(1023), Value: float64(r.IntN(3000))}}
			}
			free := pinout.Free(b)
			if in.Kind == "counter" && len(free) > 6 {
				in.Pin = free[0].Label
				if r.IntN(2) == 0 {
					in.PinB = free[1].Label
				}
			}
		}
		joined, _ := pinout.JoinInputs(b)
		for _, e := range joined {
			if r.IntN(4) > 0 {
				e.Apply(b)
			}
		}
		if im, err := firmware.New(b); err == nil {
			do(seed, r, im)
			n--
		}
	}
}

// withShows makes images of random benches with shows that can be made.
func withShows(from, n uint64, do func(seed uint64, r *rand.Rand, im *firmware.Image)) {
	for seed := from; n > 0; seed++ {
		r := rand.New(rand.NewPCG(seed, 11))
		b := firmtest.Bench(r)
		b.Modules = b.Modules[:min(len(b.Modules), 2)]
		for i := range b.Modules {
			if r.IntN(4) > 0 {
				firmtest.Stage(r, &b.Modules[i])
			}
			drop(r, &b.Modules[i])
		}
		if im, err := firmware.New(b); err == nil {
			do(seed, r, im)
			n--
		}
	}
}

// drop leaves parts of a show out, so that they are told apart.
func drop(r *rand.Rand, m *bench.Module) {
	effects, edits, feeds := r.IntN(2) == 0, r.IntN(2) == 0, r.IntN(3) == 0
	for i := range m.Show.Scenes {
		s := &m.Show.Scenes[i]
		if effects {
			s.Effect = bench.Effect{}
		}
		if edits {
			s.Edit = bench.Edit{}
			s.Ends = slices.DeleteFunc(s.Ends, func(e bench.End) bool { return e.On == "accept" || e.On == "cancel" })
		}
		s.Off = s.Off && r.IntN(2) == 0
	}
	if feeds {
		m.Show.Feeds = nil
	}
	for _, id := range []string{"radio", "wind", "tide", "boats", "clock", "set", "go"} {
		if r.IntN(2) == 0 {
			without(m, id)
		}
	}
	for i := range m.Show.Inputs {
		in := &m.Show.Inputs[i]
		if r.IntN(3) == 0 && in.Signal.Meter.Reads != "" && !slices.ContainsFunc(m.Show.Feeds, func(f bench.Feed) bool { return f.Peak }) {
			in.Signal.Meter = bench.Meter{}
		}
	}
}

// without takes an input out of a show, and whatever listens to it.
func without(m *bench.Module, id string) {
	s := &m.Show
	s.Inputs = slices.DeleteFunc(s.Inputs, func(in bench.Input) bool { return in.ID == id })
	s.Feeds = slices.DeleteFunc(s.Feeds, func(f bench.Feed) bool { return f.Input == id })
	for i := range s.Scenes {
		scene := &s.Scenes[i]
		scene.Ends = slices.DeleteFunc(scene.Ends, func(e bench.End) bool { return e.Input == id })
		scene.Edit.Keys = slices.DeleteFunc(scene.Edit.Keys, func(k bench.Key) bool { return k.Input == id })
	}
	for i := range s.Inputs {
		in := &s.Inputs[i]
		for _, by := range []*string{&in.Counter.Up, &in.Counter.Down, &in.Serial.Reset} {
			if *by == id {
				*by = ""
			}
		}
	}
}

// fit fits the weights of the driver's parts by least squares, slightly drawn to 0.
func fit(t *testing.T) {
	var rows []map[string]float64
	var left []float64
	names := map[string]bool{}
	add := func(_ uint64, _ *rand.Rand, im *firmware.Image) {
		dir, v := write(t, im, C)
		if !slices.Contains(v.Targets, "atmega328p") {
			return
		}
		run(t, dir, "make", "-s", "atmega328p")
		flash, _ := sizes(t, filepath.Join(dir, "firmware.elf"))
		parts := v.Parts()
		rows, left = append(rows, parts), append(left, float64(flash-v.TableBytes()))
		for name := range parts {
			names[name] = true
		}
	}
	images(20000, 200, add)
	withShows(30000, 160, add)
	withInputs(40000, 200, add)
	for _, build := range builds.List() { // those of another size are held against it
		for _, size := range []string{"20x2", "20x4"} {
			for _, kind := range []string{"backpack", "parallel4", "shift"} {
				b, err := builds.Make(build.ID, setup.Beginning{Geometry: size, Technology: "lcd", Link: kind, Host: "ATmega328P"})
				if err != nil {
					t.Fatal(err)
				}
				im, err := firmware.New(&b)
				if err != nil {
					t.Fatal(err)
				}
				add(0, nil, im)
			}
		}
	}
	order := slices.Sorted(maps.Keys(names))
	n := len(order)
	a := make([][]float64, n) // normal equations
	for i := range a {
		a[i] = make([]float64, n+1)
		a[i][i] = 0.1
		for r, row := range rows {
			for j, name := range order {
				a[i][j] += row[order[i]] * row[name]
			}
			a[i][n] += row[order[i]] * left[r]
		}
	}
	for i := range a {
		for k := range a {
			if k == i {
				continue
			}
			f := a[k][i] / a[i][i]
			for j := range a[k] {
				a[k][j] -= f * a[i][j]
			}
		}
	}
	out := map[string]float64{}
	for i, name := range order {
		out[name] = math.Round(a[i][n] / a[i][i])
	}
	text, err := json.MarshalIndent(out, "", "  ")
	if err != nil {
		t.Fatal(err)
	}
	if err := os.WriteFile("c99/sizes.json", append(text, '\n'), 0o644); err != nil {
		t.Fatal(err)
	}
	t.Fatalf("c99/sizes.json is written; run the test again, without -update:\n%s", text)
}
