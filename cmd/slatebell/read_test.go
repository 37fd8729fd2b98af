package main

import (
	"bytes"
	"encoding/csv"
	"encoding/json"
	"fmt"
	"image"
	"image/jpeg"
	"math/rand/v2"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"testing"

	"slatebell/core/bench"
	"slatebell/core/part/charrom"
	"slatebell/core/prove/chart"
	"slatebell/core/prove/photo/phototest"
	"slatebell/core/text/glyph"
)

// photographs writes a photograph of rows, all of one length, on a glass with ROM A00, and returns its name and where its cells are.
func photographs(t *testing.T, seed uint64, rows ...string) (name string, p *phototest.Picture) {
	t.Helper()
	text := strings.Join(rows, "")
	return photographOf(t, seed, len(rows[0]), len(rows), func(cell int) glyph.Pattern { return glyph.Of(charrom.A00().Dots(text[cell])) })
}

// photographOf writes a photograph of what cells show.
func photographOf(t *testing.T, seed uint64, cols, rows int, shows func(cell int) glyph.Pattern) (name string, p *phototest.Picture) {
	t.Helper()
	p = phototest.Some(rand.New(rand.NewPCG(28, seed)), cols, rows, 8, 26, 20, func(cell, row, col int) bool { return shows(cell).Lit(row, col) }).Take()
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

// TestReadChart exports the program that shows the chart of a ROM, photographs its screens by the list of cells beside it, as a module with
// ROM A02 shows them, and reads the chart. A screen that is missing is named; the chart is a ROM for other commands.
func TestReadChart(t *testing.T) {
	dir := t.TempDir()
	doc := filepath.Join(dir, "bench.json")
	out, _, _ := try("", "bench", "--demo")
	os.WriteFile(doc, []byte(out), 0o644)
	out, errs, code := try("", "export", doc, "--module", "hall", "--as", "chart-screens", "--to", filepath.Join(dir, "chart"))
	if code != 0 || !strings.Contains(out, "main.c\n") || !strings.Contains(out, "hall-chart.csv\n") {
		t.Fatalf("export gives %q, %q, code %d", out, errs, code)
	}
	file, err := os.Open(filepath.Join(dir, "chart", "hall-chart.csv"))
	if err != nil {
		t.Fatal(err)
	}
	defer file.Close()
	list, err := csv.NewReader(file).ReadAll()
	if err != nil {
		t.Fatal(err)
	}
	var screens [4][80]byte
	for _, r := range list[1:] {
		var n [4]int
		for i := range n {
			n[i], _ = strconv.Atoi(r[i])
		}
		screens[n[0]][n[1]*20+n[2]] = byte(n[3])
	}
	d, rom := bench.NewModule("hall", "").Display, charrom.A02()
	d.Geometry = "20x4"
	m, err := d.Module()
	if err != nil {
		t.Fatal(err)
	}
	marks := chart.Marks(&m)
	var names []string
	for k := range screens {
		name, _ := photographOf(t, 60+uint64(k), 20, 4, func(cell int) glyph.Pattern {
			code := screens[k][cell]
			if slot, ok := rom.Slot(code); ok {
				g, _ := marks.In(slot)
				return g.Pattern()
			}
			return glyph.Of(rom.Dots(code))
		})
		names = append([]string{name}, names...)
	}
	out, errs, code = try("", append([]string{"read", "--chart", "--geometry", "20x4"}, names...)...)
	got, err := charrom.Parse(strings.NewReader(out))
	if err != nil || code != 0 || !strings.Contains(errs, "It is ROM A02") {
		t.Fatalf("%v, %.200q, %q, code %d", err, out, errs, code)
	}
	for c := range 256 {
		if code := byte(c); got.Dots(code) != rom.Dots(code) {
			t.Errorf("0x%02X: %v, expected %v", c, got.Dots(code), rom.Dots(code))
		}
	}
	if code, ok := got.Code('Ж'); !ok || rom.Dots(code) != got.Dots(code) {
		t.Errorf("Ж is 0x%02X (%v)", code, ok)
	}
	kept := filepath.Join(dir, "hall.chart")
	os.WriteFile(kept, []byte(out), 0o644)
	if _, errs, code := try("", "read", names[0], "--geometry", "20x4", "--rom", kept); code != 0 {
		t.Errorf("with the chart that was read: %q, code %d", errs, code)
	}
	out, errs, code = try("", append([]string{"read", doc, "--module", "hall", "--chart", "--format", "json"}, names[1:]...)...)
	var said chartRead
	if err := json.Unmarshal([]byte(out), &said); err != nil || code != 1 || !slices.Equal(said.Missing, []int{3}) || said.Screens != 4 || len(said.Photos) != 3 || *said.Photos[0].Screen != 2 || said.Like != "A02" || said.Chart == "" {
		t.Errorf("without the last screen: %v, %.300s, %q, code %d", err, out, errs, code)
	}
	text, _ := photographs(t, 3, "Oars  ", "Wind 4")
	for _, c := range []struct {
		args []string
		code int
		says string
	}{
		{[]string{"read", "--chart", text}, 2, "which size"},
		{[]string{"read", "--chart", "--geometry", "8x2", text}, 1, "no photograph shows a screen of the chart"},
	} {
		if out, errs, code := try("", c.args...); code != c.code || !strings.Contains(errs, c.says) || out != "" {
			t.Errorf("%v gives %q, %q, code %d; expected code %d and %q", c.args, out, errs, code, c.code, c.says)
		}
	}
}
