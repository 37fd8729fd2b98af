package api

import (
	"bufio"
	"context"
	"crypto/ecdsa"
	"crypto/elliptic"
	"crypto/rand"
	"crypto/tls"
	"crypto/x509"
	"encoding/json"
	"fmt"
	"io"
	"maps"
	"math/big"
	"net"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/coder/websocket"

	"slatebell/core/bench"
	"slatebell/core/bench/logbook"
	"slatebell/core/finding"
	"slatebell/server/api/answer"
	"slatebell/server/api/door"
	"slatebell/server/api/line"
	"slatebell/server/feed"
	"slatebell/server/room"
	"slatebell/server/store"
)

// theRoom is another address of the loopback range: nothing is sent beyond it.
const theRoom = "127.0.0.2:0"

// house is a program with its desk and its room.
type house struct {
	t    *testing.T
	desk string // its URL
	room string // without a slash at its end; "" while it is closed
	db   *store.Store
	dir  string
	now  time.Time // of the room's clock
	http *http.Client
}

func open(t *testing.T, secure *tls.Config) *house {
	t.Helper()
	h := &house{t: t, dir: t.TempDir(), now: time.Date(2026, time.November, 1, 9, 0, 0, 0, time.UTC)}
	var err error
	if h.db, err = store.Open(h.dir); err != nil {
		t.Fatal(err)
	}
	people := room.New(room.Options{Store: h.db, Port: "0", TLS: secure, Now: func() time.Time { return h.now }})
	app := New(Options{Store: h.db, Files: page, Room: people})
	people.Serves(app)
	desk := httptest.NewServer(app)
	h.desk = desk.URL
	h.http = &http.Client{Transport: &http.Transport{TLSClientConfig: &tls.Config{InsecureSkipVerify: true}}, CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}
	t.Cleanup(func() {
		app.EndWatches()
		people.Close()
		desk.Close()
		h.db.Close()
	})
	var state door.RoomState
	h.ask("POST", h.desk+"/api/room", map[string]any{"open": true, "address": theRoom}, &state)
	if !state.Open || !strings.Contains(state.URL, "://127.0.0.2:") {
		t.Fatalf("the room is not open: %+v", state)
	}
	h.room = strings.TrimSuffix(state.URL, "/")
	return h
}

// ask is what a browser does: with a body it sends the origin of its page. It reads the answer into out.
func (h *house) ask(method, url string, body, out any, headers ...string) *http.Response {
	h.t.Helper()
	var data io.Reader
	if body != nil {
		text, _ := json.Marshal(body)
		data = strings.NewReader(string(text))
	}
	req, err := http.NewRequest(method, url, data)
	if err != nil {
		h.t.Fatal(err)
	}
	req.Header.Set("Content-Type", "application/json")
	for i := 0; i+1 < len(headers); i += 2 {
		if headers[i] == "Host" {
			req.Host = headers[i+1]
		} else {
			req.Header.Set(headers[i], headers[i+1])
		}
	}
	res, err := h.http.Do(req)
	if err != nil {
		h.t.Fatal(err)
	}
	defer res.Body.Close()
	text, _ := io.ReadAll(io.LimitReader(res.Body, 1<<20))
	if s, ok := out.(*string); ok {
		*s = string(text)
	} else if out != nil {
		json.Unmarshal(text, out)
	}
	return res
}

// code lets the desk show a code.
func (h *house) code() string {
	h.t.Helper()
	var state door.RoomState
	h.ask("POST", h.desk+"/api/room/code", nil, &state)
	if state.Code == nil || len(state.QR) < 21 || !strings.HasSuffix(state.Code.URL, "/join#"+state.Code.Text) {
		h.t.Fatalf("no code: %+v", state)
	}
	return state.Code.Text
}

// cookie returns a cookie that an answer sets.
func cookie(t *testing.T, res *http.Response, name string) *http.Cookie {
	t.Helper()
	for _, c := range res.Cookies() {
		if c.Name == name {
			return c
		}
	}
	t.Fatalf("%s sets no cookie %s: %v", res.Request.URL, name, res.Header)
	return nil
}

