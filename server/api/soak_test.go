package api

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"math/rand/v2"
	"net/http"
	"net/http/httptest"
	"regexp"
	"runtime"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"slatebell/core/bench"
	"slatebell/internal/lawful"
	"slatebell/internal/quantile"
	"slatebell/internal/soak"
	"slatebell/server/store"
)

// Clients of the crowd that asks for everything, and for how long they do in a usual run.
const (
	askers   = 16
	askUsual = 6 * time.Second
)

// asker is one who works on benches of their own, and asks for whatever there is, lawful and not.
type asker struct {
	r          *rand.Rand
	m          *lawful.Maker
	operations []*computed
	gets       []string // paths of what is only read
	url        string
	bench      *bench.Bench
	ids        []int // of benches that are stored
	revision   int   // of the last of them
	run        string
	tell       func(path string, status int, took time.Duration, answer string)
}

// answered is what some operations took, and what came of them.
type answered struct {
	mu      sync.Mutex
	took    map[string][]time.Duration
	classes map[int]int // statuses by their hundreds
	wrong   map[string]string
}

func (a *answered) tell(path string, status int, took time.Duration, answer string) {
	a.mu.Lock()
	defer a.mu.Unlock()
	a.took[path] = append(a.took[path], took)
	a.classes[status/100]++
	if status >= 500 {
		a.wrong[fmt.Sprint(path, " ", status)] = answer
	}
}

// ask asks, and tells what came of it. What streams is left after a moment.
func (a *asker) ask(method, path, named string, body []byte, headers ...string) []byte {
	ctx := context.Background()
	if strings.HasSuffix(path, "/events") || strings.HasSuffix(path, "/watch") {
		var cancel func()
		ctx, cancel = context.WithTimeout(ctx, 30*time.Millisecond)
		defer cancel()
	}
	req, err := http.NewRequestWithContext(ctx, method, a.url+path, bytes.NewReader(body))
	if err != nil {
		return nil // no path at all
	}
	req.Header.Set("Content-Type", "application/json")
	for i := 0; i+1 < len(headers); i += 2 {
		req.Header.Set(headers[i], headers[i+1])
	}
	begun := time.Now()
	res, err := http.DefaultClient.Do(req)
	if err != nil {
		if ctx.Err() == nil {
			a.tell(named, 599, time.Since(begun), err.Error())
		}
		return nil
	}
	defer res.Body.Close()
	text, err := io.ReadAll(res.Body)
	if ctx.Err() != nil {
		return nil // as long as we looked
	}
	if err != nil {
		a.tell(named, 598, time.Since(begun), err.Error())
		return nil
	}
	a.tell(named, res.StatusCode, time.Since(begun), string(text[:min(len(text), 400)]))
	return text
}

// spoilt is a body as somebody else's program, or a cable, might make it.
func (a *asker) spoilt(body []byte) []byte {
	r := a.r
	body = bytes.Clone(body)
	switch r.IntN(7) {
	case 0:
		return body[:r.IntN(len(body)+1)]
	case 1:
		for range 1 + r.IntN(4) {
			body[r.IntN(len(body))] = byte(r.Uint32())
		}
		return body
	case 2:
		return []byte(strings.Repeat("[", 1+r.IntN(20_000)))
	case 3:
		return bytes.Repeat([]byte{0}, r.IntN(100))
	}
	numbers := regexp.MustCompile(`-?\d+(\.\d+)?`).FindAllIndex(body, -1)
	texts := regexp.MustCompile(`"[^"\\]*"`).FindAllIndex(body, -1)
	with := []string{"-1", "1e308", "9223372036854775808", "0.5", "null", `""`, "[]", "{}", "true", `"\ud800"`, `"` + strings.Repeat("é", 500) + `"`}
	at := numbers
	if r.IntN(2) == 0 {
		at = texts
	}
	if len(at) == 0 {
		return body
	}
	one := at[r.IntN(len(at))]
	return slices.Concat(body[:one[0]], []byte(with[r.IntN(len(with))]), body[one[1]:])
}

