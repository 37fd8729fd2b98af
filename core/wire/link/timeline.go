package link

import (
	"time"

	"periph.io/x/conn/v3/physic"
)

// bitsPerByte is the clocks of an I²C byte with its acknowledge bit, UM10204
// §3.1.5–3.1.6.
const bitsPerByte = 9

// BusTimes are the I²C limits around a transaction, UM10204 rev. 7 table 10.
type BusTimes struct{ Low, High, SetupStart, HoldStart, SetupStop, Free, SetupData time.Duration }

var (
	standardMode = BusTimes{4700, 4000, 4700, 4000, 4000, 4700, 250}
	fastMode     = BusTimes{1300, 600, 600, 600, 600, 1300, 100}
)

// TimesAt returns the limits that hold at a bus speed: those of standard mode up
// to 100 kHz, of fast mode above.
func TimesAt(speed physic.Frequency) BusTimes {
	if speed > 100*physic.KiloHertz {
		return fastMode
	}
	return standardMode
}

// Timeline places words in time on one link, one after the other.
type Timeline struct {
	coder   *Coder
	now     time.Duration
	open    bool // a transaction is under way
	reading bool // and its last byte was read
	bit     time.Duration
	times   BusTimes
	sent    int // words
	starts  int // transactions
}

// NewTimeline returns a timeline for the coder's link that stands at time 0.
func NewTimeline(c *Coder) Timeline {
	t := Timeline{coder: c}
	if c.link.Expander() {
		t.bit = c.link.Speed.Period()
		t.times = TimesAt(c.link.Speed)
	}
	return t
}

// Now is the time up to which the wire is in use or the host has waited.
func (t *Timeline) Now() time.Duration { return t.now }

// Words returns how many words were sent, and in how many transactions (0 on
// links that have none).
func (t *Timeline) Words() (words, transactions int) { return t.sent, t.starts }

// restart is how long a repeated START and its address byte take.
func (t *Timeline) restart() time.Duration {
	return t.times.Low + t.times.SetupStart + t.times.HoldStart + bitsPerByte*t.bit
}

// lead is the time from now until the outputs change by the next word.
func (t *Timeline) lead() time.Duration {
	if t.coder.link.Kind == ShiftReg { // eight bits, then the latch
		return 9 * t.bit
	}
	d := bitsPerByte * t.bit
	if !t.open {
		d += t.times.HoldStart + bitsPerByte*t.bit
	}
	return d
}

// FirstRise returns how long it takes from now until the first of some words
// lets an enable rise.
func (t *Timeline) FirstRise(words []Word) time.Duration {
	if !t.coder.link.Expander() {
		return t.coder.pin
	}
	d, each := t.lead(), time.Duration(bitsPerByte)*t.bit
	for _, w := range words {
		if t.coder.Raises(w) {
			break
		}
		d += each
	}
	return d
}

// Send puts a word on the wire and returns the time at which the header pins
// change by it (for a parallel word: at which its data is set up), and the word
// with its transaction mark.
func (t *Timeline) Send(w Word) (time.Duration, Word) {
	t.sent++
	switch {
	case t.coder.link.Kind == Backpack:
		d, read := t.lead(), w&Read != 0
		switch {
		case !t.open:
			t.open = true
			t.starts++
			w |= Begin
		case read != t.reading: // a repeated START turns the direction round
			d += t.restart()
			w |= Begin
		}
		t.reading = read
		t.now += d
		return t.now, w
	case t.coder.link.Kind == ShiftReg:
		t.now += t.lead()
		return t.now, w
	}
	at := t.now
	setup, high, low := t.coder.Pulse()
	t.now += setup + high + low
	return at, w
}

// End closes the open transaction, if there is one, and reports whether it did:
// its last word then takes the mark Finish.
func (t *Timeline) End() bool {
	if !t.open {
		return false
	}
	t.open = false
	t.now += t.times.Low + t.times.SetupStop + t.times.Free
	return true
}

// Wait lets the host wait.
func (t *Timeline) Wait(d time.Duration) { t.now += d }

// TransactionTime returns how long a backpack's transaction of n bytes takes,
// START to the next possible START; 0 for other links.
func (l *Link) TransactionTime(n int) time.Duration {
	if l.Kind != Backpack {
		return 0
	}
	t := TimesAt(l.Speed)
	return t.HoldStart + time.Duration(n+1)*bitsPerByte*l.Speed.Period() + t.Low + t.SetupStop + t.Free
}
