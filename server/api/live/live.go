// Package live answers for the real table: serial ports, the bridge on the maker's host, and what its modules are to show.
// There is one connection at a time, and one page that drives it; others watch.
package live

import (
	"context"
	"errors"
	"fmt"
	"io"
	"net/http"
	"sync"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"slatebell/core/bench"
	"slatebell/core/part/charrom"
	"slatebell/core/prove/testbed"
	"slatebell/formats/scantext"
	"slatebell/live/conduct"
	"slatebell/live/drive"
	"slatebell/live/pins"
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
	mu  sync.Mutex
	now *connection
}

// connection is one connection.
type connection struct {
	port    string
	by      string // page that drives
	rest    string
	bench   int
	c       *conduct.Conductor
	standIn *standin.Host         // where it is the stand-in
	shown   map[int]drive.Picture // of modules, what was wished for last
	playing *playing              // nil where no show is played
	end     context.CancelFunc
	ended   chan struct{}
}

// RealTable is how things stand with the real table.
type RealTable struct {
	Connected bool         `json:"connected" doc:"a port is open, or is tried again and again"`
	Port      string       `json:"port,omitempty"`
	StandIn   bool         `json:"standIn,omitempty" doc:"it is the simulated host"`
	By        string       `json:"by,omitempty" doc:"the page that drives, by the name it gave itself"`
	Bench     int          `json:"bench,omitempty" doc:"number under which the bench is stored that is driven"`
	Phase     string       `json:"phase,omitempty" enum:"opening,here,other,gone,foreign,ended" doc:"here: a bridge drives; other: it was made for other wiring; gone: the port is lost, and tried again; foreign: something else talks there"`
	Why       string       `json:"why,omitempty" doc:"what stands in the way"`
	Part      string       `json:"part,omitempty" doc:"the bridge's host"`
	Modules   []RealModule `json:"modules" nullable:"false" doc:"of the bench, by index"`
	Playing   *RealShow    `json:"playing,omitempty" doc:"the show that is played on it"`
	Words     int          `json:"words" doc:"records sent in this session"`
	Bytes     int          `json:"bytes" doc:"sent over the line in this session"`
	Errors    int          `json:"errors" doc:"sessions that broke, and records that failed"`
	LastMs    float64      `json:"lastMs" doc:"from the last wish to the acknowledgement of its last byte, in milliseconds"`
	SlowMs    float64      `json:"slowMs" doc:"95 of the last 100 were as fast, in milliseconds"`
}

// RealModule is how things stand with a module.
type RealModule struct {
	Holds   bool   `json:"holds" doc:"what it shows is known"`
	Waits   bool   `json:"waits" doc:"a wish is not sent yet"`
	Dropped int    `json:"dropped" doc:"wishes that a newer one overtook"`
	Trouble string `json:"trouble,omitempty" doc:"why it cannot be driven"`
	Reads   bool   `json:"reads" doc:"its memory can be read"`
	Why     string `json:"why,omitempty" doc:"where it cannot: why"`
}

// state is how things stand. mu is held.
func (d *Desk) state() *RealTable {
	out := &RealTable{Modules: []RealModule{}}
	if d.now == nil {
		return out
	}
	n, s := d.now, d.now.c.State()
	ms := func(t time.Duration) float64 { return float64(t) / float64(time.Millisecond) }
	out.Connected, out.Port, out.StandIn, out.By, out.Bench = true, n.port, n.standIn != nil, n.by, n.bench
	out.Phase, out.Why, out.Part = string(s.Phase), s.Why, s.Bridge.Part
	out.Words, out.Bytes, out.Errors, out.LastMs, out.SlowMs = s.Sent.Records, s.Sent.Bytes, s.Errors, ms(s.Last), ms(s.Slow)
	if n.playing != nil {
		out.Playing = n.playing.state()
	}
	for _, m := range s.Modules {
		out.Modules = append(out.Modules, RealModule(m))
	}
	return out
}

// ConnectRequest asks for a connection.
type ConnectRequest struct {
	Port   string      `json:"port" maxLength:"400" doc:"as the list of ports names it"`
	By     string      `json:"by" minLength:"1" maxLength:"40" doc:"a name that the page gave itself: it drives from then on"`
	Stored int         `json:"stored" minimum:"0" doc:"number under which the bench is stored"`
	Bench  bench.Bench `json:"bench"`
	Rest   string      `json:"rest,omitempty" enum:"keep,inputs" doc:"what the pins do while nobody drives: keep their levels, so that the glass keeps what it shows; or become inputs; absent: keep"`
}