// id is a bench's number: mostly one of the asker's own.
func (a *asker) id() string {
	if len(a.ids) > 0 && a.r.IntN(12) > 0 {
		return fmt.Sprint(a.ids[a.r.IntN(len(a.ids))])
	}
	return []string{"0", "999999", "-1", "x", "18446744073709551616"}[a.r.IntN(5)]
}

// step does one thing.
func (a *asker) step(t *testing.T) {
	r := a.r
	switch n := r.IntN(100); {
	case n < 3 || a.bench == nil:
		b, err := lawful.Bench(r)
		if err != nil {
			t.Error(err)
			return
		}
		a.bench = b
		doc, _ := json.Marshal(b)
		var made struct{ ID, Revision int }
		json.Unmarshal(a.ask("POST", "/api/benches", "POST /api/benches", doc), &made)
		if made.ID > 0 {
			a.ids, a.revision = append(a.ids, made.ID), made.Revision
		}
		if len(a.ids) > 4 {
			a.ask("DELETE", fmt.Sprint("/api/benches/", a.ids[0]), "DELETE /api/benches/{id}", nil)
			a.ids = a.ids[1:]
			a.ask("DELETE", "/api/bin", "DELETE /api/bin", nil)
		}
	case n < 35 && len(a.ids) > 0: // typing
		i := r.IntN(len(a.bench.Modules))
		patch := fmt.Sprintf(`[{"op": "add", "path": "/modules/%d/screens/0/rows", "value": [%q]}]`, i, fmt.Sprint("Tide ", r.IntN(100)))
		if r.IntN(8) == 0 {
			patch = string(a.spoilt([]byte(patch)))
		}
		var stored struct{ Revision int }
		json.Unmarshal(a.ask("PATCH", fmt.Sprintf("/api/benches/%d?page=asker", a.ids[len(a.ids)-1]), "PATCH /api/benches/{id}", []byte(patch), "Content-Type", "application/json-patch+json", "If-Match", fmt.Sprintf("%q", fmt.Sprint(a.revision))), &stored)
		a.revision = max(a.revision, stored.Revision)
	case n < 50:
		path := a.gets[r.IntN(len(a.gets))]
		filled := strings.NewReplacer("{id}", a.id(), "{run}", a.run, "{module}", a.bench.Modules[r.IntN(len(a.bench.Modules))].ID, "{revision}", fmt.Sprint(r.IntN(20)), "{entry}", fmt.Sprint(r.IntN(40)), "{n}", "0",
			"{watch}", "none", "{name}", []string{"A00", "A02", "none"}[r.IntN(3)], "{round}", "none", "{recording}", "none").Replace(path)
		a.ask("GET", filled, "GET "+path, nil)
	case n < 55 && len(a.ids) > 0:
		entry := fmt.Sprintf(`{"at": "2026-11-30T12:00:00Z", "kind": "note", "text": "boat %d"}`, r.IntN(9))
		if r.IntN(3) == 0 {
			entry = string(a.spoilt([]byte(entry)))
		}
		a.ask("POST", "/api/benches/"+a.id()+"/log", "POST /api/benches/{id}/log", []byte(entry))
	default:
		c := a.operations[r.IntN(len(a.operations))]
		if slices.Contains(slow, c.path) && r.IntN(8) > 0 {
			return
		}
		body, _ := json.Marshal(c.body(a.m, a.bench))
		if r.IntN(4) == 0 {
			body = a.spoilt(body)
		}
		text := a.ask("POST", c.path, "POST "+c.path, body)
		var run struct{ ID string }
		if c.path == "/api/runs" && json.Unmarshal(text, &run) == nil && run.ID != "" {
			a.run = run.ID
		}
	}
}

