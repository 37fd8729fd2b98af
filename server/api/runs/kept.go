package runs

import (
	"unsafe"

	"slatebell/core/prove/run"
	"slatebell/core/wire/rig"
	"slatebell/core/wire/sequence"
	"slatebell/server/cache"
)

// Bounds of what Runs keeps, in bytes.
const (
	runBytes     = 8 << 20
	restBytes    = 1 << 20 // of runs, while nobody asks for any
	requestBytes = 2 << 20
)

// Runs keeps the last runs by their id, so that stepping through one does
// not compute it again, and the requests of many more, from which a run that was
// dropped is computed anew. Make it with NewRuns.
type Runs struct {
	runs     *cache.Cache[*run.Run]
	requests *cache.Cache[[]byte]
}

// New returns an empty Runs.
func New() *Runs {
	return &Runs{cache.New[*run.Run](runBytes), cache.New[[]byte](requestBytes)}
}

// Rest drops all runs but the newest few.
func (c *Runs) Rest() { c.runs.Shrink(restBytes) }

// sizeOf estimates how many bytes a run keeps from being freed: its moments and
// its steps with their words are nearly all of it.
func sizeOf(r *run.Run) int {
	const step = int(unsafe.Sizeof(sequence.Step{})) + 128
	return cap(r.Moments)*int(unsafe.Sizeof(rig.Moment{})) + cap(r.Program.Steps)*step
}
