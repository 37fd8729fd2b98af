// Package layers holds the rules by which packages import each other. docs/architecture.md draws them.
package layers

import (
	"go/ast"
	"go/parser"
	"go/token"
	"io/fs"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"testing"
)

// house lists all packages of the program from the ground up: each imports only what stands before
// it.
var house = []struct {
	layer    string
	packages string // by their names in the layer; . is the layer's own
}{
	// core: the computation
	{"core", "place say quoting linear finding"},
	{"core/part", "circuit host i2cbus hd44780 charrom module"},                // what is bought
	{"core/text", "glyph picture meter bank field screen"},                     // what is to be read
	{"core/wire", "link update sequence wave rig glass"},                       // how it gets there
	{"core/bench", "logbook . edit merge show"},                                // the saved document
	{"core/table", "tabletest bus pinout power setup wiring touch breadboard"}, // the table as a whole
	{"core/prove", "testbed testbed/bedtest fault diagnose practice photo/phototest photo chart run capture capture/capturetest replay transition bringup check"}, // whether it works, and why not
	{"core/ship", "firmware firmware/firmtest play card bridge"}, // what is handed over
	// around it
	{"formats", ". benchjson pbm raster photofile bdf dottext glyphs program stepcsv wirehex rawsamples vcd sessionzip samplecsv i2ctext recording wirelist eventcsv scantext logtext cutout"}, // open formats
	{"live", "protocol"}, // what a computer and a bridge say to each other
	{"codegen", "source layout c99 sketch micropython scanner bridge ."}, // programs from an image, a package a language
	{"export", "."}, // a bench as files
	{"live", "device session drive recall standin livetest pins ports dial conduct perform"},                                                                               // the real table
	{"server", "demo builds compile store feed room cache idle browse journal doctor"},                                                                                     // the database, made-up data, this machine's compiler, and how all of that is
	{"server/api", "answer about facts line progress benches runs catalog table wiring glyphs screens shows code faults photos recordings log live together given door ."}, // HTTP, a package a subject,
	{"web", "."}, // the front end, as it is built
	{"cmd/slatebell", "."},
	{"internal", "golden soak ratio quantile lawful layers npm notices release"}, // for tests
	{"e2e", "harness screenshots ."},
}

// floors lists the packages in the order of the house.
func floors() (out []string) {
	for _, l := range house {
		for p := range strings.FieldsSeq(l.packages) {
			out = append(out, filepath.ToSlash(filepath.Join(l.layer, p)))
		}
	}
	return out
}

// coreKept is all that core may import of the standard library and beyond.
var coreKept = strings.Fields(`bufio bytes cmp embed errors fmt hash/maphash io maps math math/bits math/rand/v2 slices sort strconv
	strings sync time unicode unicode/utf8 regexp
	encoding/binary encoding/csv encoding/json encoding/xml html/template
	reflect github.com/evanphx/json-patch/v5
	golang.org/x/text/unicode/norm golang.org/x/text/unicode/runenames periph.io/x/conn/v3/i2c periph.io/x/conn/v3/physic`)

// worldly are packages that reach what is outside of a computation: files, network, other programs.
var worldly = []string{"os", "os/exec", "io/fs", "path/filepath", "net", "net/http", "net/url", "syscall", "log", "database/sql", "gorm.io/gorm"}

// clock are the names of package time that look at the clock of the wall, or wait for it.
var clock = []string{"Now", "Since", "Until", "After", "AfterFunc", "Sleep", "Tick", "NewTicker", "NewTimer"}

// pure reports whether a package computes only: no goroutine, no clock, nothing worldly.
func pure(dir string) bool {
	for _, p := range []string{"core", "formats", "live/protocol", "codegen"} {
		if dir == p || strings.HasPrefix(dir, p+"/") {
			return true
		}
	}
	return false
}

const root = "../.."

func TestLayers(t *testing.T) {
	floors := floors()
	seen := map[string]bool{}
	err := filepath.WalkDir(root, func(name string, d fs.DirEntry, err error) error {
		if err != nil {
			return err
		}
		if d.IsDir() && (d.Name() == "node_modules" || d.Name() == "testdata" || d.Name() == "var" || d.Name() == "without" || strings.HasPrefix(d.Name(), ".") && len(d.Name()) > 2) {
			return filepath.SkipDir
		}
		if d.IsDir() || !strings.HasSuffix(name, ".go") {
			return nil
		}
		f, err := parser.ParseFile(token.NewFileSet(), name, nil, 0)
		if err != nil {
			return err
		}
		name, _ = filepath.Rel(root, name)
		file := filepath.ToSlash(name)
		dir := file[:max(strings.LastIndex(file, "/"), 0)]
		seen[dir] = true
		floor := slices.Index(floors, dir)
		if floor < 0 {
			t.Errorf("%s: its package stands on no floor", file)
			return nil
		}
		if strings.HasSuffix(file, "_test.go") {
			inCore(t, file, f)
			return nil
		}
		for _, spec := range f.Imports {
			imported, _ := strconv.Unquote(spec.Path.Value)
			if own, ok := strings.CutPrefix(imported, "slatebell/"); ok {
				if at := slices.Index(floors, own); at < 0 || at >= floor {
					t.Errorf("%s imports %s, which does not stand below it", file, imported)
				}
				continue
			}
			switch {
			case imported == "testing" && strings.HasSuffix(dir, "test"): // helpers of tests
			case strings.HasPrefix(dir, "core/") && !slices.Contains(coreKept, imported):
				t.Errorf("%s imports %s: core has no HTTP, database, files, goroutines or wall clock", file, imported)
			case pure(dir) && slices.Contains(worldly, imported):
				t.Errorf("%s imports %s: what writes and reads formats gets readers and writers", file, imported)
			}
		}
		if pure(dir) {
			computes(t, file, f)
		}
		return nil
	})
	if err != nil {
		t.Fatal(err)
	}
	for _, p := range floors {
		if !seen[p] {
			t.Errorf("%s stands in the house, and there is no such package", p)
		}
	}
}

// inCore holds a test of core against the rule that it stands on core alone.
func inCore(t *testing.T, file string, f *ast.File) {
	for _, spec := range f.Imports {
		imported, _ := strconv.Unquote(spec.Path.Value)
		if strings.HasPrefix(file, "core/") && strings.HasPrefix(imported, "slatebell/") && !strings.HasPrefix(imported, "slatebell/core/") && !strings.HasPrefix(imported, "slatebell/internal/") {
			t.Errorf("%s imports %s: core is tested on its own", file, imported)
		}
	}
}

// computes holds a file against what a computation may do.
func computes(t *testing.T, file string, f *ast.File) {
	ast.Inspect(f, func(n ast.Node) bool {
		switch n := n.(type) {
		case *ast.GoStmt:
			t.Errorf("%s starts a goroutine", file)
		case *ast.SelectorExpr:
			if pkg, ok := n.X.(*ast.Ident); ok && pkg.Name == "time" && slices.Contains(clock, n.Sel.Name) {
				t.Errorf("%s uses time.%s: a computation has no clock", file, n.Sel.Name)
			}
		}
		return true
	})
	for _, call := range f.Unresolved {
		if call.Name == "panic" && !strings.HasSuffix(file, "charrom.go") {
			t.Errorf("%s panics", file)
		}
	}
}
