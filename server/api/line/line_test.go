package line

import (
	"context"
	"fmt"
	"io"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
	"time"

	"github.com/coder/websocket"
)

// dial opens a line to a handler.
func dial(t *testing.T, h http.Handler) (*Lines, *websocket.Conn) {
	t.Helper()
	lines := New(h, 1<<10)
	server := httptest.NewServer(http.HandlerFunc(lines.Open))
	conn, _, err := websocket.Dial(t.Context(), server.URL, nil)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() {
		conn.CloseNow()
		lines.Close()
		server.Close()
	})
	return lines, conn
}

func send(t *testing.T, conn *websocket.Conn, message string) {
	t.Helper()
	if err := conn.Write(t.Context(), websocket.MessageText, []byte(message)); err != nil {
		t.Fatal(err)
	}
}

func hear(t *testing.T, conn *websocket.Conn) string {
	t.Helper()
	ctx, done := context.WithTimeout(t.Context(), 20*time.Second)
	defer done()
	_, message, err := conn.Read(ctx)
	if err != nil {
		t.Fatal(err)
	}
	return string(message)
}

// TestQuestions asks many at a time, of which the first is answered last: each gets its own answer; one that panics fails alone, and
// one of no path, or of the line's own, finds nothing.
func TestQuestions(t *testing.T) {
	last := make(chan bool)
	_, conn := dial(t, http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		body, _ := io.ReadAll(r.Body)
		switch r.URL.Path {
		case "/api/slow":
			<-last
		case "/api/bad":
			panic("bad")
		case "/api/runs":
		default:
			w.WriteHeader(http.StatusNotFound)
		}
		fmt.Fprintf(w, "%s %s %s?%s", r.Method, body, r.URL.Path, r.URL.RawQuery)
	}))
	want := map[string]bool{"{\"id\":1,\"status\":200}\nPOST slow /api/slow?": true}
	send(t, conn, "{\"id\":1,\"path\":\"/api/slow\"}\nslow")
	for i := 2; i < 40; i++ {
		send(t, conn, fmt.Sprintf("{\"id\":%d,\"path\":\"/api/runs?n=%d\"}\n%d\n%d", i, i, i, i))
		want[fmt.Sprintf("{\"id\":%d,\"status\":200}\nPOST %d\n%d /api/runs?n=%d", i, i, i, i)] = true
	}
	for id, c := range map[int][2]string{40: {"/api/bad", "500}\n"}, 41: {"/other", "404}\nPOST  /api/?"}, 42: {Path, "404}\nPOST  /api/?"}, 43: {"/api/%zz", "404}\nPOST  /api/?"}} {
		send(t, conn, fmt.Sprintf("{\"id\":%d,\"path\":%q}", id, c[0]))
		want[fmt.Sprintf("{\"id\":%d,\"status\":%s", id, c[1])] = true
	}
	for len(want) > 1 {
		got := hear(t, conn)
		if !want[got] {
			t.Fatalf("heard %q", got)
		}
		delete(want, got)
	}
	close(last)
	if got := hear(t, conn); !want[got] {
		t.Errorf("the slow one answers %q", got)
	}
}

// TestDrop gives a question up: its work ends, no answer comes, and its number is free again.
func TestDrop(t *testing.T) {
	begun, ended := make(chan bool), make(chan bool, 1)
	_, conn := dial(t, http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if r.URL.Path == "/api/long" {
			begun <- true
			<-r.Context().Done()
			ended <- true
		}
		io.WriteString(w, r.URL.Path)
	}))
	send(t, conn, `{"id":1,"path":"/api/long"}`)
	<-begun
	send(t, conn, `{"id":1,"drop":true}`)
	<-ended
	send(t, conn, `{"id":99,"drop":true}`) // there is none
	send(t, conn, `{"id":1,"path":"/api/short"}`)
	if got := hear(t, conn); got != "{\"id\":1,\"status\":200}\n/api/short" {
		t.Errorf("heard %q", got)
	}
	send(t, conn, `{"id":1,"path":"/api/long"}`)
	<-begun
	conn.CloseNow() // all of a line that ended is given up
	<-ended
}

