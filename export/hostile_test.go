package export

import (
	"encoding/csv"
	"encoding/json"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"math/rand/v2"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"slatebell/codegen/source"
	"slatebell/core/bench"
	"slatebell/core/bench/logbook"
	"slatebell/core/bench/show"
	"slatebell/core/part/module"
	"slatebell/core/prove/check"
	"slatebell/core/ship/card"
	"slatebell/formats/bdf"
	"slatebell/formats/benchjson"
	"slatebell/formats/cutout"
	"slatebell/formats/dottext"
	"slatebell/formats/logtext"
	"slatebell/formats/pbm"
	"slatebell/internal/lawful"
	"slatebell/internal/soak"
	"slatebell/server/demo"
)

// hostile are texts that try to be more than texts, in each language that a bench is written
// in. What gets through is the word evil by itself.
var hostile = []string{
	"x */ evil(); /* x", "x /* evil */ x", "x\nevil()\nx", "x\revil()\rx", "x\u2028evil()\u2029x", "x\u0085evil()x", `x \`, "x ??/", "é?/ x",
	`x """ + evil() + """ x`, `x ''' + evil() + ''' x`, `x" + evil() + "x`, "x $(shell evil) x", "x `evil` x", "x ${evil} x", "x ; evil ; x",
	"=x(evil)", "+x(evil)", "-x(evil)", "@x(evil)", "\t=x(evil)", `x ", evil, "x`,
	"x <script>evil()</script> x", "x ]]> <evil/> x", "x &evil; x", "x' onload='evil()' x", "x [x](evil) x", "x ![x](evil) x", "x\n# evil\n", "x | evil | x",
	"x $end evil $end x", "x ENDCHAR evil", "x \x1b]0;evil\x07 x", "x \u202eevil\u202c x", "x ---- own section: evil ---- x", "x ---- end of own section: includes ---- x", "x %n %s {{evil}} x", "",
}

// hostileBench is the demo's bench with such a text wherever any may stand.
func hostileBench(t *testing.T, r *rand.Rand) *bench.Bench {
	t.Helper()
	m, err := lawful.New(r, benchjson.Schema())
	if err != nil {
		t.Fatal(err)
	}
	m.Texts = hostile
	b := demo.Bench()
	b.Host.Part = ""
	doc, err := lawful.Plain(b)
	if err != nil {
		t.Fatal(err)
	}
	var last bench.Bench
	_, kept := m.Retext(doc, m.At("#/$defs/Archive"), func(v any) bool {
		data, _ := json.Marshal(v)
		b, err := benchjson.Parse(data)
		if err != nil {
			return false
		}
		for i := range b.Modules {
			if _, err := show.Of(&b.Modules[i]); err != nil { // such as a name that leads to a field
				return false
			}
		}
		last = b
		return true
	})
	if kept < 100 {
		t.Fatalf("only %d texts were taken", kept)
	}
	return &last
}

var (
	evil     = regexp.MustCompile(`\bevil\b`)
	pyText   = regexp.MustCompile(`(?s)b?"""(?:\\.|[^\\])*?"""|b?"(?:\\.|[^"\\\n])*"|b?'(?:\\.|[^'\\\n])*'|#[^\n]*`)
	newLiner = regexp.MustCompile(`[\r\x{85}\x{2028}\x{2029}\x00-\x08\x0b-\x1f\x7f]`)
	number   = regexp.MustCompile(`^[+-]?[0-9.]+$`)
)

