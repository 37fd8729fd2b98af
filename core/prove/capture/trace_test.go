package capture

import (
	"math/rand/v2"
	"testing"
	"time"
)

// TestTrace holds what a trace says of any part of a recording against its changes, looked at one by one.
func TestTrace(t *testing.T) {
	r := rand.New(rand.NewPCG(27, 7))
	var list []Change
	trace := NewTrace(&Shelf{})
	for at, levels := time.Duration(0), uint64(0); len(list) < 70_000; at += time.Duration(1 + r.IntN(1000)) {
		levels ^= 1 << r.IntN(3)
		if len(list)%20_000 == 77 {
			levels ^= 1 << 9
		}
		list = append(list, Change{at, levels})
		trace.Add(list[len(list)-1])
	}
	if err := trace.Close(); err != nil || trace.Len() != len(list) || trace.Ends() != list[len(list)-1].At {
		t.Fatal(err, trace.Len(), trace.Ends())
	}
	whole := list[len(list)-1].At
	for range 60 {
		from := time.Duration(r.Int64N(int64(whole)))
		to := from + 1 + time.Duration(r.Int64N(int64(whole)>>r.IntN(18)))
		columns := 1 + r.IntN(300)
		spans, err := trace.Spans(from, to, columns)
		if err != nil || spans[0].At != from {
			t.Fatal(err, spans[0], from)
		}
		// Each change within is either given, or lies in a span that says so.
		k := 0
		for i := 1; i < len(list); i++ {
			c := list[i]
			if c.At < from || c.At >= to {
				continue
			}
			for k+1 < len(spans) && spans[k+1].At <= c.At {
				k++
			}
			moved := c.Levels ^ list[i-1].Levels
			if exact := spans[k].At == c.At && spans[k].Levels == c.Levels; !exact && moved&^spans[k].Moved != 0 {
				t.Fatalf("%v to %v in %d: the change at %v to %b lies in %+v", from, to, columns, c.At, c.Levels, spans[k])
			}
		}
		if most := 2*columns + columns*exactly; len(spans) > most {
			t.Errorf("%d spans in %d columns", len(spans), columns)
		}
		for _, s := range spans[1:] { // and none says more than there is
			if s.Moved&^uint64(0x207) != 0 {
				t.Errorf("%+v moves what does not move", s)
			}
		}
		at, mask := from, []uint64{1, 6, 1 << 9}[r.IntN(3)]
		next, before := time.Duration(-1), time.Duration(-1)
		for i := 1; i < len(list); i++ {
			if (list[i].Levels^list[i-1].Levels)&mask == 0 {
				continue
			}
			if list[i].At < at {
				before = list[i].At
			} else if list[i].At > at && next < 0 {
				next = list[i].At
			}
		}
		for _, one := range []struct {
			back bool
			want time.Duration
		}{{false, next}, {true, before}} {
			got, ok, err := trace.Edge(at, mask, one.back)
			if err != nil || ok != (one.want >= 0) || ok && got != one.want {
				t.Errorf("the edge of %b at %v, back %v: %v, %v, %v; expected %v", mask, at, one.back, got, ok, err, one.want)
			}
		}
	}
}

// BenchmarkSpans draws all of ten million changes, and a part, in 1,200 columns.
func BenchmarkSpans(b *testing.B) {
	trace := NewTrace(&Shelf{})
	for i := range 10_000_000 {
		trace.Add(Change{time.Duration(i * 100), uint64(i)})
	}
	trace.Close()
	for _, one := range []struct {
		name string
		part time.Duration
	}{{"all", 1}, {"thousandth", 1000}} {
		b.Run(one.name, func(b *testing.B) {
			for b.Loop() {
				if _, err := trace.Spans(trace.Ends()/3/one.part, trace.Ends()/one.part, 1200); err != nil {
					b.Fatal(err)
				}
			}
		})
	}
}
