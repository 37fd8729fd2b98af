package api

import (
	"bufio"
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"net/http"
	"reflect"
	"runtime"
	"strings"
	"testing"
	"time"

	"slatebell/core/bench"
	"slatebell/core/prove/transition"
	"slatebell/server/api/facts"
	"slatebell/server/api/screens"
)

// many is a bench whose module has so many screens.
func many(n int) bench.Bench {
	b := bench.New("Tide tables")
	m := &b.Modules[0]
	m.Display.Geometry, m.Screens = "20x4", nil
	for i := range n {
		m.Screens = append(m.Screens, bench.Screen{ID: fmt.Sprint("screen-", i+1), Rows: []string{fmt.Sprintf("Tide %d.2 m rising", i), "High water 14:05", strings.Repeat("*", i%20)}})
	}
	return b
}

// matrix asks for the table of all changes.
func matrix(t *testing.T, ctx context.Context, url string, b bench.Bench) *http.Response {
	t.Helper()
	body, err := json.Marshal(screens.MatrixRequest{Bench: b})
	if err != nil {
		t.Fatal(err)
	}
	req, err := http.NewRequestWithContext(ctx, "POST", url+"/api/screens/matrix", bytes.NewReader(body))
	if err != nil {
		t.Fatal(err)
	}
	req.Header.Set("Content-Type", "application/json")
	res, err := http.DefaultClient.Do(req)
	if err != nil || res.StatusCode != 200 || res.Header.Get("Content-Type") != screens.JSONLines {
		t.Fatalf("%+v, %v", res, err)
	}
	return res
}

// TestMatrixStreams reads the table of all changes as it comes: it is the one that is worked out row after row; and whoever hangs up after a
// line ends the work.
func TestMatrixStreams(t *testing.T) {
	s := serve(t)
	b := many(40)
	table, err := transition.NewTable(&b, 0)
	if err != nil {
		t.Fatal(err)
	}
	res := matrix(t, t.Context(), s.URL, b)
	defer res.Body.Close()
	rows := map[int]bool{}
	lines := bufio.NewScanner(res.Body)
	lines.Buffer(nil, 1<<20)
	var last screens.MatrixLine
	for lines.Scan() {
		last = screens.MatrixLine{}
		if err := json.Unmarshal(lines.Bytes(), &last); err != nil || last.Of != 40 {
			t.Fatalf("%s: %v", lines.Bytes(), err)
		}
		if last.Row == nil {
			continue
		}
		rows[last.Row.From] = true
		want, err := table.Row(last.Row.From)
		if err != nil || len(last.Row.Changes) != len(want) {
			t.Fatalf("row %d has %d changes, want %d, %v", last.Row.From, len(last.Row.Changes), len(want), err)
		}
		for i, c := range want {
			if got := last.Row.Changes[i]; got.To != c.To || !reflect.DeepEqual(got.Cost, facts.CostOf(c.Cost)) || got.Left != c.Left {
				t.Errorf("%d to %d: %+v, want %+v", c.From, c.To, got, c)
			}
		}
	}
	if len(rows) != 40 || last.Judged == nil || len(last.Judged.Findings) == 0 {
		t.Errorf("%d rows, at last %+v", len(rows), last)
	}

	before := runtime.NumGoroutine()
	ctx, cancel := context.WithCancel(t.Context())
	res = matrix(t, ctx, s.URL, many(200)) // some ten seconds of work
	if line, err := bufio.NewReader(res.Body).ReadString('\n'); err != nil || !strings.Contains(line, `"of":200`) {
		t.Errorf("the first line is %.80q, %v", line, err)
	}
	cancel()
	res.Body.Close()
	for wait := time.Now().Add(10 * time.Second); runtime.NumGoroutine() > before; time.Sleep(20 * time.Millisecond) {
		if time.Now().After(wait) {
			t.Fatalf("%d goroutines work on, %d before", runtime.NumGoroutine(), before)
		}
	}
}
