package i2ctext

import (
	"io"
	"strings"
	"testing"

	"slatebell/core/part/charrom"
	"slatebell/core/prove/capture"
	"slatebell/core/prove/capture/capturetest"
	"slatebell/core/prove/replay"
)

// bytesOf are the bytes of a program for a backpack that shows a text: those that an expander at 0x27 takes.
const (
	expander = "0C 08 3C 38 3C 38 3C 38 2C 28 2C 28 8C 88 0C 08 CC C8 0C 08 1C 18 0C 08 6C 68" // 8-bit three times, 4-bit, two lines, on, clear, entry
	text     = "59 5D 59 4D 49 6D 69 9D 99 6D 69 4D 49 6D 69 5D 59"                            // Tide
)

// listed writes the bytes as lists of several kinds.
func listed() map[string]string {
	all := strings.Fields(expander + " " + text)
	var decoder, table, packets strings.Builder
	decoder.WriteString("i2c-1: Start\ni2c-1: Write\ni2c-1: Address write: 27\ni2c-1: ACK\n")
	table.WriteString("Time [s],Address,Data,Read/Write,ACK/NAK\n")
	packets.WriteString("packet;address;data;direction\n")
	for i, b := range all {
		decoder.WriteString("i2c-1: 1\ni2c-1: Data write: " + b + "\ni2c-1: ACK\n")
		table.WriteString("0.5,0x27,0x" + b + ",Write,ACK\n")
		packets.WriteString([]string{"0;", "1;"}[i/20%2] + "27h;0x" + b + ";write\n")
	}
	decoder.WriteString("i2c-1: Stop\n")
	return map[string]string{
		"what a decoder prints": decoder.String(), "a table": table.String(), "a table with packets": packets.String(),
		"transactions":           "# of the gate\n27 W: " + expander + "\r\n\r\nW 0x27: " + strings.ReplaceAll(text, " ", ", ") + "\n",
		"between START and STOP": "[4E " + expander + "]\n[4E " + text + "]\n",
		"with acknowledges":      "S 4E A " + strings.ReplaceAll(expander+" "+text, " ", " A ") + " A P\n",
	}
}

// TestRead reads each kind of list, finds the expander, and shows the text.
func TestRead(t *testing.T) {
	for name, list := range listed() {
		if !Looks([]byte(list[:min(len(list), 2000)])) {
			t.Errorf("%s: it is not taken for a list", name)
		}
		r, err := replay.Open(func() (capture.Source, error) { return NewReader(strings.NewReader(list)), nil })
		if err == nil {
			err = r.Find(nil)
		}
		if err != nil {
			t.Errorf("%s: %v", name, err)
			continue
		}
		played, err := r.Play(capturetest.Module(t, "16x2"), -1, replay.Watch{})
		if err != nil {
			t.Fatal(err)
		}
		g := played.Glass()
		shown := g.Text(romOf(t))
		if strings.TrimSpace(shown[0]) != "Tide" || r.Found[0].Address != 0x27 || r.Broken != nil {
			t.Errorf("%s: %q, 0x%02X, %v", name, shown, r.Found[0].Address, r.Broken)
		}
		for _, f := range played.Findings() {
			if f.Code != "capture.untimed" {
				t.Errorf("%s: %s: %s", name, f.Code, f.What)
			}
		}
	}
}

func romOf(t *testing.T) *charrom.ROM { t.Helper(); m := capturetest.Module(t, "16x2"); return m.ROM }

// TestRefused says with the line what was wrong.
func TestRefused(t *testing.T) {
	for list, want := range map[string]string{
		"27 W: 0C 0G\n":                     `line 1: "0G"; expected a byte`,
		"i2c-1: Data write: 0C\nnonsense\n": `line 2: "nonsense"; expected what a decoder prints`,
		"i2c-1: Address write: 9F\n":        "line 1: address 0x9F; expected one of seven bits",
		"address,data\n0x27,0x0C\n0x27\n":   "line 3: 1 values; expected 2",
		"address,data\n0x27,0x1FF\n":        `line 2: data "0x1FF"; expected a byte`,
		"[4E 0C 08]\n[4E zz]\n":             `line 2: "zz"; expected a byte`,
		"address,data\nabove,0x0C\n":        `line 2: address "above"; expected a number`,
	} {
		r := NewReader(strings.NewReader(list))
		var err error
		for err == nil {
			_, err = r.Next()
		}
		if err == io.EOF || !strings.Contains(err.Error(), want) {
			t.Errorf("%q: %v; expected %s", list, err, want)
		}
	}
	for _, other := range []string{"time,E,RS\n0,1,0\n", "0 1 0 1\n1 1 0 0\n", "$timescale 1 ns $end"} {
		if Looks([]byte(other)) {
			t.Errorf("%q is taken for a list of bytes", other)
		}
	}
}

// FuzzRead reads anything: it ends, times do not go back, and levels change.
func FuzzRead(f *testing.F) {
	for _, list := range listed() {
		f.Add(list)
	}
	f.Fuzz(func(t *testing.T, list string) {
		r := NewReader(strings.NewReader(list))
		last := capture.Change{At: -1, Levels: 4}
		for {
			c, err := r.Next()
			if err != nil {
				return
			}
			if c.At < last.At || c.Levels == last.Levels || c.Levels > 3 {
				t.Fatalf("after %+v comes %+v", last, c)
			}
			last = c
		}
	})
}
