// Package capturetest makes recordings of our own programs for tests: as somebody would record them, on channels of any order among others.
package capturetest

import (
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"
	"time"

	"slatebell/core/bench"
	"slatebell/core/part/module"
	"slatebell/core/prove/capture"
	"slatebell/core/prove/run"
	"slatebell/core/prove/testbed"
	"slatebell/core/wire/link"
)

// Channels is how many channels the recordings have.
const Channels = 12

// Demo is a screen of a 20×4.
var Demo = []string{"Tide 3.2 m  rising", "High water   14:05", "Wind NW 4  gusts 6", "Boats out  3 of 11"}

// Names are those of channels that say nothing.
func Names() []string { return make([]string, Channels) }

// Of20x4 is a 20×4 behind a link.
func Of20x4(kind link.Kind) bench.Module {
	m := bench.NewModule("quay", "Quay")
	m.Link.Kind, m.Display.Geometry = string(kind), "20x4"
	return m
}

// Module is a module of some size with a usual 5 V supply.
func Module(t testing.TB, geometry string) module.Module {
	t.Helper()
	d := bench.NewModule("quay", "Quay").Display
	d.Geometry = geometry
	m, err := d.Module()
	if err != nil {
		t.Fatal(err)
	}
	return m
}

// Recorded is a recording of our own program that shows rows on a module, its lines on channels of some order; sampled at a step, 0 as it is.
func Recorded(t testing.TB, r *rand.Rand, m *bench.Module, rows []string, step time.Duration) (list []capture.Change, at capture.Lines) {
	t.Helper()
	played, err := run.Do(&testbed.Setup{Display: m.Display, Link: m.Link, Rows: rows}, run.Options{})
	if err != nil {
		t.Fatal(err)
	}
	drawn := capture.OfProgram(played.Program, link.Hardware{})
	names := drawn.Names
	places := r.Perm(Channels)
	at = capture.Lines{}
	for i, name := range names {
		at[capture.Role(name)] = places[i]
	}
	for _, c := range drawn.List {
		levels := uint64(1) << places[Channels-1] // one that is always high
		for i := range names {
			levels |= c.Levels >> i & 1 << places[i]
		}
		if step > 0 {
			c.At = (c.At + step - 1) / step * step
		}
		if n := len(list); n > 0 && list[n-1].At == c.At {
			list[n-1].Levels = levels
		} else {
			list = append(list, capture.Change{At: c.At, Levels: levels})
		}
	}
	return list, at
}

// Inverted is a recording with some channels turned over.
func Inverted(list []capture.Change, mask uint64) (out []capture.Change) {
	for _, c := range list {
		out = append(out, capture.Change{At: c.At, Levels: c.Levels ^ mask})
	}
	return out
}

// Only are the changes of some channels.
func Only(list []capture.Change, mask uint64) (out []capture.Change) {
	for _, c := range list {
		if c.Levels &= mask; len(out) == 0 || out[len(out)-1].Levels != c.Levels {
			out = append(out, c)
		}
	}
	return out
}

// Any is a module of any size and mapping behind a link, with a text.
func Any(r *rand.Rand, kind link.Kind) (m bench.Module, rows []string) {
	words := strings.Fields("Tide 3.2 m rising High water 14:05 Wind NW 4 gusts 6 Boats out 3 of 11 Slip clear afloat GATE open 21.5 C Humidity 47% pressure 1013 hPa Level 0815 OK")
	m = bench.NewModule("quay", "Quay")
	m.Link.Kind, m.Display.Geometry = string(kind), []string{"16x2", "20x4", "20x2", "16x4", "40x2", "16x1"}[r.IntN(6)]
	p := r.Perm(8)
	o := &m.Link.Outputs
	o.Mapping = &link.Mapping{RS: int8(p[0]), RW: int8(p[1]), E: int8(p[2]), E2: link.Open, Backlight: int8(p[3]), D4: int8(p[4]), D5: int8(p[5]), D6: int8(p[6]), D7: int8(p[7])}
	o.Setup, o.Transactions = []string{"lawful", "before", "with-e"}[r.IntN(3)], []string{"byte", "operation", "screen"}[r.IntN(3)]
	g, _ := module.ParseGeometry(m.Display.Geometry)
	for range g.Rows {
		row := ""
		for {
			word := words[r.IntN(len(words))]
			if len(row)+len(word) > g.Cols {
				break
			}
			row += word + " "
		}
		rows = append(rows, strings.TrimSpace(row))
	}
	return m, rows
}

// Same reports whether each of some lines was found on its channel.
func Same(found, at capture.Lines) bool {
	for role, channel := range at {
		if got, ok := found[role]; !ok || got != channel {
			return false
		}
	}
	return true
}

// Describe is the likeliest of what was found, in short.
func Describe(list []capture.Found) string {
	if len(list) == 0 {
		return "nothing"
	}
	return fmt.Sprint(list[0].Lines, list[0].Kind, list[0].Mapping)
}
