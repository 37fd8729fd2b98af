package show

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"slatebell/core/bench"
	"slatebell/core/text/field"
)

var doings = []string{"left", "right", "up", "down", "next", "accept", "cancel"}

// stroke presses a key and lets it go.
func stroke(s *Show, st State, key int) State {
	st = s.Take(st, Event{At: st.Now + 1, Input: key, Value: 1})
	st = s.Take(st, Event{At: st.Now + 2, Input: key})
	return s.Until(st, st.Now+2)
}

// TestEveryStroke walks through everything that the keys of a device can bring about: no
// value leaves its range or its list, no place lies beyond an end, a step changes one place
// only, and every value can be reached.
func TestEveryStroke(t *testing.T) {
	for _, c := range []struct {
		name   string
		field  field.Field
		edit   bench.Edit
		states int // places times values
		valid  func(v Text) bool
	}{
		{"number", field.Field{Kind: field.Number, Range: field.Range{Min: -1.5, Max: 12}, Digits: field.Digits{Decimals: 1}}, bench.Edit{}, 3 * 136,
			func(v Text) bool { return v.Units >= -15 && v.Units <= 120 }},
		{"small number", field.Field{Kind: field.Number, Range: field.Range{Min: 0.2, Max: 0.7}, Digits: field.Digits{Decimals: 2}}, bench.Edit{}, 3 * 51,
			func(v Text) bool { return v.Units >= 20 && v.Units <= 70 }},
		{"list", field.Field{Kind: field.Choice, Values: []string{"low", "mid", "high"}}, bench.Edit{}, 3,
			func(v Text) bool { return v.Units >= 0 && v.Units <= 2 }},
		{"hex", field.Field{Kind: field.Free, Width: 2, Sample: "0?"}, bench.Edit{Takes: "hex"}, 2 * (16*16 + 16),
			func(v Text) bool { return strings.Trim(v.Codes[:1], "0123456789ABCDEF") == "" }},
		{"own list", field.Field{Kind: field.Free, Width: 2, Sample: "ab"}, bench.Edit{Takes: "list", List: "abc"}, 2 * 9,
			func(v Text) bool { return strings.Trim(v.Codes, "abc") == "" }},
		// HD44780U data sheet, ADE-207-272(Z), table 4 (ROM A00, from memory): of ASCII's 95 it lacks \ and ~;
		// it has 0x20–0x7F and 0xA1–0xFF, of which 0xFE is blank
		{"all of ASCII", field.Field{Kind: field.Free, Width: 1}, bench.Edit{Takes: "ascii"}, 93,
			func(v Text) bool { return v.Codes >= " " && v.Codes < "~" && v.Codes != "\\" }},
		{"all of the ROM", field.Field{Kind: field.Free, Width: 1}, bench.Edit{Takes: "rom"}, 96 + 94,
			func(v Text) bool {
				return v.Codes[0] >= ' ' && v.Codes[0] != 0xFE && (v.Codes[0] < 0x80 || v.Codes[0] > 0xA0)
			}},
		{"list beyond ASCII", field.Field{Kind: field.Free, Width: 1}, bench.Edit{Takes: "list", List: "°→"}, 3,
			func(v Text) bool { return strings.Contains(" \xDF\x7E", v.Codes) }},
	} {
		s := device(t, c.field, c.edit)
		seen := map[string]bool{}
		var walk func(st State)
		queue := []State{s.Begin()}
		walk = func(st State) {
			t0 := st.Typing
			key := fmt.Sprint(t0.Text, t0.Place)
			if seen[key] {
				return
			}
			seen[key] = true
			d := &s.Edited[0]
			if !c.valid(t0.Text) || t0.Place < 0 || t0.Place >= d.Places {
				t.Fatalf("%s: %+v", c.name, t0)
			}
			for k, does := range doings[:4] {
				st.Now, st.Typing.Began = 0, 0
				next := stroke(s, st, k)
				switch {
				case does == "left" || does == "right":
					if next.Typing.Text != t0.Text || max(next.Typing.Place-t0.Place, t0.Place-next.Typing.Place) > 1 {
						t.Errorf("%s: %s turns %+v into %+v", c.name, does, t0, next.Typing)
					}
				case next.Typing.Place != t0.Place:
					t.Errorf("%s: %s leaves the place of %+v", c.name, does, t0)
				}
				queue = append(queue, next)
			}
		}
		for len(queue) > 0 {
			st := queue[0]
			queue = queue[1:]
			walk(st)
		}
		if len(seen) != c.states {
			t.Errorf("%s: %d states of value and place, want %d", c.name, len(seen), c.states)
		}
	}
}

