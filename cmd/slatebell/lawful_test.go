package main

import (
	"encoding/json"
	"math/rand/v2"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"testing"

	"slatebell/internal/lawful"
	"slatebell/internal/soak"
)

// TestLawfulBenches gives random lawful benches to every command that takes one. None may
// panic, each ends with one of the exit codes that the help tells, and each is done with some.
func TestLawfulBenches(t *testing.T) {
	dir := t.TempDir()
	file := filepath.Join(dir, "bench.json")
	first := soak.Seed(1000)
	done := map[string]int{}
	for round := range soak.Rounds(10) {
		n := first + uint64(round)
		r := rand.New(rand.NewPCG(n, 2))
		b, err := lawful.Bench(r)
		if err != nil {
			t.Fatal(err)
		}
		data, _ := json.Marshal(b)
		if err := os.WriteFile(file, data, 0o600); err != nil {
			t.Fatal(err)
		}
		t.Logf("bench %d: %s", n, data) // shown where a command panics
		module := b.Modules[r.IntN(len(b.Modules))].ID
		if _, err := strconv.Atoi(module); err == nil {
			module = b.Modules[0].ID
		}
		for _, args := range [][]string{
			{"check", file}, {"check", file, "--format", "json"}, {"wires", file}, {"wires", file, "--format", "csv"}, {"wires", file, "--format", "json"},
			{"scan", file}, {"diagnose", file, "--module", module, "--seen", "row-of-blocks"}, {"mount", file, "--module", module},
			{"play", file, "--module", module, "--until", "5000"}, {"transition", "--from", "Tide", "--to", "Bell"},
			{"export", file, "--as", "c", "--to", filepath.Join(dir, "c")}, {"export", file, "--as", "micropython", "--to", filepath.Join(dir, "py")},
			{"export", file, "--module", module, "--as", "vcd", "--to", filepath.Join(dir, "vcd")}, {"export", file, "--module", module, "--as", "bdf", "--to", filepath.Join(dir, "bdf")},
			{"export", file, "--module", module, "--as", "csv", "--to", filepath.Join(dir, "csv")}, {"export", file, "--as", "wires", "--to", filepath.Join(dir, "wires")},
			{"import", file, "--data", filepath.Join(dir, "data")},
		} {
			if args[0] == "diagnose" && n%5 != 0 {
				continue // it plays thousands of faults
			}
			_, errs, code := try("0x27 0x3F", args...)
			if code == exitOK || (args[0] == "check" || args[0] == "scan") && code == exitFailed {
				done[args[0]]++
			}
			if !slices.Contains([]int{exitOK, exitFailed, exitUsage, exitUnfit}, code) {
				t.Fatalf("bench %d: %v ends with %d: %s\n%s", n, args, code, errs, data)
			}
		}
		for _, out := range []string{"c", "py", "vcd", "bdf", "csv", "wires"} {
			os.RemoveAll(filepath.Join(dir, out))
		}
	}
	for _, name := range []string{"check", "wires", "scan", "diagnose", "mount", "play", "export", "import"} {
		if done[name] == 0 {
			t.Errorf("%s did nothing with any of the benches", name)
		}
	}
}
