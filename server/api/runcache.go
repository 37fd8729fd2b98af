package api

import (
	"sync"
	"unsafe"

	"slatebell/core/prove/run"
	"slatebell/core/wire/rig"
	"slatebell/core/wire/sequence"
)

// Bounds of what a runCache keeps, in bytes.
const (
	runBytes     = 8 << 20
	restBytes    = 1 << 20 // of runs, while nobody asks for any
	requestBytes = 2 << 20
)

// runCache keeps the last runs by their id, so that stepping through one does
// not compute it again, and the requests of many more, from which a run that was
// dropped is computed anew. The zero value is ready.
type runCache struct {
	mu       sync.Mutex
	runs     kept[*run.Run]
	requests kept[[]byte]
}

// get returns a run that is kept.
func (c *runCache) get(id string) (*run.Run, bool) {
	c.mu.Lock()
	defer c.mu.Unlock()
	r, ok := c.runs.items[id]
	return r, ok
}

// request returns the request of a run, kept or dropped.
func (c *runCache) request(id string) ([]byte, bool) {
	c.mu.Lock()
	defer c.mu.Unlock()
	doc, ok := c.requests.items[id]
	return doc, ok
}

func (c *runCache) put(id string, doc []byte, r *run.Run) {
	c.mu.Lock()
	defer c.mu.Unlock()
	c.runs.put(id, r, sizeOf(r))
	c.runs.shrink(runBytes)
	c.requests.put(id, doc, len(doc))
	c.requests.shrink(requestBytes)
}

// shrink drops all runs but the newest few.
func (c *runCache) shrink() {
	c.mu.Lock()
	defer c.mu.Unlock()
	c.runs.shrink(restBytes)
}

// sizeOf estimates how many bytes a run keeps from being freed: its moments and
// its steps with their words are nearly all of it.
func sizeOf(r *run.Run) int {
	const step = int(unsafe.Sizeof(sequence.Step{})) + 128
	return cap(r.Moments)*int(unsafe.Sizeof(rig.Moment{})) + cap(r.Program.Steps)*step
}

// kept is a set of values by their id that drops the oldest first. The zero
// value is empty.
type kept[T any] struct {
	items map[string]T
	order []keptItem // oldest first
	bytes int
}

type keptItem struct {
	id    string
	bytes int
}

func (k *kept[T]) put(id string, value T, bytes int) {
	if k.items == nil {
		k.items = map[string]T{}
	}
	if _, have := k.items[id]; have {
		return
	}
	k.items[id] = value
	k.order = append(k.order, keptItem{id, bytes})
	k.bytes += bytes
}

// shrink drops the oldest values until the others have a number of bytes at
// most; the newest stays.
func (k *kept[T]) shrink(most int) {
	for k.bytes > most && len(k.order) > 1 {
		k.bytes -= k.order[0].bytes
		delete(k.items, k.order[0].id)
		k.order = k.order[1:]
	}
}
