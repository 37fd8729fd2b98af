package api

import (
	"bytes"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"slatebell/core/bench"
	"slatebell/core/prove/capture"
	"slatebell/core/prove/capture/capturetest"
	"slatebell/core/wire/link"
	"slatebell/formats/vcd"
	"slatebell/server/api/recordings"
)

// dropped hands a recording over, and returns its id.
func dropped(t *testing.T, s http.Handler, name string, data []byte, want int) string {
	t.Helper()
	req := httptest.NewRequest(http.MethodPost, "http://localhost"+recordings.Path+"?name="+name, bytes.NewReader(data))
	req.RemoteAddr = "127.0.0.1:40000"
	req.Header.Set("Content-Type", "application/octet-stream")
	w := httptest.NewRecorder()
	s.ServeHTTP(w, req)
	var held recordings.Held
	if err := json.Unmarshal(w.Body.Bytes(), &held); err != nil || w.Code != want {
		t.Fatalf("%s: %d %.300s", name, w.Code, w.Body)
	}
	return held.ID
}

// TestRecordings holds recordings: one that is larger than any other body, as many as are held and one more; reads them in more ways than are held; and
// refuses what cannot be read, or is not there. What lies on the disk is gone at the end.
func TestRecordings(t *testing.T) {
	tmp := t.TempDir()
	t.Setenv("TMPDIR", tmp)
	s := New(Options{})
	m := capturetest.Of20x4(link.Backpack)
	list, at := capturetest.Recorded(t, rand.New(rand.NewPCG(27, 20)), &m, capturetest.Demo, 0)
	once := list
	for len(list) < 700_000 {
		begin := list[len(list)-1].At + 30_000_000
		for _, c := range once {
			list = append(list, capture.Change{At: begin + c.At, Levels: c.Levels})
		}
	}
	recorded := capture.Memory{Names: capturetest.Names(), List: list}
	var large, small bytes.Buffer
	if err := vcd.WriteSource(&large, recorded.Source()); err != nil {
		t.Fatal(err)
	}
	recorded.List = once
	if err := vcd.WriteSource(&small, recorded.Source()); err != nil || large.Len() < maxBody/2 {
		t.Fatal(err, large.Len())
	}
	large.WriteString(strings.Repeat("\n", max(0, maxBody+1-large.Len()))) // larger than any other body
	id := dropped(t, s, "large.vcd", large.Bytes(), http.StatusCreated)
	b := bench.New("quay")
	b.Modules[0] = m
	read := func(id string, lines map[string]int, want int) (out recordings.Reading) {
		t.Helper()
		code, body := post(s, recordings.Path+"/"+id+"/reading", recordings.ReadingRequest{Bench: b, Lines: lines})
		if json.Unmarshal([]byte(body), &out); code != want {
			t.Fatalf("reading by %v: %d %.300s", lines, code, body)
		}
		return out
	}
	got := read(id, nil, http.StatusOK)
	if !got.Found || got.Link != "backpack" || got.Changes < 600_000 || got.Screens < 50 || len(got.Stood) > 200 || got.Channels[at[capture.SDA]].Line != "SDA" || len(got.Findings) != 1 || got.Findings[0].Code != "capture.cheaper" {
		t.Errorf("the large one: %+v", got.Findings)
	}
	get := func(reading, what string, want int) string {
		t.Helper()
		code, body := fetch(s, http.MethodGet, recordings.Path+"/"+reading+"/"+what, nil)
		if code != want {
			t.Errorf("%s: %d %.200s; expected %d", what, code, body, want)
		}
		return body
	}
	if body := get(got.ID, fmt.Sprintf("instant?at=%d", got.EndsNs), http.StatusOK); !strings.Contains(body, "High water   14:05") {
		t.Errorf("at its end: %.300s", body)
	}
	if body := get(got.ID, "search?for=text&text=Boats&from=0", http.StatusOK); !strings.Contains(body, "atNs") {
		t.Errorf("Boats: %s", body)
	}
	for what, says := range map[string]string{
		"search?for=byte&text=300&from=0": "300", "part?from=5&to=5": "before it begins", "search?for=edge&text=99": "no channel", "search?for=text": "no text",
	} {
		if body := get(got.ID, what, http.StatusUnprocessableEntity); !strings.Contains(body, says) {
			t.Errorf("%s: %s", what, body)
		}
	}
	get(id, "instant?at=0", http.StatusConflict) // a recording, no reading
	get("nobody", "instant?at=0", http.StatusNotFound)
	read(id, map[string]int{"SDA": 99}, http.StatusUnprocessableEntity)
	read(id, map[string]int{"VDD": 1}, http.StatusUnprocessableEntity)
	sda, scl := at[capture.SDA], at[capture.SCL]
	for _, lines := range []map[string]int{{"SDA": sda}, {"SCL": scl}, {"SDA": sda, "SCL": scl}} { // each is a reading of its own; the first gives way
		if next := read(id, lines, http.StatusOK); next.ID == got.ID || !next.Found || !next.Channels[at[capture.SCL]].Given && lines["SCL"] != 0 {
			t.Errorf("by %v: %s, %v", lines, next.ID, next.Found)
		}
	}
	get(got.ID, "instant?at=0", http.StatusConflict)
	if again := read(id, nil, http.StatusOK); again.ID != got.ID {
		t.Errorf("read the same way again: %s, before %s", again.ID, got.ID)
	}
	dropped(t, s, "nothing.vcd", []byte("$timescale 3 ns $end"), http.StatusUnprocessableEntity)
	for i := range 4 {
		dropped(t, s, fmt.Sprint(i), small.Bytes(), http.StatusCreated)
	}
	get(got.ID, "instant?at=0", http.StatusNotFound)
	s.Close()
	if left, _ := filepath.Glob(filepath.Join(tmp, "slatebell-*", "*")); len(left) > 0 {
		t.Errorf("left on the disk: %v", left)
	}
	if left, _ := os.ReadDir(tmp); len(left) > 0 {
		t.Errorf("left on the disk: %v", left)
	}
}
