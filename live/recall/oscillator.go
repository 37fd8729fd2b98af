package recall

import (
	"context"
	"errors"
	"fmt"
	"time"

	"periph.io/x/conn/v3/physic"

	"slatebell/core/part/hd44780"
	"slatebell/core/wire/link"
	"slatebell/core/wire/sequence"
	"slatebell/live/drive"
	"slatebell/live/protocol"
	"slatebell/live/session"
)

// Speed is how fast a module works.
type Speed struct {
	Clear      time.Duration    // for which the busy flag is set by a clear
	Oscillator physic.Frequency // by that
}

const (
	// longest is more than any module takes for a clear: 1.52 ms at 270 kHz, 2.16 ms at 190 kHz (data sheet ADE-207-272(Z), table 6).
	longest = 8 * time.Millisecond
	// finest is how exactly it is measured.
	finest = 2 * protocol.ClockStep
)

// Oscillator times the busy flag after a clear, by the host's own clock: cleared over and over, the module is asked sooner and later,
// until it is known when the flag falls. The glass is blank afterwards. On a bus the moment at which E rises counts, a few bytes after
// the host's clock was read, as measured of the same bytes.
func Oscillator(ctx context.Context, line *session.Session, m *drive.Module) (s Speed, err error) {
	if line.Bridge.Can&protocol.CanClock == 0 {
		return s, errors.New("this bridge has no clock: upload it again")
	}
	t, err := newTimer(ctx, line, m)
	if err != nil {
		return s, err
	}
	early, late := time.Duration(0), longest
	if took, busy, err := t.ask(0); err != nil {
		return s, err
	} else if !busy {
		return s, fmt.Errorf("%s is not busy %v after a clear: it does not answer, or R/W is not joined", m.Name, took.Round(10*time.Microsecond))
	}
	if _, busy, err := t.ask(late); err != nil {
		return s, err
	} else if busy {
		return s, fmt.Errorf("%s is busy %v after a clear still: D7 is open, or the module does not answer", m.Name, late)
	}
	var busyAt, freeAt time.Duration // of the nearest questions
	for late-early > finest {
		wait := (early + late) / 2
		took, busy, err := t.ask(wait)
		if err != nil {
			return s, err
		}
		if busy {
			early, busyAt = wait, took
		} else {
			late, freeAt = wait, took
		}
	}
	s.Clear = (busyAt + freeAt) / 2
	at270 := hd44780.ExecutionTime(hd44780.Command(clearDisplay), hd44780.TypicalOscillator)
	s.Oscillator = physic.Frequency(float64(hd44780.TypicalOscillator) * float64(at270) / float64(s.Clear))
	return s, nil
}

const clearDisplay = 0x01

// timer asks a module for its busy flag some time after a clear.
type timer struct {
	ctx           context.Context
	line          *session.Session
	m             *drive.Module
	clear, status []protocol.Record
	reads         int           // bytes that a status gives
	before        time.Duration // from the falling edge of the clear to the clock
	after         time.Duration // from the clock to the rise of E by which the flag is read
}

func newTimer(ctx context.Context, line *session.Session, m *drive.Module) (t *timer, err error) {
	t = &timer{ctx: ctx, line: line, m: m, reads: 8 / m.Link.Width()}
	if t.clear, err = m.Bare(sequence.Aimed{Op: hd44780.Command(clearDisplay), Enable: link.First}); err != nil {
		return nil, err
	}
	if t.status, err = m.Bare(sequence.Aimed{Op: hd44780.Operation{RW: true}, Enable: link.First}); err != nil {
		return nil, err
	}
	if m.Link.Kind == link.Backpack {
		t.reads = 2
	}
	return t, t.calibrate()
}

var clock = protocol.Record{Op: protocol.OpClock}

// calibrate measures what the host takes for the clock itself, and for a status.
func (t *timer) calibrate() error {
	records := append([]protocol.Record{clock, clock}, t.status...)
	got, err := t.do(append(records, clock))
	if err != nil {
		return err
	}
	if len(got) != 6+t.reads {
		return fmt.Errorf("%d bytes came back; expected %d", len(got), 6+t.reads)
	}
	clocks, status := between(got, 0, 2), between(got, 2, 4+t.reads)-between(got, 0, 2)
	t.before, t.after = clocks, time.Duration(float64(status-clocks)*t.rise())
	return nil
}

// rise is which part of a status is over when E has risen for the first time: in the middle of the first pulse, as the data lines are
// let go before and read after it; on a bus when the byte with E high is acknowledged.
func (t *timer) rise() float64 {
	if t.status[0].Op != protocol.OpWrite {
		return 0.5 / float64(len(t.status))
	}
	all, before := 0, 0 // bytes, with their addresses
	for i := range t.status {
		r := &t.status[i]
		if r.Op == protocol.OpRead {
			all += 2 * int(r.Count)
			continue
		}
		all++
		for _, b := range r.Data {
			all++
			if before == 0 && t.m.Raises(link.Word(b)) {
				before = all
			}
		}
	}
	return float64(before) / float64(all)
}

// ask clears the module, waits, and asks whether it is busy; took is how long after the clear that was.
func (t *timer) ask(wait time.Duration) (took time.Duration, busy bool, err error) {
	records := append(append([]protocol.Record{}, t.clear...), clock)
	if wait > 0 {
		records = append(records, protocol.Record{Op: protocol.OpWait, Micros: uint16(wait / time.Microsecond)})
	}
	records = append(append(records, clock), t.status...)
	records = append(records, protocol.Record{Op: protocol.OpWait, Micros: uint16(longest / time.Microsecond)})
	got, err := t.do(records)
	if err != nil {
		return 0, false, err
	}
	flags, err := t.m.Bytes(got[4:])
	if err != nil || len(flags) != 1 {
		return 0, false, fmt.Errorf("a status of %d bytes came back (%w)", len(flags), err)
	}
	return between(got, 0, 2) + t.before + t.after, flags[0]&0x80 != 0, nil
}

// do sends records as one frame, as the time between two of them counts.
func (t *timer) do(records []protocol.Record) ([]byte, error) {
	for i := range records[1:] {
		records[1+i].Joins = true
	}
	got, err := t.line.Do(t.ctx, records, t.m.IsRead)
	if err == nil && len(got) < 4 {
		err = fmt.Errorf("%d bytes came back; expected a clock", len(got))
	}
	return got, err
}

// between is the time between two clocks in what was answered.
func between(got []byte, a, b int) time.Duration {
	at := func(i int) uint16 { return uint16(got[i])<<8 | uint16(got[i+1]) }
	return time.Duration(at(b)-at(a)) * protocol.ClockStep
}