// letIn brings a device in, and returns the cookie that it shows from then on.
func (h *house) letIn(name string, role room.Role) string {
	h.t.Helper()
	asked := h.ask("POST", h.room+"/api/join", map[string]string{"code": h.code(), "name": name}, nil)
	ticket := cookie(h.t, asked, "slatebell-wait")
	var state door.RoomState
	h.ask("GET", h.desk+"/api/room", nil, &state)
	if len(state.Asking) != 1 || state.Asking[0].Name != name || state.Asking[0].From != "127.0.0.1" {
		h.t.Fatalf("the desk is not asked for %s: %+v", name, state.Asking)
	}
	h.ask("POST", fmt.Sprint(h.desk, "/api/room/asking/", state.Asking[0].Number), map[string]any{"role": role}, nil)
	in := h.ask("GET", h.room+"/api/join", nil, nil, "Cookie", ticket.Name+"="+ticket.Value)
	token := cookie(h.t, in, door.DeviceCookie)
	if !token.HttpOnly || token.SameSite != http.SameSiteStrictMode || token.Path != "/" || len(token.Value) != 32 {
		h.t.Fatalf("cookie %v; want 128 bits, HttpOnly, SameSite=Strict", token)
	}
	return token.Name + "=" + token.Value
}

// operation is an operation of the API, with its path filled in.
type operation struct{ id, method, path string }

func operations(t *testing.T) (out []operation) {
	t.Helper()
	doc, err := OpenAPI()
	if err != nil {
		t.Fatal(err)
	}
	var api struct {
		Paths map[string]map[string]struct{ OperationID string }
	}
	if err := json.Unmarshal(doc, &api); err != nil {
		t.Fatal(err)
	}
	filled := strings.NewReplacer("{id}", "1", "{revision}", "1", "{entry}", "1", "{n}", "0", "{module}", "gate", "{name}", "A00", "{round}", "x", "{test}", "x", "{recording}", "x", "{run}", "x", "{watch}", "x", "{nth}", "1", "{number}", "77", "{device}", "77")
	for _, path := range slices.Sorted(maps.Keys(api.Paths)) {
		for method, op := range api.Paths[path] {
			out = append(out, operation{op.OperationID, strings.ToUpper(method), filled.Replace(path)})
		}
	}
	return out
}

// TestNeeds holds the list of what devices may ask for against the operations that there are. What is
// the desk's is named here too, so that a new operation is thought about.
func TestNeeds(t *testing.T) {
	desks := strings.Fields(`get-condition get-report get-backup discard-bench restore-bench empty-bin build-code
		get-room open-room make-code answer-device change-device remove-device give-out list-given collect-given begin-contest end-contest
		drop-recording record-own learn-bench compare-recording get-instant get-recorded-operations get-annotations get-part read-recording
		get-recording-table get-recording-dump get-recording-session search-recording`)
	known := map[string]bool{}
	for _, op := range operations(t) {
		known[op.id] = true
		_, listed := needs[op.id]
		if desk := slices.Contains(desks, op.id) || strings.HasPrefix(op.path, "/api/table"); listed == desk {
			t.Errorf("%s is listed for devices: %v; named as the desk's: %v", op.id, listed, desk)
		}
	}
	for id := range needs {
		if !known[id] {
			t.Errorf("there is no operation %q", id)
		}
	}
}

