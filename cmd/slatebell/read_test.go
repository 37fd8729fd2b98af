package main

import (
	"bytes"
	"encoding/json"
	"fmt"
	"image"
	"image/jpeg"
	"math/rand/v2"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"slatebell/core/part/charrom"
	"slatebell/core/prove/photo/phototest"
	"slatebell/core/text/glyph"
)

// photographs writes a photograph of rows, all of one length, on a glass with ROM A00, and returns its name and where its cells are.
func photographs(t *testing.T, seed uint64, rows ...string) (name string, p *phototest.Picture) {
	t.Helper()
	text, cols := strings.Join(rows, ""), len(rows[0])
	rom := charrom.A00()
	p = phototest.Some(rand.New(rand.NewPCG(28, seed)), cols, len(rows), 8, 26, 20, func(cell, row, col int) bool {
		return glyph.Of(rom.Dots(text[cell])).Lit(row, col)
	}).Take()
	var file bytes.Buffer
	jpeg.Encode(&file, &image.Gray{Pix: p.Pix, Stride: p.W, Rect: image.Rect(0, 0, p.W, p.H)}, &jpeg.Options{Quality: 80})
	name = filepath.Join(t.TempDir(), "glass.jpg")
	if err := os.WriteFile(name, file.Bytes(), 0o644); err != nil {
		t.Fatal(err)
	}
	return name, p
}

// TestReadPhoto reads photographs: as a module of flags, with corners, of a size that nobody named, and as a module of a bench whose screen
// is on the glass, or is not.
func TestReadPhoto(t *testing.T) {
	name, p := photographs(t, 1, "Tide 3.2 m \x7E in ", "4 boats \xB1 out    ")
	rows := "Tide 3.2 m → in\n4 boats ｱ out\n"
	var at []string
	for _, c := range p.Corners {
		at = append(at, fmt.Sprintf("%.0f,%.0f", c.X, c.Y))
	}
	for _, args := range [][]string{{"--geometry", "16x2"}, {"--geometry", "16x2", "--corners", strings.Join(at, ",")}, {}} {
		if out, errs, code := try("", append([]string{"read", name}, args...)...); out != rows || code != 0 {
			t.Errorf("read %v prints %q and %q, code %d; expected %q", args, out, errs, code, rows)
		}
	}
	out, _, _ := try("", "read", name, "--geometry", "16x2", "--format", "json")
	var got photographed
	if err := json.Unmarshal([]byte(out), &got); err != nil || len(got.Cells) != 32 || got.Cells[0].Code != 'T' || got.Cells[0].Certainty < 0.9 || got.Geometry != "16x2" {
		t.Errorf("as JSON: %v, %.300s", err, out)
	}
	for i, c := range got.Corners {
		if x, y := c[0]-p.Corners[i].X, c[1]-p.Corners[i].Y; x*x+y*y > 25 {
			t.Errorf("corner %d is found at %v; expected %v", i, c, p.Corners[i])
		}
	}

	bench := func(text string) string {
		b, _, _ := try("", "bench", "--demo")
		var doc map[string]any
		if err := json.Unmarshal([]byte(b), &doc); err != nil {
			t.Fatal(err)
		}
		for _, m := range doc["modules"].([]any) {
			if m := m.(map[string]any); m["id"] == "gate" {
				m["screens"] = []any{map[string]any{"id": "tide", "rows": []string{text, "4 boats ｱ out"}}}
				delete(m, "show")
				delete(m, "loading")
			}
		}
		data, _ := json.Marshal(doc)
		file := filepath.Join(t.TempDir(), "bench.json")
		os.WriteFile(file, data, 0o644)
		return file
	}
	if out, errs, code := try("", "read", name, bench("Tide 3.2 m → in"), "--module", "gate"); out != rows || strings.Contains(errs, "photo.differs") || code != 0 {
		t.Errorf("as the bench has it: %q, %q, code %d", out, errs, code)
	}
	if out, errs, code := try("", "read", bench("Tide 3.7 m → in"), name, "--module", "gate"); out != rows || !strings.Contains(errs, "error photo.differs: Row 1 of the photographed glass differs from the screen in 1 cell, first in column 8") || code != 1 {
		t.Errorf("otherwise than the bench has it: %q, %q, code %d", out, errs, code)
	}
}

// TestReadRefused refuses what cannot be read, and says what would be right.
func TestReadRefused(t *testing.T) {
	name, _ := photographs(t, 2, "Oars  ", "Wind 4")
	text := filepath.Join(t.TempDir(), "notes.txt")
	os.WriteFile(text, []byte("Oars"), 0o644)
	other := filepath.Join(t.TempDir(), "table.jpg")
	var file bytes.Buffer
	jpeg.Encode(&file, image.NewGray(image.Rect(0, 0, 300, 200)), nil)
	os.WriteFile(other, file.Bytes(), 0o644)
	for _, c := range []struct {
		args string
		code int
		says string
	}{
		{"read", 2, "no photograph is given"},
		{"read nowhere.jpg", 2, "expected a photograph"},
		{"read " + text, 2, "neither a photograph"},
		{"read " + name + " --corners 1,2,3", 2, "expected 8"},
		{"read " + name + " --corners 1,2,3,4,5,6,7,x", 2, "expected a number of pixels"},
		{"read " + name + " --geometry 8x2 --corners 0,0,400,0,300,0,100,0", 1, "the corners lie on a line"},
		{"read " + name + " --module gate", 2, "expected BENCH.json"},
		{"read " + other + " --geometry 16x2", 1, "no glass found"},
	} {
		if out, errs, code := try("", strings.Fields(c.args)...); code != c.code || !strings.Contains(errs, c.says) || out != "" {
			t.Errorf("%s gives %q, %q, code %d; expected code %d and %q", c.args, out, errs, code, c.code, c.says)
		}
	}
}
