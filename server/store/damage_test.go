package store

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"slatebell/core/bench"
	"slatebell/core/bench/logbook"
	"slatebell/internal/soak"
	"slatebell/server/demo"
)

// content is all that people wrote into a database, as it can be read; earlier states that cannot be are left out.
func content(t *testing.T, s *Store) (text string, states map[string]string) {
	t.Helper()
	var out strings.Builder
	states = map[string]string{}
	for _, list := range []func() ([]Record, error){s.List, s.Bin} {
		records, err := list()
		if err != nil {
			t.Fatal(err)
		}
		slices.SortFunc(records, func(a, b Record) int { return int(a.ID) - int(b.ID) })
		for _, r := range records {
			log, err := s.FullLog(r.ID)
			if err != nil {
				t.Fatal(err)
			}
			r.Updated = time.Time{}
			doc, _ := json.Marshal([]any{r, log})
			out.Write(append(doc, '\n'))
			kept, _ := s.States(r.ID)
			for _, st := range kept {
				if was, err := s.State(r.ID, st.Revision); err == nil {
					doc, _ := json.Marshal(was.Bench)
					states[fmt.Sprint(r.ID, "/", st.Revision)] = string(doc)
				}
			}
		}
	}
	return out.String(), states
}

// hurts are what a disk does to a file.
var hurts = map[string]func(r *rand.Rand, data []byte) []byte{
	"bit": func(r *rand.Rand, data []byte) []byte {
		data[r.IntN(len(data))] ^= 1 << r.IntN(8)
		return data
	},
	"noise": func(r *rand.Rand, data []byte) []byte {
		at := r.IntN(len(data))
		for i := at; i < min(at+1+r.IntN(4096), len(data)); i++ {
			data[i] = byte(r.Uint32())
		}
		return data
	},
	"letter": func(r *rand.Rand, data []byte) []byte { // of a bench's text
		from := r.IntN(len(data))
		at := bytes.Index(data[from:], []byte("High water"))
		if at < 0 {
			from, at = 0, bytes.Index(data, []byte("High water"))
		}
		data[from+at+r.IntN(4)]++
		return data
	},
	"page without anything": func(r *rand.Rand, data []byte) []byte {
		at := r.IntN(len(data)/4096) * 4096
		clear(data[at : at+4096])
		return data
	},
	"page in another's place": func(r *rand.Rand, data []byte) []byte {
		from, to := r.IntN(len(data)/4096)*4096, r.IntN(len(data)/4096)*4096
		copy(data[to:to+4096], bytes.Clone(data[from:from+4096]))
		return data
	},
	"end cut off": func(r *rand.Rand, data []byte) []byte { return data[:1+r.IntN(len(data)-1)] },
}