// TestStrangers asks for everything there is without having been let in, by every way that comes to mind.
func TestStrangers(t *testing.T) {
	h := open(t, nil)
	h.ask("POST", h.desk+"/api/benches", bench.New("Gate"), nil)
	host := strings.TrimPrefix(h.room, "http://")
	guesses := [][]string{
		nil,
		{"Cookie", door.DeviceCookie + "="},
		{"Cookie", door.DeviceCookie + "=" + strings.Repeat("0", 32)},
		{"Cookie", door.DeviceCookie + "='; DROP TABLE devices"},
		{"Cookie", "slatebell-wait=" + strings.Repeat("0", 32)},
		{"Authorization", "Bearer " + strings.Repeat("0", 32)},
		{"X-Forwarded-For", "127.0.0.1", "Forwarded", "for=127.0.0.1", "X-Real-IP", "127.0.0.1"},
		{"Origin", h.room},
		{"Origin", h.desk},
		{"Origin", "null"},
		{"Host", "localhost"},
		{"Host", "127.0.0.1:8414"},
		{"Host", "evil.example"},
		{"Host", strings.Replace(host, "127.0.0.2", "127.0.0.3", 1)},
	}
	for _, op := range operations(t) {
		for _, headers := range guesses {
			if needs[op.id] == stranger && (len(headers) == 0 || headers[0] != "Host" && headers[0] != "Origin") {
				continue
			}
			res := h.ask(op.method, h.room+op.path, map[string]any{}, nil, headers...)
			if res.StatusCode != http.StatusForbidden && !(needs[op.id] == stranger && headers[1] == h.room) {
				t.Errorf("%s %s with %v answers %d", op.method, op.path, headers, res.StatusCode)
			}
		}
	}
	for path, want := range map[string]int{
		"/": 403, "/benches/1/gate/wiring": 403, "/api/nothing": 403, "/api/openapi.json": 403, "/index.html": 403, "/notices.txt": 403, "/api/../": 403,
		"/join": 200, "/assets/one.js": 200, "/bell.svg": 200,
	} {
		if res := h.ask("GET", h.room+path, nil, nil); res.StatusCode != want {
			t.Errorf("%s answers %d, want %d", path, res.StatusCode, want)
		}
	}
	for _, method := range []string{"POST", "PUT", "DELETE", "OPTIONS", "TRACE"} {
		if res := h.ask(method, h.room+"/", nil, nil); res.StatusCode != 403 {
			t.Errorf("%s / answers %d", method, res.StatusCode)
		}
	}
	var list []any
	if res := h.ask("GET", h.desk+"/api/benches", nil, &list); res.StatusCode != 200 || len(list) != 1 {
		t.Errorf("the desk is answered %d, %v", res.StatusCode, list)
	}
}

// TestJoin brings devices in: a code is good once, for two minutes and five tries; what is kept is no token.
func TestJoin(t *testing.T) {
	h := open(t, nil)
	join := func(code, name string) (int, string) {
		var text string
		return h.ask("POST", h.room+"/api/join", map[string]string{"code": code, "name": name}, &text).StatusCode, text
	}
	if status, text := join("ABCDEFGH", "Telephone"); status != 403 || !strings.Contains(text, "there is no code") {
		t.Errorf("without a code: %d, %s", status, text)
	}
	code := h.code()
	for left := 4; left >= 0; left-- {
		want := fmt.Sprintf("%d tries are left", left)
		if left == 0 {
			want = "it has ended now"
		}
		if status, text := join("ABCDEFG2", "Telephone"); status != 403 || !strings.Contains(text, want) {
			t.Errorf("a wrong code: %d, %s; want %s", status, text, want)
		}
	}
	if status, text := join(code, "Telephone"); status != 403 || !strings.Contains(text, "there is no code") {
		t.Errorf("the right code after five wrong ones: %d, %s", status, text)
	}
	code = h.code()
	h.now = h.now.Add(2*time.Minute - time.Second)
	if status, _ := join(strings.ToLower(code[:4])+" "+code[4:], "Telephone"); status != 200 {
		t.Errorf("a code in time, in small letters: %d", status)
	}
	if status, _ := join(code, "Telephone"); status != 403 {
		t.Errorf("a code twice: %d", status)
	}
	code = h.code()
	h.now = h.now.Add(2 * time.Minute)
	if status, _ := join(code, "Telephone"); status != 403 {
		t.Errorf("a code after two minutes: %d", status)
	}
	for _, name := range []string{"", " ", strings.Repeat("x", 41)} {
		if status, _ := join(h.code(), name); status != 422 {
			t.Errorf("name %q: %d", name, status)
		}
	}
	var state door.RoomState
	h.ask("GET", h.desk+"/api/room", nil, &state)
	h.ask("POST", fmt.Sprint(h.desk, "/api/room/asking/", state.Asking[0].Number), map[string]any{}, nil) // it is refused
	if res := h.ask("GET", h.room+"/api/join", nil, nil); res.StatusCode != 403 {
		t.Errorf("one that was refused waits: %d", res.StatusCode)
	}

	shows := h.letIn("Telephone of the hall", room.TakesPart)
	var me door.Me
	if h.ask("GET", h.room+"/api/me", nil, &me, "Cookie", shows); me != (door.Me{Name: "Telephone of the hall", Role: room.TakesPart, Room: true}) {
		t.Errorf("who it is: %+v", me)
	}
	if h.ask("GET", h.desk+"/api/me", nil, &me); !me.Desk {
		t.Errorf("the desk is %+v", me)
	}
	_, token, _ := strings.Cut(shows, "=")
	files, _ := filepath.Glob(filepath.Join(h.dir, "*"))
	for _, name := range files {
		if data, _ := os.ReadFile(name); strings.Contains(string(data), token) {
			t.Errorf("%s holds the token itself", name)
		}
	}
}

