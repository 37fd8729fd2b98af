// Package live answers for the real table: serial ports, the bridge on the maker's host, and what its modules are to show.
// There is one connection at a time, and one page that drives it; others watch.
package live

import (
	"context"
	"errors"
	"net/http"
	"sync"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/sse"

	"slatebell/core/bench"
	"slatebell/core/prove/testbed"
	"slatebell/live/conduct"
	"slatebell/live/dial"
	"slatebell/live/drive"
	"slatebell/live/ports"
	"slatebell/live/protocol"
	"slatebell/live/session"
	"slatebell/live/standin"
	"slatebell/server/api/answer"
	"slatebell/server/api/facts"
)

// Path is where all that concerns the real table lies: only this machine's own page may ask for it.
const Path = "/api/table"

// Desk is the connection to the real table. Its zero value has none.
type Desk struct {
	// Ports are named beside those that the computer lists.
	Ports []string
	// Hidden tells the faults that a round of practice hides, by its number.
	Hidden func(round string) (module int, faults []string, err error)

	mu      sync.Mutex
	now     *connection
	changed chan struct{} // closed once anything has changed; nil where nobody waits
	over    bool          // the program ends
	turn    sync.Mutex    // one upload at a time
}

// connection is one connection.
type connection struct {
	port    string
	by      string // page that drives
	rest    string
	bench   int
	c       *conduct.Conductor
	standIn *standin.Host // where it is the stand-in
	playing *playing      // nil where no show is played
	end     context.CancelFunc
	ended   chan struct{}
}

// ConnectRequest asks for a connection.
type ConnectRequest struct {
	Port   string      `json:"port" maxLength:"400" doc:"as the list of ports names it"`
	By     string      `json:"by" minLength:"1" maxLength:"40" doc:"a name that the page gave itself: it drives from then on"`
	Stored int         `json:"stored" minimum:"0" doc:"number under which the bench is stored"`
	Bench  bench.Bench `json:"bench"`
	Rest   string      `json:"rest,omitempty" enum:"keep,inputs" doc:"what the pins do while nobody drives: keep their levels, so that the glass keeps what it shows; or become inputs; absent: keep"`
}

// connect opens a port; a connection that there was ends.
func (d *Desk) connect(r *ConnectRequest) (*RealTable, error) {
	if err := r.Bench.Validate(); err != nil {
		return nil, answer.Invalid(err)
	}
	d.end()
	n := &connection{port: r.Port, by: r.By, rest: r.Rest, bench: r.Stored, ended: make(chan struct{})}
	open, host, err := dial.Port(&r.Bench, r.Port)
	if err != nil {
		return nil, answer.Invalid(err)
	}
	n.standIn = host
	o := session.Options{Greeting: protocol.Greeting{Silence: dial.Silence}}
	if r.Rest == "inputs" {
		o.Greeting.AtRest = protocol.Inputs
	}
	if n.c, err = conduct.New(&r.Bench, open, o); err != nil {
		return nil, answer.Invalid(err)
	}
	ctx, cancel := context.WithCancel(context.Background())
	n.end = cancel
	d.mu.Lock()
	d.now = n
	d.mu.Unlock()
	go d.forward(ctx, n)
	go func() {
		n.c.Run(ctx) // says in the state why it ended
		close(n.ended)
	}()
	d.mu.Lock()
	defer d.mu.Unlock()
	return d.state(), nil
}

// end ends the connection, and waits until the pins are at rest.
func (d *Desk) end() {
	d.mu.Lock()
	n := d.now
	d.now = nil
	d.tell()
	d.mu.Unlock()
	if n == nil {
		return
	}
	if n.playing != nil {
		n.playing.end()
	}
	n.end()
	select {
	case <-n.ended:
	case <-time.After(2 * time.Second):
	}
}

// Close ends the connection as the program ends.
func (d *Desk) Close() { d.end() }

// EndWatches lets no page watch any more.
func (d *Desk) EndWatches() {
	d.mu.Lock()
	defer d.mu.Unlock()
	d.over = true
	d.tell()
}

// errNone says that nothing is connected.
var errNone = errors.New("no board is connected; choose its port under Live first")

// at returns the connection; of a page that does not drive it is refused.
func (d *Desk) at(by string) (*connection, error) {
	d.mu.Lock()
	defer d.mu.Unlock()
	switch {
	case d.now == nil:
		return nil, answer.Refused(errNone)
	case by != "" && d.now.by != by:
		return nil, answer.Refused(errors.New("another page drives the board; take it over under Live, or watch"))
	}
	return d.now, nil
}

// BenchRequest tells that the bench has changed: its modules, their links or its host.
type BenchRequest struct {
	By    string      `json:"by" minLength:"1" maxLength:"40"`
	Bench bench.Bench `json:"bench"`
}

func (d *Desk) rewire(r *BenchRequest) (*RealTable, error) {
	n, err := d.at(r.By)
	if err != nil {
		return nil, err
	}
	if err := r.Bench.Validate(); err != nil {
		return nil, answer.Invalid(err)
	}
	if n.standIn != nil { // it is wired as the bench says now
		return d.connect(&ConnectRequest{Port: n.port, By: n.by, Stored: n.bench, Bench: r.Bench, Rest: n.rest})
	}
	if err := n.c.Rewire(&r.Bench); err != nil {
		return nil, answer.Invalid(err)
	}
	d.mu.Lock()
	defer d.mu.Unlock()
	return d.state(), nil
}

