package conduct

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"slices"
	"time"

	"slatebell/core/part/i2cbus"
	"slatebell/core/wire/sequence"
	"slatebell/live/drive"
	"slatebell/live/protocol"
	"slatebell/live/recall"
	"slatebell/live/session"
)

// ask is something else to do on the line.
type ask struct {
	do   func(context.Context, *session.Session) error
	done chan error
	ctx  context.Context
}

// answer does it. Its error says that the session is at its end.
func (a *ask) answer(s *session.Session) error {
	err := a.do(a.ctx, s)
	a.done <- err
	var failed *session.RecordError
	var gone *session.BrokenError
	if errors.As(err, &failed) || errors.As(err, &gone) || err == errReset || a.ctx.Err() != nil {
		return cmp.Or(err, a.ctx.Err())
	}
	return nil
}

// Ask does something else on the line, between two updates.
func (c *Conductor) Ask(ctx context.Context, do func(context.Context, *session.Session) error) error {
	a := ask{do, make(chan error, 1), ctx}
	select {
	case c.asks <- a:
	case <-ctx.Done():
		return fmt.Errorf("no bridge is there: %w", ctx.Err())
	}
	return <-a.done // do heeds the context itself
}

// Scan asks the real bus who answers.
func (c *Conductor) Scan(ctx context.Context) (found []i2cbus.Address, err error) {
	err = c.Ask(ctx, func(ctx context.Context, s *session.Session) error {
		if s.Bridge.Can&protocol.CanBus == 0 {
			return errors.New("the bridge has no bus: it was made for a bench without one")
		}
		bits, err := s.Do(ctx, []protocol.Record{{Op: protocol.OpScan}}, nil)
		if err != nil {
			return err
		}
		for a := range i2cbus.Address(128) {
			if bits[a/8]>>(a%8)&1 != 0 {
				found = append(found, a)
			}
		}
		return nil
	})
	return found, err
}

// ByHand carries operations out on a module as they are given, and returns what they read.
func (c *Conductor) ByHand(ctx context.Context, module int, live []sequence.Aimed) (results []byte, err error) {
	err = c.askOf(ctx, module, func(ctx context.Context, s *session.Session, m *drive.Module) (err error) {
		results, err = m.Exchange(ctx, s, live)
		return err
	})
	if slices.ContainsFunc(live, func(a sequence.Aimed) bool { return a.Raw }) { // nobody knows what it made of that
		c.mu.Lock()
		defer c.mu.Unlock()
		if module >= 0 && module < len(c.modules) {
			c.modules[module].Lost()
			c.modules[module].holds = false
		}
	}
	return results, err
}

// Memory reads what a module holds, and holds it against what it was sent.
func (c *Conductor) Memory(ctx context.Context, module int) (memory *recall.Memory, differ recall.Differences, err error) {
	err = c.askOf(ctx, module, func(ctx context.Context, s *session.Session, m *drive.Module) (err error) {
		if memory, err = recall.Read(ctx, s, m); err == nil {
			differ = memory.Against(m)
		}
		return err
	})
	return memory, differ, err
}

// Lines tries a module's data lines by a pattern: what is wrong with them, and how many bytes came back otherwise than they were sent.
// Afterwards it shows again what it showed.
func (c *Conductor) Lines(ctx context.Context, module int) (wrong []recall.Line, differ int, err error) {
	defer c.Renew(module)
	err = c.askOf(ctx, module, func(ctx context.Context, s *session.Session, m *drive.Module) (err error) {
		wrong, differ, err = recall.Lines(ctx, s, m)
		return err
	})
	return wrong, differ, err
}

// Oscillator measures how fast a module works. Afterwards it shows again what it showed.
func (c *Conductor) Oscillator(ctx context.Context, module int) (speed recall.Speed, err error) {
	defer c.Renew(module)
	err = c.askOf(ctx, module, func(ctx context.Context, s *session.Session, m *drive.Module) (err error) {
		speed, err = recall.Oscillator(ctx, s, m)
		return err
	})
	return speed, err
}

// darkFor is how long the light stays off to be seen.
const darkFor = time.Second

// Light switches a module's backlight off, and on again after a second.
func (c *Conductor) Light(ctx context.Context, module int) error {
	return c.askOf(ctx, module, func(ctx context.Context, s *session.Session, m *drive.Module) error {
		for _, on := range []bool{false, true} {
			records, err := m.Light(on)
			if err == nil {
				_, err = s.Do(ctx, records, m.IsRead)
			}
			if err != nil || on {
				return err
			}
			select {
			case <-ctx.Done():
				return ctx.Err()
			case <-time.After(darkFor):
			}
		}
		return nil
	})
}

// Measure measures the voltage of a pin by the number that programs have for it, in steps of the host's converter.
func (c *Conductor) Measure(ctx context.Context, pin byte) (steps uint16, err error) {
	err = c.Ask(ctx, func(ctx context.Context, s *session.Session) error {
		if s.Bridge.Can&protocol.CanMeasure == 0 {
			return errors.New("this host measures no voltages")
		}
		got, err := s.Do(ctx, []protocol.Record{{Op: protocol.OpMeasure, Pin: pin}}, nil)
		if err == nil && len(got) == 2 {
			steps = uint16(got[0])<<8 | uint16(got[1])
		}
		return err
	})
	return steps, err
}

// Reset closes the line and opens it again, which resets many boards; then everything is begun anew.
func (c *Conductor) Reset(ctx context.Context) error {
	if err := c.Ask(ctx, func(context.Context, *session.Session) error { return errReset }); err != errReset {
		return err
	}
	return nil
}

// askOf asks something of a module, once what was wished for it is sent.
func (c *Conductor) askOf(ctx context.Context, module int, do func(context.Context, *session.Session, *drive.Module) error) error {
	m, err := c.module(module)
	if err != nil {
		return err
	}
	return c.Ask(ctx, func(ctx context.Context, s *session.Session) error { return do(ctx, s, m.Module) })
}

func (c *Conductor) module(at int) (*player, error) {
	c.mu.Lock()
	defer c.mu.Unlock()
	if at < 0 || at >= len(c.modules) {
		return nil, fmt.Errorf("module %d; this bench has modules 0–%d", at, len(c.modules)-1)
	}
	if c.state.Phase == Other {
		return nil, errors.New(c.state.Why)
	}
	return c.modules[at], nil
}