// TestRoles asks for everything as a device that watches and as one that takes part, and takes one off the
// list while it listens.
func TestRoles(t *testing.T) {
	h := open(t, nil)
	h.ask("POST", h.desk+"/api/benches", bench.New("Gate"), nil)
	watches, takesPart := h.letIn("Tablet", room.Watches), h.letIn("Telephone", room.TakesPart)
	for _, op := range operations(t) {
		if op.id == "watch-bench" {
			continue // it does not end
		}
		for shows, may := range map[string]bool{watches: needs[op.id] >= watch, takesPart: needs[op.id] >= part} {
			res := h.ask(op.method, h.room+op.path, map[string]any{}, nil, "Cookie", shows)
			if forbidden := res.StatusCode == http.StatusForbidden; forbidden == may && needs[op.id] != stranger {
				t.Errorf("%s %s by %.20s answers %d; it may: %v", op.method, op.path, shows, res.StatusCode, may)
			}
		}
	}
	var state door.RoomState
	h.ask("GET", h.desk+"/api/room", nil, &state)
	ended := make(chan struct{})
	stream := h.listen(h.room, "page-1", 1, takesPart)
	go func() {
		defer close(ended)
		io.Copy(io.Discard, stream)
	}()
	h.ask("DELETE", fmt.Sprint(h.desk, "/api/room/devices/", state.Devices[1].ID), nil, nil)
	select {
	case <-ended:
	case <-time.After(5 * time.Second):
		t.Error("a device that was taken off the list listens on")
	}
	if res := h.ask("GET", h.room+"/api/benches", nil, nil, "Cookie", takesPart); res.StatusCode != 403 {
		t.Errorf("its token is still good: %d", res.StatusCode)
	}
	h.ask("PATCH", fmt.Sprint(h.desk, "/api/room/devices/", state.Devices[0].ID), map[string]string{"role": "takes part"}, nil)
	if res := h.ask("POST", h.room+"/api/benches/new", nil, nil, "Cookie", watches); res.StatusCode != 201 {
		t.Errorf("one that takes part now: %d", res.StatusCode)
	}
	h.ask("POST", h.desk+"/api/room", map[string]any{"open": false}, nil)
	if _, err := net.DialTimeout("tcp", strings.TrimPrefix(h.room, "http://"), time.Second); err == nil {
		t.Error("the room is closed and listens")
	}
}