// TestSince asks the same path again and again, of answers that are much alike: each comes as what is new since the one before it, which need not be
// the one that was asked before; answers that have little in common, that are none of JSON, or no good ones come whole.
func TestSince(t *testing.T) {
	long := strings.Repeat("tide ", 20)
	answers := map[string]string{
		"a": `{"long":"` + long + `","n":1}`,
		"b": `{"long":"` + long + `","n":2}`,
		"c": `{"n":3}`,
	}
	_, conn := dial(t, http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		body, _ := io.ReadAll(r.Body)
		w.Header().Set("Content-Type", "application/json")
		if r.URL.Path == "/api/text" {
			w.Header().Set("Content-Type", "text/csv")
		}
		if len(body) > 1 {
			w.WriteHeader(http.StatusUnprocessableEntity)
		}
		io.WriteString(w, answers[string(body[:1])])
	}))
	for i, c := range []struct{ path, body, want string }{
		{"/api/a", "a", `"status":200,"path":"/api/a"}` + "\n" + answers["a"]},
		{"/api/a", "b", `"status":200,"path":"/api/a","since":1}` + "\n" + `[{"op":"replace","path":"/n","value":2}]`},
		{"/api/a", "b", `"status":200,"path":"/api/a","since":2}` + "\n[]"},
		{"/api/b", "b", `"status":200,"path":"/api/b"}` + "\n" + answers["b"]},
		{"/api/a", "b!", `"status":422}` + "\n" + answers["b"]},
		{"/api/a", "a", `"status":200,"path":"/api/a","since":3}` + "\n" + `[{"op":"replace","path":"/n","value":1}]`},
		{"/api/a", "c", `"status":200,"path":"/api/a"}` + "\n" + answers["c"]},
		{"/api/a", "a", `"status":200,"path":"/api/a"}` + "\n" + answers["a"]},
		{"/api/text", "a", `"status":200}` + "\n" + answers["a"]},
		{"/api/text", "a", `"status":200}` + "\n" + answers["a"]},
	} {
		send(t, conn, fmt.Sprintf("{\"id\":%d,\"path\":%q}\n%s", i+1, c.path, c.body))
		if got, want := hear(t, conn), fmt.Sprintf(`{"id":%d,%s`, i+1, c.want); got != want {
			t.Errorf("question %d is answered %s, want %s", i+1, got, want)
		}
	}
	for i := range 2 * mostKept {
		send(t, conn, fmt.Sprintf("{\"id\":%d,\"path\":\"/api/a?%d\"}\na", 100+i, i))
		if kept := strings.Contains(hear(t, conn), `"path"`); kept != (i < mostKept-2) {
			t.Errorf("of %d paths the last answer is kept: %v", 3+i, kept)
		}
	}
}

// TestNoMessage ends a line on which something else is said, with a word of what was expected; and all lines with Close.
func TestNoMessage(t *testing.T) {
	held := make(chan bool)
	defer close(held)
	h := http.HandlerFunc(func(http.ResponseWriter, *http.Request) { <-held })
	for messages, want := range map[string]string{
		`hm`:       "expected a line such as",
		`{"id":1}`: `expected a line such as`,
		`{"id":1,"path":"/api/runs"}` + "|" + `{"id":1,"path":"/api/runs"}`: errTwice.Error(),
		strings.Repeat(" ", 1<<10+1):                                        "read limited at 1025 bytes",
	} {
		_, conn := dial(t, h)
		for m := range strings.SplitSeq(messages, "|") {
			send(t, conn, m)
		}
		if _, _, err := conn.Read(t.Context()); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("after %.40q: %v, want %q", messages, err, want)
		}
	}
	lines, conn := dial(t, h)
	lines.Close()
	if _, _, err := conn.Read(t.Context()); err == nil {
		t.Error("a line goes on after Close")
	}
}