// device returns a show with one scene that edits a field, a button for each doing, and a
// scene each for accept and cancel.
func device(t *testing.T, f field.Field, edit bench.Edit) *Show {
	t.Helper()
	m := bench.NewModule("m", "")
	f.Name, edit.Field = "Value", "Value"
	f.Width = max(f.Width, 1)
	m.Screens[0].Fields = []field.Field{f}
	for _, does := range doings {
		m.Show.Inputs = append(m.Show.Inputs, bench.Input{ID: does, Kind: "button", Button: bench.Button{DebounceMs: 1}})
		edit.Keys = append(edit.Keys, bench.Key{Does: does, Input: does})
	}
	m.Show.Scenes = []bench.Scene{
		{ID: "edit", Screen: "screen-1", Edit: edit, Ends: []bench.End{{On: "accept", Next: "kept"}, {On: "cancel", Next: "left"}, {AfterMs: 60_000, Next: "left"}}},
		{ID: "kept", Screen: "screen-1"}, {ID: "left", Screen: "screen-1"},
	}
	s, err := Of(&m)
	if err != nil {
		t.Fatal(err)
	}
	return s
}

// TestKept: what is typed is kept by accept alone; next accepts behind the last place; a
// scene that ends by its time, or by cancel, leaves what was there.
func TestKept(t *testing.T) {
	s := device(t, field.Field{Kind: field.Number, Width: 4, Range: field.Range{Max: 99}, Sample: "40"}, bench.Edit{})
	for _, c := range []struct {
		keys  string
		scene int
		kept  int64
	}{
		{"up accept", 1, 50}, {"up cancel", 2, 40}, {"down right up next", 1, 31}, {"next down down next", 1, 38}, {"up up up up up up up accept", 1, 99}, {"up", 0, 40},
	} {
		st := s.Begin()
		for _, key := range strings.Fields(c.keys) {
			st = stroke(s, st, slices.Index(doings, key))
		}
		if st.Scene != c.scene || st.Edited[0].Units != c.kept {
			t.Errorf("%s: scene %d, %d kept; want %d, %d", c.keys, st.Scene, st.Edited[0].Units, c.scene, c.kept)
		}
		if end := s.Until(st, 120_000); c.scene == 0 && (end.Scene != 2 || end.Edited[0].Units != c.kept) {
			t.Errorf("%s: after a minute scene %d, %d kept", c.keys, end.Scene, end.Edited[0].Units)
		}
	}
}

// TestUnknown steps a character that a cell may not have: up to the first that it may, down
// to the last.
func TestUnknown(t *testing.T) {
	s := device(t, field.Field{Kind: field.Free, Width: 2, Sample: "??"}, bench.Edit{Takes: "hex"})
	st := stroke(s, s.Begin(), slices.Index(doings, "up"))
	st = stroke(s, st, slices.Index(doings, "right"))
	if st = stroke(s, st, slices.Index(doings, "down")); st.Typing.Codes != "0F" {
		t.Errorf("%q", st.Typing.Codes)
	}
}

// TestStick edits by a stick of two readings: 0 to 675 of 1023, as a converter at 5 V reads
// what is fed with 3.3 V. Its levels come from the least, the middle and the greatest reading;
// within the hysteresis it neither lets go nor counts anew.
func TestStick(t *testing.T) {
	if got := Reading(3300, 5000, 10); got != 675 { // 1023 · 3.3/5 = 675.2
		t.Errorf("3.3 V of 5 V reads %d", got)
	}
	// common practice: read-outs of 0 to 710 with levels at 175 and 530
	if at := StickOf(0, 352, 710); at != (Stick{Low: 176, High: 531, Hysteresis: 35}) {
		t.Errorf("0, 352, 710: %+v", at)
	}
	at := StickOf(0, 337, 675)
	m := bench.NewModule("m", "")
	m.Screens[0].Fields = []field.Field{{Name: "Level", Kind: field.Number, Width: 3, Range: field.Range{Max: 9}}}
	m.Show = bench.Show{
		Scenes: []bench.Scene{{ID: "edit", Screen: "screen-1", Edit: bench.Edit{Field: "Level", Keys: []bench.Key{
			{Does: "up", Input: "y", On: "below", Level: float64(at.Low)}, {Does: "down", Input: "y", On: "above", Level: float64(at.High)},
		}}}},
		Inputs: []bench.Input{{ID: "y", Kind: "signal", Signal: bench.Sensor{Start: 337, Hysteresis: float64(at.Hysteresis)}}},
	}
	s, err := Of(&m)
	if err != nil {
		t.Fatal(err)
	}
	st := s.Begin()
	for i, c := range []struct{ reading, want int64 }{
		{337, 0}, {169, 0}, {167, 1}, {180, 1}, {160, 1}, {250, 1}, {0, 2}, {337, 2}, {675, 1}, {500, 1}, {510, 1}, {337, 1}, {600, 0}, {337, 0}, {675, 0},
	} {
		st = s.Take(st, Event{At: int64(i) * 10, Input: 0, Value: c.reading})
		if st.Typing.Units != c.want {
			t.Errorf("at reading %d of step %d: %d, want %d", c.reading, i, st.Typing.Units, c.want)
		}
	}
	// held for three seconds: at once, after 500 ms, then each 150 ms, after eight each 50 ms
	m.Screens[0].Fields[0].Range.Max, m.Screens[0].Fields[0].Width = 999, 3
	m.Screens[0].Fields[0].Digits = field.Digits{}
	s, err = Of(&m)
	if err != nil {
		t.Fatal(err)
	}
	st = s.Take(s.Begin(), Event{At: 1000, Input: 0, Value: 0})
	st.Typing.Units, st.Typing.Place = 1, 0
	for _, c := range []struct{ at, want int64 }{{1499, 1}, {1500, 2}, {1649, 2}, {1650, 3}, {2549, 8}, {2550, 9}, {2599, 9}, {2600, 10}, {4000, 38}} {
		if st = s.Until(st, c.at); st.Typing.Units != c.want {
			t.Errorf("at %d ms: %d, want %d", c.at, st.Typing.Units, c.want)
		}
	}
}

