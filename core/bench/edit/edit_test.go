package edit

import (
	"encoding/json"
	"math/rand/v2"
	"slices"
	"testing"

	"slatebell/core/bench"
	"slatebell/core/text/glyph"
)

// sample is a bench on which every edit has something to change.
func sample() bench.Bench {
	b := bench.New("Boathouse")
	b.Host = bench.Host{Part: "ATmega328P"}
	b.Bus.Multiplexer = &bench.Multiplexer{Part: "TCA9548A", Address: 0x70}
	b.Devices = []bench.Device{{ID: "clock", Part: "DS3231", Address: 0x68, PullUpOhm: 4700}}
	b.Parts = []bench.OwnPart{{ID: "winch", Pins: []bench.OwnPin{{Name: "EN", To: "D9"}}}}
	b.Modules = append(b.Modules, bench.NewModule("hall", "Hall"))
	b.Modules[1].Link = bench.Link{Kind: "parallel4", HostMV: 5000, Pins: map[string]string{"RS": "D2"}}
	b.Glyphs = glyph.Library{{Key: 4, Name: "wave", Rows: make([]int, 8)}, {Key: 7, Name: "tide", Rows: make([]int, 8)}}
	b.Modules[1].Glyphs = glyph.Bank{{Slot: 0, Name: "buoy", Rows: make([]int, 8)}}
	b.Modules[1].Show = bench.Show{
		Start: "ebb",
		Scenes: []bench.Scene{
			{ID: "ebb", Screen: "screen-1", Ends: []bench.End{{AfterMs: 100, Next: "flood"}, {Input: "turn", Next: "flood"}}},
			{ID: "flood", Screen: "screen-1", Ends: []bench.End{{Input: "turn", Next: "ebb"}, {AfterMs: 50, Next: "ebb"}}, Edit: bench.Edit{Field: "tide", Keys: []bench.Key{{Does: "left", Input: "turn"}, {Does: "right", Input: "on"}}}},
		},
		Inputs: []bench.Input{{ID: "turn", Kind: "button", Pin: "D3"}, {ID: "on", Kind: "button"}, {ID: "boats", Kind: "counter", Counter: bench.Counter{Up: "turn", Down: "on"}}, {ID: "radio", Kind: "serial", Serial: bench.Serial{Reset: "turn"}}},
		Feeds:  []bench.Feed{{Field: "tide", Input: "turn"}, {Field: "boats", Input: "boats"}},
	}
	return b
}

// all are edits of the sample: each way of every kind.
func all() []Edit {
	display := bench.NewModule("x", "x").Display
	display.Geometry = "20x4"
	return []Edit{
		SetHost{bench.Host{Part: "RP2040"}}, SetBus{bench.Bus{SDA: "GP0", PullUpOhm: 2200, Multiplexer: &bench.Multiplexer{Part: "TCA9544", Address: 0x70}}}, SetWiring{bench.Wiring{}}, AddModule{bench.NewModule("slip", "Slip")},
		SetDisplay{0, display}, SetFitting{0, bench.Fitting{Soldered: true}}, SetFitting{0, bench.Fitting{}}, SetLink{1, bench.Link{Kind: "shift"}},
		SetPins{0, map[string]string{"RS": "D5"}}, SetPins{1, map[string]string{"RS": "D5"}}, SetPins{1, nil}, SetHostVoltage{0, 3300}, SetHostVoltage{1, 0}, SetHostVoltage{1, 5000},
		SetAddress{Answerer{Backpack, 0}, 0x20}, SetAddress{Answerer{Device, 0}, 0x69}, SetAddress{Answerer{Multiplexer, 0}, 0x71},
		SetChannel{Answerer{Backpack, 0}, 3}, SetChannel{Answerer{Device, 0}, 1}, SetChannel{Answerer{Multiplexer, 0}, 1},
		RemovePullUps{Answerer{Backpack, 0}}, RemovePullUps{Answerer{Device, 0}}, RemovePullUps{Answerer{Multiplexer, 0}},
		SetPartPin{0, 0, "GND"}, SetPartPin{0, 0, ""}, SetShow{0, bench.Show{Start: "x"}}, SetShow{1, bench.Show{}},
		AddInputs{0, []bench.Input{{ID: "a", Kind: "button"}}}, AddInputs{1, []bench.Input{{ID: "a", Kind: "button"}}}, AddInputs{1, nil},
		SetInputPin{1, 0, First, "D7"}, SetInputPin{1, 0, First, ""}, SetInputPin{1, 1, First, "D8"}, SetInputPin{1, 2, Second, "D8"},
		SetInput{1, 0, bench.Input{ID: "turn", Kind: "button", Pull: "up"}},
		SetLibrary{glyph.Library{{Key: 1, Name: "oar", Rows: make([]int, 8)}}}, SetLibrary{append(slices.Clone(sample().Glyphs), glyph.Drawing{Key: 9, Name: "bell", Rows: make([]int, 8)})}, SetLibrary{},
		AddGlyph{0, glyph.Glyph{Slot: 3, Rows: make([]int, 8)}}, AddGlyph{1, glyph.Glyph{Slot: 1, Rows: make([]int, 8)}},
		AddScene{0, bench.Scene{ID: "one", Screen: "screen-1"}}, AddScene{1, bench.Scene{ID: "one", Screen: "screen-1"}},
		RemoveScene{1, "ebb"}, RemoveScene{1, "flood"}, RemoveScene{1, "none"}, RemoveInput{1, "turn"}, RemoveInput{1, "on"}, RemoveInput{1, "boats"},
	}
}

