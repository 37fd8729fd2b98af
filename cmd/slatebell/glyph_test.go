package main

import (
	"encoding/json"
	"os"
	"path/filepath"
	"strings"
	"testing"
)

// TestGlyphConvert reads glyphs by their content and writes them in every form;
// from each form it comes back.
func TestGlyphConvert(t *testing.T) {
	const in = "byte bell[8] = { B00100, B01110, 0x0E, 14, 0b11111, 0, 4, 0 };"
	for to, want := range map[string]string{
		"hex":    "04 0E 0E 0E 1F 00 04 00\n",
		"bits":   "# bell\n0b00100\n0b01110\n0b01110\n0b01110\n0b11111\n0b00000\n0b00100\n0b00000\n",
		"c":      "static const uint8_t bell[8] = {0x04, 0x0E, 0x0E, 0x0E, 0x1F, 0x00, 0x04, 0x00};\n",
		"python": "bell = [\n    0b00100,\n",
		"bdf":    "STARTCHAR bell\n",
		"pbm":    "P1\n5 8\n0 0 1 0 0\n0 1 1 1 0\n",
		"json":   `"name": "bell"`,
	} {
		out, errs, code := try(in, "glyph", "convert", "--from", "-", "--to", to)
		if code != 0 || !strings.Contains(out, want) || errs != "" {
			t.Errorf("--to %s: exit %d, %s%s", to, code, out, errs)
		}
		file := filepath.Join(t.TempDir(), "glyphs")
		if err := os.WriteFile(file, []byte(out), 0o644); err != nil {
			t.Fatal(err)
		}
		if back, errs, code := try("", "glyph", "convert", "--from", file, "--to", "hex"); code != 0 || back != "04 0E 0E 0E 1F 00 04 00\n" {
			t.Errorf("from %s: exit %d, %s%s", to, code, back, errs)
		}
	}
	for args, want := range map[string]string{
		"glyph":                                  "expected convert or cut",
		"glyph convert --from -":                 "expected --from FILE (or -) and --to",
		"glyph convert --from - --to gif":        `"gif" is no form of glyphs`,
		"glyph convert --from none.bdf --to hex": "no such file",
		"glyph draw":                             `"draw" is no command; expected one of convert, cut`,
	} {
		if _, errs, code := try(in, strings.Fields(args)...); code != 2 || !strings.Contains(errs, want) {
			t.Errorf("%s: exit %d, %s", args, code, errs)
		}
	}
	if out, errs, code := try("4, 14,\n14, 0b012", "glyph", "convert", "--from", "-", "--to", "c"); code != 2 || out != "" || !strings.Contains(errs, `-:2:5: "0b012" is no row of dots`) {
		t.Errorf("an unreadable value: exit %d, %s%s", code, out, errs)
	}
}

