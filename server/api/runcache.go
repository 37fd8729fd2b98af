package api

import (
	"sync"

	"slatebell/core/bench"
)

// runCache keeps the last runs by their id, so that stepping through one does
// not compute it again. The zero value is ready.
type runCache struct {
	mu      sync.Mutex
	runs    map[string]*bench.Run
	order   []string // oldest first
	moments int
}

// cachedMoments bounds the cache; a moment takes about 700 bytes.
const cachedMoments = 12000

func (c *runCache) get(id string) (*bench.Run, bool) {
	c.mu.Lock()
	defer c.mu.Unlock()
	r, ok := c.runs[id]
	return r, ok
}

func (c *runCache) put(id string, r *bench.Run) {
	c.mu.Lock()
	defer c.mu.Unlock()
	if c.runs == nil {
		c.runs = map[string]*bench.Run{}
	}
	if _, have := c.runs[id]; have {
		return
	}
	c.runs[id] = r
	c.order = append(c.order, id)
	c.moments += len(r.Moments)
	for c.moments > cachedMoments && len(c.order) > 1 {
		c.moments -= len(c.runs[c.order[0]].Moments)
		delete(c.runs, c.order[0])
		c.order = c.order[1:]
	}
}
