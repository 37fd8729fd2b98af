package api

import (
	"context"
	"encoding/json"
	"fmt"
	"net/http"
	"reflect"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/coder/websocket"
	jsonpatch "github.com/evanphx/json-patch/v5"

	"slatebell/core/bench"
	"slatebell/core/table/breadboard"
	"slatebell/server/api/door"
	"slatebell/server/api/line"
	"slatebell/server/room"
)

// onLine is a line from the page's side, which keeps what it is told to.
type onLine struct {
	*websocket.Conn
	asked int
	kept  map[string]heard
	told  int // answers that came as what is new since another one
}

type heard struct {
	id   int
	text string
}

// ask asks on a line and returns the status and the answer.
func (l *onLine) ask(t *testing.T, path string, body any) (int, string) {
	t.Helper()
	data, _ := json.Marshal(body)
	ctx, done := context.WithTimeout(t.Context(), 20*time.Second)
	defer done()
	l.asked++
	if err := l.Write(ctx, websocket.MessageText, fmt.Appendf(nil, "{\"id\":%d,\"path\":%q}\n%s", l.asked, path, data)); err != nil {
		t.Fatal(err)
	}
	_, message, err := l.Read(ctx)
	if err != nil {
		t.Fatal(err)
	}
	head, text, _ := strings.Cut(string(message), "\n")
	var said struct {
		ID, Status, Since int
		Path              string
	}
	if err := json.Unmarshal([]byte(head), &said); err != nil || said.ID != l.asked || said.Since != 0 && l.kept[path].id != said.Since {
		t.Fatalf("%s: %v", head, err)
	}
	if said.Since != 0 {
		l.told++
		patch, err := jsonpatch.DecodePatch([]byte(text))
		if err != nil {
			t.Fatalf("%s: %v", text, err)
		}
		whole, err := patch.Apply([]byte(l.kept[path].text))
		if err != nil {
			t.Fatalf("%s: %v", text, err)
		}
		text = string(whole)
	}
	if said.Path != "" {
		if l.kept == nil {
			l.kept = map[string]heard{}
		}
		l.kept[path] = heard{said.ID, text}
	}
	return said.Status, text
}

// plain is a JSON text as values.
func plain(t *testing.T, text string) (v any) {
	t.Helper()
	if text != "" {
		if err := json.Unmarshal([]byte(text), &v); err != nil {
			t.Fatalf("%.200s: %v", text, err)
		}
	}
	return v
}

// TestLineAnswersAlike asks on a line what is posted as well: statuses and answers are the same, of good questions and of bad ones.
func TestLineAnswersAlike(t *testing.T) {
	s := serve(t)
	conn, _, err := websocket.Dial(t.Context(), s.URL+line.Path, nil)
	if err != nil {
		t.Fatal(err)
	}
	defer conn.CloseNow()
	b := bench.New("Quillfish Landing")
	bad := gate("Tide")
	bad.Display.Geometry = "17x9"
	moved := b
	moved.Wiring, err = breadboard.Plan(&b)
	if err != nil {
		t.Fatal(err)
	}
	laid := moved
	moved.Wiring.Wires = slices.Clone(laid.Wiring.Wires)
	moved.Wiring.Wires[2].To = laid.Wiring.Wires[3].From
	l := onLine{Conn: conn}
	for _, c := range []struct {
		path   string
		body   any
		status int
	}{
		{"/api/runs", gate("QUILLFISH  GATE", "Tide 3.2m →14:05"), 200},
		{"/api/runs", bad, 422},
		{"/api/runs", "no object", 422},
		{"/api/wiring", b, 200},
		{"/api/wiring", laid, 200},
		{"/api/wiring", moved, 200},
		{"/api/wiring", laid, 200},
		{"/api/plan", b, 200},
		{"/api/bell", nil, 404},
		{"/api/runs", gate("QUILLFISH  GATE", "Tide 3.2m →14:06"), 200},
	} {
		status, text := l.ask(t, c.path, c.body)
		var posted json.RawMessage
		res := ask(t, http.MethodPost, s.URL+c.path, c.body, &posted)
		if status != c.status || res.StatusCode != status || !reflect.DeepEqual(plain(t, string(posted)), plain(t, text)) {
			t.Errorf("%s: %d %.200s on the line, %d %.200s posted, want %d", c.path, status, text, res.StatusCode, posted, c.status)
		}
	}
	if l.told < 3 {
		t.Errorf("%d answers came as what is new since another one", l.told)
	}
	for name, headers := range map[string]http.Header{"of another page": {"Origin": {"http://elsewhere.example"}}, "of another host": {}} {
		o := &websocket.DialOptions{HTTPHeader: headers}
		if name == "of another host" {
			o.Host = "rebound.example"
		}
		if conn, res, err := websocket.Dial(t.Context(), s.URL+line.Path, o); err == nil || res.StatusCode != http.StatusForbidden {
			conn.CloseNow()
			t.Errorf("a line %s: %v", name, err)
		}
	}
}

