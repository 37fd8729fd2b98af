package demo

import (
	"slatebell/core/bench"
	"slatebell/core/text/field"
)

// stage gives the boathouse its shows: the gate turns over its screens and rings the bell, the
// hall follows tide, wind and boats, the slip shows gusts, messages and an alarm that is set
// on the device.
func stage(gate, hall, slip *bench.Module, signs string) {
	gate.Show = bench.Show{
		Scenes: []bench.Scene{
			{ID: "gate", Name: "Gate", Screen: "screen-1", Ends: []bench.End{{AfterMs: 5000, Next: "tides"}, {Input: "bell", Next: "ring"}}},
			{ID: "tides", Name: "Tides", Screen: "tides", Ends: []bench.End{{AfterMs: 4000, Next: "weather"}, {Input: "bell", Next: "ring"}}},
			{ID: "weather", Name: "Weather", Screen: "weather", Ends: []bench.End{{AfterMs: 4000, Next: "boats"}, {Input: "bell", Next: "ring"}}},
			{ID: "boats", Name: "Boats", Screen: "boats", Ends: []bench.End{{AfterMs: 4000, Next: "gate"}, {Input: "bell", Next: "ring"}}},
			{ID: "ring", Name: "Bell rings", Screen: "screen-1", Ends: []bench.End{{AfterMs: 1000, Next: "pause"}, {Input: "bell", Next: "gate"}}},
			{ID: "pause", Name: "Bell pauses", Screen: "screen-1", Off: true, Ends: []bench.End{{AfterMs: 500, Next: "ring"}, {Input: "bell", Next: "gate"}}},
		},
		Inputs: []bench.Input{
			{ID: "bell", Name: "Bell rope", Kind: "button"},
			tide(),
		},
		Feeds: []bench.Feed{{Field: "Tide", Input: "tide"}},
	}
	hall.Show = bench.Show{
		Scenes: []bench.Scene{{ID: "board", Name: "Tide board", Screen: "screen-1"}},
		Inputs: []bench.Input{
			tide(),
			{ID: "way", Name: "Way of the tide", Kind: "signal", Signal: bench.Sensor{Source: bench.Source{Curve: "steps", PeriodMs: 15_000, Levels: []float64{0, 1, 1, 0}, SampleMs: 1000}}},
			wind(),
			{ID: "out", Name: "Boat out", Kind: "button"},
			{ID: "in", Name: "Boat in", Kind: "button"},
			{ID: "boats", Name: "Boats out", Kind: "counter", Counter: bench.Counter{Count: 12, Stops: true, Up: "out", Down: "in"}},
		},
		Feeds: []bench.Feed{{Field: "Tide", Input: "tide"}, {Field: "Way of the tide", Input: "way"}, {Field: "Wind", Input: "wind"}, {Field: "Gusts", Input: "wind", Peak: true}, {Field: "Boats out", Input: "boats"}},
	}
	slip.Screens = append(slip.Screens,
		bench.Screen{ID: "wind", Name: "Wind", Rows: []string{"Wind at the slip", ""}, Fields: []field.Field{
			{Name: "Wind", Row: 0, Col: 17, Width: 2, Kind: field.Number, Range: field.Range{Max: 12}, Sample: "4"},
			{Name: "Wind bar", Row: 1, Width: 20, Kind: field.Bar, Range: field.Range{Max: 12}},
		}},
		bench.Screen{ID: "notice", Name: "Notice", Rows: []string{"", ""}, Fields: []field.Field{
			{Name: "Notice", Row: 0, Width: 20, Kind: field.Free, Look: field.Look{TooLong: "scroll"}, Sample: "No notice"},
			{Name: "Notice", Row: 1, Width: 20, Kind: field.Free, Look: field.Look{TooLong: "scroll"}},
		}},
		bench.Screen{ID: "alarm", Name: "Alarm", Rows: []string{"Ring the bell when", "the tide is at     m"}, Fields: []field.Field{
			{Name: "Alarm", Row: 1, Col: 15, Width: 4, Kind: field.Number, Range: field.Range{Min: 0.5, Max: 6}, Digits: field.Digits{Decimals: 1}, Sample: "4.0"},
		}},
	)
	wave := bench.Effect{Kind: "walk", Row: 1, EveryMs: 250, Text: signs, Back: true}
	slip.Show = bench.Show{
		Start: "slip",
		Scenes: []bench.Scene{
			{ID: "slip", Name: "Slip", Screen: "screen-1", Ends: []bench.End{{AfterMs: 6000, Next: "wind"}, {Input: "radio", Next: "notice"}, {Input: "set", On: "long", Next: "alarm"}}},
			{ID: "wind", Name: "Wind", Screen: "wind", Ends: []bench.End{{AfterMs: 6000, Next: "slip"}, {Input: "radio", Next: "notice"}, {Input: "set", On: "long", Next: "alarm"}}},
			{ID: "notice", Name: "Notice", Screen: "notice", Ends: []bench.End{{AfterMs: 5000, Next: "slip"}, {Input: "set", Next: "slip"}}},
			{ID: "alarm", Name: "Set the alarm", Screen: "alarm", Edit: bench.Edit{Field: "Alarm", Mark: bench.EditMark{Code: '_'}, Keys: []bench.Key{
				{Does: "left", Input: "left"}, {Does: "right", Input: "right"}, {Does: "up", Input: "up"}, {Does: "down", Input: "down"}, {Does: "accept", Input: "set"},
			}}, Ends: []bench.End{{On: "accept", Next: "tide"}, {AfterMs: 30_000, Next: "slip"}}},
			{ID: "tide", Name: "High water", Screen: "tide", Effect: wave, Ends: []bench.End{{AfterMs: 8000, Next: "slip"}, {Input: "set", Next: "slip"}}},
		},
		Inputs: []bench.Input{
			{ID: "set", Name: "Press", Kind: "button"}, {ID: "left", Name: "Left", Kind: "button"}, {ID: "right", Name: "Right", Kind: "button"},
			{ID: "up", Name: "Up", Kind: "button"}, {ID: "down", Name: "Down", Kind: "button"},
			wind(),
			{ID: "radio", Name: "Radio", Kind: "serial", Serial: bench.Serial{TimeoutMs: 2000, Ends: "pause"}},
		},
		Feeds: []bench.Feed{{Field: "Wind", Input: "wind"}, {Field: "Wind bar", Input: "wind", Peak: true}, {Field: "Notice", Input: "radio"}},
	}
	slip.Screens = append(slip.Screens, bench.Screen{ID: "tide", Name: "High water", Rows: []string{" High water at 14:05", ""}})
}

// tide is a half-daily tide in a minute.
func tide() bench.Input {
	return bench.Input{ID: "tide", Name: "Tide", Kind: "signal", Signal: bench.Sensor{Decimals: 1, Start: 2, Source: bench.Source{Curve: "tide", Low: 0.4, High: 3.8, PeriodMs: 60_000, SampleMs: 500}}}
}

// wind is gusty: it rises at once, falls within seconds, and its peak is held.
func wind() bench.Input {
	return bench.Input{ID: "wind", Name: "Wind", Kind: "signal", Signal: bench.Sensor{
		Meter:  bench.Meter{Reads: "linear", RiseMs: 300, FallMs: 1500, HoldMs: 4000},
		Source: bench.Source{Curve: "noise", Low: 2, High: 9, Seed: 7, SampleMs: 1500},
	}}
}
