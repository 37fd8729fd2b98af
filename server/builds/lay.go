package builds

import (
	"fmt"

	"slatebell/core/bench"
	"slatebell/core/table/setup"
	"slatebell/core/text/field"
)

// words: the smallest that shows something.
func words(t *table) {
	t.m.Name = "Boathouse door"
	t.screen("door", "Door", t.middle("Boathouse open", "Wipe your oars"))
	t.m.Show = bench.Show{Scenes: []bench.Scene{{ID: "door", Name: "Door", Screen: "door"}}}
}

// seconds: a timer feeds the time since the start.
func seconds(t *table) {
	t.m.Name = "Crew clock"
	rows := t.middle("Afloat since", "")
	row, width := (t.rows-2)/2+1, 6
	t.screen("afloat", "Afloat", rows, field.Field{Name: "Afloat", Row: row, Col: (t.cols - width) / 2, Width: width, Kind: field.Elapsed, Format: "m:ss", Range: field.Range{Max: 59_999}, Sample: "0"})
	t.m.Show = bench.Show{
		Inputs: []bench.Input{{ID: "second", Name: "Each second", Kind: "timer", EveryMs: 1000}},
		Scenes: []bench.Scene{{ID: "afloat", Name: "Afloat", Screen: "afloat"}},
		Feeds:  []bench.Feed{{Field: "Afloat", Input: "second"}},
	}
}

// states: a button between two screens.
func states(t *table) {
	t.m.Name = "Slip board"
	t.screen("clear", "Clear", t.middle("Slip is clear", "Launch at will"))
	t.screen("shut", "Shut", t.middle("Slip is shut", "Wait for the bell"))
	t.m.Show = bench.Show{
		Inputs: []bench.Input{{ID: "rope", Name: "Bell rope", Kind: "button"}},
		Scenes: []bench.Scene{
			{ID: "clear", Name: "Clear", Screen: "clear", Ends: []bench.End{{Input: "rope", Next: "shut"}}},
			{ID: "shut", Name: "Shut", Screen: "shut", Ends: []bench.End{{Input: "rope", Next: "clear"}}},
		},
	}
}

// crews are what the knob steps along.
var crews = []string{"Kittiwake", "Sandpiper", "Tern", "Dunlin", "Oystercatcher", "Plover"}

// names: a potentiometer chooses a word of a list.
func names(t *table) {
	t.m.Name = "Crew list"
	row := t.rows/2 - 1
	rows := make([]string, t.rows)
	rows[row] = "On the water:"
	t.screen("crew", "Crew", rows, field.Field{Name: "Crew", Row: row + 1, Width: min(t.cols, 16), Kind: field.Text, Values: crews, Sample: crews[0]})
	most := 1<<t.board().Resolution() - 1
	t.m.Show = bench.Show{
		Inputs: []bench.Input{{ID: "knob", Name: "Knob", Kind: "signal", Signal: bench.Sensor{
			Circuit: bench.Circuit{Kind: "knob"}, Average: 8,
			Scale:  bench.Scale{To: bench.Point{Reading: most, Value: float64(len(crews) - 1)}},
			Source: bench.Source{Curve: "ramp", High: float64(len(crews) - 1), PeriodMs: 12_000},
		}}},
		Scenes: []bench.Scene{{ID: "crew", Name: "Crew", Screen: "crew"}},
		Feeds:  []bench.Feed{{Field: "Crew", Input: "knob"}},
	}
}

// messages: text that comes in, ended by a pause as telephones send it.
func messages(t *table) {
	t.m.Name = "Notice board"
	rows := make([]string, t.rows)
	rows[0] = t.centred("Notice")
	var fields []field.Field
	for row := 1; row < t.rows; row++ {
		fields = append(fields, field.Field{Name: "Notice", Row: row, Width: t.cols, Kind: field.Free, Look: field.Look{TooLong: "scroll"}, Sample: map[bool]string{true: "None yet"}[row == 1]})
	}
	t.screen("notice", "Notice", rows, fields...)
	t.m.Show = bench.Show{
		Inputs: []bench.Input{{ID: "radio", Name: "Radio", Kind: "serial", Serial: bench.Serial{Ends: "pause"}}},
		Scenes: []bench.Scene{{ID: "notice", Name: "Notice", Screen: "notice"}},
		Feeds:  []bench.Feed{{Field: "Notice", Input: "radio"}},
	}
}