// TestSecure opens the room with a certificate: requests and lines are answered, and cookies kept to it.
func TestSecure(t *testing.T) {
	key, err := ecdsa.GenerateKey(elliptic.P256(), rand.Reader)
	if err != nil {
		t.Fatal(err)
	}
	template := &x509.Certificate{SerialNumber: big.NewInt(1), NotAfter: time.Now().Add(time.Hour), IPAddresses: []net.IP{net.ParseIP("127.0.0.2")}}
	der, err := x509.CreateCertificate(rand.Reader, template, template, &key.PublicKey, key)
	if err != nil {
		t.Fatal(err)
	}
	h := open(t, &tls.Config{Certificates: []tls.Certificate{{Certificate: [][]byte{der}, PrivateKey: key}}})
	if !strings.HasPrefix(h.room, "https://") {
		t.Fatalf("the room is at %s", h.room)
	}
	conn, _, err := websocket.Dial(t.Context(), h.room+line.Path, &websocket.DialOptions{HTTPClient: h.http, HTTPHeader: http.Header{"Cookie": {h.letIn("Tablet", room.Watches)}, "Origin": {h.room}}})
	if err != nil {
		t.Fatal(err)
	}
	defer conn.CloseNow()
	if status, text := (&onLine{Conn: conn}).ask(t, "/api/runs", gate("Tide")); status != 200 {
		t.Errorf("on a line of its own: %d %.200s", status, text)
	}
	asked := h.ask("POST", h.room+"/api/join", map[string]string{"code": h.code(), "name": "Telephone"}, nil, "Origin", h.room)
	if c := cookie(t, asked, "slatebell-wait"); asked.StatusCode != 200 || !c.Secure {
		t.Errorf("%d, %v", asked.StatusCode, c)
	}
	if res, err := http.Get(strings.Replace(h.room, "https:", "http:", 1)); err == nil && res.StatusCode < 400 {
		t.Errorf("plain HTTP is answered %d", res.StatusCode)
	}
}

// TestRoomKept opens the room for the next start too, and closes it again.
func TestRoomKept(t *testing.T) {
	h := open(t, nil)
	people := room.New(room.Options{Store: h.db, Port: "0"})
	if at := people.Kept(); at != "" {
		t.Errorf("it is opened again on %q without having been asked to", at)
	}
	h.ask("POST", h.desk+"/api/room", map[string]any{"open": true, "address": theRoom, "keep": true}, nil)
	if at := people.Kept(); !strings.HasPrefix(at, "127.0.0.2:") {
		t.Errorf("it is opened again on %q", at)
	}
	for _, address := range []string{"0.0.0.0", "a b", "203.0.113.7:80", "127.0.0.2:99999"} {
		var text string
		if res := h.ask("POST", h.desk+"/api/room", map[string]any{"open": true, "address": address}, &text); res.StatusCode != 422 {
			t.Errorf("%q is answered %d, %s", address, res.StatusCode, text)
		}
	}
	h.ask("POST", h.desk+"/api/room", map[string]any{"open": false}, nil)
	if at := people.Kept(); at != "" {
		t.Errorf("closed, it is opened again on %q", at)
	}
}

// listen begins to hear what happens on bench 1, until the test is over.
func (h *house) listen(base, name string, since int, shows string) io.Reader {
	h.t.Helper()
	ctx, cancel := context.WithCancel(context.Background())
	h.t.Cleanup(cancel)
	req, err := http.NewRequestWithContext(ctx, "GET", fmt.Sprintf("%s/api/benches/1/events?page=%s&since=%d", base, name, since), nil)
	if err != nil {
		h.t.Fatal(err)
	}
	if shows != "" {
		req.Header.Set("Cookie", shows)
	}
	res, err := h.http.Do(req)
	if err != nil || res.StatusCode != 200 {
		h.t.Fatalf("%v, %v", res, err)
	}
	return res.Body
}

// events reads events as they come: each is its kind and its data.
func events(r io.Reader) <-chan [2]string {
	out := make(chan [2]string, 100)
	go func() {
		defer close(out)
		kind := "message"
		lines := bufio.NewScanner(r)
		lines.Buffer(nil, 1<<20)
		for lines.Scan() {
			if k, ok := strings.CutPrefix(lines.Text(), "event: "); ok {
				kind = k
			} else if d, ok := strings.CutPrefix(lines.Text(), "data: "); ok {
				out <- [2]string{kind, d}
			}
		}
	}()
	return out
}

// next waits for the next event of a kind.
func next[T any](t *testing.T, from <-chan [2]string, kind string) (out T) {
	t.Helper()
	limit := time.After(10 * time.Second)
	for {
		select {
		case e, open := <-from:
			if !open {
				t.Fatalf("it ended before %s came", kind)
			}
			if e[0] != kind {
				continue
			}
			if err := json.Unmarshal([]byte(e[1]), &out); err != nil {
				t.Fatal(err)
			}
			return out
		case <-limit:
			t.Fatalf("%s does not come", kind)
		}
	}
}

