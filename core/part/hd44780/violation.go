package hd44780

import "time"

// ViolationKind names a limit of the data sheet that a host broke.
type ViolationKind uint8

// The kinds, with what Measured and Limit mean for them.
const (
	WhileBusy     ViolationKind = iota // written or read while busy; Limit: how much longer it was
	AddressSetup                       // t_AS
	AddressHold                        // t_AH
	DataSetup                          // t_DSW
	DataHold                           // t_H
	PulseWidth                         // PW_EH
	Cycle                              // t_cycE
	SelectMoved                        // RS or R/W changed while E was high
	OutsideMemory                      // DDRAM address that the memory lacks; Value
	ReadUnset                          // data read without an address set before it
	StartEarly                         // initialising by instruction: wait too short
	StartOrder                         // an instruction before any function set
	FunctionLate                       // N or F changed after other instructions
)

// Violation is one limit broken.
type Violation struct {
	Kind     ViolationKind
	At       time.Duration // since power-up
	Measured time.Duration
	Limit    time.Duration
	Value    byte
}

func (c *Controller) violate(v Violation) {
	if c.report != nil {
		c.report(v)
	}
}

// starting follows initialisation by instruction, data sheet figures 23 and 24.
type starting struct {
	sets  uint8 // function sets in a row since power-up, 3 at most
	begun bool  // another instruction was executed since
	lines byte  // the last function set
}

// checkStart reports waits of the start sequence that were too short, and
// instructions out of order. An 8-bit function set in the middle of a program
// is taken for a host that starts over: its waits were kept before it, where
// the interface may have been in any phase.
func (c *Controller) checkStart(at time.Duration, kind InstructionKind, b byte) {
	s := &c.start
	switch {
	case kind != FunctionSet:
		if s.sets == 0 && !s.begun {
			c.violate(Violation{Kind: StartOrder, At: at, Value: b})
		}
		s.begun = true
		return
	case s.begun && b&EightBit != 0:
		*s = starting{sets: 3}
	case s.begun:
		if (b^s.lines)&(TwoLine|Tall) != 0 && c.FourBit && c.cfg.Family != VFDFunctionSet {
			c.violate(Violation{Kind: FunctionLate, At: at, Value: b})
		}
	default:
		c.checkStartWait(at, b)
		s.sets = min(s.sets+1, 3)
	}
	s.lines = b
}

func (c *Controller) checkStartWait(at time.Duration, b byte) {
	var measured, limit time.Duration
	switch {
	case c.start.sets == 0 && c.limits == BusAt3V:
		measured, limit = at, WaitAt3V
	case c.start.sets == 0:
		measured, limit = at, WaitAt5V
	case c.start.sets == 1 && b&EightBit != 0:
		measured, limit = at-c.functionAt, WaitAfterFirst
	case c.start.sets == 2 && b&EightBit != 0:
		measured, limit = at-c.functionAt, WaitAfterSecond
	}
	if measured < limit {
		c.violate(Violation{Kind: StartEarly, At: at, Measured: measured, Limit: limit})
	}
}