// sign: something walks along a row and back.
func sign(t *table) {
	t.m.Name = "Landing sign"
	t.screen("landing", "Landing", t.middle("To the landing", ""))
	t.m.Show = bench.Show{Scenes: []bench.Scene{{ID: "landing", Name: "Landing", Screen: "landing", Effect: bench.Effect{Kind: "walk", Row: (t.rows-2)/2 + 1, EveryMs: 250, Text: "<==>", Back: true}}}}
}

// meters: two channels with bars that fall slowly.
func meters(t *table) {
	t.m.Name = "Horn level"
	rows := make([]string, t.rows)
	top := (t.rows - 2) / 2
	most := float64(int(1)<<t.board().Resolution() - 1)
	show := bench.Show{Scenes: []bench.Scene{{ID: "horns", Name: "Horns", Screen: "horns"}}}
	var fields []field.Field
	for k, side := range []string{"Port", "Starboard"} {
		rows[top+k] = side[:1]
		fields = append(fields, field.Field{Name: side, Row: top + k, Col: 2, Width: t.cols - 2, Kind: field.Bar, Range: field.Range{Max: most}})
		show.Inputs = append(show.Inputs, bench.Input{ID: []string{"port", "starboard"}[k], Name: side, Kind: "signal", Signal: bench.Sensor{
			Circuit: bench.Circuit{Kind: "follower"}, Meter: bench.Meter{Reads: "linear", FallMs: 400, HoldMs: 1000},
			Source: bench.Source{Curve: "noise", High: most, Seed: 3 + k, SampleMs: 200},
		}})
		show.Feeds = append(show.Feeds, bench.Feed{Field: side, Input: show.Inputs[k].ID, Peak: true})
	}
	t.screen("horns", "Horns", rows, fields...)
	t.m.Show = show
}

// value: a number that is set by a stick, and shown.
func value(t *table) {
	t.m.Name = "Race timer"
	row := (t.rows - 2) / 2
	number := func(row int) field.Field {
		return field.Field{Name: "Start at", Row: row, Col: (t.cols - 4) / 2, Width: 4, Kind: field.Number, Range: field.Range{Max: 2359}, Digits: field.Digits{Zeros: true}, Sample: "930"}
	}
	t.screen("at", "Start at", t.middle("Race starts at", ""), number(row+1))
	t.screen("set", "Set it", t.middle("Set the start", ""), number(row+1))
	most := 1<<t.board().Resolution() - 1
	way := func(id, name string) bench.Input {
		in := setup.StickWay(t.board(), id, name)
		in.Part = "Stick"
		return in
	}
	low, high := float64(most/4), float64(most*3/4)
	t.m.Show = bench.Show{
		Inputs: []bench.Input{way("x", "Stick left and right"), way("y", "Stick up and down"), {ID: "press", Name: "Stick pressed", Kind: "button", Part: "Stick"}},
		Scenes: []bench.Scene{
			{ID: "at", Name: "Start at", Screen: "at", Ends: []bench.End{{Input: "press", Next: "set"}}},
			{ID: "set", Name: "Set it", Screen: "set", Edit: bench.Edit{Field: "Start at", Mark: bench.EditMark{Code: '_'}, Keys: []bench.Key{
				{Does: "left", Input: "x", On: "below", Level: low}, {Does: "right", Input: "x", On: "above", Level: high},
				{Does: "down", Input: "y", On: "below", Level: low}, {Does: "up", Input: "y", On: "above", Level: high}, {Does: "accept", Input: "press"},
			}}, Ends: []bench.End{{On: "accept", Next: "at"}}},
		},
	}
}

// eight: each module of several shows its own berth.
func eight(t *table) {
	n := 1
	for i := range t.bench.Modules {
		if &t.bench.Modules[i] == t.m {
			n = i + 1
		}
	}
	t.m.Name = fmt.Sprintf("Berth %d", n)
	t.screen("berth", "Berth", t.middle(t.m.Name, crews[(n-1)%len(crews)]))
	t.m.Show = bench.Show{Scenes: []bench.Scene{{ID: "berth", Name: "Berth", Screen: "berth"}}}
}
