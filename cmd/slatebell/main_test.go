package main

import (
	"bytes"
	"encoding/csv"
	"encoding/json"
	"os"
	"strings"
	"testing"

	"github.com/santhosh-tekuri/jsonschema/v6"

	"slatebell/server/demo"
)

// try runs a command line.
func try(stdin string, args ...string) (out, errs string, code int) {
	var o, e bytes.Buffer
	code = run(args, stdio{strings.NewReader(stdin), &o, &e})
	return o.String(), e.String(), code
}

// TestRoundTrip pipes sequence into decode, on every link.
func TestRoundTrip(t *testing.T) {
	for _, link := range []string{"backpack", "parallel4", "parallel8", "shift"} {
		hex, errs, code := try("", "sequence", "--link", link, "--text", "Tide 3.2 m\nHigh 14:05\\xDF", "--format", "hex")
		if code != 0 {
			t.Fatalf("%s: exit %d, %s", link, code, errs)
		}
		want := "|Tide 3.2 m      |\n|High 14:05ﾟ     |\ndisplay on, cursor off, blink off; " + map[bool]string{true: "8", false: "4"}[link == "parallel8"] + "-bit, lines 2, font 5x8; DDRAM address 0x4B, counting up, autoshift off, shift 0\n"
		if out, errs, code := try(hex, "decode", "--link", link); out != want || code != 0 {
			t.Errorf("%s: exit %d, %s%s", link, code, out, errs)
		}
		loose := strings.ReplaceAll("0x"+strings.ReplaceAll(strings.ReplaceAll(strings.TrimSpace(hex), "\n", " "), " ", ", 0x"), "0x0x", "0x")
		if out, errs, _ := try(loose, "decode", "--link", link); out != want {
			t.Errorf("%s: with 0x and commas: %s%s", link, out, errs)
		}
		var doc struct{ Rows []string }
		out, _, _ := try(hex, "decode", "--link", link, "--format", "json")
		if err := json.Unmarshal([]byte(out), &doc); err != nil || len(doc.Rows) != 2 || doc.Rows[0] != "Tide 3.2 m      " {
			t.Errorf("%s: JSON %s, %v", link, out, err)
		}
	}
}

func TestSequenceCSV(t *testing.T) {
	out, _, code := try("", "sequence", "--geometry", "16x2", "--link", "backpack", "--address", "0x27", "--text", "A\nB", "--no-init")
	if code != 0 || !strings.HasSuffix(out, "\r\n") {
		t.Fatalf("exit %d, %q", code, out)
	}
	records, err := csv.NewReader(strings.NewReader(out)).ReadAll()
	if err != nil {
		t.Fatal(err)
	}
	if got := strings.Join(records[0], ","); got != "step,start_us,rs,value,wire,wait_us,meaning" {
		t.Errorf("header %s", got)
	}
	if len(records) != 1+2*17 {
		t.Errorf("%d steps; without initialisation both rows are written whole, 34", len(records)-1)
	}
	if got := strings.Join(records[2], "|"); got != "2|544|1|41|49 4D 49 1D 19|52.579|'A': row 1, column 1" {
		t.Errorf("second step %s", got)
	}
	if got := records[18][3] + " " + records[18][6]; got != "C0 DDRAM address 0x40: row 2, column 1" {
		t.Errorf("second row begins %s", got)
	}
	out, _, _ = try("", "sequence", "--link", "parallel4", "--text", "A")
	if records, err := csv.NewReader(strings.NewReader(out)).ReadAll(); err != nil || strings.Join(records[1][2:6], "|") != "|||40000" || records[2][4] != "3" || records[12][4] != "4 1" {
		t.Errorf("parallel: wait %v, wake %v, text %v, %v", records[1], records[2], records[12], err)
	}
}

