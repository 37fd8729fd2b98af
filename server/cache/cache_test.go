package cache

import (
	"errors"
	"fmt"
	"math/rand/v2"
	"slices"
	"sync"
	"sync/atomic"
	"testing"
)

// TestAgainstModel does things at random and holds the cache against a plain list: the longest
// unused go first, and the last used stays.
func TestAgainstModel(t *testing.T) {
	type entry struct {
		key           string
		value, weight int
	}
	r := rand.New(rand.NewPCG(5, 1))
	c := New[int](20)
	var model []entry // the longest unused first
	shrink := func(most int) {
		sum := 0
		for _, e := range model {
			sum += e.weight
		}
		for sum > most && len(model) > 1 {
			sum -= model[0].weight
			model = model[1:]
		}
	}
	for n := range 5000 {
		key := fmt.Sprint(r.IntN(12))
		at := slices.IndexFunc(model, func(e entry) bool { return e.key == key })
		switch r.IntN(8) {
		case 0, 1, 2:
			if at >= 0 {
				model = slices.Delete(model, at, at+1)
			}
			e := entry{key, n, r.IntN(30)}
			model = append(model, e)
			shrink(20)
			c.Put(key, e.value, e.weight)
		case 3:
			most := 1 + r.IntN(20)
			shrink(most)
			c.Shrink(most)
		case 4:
			if r.IntN(10) == 0 {
				model = nil
				c.Shrink(0)
			}
		default:
			v, ok := c.Get(key)
			if ok != (at >= 0) || ok && v != model[at].value {
				t.Fatalf("after %d: %q is %d, %v; want %v", n, key, v, ok, model)
			}
			if at >= 0 {
				model = append(slices.Delete(slices.Clone(model), at, at+1), model[at])
			}
		}
		var want []int
		weight := 0
		for _, e := range model {
			want, weight = append(want, e.value), weight+e.weight
		}
		if got := c.Values(); !slices.Equal(got, want) || c.Weight() != weight {
			t.Fatalf("after %d: %v of weight %d, want %v of %d", n, got, c.Weight(), want, weight)
		}
	}
}

// TestOnce asks for a value from many sides: it is computed once, others go on meanwhile, and what
// failed is tried again.
func TestOnce(t *testing.T) {
	c := New[string](10)
	var computed atomic.Int32
	begun, end := make(chan struct{}), make(chan struct{})
	slow := func() (string, int, error) {
		computed.Add(1)
		close(begun)
		<-end
		return "slow", 1, nil
	}
	var all sync.WaitGroup
	ask := func() {
		if v, err := c.Do("slow", slow); v != "slow" || err != nil {
			t.Errorf("%q, %v", v, err)
		}
	}
	all.Go(ask)
	<-begun
	for range 8 {
		all.Go(ask)
	}
	if v, err := c.Do("quick", func() (string, int, error) { return "quick", 1, nil }); v != "quick" || err != nil {
		t.Errorf("beside a slow one: %q, %v", v, err)
	}
	close(end)
	all.Wait()
	if n := computed.Load(); n != 1 {
		t.Errorf("computed %d times", n)
	}
	failed := errors.New("no")
	for range 2 {
		if v, err := c.Do("bad", func() (string, int, error) { computed.Add(1); return "x", 1, failed }); v != "" || err != failed {
			t.Errorf("%q, %v", v, err)
		}
	}
	if n := computed.Load(); n != 3 {
		t.Errorf("what failed was not tried again: %d", n)
	}
}
