// Package conduct drives the modules of a bench at once over one line: the newest wish for each waits while the wire is
// busy, older ones are dropped, and after an error or a reset everything begins again by itself.
package conduct

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"io"
	"slices"
	"sync"
	"time"

	"slatebell/core/bench"
	"slatebell/core/part/i2cbus"
	"slatebell/core/ship/bridge"
	"slatebell/live/drive"
	"slatebell/live/protocol"
	"slatebell/live/session"
)

// Phase says how things stand with the line.
type Phase string

// The phases.
const (
	Opening Phase = "opening" // the port is opened, the bridge looked for
	Here    Phase = "here"    // a bridge is there, and drives
	Other   Phase = "other"   // a bridge is there that was made for other wiring: it drives nothing
	Gone    Phase = "gone"    // the port is lost, or nothing answers; it is tried again
	Foreign Phase = "foreign" // something else talks there; it is left alone
	Ended   Phase = "ended"   // the pins are at rest
)

// State is how things stand.
type State struct {
	Phase   Phase
	Why     string // of Gone, Foreign, Other
	Bridge  protocol.Identity
	Modules []ModuleState
	Sent    session.Counts
	Errors  int           // sessions that broke, and records that failed
	Last    time.Duration // from the last wish to the acknowledgement of its last byte
	Slow    time.Duration // of the last hundred, the slowest but five
}

// ModuleState is how things stand with one module.
type ModuleState struct {
	Holds   bool   // what it shows is known
	Waits   bool   // a wish is not sent yet
	Dropped int    // wishes that a newer one came before
	Trouble string // why it cannot be driven
	Reads   bool   // it can be read
	Why     string // where it cannot: why
}

// Conductor is made by New and works while Run runs. Its other methods may be called by anybody at any time.
type Conductor struct {
	open    func(context.Context) (io.ReadWriteCloser, error)
	options session.Options
	wake    chan struct{} // there is something to do
	asks    chan ask

	mu      sync.Mutex
	plan    *bridge.Plan
	modules []*player
	state   State
	lasts   []time.Duration
	changed []chan<- struct{}
}

// player is one module.
type player struct {
	*drive.Module
	wish    *drive.Picture
	shown   *drive.Picture // what was sent last
	since   time.Time      // when the wish came
	dropped int
	trouble string
	retry   time.Time // not before
	holds   bool
	anew    bool          // the next picture begins with the initialisation
	extra   time.Duration // and has so much more time after each byte
}

// New returns a conductor for a bench. open opens the line, and is called again where it is lost. Its error is a
// bench.Problem.
func New(b *bench.Bench, open func(context.Context) (io.ReadWriteCloser, error), o session.Options) (*Conductor, error) {
	c := &Conductor{open: open, options: o, wake: make(chan struct{}, 1), asks: make(chan ask), state: State{Phase: Opening}}
	if err := c.Rewire(b); err != nil {
		return nil, err
	}
	return c, nil
}

// Rewire takes another bench, or the same one after it was changed: what was known of modules that are joined as before
// stays known.
func (c *Conductor) Rewire(b *bench.Bench) error {
	plan, err := bridge.New(b)
	if err != nil {
		return err
	}
	players := make([]*player, len(plan.Modules))
	for i := range plan.Modules {
		d, err := drive.New(plan, b, i)
		if err != nil {
			return err
		}
		players[i] = &player{Module: d}
	}
	c.mu.Lock()
	defer c.mu.Unlock()
	same := c.plan != nil && c.plan.Text() == plan.Text()
	for i, p := range players {
		if same && i < len(c.modules) && p.Alike(c.modules[i].Module) {
			players[i] = c.modules[i]
		}
	}
	c.plan, c.modules = plan, players
	c.check()
	c.tell()
	return nil
}

// check says whether the bridge was made for the plan. mu is held.
func (c *Conductor) check() {
	if c.state.Phase != Here && c.state.Phase != Other {
		return
	}
	c.state.Phase, c.state.Why = Here, ""
	if c.state.Bridge.Bench != protocol.CRC([]byte(c.plan.Text())) {
		c.state.Phase, c.state.Why = Other, "the bridge on this board was made for other wiring: export it again, and upload it"
	}
}

