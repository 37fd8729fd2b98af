package eventcsv

import (
	"fmt"
	"reflect"
	"strings"
	"testing"
	"time"

	"slatebell/core/bench"
	"slatebell/core/bench/show"
)

var inputs = []bench.Input{{ID: "go", Kind: "button"}, {ID: "boats", Kind: "counter"}, {ID: "tide", Kind: "signal", Signal: bench.Sensor{Decimals: 2}}, {ID: "clock", Kind: "timer"}, {ID: "radio", Kind: "serial", Serial: bench.Serial{Baud: 2000}}}

func TestRead(t *testing.T) {
	got, err := Read(strings.NewReader("time_ms,input,value\r\n0,go,press\r\n# a line of words\r\n 30, go , release\r\n30,boats,-1\r\n1000,tide,3.25\r\n"), inputs)
	want := []show.Event{{At: 0, Input: 0, Value: 1}, {At: 30, Input: 0}, {At: 30, Input: 1, Value: -1}, {At: 1000, Input: 2, Value: 325}}
	if err != nil || !reflect.DeepEqual(got, want) {
		t.Errorf("%+v, %v", got, err)
	}
	for text, says := range map[string]string{
		"1,go":            "line 1: 2 values; expected time_ms,input,value",
		"x,go,1":          `line 1: time "x"`,
		"-1,go,1":         "whole milliseconds from 0 on",
		"0,none,1":        "expected one of go, boats, tide, clock, radio",
		"0,go,2":          "expected press or release",
		"0,boats,1.5":     "whole steps",
		"0,tide,high":     `value "high"; expected a number`,
		"0,clock,1":       `"clock" is a timer`,
		"5,go,1\n4,go,0":  "line 2: 4 ms comes after 5 ms",
		"0,go,\"1":        "extraneous or missing",
		"0,tide,NaN":      "expected a number",
		"9999999999,go,1": "whole milliseconds",
		`0,radio,\q`:      `"\\q" is no escape`,
		`0,radio,\x4`:     "expected \\n, \\r, \\f, \\t, \\\\ or \\xHH",
	} {
		if _, err := Read(strings.NewReader(text), inputs); err == nil || !strings.Contains(err.Error(), says) {
			t.Errorf("%q: %v, want %q", text, err, says)
		}
	}
}

// TestSerial spreads a text over the times at which its characters are there: ten bits each
// (a start bit, eight bits, a stop bit: common practice). What begins while another text still
// comes follows it; other events fall between.
func TestSerial(t *testing.T) {
	got, err := Read(strings.NewReader("0,radio,\"A,\\x42\"\n6,go,1\n7,radio,\\n\n"), inputs)
	var said []string
	for _, e := range got {
		said = append(said, fmt.Sprintf("%v %d=%d", e.Moment(), e.Input, e.Value))
	}
	if want := "5ms 4=65,6ms 0=1,10ms 4=44,15ms 4=66,20ms 4=10"; err != nil || strings.Join(said, ",") != want {
		t.Errorf("%v, %v; want %s", said, err, want)
	}
	every := make([]byte, 256)
	for i := range every {
		every[i] = byte(i)
	}
	if back, err := Unescape(Escape(every)); err != nil || string(back) != string(every) {
		t.Errorf("all bytes, escaped, are read as % X (%v)", back, err)
	}
	usual := []bench.Input{{ID: "radio", Kind: "serial"}}
	for baud, want := range map[int]time.Duration{0: 10 * time.Second / 9600, 9600: 1041666 * time.Nanosecond, 115200: 86805 * time.Nanosecond} {
		usual[0].Serial.Baud = baud
		got, err := Read(strings.NewReader("1000,radio,é"), usual)
		if err != nil || len(got) != 2 || got[1].Moment()-got[0].Moment() != want || got[0].Value != 0xC3 {
			t.Errorf("%d baud: %+v, %v", baud, got, err)
		}
	}
}

// FuzzRead reads any text: what is read is in order and names inputs that are there; its rows
// read back as they are written.
func FuzzRead(f *testing.F) {
	f.Add("time_ms,input,value\n0,go,press\n10,tide,-1e3\n")
	f.Add("0,radio,one\\n\n0,radio,two\n1,go,1")
	f.Add("0,boats,+1\n\"0\",\"go\",0\n#x\n")
	f.Add("0,radio,+")        // is written so that no spreadsheet takes it for a formula
	f.Add("0,radio,\\\\\x00") // an escape in front of what is not printed
	f.Fuzz(func(t *testing.T, text string) {
		events, err := Read(strings.NewReader(text), inputs)
		if err != nil {
			return
		}
		rows, err := ReadRows(strings.NewReader(text), inputs)
		if err != nil {
			t.Fatal(err)
		}
		var written strings.Builder
		if err := Write(&written, rows, inputs); err != nil {
			t.Fatal(err)
		}
		again, err := ReadRows(strings.NewReader(written.String()), inputs)
		for _, rows := range [][]Row{rows, again} {
			for i := range rows { // the same characters, whichever way they are written
				said, _ := Unescape(rows[i].Text)
				rows[i].Text = string(said)
			}
		}
		if err != nil || !reflect.DeepEqual(again, rows) && !strings.Contains(text, "\r") { // a CR in a quoted text is lost to its line end
			t.Errorf("%q is written as %q: %v, %v", text, written.String(), again, err)
		}
		for i, e := range events {
			if e.Input < 0 || e.Input >= len(inputs) || e.At < 0 || i > 0 && e.At < events[i-1].At {
				t.Errorf("%q: event %d is %+v", text, i, e)
			}
		}
	})
}
