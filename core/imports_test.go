// Package core_test holds the rules that core's packages keep among themselves.
package core_test

import (
	"go/ast"
	"go/parser"
	"go/token"
	"io/fs"
	"path"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"testing"
)

// layers lists core's layers from the ground up, and the packages of each: a package imports only
// what stands before it. place, say and finding lie below all, since all may state what they find.
var layers = []struct {
	name     string
	packages []string
}{
	{"", []string{"place", "say", "finding"}},
	{"part", []string{"circuit", "host", "i2cbus", "hd44780", "charrom", "module"}},                                             // what is bought
	{"text", []string{"glyph", "picture", "meter", "bank", "field", "screen"}},                                                  // what is to be read
	{"wire", []string{"link", "update", "sequence", "wave", "rig", "glass"}},                                                    // how it gets there
	{"bench", []string{"logbook", "", "edit", "show"}},                                                                          // the saved document
	{"table", []string{"tabletest", "bus", "pinout", "power", "setup", "wiring", "touch", "breadboard"}},                        // the table as a whole
	{"prove", []string{"testbed", "testbed/bedtest", "fault", "diagnose", "practice", "run", "transition", "bringup", "check"}}, // whether it works, and why not
	{"ship", []string{"firmware", "firmware/firmtest", "play"}},                                                                 // what is handed over
}

// floors lists the packages in the order of the layers.
func floors() (out []string) {
	for _, l := range layers {
		for _, p := range l.packages {
			out = append(out, path.Join(l.name, p))
		}
	}
	return out
}

// kept is all that core may import of the standard library and beyond.
var kept = []string{
	"bufio", "bytes", "cmp", "embed", "errors", "fmt", "hash/maphash", "io", "maps", "math", "math/bits", "math/rand/v2", "slices", "sort", "strconv", "strings", "sync", "time", "unicode", "unicode/utf8",
	"regexp", "encoding/csv", "encoding/json", // of embedded tables, and of patches
	"reflect", "github.com/evanphx/json-patch/v5", // of edits
	"golang.org/x/text/unicode/norm", "golang.org/x/text/unicode/runenames", "periph.io/x/conn/v3/i2c", "periph.io/x/conn/v3/physic",
}

// clock are the names of package time that look at the clock of the wall, or wait for it.
var clock = []string{"Now", "Since", "Until", "After", "AfterFunc", "Sleep", "Tick", "NewTicker", "NewTimer"}

func TestImports(t *testing.T) {
	files, floors := 0, floors()
	err := filepath.WalkDir(".", func(name string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() || !strings.HasSuffix(name, ".go") {
			return err
		}
		f, err := parser.ParseFile(token.NewFileSet(), name, nil, 0)
		if err != nil {
			return err
		}
		if strings.HasSuffix(name, "_test.go") {
			for _, spec := range f.Imports {
				imported, _ := strconv.Unquote(spec.Path.Value)
				if strings.HasPrefix(imported, "slatebell/") && !strings.HasPrefix(imported, "slatebell/core/") && !strings.HasPrefix(imported, "slatebell/internal/") {
					t.Errorf("%s imports %s: core is tested on its own", name, imported)
				}
			}
			return nil
		}
		files++
		floor := slices.Index(floors, filepath.Dir(name))
		if floor < 0 {
			t.Errorf("%s: its package stands on no floor", name)
		}
		for _, spec := range f.Imports {
			imported, _ := strconv.Unquote(spec.Path.Value)
			if own, ok := strings.CutPrefix(imported, "slatebell/core/"); ok {
				if at := slices.Index(floors, own); at < 0 || at >= floor {
					t.Errorf("%s imports %s, which does not stand below it", name, imported)
				}
			} else if !slices.Contains(kept, imported) && !(imported == "testing" && strings.HasSuffix(floors[max(floor, 0)], "test")) {
				t.Errorf("%s imports %s: core has no HTTP, database, files, goroutines or wall clock", name, imported)
			}
		}
		ast.Inspect(f, func(n ast.Node) bool {
			switch n := n.(type) {
			case *ast.GoStmt:
				t.Errorf("%s starts a goroutine", name)
			case *ast.SelectorExpr:
				if pkg, ok := n.X.(*ast.Ident); ok && pkg.Name == "time" && slices.Contains(clock, n.Sel.Name) {
					t.Errorf("%s uses time.%s: core has no clock", name, n.Sel.Name)
				}
			}
			return true
		})
		for _, call := range f.Unresolved {
			if call.Name == "panic" && !strings.HasSuffix(name, "charrom.go") {
				t.Errorf("%s panics", name)
			}
		}
		return nil
	})
	if err != nil || files == 0 {
		t.Fatalf("read %d files: %v", files, err)
	}
}