func text(t *testing.T, b bench.Bench) string {
	t.Helper()
	data, err := json.Marshal(b)
	if err != nil {
		t.Fatal(err)
	}
	return string(data)
}

// TestPatchIsApply holds each edit, and random lists of edits, against their patches: both lead to the same
// document, the bench that they were made for stays as it is, and a patch refuses another bench.
func TestPatchIsApply(t *testing.T) {
	hold := func(edits ...Edit) {
		t.Helper()
		b := sample()
		was := text(t, b)
		applied := Applied(&b, edits...)
		patched, err := Remedied(&b, Remedy(&b, "", edits...))
		if err != nil {
			t.Errorf("%#v: %v", edits, err)
			return
		}
		if got, want := text(t, applied), text(t, patched); got != want {
			t.Errorf("%#v:\n%s\nby its patch\n%s", edits, got, want)
		}
		if text(t, b) != was {
			t.Errorf("%#v changes the bench that it was made for", edits)
		}
	}
	edits := all()
	for _, e := range edits {
		hold(e)
	}
	r := rand.New(rand.NewPCG(3, 1))
	for range 300 {
		var list []Edit
		for range 2 + r.IntN(4) {
			if e := edits[r.IntN(len(edits))]; !(names(e) && slices.ContainsFunc(list, removes)) {
				list = append(list, e)
			}
		}
		hold(list...)
	}
	b := sample()
	other := sample()
	other.Modules[1].Link.Pins = map[string]string{"RS": "D12"}
	if _, err := Remedied(&other, Remedy(&b, "", SetPins{1, nil})); err == nil {
		t.Error("a patch for other pins is applied")
	}
}

// names reports whether an edit names an input by its index, which may be gone.
func names(e Edit) bool {
	switch e.(type) {
	case SetInput, SetInputPin:
		return true
	}
	return false
}

// removes reports whether an edit takes inputs away.
func removes(e Edit) bool {
	switch e := e.(type) {
	case RemoveInput:
		return true
	case SetShow:
		return len(e.Show.Inputs) == 0
	}
	return false
}

// TestCascades takes scenes and inputs away: nothing that stays names what is gone.
func TestCascades(t *testing.T) {
	b := sample()
	s := Applied(&b, RemoveScene{1, "ebb"}).Modules[1].Show
	if len(s.Scenes) != 1 || len(s.Scenes[0].Ends) != 0 || s.Start != "" {
		t.Errorf("without a scene: %+v", s)
	}
	s = Applied(&b, RemoveInput{1, "turn"}).Modules[1].Show
	if len(s.Inputs) != 3 || len(s.Feeds) != 1 || len(s.Scenes[0].Ends) != 1 || len(s.Scenes[1].Ends) != 1 || len(s.Scenes[1].Edit.Keys) != 1 || s.Inputs[1].Counter.Up != "" || s.Inputs[1].Counter.Down != "on" || s.Inputs[2].Serial.Reset != "" {
		t.Errorf("without an input: %+v", s)
	}
}

// TestNewID makes ids of names.
func TestNewID(t *testing.T) {
	taken := []string{"tide", "tide-2", "one"}
	for name, want := range map[string]string{"Wind": "wind", "Tide": "tide-3", "Über Nacht!": "uber-nacht", "": "one-2", "漢字": "one-2", "  a -- b ": "a-b", "ABCDEFGHIJKLMNOPQRSTUVWXYZABCDEFGHIJKLMN": "abcdefghijklmnopqrstuvwxyzabcdef"} {
		if got := NewID(name, func(id string) bool { return slices.Contains(taken, id) }); got != want {
			t.Errorf("%q is %q, want %q", name, got, want)
		}
	}
}