// TestHostileTexts exports a bench whose every text is hostile as everything that it can be
// exported as, and reads each back with its own language's parser.
func TestHostileTexts(t *testing.T) {
	seed := soak.Seed(0)
	for round := range soak.Rounds(1) {
		b := hostileBench(t, rand.New(rand.NewPCG(seed+uint64(round), 3)))
		for _, kind := range Kinds {
			files, _, err := Files(b, All, kind)
			if err != nil {
				t.Fatalf("%s: %v", kind, err)
			}
			dir := t.TempDir()
			if err := Write(dir, files); err != nil {
				t.Fatalf("%s: %v", kind, err)
			}
			for _, f := range files {
				folder, name, in := strings.Cut(f.Name, "/") // a sketch stands in a folder of its own
				if strings.ContainsAny(folder+name, "/\\\"'$` \n") || in && (folder == "" || strings.Trim(folder, ".") == "") {
					t.Errorf("%s: a file is called %q", kind, f.Name)
				}
				readBack(t, dir, &f)
			}
			if kind == "c" {
				makes(t, dir)
			}
		}
		beside(t, b)
	}
}

// readBack reads a file as its ending says.
func readBack(t *testing.T, dir string, f *source.File) {
	t.Helper()
	path := filepath.Join(dir, f.Name)
	bare, err := "", error(nil)
	switch {
	case strings.HasSuffix(f.Name, ".c") || strings.HasSuffix(f.Name, ".h"):
		var out []byte // what the preprocessor leaves when it has taken the comments out
		out, err = exec.Command("gcc", "-std=c99", "-fpreprocessed", "-dD", "-E", "-P", path).CombinedOutput()
		bare = string(out)
	case strings.HasSuffix(f.Name, ".py"):
		bare = pyText.ReplaceAllString(f.Text, `""`)
		err = compiles(path)
	case strings.HasSuffix(f.Name, ".csv"):
		err = cells(f.Text)
	case strings.HasSuffix(f.Name, ".json"):
		if !json.Valid([]byte(f.Text)) {
			err = errors.New("no JSON")
		}
	case strings.HasSuffix(f.Name, ".bdf"):
		_, err = bdf.Read([]byte(f.Text))
	case strings.HasSuffix(f.Name, ".pbm"):
		_, err = pbm.Read([]byte(f.Text))
	case strings.HasSuffix(f.Name, ".vcd"):
		bare = f.Text
	}
	if err != nil {
		t.Errorf("%s cannot be read back: %v\n%s", f.Name, err, bare)
	}
	if at := evil.FindStringIndex(bare); at != nil {
		t.Errorf("%s: a text became more than a text: %q", f.Name, bare[max(0, at[0]-80):at[1]])
	}
	if !strings.HasSuffix(f.Name, ".csv") && newLiner.MatchString(f.Text) {
		t.Errorf("%s holds a character that controls: %q", f.Name, newLiner.FindString(f.Text))
	}
	for _, s := range source.OwnSections(f.Text) {
		if evil.MatchString(s.Name) {
			t.Errorf("%s has a section of its own: %q", f.Name, s.Name)
		}
	}
}

// makes builds what was exported, for this computer and for the host, and asks make what its
// Makefile holds.
func makes(t *testing.T, dir string) {
	t.Helper()
	for _, args := range [][]string{{"check", "FLAGS=-std=c99 -Wall -Wextra -Wconversion -pedantic -Werror"}, {"-n", "atmega328p"}} {
		if out, err := exec.Command("make", append([]string{"-s", "-C", dir}, args...)...).CombinedOutput(); err != nil || evil.Match(out) {
			t.Errorf("make %v: %v\n%s", args, err, out)
		}
	}
}

// compiles compiles a file with MicroPython under node.
func compiles(path string) error {
	runtime, err := filepath.Abs("../web/node_modules/@micropython/micropython-webassembly-pyscript/micropython.mjs")
	if err != nil {
		return err
	}
	script := `const { loadMicroPython } = await import(process.argv[1]); const fs = await import("node:fs");
		const mp = await loadMicroPython(); mp.globals.set("source", fs.readFileSync(process.argv[2], "utf8")); try { mp.runPython("compile(source, 'file', 'exec')") } catch (e) { console.error(String(e)); process.exit(1) }`
	if out, err := exec.Command("node", "--input-type=module", "-e", script, runtime, path).CombinedOutput(); err != nil {
		return fmt.Errorf("%w: %s", err, out)
	}
	return nil
}

