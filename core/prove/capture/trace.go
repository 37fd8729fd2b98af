package capture

import (
	"encoding/binary"
	"fmt"
	"io"
	"slices"
	"sort"
	"time"
)

// Store keeps what is written to it, one after the other, and reads any part of it: a file, or Shelf in memory.
type Store interface {
	io.Writer
	io.ReaderAt
}

// Trace is a recording laid down so that any part of it is found at once: its changes in a store, 16 bytes each, and what happens in each block of
// them, of each 64 blocks, and so on, in memory. The zero value is not ready; make it with NewTrace.
type Trace struct {
	store  Store
	n      int // changes
	buffer []byte
	blocks []block
	moved  [][]uint64 // by level: channels that change within a block, within 64 blocks, …
	last   Change
	broken error
}

// block is where some changes begin.
type block struct {
	at     time.Duration // of the first
	levels uint64        // before the first
}

// Of the layout of a trace: changes of a block, and how many blocks one above holds.
const (
	blockChanges = 256
	fanOut       = 64
	recordBytes  = 16
)

// NewTrace is an empty trace.
func NewTrace(s Store) *Trace {
	return &Trace{store: s, moved: [][]uint64{nil}, buffer: make([]byte, 0, blockChanges*recordBytes)}
}

// Add puts a change at its end; times must not go back.
func (t *Trace) Add(c Change) {
	if t.n%blockChanges == 0 {
		t.flush()
		before := t.last.Levels
		if t.n == 0 {
			before = c.Levels
		}
		t.blocks = append(t.blocks, block{c.At, before})
	}
	at := t.n / blockChanges
	var moved uint64
	if t.n > 0 {
		moved = c.Levels ^ t.last.Levels
	}
	for level := 0; ; level++ {
		if level == len(t.moved) {
			t.moved = append(t.moved, nil)
		}
		if at == len(t.moved[level]) {
			t.moved[level] = append(t.moved[level], 0)
		}
		t.moved[level][at] |= moved
		if level > 0 && at == 0 && len(t.moved[level-1]) <= fanOut {
			break
		}
		at /= fanOut
	}
	t.buffer = binary.LittleEndian.AppendUint64(t.buffer, uint64(c.At))
	t.buffer = binary.LittleEndian.AppendUint64(t.buffer, c.Levels)
	t.last = c
	t.n++
}

func (t *Trace) flush() {
	if len(t.buffer) == 0 {
		return
	}
	if _, err := t.store.Write(t.buffer); err != nil && t.broken == nil {
		t.broken = fmt.Errorf("laying down a recording: %w", err)
	}
	t.buffer = t.buffer[:0]
}

// Close ends what is added. Its error is that of the store.
func (t *Trace) Close() error {
	t.flush()
	return t.broken
}

// Len is how many changes it has.
func (t *Trace) Len() int { return t.n }

// Ends is the time of its last change.
func (t *Trace) Ends() time.Duration { return t.last.At }

// Begins is the time of its first change.
func (t *Trace) Begins() time.Duration {
	if len(t.blocks) == 0 {
		return 0
	}
	return t.blocks[0].at
}

// Moves reports whether a channel changes.
func (t *Trace) Moves(channel int) bool {
	top := t.moved[len(t.moved)-1]
	return slices.ContainsFunc(top, func(moved uint64) bool { return moved>>channel&1 == 1 })
}

// cursor is a place among the changes, with the block that was read last.
type cursor struct {
	t     *Trace
	block int
	data  []byte
}

func (t *Trace) cursor() *cursor {
	return &cursor{t: t, block: -1, data: make([]byte, blockChanges*recordBytes)}
}

// read reads a block.
func (c *cursor) read(block int) error {
	if block == c.block {
		return nil
	}
	n := min(blockChanges, c.t.n-block*blockChanges)
	c.block = -1
	if _, err := c.t.store.ReadAt(c.data[:n*recordBytes], int64(block)*blockChanges*recordBytes); err != nil {
		return fmt.Errorf("reading a recording: %w", err)
	}
	c.block = block
	return nil
}

// get returns a change by its index.
func (c *cursor) get(i int) (Change, error) {
	if err := c.read(i / blockChanges); err != nil {
		return Change{}, err
	}
	at := c.data[i%blockChanges*recordBytes:]
	return Change{time.Duration(binary.LittleEndian.Uint64(at)), binary.LittleEndian.Uint64(at[8:])}, nil
}

// from is the index of the first change at a time or after it.
func (c *cursor) from(at time.Duration) (int, error) {
	b := sort.Search(len(c.t.blocks), func(i int) bool { return c.t.blocks[i].at >= at }) - 1
	if b < 0 {
		return 0, nil
	}
	if err := c.read(b); err != nil {
		return 0, err
	}
	n := min(blockChanges, c.t.n-b*blockChanges)
	return b*blockChanges + sort.Search(n, func(i int) bool {
		return time.Duration(binary.LittleEndian.Uint64(c.data[i*recordBytes:])) >= at
	}), nil
}

