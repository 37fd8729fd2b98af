package live

import (
	"context"
	"time"

	"github.com/danielgtaylor/huma/v2/sse"

	"slatebell/live/protocol"
)

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
	Spare     []string     `json:"spare,omitempty" nullable:"false" doc:"labels of the host's free pins whose voltage can be measured"`
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
	Light   bool   `json:"light" doc:"its backlight can be switched"`
	Bears   bool   `json:"bears" doc:"the host's pins bear what it is fed with, so that its voltages may be measured there"`
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
	plan := n.c.Plan()
	for i, m := range s.Modules {
		one := RealModule{Holds: m.Holds, Waits: m.Waits, Dropped: m.Dropped, Trouble: m.Trouble, Reads: m.Reads, Why: m.Why}
		if i < len(plan.Modules) {
			one.Light, one.Bears = plan.Modules[i].Link.SwitchesLight(), plan.Bears(&plan.Modules[i])
		}
		out.Modules = append(out.Modules, one)
	}
	if s.Bridge.Can&protocol.CanMeasure != 0 {
		out.Spare = plan.Spare()
	}
	return out
}

// forward tells of what changes on a connection until it ends.
func (d *Desk) forward(ctx context.Context, n *connection) {
	told := make(chan struct{}, 1)
	n.c.Watch(ctx, told)
	for {
		select {
		case <-ctx.Done():
			return
		case <-told:
			d.mu.Lock()
			d.tell()
			d.mu.Unlock()
		}
	}
}

// tell lets those who watch know that something has changed. mu is held.
func (d *Desk) tell() {
	if d.changed != nil {
		close(d.changed)
		d.changed = nil
	}
}

const (
	atMost  = 50 * time.Millisecond  // how soon after each other a page is told
	shows   = 500 * time.Millisecond // how often it is told of a show that goes on
	atLeast = 10 * time.Second       // so that a page that is gone is noticed
)

// watch tells how things stand, and again whenever that has changed, until the page or the program is gone.
func (d *Desk) watch(ctx context.Context, _ *struct{}, send sse.Sender) {
	for {
		d.mu.Lock()
		now := d.state()
		if d.changed == nil {
			d.changed = make(chan struct{})
		}
		changed, over := d.changed, d.over
		d.mu.Unlock()
		if over || send.Data(now) != nil {
			return
		}
		again := atLeast
		if now.Playing != nil {
			again = shows
		}
		select {
		case <-ctx.Done():
			return
		case <-changed:
		case <-time.After(again):
		}
		select {
		case <-ctx.Done():
			return
		case <-time.After(atMost):
		}
	}
}
