package replay

import (
	"fmt"
	"slices"
	"time"

	"periph.io/x/conn/v3/physic"

	"slatebell/core/finding"
	"slatebell/core/prove/capture"
	"slatebell/core/wire/link"
	"slatebell/core/wire/rig"
)

// least is the shortest of a time that is limited, and how often it is too short.
type least struct {
	d  time.Duration
	at time.Duration
	n  int // times that were measured
}

func (l *least) take(d, at time.Duration) {
	if l.n == 0 || d < l.d {
		l.d, l.at = d, at
	}
	l.n++
}

// pace measures a bus: how fast it is clocked, and the shortest of each time that UM10204 limits.
type pace struct {
	sda, scl int
	was      uint64
	begun    bool // levels are known
	in       bool // within a transaction
	fresh    bool // START came since the clock rose
	bit      int  // rises of the clock in this byte, 9 with the acknowledge

	rose, fell, moved, began, ended time.Duration // last; −1: not yet

	low, high, setupStart, holdStart, setupStop, free, setupData least

	periods, lows []time.Duration // within a byte, the first measured
	longs         []stretch       // far longer than usual
}

// stretch is a low of the clock that is long.
type stretch struct{ d, at time.Duration }

// Of what a bus's pace is judged by (ours): how many periods are measured, how much longer a low must be than usual to be called stretched, and at
// least.
const (
	measuredPeriods = 4096
	stretchedTimes  = 4
	stretchedLeast  = 20 * time.Microsecond
)

// take follows the bus.
func (b *pace) take(c capture.Change) {
	was := b.was
	b.was = c.Levels
	if !b.begun {
		b.begun, b.rose, b.fell, b.moved, b.began, b.ended = true, -1, -1, -1, -1, -1
		return
	}
	if was>>b.sda&1 != c.Levels>>b.sda&1 {
		b.data(c.At, c.Levels>>b.sda&1 == 1, was>>b.scl&1 == 1 && c.Levels>>b.scl&1 == 1)
	}
	if was>>b.scl&1 != c.Levels>>b.scl&1 {
		b.clock(c.At, c.Levels>>b.scl&1 == 1)
	}
}

// data is a change of SDA; with the clock high it is START or STOP.
func (b *pace) data(at time.Duration, high, clock bool) {
	if b.moved = at; !clock {
		return
	}
	if high { // STOP
		if b.rose >= 0 && b.in {
			b.setupStop.take(at-b.rose, at)
		}
		b.in, b.ended = false, at
		return
	}
	switch {
	case b.in && b.rose >= 0: // repeated
		b.setupStart.take(at-b.rose, at)
	case b.ended >= 0:
		b.free.take(at-b.ended, at)
	}
	b.in, b.fresh, b.bit, b.began = true, true, 0, at
}

func (b *pace) clock(at time.Duration, high bool) {
	if !high {
		if b.in && b.fresh {
			b.holdStart.take(at-b.began, at)
		} else if b.in && b.rose >= 0 {
			b.high.take(at-b.rose, at)
		}
		b.fell, b.fresh = at, false
		return
	}
	if b.in && b.fell >= 0 {
		low := at - b.fell
		b.low.take(low, at)
		if b.moved >= b.fell {
			b.setupData.take(at-b.moved, at)
		}
		if b.bit = b.bit%9 + 1; b.bit > 1 {
			b.within(low, at)
		}
	}
	b.rose = at
}

// within takes note of a low of the clock within a byte.
func (b *pace) within(low, at time.Duration) {
	if len(b.lows) < measuredPeriods {
		b.lows = append(b.lows, low)
		b.periods = append(b.periods, at-b.rose)
	}
	if low > stretchedLeast && len(b.longs) < measuredPeriods {
		b.longs = append(b.longs, stretch{low, at - low})
	}
}

func median(list []time.Duration) time.Duration {
	if len(list) == 0 {
		return 0
	}
	list = slices.Clone(list)
	slices.Sort(list)
	return list[len(list)/2]
}