// TestGlyphCut cuts a picture: slots, and a map of the cells.
func TestGlyphCut(t *testing.T) {
	// two cells that share a glyph, a blank one, and the letter A as ROM A00 draws it
	rows := []string{
		"1000110001000000111000000", "0101001010000001000100000", "0010000100000001000100000", "0101001010000001000100000",
		"1000110001000001111100000", "0000000000000001000100000", "0000000000000001000100000", "0000000000000000000000000",
	}
	text := "P1\n25 8\n" + strings.Join(rows, "\n") + "\n"
	file := filepath.Join(t.TempDir(), "a.pbm")
	if err := os.WriteFile(file, []byte(text), 0o644); err != nil {
		t.Fatal(err)
	}
	out, errs, code := try("", "glyph", "cut", "--cells", "5x1", file)
	if want := "slot 0  11 0A 04 0A 11 00 00 00\ncells\n00 00 20 41 20\nchanged 0 dots, the fewest\n"; code != 0 || out != want {
		t.Errorf("exit %d, %q%s, want %q", code, out, errs, want)
	}
	if out, _, _ := try(text, "glyph", "cut", "--cells", "5x1", "--rom", "none", "--slots", "1", "-"); !strings.Contains(out, "slot 0 ") || !strings.HasSuffix(out, "changed 18 dots, the fewest\n") {
		t.Errorf("one slot for two glyphs: %s", out)
	}
	out, _, code = try(text, "glyph", "cut", "--cells", "5x1", "--format", "json", "-")
	var doc struct {
		Slots []struct{ Slot int }
		Cells []int
		Cols  int
	}
	if err := json.Unmarshal([]byte(out), &doc); err != nil || code != 0 || len(doc.Slots) != 1 || doc.Cols != 5 || len(doc.Cells) != 5 || doc.Cells[3] != 'A' {
		t.Errorf("exit %d, %s, %v", code, out, err)
	}
	if out, errs, code := try("P1\n23 17\n"+strings.Repeat("1", 23*17), "glyph", "cut", "--cells", "4x2", "--gaps", "-"); code != 0 || out != "cells\nFF FF FF FF\nFF FF FF FF\nchanged 0 dots, the fewest\n" {
		t.Errorf("with gaps: exit %d, %s%s", code, out, errs)
	}
	for args, want := range map[string]string{
		"--cells 4 -":                         `--cells "4"; expected COLSxROWS`,
		"--cells 0x2 -":                       "a block of 0 × 2 cells",
		"--cells 4x2 --slots 9 -":             "--slots 9; expected 0–8",
		"--cells 4x2 --rom B7 -":              `--rom "B7"`,
		"--cells 4x2 --dither dots -":         `dither "dots"`,
		"--cells 4x2 --threshold 0 -":         "--threshold 0",
		"--cells 4x2 --font 6x8 -":            `--font "6x8"`,
		"--cells 4x2":                         "0 arguments; expected a picture",
		"--cells 4x2 none.png":                "no such file",
		"--cells 4x1 --font 5x10 --slots 5 -": "--slots 5; expected 0–4",
	} {
		if _, errs, code := try(text, append([]string{"glyph", "cut"}, strings.Fields(args)...)...); code != 2 || !strings.Contains(errs, want) {
			t.Errorf("%s: exit %d, %s", args, code, errs)
		}
	}
	if _, errs, code := try("P1\n5 8\n0102", "glyph", "cut", "--cells", "1x1", "-"); code != 2 || !strings.Contains(errs, "line 3: '2' is no dot") {
		t.Errorf("an unreadable picture: exit %d, %s", code, errs)
	}
}

// TestCheckLoading finds screens that cannot follow each other, and settles it by
// the remedies: first by letting slots change on the glass.
func TestCheckLoading(t *testing.T) {
	fresh, errs, code := try("", "bench", "--demo")
	if code != 0 {
		t.Fatal(errs)
	}
	// the hall's screens show slots by number, and seven glyphs of the library
	crowded := strings.Replace(fresh, `"Slip clear  3 afloat"`, `"\ue115\ue110\ue10f\ue10e"`, 1)
	crowded = strings.Replace(crowded, `"Last boat in  18:30"`, `"\ue101\ue102\ue103\ue104"`, 1)
	out, _, code := try(crowded, "check", "-")
	if code != 0 || !strings.Contains(out, "warning glyph.no-plan: “Slip” and “Welcome” show 11 glyphs between them, and there are 8 slots for them.") {
		t.Fatalf("exit %d, %s", code, out)
	}
	mended, errs, code := try(crowded, "check", "-", "--apply", "glyph.no-plan")
	if code != 0 || !strings.Contains(mended, `"onGlass": true`) {
		t.Fatalf("--apply: exit %d, %s", code, errs)
	}
	if out, _, _ := try(mended, "check", "-"); !strings.Contains(out, "warning glyph.reload-shown: Before “Welcome” slot ") || strings.Contains(out, "glyph.no-plan") {
		t.Errorf("with slots that may change: %s", out)
	}
}
