package api

import (
	"bytes"
	"encoding/base64"
	"encoding/json"
	"fmt"
	"image"
	"image/png"
	"math/rand/v2"
	"net/http"
	"net/http/httptest"
	"os"
	"slices"
	"strings"
	"testing"

	"github.com/gin-gonic/gin"

	"slatebell/core/bench"
	"slatebell/core/prove/chart"
	"slatebell/core/prove/photo/phototest"
	"slatebell/core/prove/testbed"
	"slatebell/core/text/glyph"
	"slatebell/core/text/screen"
	"slatebell/internal/lawful"
	"slatebell/internal/soak"
	"slatebell/server/api/code"
	"slatebell/server/api/door"
	"slatebell/server/api/live"
	"slatebell/server/api/recordings"
	"slatebell/server/api/wiring"
	"slatebell/server/store"
)

// computing are the operations that are asked about every bench: all that take a body, but
// for those that only store it.
func computing(m *lawful.Maker, api map[string]any) (out []*computed) {
	for _, path := range sortedKeys(api["paths"].(map[string]any)) {
		post, _ := api["paths"].(map[string]any)[path].(map[string]any)["post"].(map[string]any)
		body, _ := post["requestBody"].(map[string]any)
		if body == nil || strings.Contains(path, "{") || path == "/api/benches/import" || path == recordings.Path || path == door.JoinPath || path == "/api/room" || strings.HasPrefix(path, live.Path) {
			continue // a random port is no lawful one: TestRealTable asks what concerns them, TestRecordings for files
		}
		schema := body["content"].(map[string]any)["application/json"].(map[string]any)["schema"].(map[string]any)
		ref, _ := schema["$ref"].(string)
		out = append(out, &computed{path: path, kind: ref[strings.LastIndex(ref, "/")+1:], schema: m.At(ref)})
	}
	return out
}

type computed struct {
	path, kind string
	schema     map[string]any
	answers    map[int]int
}

func sortedKeys[T any](m map[string]T) []string {
	var out []string
	for k := range m {
		out = append(out, k)
	}
	slices.Sort(out)
	return out
}

// slow are operations that play thousands of faults: they are asked about some benches only.
var slow = []string{"/api/faults/catalogue", "/api/faults/find", "/api/practice", "/api/plays/judge", code.BuildPath}