// TestTogether changes a bench at the desk and in the room: each hears of it, what they missed too, and
// sees where the others are.
func TestTogether(t *testing.T) {
	h := open(t, nil)
	h.ask("POST", h.desk+"/api/benches", bench.New("Gate"), nil)
	shows := h.letIn("Telephone", room.TakesPart)
	hall := events(h.listen(h.room, "page-room", 1, shows))
	desk := events(h.listen(h.desk, "page-desk", 1, ""))
	const kind = "application/json-patch+json"
	patch := func(base, revision, name string, ops finding.Patch, more ...string) int {
		return h.ask("PATCH", base+"/api/benches/1?page="+name, ops, nil, append(more, "If-Match", `"`+revision+`"`, "Content-Type", kind)...).StatusCode
	}
	next[map[string]any](t, desk, "here")
	if status := patch(h.desk, "1", "page-desk", finding.Patch{finding.Replace("/name", "Slip")}); status != 200 {
		t.Fatal(status)
	}
	if c := next[feed.Change](t, hall, "change"); c.Revision != 2 || c.From != 1 || c.By != "page-desk" || len(c.Patch) != 1 || c.Patch[0].Value != "Slip" {
		t.Errorf("the room hears %+v", c)
	}
	// Against an older revision, of another place: both stand.
	if status := patch(h.room, "1", "page-room", finding.Patch{finding.Add("/modules/0/screens/0/rows/0", "Tide")}, "Cookie", shows); status != 200 {
		t.Fatal(status)
	}
	next[feed.Change](t, desk, "change")
	if c := next[feed.Change](t, desk, "change"); c.Revision != 3 || c.By != "page-room" {
		t.Errorf("the desk hears %+v", c)
	}
	var states []struct{ By string }
	if h.ask("GET", h.desk+"/api/benches/1/states", nil, &states); len(states) != 3 || states[0].By != "Telephone" || states[1].By != "" {
		t.Errorf("states %+v", states)
	}
	row := 1
	h.ask("POST", h.room+"/api/benches/1/here?page=page-room", feed.Whereabouts{View: "Screens", Module: "module-1", Row: &row, Col: &row}, nil, "Cookie", shows)
	for {
		here := next[struct{ All []feed.Seen }](t, desk, "here").All
		if i := slices.IndexFunc(here, func(s feed.Seen) bool { return s.Who == "Telephone" && s.View == "Screens" && s.Row != nil }); i >= 0 {
			break
		}
	}
	h.ask("POST", h.desk+"/api/benches/1/log", logbook.Entry{At: h.now, Kind: logbook.Note, Text: "oar"}, nil)
	next[map[string]any](t, hall, "logged")
	// What was missed: as one change where the state is kept, else as the whole bench.
	if c := next[feed.Change](t, events(h.listen(h.desk, "late", 1, "")), "change"); c.From != 1 || c.Revision != 3 || len(c.Patch) != 2 {
		t.Errorf("who was away hears %+v", c)
	}
	if d := next[answer.BenchDocument](t, events(h.listen(h.desk, "lost", 900, "")), "renewed"); d.Revision != 3 || d.Bench.Name != "Slip" {
		t.Errorf("who knows another bench hears %+v", d)
	}
	h.ask("DELETE", h.desk+"/api/benches/1", nil, nil)
	if m := next[struct{ Binned bool }](t, hall, "moved"); !m.Binned {
		t.Error("it is in the bin")
	}
}