// cells reads comma-separated values and looks for what a spreadsheet takes for a formula.
func cells(text string) error {
	records, err := csv.NewReader(strings.NewReader(text)).ReadAll()
	for _, record := range records {
		for _, cell := range record {
			if c := strings.TrimSpace(cell); c != "" && strings.ContainsAny(c[:1], "=+-@") && !number.MatchString(c) {
				return fmt.Errorf("the cell %q begins a formula", cell)
			}
		}
	}
	return err
}

// tags reads XML and lists its elements; HTML as the card writes it is read alike.
func tags(text string, strict bool) (names []string, err error) {
	d := xml.NewDecoder(strings.NewReader(text))
	d.Strict, d.AutoClose, d.Entity = strict, xml.HTMLAutoClose, xml.HTMLEntity
	for {
		tok, err := d.Token()
		if err == io.EOF {
			return names, nil
		}
		if err != nil {
			return names, err
		}
		if s, ok := tok.(xml.StartElement); ok {
			names = append(names, s.Name.Local)
			for _, a := range s.Attr {
				names = append(names, s.Name.Local+" "+a.Name.Local)
			}
		}
	}
}

// beside reads back what a bench is written as beside its exports: card, cut-out, log, glyphs
// as source.
func beside(t *testing.T, b *bench.Bench) {
	t.Helper()
	for i := range b.Modules {
		m := &b.Modules[i]
		var page, panel strings.Builder
		if err := card.Write(&page, b, i); err != nil {
			t.Fatal(err)
		}
		board := module.UsualBoard(m.Display.Geometry)
		if err := cutout.Write(&panel, &board, cutout.Options{Name: m.Name}); err != nil {
			t.Fatal(err)
		}
		for what, text := range map[string]string{"card": page.String(), "cut-out": panel.String()} {
			names, err := tags(text, what == "cut-out")
			if err != nil {
				t.Errorf("%s: %v", what, err)
			}
			for _, n := range names {
				if n == "script" || n == "evil" || strings.Contains(n, " on") {
					t.Errorf("%s: a text became <%s>", what, n)
				}
			}
		}
		for _, form := range []dottext.Form{dottext.C, dottext.Python, dottext.Bits} {
			var out strings.Builder
			if err := dottext.Write(&out, form, b.Glyphs); err != nil {
				t.Fatal(err)
			}
			read, err := dottext.Read(out.String())
			if err != nil || len(read.Glyphs) != len(b.Glyphs) {
				t.Errorf("%s: %d glyphs of %d are read back, %v", form, len(read.Glyphs), len(b.Glyphs), err)
			}
		}
	}
	var log []logbook.Entry
	for _, text := range hostile {
		log = append(log, logbook.Entry{Kind: logbook.Note, Module: text, Text: text, Causes: []string{text}, Value: &logbook.Value{Name: text, Unit: text}})
	}
	var table, notes strings.Builder
	if err := logtext.WriteCSV(&table, log); err != nil {
		t.Fatal(err)
	}
	if err := cells(table.String()); err != nil {
		t.Errorf("log: %v", err)
	}
	if err := logtext.WriteMarkdown(&notes, hostile[0], log); err != nil {
		t.Fatal(err)
	}
	if lines := strings.Split(strings.TrimSpace(notes.String()), "\n"); len(lines) != 4+len(log) {
		t.Errorf("the log has %d lines for %d entries", len(lines), len(log))
	}
	if at := regexp.MustCompile(`(?m)^# evil|[^\\][<\[*]`).FindString(regexp.MustCompile("`[^`]*`|\\*\\*[0-9:]*\\*\\*").ReplaceAllString(notes.String(), "")); at != "" {
		t.Errorf("the log has markup of its own: %q", at)
	}
	if found, err := check.Check(b); err != nil || len(found) == 0 {
		t.Errorf("nothing is found: %v", err)
	}
}
