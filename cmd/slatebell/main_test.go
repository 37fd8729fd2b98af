package main

import (
	"bytes"
	"encoding/csv"
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/santhosh-tekuri/jsonschema/v6"

	"slatebell/core/bench"
	"slatebell/core/finding"
	"slatebell/core/prove/transition"
	"slatebell/core/table/breadboard"
	"slatebell/core/text/field"
	"slatebell/core/text/screen"
	"slatebell/server/demo"
	"slatebell/server/store"
)

// try runs a command line.
func try(stdin string, args ...string) (out, errs string, code int) {
	var o, e bytes.Buffer
	code = execute(args, stdio{strings.NewReader(stdin), &o, &e})
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
	if records, err := csv.NewReader(strings.NewReader(out)).ReadAll(); err != nil || strings.Join(records[1][2:6], "|") != "|||40000" || records[2][4] != "3" || records[11][4] != "4 1" {
		t.Errorf("parallel: wait %v, wake %v, text %v, %v", records[1], records[2], records[11], err)
	}
}

// TestTransition checks the command's columns, its totals, and that what it prints,
// played after the screen that it begins with, leaves the screen that it ends with.
func TestTransition(t *testing.T) {
	for _, strategy := range []string{"cheapest", "clear", "pad", "changed"} {
		out, errs, code := try("", "transition", "--from", "Tide 3.2 m\nHigh 14:05", "--to", "Tide -0.4 m", "--strategy", strategy, "--totals", "--waits", "typical")
		records, err := csv.NewReader(strings.NewReader(out)).ReadAll()
		if code != 0 || err != nil || strings.Join(records[0], ",") != "step,start_us,rs,value,wire,wait_us,meaning" || records[1][1] != "0" {
			t.Fatalf("%s: exit %d, %v, %q, %s", strategy, code, err, out, errs)
		}
		words := 0
		for _, r := range records[1:] {
			words += len(strings.Fields(r[4]))
		}
		want := fmt.Sprintf("operations %d, words %d, time_us ", len(records)-1, words)
		if lines := strings.Split(strings.TrimSpace(errs), "\n"); !strings.HasPrefix(lines[len(lines)-1], want) {
			t.Errorf("%s: standard error %q, want %q last", strategy, errs, want)
		}
		first, _, _ := try("", "sequence", "--text", "Tide 3.2 m\nHigh 14:05", "--format", "hex")
		then, _, _ := try("", "transition", "--from", "Tide 3.2 m\nHigh 14:05", "--to", "Tide -0.4 m", "--strategy", strategy, "--format", "hex")
		glass, _, _ := try(first+then, "decode")
		if !strings.HasPrefix(glass, "|Tide -0.4 m     |\n|                |\n") {
			t.Errorf("%s leaves\n%s", strategy, glass)
		}
	}
	if out, errs, code := try("", "transition", "--from", "A", "--to", "A", "--totals"); code != 0 || errs != "operations 0, words 0, time_us 0\n" || strings.Count(out, "\n") != 1 {
		t.Errorf("nothing to do: exit %d, %q, %q", code, out, errs)
	}
	// the glass is moved over what stands beside it: one instruction, where it may
	if _, errs, _ := try("", "transition", "--geometry", "16x1", "--from", "ABCDEFGH", "--to", "BCDEFGH", "--shift", "--totals"); errs != "operations 1, words 5, time_us 596.579\n" {
		t.Errorf("a shift: %q", errs)
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
		{"", "transition --strategy over", 2, "strategy \"over\"; expected cheapest, clear, pad or changed"},
		{"", "transition --strategy fast", 2, "strategy \"fast\"; expected cheapest, clear, pad or changed"},
		{"", "transition --from 12345678901234567", 3, "--from: nothing was printed"},
		{"", "sequence --geometry 3x3", 2, "expected one of 8x1, 8x2"},
		{"", "sequence --address 0x50", 2, "0x20–0x27 (PCF8574) or 0x38–0x3F (PCF8574A)"},
		{"", "sequence --address x", 2, "address \"x\"; expected 0x20–0x27"},
		{"", "sequence --link smoke", 2, "expected backpack, parallel4, parallel8 or shift"},
		{"", "sequence --format xml", 2, "expected csv, hex, json, vcd, changes or session"},
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
		{"", "check", 2, "0 arguments; expected a bench document: slatebell check BENCH.json"},
		{"", "check missing.json", 2, "no such file or directory; expected a bench document"},
		{"{", "check -", 2, "-: line 1, column 2: the document ends before it is complete"},
		{`{"format": "slatebell-bench", "version": 9}`, "check -", 2, "/version: 9 was made by a newer Slate Bell"},
		{"", "bench --demo --stored 1", 1, "none of the others can be"},
		{"", "bench --build drum", 2, "is no build; expected one of words, seconds"},
		{"", "bench --build words --link rope", 2, "expected backpack, parallel4, parallel8 or shift"},
		{"", "bench --build words --geometry 8x1", 2, "is composed for 16x2, 20x2, 20x4"},
	} {
		out, errs, code := try(c.stdin, strings.Fields(c.args)...)
		if code != c.code || !strings.Contains(errs, c.want) || out != "" {
			t.Errorf("slatebell %s: exit %d, standard output %q, standard error %q; want exit %d and %q", c.args, code, out, errs, c.code, c.want)
		}
	}
	if out, _, code := try("", "help"); code != 0 || !strings.Contains(out, "Exit codes: 0 done; 1 failed") {
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
	if code != 0 || !strings.Contains(out, "09 0D 09 3D 39") || !strings.Contains(errs, "warning glyph.empty-slot: Row 1, column 1 shows slot 3") {
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
	for _, want := range []string{"warning timing.t-as: t_AS broken", "warning wire.backlight-dropped: The backlight goes off"} {
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
	file := map[string]string{"program": "../../docs/program.schema.json", "bench": "../../formats/benchjson/bench.schema.json"}[document]
	kept, err := os.ReadFile(file)
	if err != nil || string(kept) != text {
		t.Errorf("%s is stale: run make generate (%v)", file, err)
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

// TestSequenceFindings checks that a program that breaks a limit, or cannot be
// read on the glass, is printed with what is found beside it, a line each; and
// that one that breaks nothing is silent, with or without its initialisation.
func TestSequenceFindings(t *testing.T) {
	for args, want := range map[string]string{
		"":                                    "",
		"--no-init":                           "",
		"--link parallel4 --no-init":          "",
		"--link parallel4 --pin-ns 50":        "warning timing.pw-eh: PW_EH broken: E was high for 50 ns, at least 230 ns needed (step 2)",
		"-link parallel8 -pin-ns=50":          "warning timing.pw-eh: PW_EH broken: E was high for 50 ns",
		"--setup with-e":                      "warning timing.t-as: t_AS broken",
		"--speed 400":                         "warning link.fast-clock: The I²C clock is 400 kHz; the expander is made for 100 kHz at most.",
		"--supply 3300":                       "warning glass.vo-below-ground: Fed 3.3 V, the glass reads well with VO at -1.2 V only",
		"--family vfd-data-byte -supply 3300": "error module.supply: A VFD module is fed 3.3 V; it takes 4.75 V to 5.25 V.",
	} {
		out, errs, code := try("", append([]string{"sequence", "--text", "Tide"}, strings.Fields(args)...)...)
		if code != 0 || !strings.HasPrefix(out, "step,start_us") {
			t.Errorf("%s: exit %d, %s", args, code, out)
		}
		lines := strings.Split(strings.TrimSuffix(errs, "\n"), "\n")
		if found := slices.ContainsFunc(lines, func(l string) bool { return strings.HasPrefix(l, want) }); !found || want == "" && errs != "" {
			t.Errorf("%s: standard error %q, want a line %q", args, errs, want)
		}
	}
	_, errs, code := try("", "sequence", "--text", "12345678901234567")
	if code != 3 || !strings.HasPrefix(errs, "error screen.row-too-long: Row 1 is 1 character too long: “7” is not shown.\n") {
		t.Errorf("exit %d, %q", code, errs)
	}
}

// TestOldFlags checks that flags with one dash are read as before, and values
// that look like flags are not touched.
func TestOldFlags(t *testing.T) {
	want, _, _ := try("", "sequence", "--text", "-rw", "--geometry", "8x2", "--format", "hex")
	got, errs, code := try("", "sequence", "-text", "-rw", "-geometry=8x2", "-format", "hex")
	if code != 0 || got != want || want == "" {
		t.Errorf("exit %d, %q, %s; want %q", code, got, errs, want)
	}
	if out, _, code := try("", "completion", "bash"); code != 0 || !strings.Contains(out, "__start_slatebell") {
		t.Errorf("completion: exit %d", code)
	}
	if out, _, _ := try("", "__complete", "sequence", "--waits", ""); !strings.HasPrefix(out, "worst\ntypical\npoll\n") {
		t.Errorf("--waits completes to %q", out)
	}
}

// TestWires lists the wires of a bench that is not wired yet, and of one that is, in
// both formats; holds the CSV against encoding/csv's reader, RFC 4180; and lets check
// find a wire that is moved.
func TestWires(t *testing.T) {
	b := bench.New("Slip")
	b.Modules[0].ID, b.Modules[0].Name, b.Modules[0].Link.Kind = "slip", "Slip", "parallel4"
	b.Modules[0].Link.Pins = map[string]string{"RS": "D12", "E": "D11", "D4": "D5", "D5": "D4", "D6": "D3", "D7": "D2"}
	data, err := json.Marshal(b)
	if err != nil {
		t.Fatal(err)
	}
	out, errs, code := try(string(data), "wires", "-", "--format", "csv")
	if code != 0 {
		t.Fatalf("exit %d, %s", code, errs)
	}
	records, err := csv.NewReader(strings.NewReader(out)).ReadAll()
	if err != nil || strings.Join(records[0], ",") != "wire,from,from_hole,to,to_hole,net,colour,length_mm" {
		t.Fatalf("%v, %v", records, err)
	}
	used := map[string]bool{}
	leads := map[string]string{}
	for i, r := range records[1:] {
		length, err := strconv.Atoi(r[7])
		if r[0] != strconv.Itoa(i+1) || err != nil || length < 12 || r[5] == "" || r[6] == "" || r[2] == "" && r[1] == "" || r[4] == "" && r[3] == "" {
			t.Errorf("record %q", r)
		}
		for _, hole := range []string{r[2], r[4]} {
			if hole != "" && used[hole] {
				t.Errorf("%s is used twice", hole)
			}
			used[hole] = true
		}
		leads[r[1]] = r[3]
	}
	for host, pin := range map[string]string{"host/D12": "Slip/RS", "host/D11": "Slip/E", "host/D5": "Slip/D4", "host/D2": "Slip/D7"} {
		if leads[host] != pin {
			t.Errorf("%s leads to %q, want %s", host, leads[host], pin)
		}
	}
	if text, _, _ := try(string(data), "wires", "-"); !strings.HasPrefix(text, "wire  from ") || strings.Count(text, "\n") != len(records) {
		t.Errorf("%s", text)
	}
	if _, errs, code := try(string(data), "wires", "-", "--format", "json"); code != 2 || !strings.Contains(errs, "expected text or csv") {
		t.Errorf("--format json: exit %d, %s", code, errs)
	}
	short := b
	short.Host.Part, short.Modules = "ESP8266", append([]bench.Module{}, b.Modules...)
	short.Modules[0].Link = bench.Link{Kind: "parallel8"}
	data, _ = json.Marshal(short)
	if out, errs, code := try(string(data), "wires", "-"); code != 1 || !strings.Contains(errs, "No pin of the host drives RS, E, D0") || !strings.Contains(out, "Slip/VDD") {
		t.Errorf("too few pins: exit %d, %s%s", code, out, errs)
	}
	b.Wiring, err = breadboard.Plan(&b)
	if err != nil {
		t.Fatal(err)
	}
	b.Wiring.Wires[0].To = "board-1/h29"
	data, _ = json.Marshal(b)
	if out, _, code := try(string(data), "check", "-"); code != 1 || !strings.Contains(out, "wiring.vo-open: Contrast of Slip/wiper") {
		t.Errorf("check: exit %d, %s", code, out)
	}
	if out, errs, code := try(string(data), "check", "-", "--apply", "wiring.vo-open"); code != 0 || !strings.Contains(out, `"wires"`) {
		t.Errorf("--apply: exit %d, %s%s", code, out, errs)
	}
}

// TestCheck judges a bench, applies a remedy, and judges what comes of it.
func TestCheck(t *testing.T) {
	fresh, errs, code := try("", "bench", "--demo")
	if code != 0 {
		t.Fatal(errs)
	}
	if out, errs, code := try(fresh, "check", "-"); code != 0 || !strings.HasPrefix(out, "nothing found") {
		t.Errorf("the demo: exit %d, %s%s", code, out, errs)
	}
	broken := strings.Replace(fresh, "QUILLFISH  GATE", "QUILLFISH  GATE over", 1)
	out, _, code := try(broken, "check", "-")
	want := "error screen.row-too-long: Row 1 is 4 characters too long: “over” is not shown.\n    at /modules/0/screens/0/rows/0 (Gate board)\n"
	if code != 1 || !strings.HasPrefix(out, want) || !strings.Contains(out, "--apply screen.row-too-long: Cut at column 16\n") {
		t.Errorf("exit %d, %s", code, out)
	}
	var found []finding.Finding
	out, _, code = try(broken, "check", "-", "--format", "json")
	if err := json.Unmarshal([]byte(out), &found); err != nil || code != 1 || len(found) != 1 || found[0].Code != "screen.row-too-long" || *found[0].Cells != (finding.Cells{Row: 0, Col: 16, Len: 4}) {
		t.Errorf("exit %d, %s, %v", code, out, err)
	}
	mended, errs, code := try(broken, "check", "-", "--apply", "screen.row-too-long")
	if code != 0 || mended != strings.Replace(fresh, "QUILLFISH  GATE", "QUILLFISH  GATE ", 1) {
		t.Errorf("--apply: exit %d, %s%s", code, errs, mended)
	}
	logged := `,
  "log": [
    {
      "at": "2026-11-01T10:00:00Z",
      "kind": "note",
      "text": "oar"
    }
  ]
}
`
	if mended, errs, code := try(strings.TrimSuffix(broken, "\n}\n")+logged, "check", "-", "--apply", "screen.row-too-long"); code != 0 || !strings.HasSuffix(mended, logged) {
		t.Errorf("--apply on a bench with its log: exit %d, %s%s", code, errs, mended)
	}
	for args, want := range map[string]string{
		"screen.too-many-rows": "is not among what is found; expected one of screen.row-too-long",
		"module.supply":        "is not among",
	} {
		if _, errs, code := try(broken, "check", "-", "--apply", args); code != 2 || !strings.Contains(errs, want) {
			t.Errorf("--apply %s: exit %d, %s", args, code, errs)
		}
	}
	vfd := strings.Replace(fresh, `"brightness": 1`, `"mV": 4000`, 1)
	if _, errs, code := try(vfd, "check", "-", "--apply", "module.supply"); code != 2 || !strings.Contains(errs, "No change of the bench settles it. Feed it 5 V") {
		t.Errorf("--apply of what has no remedy: exit %d, %s", code, errs)
	}
	if _, errs, code := try(fresh, "check", "-", "--apply", "any"); code != 2 || !strings.Contains(errs, "nothing is found on this bench") {
		t.Errorf("--apply to a sound bench: exit %d, %s", code, errs)
	}
}

// TestCheckScreens checks that what is found on fields, between screens and on rows
// that scroll is printed, and settled by --apply.
func TestCheckScreens(t *testing.T) {
	b := bench.New("Tides")
	m := &b.Modules[0]
	m.Screens = []bench.Screen{
		{ID: "up", Name: "Up", Rows: []string{"Tide rising"}},
		{ID: "down", Name: "Down", Rows: []string{"Tide"}, Scroll: screen.Scroll{By: transition.ByRewrite, EveryMs: 2}, Fields: []field.Field{
			{Name: "Metres", Row: 1, Width: 4, Kind: field.Number, Range: field.Range{Min: -10, Max: 9.9}, Digits: field.Digits{Decimals: 1}, PerSec: 1000},
		}},
	}
	doc, err := json.Marshal(b)
	if err != nil {
		t.Fatal(err)
	}
	out, errs, code := try(string(doc), "check", "-")
	for _, want := range []string{
		"warning field.too-long: The field “Metres” does not fit at -10.0: “-10.0” takes 5 cells, it has 4.",
		"error field.rate: The field “Metres” is to be written 1000 times a second; this link writes it",
		"note screen.leftovers: Written over “Up”, “Down” leaves “rising” of it in row 1; cells with old characters: 6.",
		"error scroll.rate: A step is to take 2.0 ms;",
	} {
		if !strings.Contains(out, want) {
			t.Errorf("no %q in %s%s", want, out, errs)
		}
	}
	if code != 1 {
		t.Errorf("exit %d", code)
	}
	for _, found := range []string{"field.too-long", "field.rate", "screen.leftovers", "scroll.rate"} {
		mended, errs, code := try(string(doc), "check", "-", "--apply", found)
		if after, _, _ := try(mended, "check", "-"); code != 0 || strings.Contains(after, found) {
			t.Errorf("--apply %s: exit %d, %s%s", found, code, errs, after)
		}
	}
}

// TestStoredBenches imports, lists, prints and copies benches on the command
// line, beside a program that holds the same database.
func TestStoredBenches(t *testing.T) {
	data := t.TempDir()
	db, err := store.Open(data)
	if err != nil {
		t.Fatal(err)
	}
	defer db.Close()
	if out, errs, code := try("", "import", "../../formats/benchjson/testdata/v1/demo.json", "--data", data); code != 0 || out != "stored as bench 1\n" {
		t.Fatalf("import: exit %d, %s%s", code, out, errs)
	}
	if _, errs, code := try(`{"format": "slatebell-bench", "version": 1, "name": 7}`, "import", "-", "--data", data); code != 2 || !strings.Contains(errs, "/name: got number, want string") {
		t.Errorf("import of nonsense: exit %d, %s", code, errs)
	}
	if out, _, _ := try("", "benches", "--data", data); !strings.Contains(out, "Quillfish Landing") || strings.Count(out, "\n") != 2 {
		t.Errorf("benches: %s", out)
	}
	if out, _, code := try("", "bench", "--stored", "1", "--data", data); code != 0 || !strings.Contains(out, `"version": 2`) || !strings.Contains(out, "QUILLFISH  GATE") {
		t.Errorf("bench --stored: exit %d, %s", code, out)
	}
	if _, errs, code := try("", "bench", "--stored", "9", "--data", data); code != 2 || !strings.Contains(errs, "no such bench") {
		t.Errorf("bench --stored 9: exit %d, %s", code, errs)
	}
	place := t.TempDir()
	if out, errs, code := try("", "backup", filepath.Join(place, store.FileName), "--data", data); code != 0 {
		t.Fatalf("backup: exit %d, %s%s", code, out, errs)
	}
	if _, errs, code := try("", "backup", filepath.Join(place, store.FileName), "--data", data); code != 1 || !strings.Contains(errs, "is there already; choose a name that is free") {
		t.Errorf("a second backup: exit %d, %s", code, errs)
	}
	if _, errs, code := try("", "backup", filepath.Join(place, "x"), "--data", place+"/none"); code != 1 || !strings.Contains(errs, "there is no database") {
		t.Errorf("backup of nothing: exit %d, %s", code, errs)
	}
	if out, _, _ := try("", "benches", "--data", place); !strings.Contains(out, "Quillfish Landing") {
		t.Errorf("the copy holds %s", out)
	}
}

// TestAddresses gives devices their addresses; where an address is printed, it is
// the one way with so few pads.
func TestAddresses(t *testing.T) {
	for _, c := range []struct {
		args string
		code int
		out  string // begins so
		err  string
	}{
		{"PCF8574 PCF8574 MCP23017=0x27 SSD1306", 0, "PCF8574  0x26  A0\nPCF8574  0x25  A1\nMCP23017  0x27\nSSD1306  0x3C\npads 2\n", ""},
		{"PCF8574", 0, "PCF8574  0x27  none\npads 0\n", ""},
		{"pcf8574=32 PCF8574A=0b111111", 0, "PCF8574  0x20  A0 A1 A2\nPCF8574A  0x3F  none\npads 3\n", ""},
		{"DS3231 DS1307", 1, "DS3231  0x68\nDS1307  does not fit\nno solution: 1 of 2 devices fit\nwould fit with a multiplexer", ""},
		{"PCF8574=0x27 PCF8574=0x27", 1, "PCF8574  0x27  none\nPCF8574  does not fit\nno solution: 1 of 2 devices fit\nwould fit with PCF8574 at another address\n", ""},
		{"PCA9685 HT16K33=0x70", 1, "PCA9685  0x40\nHT16K33  does not fit\n", ""},
		{strings.Repeat("PCF8574 ", 9), 1, "PCF8574  0x27  none\nPCF8574  0x26  A0\n", ""},
		{"", 2, "", "no device"},
		{"PCF8574 CLOCK", 2, "", `device "CLOCK" is not in the table`},
		{"DS3231=0x27", 2, "", "a DS3231 has no address 0x27; it can have 0x68"},
		{"DS3231=0x168", 2, "", "expected 7 bits"},
	} {
		out, errs, code := try("", append([]string{"addresses"}, strings.Fields(c.args)...)...)
		if code != c.code || !strings.HasPrefix(out, c.out) || !strings.Contains(errs, c.err) {
			t.Errorf("%s: exit %d, %q, %q", c.args, code, out, errs)
		}
	}
}

// TestScan holds print-outs against the demo's bus: gate board at 0x27, lamps at
// 0x20, clock at 0x68.
func TestScan(t *testing.T) {
	doc, _, _ := try("", "bench", "--demo")
	file := filepath.Join(t.TempDir(), "bench.json")
	if err := os.WriteFile(file, []byte(doc), 0o600); err != nil {
		t.Fatal(err)
	}
	for _, c := range []struct {
		text string
		code int
		out  []string // lines begin so
		err  string
	}{
		{"[32, 39, 104]", 0, []string{"0x20  expected  Lamps on the jetty", "0x27  expected  Gate board", "0x68  expected  Boathouse clock"}, "32 was read as decimal"},
		{"found 0x27 and 0x68 and 0x29", 1, []string{"0x27  expected  Gate board", "0x68  expected  Boathouse clock", "0x29  unexpected  may be VL53L0X", "0x20  missing  Lamps on the jetty: "}, ""},
		{"0x20 0x26 0x68", 1, []string{"0x20  expected", "0x68  expected", "0x26  unexpected  may be PCF8574", "0x27  missing  Gate board: something answers at 0x26, which it has with pads closed: A0"}, ""},
		{"0x20 0x3F 0x68", 1, []string{"0x20  expected", "0x68  expected", "0x3F  unexpected  may be PCF8574A", "0x27  missing  Gate board: something answers at 0x3F, which is a PCF8574A's"}, ""},
		{"0x40 0x4E 0xD0", 0, []string{"0x20  expected", "0x27  expected", "0x68  expected"}, "8-bit form"},
		{"No devices found.", 2, []string{"0x20  missing", "0x27  missing", "0x68  missing"}, "nothing was found"},
		{"ready", 2, []string{""}, "no address can be read"},
	} {
		out, errs, code := try(c.text, "scan", file)
		lines := strings.Split(strings.TrimSuffix(out, "\n"), "\n")
		right := code == c.code && len(lines) == len(c.out) && strings.Contains(errs, c.err)
		for i := range min(len(lines), len(c.out)) {
			right = right && strings.HasPrefix(lines[i], c.out[i])
		}
		if !right {
			t.Errorf("%s: exit %d, %q, %q", c.text, code, out, errs)
		}
	}
	for _, args := range [][]string{{"scan", "-"}, {"scan", file, "--channel", "9"}, {"scan", file + "x"}} {
		if out, errs, code := try("0x27", args...); code != 2 || out != "" || errs == "" {
			t.Errorf("%v: exit %d, %q, %q", args, code, out, errs)
		}
	}
}

// TestMount draws cut-outs: of a module by its id, of one whose figures are not
// known, and of one that states them.
func TestMount(t *testing.T) {
	doc, _, _ := try("", "bench", "--demo")
	strange := strings.Replace(doc, `"20x2"`, `"12x3@00,40,0C"`, 1)
	stated := strings.Replace(strange, `"technology": "vfd"`, `"technology": "vfd", "mounting": {"widthMM": 90, "heightMM": 40, "windowWidthMM": 60, "windowHeightMM": 20, "holesAcrossMM": 84, "holesUpMM": 34}`, 1)
	for _, c := range []struct {
		doc  string
		args string
		code int
		says string
	}{
		{doc, "--module gate", 0, `<rect id="cut" x="3.9" y="4.5" width="72.2" height="27"/>`},
		{doc, "--module hall --clearance 0", 0, `width="76" height="25.2"/>`},
		{stated, "--module slip", 0, `<circle class="hole" cx="3" cy="3" r="1.5"/>`},
		{strange, "--module slip", 1, `the board's outline is not known`},
		{doc, "", 2, "expected --module with one of gate, hall, slip"},
		{doc, "--module pier", 2, `"pier" is not on this bench`},
		{doc, "--module gate --clearance 21", 2, "expected 0–20 mm"},
		{doc, "--module gate --unit-width -1", 2, "expected 0–500 mm"},
	} {
		out, errs, code := try(c.doc, append([]string{"mount", "-"}, strings.Fields(c.args)...)...)
		if code != c.code || !strings.Contains(out+errs, c.says) {
			t.Errorf("mount %s: exit %d, %s%s", c.args, code, out, errs)
		}
	}
}
