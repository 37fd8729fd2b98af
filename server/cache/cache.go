// Package cache keeps values that take long to compute, so that the next request of the same finds
// them. What was used last stays; each value is computed once, however many ask for it at a time.
package cache

import (
	"sync"

	"github.com/hashicorp/golang-lru/v2/simplelru"
	"golang.org/x/sync/singleflight"
)

// Cache keeps values by a key, up to a weight that they have together: bytes, or how many there are.
// It is safe for concurrent use. Make it with New.
type Cache[V any] struct {
	mu     sync.Mutex
	kept   *simplelru.LRU[string, item[V]] // the longest unused first
	weight int
	most   int
	flight singleflight.Group
}

type item[V any] struct {
	value  V
	weight int
}

// New returns an empty cache whose values weigh so much together at most; the newest stays however
// much it weighs.
func New[V any](most int) *Cache[V] {
	const any = 1 << 30 // the weight is the bound, not how many there are
	kept, err := simplelru.NewLRU[string, item[V]](any, nil)
	if err != nil {
		panic(err) // of a size below one
	}
	return &Cache[V]{kept: kept, most: most}
}

// Get returns the value of a key, which is the last used then.
func (c *Cache[V]) Get(key string) (V, bool) {
	c.mu.Lock()
	defer c.mu.Unlock()
	i, ok := c.kept.Get(key)
	return i.value, ok
}

// Put keeps a value, and drops the longest unused ones beyond the cache's weight. One that the key
// has already is replaced.
func (c *Cache[V]) Put(key string, value V, weight int) {
	c.mu.Lock()
	defer c.mu.Unlock()
	if was, ok := c.kept.Peek(key); ok {
		c.weight -= was.weight
	}
	c.kept.Add(key, item[V]{value, weight})
	c.weight += weight
	c.shrink(c.most)
}

// Do returns the value of a key, computed by make where it is not kept. Who asks for the same key
// meanwhile waits for it, and nobody else does. What fails is not kept.
func (c *Cache[V]) Do(key string, make func() (value V, weight int, err error)) (V, error) {
	if v, ok := c.Get(key); ok {
		return v, nil
	}
	v, err, _ := c.flight.Do(key, func() (any, error) {
		if v, ok := c.Get(key); ok { // computed since we looked
			return v, nil
		}
		v, weight, err := make()
		if err == nil {
			c.Put(key, v, weight)
		}
		return v, err
	})
	if err != nil {
		var none V
		return none, err
	}
	return v.(V), nil
}

// Shrink drops the longest unused values until the others weigh so much at most; the last used one
// stays. Shrink(0) drops all.
func (c *Cache[V]) Shrink(most int) {
	c.mu.Lock()
	defer c.mu.Unlock()
	if most == 0 {
		c.kept.Purge()
		c.weight = 0
		return
	}
	c.shrink(most)
}

func (c *Cache[V]) shrink(most int) {
	for c.weight > most && c.kept.Len() > 1 {
		_, i, _ := c.kept.RemoveOldest()
		c.weight -= i.weight
	}
}

// Values lists what is kept, the longest unused first.
func (c *Cache[V]) Values() []V {
	c.mu.Lock()
	defer c.mu.Unlock()
	out := make([]V, 0, c.kept.Len())
	for _, i := range c.kept.Values() {
		out = append(out, i.value)
	}
	return out
}

// Weight returns what all that is kept weighs.
func (c *Cache[V]) Weight() int {
	c.mu.Lock()
	defer c.mu.Unlock()
	return c.weight
}
