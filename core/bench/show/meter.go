package show

import (
	"slatebell/core/bench"
	"slatebell/core/text/meter"
)

// Meter lets fields follow the size of a signal as an instrument would.
type Meter struct {
	Decibels  bool
	Reference int32 // of 0 dB, in eighths of a unit
	Follower  meter.Follower
	Hold      int64 // ms
}

// UsualHold is how long a peak is held where nothing is said.
const UsualHold = 1000 // ms

func meterOf(d *bench.Meter, decimals int) *Meter {
	reference := d.Reference
	if reference == 0 {
		reference = 1
	}
	return &Meter{
		Decibels: d.Reads == "decibels", Reference: max(meter.Eighths(int64(meter.Size(Units(reference, decimals)))), 1),
		Follower: meter.NewFollower(d.RiseMs, d.FallMs), Hold: or(d.HoldMs, UsualHold),
	}
}

// sample moves the needle and the peak by a sample; with nothing left to move it rests.
func (m *Meter) sample(is *InputState, at int64) {
	is.Needle = m.Follower.Follow(is.Needle, is.Value)
	if is.Needle.Level >= is.Peak {
		is.Peak, is.Held = is.Needle.Level, at
	} else if at >= is.Held+m.Hold {
		is.Peak = is.Needle.Level
	}
	is.Due = at + meter.SampleMs
	if is.Needle.Level == meter.Eighths(int64(meter.Size(is.Value))) && is.Peak == is.Needle.Level {
		is.Due = never
	}
}

// gives is what the meter shows: units of the signal, or tenths of a decibel.
func (m *Meter) gives(is *InputState, decimals int) Given {
	if m.Decibels {
		return Given{Units: meter.Decibels(is.Needle.Level, m.Reference), Decimals: 1, Peak: meter.Decibels(is.Peak, m.Reference)}
	}
	return Given{Units: is.Needle.Units(), Decimals: decimals, Peak: meter.Needle{Level: is.Peak}.Units()}
}
