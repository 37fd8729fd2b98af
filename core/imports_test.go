// Package core_test holds the rules that core's packages keep among themselves.
package core_test

import (
	"go/parser"
	"go/token"
	"io/fs"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"testing"
)

// floors lists core's packages from the ground up: a package imports only those
// before it. finding stands lowest but for the places that it names, as the one type that all may state.
var floors = []string{"place", "finding", "logbook", "circuit", "host", "i2cbus", "hd44780", "charrom", "glyph", "picture", "meter", "bank", "module", "link", "update", "sequence", "wave", "rig", "sight", "field", "screen", "bench", "show", "plan", "wiring", "breadboard", "fault", "diagnose", "practice", "run", "firmware", "firmware/firmtest", "play"}

// kept is all that core may import of the standard library and beyond.
var kept = []string{
	"bufio", "bytes", "cmp", "embed", "errors", "fmt", "hash/maphash", "io", "maps", "math", "math/bits", "math/rand/v2", "slices", "sort", "strconv", "strings", "sync", "time", "unicode", "unicode/utf8",
	"regexp", "encoding/csv", "encoding/json", // of embedded tables
	"golang.org/x/text/unicode/norm", "golang.org/x/text/unicode/runenames", "periph.io/x/conn/v3/i2c", "periph.io/x/conn/v3/physic",
}

func TestImports(t *testing.T) {
	files := 0
	err := filepath.WalkDir(".", func(name string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() || !strings.HasSuffix(name, ".go") || strings.HasSuffix(name, "_test.go") {
			return err
		}
		files++
		floor := slices.Index(floors, filepath.Dir(name))
		if floor < 0 {
			t.Errorf("%s: its package stands on no floor", name)
		}
		f, err := parser.ParseFile(token.NewFileSet(), name, nil, 0)
		if err != nil {
			return err
		}
		for _, spec := range f.Imports {
			imported, _ := strconv.Unquote(spec.Path.Value)
			if own, ok := strings.CutPrefix(imported, "slatebell/core/"); ok {
				if at := slices.Index(floors, own); at < 0 || at >= floor {
					t.Errorf("%s imports %s, which does not stand below it", name, imported)
				}
			} else if !slices.Contains(kept, imported) {
				t.Errorf("%s imports %s: core has no HTTP, database, files, goroutines or wall clock", name, imported)
			}
		}
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