// TestLineOfDevice has a stranger ask for a line, who gets none; and a device, which may ask there what it may ask otherwise, as long as
// the desk lets it: its line ends with what it may do, with the device, and with the room.
func TestLineOfDevice(t *testing.T) {
	h := open(t, nil)
	dial := func(shows string) (*websocket.Conn, error) {
		conn, _, err := websocket.Dial(t.Context(), h.room+line.Path, &websocket.DialOptions{HTTPHeader: http.Header{"Cookie": {shows}, "Origin": {h.room}}})
		return conn, err
	}
	if conn, err := dial(""); err == nil || !strings.Contains(err.Error(), "403") {
		conn.CloseNow()
		t.Errorf("a stranger's line: %v", err)
	}
	telephone, tablet := h.letIn("Telephone", room.Watches), h.letIn("Tablet", room.TakesPart)
	conn, err := dial(telephone)
	if err != nil {
		t.Fatal(err)
	}
	defer conn.CloseNow()
	l := onLine{Conn: conn}
	may := func(path string, body any, want int) {
		t.Helper()
		if status, text := l.ask(t, path, body); status != want {
			t.Errorf("%s: %d %.200s, want %d", path, status, text, want)
		}
	}
	may("/api/runs", gate("Tide"), 200)
	may("/api/benches/new", nil, 403)
	may("/api/room", map[string]any{"open": false}, 403)
	may("/api/table/disconnect", nil, 403)
	ends := func(conn *websocket.Conn, with string) {
		t.Helper()
		ctx, done := context.WithTimeout(t.Context(), 20*time.Second)
		defer done()
		if _, _, err := conn.Read(ctx); err == nil || ctx.Err() != nil {
			t.Errorf("a line goes on without %s: %v", with, err)
		}
	}
	var state door.RoomState
	h.ask("GET", h.desk+"/api/room", nil, &state)
	h.ask("PATCH", fmt.Sprint(h.desk, "/api/room/devices/", state.Devices[0].ID), map[string]any{"role": room.TakesPart}, nil)
	ends(conn, "what it might do")
	if conn, err = dial(telephone); err != nil {
		t.Fatal(err)
	}
	defer conn.CloseNow()
	l = onLine{Conn: conn}
	may("/api/benches/new", nil, 201)
	var list []map[string]any
	if h.ask("GET", h.desk+"/api/benches", nil, &list); len(list) != 1 {
		t.Errorf("%d benches are there", len(list))
	}
	h.ask("DELETE", fmt.Sprint(h.desk, "/api/room/devices/", state.Devices[0].ID), nil, nil)
	ends(conn, "its device")
	other, err := dial(tablet)
	if err != nil {
		t.Fatal(err)
	}
	defer other.CloseNow()
	h.ask("POST", h.desk+"/api/room", map[string]any{"open": false}, nil)
	ends(other, "the room")
}
