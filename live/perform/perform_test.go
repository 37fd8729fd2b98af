package perform

import (
	"bytes"
	"context"
	"slices"
	"strings"
	"testing"
	"time"

	"slatebell/core/bench"
	"slatebell/core/ship/firmware"
	"slatebell/core/ship/play"
	"slatebell/formats/eventcsv"
	"slatebell/live/conduct"
	"slatebell/live/session"
	"slatebell/live/standin"
)

// jetty is a bench whose show changes by a button on D2 and a knob on A0.
func jetty() bench.Bench {
	b := bench.New("jetty")
	b.Host.Part = "ATmega328P"
	m := &b.Modules[0]
	m.Link.Kind, m.Link.Outputs.Address = "backpack", 0x27
	m.Screens = []bench.Screen{{ID: "calm", Rows: []string{"Calm"}}, {ID: "blow", Rows: []string{"It blows"}}, {ID: "high", Rows: []string{"High water"}}}
	m.Show = bench.Show{
		Start: "calm",
		Scenes: []bench.Scene{
			{ID: "calm", Screen: "calm", Ends: []bench.End{{Input: "rope", Next: "blow"}, {Input: "tide", On: "above", Level: 800, Next: "high"}}},
			{ID: "blow", Screen: "blow", Ends: []bench.End{{Input: "rope", Next: "calm"}}},
			{ID: "high", Screen: "high", Ends: []bench.End{{Input: "tide", On: "below", Level: 700, Next: "calm"}}},
		},
		Inputs: []bench.Input{{ID: "rope", Kind: "button", Pin: "D2"}, {ID: "tide", Kind: "signal", Pin: "A0"}, {ID: "radio", Kind: "serial"}},
	}
	return b
}

// A button and a knob at the pins of a host play a show on its glass. What happened, written as events, read and played, shows the
// same in the same order.
func TestShow(t *testing.T) {
	b := jetty()
	host, err := standin.New(&b)
	if err != nil {
		t.Fatal(err)
	}
	board := b.Host.Board()
	rope, _ := board.Number("D2")
	tide, _ := board.Number("A0")
	host.Touch(byte(rope), true) // held high
	c, err := conduct.New(&b, host.Open, session.Options{})
	if err != nil {
		t.Fatal(err)
	}
	ctx, stop := context.WithCancel(t.Context())
	go c.Run(ctx)
	s, err := New(&b, 0)
	if err != nil {
		t.Fatal(err)
	}
	if got := s.Unheard(); len(got) != 1 || got[0] != "radio" {
		t.Errorf("not heard: %v", got)
	}
	go s.Run(ctx, c, 0, func(err error) { t.Log(err) })
	waits := func(text string) {
		t.Helper()
		for end := time.Now().Add(10 * time.Second); ; time.Sleep(2 * time.Millisecond) {
			g := host.Glass(0)
			shown := ""
			for _, cell := range g.Cells {
				shown += string(rune(cell.Code))
			}
			if len(shown) >= len(text) && shown[:len(text)] == text {
				return
			}
			if time.Now().After(end) {
				t.Fatalf("it shows %q; expected %q (%+v)", shown, text, c.State())
			}
		}
	}
	press := func() {
		host.Touch(byte(rope), false)
		time.Sleep(80 * time.Millisecond)
		host.Touch(byte(rope), true)
	}
	waits("Calm")
	press()
	waits("It blows")
	time.Sleep(80 * time.Millisecond)
	press()
	waits("Calm")
	host.Turn(byte(tide), 900)
	waits("High water")
	host.Turn(byte(tide), 300)
	waits("Calm")
	if err := s.Press(0, 1); err != nil {
		t.Error(err)
	}
	if err := s.Press(0, 0); err != nil {
		t.Error(err)
	}
	waits("It blows")
	if s.Press(2, 1) == nil || s.Press(9, 1) == nil || s.Say(0, "x") == nil || s.Say(2, `\q`) == nil {
		t.Error("a serial line and an input that is not there are pressed, a button and half an escape are said")
	}
	if err := s.Say(2, `Squall\n`); err != nil {
		t.Error(err)
	}
	if s.Scene() != 1 {
		t.Errorf("scene %d", s.Scene())
	}
	stop()

	var file bytes.Buffer
	if err := eventcsv.Write(&file, s.Events(), b.Modules[0].Show.Inputs); err != nil {
		t.Fatal(err)
	}
	events, err := eventcsv.Read(&file, b.Modules[0].Show.Inputs)
	if err != nil {
		t.Fatal(err)
	}
	im, err := firmware.New(&b, 0)
	if err != nil {
		t.Fatal(err)
	}
	played, err := play.Play(&im.Modules[0], events, events[len(events)-1].At+1000)
	if err != nil {
		t.Fatal(err)
	}
	var scenes []int
	for _, e := range played.Scenes {
		scenes = append(scenes, e.Scene)
	}
	if want := []int{0, 1, 0, 2, 0, 1}; !slices.Equal(scenes, want) {
		t.Errorf("played again the scenes are %v; expected %v", scenes, want)
	}
}

