package protocol

import (
	"encoding/binary"
	"fmt"
	"time"
)

// Op says what a record does.
type Op byte

// The records.
const (
	OpWait    Op = 0x01 // wait at least so many microseconds
	OpPulse   Op = 0x02 // levels of a module's lines, a pulse of E; where R/W is high the data lines are inputs, and read: one result
	OpLatch   Op = 0x03 // a byte through a module's shift register
	OpWrite   Op = 0x04 // START, address, bytes, and STOP unless it is held
	OpRead    Op = 0x05 // START, address, so many bytes read, STOP: as many results
	OpScan    Op = 0x06 // every address from 0x08 to 0x77: 16 results, bit 0 of the first is address 0
	OpLevel   Op = 0x07 // the level of a pin: one result, 0 or 1
	OpMeasure Op = 0x08 // the voltage of a pin: two results, high byte first, in steps of its converter
	OpLetGo   Op = 0x09 // all lines of a module become inputs
	OpClock   Op = 0x0A // the host's clock: two results, high byte first, in steps of ClockStep, counted round
	OpTurns   Op = 0x0B // notches of a rotary encoder since it was asked for first in this session, counted round: one result
	OpHeard   Op = 0x0C // characters of a serial line of the host: how many, and as many places as were asked for
)

// ClockStep is what the host's clock counts in.
const ClockStep = 4 * time.Microsecond

// MostData is how many bytes one transaction of the bus may have.
const MostData = 30

// Record is one thing that a bridge does. Which members count depends on Op.
type Record struct {
	Op      Op
	Micros  uint16 // OpWait
	Module  byte   // OpPulse, OpLatch, OpLetGo: of the bridge, counted from 0
	Word    uint16 // OpPulse: data, RS, R/W and enables, laid out as link.Word is; OpLatch: the byte
	Address byte   // OpWrite, OpRead: 7 bits
	Hold    bool   // OpWrite: no STOP, so that the next record begins with a repeated START
	Data    []byte // OpWrite, at most MostData
	Count   byte   // OpRead, OpHeard: 1 to MostData
	Pin     byte   // OpLevel, OpMeasure, OpTurns: as programs number it
	PinB    byte   // OpTurns: the other contact's
	PullUp  bool   // OpLevel, OpTurns: with the host's own pull-up
	High    bool   // OpTurns: the contacts are high while closed
	Line    byte   // OpHeard: number of the host's serial line
	Joins   bool   // it goes into one frame with the record before it; not sent
}

// hold marks an address of a transaction that is not ended by a STOP.
const hold = 0x80

// pullUp marks a pin that is read with the host's pull-up.
const pullUp = 0x80

// whileHigh marks the second pin of an encoder whose contacts are high while closed.
const whileHigh = 0x80

// flagged is a number of 7 bits with a flag.
func flagged(n byte, set bool, flag byte) byte {
	if set {
		return n | flag
	}
	return n
}

// Append appends a record as it stands in the body of a Run.
func (r *Record) Append(dst []byte) []byte {
	dst = append(dst, byte(r.Op))
	switch r.Op {
	case OpWait:
		return binary.BigEndian.AppendUint16(dst, r.Micros)
	case OpPulse:
		return binary.BigEndian.AppendUint16(append(dst, r.Module), r.Word)
	case OpLatch:
		return append(dst, r.Module, byte(r.Word))
	case OpWrite:
		return append(append(dst, flagged(r.Address, r.Hold, hold), byte(len(r.Data))), r.Data...)
	case OpRead:
		return append(dst, r.Address, r.Count)
	case OpLevel:
		return append(dst, flagged(r.Pin, r.PullUp, pullUp))
	case OpMeasure:
		return append(dst, r.Pin)
	case OpLetGo:
		return append(dst, r.Module)
	case OpTurns:
		return append(dst, flagged(r.Pin, r.PullUp, pullUp), flagged(r.PinB, r.High, whileHigh))
	case OpHeard:
		return append(dst, r.Line, r.Count)
	}
	return dst
}

// Size is how many bytes a record takes in a body.
func (r *Record) Size() int { return len(r.Append(nil)) }