// TestLawfulBenches asks every operation that computes about random lawful benches. None may
// fail, and each must answer some of what it is asked.
func TestLawfulBenches(t *testing.T) {
	db, err := store.Open(t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	defer db.Close()
	doc, err := OpenAPI()
	if err != nil {
		t.Fatal(err)
	}
	var api map[string]any
	if err := json.Unmarshal(doc, &api); err != nil {
		t.Fatal(err)
	}
	var trace bytes.Buffer
	gin.DefaultErrorWriter = &trace
	defer func() { gin.DefaultErrorWriter = os.Stderr }()
	s := New(Options{Store: db})
	failed := map[string]bool{}
	fails := func(b *bench.Bench, n uint64, path string, status int, text string) {
		at := where(trace.String())
		trace.Reset()
		if key := at + path; at == "" && failed[key] || failed[at] {
			return
		}
		failed[path], failed[at] = true, true
		doc, _ := json.Marshal(b)
		t.Errorf("bench %d: %s answers %d: %s %s\n%s", n, path, status, text, at, doc)
	}
	first := soak.Seed(1)
	var operations []*computed
	for round := range soak.Rounds(24) {
		n := first + uint64(round)
		r := rand.New(rand.NewPCG(n, 1))
		m, err := lawful.NewMaker(r, doc)
		if err != nil {
			t.Fatal(err)
		}
		if operations == nil {
			operations = computing(m, api)
		}
		b, err := lawful.Bench(r)
		if err != nil {
			t.Fatal(err)
		}
		for _, c := range operations {
			if slices.Contains(slow, c.path) && n%8 != 0 {
				continue
			}
			status, text := post(s, c.path, c.body(m, b))
			if c.answers == nil {
				c.answers = map[int]int{}
			}
			c.answers[status]++
			if status >= 500 {
				fails(b, n, c.path, status, text)
			}
		}
		record, err := db.Create(*b)
		if err != nil {
			t.Fatal(err)
		}
		for _, get := range []string{"", "/bench.json", "/findings", "/log", "/log.csv", "/log.md"} {
			path := fmt.Sprintf("/api/benches/%d%s", record.ID, get)
			if status, text := fetch(s, http.MethodGet, path, nil); status >= 400 {
				fails(b, n, path, status, text)
			}
		}
		for i := range b.Modules {
			path := fmt.Sprintf("/api/benches/%d/modules/%s/card", record.ID, b.Modules[i].ID)
			if status, text := fetch(s, http.MethodGet, path, nil); status >= 500 {
				fails(b, n, path, status, text)
			}
		}
	}
	for _, c := range operations {
		if c.answers[200]+c.answers[201]+c.answers[204] == 0 && !testing.Short() { // a short run does not come to all
			t.Errorf("%s answered nothing that it was asked: %v", c.path, c.answers)
		}
	}
}

// where names the place of a panic that was noted, below the runtime's own.
func where(trace string) string {
	lines := strings.Split(trace, "\n")
	for i, line := range lines {
		if strings.HasPrefix(line, "/") && strings.Contains(line, "/core/") {
			return strings.Join(lines[3:4], "") + " at " + line + strings.Join(lines[i+1:i+2], "")
		}
	}
	return ""
}

// body makes a request about a bench.
func (c *computed) body(m *lawful.Maker, b *bench.Bench) any {
	r := m.Rand
	mi := r.IntN(len(b.Modules))
	module := &b.Modules[mi]
	si := r.IntN(len(module.Screens))
	setup, _ := testbed.Of(b, testbed.At{Module: mi, Screen: si})
	switch c.kind {
	case "Bench", "Archive":
		return b
	case "WiringRequest":
		return wiring.WiringRequest{Bench: *b, Shown: &setup}
	case "Module":
		return module
	case "Setup":
		if r.IntN(2) == 0 {
			setup.Scroll = screen.Scroll{By: []string{"shift", "feed", "rewrite"}[r.IntN(3)], Row: r.IntN(2)}
		}
		return setup
	case "Display":
		return module.Display
	}
	out := m.Value(c.schema).(map[string]any)
	for name, v := range map[string]any{"bench": b, "module": mi, "screen": si, "modules": []int{mi}, "setup": setup, "display": module.Display, "inputs": module.Show.Inputs} {
		if _, asked := c.schema["properties"].(map[string]any)[name]; asked {
			out[name] = v
		}
	}
	if c.kind == "RunRequest" {
		for name, v := range plainly(setup).(map[string]any) {
			out[name] = v
		}
		delete(out, "fault")
		delete(out, "live")
	}
	if c.path == "/api/screens/transition" {
		out["from"], out["to"] = setup, setup
	}
	for _, more := range seeds[c.path] {
		if r.IntN(2) == 0 {
			for name, v := range more {
				out[name] = v
			}
		}
	}
	return out
}

// seeds are what some operations are asked, where chance would hardly hit on it.
var seeds = map[string][]map[string]any{
	"/api/mapping":            {{"text": "RS=0,RW=1,E=2,BL=3,D4=4,D5=5,D6=6,D7=7"}},
	"/api/benches/begin":      {{"geometry": "16x2", "host": "RP2040"}, {"geometry": "20x4", "count": 12}},
	"/api/plan/pins":          {{"text": "12,11,5,4,3,2"}, {"text": "…,…,…,…,…,…,…,…,…,…"}, {"text": "2,3,4"}},
	"/api/plan/like":          {{"count": 5}},
	"/api/live":               {{"text": "clear"}, {"text": "'Tide'"}},
	"/api/glyphs/write":       {{"glyphs": []map[string]any{{"name": "oar", "rows": []int{1, 2, 4, 8, 16, 31, 0, 0}}}}},
	"/api/glyphs/edits":       {{"do": "add", "drawings": []map[string]any{{"name": "oar", "rows": []int{1, 2, 4, 8, 16, 31, 0, 0}}}}, {"do": "rename", "name": "boat", "picture": "hull"}},
	"/api/glyphs/draw":        {{"block": map[string]int{"cols": 1, "rows": 1}, "cells": []map[string]any{{"rows": []int{1, 2, 4, 8, 16, 31, 0, 0}}}}},
	"/api/glyphs/cut":         {{"block": map[string]int{"cols": 2, "rows": 1}, "data": base64.StdEncoding.EncodeToString([]byte("P1 10 8 " + strings.Repeat("0110111010", 8)))}},
	"/api/photographs":        {{"data": base64.StdEncoding.EncodeToString(plainPicture()), "corners": []map[string]int{{"x": 10, "y": 10}, {"x": 790, "y": 10}, {"x": 790, "y": 190}, {"x": 10, "y": 190}}}},
	"/api/charts/photographs": {chartPicture()},
	"/api/charts":             {{"shown": []any{}}},
	"/api/practice":           {{"level": 1}},
	"/api/plays/edits":        {{"do": "turn"}, {"do": "add-input", "name": "Bell", "kind": "button"}},
	"/api/screens/field":      {{"text": "Tide 3.2 m", "from": 5, "to": 10}},
	"/api/screens/search":     {{"text": "tide"}},
	"/api/plan/printout":      {{"text": "found 0x27 and 0x3F"}},
	"/api/events":             {{"text": "time_ms,input,value\n0,bell,1\n"}},
	"/api/plays":              {{"events": []int{}}},
	"/api/plays/judge":        {{"events": []int{}}},
	"/api/faults/find":        {{"typed": []string{}, "class": "row-of-blocks"}},
}

// plainPicture is a photograph with nothing on it.
func plainPicture() []byte {
	var out bytes.Buffer
	png.Encode(&out, image.NewGray(image.Rect(0, 0, 800, 200)))
	return out.Bytes()
}

// chartPicture is a photograph of a screen that shows the ROM of a module of 8×2.
func chartPicture() map[string]any {
	d := bench.NewModule("quay", "").Display
	d.Geometry = "8x2"
	m, _ := d.Module()
	marks, codes := chart.Marks(&m), chart.Screens(&m)[4]
	p := phototest.Some(rand.New(rand.NewPCG(26, 1)), 8, 2, 8, 16, 10, func(cell, row, col int) bool {
		if g, ok := marks.In(int(codes[cell])); ok {
			return g.Pattern().Lit(row, col)
		}
		return glyph.Of(m.ROM.Dots(codes[cell])).Lit(row, col)
	}).Take()
	var out bytes.Buffer
	png.Encode(&out, &image.Gray{Pix: p.Pix, Stride: p.W, Rect: image.Rect(0, 0, p.W, p.H)})
	return map[string]any{"display": d, "data": base64.StdEncoding.EncodeToString(out.Bytes())}
}

func plainly(v any) any {
	out, _ := lawful.Plain(v)
	return out
}

func post(s http.Handler, path string, body any) (int, string) {
	return fetch(s, http.MethodPost, path, body)
}

// fetch asks the handler itself.
func fetch(s http.Handler, method, path string, body any) (int, string) {
	data, _ := json.Marshal(body)
	req := httptest.NewRequest(method, "http://localhost"+path, strings.NewReader(string(data)))
	req.RemoteAddr = "127.0.0.1:40000"
	req.Header.Set("Content-Type", "application/json")
	req.Header.Set("Origin", "http://localhost") // as this machine's own page
	req.RemoteAddr = "127.0.0.1:50000"
	w := httptest.NewRecorder()
	s.ServeHTTP(w, req)
	return w.Code, w.Body.String()
}