// Wish lets a module show a picture as soon as the wire is free. A wish that still waits is dropped.
func (c *Conductor) Wish(module int, p drive.Picture) error {
	c.mu.Lock()
	defer c.mu.Unlock()
	if module < 0 || module >= len(c.modules) {
		return fmt.Errorf("module %d; this bench has modules 0–%d", module, len(c.modules)-1)
	}
	m := c.modules[module]
	if m.wish != nil {
		m.dropped++
	}
	m.wish, m.since = &p, time.Now()
	c.nudge()
	return nil
}

// Renew shows once more what a module shows, or what waits for it, the module initialised first.
func (c *Conductor) Renew(module int) {
	c.mu.Lock()
	defer c.mu.Unlock()
	if module >= 0 && module < len(c.modules) {
		m := c.modules[module]
		m.again()
		m.anew, m.extra = true, 0
		c.nudge()
	}
}

// again wishes for what is shown, unless something else is wished for. The conductor's mu is held.
func (m *player) again() {
	if m.wish == nil && m.shown != nil {
		m.wish, m.since = m.shown, time.Now()
	}
}

// Anew takes it that nothing is known of a module: its next picture begins with the initialisation, and has so much more time after each
// byte.
func (c *Conductor) Anew(module int, extra time.Duration) {
	c.mu.Lock()
	defer c.mu.Unlock()
	if module >= 0 && module < len(c.modules) {
		c.modules[module].anew, c.modules[module].extra = true, extra
	}
}

func (c *Conductor) nudge() {
	select {
	case c.wake <- struct{}{}:
	default:
	}
}

// Plan is what is joined to what, as the conductor has it.
func (c *Conductor) Plan() *bridge.Plan {
	c.mu.Lock()
	defer c.mu.Unlock()
	return c.plan
}

// State returns how things stand.
func (c *Conductor) State() State {
	c.mu.Lock()
	defer c.mu.Unlock()
	s := c.state
	for _, m := range c.modules {
		s.Modules = append(s.Modules, ModuleState{m.holds, m.wish != nil, m.dropped, m.trouble, m.Reads, m.Why})
	}
	if n := len(c.lasts); n > 0 {
		sorted := slices.Sorted(slices.Values(c.lasts))
		s.Last, s.Slow = c.lasts[n-1], sorted[(n*95+99)/100-1]
	}
	return s
}

// Watch tells a channel, which should have room for one, whenever the state has changed, until the context ends.
func (c *Conductor) Watch(ctx context.Context, told chan<- struct{}) {
	c.mu.Lock()
	defer c.mu.Unlock()
	c.changed = append(c.changed, told)
	context.AfterFunc(ctx, func() {
		c.mu.Lock()
		defer c.mu.Unlock()
		c.changed = slices.DeleteFunc(c.changed, func(o chan<- struct{}) bool { return o == told })
	})
}

// tell lets those who watch know. mu is held.
func (c *Conductor) tell() {
	for _, told := range c.changed {
		select {
		case told <- struct{}{}:
		default:
		}
	}
}

// set changes the state.
func (c *Conductor) set(do func(*State)) {
	c.mu.Lock()
	defer c.mu.Unlock()
	do(&c.state)
	c.check()
	c.tell()
}

const (
	retryAfter = time.Second            // a port, or a module, that failed is tried again
	alive      = 500 * time.Millisecond // how often the bridge hears of the computer at least
	endsIn     = time.Second            // the pins are to be at rest
)

// Run works until the context ends, and leaves the pins at rest. It ends by itself only where something else talks at the
// line, with a *session.ForeignError.
func (c *Conductor) Run(ctx context.Context) error {
	defer c.set(func(s *State) {
		if s.Phase != Foreign {
			s.Phase, s.Why = Ended, ""
		}
	})
	for ctx.Err() == nil {
		err := c.connected(ctx)
		var foreign *session.ForeignError
		if errors.As(err, &foreign) {
			c.set(func(s *State) { s.Phase, s.Why = Foreign, err.Error() })
			return err
		}
		if ctx.Err() != nil {
			break
		}
		if err == errReset {
			c.set(func(s *State) { s.Phase, s.Why = Opening, "" })
			continue
		}
		c.set(func(s *State) { s.Phase, s.Why = Gone, err.Error() })
		select {
		case <-ctx.Done():
		case <-time.After(retryAfter):
		}
	}
	return nil
}

// errReset says that the line is to be closed and opened again.
var errReset = errors.New("the board is reset")