// Results is how many bytes of results a record gives.
func (r *Record) Results(reads bool) int {
	switch r.Op {
	case OpPulse:
		if reads {
			return 1
		}
	case OpRead:
		return int(r.Count)
	case OpScan:
		return 16
	case OpLevel, OpTurns:
		return 1
	case OpMeasure, OpClock:
		return 2
	case OpHeard:
		return 1 + int(r.Count)
	}
	return 0
}

// ParseRecord reads the first record of a body, and returns what follows it. Its error is a *StatusError.
func ParseRecord(body []byte) (r Record, rest []byte, err error) {
	if len(body) == 0 {
		return r, nil, &StatusError{Cut}
	}
	sizes := map[Op]int{OpWait: 3, OpPulse: 4, OpLatch: 3, OpWrite: 3, OpRead: 3, OpScan: 1, OpLevel: 2, OpMeasure: 2, OpLetGo: 2, OpClock: 1, OpTurns: 3, OpHeard: 3}
	r.Op = Op(body[0])
	n, known := sizes[r.Op]
	if !known {
		return r, nil, &StatusError{Unknown}
	}
	if len(body) < n {
		return r, nil, &StatusError{Cut}
	}
	switch a := body[1:n]; r.Op {
	case OpWait:
		r.Micros = binary.BigEndian.Uint16(a)
	case OpPulse:
		r.Module, r.Word = a[0], binary.BigEndian.Uint16(a[1:])
	case OpLatch:
		r.Module, r.Word = a[0], uint16(a[1])
	case OpWrite:
		r.Address, r.Hold = a[0]&^hold, a[0]&hold != 0
		n += int(a[1])
		if a[1] > MostData {
			return r, nil, &StatusError{Room}
		}
		if len(body) < n {
			return r, nil, &StatusError{Cut}
		}
		r.Data = body[3:n]
	case OpRead:
		r.Address, r.Count = a[0]&^hold, a[1]
		if r.Count == 0 || r.Count > MostData {
			return r, nil, &StatusError{Room}
		}
	case OpLevel:
		r.Pin, r.PullUp = a[0]&^pullUp, a[0]&pullUp != 0
	case OpMeasure:
		r.Pin = a[0]
	case OpLetGo:
		r.Module = a[0]
	case OpTurns:
		r.Pin, r.PullUp, r.PinB, r.High = a[0]&^pullUp, a[0]&pullUp != 0, a[1]&^whileHigh, a[1]&whileHigh != 0
	case OpHeard:
		r.Line, r.Count = a[0], a[1]
		if r.Count == 0 || r.Count > MostData {
			return r, nil, &StatusError{Room}
		}
	}
	return r, body[n:], nil
}

// StatusError is a record that could not be carried out.
type StatusError struct{ Status Status }

func (e *StatusError) Error() string { return e.Status.String() }

// String writes a record for people and for logs.
func (r *Record) String() string {
	switch r.Op {
	case OpWait:
		return fmt.Sprintf("wait %d µs", r.Micros)
	case OpPulse:
		return fmt.Sprintf("module %d: pulse %03X", r.Module, r.Word)
	case OpLatch:
		return fmt.Sprintf("module %d: latch %02X", r.Module, r.Word)
	case OpWrite:
		end := " STOP"
		if r.Hold {
			end = ""
		}
		return fmt.Sprintf("START %02X % X%s", r.Address, r.Data, end)
	case OpRead:
		return fmt.Sprintf("START %02X read %d STOP", r.Address, r.Count)
	case OpScan:
		return "scan"
	case OpLevel:
		return fmt.Sprintf("level of pin %d", r.Pin)
	case OpMeasure:
		return fmt.Sprintf("voltage of pin %d", r.Pin)
	case OpLetGo:
		return fmt.Sprintf("module %d: all lines are inputs", r.Module)
	case OpClock:
		return "clock"
	case OpTurns:
		return fmt.Sprintf("notches of pins %d and %d", r.Pin, r.PinB)
	case OpHeard:
		return fmt.Sprintf("characters of line %d", r.Line)
	}
	return fmt.Sprintf("record %02X", byte(r.Op))
}