// before are the levels before a change.
func (c *cursor) before(i int) (uint64, error) {
	if i%blockChanges == 0 && i/blockChanges < len(c.t.blocks) {
		return c.t.blocks[i/blockChanges].levels, nil
	}
	if i == 0 {
		return 0, nil
	}
	one, err := c.get(i - 1)
	return one.Levels, err
}

// movedIn are the channels that change among changes i to j, j excluded.
func (c *cursor) movedIn(i, j int) (moved uint64, err error) {
	was, err := c.before(i)
	if err != nil {
		return 0, err
	}
	for i < j && (i%blockChanges != 0 || i+blockChanges > j) {
		one, err := c.get(i)
		if err != nil {
			return 0, err
		}
		moved |= one.Levels ^ was
		was = one.Levels
		if i++; i%blockChanges == 0 {
			break
		}
	}
	size, level := blockChanges, 0 // whole blocks, the largest that fit
	for i < j && i+blockChanges <= j {
		for level+1 < len(c.t.moved) && i%(size*fanOut) == 0 && i+size*fanOut <= j {
			size, level = size*fanOut, level+1
		}
		for level > 0 && (i%size != 0 || i+size > j) {
			size, level = size/fanOut, level-1
		}
		moved |= c.t.moved[level][i/size]
		i += size
	}
	if i < j {
		rest, err := c.movedIn(i, j)
		return moved | rest, err
	}
	return moved, nil
}

// Span is what the channels do from a time on, to the next span.
type Span struct {
	At     time.Duration
	Levels uint64
	Moved  uint64 // channels that change within it
}

// exactly is how many changes of a column are given one by one.
const exactly = 3

// Spans are the levels from a time to another as they can be drawn in so many columns: change by change where a column holds few, and which channels
// change within it where it holds many. The first span begins at from.
func (t *Trace) Spans(from, to time.Duration, columns int) (out []Span, err error) {
	c := t.cursor()
	i, err := c.from(from)
	if err != nil || t.n == 0 {
		return nil, err
	}
	levels, err := c.before(i)
	if err != nil {
		return nil, err
	}
	out = append(out, Span{At: from, Levels: levels})
	for col := range columns {
		end := from + time.Duration(float64(to-from)*float64(col+1)/float64(columns))
		if i == t.n {
			break
		}
		next, err := c.get(i)
		if err != nil {
			return nil, err
		}
		if next.At >= end {
			continue
		}
		j, err := c.from(end)
		if err != nil {
			return nil, err
		}
		if j-i <= exactly {
			for ; i < j; i++ {
				one, err := c.get(i)
				if err != nil {
					return nil, err
				}
				out = append(out, Span{At: one.At, Levels: one.Levels})
			}
			continue
		}
		first := next
		moved, err := c.movedIn(i, j)
		if err != nil {
			return nil, err
		}
		last, err := c.get(j - 1)
		if err != nil {
			return nil, err
		}
		out = append(out, Span{At: first.At, Levels: first.Levels, Moved: moved}, Span{At: last.At, Levels: last.Levels})
		i = j
	}
	return out, nil
}

// Edge is the change of some channels (bit n is channel n) that is next after a time, or before it; ok is false where there is none.
func (t *Trace) Edge(at time.Duration, channels uint64, back bool) (edge time.Duration, ok bool, err error) {
	c := t.cursor()
	if back {
		i, err := c.from(at)
		for err == nil && i > 0 {
			if i%blockChanges == 0 && t.moved[0][i/blockChanges-1]&channels == 0 {
				i -= blockChanges
				continue
			}
			var one Change
			var was uint64
			if one, err = c.get(i - 1); err != nil {
				break
			}
			if was, err = c.before(i - 1); err != nil {
				break
			}
			if (one.Levels^was)&channels != 0 {
				return one.At, true, nil
			}
			i--
		}
		return 0, false, err
	}
	i, err := c.from(at + 1)
	for err == nil && i < t.n {
		if i%blockChanges == 0 && t.moved[0][i/blockChanges]&channels == 0 {
			i += blockChanges
			continue
		}
		var one Change
		var was uint64
		if one, err = c.get(i); err != nil {
			break
		}
		if was, err = c.before(i); err != nil {
			break
		}
		if (one.Levels^was)&channels != 0 {
			return one.At, true, nil
		}
		i++
	}
	return 0, false, err
}

// Shelf is a store in memory.
type Shelf struct{ data []byte }

func (s *Shelf) Write(p []byte) (int, error) {
	s.data = append(s.data, p...)
	return len(p), nil
}

// ReadAt reads what was written.
func (s *Shelf) ReadAt(p []byte, at int64) (int, error) {
	if at >= int64(len(s.data)) {
		return 0, io.EOF
	}
	n := copy(p, s.data[at:])
	if n < len(p) {
		return n, io.EOF
	}
	return n, nil
}
