package logtext

import (
	"bytes"
	"encoding/csv"
	"slices"
	"strings"
	"testing"
	"time"

	"slatebell/core/bench/logbook"
)

var entries = []logbook.Entry{
	{At: time.Date(2026, 5, 2, 14, 5, 9, 0, time.UTC), Kind: logbook.Found, Module: "hall", Text: "D6, \"D7\"\nexchanged *", Causes: []string{"wire.swapped", "wire.open"}},
	{At: time.Date(2026, 5, 2, 8, 0, 0, 0, time.UTC), Kind: logbook.Measured, Text: "VO", Value: &logbook.Value{Name: "VO", Amount: 512.5, Unit: "mV"}},
	{At: time.Date(2026, 5, 1, 23, 59, 0, 0, time.UTC), Kind: logbook.Note, Text: "| [x] <b>", Pictures: []logbook.Picture{{Name: "a.png"}, {Name: "b_2.jpg"}}},
}

// TestCSV reads what was written back with encoding/csv (RFC 4180).
func TestCSV(t *testing.T) {
	var b bytes.Buffer
	if err := WriteCSV(&b, entries); err != nil {
		t.Fatal(err)
	}
	if !strings.HasPrefix(b.String(), "time,kind,module,text,causes,value,unit,pictures\r\n2026-05-02T14:05:09Z,found,") {
		t.Errorf("begins %.80q", b.String())
	}
	rows, err := csv.NewReader(&b).ReadAll()
	want := [][]string{Header,
		{"2026-05-02T14:05:09Z", "found", "hall", "D6, \"D7\"\nexchanged *", "wire.swapped wire.open", "", "", ""},
		{"2026-05-02T08:00:00Z", "measured", "", "VO", "", "512.5", "mV", ""},
		{"2026-05-01T23:59:00Z", "note", "", "| [x] <b>", "", "", "", "a.png b_2.jpg"}}
	if err != nil || !slices.EqualFunc(rows, want, slices.Equal[[]string]) {
		t.Errorf("read back %q, %v", rows, err)
	}
}

func TestMarkdown(t *testing.T) {
	var b bytes.Buffer
	if err := WriteMarkdown(&b, "Tide_board", entries); err != nil {
		t.Fatal(err)
	}
	want := `# Log of Tide\_board

## 2026-05-02

- **14:05** found (hall): D6, "D7" exchanged \* ` + "`wire.swapped`, `wire.open`" + `
- **08:00** measured: VO VO = 512.5 mV.

## 2026-05-01

- **23:59** note: \| \[x\] \<b\> [picture: a.png] [picture: b\_2.jpg]
`
	if b.String() != want {
		t.Errorf("wrote\n%s\nwant\n%s", b.String(), want)
	}
}