// takeOver lets another page drive.
func (d *Desk) takeOver(by string) (*RealTable, error) {
	d.mu.Lock()
	defer d.mu.Unlock()
	if d.now == nil {
		return nil, answer.Refused(errNone)
	}
	d.now.by = by
	d.tell()
	return d.state(), nil
}

// ShowRequest asks for a screen on the real glass.
type ShowRequest struct {
	By    string        `json:"by" minLength:"1" maxLength:"40"`
	Setup testbed.Setup `json:"setup" doc:"what a run of the screen needs; at says which module of the bench it is"`
}

func (d *Desk) show(r *ShowRequest) (*RealTable, error) {
	n, err := d.at(r.By)
	if err != nil {
		return nil, err
	}
	if n.plays(d, r.Setup.At.Module) {
		d.mu.Lock()
		defer d.mu.Unlock()
		return d.state(), nil // its show says what it shows
	}
	picture, err := drive.ComposeSetup(&r.Setup)
	if err != nil {
		return nil, answer.Invalid(err)
	}
	if err := n.c.Wish(r.Setup.At.Module, picture); err != nil {
		return nil, answer.Refused(err)
	}
	d.mu.Lock()
	defer d.mu.Unlock()
	return d.state(), nil
}

// Register registers the real table.
func Register(api huma.API, d *Desk) {
	get := func(id, path, summary string, errors ...int) huma.Operation {
		return huma.Operation{OperationID: id, Method: http.MethodGet, Path: path, Summary: summary, Errors: errors}
	}
	post := func(id, path, summary string) huma.Operation {
		return huma.Operation{OperationID: id, Method: http.MethodPost, Path: path, Summary: summary, Errors: []int{422}}
	}
	huma.Register(api, get("list-ports", "/api/table/ports", "The serial ports of this computer, and the stand-in"), func(context.Context, *struct{}) (*answer.Body[[]ports.Port], error) {
		list, err := ports.List(d.Ports...)
		if err != nil && len(list) == 0 {
			return nil, answer.Refused(err)
		}
		return &answer.Body[[]ports.Port]{Body: list}, nil
	})
	huma.Register(api, get("get-real-table", "/api/table", "How things stand with the real table"), func(context.Context, *struct{}) (*answer.Body[RealTable], error) {
		d.mu.Lock()
		defer d.mu.Unlock()
		return &answer.Body[RealTable]{Body: *d.state()}, nil
	})
	huma.Register(api, post("connect-table", "/api/table/connect", "Open a port, and drive what is at it"), answer.Answered(d.connect))
	huma.Register(api, post("disconnect-table", "/api/table/disconnect", "Let the pins rest, and close the port"), func(context.Context, *struct{}) (*answer.Body[RealTable], error) {
		d.end()
		d.mu.Lock()
		defer d.mu.Unlock()
		return &answer.Body[RealTable]{Body: *d.state()}, nil
	})
	huma.Register(api, post("take-table-over", "/api/table/drive", "Let this page drive"), answer.Answered(func(r *struct {
		By string `json:"by" minLength:"1" maxLength:"40"`
	}) (*RealTable, error) {
		return d.takeOver(r.By)
	}))
	huma.Register(api, post("show-on-table", "/api/table/show", "Show a screen on the real glass, as soon as the wire is free"), answer.Answered(d.show))
	huma.Register(api, post("rewire-table", "/api/table/bench", "Tell that modules or links have changed"), answer.Answered(d.rewire))
	registerShows(api, d, post)
	registerUpload(api, d, post)
	huma.Register(api, post("put-fault-into-stand-in", "/api/table/fault", "Make a fault in a module of the stand-in"), answer.Answered(d.putIn))
	huma.Register(api, post("hide-in-stand-in", "/api/table/practice", "Make in the stand-in what a round of practice hides"), answer.Answered(d.hide))
	huma.Register(api, post("scan-table", "/api/table/scan", "Ask the real bus who answers"), func(ctx context.Context, _ *struct{}) (*answer.Body[Scanned], error) {
		return inTime(d.scan)(ctx, &struct{ Body struct{} }{})
	})
	huma.Register(api, post("recall-table", "/api/table/memory", "Read what a real module holds, and compare it with what was sent"), inTime(d.recall))
	huma.Register(api, post("try-table-lines", "/api/table/lines", "Try a real module's data lines by a pattern that is read back"), inTime(d.lines))
	huma.Register(api, post("time-table-oscillator", "/api/table/oscillator", "Time a real module's busy flag"), inTime(d.oscillator))
	huma.Register(api, post("act-on-table", "/api/table/act", "Do what a host does by itself of a test"), inTime(d.act))
	huma.Register(api, post("measure-on-table", "/api/table/measure", "Measure the voltage of a free pin of the host"), inTime(d.measure))
	sse.Register(api, get("watch-real-table", "/api/table/watch", "How things stand with the real table, whenever that changes"), map[string]any{"message": RealTable{}}, d.watch)
	huma.Register(api, get("get-table-glass", "/api/table/glass/{module}", "What a module of the stand-in shows", 422), func(_ context.Context, in *struct {
		Module int `path:"module" minimum:"0"`
	}) (*answer.Body[facts.Glass], error) {
		g, err := d.glass(in.Module)
		if err != nil {
			return nil, err
		}
		return &answer.Body[facts.Glass]{Body: *g}, nil
	})
}
