// Package recordings answers for recordings of what was on a module's wires: files that the page drops here, held for as long as the program runs, and
// recordings of our own programs.
package recordings

import (
	"crypto/rand"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"sync"

	"github.com/danielgtaylor/huma/v2"

	"slatebell/core/prove/capture"
	"slatebell/core/prove/replay"
	"slatebell/formats/recording"
)

// Shelf holds the recordings that were dropped last. Its zero value is ready; Close removes what lies on the disk.
type Shelf struct {
	mu   sync.Mutex
	dir  string // made when it is needed
	kept []*kept
}

// Of how many recordings are held, and how many ways to read each: the oldest gives way.
const mostKept, mostReadings = 4, 3

// kept is a recording that is held.
type kept struct {
	id, name string
	file     *os.File
	size     int64
	options  recording.Options
	memory   *capture.Memory // of one that was made here; nil for a file

	mu       sync.Mutex // one reads it at a time
	opened   *replay.Recording
	readings []*reading       // the last asked for at the end
	tell     func(done int64) // of how much of the file was read; may be nil
}

// at is the file as it is read, which tells how far it has come.
func (k *kept) ReadAt(p []byte, at int64) (int, error) {
	n, err := k.file.ReadAt(p, at)
	if k.tell != nil {
		k.tell(at + int64(n))
	}
	return n, err
}

// open begins to read it.
func (k *kept) open() (capture.Source, error) {
	if k.memory != nil {
		return k.memory.Source(), nil
	}
	return recording.Open(k, k.size, k.options)
}

// close lets go of what it holds.
func (k *kept) close() {
	k.mu.Lock()
	defer k.mu.Unlock()
	for _, r := range k.readings {
		r.close()
	}
	if k.file != nil {
		k.file.Close()
		os.Remove(k.file.Name())
	}
}

// reading returns one of its readings by its id, which is the last asked for then; nil where it gave way.
func (k *kept) reading(id string) *reading {
	at := slices.IndexFunc(k.readings, func(r *reading) bool { return r.id == id })
	if at < 0 {
		return nil
	}
	r := k.readings[at]
	k.readings = append(slices.Delete(k.readings, at, at+1), r)
	return r
}

// place is a new file on the disk.
func (s *Shelf) place() (*os.File, error) {
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.dir == "" {
		dir, err := os.MkdirTemp("", "slatebell-recordings-")
		if err != nil {
			return nil, fmt.Errorf("holding a recording: %w", err)
		}
		s.dir = dir
	}
	f, err := os.CreateTemp(s.dir, "*")
	if err != nil {
		return nil, fmt.Errorf("holding a recording: %w", err)
	}
	return f, nil
}

// put holds a recording, and lets the oldest go where there are too many.
func (s *Shelf) put(k *kept) {
	s.mu.Lock()
	k.id = rand.Text()
	s.kept = append(s.kept, k)
	var gone *kept
	if len(s.kept) > mostKept {
		gone, s.kept = s.kept[0], s.kept[1:]
	}
	s.mu.Unlock()
	if gone != nil {
		gone.close()
	}
}

// drop lets go of a recording.
func (s *Shelf) drop(k *kept) {
	s.mu.Lock()
	s.kept = slices.DeleteFunc(s.kept, func(other *kept) bool { return other == k })
	s.mu.Unlock()
	k.close()
}

// find returns a recording by its id, or that of one of its readings.
func (s *Shelf) find(id string) (*kept, error) {
	id, _, _ = strings.Cut(id, ".")
	s.mu.Lock()
	defer s.mu.Unlock()
	for _, k := range s.kept {
		if k.id == id {
			return k, nil
		}
	}
	return nil, huma.Error404NotFound("this recording is held no longer; drop its file again")
}

// Close removes what lies on the disk.
func (s *Shelf) Close() {
	s.mu.Lock()
	list, dir := s.kept, s.dir
	s.kept, s.dir = nil, ""
	s.mu.Unlock()
	for _, k := range list {
		k.close()
	}
	if dir != "" {
		os.RemoveAll(dir)
	}
}

// take holds what comes as a file.
func (s *Shelf) take(name string, o recording.Options, r io.Reader) (*kept, error) {
	file, err := s.place()
	if err != nil {
		return nil, err
	}
	size, err := io.Copy(file, io.LimitReader(r, MaxBytes+1))
	k := &kept{name: filepath.Base(name), file: file, size: size, options: o}
	switch {
	case err != nil:
		err = fmt.Errorf("the recording did not come whole: %w", err)
	case size > MaxBytes:
		err = fmt.Errorf("the recording has more than %d GB; expected a shorter one, or at a lower rate", MaxBytes>>30)
	}
	if err != nil {
		k.close()
		return nil, err
	}
	s.put(k)
	return k, nil
}
