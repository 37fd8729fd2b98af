package codegen

import (
	"math"
	"math/rand/v2"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"testing"

	"slatebell/codegen/micropython"
	"slatebell/core/ship/firmware"
)

// TestMemory imports programs of random benches in MicroPython, as npm has it for a 32-bit machine, and holds what
// Heap says of them against what its collector counts.
func TestMemory(t *testing.T) {
	runtime, _ := filepath.Abs("../web/node_modules/@micropython/micropython-webassembly-pyscript/micropython.mjs")
	hold := func(seed uint64, _ *rand.Rand, im *firmware.Image) {
		dir, v := write(t, im, MicroPython)
		files, err := Files(im, MicroPython)
		if err != nil {
			t.Fatal(err)
		}
		numbered(t, im, filepath.Join(dir, v.File+".py"))
		out, err := exec.Command("node", "testdata/memory.mjs", runtime, dir, v.File, "testdata/machine.py", "testdata/inputs.py").CombinedOutput()
		took, bad := strconv.Atoi(strings.TrimSpace(string(out)))
		if err != nil || bad != nil {
			t.Fatalf("%v: %s", err, out)
		}
		said, _ := micropython.Heap(im, files)
		t.Logf("%d: %d, said %d", seed, took, said)
		if math.Abs(float64(said-took)) > 0.2*float64(took) {
			t.Errorf("bench %d: %d bytes of heap, said to be %d", seed, took, said)
		}
	}
	images(9020, 6, hold)
	withShows(9140, 6, hold)
	withInputs(9340, 4, hold)
}
