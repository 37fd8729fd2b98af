// Package capture reads what was recorded on the wires of a module: which channel is which line, what was sent, and what the glass showed.
//
// It stands beside run: a program is played into the rig there, a recording here. Readers of recordings are in formats; nothing of theirs is
// known here but a Source.
package capture

import "time"

// Change is the levels of all channels from a moment on: bit n is channel n.
type Change struct {
	At     time.Duration // since the recording began
	Levels uint64
}

// MaxChannels is how many channels a recording may have.
const MaxChannels = 64

// Source gives a recording change by change, in the order of time; the first are the levels at its beginning.
type Source interface {
	Channels() []string    // names, at most MaxChannels
	Next() (Change, error) // io.EOF at the end
}

// Stepped is a source that knows how far apart two of its times are at least: its samples' distance, or the unit in which it counts. What is shorter,
// it cannot show.
type Stepped interface {
	Step() time.Duration // 0 where it does not know
}

// Untimed is a source whose times are made up, as of a list of bytes.
type Untimed interface {
	Untimed() bool
}