// Clock is how fast the bus is clocked within bytes; 0 where there is none.
func (r *Replay) Clock() physic.Frequency {
	if r.pace == nil {
		return 0
	}
	if p := median(r.pace.periods); p > 0 {
		return physic.PeriodToFrequency(p)
	}
	return 0
}

const busSource = "UM10204 rev. 7, I²C-bus specification, table 10"

// expanderClock is what an expander is made for at most, with a fiftieth for the host's own clock.
const expanderClock = 102 * physic.KiloHertz

// findings judge the bus: what is shorter than it may be, by more than the recording's times lie apart.
func (b *pace) findings(clock physic.Frequency, step time.Duration) (out []finding.Finding) {
	if clock == 0 {
		return nil
	}
	if clock > expanderClock {
		out = append(out, finding.Finding{
			Code: "capture.fast-clock", Severity: finding.Warning, What: fmt.Sprintf("The bus is clocked at %d kHz; the expander is made for 100 kHz at most.", clock/physic.KiloHertz),
			Why: "Many follow a faster clock, none is bound to.", Fix: "Set the bus to 100 kHz.", Source: "PCF8574 data sheet, f_SCL",
		})
		clock = 400 * physic.KiloHertz
	} else {
		clock = 100 * physic.KiloHertz
	}
	limits := link.TimesAt(clock)
	for _, one := range []struct {
		code, symbol, what string
		l                  *least
		limit              time.Duration
	}{
		{"low", "t_LOW", "SCL is low for", &b.low, limits.Low}, {"high", "t_HIGH", "SCL is high for", &b.high, limits.High},
		{"su-sta", "t_SU;STA", "SCL is high before a repeated START for", &b.setupStart, limits.SetupStart}, {"hd-sta", "t_HD;STA", "SCL falls after START by", &b.holdStart, limits.HoldStart},
		{"su-sto", "t_SU;STO", "SCL is high before STOP for", &b.setupStop, limits.SetupStop}, {"buf", "t_BUF", "the bus is free between STOP and START for", &b.free, limits.Free},
		{"su-dat", "t_SU;DAT", "SDA stands before the rise of SCL for", &b.setupData, limits.SetupData},
	} {
		if one.l.n == 0 || one.l.d+step >= one.limit {
			continue
		}
		out = append(out, at(one.l.at, finding.Finding{
			Code: "capture.t-" + one.code, Severity: finding.Warning, What: fmt.Sprintf("%s broken: %s %s, at least %s needed; the shortest ends at %s.", one.symbol, one.what, rig.Duration(one.l.d), rig.Duration(one.limit), rig.Duration(one.l.at)),
			Why: "A device on the bus may miss the bit, or take it for another.", Fix: "Slow the bus down; where the host's own hardware drives it, its setting of the clock.", Source: busSource,
		}))
	}
	usual := median(b.lows)
	long := slices.DeleteFunc(slices.Clone(b.longs), func(s stretch) bool { return s.d < stretchedTimes*usual })
	if len(long) > 0 {
		most := slices.MaxFunc(long, func(x, y stretch) int { return int(x.d - y.d) })
		out = append(out, at(long[0].at, finding.Finding{
			Code: "capture.stretched", Severity: finding.Note, What: fmt.Sprintf("The clock is held low within a byte for up to %s, where %s is usual: %d times, the first from %s on.", rig.Duration(most.d), rig.Duration(usual), len(long), rig.Duration(long[0].at)),
			Why: "A device stretches the clock, or the host was interrupted: two wires do not tell which.", Source: "UM10204 rev. 7, §3.1.9",
		}))
	}
	return out
}

// at is a finding that is about a time of the recording.
func at(t time.Duration, f finding.Finding) finding.Finding {
	ns := t.Nanoseconds()
	f.AtNs = &ns
	return f
}