// silence is after how long without a word of this program a bridge lets its pins rest.
const silence = 3 * time.Second

// connect opens a port; a connection that there was ends.
func (d *Desk) connect(r *ConnectRequest) (*RealTable, error) {
	if err := r.Bench.Validate(); err != nil {
		return nil, answer.Invalid(err)
	}
	d.end()
	n := &connection{port: r.Port, by: r.By, rest: r.Rest, bench: r.Stored, shown: map[int]drive.Picture{}, ended: make(chan struct{})}
	open := func(ctx context.Context) (io.ReadWriteCloser, error) { return ports.Open(ctx, r.Port) }
	var err error
	switch {
	case r.Port == ports.StandIn:
		if n.standIn, err = standin.New(&r.Bench); err != nil {
			return nil, answer.Invalid(err)
		}
		open = n.standIn.Open
	case pins.Is(r.Port):
		if open, err = pins.Opener(&r.Bench, r.Port); err != nil {
			return nil, answer.Invalid(err)
		}
	}
	o := session.Options{Greeting: protocol.Greeting{Silence: silence}}
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

// ShowRequest asks for a screen on the real glass.
type ShowRequest struct {
	By    string        `json:"by" minLength:"1" maxLength:"40"`
	Setup testbed.Setup `json:"setup" doc:"what a run of the screen needs; at says which module of the bench it is"`
	Anew  bool          `json:"anew,omitempty" doc:"the module is initialised before, whatever it shows"`
	Slow  bool          `json:"slow,omitempty" doc:"with anew: 5 ms more pass after each byte"`
}

// slowly is what the finder's test of that name waits more after each byte.
const slowly = 5 * time.Millisecond

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
	if r.Anew {
		extra := time.Duration(0)
		if r.Slow {
			extra = slowly
		}
		n.c.Anew(r.Setup.At.Module, extra)
	}
	if err := n.c.Wish(r.Setup.At.Module, picture); err != nil {
		return nil, answer.Refused(err)
	}
	d.mu.Lock()
	defer d.mu.Unlock()
	n.shown[r.Setup.At.Module] = picture
	return d.state(), nil
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
	return d.state(), nil
}

// Scanned is what a scan of the real bus found.
type Scanned struct {
	Text  string `json:"text" doc:"as a scanner prints it"`
	Found []int  `json:"found" nullable:"false" doc:"addresses that answer"`
}

// asked is how long what is asked of a board may take.
const asked = 5 * time.Second

func (d *Desk) scan(ctx context.Context) (*Scanned, error) {
	n, err := d.at("")
	if err != nil {
		return nil, err
	}
	ctx, cancel := context.WithTimeout(ctx, asked)
	defer cancel()
	found, err := n.c.Scan(ctx)
	if err != nil {
		return nil, answer.Refused(err)
	}
	out := &Scanned{Found: []int{}}
	for _, a := range found {
		out.Found = append(out.Found, int(a))
		out.Text += scantext.Line(a)
	}
	if len(found) == 0 {
		out.Text = "No device found.\n"
	}
	return out, nil
}

// Recall is what a real module holds, by its own word.
type Recall struct {
	Module int            `json:"module" doc:"index"`
	DDRAM  [][]byte       `json:"ddram" nullable:"false" doc:"of each controller, 80 bytes"`
	CGRAM  [][]byte       `json:"cgram" nullable:"false" doc:"of each controller, 64 bytes"`
	Text   []string       `json:"text" nullable:"false" doc:"what its window shows, as characters"`
	Differ []RecalledCell `json:"differ" nullable:"false" doc:"cells that hold something else than was sent"`
	Lines  []string       `json:"lines" nullable:"false" doc:"data lines that are wrong in the same way in every byte that differs"`
}

// RecalledCell is a cell that differs.
type RecalledCell struct {
	Row  int `json:"row"`
	Col  int `json:"col"`
	Want int `json:"want" doc:"code that was sent"`
	Got  int `json:"got" doc:"code that was read"`
}

// RecallRequest asks for a module's memory.
type RecallRequest struct {
	Module int `json:"module" minimum:"0" doc:"index"`
}