// connected opens the line and works on it until it is lost or the context ends.
func (c *Conductor) connected(ctx context.Context) error {
	line, err := c.open(ctx)
	if err != nil {
		return err
	}
	s, err := session.Begin(ctx, line, c.options)
	if err != nil {
		return err
	}
	defer s.Close()
	c.lost()
	c.set(func(st *State) { st.Phase, st.Why, st.Bridge = Here, "", s.Bridge })
	for {
		err := c.work(ctx, s)
		if ctx.Err() != nil {
			rest, cancel := context.WithTimeout(context.WithoutCancel(ctx), endsIn)
			defer cancel()
			return s.Rest(rest)
		}
		if err == errReset {
			return err
		}
		c.set(func(st *State) { st.Errors++; st.Sent = s.Counts() })
		var failed *session.RecordError
		if !errors.As(err, &failed) { // a record that failed says nothing of the other modules
			c.lost()
		}
		if again := s.Again(ctx); again != nil {
			return cmp.Or(err, again)
		}
		c.set(func(st *State) { st.Bridge = s.Bridge })
	}
}

// lost takes it that no module's glass is known.
func (c *Conductor) lost() {
	c.mu.Lock()
	defer c.mu.Unlock()
	for _, m := range c.modules {
		m.Lost()
		m.holds = false
		m.again()
	}
}

// work does what there is to do until something fails.
func (c *Conductor) work(ctx context.Context, s *session.Session) error {
	beat := time.NewTicker(alive)
	defer beat.Stop()
	for {
		if m, records, wish, since := c.next(); m != nil {
			if err := c.send(ctx, s, m, records, wish, since); err != nil {
				return err
			}
			select {
			case a := <-c.asks: // its turn comes too where wishes come without a pause
				if err := a.answer(s); err != nil {
					return err
				}
			default:
			}
			continue
		}
		select {
		case <-ctx.Done():
			return ctx.Err()
		case <-c.wake:
		case a := <-c.asks:
			if err := a.answer(s); err != nil {
				return err
			}
		case <-beat.C:
			if err := s.Ping(ctx); err != nil {
				return err
			}
		}
	}
}

// next takes the oldest wish that can be tried.
func (c *Conductor) next() (m *player, records []protocol.Record, wish *drive.Picture, since time.Time) {
	c.mu.Lock()
	defer c.mu.Unlock()
	if c.state.Phase == Other {
		return nil, nil, nil, since
	}
	now := time.Now()
	for _, p := range c.modules {
		if p.wish != nil && !p.retry.After(now) && (m == nil || p.since.Before(m.since)) {
			m = p
		}
	}
	if m == nil {
		return nil, nil, nil, since
	}
	wish, since = m.wish, m.since
	m.wish = nil
	if m.anew {
		m.Lost()
		m.Slowly(m.extra)
		m.anew, m.extra = false, 0
	} else {
		m.Slowly(0)
	}
	records, err := m.Show(wish)
	if err != nil {
		m.trouble = err.Error()
		c.tell()
		return nil, nil, nil, since
	}
	return m, records, wish, since
}

// send sends an update. Where that fails the wish comes back, unless a newer one has come.
func (c *Conductor) send(ctx context.Context, s *session.Session, m *player, records []protocol.Record, wish *drive.Picture, since time.Time) error {
	_, err := s.Do(ctx, records, m.IsRead)
	c.mu.Lock()
	defer c.mu.Unlock()
	c.state.Sent = s.Counts()
	m.trouble, m.holds = "", err == nil
	if err == nil {
		m.shown = wish
		c.lasts = append(c.lasts, time.Since(since))
		c.lasts = c.lasts[max(0, len(c.lasts)-100):]
		c.tell()
		return nil
	}
	m.Lost()
	if m.wish == nil {
		m.wish, m.since = wish, since
	}
	var failed *session.RecordError
	if errors.As(err, &failed) {
		m.trouble = failed.Status.String()
		if r := records[failed.Record]; r.Op == protocol.OpWrite || r.Op == protocol.OpRead {
			m.trouble += fmt.Sprintf(" (%s)", i2cbus.Address(r.Address))
		}
		m.retry = time.Now().Add(retryAfter)
		time.AfterFunc(retryAfter, c.nudge)
	}
	c.tell()
	return err
}