// TestGiven gives a bench out, follows the copies, plays a contest in two of them, and collects all.
func TestGiven(t *testing.T) {
	h := open(t, nil)
	b := bench.New("Gate")
	b.Modules[0].Screens[0].Rows = []string{"Tide 3.2 m"}
	h.ask("POST", h.desk+"/api/benches", b, nil)
	type copied struct {
		ID           uint
		To, Name     string
		Open, Steps  int
		Screens, Lit int
		Rounds       []struct{ Score, Contest int }
	}
	var copies []copied
	h.ask("POST", h.desk+"/api/benches/1/given", map[string]any{"names": []string{"Otter crew", " Heron  crew"}}, &copies)
	if len(copies) != 2 || copies[0].To != "Heron crew" || copies[1].Name != "Otter crew: Gate" || copies[1].Screens != 1 {
		t.Fatalf("copies %+v", copies)
	}
	for _, names := range [][]string{{"Otter crew"}, {""}, {strings.Repeat("x", 41)}, {"a", "a"}, {}} {
		if res := h.ask("POST", h.desk+"/api/benches/1/given", map[string]any{"names": names}, nil); res.StatusCode != 422 {
			t.Errorf("%q is answered %d", names, res.StatusCode)
		}
	}
	contest := map[string]any{"bench": b, "module": 0, "screen": 0, "level": 3, "rounds": 2}
	if res := h.ask("PUT", h.desk+"/api/benches/1/contest", contest, nil); res.StatusCode != 200 {
		t.Fatal(res.StatusCode)
	}
	var text string
	h.ask("GET", fmt.Sprint(h.desk, "/api/benches/", copies[0].ID, "/contest"), nil, &text)
	if !strings.Contains(text, `"begun":true`) || strings.Contains(text, "seed") {
		t.Errorf("who plays sees %s", text)
	}
	var faults []struct{ ID string }
	h.ask("POST", h.desk+"/api/faults/catalogue", map[string]any{"bench": b, "module": 0, "screen": 0}, &faults)
	if len(faults) == 0 {
		t.Fatal("no faults")
	}
	hidden := map[string]string{}
	for _, c := range copies {
		for nth := 1; nth <= 2; nth++ {
			var round struct {
				ID      string
				Verdict *struct{ Hidden []struct{ ID string } }
			}
			if res := h.ask("POST", fmt.Sprint(h.desk, "/api/benches/", c.ID, "/contest/rounds/", nth), nil, &round); res.StatusCode != 201 {
				t.Fatalf("round %d: %d", nth, res.StatusCode)
			}
			h.ask("POST", h.desk+"/api/practice/"+round.ID+"/answer", map[string]any{"faults": []string{faults[0].ID}}, &round)
			if round.Verdict == nil || len(round.Verdict.Hidden) == 0 {
				t.Fatalf("no verdict: %+v", round)
			}
			key := fmt.Sprint("round ", nth)
			if was, there := hidden[key]; there && was != round.Verdict.Hidden[0].ID {
				t.Errorf("%s hides %s for one and %s for the other", key, was, round.Verdict.Hidden[0].ID)
			}
			hidden[key] = round.Verdict.Hidden[0].ID
		}
	}
	if res := h.ask("POST", fmt.Sprint(h.desk, "/api/benches/", copies[0].ID, "/contest/rounds/3"), nil, nil); res.StatusCode != 422 {
		t.Errorf("a third round of two: %d", res.StatusCode)
	}
	h.ask("POST", fmt.Sprint(h.desk, "/api/benches/", copies[0].ID, "/log"), logbook.Entry{At: h.now, Kind: logbook.Practice, Text: "Found", Round: &logbook.Round{Level: 3, Right: true, Score: 80, Contest: 1}}, nil)
	h.ask("GET", h.desk+"/api/benches/1/given", nil, &copies)
	if len(copies[0].Rounds) != 1 || copies[0].Rounds[0].Score != 80 || copies[0].Rounds[0].Contest != 1 {
		t.Errorf("how it went: %+v", copies[0])
	}
	var archive string
	h.ask("GET", h.desk+"/api/benches/1/given.zip", nil, &archive)
	if !strings.HasPrefix(archive, "PK") || !strings.Contains(archive, "01-heron-crew.bench.json") || !strings.Contains(archive, "02-otter-crew.bench.json") {
		t.Errorf("%.40q is no archive of both", archive)
	}
	if res := h.ask("DELETE", h.desk+"/api/benches/1/contest", nil, nil); res.StatusCode != 204 {
		t.Error(res.StatusCode)
	}
	if res := h.ask("POST", fmt.Sprint(h.desk, "/api/benches/", copies[0].ID, "/contest/rounds/1"), nil, nil); res.StatusCode != 404 {
		t.Errorf("a round of a contest that is over: %d", res.StatusCode)
	}
}