// Each kind of input that can stand at a pin is heard there: an encoder's notches one by one, the buttons of a ladder, a reading against the
// converter's own reference, a serial line but for what came before the show. A session that was begun anew makes no event.
func TestListen(t *testing.T) {
	b := bench.New("quay")
	b.Host.Part = "ATmega2560"
	m := &b.Modules[0]
	m.Link.Kind, m.Link.Outputs.Address = "backpack", 0x27
	m.Screens[0].Rows = []string{"Quay"}
	m.Show = bench.Show{Start: "quay", Scenes: []bench.Scene{{ID: "quay", Screen: m.Screens[0].ID}}, Inputs: []bench.Input{
		{ID: "wheel", Kind: "counter", Pin: "D22", PinB: "D23"},
		{ID: "ebb", Kind: "button", Pin: "A1", Button: bench.Button{Ladder: true}}, {ID: "flow", Kind: "button", Pin: "A1", Button: bench.Button{Ladder: true}},
		{ID: "level", Kind: "signal", Pin: "A2", Signal: bench.Sensor{ReferenceMV: 2560}},
		{ID: "buoy", Kind: "serial", Pin: "D19"}, {ID: "desk", Kind: "serial", Pin: "D0"},
	}}
	host, err := standin.New(&b)
	if err != nil {
		t.Fatal(err)
	}
	line, err := host.Open(t.Context())
	if err != nil {
		t.Fatal(err)
	}
	on, err := session.Begin(t.Context(), line, session.Options{})
	if err != nil {
		t.Fatal(err)
	}
	defer on.Close()
	s, err := New(&b, 0)
	if err != nil {
		t.Fatal(err)
	}
	if got := s.Unheard(); !slices.Equal(got, []string{"desk"}) {
		t.Errorf("not heard: %v; the line to the computer alone cannot be", got)
	}
	at := int64(0)
	look := func() {
		t.Helper()
		at += 10
		got, err := on.Do(t.Context(), s.Ask(), nil)
		if err == nil {
			err = s.Hear(got, at)
		}
		if err != nil {
			t.Fatal(err)
		}
		s.Until(at)
	}
	board := b.Host.Board()
	pin := func(label string) byte { n, _ := board.Number(label); return byte(n) }
	notch := func(first, second string) {
		for _, high := range []bool{false, true} {
			host.Touch(pin(first), high)
			host.Touch(pin(second), high)
		}
	}
	im, err := firmware.New(&b, 0)
	if err != nil {
		t.Fatal(err)
	}
	within := func(input int) uint16 {
		r := im.Modules[0].Joints[input].Rung
		return uint16(r.From+r.To) / 2
	}
	host.Touch(pin("D22"), true)
	host.Touch(pin("D23"), true)
	host.Turn(pin("A1"), 1023) // none is pressed
	host.Turn(pin("A2"), 511)  // of 1023 against 5 V: 2.4976 V, against 2.56 V 998
	host.Say(1, "old")
	look()
	host.Say(1, "Eb")
	look()
	host.Say(1, "b\n")
	notch("D22", "D23")
	notch("D22", "D23")
	look()
	notch("D23", "D22")
	host.Turn(pin("A1"), within(1))
	look()
	host.Turn(pin("A1"), within(2))
	look()
	host.Turn(pin("A1"), 1023)
	if err := on.Again(t.Context()); err != nil {
		t.Fatal(err)
	}
	s.forget()
	look()
	var out bytes.Buffer
	if err := eventcsv.Write(&out, s.Events(), m.Show.Inputs); err != nil {
		t.Fatal(err)
	}
	want := []string{"time_ms,input,value", "10,level,998", "20,buoy,Eb", "30,wheel,1", "30,wheel,1", `30,buoy,b\n`, "40,wheel,-1", "40,ebb,1", "50,ebb,0", "50,flow,1", "60,flow,0"}
	if got := strings.Split(strings.TrimSpace(strings.ReplaceAll(out.String(), "\r", "")), "\n"); !slices.Equal(got, want) {
		t.Errorf("it hears\n%s\nexpected\n%s", strings.Join(got, "\n"), strings.Join(want, "\n"))
	}
}
