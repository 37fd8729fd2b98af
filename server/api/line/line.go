// Package line answers many questions on one open connection (WebSocket, RFC 6455), each as it is answered where it comes as a
// request of its own: a browser takes some five milliseconds for a request and its answer, and one or two for a message each way.
//
// A message has a line of JSON, its head, and the body behind it. A question's head names it by a number and says which path it
// would be posted to: {"id":7,"path":"/api/runs"}. Its answer's has the same number, and the status: {"id":7,"status":200}. Answers come as they
// are ready, in any order. A head {"id":7,"drop":true} says that nobody waits for an answer any more; then none comes, unless it is on its way.
//
// Questions of one path are often answered much alike. An answer whose head names its path, {"id":7,"status":200,"path":"/api/runs"}, is to be
// kept until the next one of that path; a head with since, {"id":9,"status":200,"path":"/api/runs","since":7}, says that its body is the
// RFC 6902 patch that makes this answer of the one kept, whose number it gives.
package line

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"net/http"
	"strings"
	"sync"

	"github.com/coder/websocket"
)

// Path is where a line is opened.
const Path = "/api/line"

// atOnce is how many questions of a line are worked on at a time; the next one waits.
const atOnce = 8

// question is the head of what a page sends.
type question struct {
	ID   int    `json:"id"`
	Path string `json:"path"`
	Drop bool   `json:"drop"`
}

// reply is the head of what it gets.
type reply struct {
	ID     int    `json:"id"`
	Status int    `json:"status"`
	Path   string `json:"path,omitempty"`
	Since  int    `json:"since,omitempty"`
}

// Lines opens lines. Make it with New.
type Lines struct {
	handler http.Handler
	most    int64
	ended   context.Context
	end     context.CancelFunc
}

// New returns Lines whose questions a handler answers, of so many bytes each at most.
func New(handler http.Handler, most int64) *Lines {
	ctx, end := context.WithCancel(context.Background())
	return &Lines{handler, most, ctx, end}
}

// Serves sets what answers questions, before the first line is opened.
func (l *Lines) Serves(handler http.Handler) { l.handler = handler }

// Close ends all lines.
func (l *Lines) Close() { l.end() }

// Open takes a request for a line, and returns when the line ends: the page closed it, the request's context is done, or Close was called.
// The page's own questions are asked in its name: from its address, with its cookies, of the host that it named.
func (l *Lines) Open(w http.ResponseWriter, r *http.Request) {
	conn, err := websocket.Accept(w, r, &websocket.AcceptOptions{CompressionMode: websocket.CompressionDisabled})
	if err != nil {
		return // Accept has said why
	}
	defer conn.CloseNow()
	conn.SetReadLimit(l.most)
	ctx, end := context.WithCancel(r.Context())
	defer end()
	defer context.AfterFunc(l.ended, end)()
	o := open{handler: l.handler, conn: conn, asked: r, ctx: ctx, free: make(chan struct{}, atOnce), drops: map[int]context.CancelFunc{}, kept: map[string]sent{}}
	defer o.work.Wait()
	defer end() // before those at work are waited for
	for {
		_, message, err := conn.Read(ctx)
		if err != nil {
			return
		}
		if err := o.take(message); err != nil {
			conn.Close(websocket.StatusInvalidFramePayloadData, err.Error())
			return
		}
	}
}

// open is one line.
type open struct {
	handler http.Handler
	conn    *websocket.Conn
	asked   *http.Request
	ctx     context.Context // done when the line ends
	free    chan struct{}
	work    sync.WaitGroup

	mu    sync.Mutex
	drops map[int]context.CancelFunc // by the numbers of the questions at work

	sending sync.Mutex      // answers go out one by one, each told against the one before it
	kept    map[string]sent // what the page keeps, by path
}

// sent is an answer as it went out.
type sent struct {
	id   int
	body []byte
}

// mostKept is of how many paths an answer is kept.
const mostKept = 8

// What is wrong with a message.
var (
	errHead  = errors.New(`expected a line such as {"id":7,"path":"/api/runs"}, and the body behind it`)
	errTwice = errors.New("a question is still open under this number")
)

