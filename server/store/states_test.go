package store

import (
	"errors"
	"fmt"
	"math/rand/v2"
	"slices"
	"testing"
	"time"

	"slatebell/core/bench"
)

// TestStates changes a bench over five weeks and holds what is kept against the rule: each
// change of the last hour, the last of each hour of a day, the last of each day of a month.
func TestStates(t *testing.T) {
	s, err := Open(t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	defer s.Close()
	at := time.Date(2026, time.March, 1, 12, 0, 0, 0, time.UTC)
	s.now = func() time.Time { return at }
	r, err := s.Create(bench.New("Gate"))
	if err != nil {
		t.Fatal(err)
	}
	if err := s.db.Exec("UPDATE states SET at = ?", at).Error; err != nil { // GORM has its own clock
		t.Fatal(err)
	}
	random := rand.New(rand.NewPCG(22, 2))
	times := map[int]time.Time{1: at}
	for at.Before(time.Date(2026, time.April, 5, 12, 0, 0, 0, time.UTC)) {
		step := time.Duration(1+random.IntN(600)) * time.Minute
		if random.IntN(3) == 0 {
			step = time.Duration(1+random.IntN(300)) * time.Second
		}
		at = at.Add(step)
		r, err = s.Update(r.ID, r.Revision, func(b bench.Bench) (bench.Bench, error) {
			m := b.Modules[0]
			m.Screens = []bench.Screen{{ID: "screen-1", Rows: []string{fmt.Sprint(at)}}}
			b.Modules = []bench.Module{m}
			return b, nil
		})
		if err != nil {
			t.Fatal(err)
		}
		times[r.Revision] = at
	}
	var want []int
	for revision, when := range times {
		last := true // of its hour, or day
		for other, o := range times {
			young, old := now(at, when) < time.Hour, now(at, when) >= 24*time.Hour
			form := "2006-01-02 15"
			if old {
				form = "2006-01-02"
			}
			if !young && other > revision && now(at, o) >= time.Hour && (now(at, o) >= 24*time.Hour) == old && o.Format(form) == when.Format(form) {
				last = false
			}
		}
		always := revision > r.Revision-r.Revision%thinEach-keepAlways // when they were thinned out last
		if (last || always) && now(at, when) < 31*24*time.Hour {
			want = append(want, revision)
		}
	}
	list, err := s.States(r.ID)
	if err != nil {
		t.Fatal(err)
	}
	var got []int
	for _, st := range list {
		got = append(got, st.Revision)
		if one, err := s.State(r.ID, st.Revision); err != nil || st.Revision > 1 && one.Bench.Modules[0].Screens[0].Rows[0] != fmt.Sprint(times[st.Revision]) {
			t.Errorf("revision %d: %+v, %v", st.Revision, one.Bench.Modules[0].Screens[0].Rows, err)
		}
	}
	slices.Sort(got)
	slices.Sort(want)
	// Thinning goes on as time does: what was the last of an hour then may go when its day is thinned, and nothing else may.
	if !slices.Equal(got, want) {
		t.Errorf("kept %v,\nwant %v", got, want)
	}
	if list[0].Revision != r.Revision || list[0].What != "screen screen-1 of New module" {
		t.Errorf("the newest is %+v", list[0])
	}
	if _, err := s.State(r.ID, 2); !errors.Is(err, ErrNotFound) {
		t.Errorf("a state of a month ago: %v", err)
	}
	if _, err := s.States(99); !errors.Is(err, ErrNotFound) {
		t.Errorf("no such bench: %v", err)
	}
}

func now(at, when time.Time) time.Duration { return at.Sub(when) }

// TestSpareBytes bounds what the states of a bench take: first a minute's changes become one,
// then the oldest go, and how it stands now always stays.
func TestSpareBytes(t *testing.T) {
	at := time.Date(2026, time.May, 1, 12, 0, 0, 0, time.UTC)
	var list []State
	for i := range 600 { // one every five seconds
		list = append(list, State{Revision: 600 - i, At: at.Add(-time.Duration(5*i) * time.Second), Bytes: 1000})
	}
	if gone := spare(list, at, 600_000); len(gone) != 0 {
		t.Errorf("%d go though there is room", len(gone))
	}
	if gone := spare(list, at, 599_000); 600-len(gone) != 60+46 { // five minutes each, then a minute each, the first of them at its full minute
		t.Errorf("%d stay", 600-len(gone))
	}
	if gone := spare(list, at, 40_000); 600-len(gone) != 40 || slices.Contains(gone, 600) {
		t.Errorf("%d stay of 40", 600-len(gone))
	}
	if gone := spare(list, at, 10); 600-len(gone) != 1 || slices.Contains(gone, 600) {
		t.Errorf("%d stay where there is no room", 600-len(gone))
	}
}