func TestErrors(t *testing.T) {
	for _, c := range []struct {
		stdin string
		args  string
		code  int
		want  string
	}{
		{"", "sequence --text 12345678901234567", 3, "Row 1 is 1 character too long: “7” is not shown. Move “7” to row 2?"},
		{"", "sequence --text é", 3, "ROM A00 has no 'é' (U+00E9). Write 'e'?"},
		{"", "sequence --geometry 3x3", 2, "expected one of 8x1, 8x2"},
		{"", "sequence --address 0x50", 2, "0x20–0x27 (PCF8574) or 0x38–0x3F (PCF8574A)"},
		{"", "sequence --address x", 2, "address \"x\"; expected 0x20–0x27"},
		{"", "sequence --link smoke", 2, "expected backpack, parallel4, parallel8 or shift"},
		{"", "sequence --format xml", 2, "expected csv, hex, json or vcd"},
		{"", "sequence stray", 2, "unexpected argument \"stray\""},
		{"", "sequence --nope", 2, "slatebell sequence --help lists the flags"},
		{"", "polish", 2, "\"polish\" is no command"},
		{"4D 49\n1D, 1G 19", "decode", 2, "line 2, column 5: \"1G\" is not hexadecimal wire traffic; expected a byte of two hexadecimal digits"},
		{"µ 4D", "decode", 2, "line 1, column 1"},
		{"4D 491D", "decode", 2, "line 1, column 4: \"491D\""},
		{"", "sequence --mapping RS=0,E=1", 2, "D4 has no output"},
		{"", "sequence --mapping RS=9", 2, "expected LINE=OUTPUT"},
		{"", "sequence --osc 400", 2, "400 kHz; expected 190–350 kHz"},
		{"", "sequence --waits some", 2, "expected worst, typical or poll"},
		{"", "sequence --waits poll --link parallel4", 2, "only where R/W is wired"},
		{"", "sequence --speed 500", 2, "expected 1–400 kHz"},
		{"", "sequence --transactions all", 2, "expected byte, operation or screen"},
		{"", "sequence --brightness 60", 2, "expected 100, 75, 50 or 25"},
		{"", "sequence --geometry 12x3@00,40", 2, "2 row start addresses for 3 rows"},
		{"", "sequence --font 5x10", 2, "on one line only"},
		{"", "sequence --supply 12000", 2, "12000 mV; expected 2700–5500"},
		{"", "sequence --link parallel4 --pin-ns 2000000", 2, "expected 0–1 ms"},
		{"4D", "decode --format xml", 2, "expected text or json"},
	} {
		out, errs, code := try(c.stdin, strings.Fields(c.args)...)
		if code != c.code || !strings.Contains(errs, c.want) || out != "" {
			t.Errorf("slatebell %s: exit %d, standard output %q, standard error %q; want exit %d and %q", c.args, code, out, errs, c.code, c.want)
		}
	}
	if out, _, code := try("", "help"); code != 0 || !strings.Contains(out, "Exit codes: 0 done; 1 failed; 2 ") {
		t.Errorf("help: exit %d, %s", code, out)
	}
	if out, _, code := try("", "decode", "--help"); code != 0 || !strings.Contains(out, "-geometry") {
		t.Errorf("decode --help: exit %d, %s", code, out)
	}
}

// TestSlotsFromScripts checks that a screen may show glyphs that something else
// has loaded: the bytes are printed, with a warning beside them.
func TestSlotsFromScripts(t *testing.T) {
	out, errs, code := try("", "sequence", "--text", `\x03`, "--no-init", "--format", "hex")
	if code != 0 || !strings.Contains(out, "09 0D 09 3D 39") || !strings.Contains(errs, "warning: Row 1, column 1 shows slot 3") {
		t.Errorf("exit %d, %q, %q", code, out, errs)
	}
}

// TestDecodeFindings checks that traffic with its backlight bit left out once,
// RS raised together with E, and half a byte at its end is named so, beside a
// glass that is printed all the same.
func TestDecodeFindings(t *testing.T) {
	out, errs, code := try("08 2C 28 2C 28 8C 88 4D 49 0D 01", "decode")
	if code != 0 || !strings.HasPrefix(out, "|                |\n") {
		t.Errorf("exit %d, %s", code, out)
	}
	for _, want := range []string{"t_AS broken", "The backlight goes off"} {
		if !strings.Contains(errs, want) {
			t.Errorf("standard error %q, want %q in it", errs, want)
		}
	}
}

// compiled returns the schema in docs of a document, which must be the one that
// the program prints, compiled by a general-purpose validator.
func compiled(t *testing.T, document string) *jsonschema.Schema {
	t.Helper()
	text, _, _ := try("", "schema", "--of", document)
	kept, err := os.ReadFile("../../docs/" + document + ".schema.json")
	if err != nil || string(kept) != text {
		t.Errorf("docs/%s.schema.json is stale: run make generate (%v)", document, err)
	}
	schema, err := jsonschema.UnmarshalJSON(strings.NewReader(text))
	if err != nil {
		t.Fatal(err)
	}
	compiler := jsonschema.NewCompiler()
	if err := compiler.AddResource("document.json", schema); err != nil {
		t.Fatal(err)
	}
	out, err := compiler.Compile("document.json")
	if err != nil {
		t.Fatal(err)
	}
	return out
}

// validate holds a document against a schema, whole and with one key spoilt.
func validate(t *testing.T, schema *jsonschema.Schema, name, text, key string) {
	t.Helper()
	doc, err := jsonschema.UnmarshalJSON(strings.NewReader(text))
	if err != nil {
		t.Fatalf("%s: %v", name, err)
	}
	if err := schema.Validate(doc); err != nil {
		t.Errorf("%s: %v", name, err)
	}
	doc.(map[string]any)[key] = "none"
	if schema.Validate(doc) == nil {
		t.Errorf("%s: the schema takes anything for %s", name, key)
	}
}

// TestJSONSchemas checks what --format json prints on every link, and the demo's
// bench, against their schemas.
func TestJSONSchemas(t *testing.T) {
	program := compiled(t, "program")
	for _, link := range []string{"backpack", "parallel4", "parallel8", "shift"} {
		out, errs, code := try("", "sequence", "--link", link, "--text", "Tide", "--format", "json")
		if code != 0 {
			t.Fatalf("%s: exit %d, %s", link, code, errs)
		}
		validate(t, program, link, out, "steps")
	}
	bench, err := json.Marshal(demo.Bench())
	if err != nil {
		t.Fatal(err)
	}
	validate(t, compiled(t, "bench"), "the demo's bench", string(bench), "modules")
	if _, errs, code := try("", "schema", "--of", "boat"); code != 2 || !strings.Contains(errs, "expected bench or program") {
		t.Errorf("a schema of nothing: exit %d, %s", code, errs)
	}
}