func (d *Desk) recall(ctx context.Context, r *RecallRequest) (*Recall, error) {
	n, err := d.at("")
	if err != nil {
		return nil, err
	}
	ctx, cancel := context.WithTimeout(ctx, asked)
	defer cancel()
	memory, err := n.c.Memory(ctx, r.Module)
	if err != nil {
		return nil, answer.Refused(err)
	}
	d.mu.Lock()
	m, want := &n.c.Plan().Modules[r.Module], n.shown[r.Module]
	d.mu.Unlock()
	out := &Recall{Module: r.Module, DDRAM: memory.DDRAM, CGRAM: memory.CGRAM, Text: []string{}, Differ: []RecalledCell{}, Lines: []string{}}
	for row, cells := range memory.Window(&m.Display) {
		text := ""
		for col, code := range cells {
			text += character(m.Display.ROM, code)
			if at := row*len(cells) + col; at < len(want.Cells) && want.Cells[at] != code {
				out.Differ = append(out.Differ, RecalledCell{row, col, int(want.Cells[at]), int(code)})
			}
		}
		out.Text = append(out.Text, text)
	}
	out.Lines = append(out.Lines, broken(out.Differ)...)
	return out, nil
}

// character is what a code shows, for people.
func character(rom *charrom.ROM, code byte) string {
	if ch, ok := rom.Rune(code); ok {
		return string(ch)
	}
	return "\uFFFD"
}

// broken names the data lines that are the same in all that was read wrongly, and differ from what was sent.
func broken(cells []RecalledCell) (out []string) {
	for bit := range 8 {
		ones, zeros, wrong := true, true, false
		for _, c := range cells {
			got := c.Got >> bit & 1
			ones, zeros = ones && got == 1, zeros && got == 0
			wrong = wrong || got != c.Want>>bit&1
		}
		if wrong && ones {
			out = append(out, fmt.Sprintf("D%d reads high always", bit))
		}
		if wrong && zeros {
			out = append(out, fmt.Sprintf("D%d reads low always", bit))
		}
	}
	return out
}

// glass is what the stand-in's module shows.
func (d *Desk) glass(module int) (*facts.Glass, error) {
	n, err := d.at("")
	if err != nil {
		return nil, err
	}
	if n.standIn == nil {
		return nil, answer.Refused(errors.New("the glass of a real module is seen by eyes alone; that of the stand-in can be asked for"))
	}
	plan := n.c.Plan()
	if module >= len(plan.Modules) {
		return nil, answer.Refused(fmt.Errorf("there is no module %d", module))
	}
	g := facts.GlassOf(n.standIn.Glass(module), plan.Modules[module].Display.ROM)
	return &g, nil
}

// FaultRequest asks for a fault in a module of the stand-in.
type FaultRequest struct {
	Module int    `json:"module" minimum:"0" doc:"index"`
	ID     string `json:"id" maxLength:"200" doc:"of the catalogue; empty: the fault that was put in is taken out"`
}

// putIn makes a fault in the stand-in, whose module is switched off and on by that.
func (d *Desk) putIn(r *FaultRequest) (*RealTable, error) {
	n, err := d.at("")
	if err != nil {
		return nil, err
	}
	if n.standIn == nil {
		return nil, answer.Refused(errors.New("faults are put into the stand-in alone"))
	}
	if err := n.standIn.PutIn(r.Module, r.ID); err != nil {
		return nil, answer.Refused(err)
	}
	d.mu.Lock()
	defer d.mu.Unlock()
	n.c.Anew(r.Module, 0)
	if shown, ok := n.shown[r.Module]; ok {
		if err := n.c.Wish(r.Module, shown); err != nil {
			return nil, answer.Refused(err)
		}
	}
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
		list, err := ports.List()
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
	huma.Register(api, post("put-fault-into-stand-in", "/api/table/fault", "Make a fault in a module of the stand-in"), answer.Answered(d.putIn))
	huma.Register(api, post("scan-table", "/api/table/scan", "Ask the real bus who answers"), func(ctx context.Context, _ *struct{}) (*answer.Body[Scanned], error) {
		out, err := d.scan(ctx)
		if err != nil {
			return nil, err
		}
		return &answer.Body[Scanned]{Body: *out}, nil
	})
	huma.Register(api, post("recall-table", "/api/table/memory", "Read what a real module holds, and compare it with what was sent"), func(ctx context.Context, in *struct{ Body RecallRequest }) (*answer.Body[Recall], error) {
		out, err := d.recall(ctx, &in.Body)
		if err != nil {
			return nil, err
		}
		return &answer.Body[Recall]{Body: *out}, nil
	})
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