// TestDamaged hurts a database in one place after the other. Each time it is refused with what to do and left as it is, or it opens with every bench
// and every entry as they were; a state of earlier is as it was, or is refused.
func TestDamaged(t *testing.T) {
	dir := t.TempDir()
	s, err := Open(dir)
	if err != nil {
		t.Fatal(err)
	}
	for i := range 5 {
		b := demo.Bench()
		b.Name = fmt.Sprint("Landing ", i)
		r, err := s.Create(b, demo.Archive().Log...)
		if err != nil {
			t.Fatal(err)
		}
		for n := range 6 {
			if r, err = s.Update(r.ID, r.Revision, func(b bench.Bench) (bench.Bench, error) {
				b.Name = fmt.Sprintf("Landing %d, %d boats", i, n)
				return b, nil
			}); err != nil {
				t.Fatal(err)
			}
		}
		picture := logbook.Picture{Name: "glass.png", Type: "image/png", Data: append([]byte("\x89PNG\r\n\x1a\n"), bytes.Repeat([]byte{byte(i)}, 9000)...)}
		if _, err := s.Note(r.ID, logbook.Entry{At: time.Now(), Kind: logbook.Note, Text: "high water at noon", Pictures: []logbook.Picture{picture}}); err != nil {
			t.Fatal(err)
		}
	}
	s.Discard(4)
	want, wantStates := content(t, s)
	s.Close()
	path := filepath.Join(dir, FileName)
	whole, err := os.ReadFile(path)
	if err != nil {
		t.Fatal(err)
	}
	kinds := make([]string, 0, len(hurts))
	for kind := range hurts {
		kinds = append(kinds, kind)
	}
	slices.Sort(kinds)
	opened, refused, mended := 0, 0, 0
	seed := soak.Seed(29)
	for n := range soak.Rounds(60) {
		kind := kinds[n%len(kinds)]
		data := hurts[kind](rand.New(rand.NewPCG(seed, uint64(n))), bytes.Clone(whole))
		for _, name := range []string{path + "-wal", path + "-shm"} {
			os.Remove(name)
		}
		if err := os.WriteFile(path, data, 0o644); err != nil {
			t.Fatal(err)
		}
		s, err := Open(dir)
		if err != nil {
			refused++
			var trouble *Trouble
			if !errors.As(err, &trouble) || trouble.Kind != Corrupt && trouble.Kind != Newer || !strings.Contains(err.Error(), "nothing in it was changed") {
				t.Errorf("%d, %s: %v", n, kind, err)
			}
			if after, _ := os.ReadFile(path); !bytes.Equal(after, data) {
				t.Errorf("%d, %s: refused, and changed", n, kind)
			}
			continue
		}
		opened++
		mended += len(s.Mended())
		got, states := content(t, s)
		if got != want {
			t.Errorf("%d, %s: it opened with something lost", n, kind)
		}
		for of, was := range states {
			if was != wantStates[of] {
				t.Errorf("%d, %s: state %s is another", n, kind, of)
			}
		}
		s.Close()
	}
	t.Logf("%d opened (%d benches put right), %d refused", opened, mended, refused)
	if opened == 0 || refused == 0 || mended == 0 {
		t.Error("one of these is never seen")
	}
}

// TestClock works on while the clock is set back and forth: nothing is lost, the last states are there, and so is a copy of each day.
func TestClock(t *testing.T) {
	dir := t.TempDir()
	s, err := Open(dir)
	if err != nil {
		t.Fatal(err)
	}
	defer s.Close()
	random := rand.New(rand.NewPCG(soak.Seed(29), 5))
	at := time.Date(2026, 11, 30, 12, 0, 0, 0, time.Local)
	s.now = func() time.Time { return at }
	r, err := s.Create(bench.New("Tide board"))
	if err != nil {
		t.Fatal(err)
	}
	for n := range soak.Rounds(400) {
		if random.IntN(4) == 0 {
			at = at.Add(time.Duration(random.Int64N(int64(20*365*24*time.Hour))) - 10*365*24*time.Hour)
		} else {
			at = at.Add(time.Duration(random.IntN(4000)) * time.Second)
		}
		text := fmt.Sprint("board ", n)
		if r, err = s.Update(r.ID, r.Revision, func(b bench.Bench) (bench.Bench, error) { b.Name = text; return b, nil }); err != nil {
			t.Fatal(err)
		}
		if got, err := s.Get(r.ID); err != nil || got.Bench.Name != text {
			t.Fatalf("%d: %q, %v", n, got.Bench.Name, err)
		}
		states, err := s.States(r.ID)
		if err != nil || len(states) < min(n+2, keepAlways) {
			t.Fatalf("%d at %s: %d states, %v", n, at, len(states), err)
		}
		for i := range min(len(states), keepAlways) {
			if states[i].Revision != r.Revision-i {
				t.Fatalf("%d at %s: state %d is revision %d, want %d", n, at, i, states[i].Revision, r.Revision-i)
			}
		}
		if n%8 > 0 {
			continue
		}
		if _, err := s.CopyOfNight(); err != nil {
			t.Fatal(err)
		}
		copies, err := Copies(dir)
		today := filepath.Join(dir, CopiesDir, "nightly-"+at.Format(time.DateOnly)+".db")
		if err != nil || len(copies) > Nights || !slices.ContainsFunc(copies, func(c Copy) bool { return c.Path == today }) {
			t.Fatalf("%d: no copy of %s among %+v, %v", n, today, copies, err)
		}
	}
}