// take begins the work on a message, as soon as there is room for it; what is no message is an error.
func (o *open) take(message []byte) error {
	head, body, _ := bytes.Cut(message, []byte("\n"))
	var q question
	if err := json.Unmarshal(head, &q); err != nil || q.Path == "" && !q.Drop {
		return errHead
	}
	if q.Drop {
		o.drop(q.ID)
		return nil
	}
	ctx, ok := o.begin(q.ID)
	if !ok {
		return errTwice
	}
	select {
	case o.free <- struct{}{}:
	case <-o.ctx.Done():
		return nil
	}
	o.work.Go(func() {
		defer func() { <-o.free }()
		o.answer(ctx, q, body)
	})
	return nil
}

// begin notes a question under its number, and returns the context of its work; false where there is one under it.
func (o *open) begin(id int) (context.Context, bool) {
	o.mu.Lock()
	defer o.mu.Unlock()
	if o.drops[id] != nil {
		return nil, false
	}
	ctx, drop := context.WithCancel(o.ctx)
	o.drops[id] = drop
	return ctx, true
}

// drop ends the work on a question, if there is any; its number is free again.
func (o *open) drop(id int) {
	o.mu.Lock()
	defer o.mu.Unlock()
	if end := o.drops[id]; end != nil {
		end()
	}
	delete(o.drops, id)
}

// answer asks a question, and sends what is answered, unless nobody waits for it.
func (o *open) answer(ctx context.Context, q question, body []byte) {
	into := collected{header: http.Header{}, status: http.StatusOK}
	into.do(o.handler, o.request(ctx, q, body))
	if ctx.Err() != nil {
		return
	}
	o.drop(q.ID)
	o.send(q, &into)
}

// send sends an answer: one that is kept as what is new since the one before it, where that is less.
func (o *open) send(q question, answer *collected) {
	o.sending.Lock()
	defer o.sending.Unlock()
	head, body := reply{ID: q.ID, Status: answer.status}, answer.body.Bytes()
	before, ok := o.kept[q.Path]
	if answer.status == http.StatusOK && answer.header.Get("Content-Type") == "application/json" && (ok || len(o.kept) < mostKept) {
		head.Path = q.Path
		o.kept[q.Path] = sent{q.ID, body}
		if p, ok := patch(before.body, body); ok {
			head.Since, body = before.id, p
		}
	}
	text, err := json.Marshal(head)
	if err != nil {
		return
	}
	o.conn.Write(o.ctx, websocket.MessageText, append(append(text, '\n'), body...)) // where it fails, so does the next Read
}

// request is a question as a request of its own.
func (o *open) request(ctx context.Context, q question, body []byte) *http.Request {
	path := q.Path
	if !strings.HasPrefix(path, "/api/") || strings.HasPrefix(path, Path) {
		path = "/api/" // where there is nothing
	}
	r, err := http.NewRequestWithContext(ctx, http.MethodPost, path, bytes.NewReader(body))
	if err != nil {
		r, _ = http.NewRequestWithContext(ctx, http.MethodPost, "/api/", http.NoBody)
	}
	r.Host, r.RemoteAddr, r.RequestURI, r.TLS = o.asked.Host, o.asked.RemoteAddr, r.URL.RequestURI(), o.asked.TLS
	r.Header.Set("Content-Type", "application/json")
	for _, kept := range []string{"Origin", "Cookie"} {
		if v := o.asked.Header.Values(kept); v != nil {
			r.Header[kept] = v
		}
	}
	return r
}

// collected is an answer as it is written.
type collected struct {
	header http.Header
	status int
	wrote  bool
	body   bytes.Buffer
}

// do has a handler answer; one that panics has failed, as it has to a request.
func (c *collected) do(h http.Handler, r *http.Request) {
	defer func() {
		if recover() != nil {
			c.status = http.StatusInternalServerError
			c.body.Reset()
		}
	}()
	h.ServeHTTP(c, r)
}

func (c *collected) Header() http.Header { return c.header }

func (c *collected) WriteHeader(status int) {
	if !c.wrote {
		c.status, c.wrote = status, true
	}
}

func (c *collected) Write(p []byte) (int, error) {
	c.wrote = true
	return c.body.Write(p)
}
