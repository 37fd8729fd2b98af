package run

import (
	"slices"
	"testing"

	"slatebell/core/part/hd44780"
	"slatebell/core/prove/testbed/bedtest"
	"slatebell/core/wire/link"
	"slatebell/core/wire/wave"
)

func ref[T any](v T) *T { return &v }

// mistakes are faults that every link has; "" is none.
var mistakes = []string{"", "start.none", "nibble.lost:12.1", "wait.none", "wire.short:D4,D5", "wire.open:RS", "entry.back", "wire.open:VSS", "rom.other:A02"}

// TestWavesAreWhatArrives drives a second controller by nothing but the drawn
// levels of the header pins: it ends as the rig's did, on every link, whatever
// is wrong between host and module.
func TestWavesAreWhatArrives(t *testing.T) {
	lines := map[string]hd44780.Pins{"E": hd44780.E, "RS": hd44780.RS, "RW": hd44780.RW}
	for i, name := range []string{"D0", "D1", "D2", "D3", "D4", "D5", "D6", "D7"} {
		lines[name] = 1 << i
	}
	type wired struct {
		fault  string
		joined *link.Joined
	}
	cases := map[link.Kind][]wired{}
	for _, kind := range link.Kinds {
		for _, fault := range mistakes {
			cases[kind] = append(cases[kind], wired{fault, nil})
		}
	}
	four := link.New(link.Parallel4)
	straight := link.Straight(&four)
	open := straight.Swapped("RW", "RW")
	delete(open.Pins, "RW") // R/W pulled high
	short := straight.Swapped("E", "E")
	short.Pins["E"] = "E+D4"
	cases[link.Parallel4] = append(cases[link.Parallel4], wired{"", &open}, wired{"", &short}, wired{"", ref(straight.Swapped("E", "RS"))})
	for _, register := range []map[string]string{ // a 74HC595 wired up wrongly
		{"SER": "data", "SRCLK": "latch", "RCLK": "clock", "OE": "low", "SRCLR": "high"},
		{"SER": "clock", "SRCLK": "data", "RCLK": "latch", "OE": "low", "SRCLR": "high"},
		{"SER": "data", "SRCLK": "clock", "RCLK": "clock", "OE": "low", "SRCLR": "high"},
		{"SER": "data", "SRCLK": "clock", "RCLK": "latch", "OE": "high", "SRCLR": "high"},
		{"SER": "data", "SRCLK": "clock", "RCLK": "latch", "OE": "low"},
	} {
		cases[link.ShiftReg] = append(cases[link.ShiftReg], wired{"", &link.Joined{Pins: straight.Pins, Register: register}})
	}
	for kind, list := range cases {
		for _, w := range list {
			fault := w.fault
			m := bedtest.Slice(string(kind), "Tide 3.2 m", "High 14:05")
			m.Joined = w.joined
			r := mustRun(t, m, Options{Fault: fault})
			trace := wave.Draw(r.Program, 0, len(r.Program.Steps)-1, r.Hardware)
			pins := hd44780.Pins(0xFF) // lines that are not drawn are open, pulled high
			for i, name := range trace.Signals {
				pins |= lines[name]
				if !trace.Initial[i] {
					pins &^= lines[name]
				}
			}
			c := hd44780.New(r.Module.Controller(), nil)
			c.HoldEnable(pins)
			for i, change := range trace.Changes {
				line := lines[trace.Signals[change.Signal]]
				if change.High {
					pins |= line
				} else {
					pins &^= line
				}
				if i+1 == len(trace.Changes) || trace.Changes[i+1].At != change.At {
					c.Drive(change.At, pins)
				}
			}
			if want := r.Last().Controllers[0].State; c.State != want {
				t.Errorf("%s, %q, %+v: %q, want %q", kind, fault, w.joined, c.DDRAM[:10], want.DDRAM[:10])
			}
		}
	}
}

// TestWavesInPieces draws a program step by step: each piece begins with the
// levels that the one before it ended with, and together they are the whole, on
// every link and way of grouping, with reads, and with a word that never arrives.
func TestWavesInPieces(t *testing.T) {
	for _, kind := range link.Kinds {
		for _, grouping := range []string{"byte", "operation", "screen"} {
			for _, o := range []Options{{}, {Fault: "nibble.lost:4.1"}, {Fault: "wire.open:E"}, {Fault: "wire.short:D4,D5"}} {
				m := bedtest.Slice(string(kind), "Tide")
				m.Display.Geometry = "8x1"
				m.Link.Outputs.Transactions, m.Link.ReadWrite = grouping, true
				if kind != link.ShiftReg {
					m.Link.Waits = "poll"
				}
				r := mustRun(t, m, o)
				steps := len(r.Program.Steps)
				whole := wave.Draw(r.Program, 0, steps-1, r.Hardware)
				level := slices.Clone(whole.Initial)
				var pieces []wave.Change
				for i := range steps {
					piece := wave.Draw(r.Program, i, i, r.Hardware)
					if !slices.Equal(piece.Initial, level) {
						t.Fatalf("%s, %s, %q: step %d begins with %v of %v, the one before ended with %v", kind, grouping, o.Fault, i+1, piece.Initial, piece.Signals, level)
					}
					if piece.Begin != r.Program.Steps[i].Start || piece.End != r.Program.Steps[i].End() {
						t.Fatalf("%s: step %d is drawn from %s to %s", kind, i+1, piece.Begin, piece.End)
					}
					for j, c := range piece.Changes {
						if level[c.Signal] == c.High || j > 0 && c.At < piece.Changes[j-1].At {
							t.Fatalf("%s, step %d: change %d of %s to %v at %s", kind, i+1, j, piece.Signals[c.Signal], c.High, c.At)
						}
						level[c.Signal] = c.High
					}
					pieces = append(pieces, piece.Changes...)
				}
				if !slices.Equal(pieces, whole.Changes) {
					t.Fatalf("%s, %s, %q: %d changes in pieces, %d in the whole", kind, grouping, o.Fault, len(pieces), len(whole.Changes))
				}
				if beyond := wave.Draw(r.Program, 0, steps+5, r.Hardware); !slices.Equal(beyond.Changes, whole.Changes) {
					t.Errorf("%s: more steps than there are change the drawing", kind)
				}
			}
		}
	}
}