// TestSixteen lets sixteen clients edit, run, play, export and look for faults at random, on benches of their own, with lawful and unlawful
// requests: nothing is answered as if the program itself had failed, and what it takes does not grow. SOAK says for how long; docs/reliability.md
// has its figures.
func TestSixteen(t *testing.T) {
	if testing.Short() {
		t.Skip("sixteen clients take a while")
	}
	db, err := store.Open(t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	defer db.Close()
	app := New(Options{Store: db, Files: page})
	defer app.Close()
	server := httptest.NewServer(app)
	defer server.Close()
	doc, err := OpenAPI()
	if err != nil {
		t.Fatal(err)
	}
	var described map[string]any
	if err := json.Unmarshal(doc, &described); err != nil {
		t.Fatal(err)
	}
	var gets []string
	for _, path := range sortedKeys(described["paths"].(map[string]any)) {
		if _, read := described["paths"].(map[string]any)[path].(map[string]any)["get"]; read && !strings.HasPrefix(path, "/api/table/") && !strings.HasPrefix(path, "/api/join") {
			gets = append(gets, path)
		}
	}
	all := &answered{took: map[string][]time.Duration{}, classes: map[int]int{}, wrong: map[string]string{}}
	lasts := max(soak.For(), askUsual)
	seed := soak.Seed(16)
	work := func(lasts time.Duration, round uint64) {
		end := time.Now().Add(lasts)
		var working sync.WaitGroup
		for n := range uint64(askers) {
			working.Go(func() {
				r := rand.New(rand.NewPCG(seed+n, round))
				m, err := lawful.NewMaker(r, doc)
				if err != nil {
					t.Error(err)
					return
				}
				a := &asker{r: r, m: m, operations: computing(m, described), gets: gets, url: server.URL, tell: all.tell}
				for time.Now().Before(end) {
					a.step(t)
				}
			})
		}
		working.Wait()
		http.DefaultClient.CloseIdleConnections()
	}
	// What the caches hold is there after a quarter of the time; what the rest takes beyond it would go on growing.
	work(lasts/4, 1)
	heap, routines := atRest(app)
	work(lasts*3/4, 2)
	moreHeap, moreRoutines := atRest(app)
	for what, answer := range all.wrong {
		t.Errorf("%s: %s", what, answer)
	}
	if moreRoutines > routines+4 {
		t.Errorf("%d goroutines after a quarter of the time, %d at its end", routines, moreRoutines)
	}
	if moreHeap > heap+8<<20 {
		t.Errorf("%d MB after a quarter of the time, %d MB at its end", heap>>20, moreHeap>>20)
	}
	if all.classes[2] < 50 || all.classes[4] < 5 {
		t.Errorf("answers by hundreds: %v", all.classes)
	}
	t.Log(all.says(), fmt.Sprintf("%d kB, %d goroutines after a quarter; %d kB, %d at the end", heap>>10, routines, moreHeap>>10, moreRoutines))
}

// atRest is how much memory is in use, and how many goroutines there are, once nobody asks any more.
func atRest(app *Server) (heap int64, routines int) {
	app.Rest()
	for range 20 { // connections close
		time.Sleep(20 * time.Millisecond)
		runtime.GC()
	}
	var m runtime.MemStats
	runtime.ReadMemStats(&m)
	return int64(m.HeapAlloc), runtime.NumGoroutine()
}

// says sums up what was answered.
func (a *answered) says() string {
	var whole []time.Duration
	type one struct {
		path string
		p99  time.Duration
		n    int
	}
	var each []one
	at := func(list []time.Duration, share float64) time.Duration {
		return quantile.Of(list, share).Round(100 * time.Microsecond)
	}
	for path, list := range a.took {
		whole = append(whole, list...)
		each = append(each, one{path, at(list, .99), len(list)})
	}
	slices.SortFunc(each, func(a, b one) int { return int(b.p99 - a.p99) })
	text := fmt.Sprintf("%d answers, by hundreds %v: %v median, %v p95, %v p99, %v at most; slowest:", len(whole), a.classes, at(whole, .5), at(whole, .95), at(whole, .99), at(whole, 1))
	for _, o := range each[:min(5, len(each))] {
		text += fmt.Sprintf(" %s %v p99 of %d;", o.path, o.p99, o.n)
	}
	return text
}
