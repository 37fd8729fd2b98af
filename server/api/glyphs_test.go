package api

import (
	"bytes"
	"encoding/base64"
	"encoding/json"
	"image"
	"image/png"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"

	"slatebell/core/bench"
	"slatebell/server/api/glyphs"
	"slatebell/server/api/screens"
)

// answerOf posts a request and returns the status and text of what comes back.
func answerOf(t *testing.T, path string, body any) (int, string) {
	t.Helper()
	data, err := json.Marshal(body)
	if err != nil {
		t.Fatal(err)
	}
	w := httptest.NewRecorder()
	r := httptest.NewRequest(http.MethodPost, "http://127.0.0.1"+path, bytes.NewReader(data))
	r.RemoteAddr = "127.0.0.1:40000"
	r.Header.Set("Content-Type", "application/json")
	New(Options{}).ServeHTTP(w, r)
	return w.Code, w.Body.String()
}

// TestGlyphRequests asks for what glyphs are read, drawn, cut and made, and for
// what cannot be: each answer is what core gives, each refusal says why.
func TestGlyphRequests(t *testing.T) {
	display := bench.NewModule("gate", "Gate").Display
	white := image.NewGray(image.Rect(0, 0, 20, 16))
	for i := range white.Pix {
		white.Pix[i] = 255
	}
	var picture bytes.Buffer
	if err := png.Encode(&picture, white); err != nil {
		t.Fatal(err)
	}
	block := glyphs.CellBlock{Cols: 1, Rows: 1}
	eight := []int{0b10000, 0, 0, 0, 0, 0, 0, 0b00001}
	for name, c := range map[string]struct {
		path   string
		body   any
		status int
		want   string
	}{
		"read":          {"/read", glyphs.ReadGlyphsRequest{Text: "bell = [4,14,14,14,31,0,4,0]"}, 200, `"glyphs":[{"name":"bell","rows":[4,14,14,14,31,0,4,0]}],"as":"numbers in decimal"`},
		"unreadable":    {"/read", glyphs.ReadGlyphsRequest{Text: "1,\n x"}, 200, `"error":{"line":2,"col":2,"what":"\"x\" is no row of dots`},
		"a file":        {"/read", glyphs.ReadGlyphsRequest{Data: base64.StdEncoding.EncodeToString([]byte("P1\n5 8\n" + strings.Repeat("1", 40)))}, 200, `"rows":[31,31,31,31,31,31,31,31]`},
		"no base64":     {"/read", glyphs.ReadGlyphsRequest{Data: "*"}, 422, "illegal base64"},
		"written":       {"/write", map[string]any{"to": "hex", "glyphs": []any{map[string]any{"name": "a", "rows": eight}}}, 200, `"text":"10 00 00 00 00 00 00 01\n"`},
		"wrong rows":    {"/write", map[string]any{"to": "hex", "glyphs": []any{map[string]any{"name": "bell", "rows": []int{1, 2, 3, 4, 5, 6, 7, 99}}}}, 422, "bell: row 8 is 99; expected 0–31"},
		"mirrored":      {"/draw", glyphs.DrawRequest{Block: block, Cells: []glyphs.Dots{{Rows: eight}}, Do: "mirror"}, 200, `[1,0,0,0,0,0,0,16]`},
		"flipped":       {"/draw", glyphs.DrawRequest{Block: block, Cells: []glyphs.Dots{{Rows: eight}}, Do: "flip"}, 200, `[1,0,0,0,0,0,0,16]`},
		"inverted":      {"/draw", glyphs.DrawRequest{Block: block, Cells: []glyphs.Dots{{Rows: eight}}, Do: "invert"}, 200, `[15,31,31,31,31,31,31,30]`},
		"shifted":       {"/draw", glyphs.DrawRequest{Block: block, Cells: []glyphs.Dots{{Rows: eight}}, Do: "shift", DX: 1, DY: 1}, 200, `[16,8,0,0,0,0,0,0]`},
		"symmetric":     {"/draw", glyphs.DrawRequest{Block: block, Cells: []glyphs.Dots{{Rows: eight}}, Do: "symmetric"}, 200, `[17,0,0,0,0,0,0,0]`},
		"cells missing": {"/draw", glyphs.DrawRequest{Block: glyphs.CellBlock{Cols: 2, Rows: 1}, Cells: []glyphs.Dots{{Rows: eight}}, Do: "mirror"}, 422, "expected as many as the block has"},
		"cut":           {"/cut", glyphs.CutRequest{Display: display, Block: glyphs.CellBlock{Cols: 4, Rows: 2}, Data: base64.StdEncoding.EncodeToString(picture.Bytes()), Slots: 8}, 200, `"glyphs":[],"distinct":0,"changed":0,"least":true`},
		"no picture":    {"/cut", glyphs.CutRequest{Display: display, Block: block, Data: "AAAA", Slots: 8}, 422, "neither a PNG nor a PBM"},
		"bar":           {"/bar", glyphs.BarRequest{Display: display, Cells: 2, Dots: 1, High: 10, Values: []float64{5}}, 200, `"needs":4,"fits":true,"cells":[{"glyph":-1,"code":255`},
		"codes":         {"/bar", glyphs.BarRequest{Display: display, Cells: 2, Dots: 5, High: 2, Values: []float64{}}, 200, `{"step":1,"value":1,"codes":[255,32]}`},
		"no scale":      {"/bar", glyphs.BarRequest{Display: display, Cells: 2, Dots: 1, Low: 3, High: 3, Values: []float64{}}, 422, "expected a highest value above the lowest"},
		"too long":      {"/bar", glyphs.BarRequest{Display: display, Cells: 2, Dots: 7, High: 3, Values: []float64{}}, 422, "7 dots a step; expected 1–5"},
		"digits":        {"/digits", glyphs.DigitsRequest{Display: display, Cols: 3, Rows: 4, Style: "slab"}, 200, `"changed":0`},
		"odd digits":    {"/digits", glyphs.DigitsRequest{Display: display, Cols: 3, Rows: 2, Style: "slab"}, 422, "expected 2 × 2, 2 × 3 or 3 × 4"},
		"no module":     {"/loading", screens.LoadingRequest{Bench: bench.New("x"), Module: 3}, 422, "module 3; this bench has modules 0–0"},
		"loading":       {"/loading", screens.LoadingRequest{Bench: bench.New("x")}, 200, `"needs":0`},
	} {
		status, body := answerOf(t, "/api/glyphs"+c.path, c.body)
		if status != c.status || !strings.Contains(body, c.want) {
			t.Errorf("%s: %d, %.900s; want %d, %s", name, status, body, c.status, c.want)
		}
	}
}
