package e2e

import (
	"bufio"
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"math/rand/v2"
	"net/http"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"slatebell/core/bench"
	"slatebell/e2e/harness"
	"slatebell/internal/quantile"
	"slatebell/internal/soak"
	"slatebell/server/api/door"
)

// A crowd as large as a room holds, and how it works.
const (
	crowdDevices = 40
	crowdRate    = 5 // changes a second of each
)

// guest is a device of the crowd: it types on its own screen of the bench that all have open, and hears what the others do.
type guest struct {
	t      *testing.T
	url    string
	cookie string
	n      int
	http   *http.Client

	mu       sync.Mutex
	revision int
}

func (g *guest) request(ctx context.Context, method, path string, body any, headers ...string) (*http.Response, error) {
	data, err := json.Marshal(body)
	if err != nil {
		return nil, err
	}
	req, err := http.NewRequestWithContext(ctx, method, g.url+path, bytes.NewReader(data))
	if err != nil {
		return nil, err
	}
	req.Header.Set("Cookie", g.cookie)
	req.Header.Set("Content-Type", "application/json")
	for i := 0; i+1 < len(headers); i += 2 {
		req.Header.Set(headers[i], headers[i+1])
	}
	return g.http.Do(req)
}

// known takes a revision over that the guest has heard of.
func (g *guest) known(revision int) int {
	g.mu.Lock()
	defer g.mu.Unlock()
	g.revision = max(g.revision, revision)
	return g.revision
}

// enter lets a guest in, as the desk does by hand.
func enter(t *testing.T, desk, room string, n int) *guest {
	t.Helper()
	g := &guest{t: t, url: room, n: n, http: &http.Client{Transport: &http.Transport{MaxIdleConnsPerHost: 4}}, revision: 1}
	post := func(url string, body any, out any) *http.Response {
		data, _ := json.Marshal(body)
		res, err := g.http.Post(url, "application/json", bytes.NewReader(data))
		if err != nil {
			t.Fatal(err)
		}
		defer res.Body.Close()
		json.NewDecoder(res.Body).Decode(out)
		return res
	}
	var state door.RoomState
	post(desk+"/api/room/code", nil, &state)
	joined := post(room+"/api/join", map[string]string{"code": state.Code.Text, "name": fmt.Sprint("Guest ", n)}, nil)
	res, err := g.http.Get(desk + "/api/room")
	if err != nil {
		t.Fatal(err)
	}
	json.NewDecoder(res.Body).Decode(&state)
	res.Body.Close()
	post(fmt.Sprint(desk, "/api/room/asking/", state.Asking[0].Number), map[string]string{"role": "takes part"}, &state)
	g.cookie = joined.Cookies()[0].Name + "=" + joined.Cookies()[0].Value
	in, err := g.request(t.Context(), "GET", "/api/join", nil)
	if err != nil {
		t.Fatal(err)
	}
	in.Body.Close()
	g.cookie = in.Cookies()[0].Name + "=" + in.Cookies()[0].Value
	return g
}

// text is what a guest types as its nth change, with when.
func (g *guest) text(n int) string { return fmt.Sprintf("%d.%d.%d", g.n, n, time.Now().UnixMilli()) }

// crowd is what is measured.
type crowd struct {
	mu       sync.Mutex
	delays   []time.Duration // from a change's being made to another device's hearing it
	answers  []time.Duration
	last     map[int]string // what each guest had stored last
	refused  int
	failures []string
}

func (c *crowd) note(act func()) {
	c.mu.Lock()
	defer c.mu.Unlock()
	act()
}

// TestCrowd lets a crowd type on one bench, each on a screen of its own, play shows beside it and hear what the others do: no
// edit is lost, everybody has the same in the end, and one that sleeps holds nobody up. With SOAK it goes on for as long as is said;
// its figures stand in docs/performance.md.
func TestCrowd(t *testing.T) {
	if testing.Short() {
		t.Skip("a crowd takes a while")
	}
	lasts := max(soak.For(), 4*time.Second)
	devices := crowdDevices
	if soak.For() == 0 {
		devices = 10
	}
	server, err := harness.Serve(binary, t.TempDir(), "")
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { server.Stop() })
	b := bench.New("Crowd")
	m := b.Modules[0]
	b.Modules = nil
	for i := range 8 {
		m.ID, m.Screens = fmt.Sprint("module-", i+1), nil
		m.Link.Outputs.Address = 0x20 + i
		for s := range 5 {
			m.Screens = append(m.Screens, bench.Screen{ID: fmt.Sprint("screen-", s+1), Rows: []string{"Tide"}})
		}
		b.Modules = append(b.Modules, m)
	}
	storeBench(t, server, b)
	res, err := http.Post(server.URL+"/api/room", "application/json", strings.NewReader(`{"open": true, "address": "127.0.0.2:0"}`))
	if err != nil {
		t.Fatal(err)
	}
	var state door.RoomState
	json.NewDecoder(res.Body).Decode(&state)
	res.Body.Close()
	room := strings.TrimSuffix(state.URL, "/")
	var guests []*guest
	for n := range devices {
		guests = append(guests, enter(t, server.URL, room, n))
	}
	c := &crowd{last: map[int]string{}}
	ctx, cancel := context.WithCancel(t.Context())
	defer cancel()
	var all sync.WaitGroup
	for _, g := range guests {
		all.Go(func() { g.hear(ctx, c) })
	}
	sleeper, err := guests[0].request(ctx, "GET", "/api/benches/1/events?page=sleeper&since=1", nil) // it is never read
	if err != nil {
		t.Fatal(err)
	}
	defer sleeper.Body.Close()
	end := time.Now().Add(lasts)
	var typing sync.WaitGroup
	for _, g := range guests {
		typing.Go(func() { g.types(ctx, c, end) })
		if g.n%4 == 0 {
			typing.Go(func() { g.play(ctx, c, end) })
		}
	}
	typing.Wait()
	time.Sleep(500 * time.Millisecond)
	cancel()
	all.Wait()
	stored := benchOne(t, server.URL)
	lost := 0
	for n, text := range c.last {
		if got := stored.Modules[n%8].Screens[n/8].Rows[0]; got != text {
			lost++
			t.Errorf("guest %d stored %q last; %q stands there", n, text, got)
		}
	}
	for _, f := range slices.Compact(slices.Sorted(slices.Values(c.failures))) {
		t.Error(f)
	}
	if len(c.delays) < devices || len(c.last) != devices {
		t.Errorf("%d changes were heard, %d guests stored any", len(c.delays), len(c.last))
	}
	t.Logf("%d devices, %s: %d changes answered in %s median, %s p95; heard elsewhere %d times, after %s median, %s p95, %s p99; %d refused, %d lost; %.0f MB resident, %.0f at the highest",
		devices, lasts, len(c.answers), quantile.Of(c.answers, .5), quantile.Of(c.answers, .95), len(c.delays), quantile.Of(c.delays, .5), quantile.Of(c.delays, .95), quantile.Of(c.delays, .99), c.refused, lost, server.Resident(), server.Peak())
}

