package logbook

import (
	"slices"
	"strings"
	"testing"
	"time"
)

func at(minutes int) time.Time {
	return time.Date(2026, 5, 1, 9, 0, 0, 0, time.UTC).Add(time.Duration(minutes) * time.Minute)
}

var entries = []Entry{
	{ID: 1, At: at(0), Kind: Found, Module: "hall", Text: "D6 and D7", Causes: []string{"wire.swapped"}},
	{ID: 2, At: at(9), Kind: Note, Text: "Slip door open"},
	{ID: 3, At: at(5), Kind: Anew},
	{ID: 4, At: at(7), Kind: Found, Module: "gate", Text: "Address and wire", Causes: []string{"bus.address", "wire.open"}},
	{ID: 5, At: at(7), Kind: Found, Module: "gate", Text: "Address again", Causes: []string{"bus.address"}},
	{ID: 6, At: at(8), Kind: Practice, Text: "not counted", Causes: []string{"bus.address"}},
}

func TestCounts(t *testing.T) {
	got := Counts(entries)
	if len(got) != 2 || got["bus.address"] != 2 || got["wire.open"] != 1 {
		t.Errorf("counted %v", got)
	}
	if got := Counts(entries[:1]); got["wire.swapped"] != 1 {
		t.Errorf("without a new beginning: %v", got)
	}
}

func TestSelect(t *testing.T) {
	for _, c := range []struct {
		q    Query
		want []uint
	}{
		{Query{}, []uint{2, 6, 5, 4, 3, 1}},
		{Query{Kinds: []EntryKind{Found}}, []uint{5, 4, 1}},
		{Query{Kinds: []EntryKind{Note, Anew}}, []uint{2, 3}},
		{Query{Module: "gate"}, []uint{5, 4}},
		{Query{Text: "ADDRESS wire"}, []uint{4}},
		{Query{Text: "wire.swapped"}, []uint{1}},
		{Query{From: at(7), To: at(8)}, []uint{6, 5, 4}},
		{Query{Text: "tea"}, nil},
	} {
		var got []uint
		for _, e := range Select(entries, c.q) {
			got = append(got, e.ID)
		}
		if !slices.Equal(got, c.want) {
			t.Errorf("%+v: %v, want %v", c.q, got, c.want)
		}
	}
}

func TestValidate(t *testing.T) {
	for _, c := range []struct {
		e    Entry
		want string
	}{
		{Entry{At: at(0), Kind: Note, Text: "x"}, ""},
		{Entry{At: at(0), Kind: Anew}, ""},
		{Entry{At: at(0), Kind: Note, Pictures: []Picture{{Name: "a", Type: "image/png"}}}, ""},
		{Entry{At: at(0), Kind: "tea", Text: "x"}, `kind "tea"`},
		{Entry{Kind: Note, Text: "x"}, "without a time"},
		{Entry{At: at(0), Kind: Note, Text: " \n"}, "without text or picture"},
		{Entry{At: at(0), Kind: Note, Text: strings.Repeat("ü", MaxText)}, ""},
		{Entry{At: at(0), Kind: Note, Text: strings.Repeat("x", MaxText+1)}, "4001 characters"},
		{Entry{At: at(0), Kind: Note, Text: "x", Pictures: make([]Picture, 5)}, "5 pictures"},
		{Entry{At: at(0), Kind: Note, Text: "x", Pictures: []Picture{{Name: "a", Type: "image/gif"}}}, "expected image/png or image/jpeg"},
		{Entry{At: at(0), Kind: Note, Text: "x", Pictures: []Picture{{Name: "a", Type: "image/png", Data: make([]byte, MaxPicture+1)}}}, "bytes; expected"},
	} {
		err := c.e.Validate()
		if (err == nil) != (c.want == "") || err != nil && !strings.Contains(err.Error(), c.want) {
			t.Errorf("%.60v: %v, want %q", c.e, err, c.want)
		}
	}
}