// TestRefusals: what cannot be edited is said, with what would be right.
func TestRefusals(t *testing.T) {
	for _, c := range []struct {
		change func(m *bench.Module)
		says   string
	}{
		{func(m *bench.Module) { m.Show.Scenes[0].Edit.Field = "Alarms" }, "no field “Alarms”"},
		{func(m *bench.Module) { m.Screens[0].Fields[0].Look.Align = "left" }, "expected a number that stands right"},
		{func(m *bench.Module) { m.Screens[0].Fields[0].Kind = field.Bar }, "expected a number, a text"},
		{func(m *bench.Module) { m.Show.Scenes[0].Edit.Keys[0].Input = "clock" }, "expected a button, or a level"},
		{func(m *bench.Module) {
			m.Screens[0].Fields[0].Kind, m.Show.Scenes[0].Edit.Takes, m.Show.Scenes[0].Edit.List = field.Free, "list", "aЖ"
		}, "not in the module's ROM"},
		{func(m *bench.Module) { m.Show.Scenes[0].Ends = []bench.End{{On: "accept", Input: "clock", Next: "a"}} }, "expected neither a time nor an input"},
		{func(m *bench.Module) {
			m.Show.Scenes[0].Edit, m.Show.Scenes[0].Ends = bench.Edit{}, []bench.End{{On: "accept", Next: "a"}}
		}, "nothing is edited"},
		{func(m *bench.Module) { m.Show.Scenes[0].Effect = bench.Effect{Kind: "walk", Text: "~"} }, "lies where it moves"},
		{func(m *bench.Module) { m.Show.Scenes[0].Effect = bench.Effect{Kind: "walk", Row: 1} }, "expected 1 to 16"},
		{func(m *bench.Module) { m.Show.Scenes[0].Effect = bench.Effect{Kind: "scroll", Row: 1} }, "row 2 is empty"},
		{func(m *bench.Module) { m.Show.Scenes[0].Effect = bench.Effect{Kind: "scroll", Row: 2} }, "not on the glass"},
		{func(m *bench.Module) { m.Show.Scenes[0].Effect = bench.Effect{Kind: "slots", Glyphs: []int{1}} }, "expected two or more"},
		{func(m *bench.Module) { m.Show.Inputs[1].Serial.Reset = "clock" }, "expected a button"},
		{func(m *bench.Module) { m.Show.Feeds = []bench.Feed{{Field: "Alarm", Input: "radio", Peak: true}} }, "has no meter"},
	} {
		m := bench.NewModule("m", "")
		m.Screens[0].Fields = []field.Field{{Name: "Alarm", Kind: field.Number, Width: 3, Range: field.Range{Max: 9}}}
		m.Show = bench.Show{
			Scenes: []bench.Scene{{ID: "a", Screen: "screen-1", Edit: bench.Edit{Field: "Alarm", Keys: []bench.Key{{Does: "up", Input: "key"}}}}},
			Inputs: []bench.Input{{ID: "clock", Kind: "timer"}, {ID: "radio", Kind: "serial"}, {ID: "key", Kind: "button"}},
		}
		c.change(&m)
		if _, err := Of(&m); err == nil || !strings.Contains(err.Error(), c.says) {
			t.Errorf("%v, want %q", err, c.says)
		}
	}
}