// hear takes what others do, and measures how long it took to come.
func (g *guest) hear(ctx context.Context, c *crowd) {
	for ctx.Err() == nil {
		res, err := g.request(ctx, "GET", fmt.Sprintf("/api/benches/1/events?page=guest-%d&since=%d", g.n, g.known(0)), nil)
		if err != nil {
			continue
		}
		lines := bufio.NewScanner(res.Body)
		lines.Buffer(nil, 4<<20)
		for lines.Scan() {
			data, ok := strings.CutPrefix(lines.Text(), "data: ")
			if !ok {
				continue
			}
			var change struct {
				Revision int
				Patch    []struct{ Value any }
			}
			if json.Unmarshal([]byte(data), &change) != nil || change.Revision == 0 {
				continue
			}
			g.known(change.Revision)
			for _, op := range change.Patch {
				text, _ := op.Value.(string)
				var by, n int
				var at int64
				if k, _ := fmt.Sscanf(text, "%d.%d.%d", &by, &n, &at); k == 3 && by != g.n {
					c.note(func() { c.delays = append(c.delays, time.Since(time.UnixMilli(at))) })
				}
			}
		}
		res.Body.Close()
	}
}

// types changes the guest's own row at its rate, each change against what it knows by then.
func (g *guest) types(ctx context.Context, c *crowd, end time.Time) {
	r := rand.New(rand.NewPCG(28, uint64(g.n)))
	time.Sleep(time.Duration(r.IntN(1000/crowdRate)) * time.Millisecond)
	tick := time.NewTicker(time.Second / crowdRate)
	defer tick.Stop()
	path := fmt.Sprintf("/modules/%d/screens/%d/rows/0", g.n%8, g.n/8)
	for n := 0; time.Now().Before(end); n++ {
		text := g.text(n)
		begun := time.Now()
		res, err := g.request(ctx, "PATCH", fmt.Sprintf("/api/benches/1?page=guest-%d", g.n), []map[string]any{{"op": "replace", "path": path, "value": text}},
			"If-Match", fmt.Sprintf(`"%d"`, g.known(0)), "Content-Type", "application/json-patch+json")
		if err != nil {
			c.note(func() { c.failures = append(c.failures, err.Error()) })
			return
		}
		var stored struct{ Revision int }
		json.NewDecoder(res.Body).Decode(&stored)
		io.Copy(io.Discard, res.Body)
		res.Body.Close()
		switch {
		case res.StatusCode == http.StatusOK:
			g.known(stored.Revision)
			c.note(func() { c.last[g.n] = text; c.answers = append(c.answers, time.Since(begun)) })
		case res.StatusCode == http.StatusConflict:
			c.note(func() { c.refused++ })
		default:
			c.note(func() { c.failures = append(c.failures, "a change is answered "+res.Status) })
		}
		<-tick.C
	}
}

// play runs the guest's module again and again, as its page does for the glass.
func (g *guest) play(ctx context.Context, c *crowd, end time.Time) {
	m := bench.NewModule("gate", "Gate")
	setup := map[string]any{"display": m.Display, "link": m.Link, "rows": []string{"Tide"}}
	for n := 0; time.Now().Before(end); n++ {
		setup["rows"] = []string{fmt.Sprint("Tide ", n)}
		res, err := g.request(ctx, "POST", "/api/runs", setup)
		if err != nil {
			return
		}
		if res.StatusCode >= 500 {
			c.note(func() { c.failures = append(c.failures, "a run is answered "+res.Status) })
		}
		io.Copy(io.Discard, res.Body)
		res.Body.Close()
		time.Sleep(time.Second / crowdRate)
	}
}
