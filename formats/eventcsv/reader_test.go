package eventcsv

import (
	"reflect"
	"strings"
	"testing"

	"slatebell/core/bench"
	"slatebell/core/show"
)

var inputs = []bench.Input{{ID: "go", Kind: "button"}, {ID: "boats", Kind: "counter"}, {ID: "tide", Kind: "signal"}, {ID: "clock", Kind: "timer"}}

func TestRead(t *testing.T) {
	got, err := Read(strings.NewReader("time_ms,input,value\r\n0,go,press\r\n# a line of words\r\n 30, go , release\r\n30,boats,-1\r\n1000,tide,3.25\r\n"), inputs)
	want := []show.Event{{At: 0, Input: 0, Value: 1}, {At: 30, Input: 0}, {At: 30, Input: 1, Value: -1}, {At: 1000, Input: 2, Value: 3.25}}
	if err != nil || !reflect.DeepEqual(got, want) {
		t.Errorf("%+v, %v", got, err)
	}
	for text, says := range map[string]string{
		"1,go":            "line 1: 2 values; expected time_ms,input,value",
		"x,go,1":          `line 1: time "x"`,
		"-1,go,1":         "whole milliseconds from 0 on",
		"0,none,1":        "expected one of go, boats, tide, clock",
		"0,go,2":          "expected press or release",
		"0,boats,1.5":     "whole steps",
		"0,tide,high":     `value "high"; expected a number`,
		"0,clock,1":       `"clock" is a timer`,
		"5,go,1\n4,go,0":  "line 2: 4 ms comes after 5 ms",
		"0,go,\"1":        "extraneous or missing",
		"0,tide,NaN":      "expected a number",
		"9999999999,go,1": "whole milliseconds",
	} {
		if _, err := Read(strings.NewReader(text), inputs); err == nil || !strings.Contains(err.Error(), says) {
			t.Errorf("%q: %v, want %q", text, err, says)
		}
	}
}

// FuzzRead reads any text: what is read is in order and names inputs that are there.
func FuzzRead(f *testing.F) {
	f.Add("time_ms,input,value\n0,go,press\n10,tide,-1e3\n")
	f.Add("0,boats,+1\n\"0\",\"go\",0\n#x\n")
	f.Fuzz(func(t *testing.T, text string) {
		events, err := Read(strings.NewReader(text), inputs)
		if err != nil {
			return
		}
		for i, e := range events {
			if e.Input < 0 || e.Input >= len(inputs) || e.At < 0 || i > 0 && e.At < events[i-1].At {
				t.Errorf("%q: event %d is %+v", text, i, e)
			}
		}
	})
}
