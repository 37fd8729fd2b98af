package protocol

import (
	"encoding/binary"
	"fmt"
	"time"
)

// AtRest says what the pins of a link do while no computer drives them.
type AtRest byte

// The ways to rest.
const (
	Keep   AtRest = 0 // outputs keep their levels, so that the glass keeps what it shows; E is low
	Inputs AtRest = 1 // all are inputs
)

// Greeting begins a session. A bridge that takes it forgets the one before.
type Greeting struct {
	AtRest  AtRest
	Silence time.Duration // after so much time without a frame the pins go to rest; 0 never; in steps of 10 ms, at most 650 s
}

// Append appends the body of a Hello.
func (g *Greeting) Append(dst []byte) []byte {
	dst = append(dst, Version, byte(g.AtRest))
	return binary.BigEndian.AppendUint16(dst, uint16(min(g.Silence, 650*time.Second)/(10*time.Millisecond)))
}

// ParseGreeting reads the body of a Hello.
func ParseGreeting(body []byte) (Greeting, error) {
	if len(body) != 4 || body[0] != Version || body[1] > byte(Inputs) {
		return Greeting{}, fmt.Errorf("a greeting of % X; expected version %d, rest 0 or 1, and two bytes of silence", body, Version)
	}
	return Greeting{AtRest(body[1]), time.Duration(binary.BigEndian.Uint16(body[2:])) * 10 * time.Millisecond}, nil
}

// Can is what a host can do, a bit each.
type Can byte

// The abilities.
const (
	CanBus     Can = 1 << iota // it has a bus: Write, Read, Scan
	CanPins                    // Pulse, Latch
	CanMeasure                 // voltages of pins
	CanLevel                   // levels of pins
	CanClock                   // its own clock
	CanTurn                    // rotary encoders
	CanHear                    // serial lines beside the one to the computer
)

// Identity is what a bridge says of itself.
type Identity struct {
	Version byte
	Can     Can
	Credits byte   // frames that it has room for beside the one that it carries out
	Body    byte   // longest body of a Run that it takes, in bytes
	Results byte   // most bytes of results of a Run
	Modules byte   // that it knows, counted from 0
	Bench   uint16 // Digest of what it was made for
	Part    string // designation of the host
}

// Append appends the body of a Here.
func (i *Identity) Append(dst []byte) []byte {
	dst = append(dst, i.Version, byte(i.Can), i.Credits, i.Body, i.Results, i.Modules)
	return append(binary.BigEndian.AppendUint16(dst, i.Bench), i.Part...)
}

// ParseIdentity reads the body of a Here.
func ParseIdentity(body []byte) (Identity, error) {
	if len(body) < 8 {
		return Identity{}, fmt.Errorf("an answer of %d bytes; expected 8 and the host's name", len(body))
	}
	i := Identity{body[0], Can(body[1]), body[2], body[3], body[4], body[5], binary.BigEndian.Uint16(body[6:]), string(body[8:])}
	switch {
	case i.Version != Version:
		return i, fmt.Errorf("the bridge speaks version %d; this program speaks %d: upload the bridge again", i.Version, Version)
	case i.Credits == 0 || i.Body < minBody:
		return i, fmt.Errorf("the bridge takes %d frames of %d bytes; expected 1 of %d at least", i.Credits, i.Body, minBody)
	}
	return i, nil
}

// minBody is the least that a bridge must take: a whole transaction of a few bytes.
const minBody = 32

// Status says what became of a record.
type Status byte

// The statuses.
const (
	OK       Status = 0
	NoAnswer Status = 1 // nobody acknowledges the address
	Refused  Status = 2 // a byte was not acknowledged
	Stuck    Status = 3 // a line of the bus is held low
	Unknown  Status = 4 // no such record
	Cut      Status = 5 // the body ends within the record
	NotOurs  Status = 6 // a pin or a module that the bench has not given to a link, or a read that its host would not bear
	Room     Status = 7 // more results than there is room for
)

var statusTexts = map[Status]string{
	OK: "done", NoAnswer: "nobody acknowledges the address", Refused: "a byte was not acknowledged",
	Stuck: "the bus does not move: SDA or SCL is held low, or has no pull-up", Unknown: "the bridge does not know the record",
	Cut: "the record is cut", NotOurs: "the bench has not given that pin or module to the bridge", Room: "more results than the bridge has room for",
}

// String says it for people.
func (s Status) String() string {
	if text, ok := statusTexts[s]; ok {
		return text
	}
	return fmt.Sprintf("status %d", byte(s))
}

// Outcome is what became of the records of a Run. After one that failed none is carried out until the next Hello.
type Outcome struct {
	Status  Status
	Record  byte // that failed, counted from 0; how many were carried out where none did
	Results []byte
}

// Append appends the body of a Done.
func (o *Outcome) Append(dst []byte) []byte {
	return append(append(dst, byte(o.Status), o.Record), o.Results...)
}

// ParseOutcome reads the body of a Done.
func ParseOutcome(body []byte) (Outcome, error) {
	if len(body) < 2 {
		return Outcome{}, fmt.Errorf("an outcome of %d bytes; expected 2 at least", len(body))
	}
	return Outcome{Status(body[0]), body[1], body[2:]}, nil
}

// Refusal says why a frame was not taken. Its frame's body is the refusal alone.
type Refusal byte

// The refusals.
const (
	Garbled   Refusal = 1 // cut, lengthened or changed on the way
	NoSession Refusal = 2 // of a session that the bridge does not know: it was reset, or another computer has begun one
	OutOfTurn Refusal = 3 // its number is not the next one: a frame was lost
	Failed    Refusal = 4 // a record of an earlier frame failed
	TooMuch   Refusal = 5 // longer than it has room for, or more than its credits
)

// String says it for people.
func (r Refusal) String() string {
	texts := [...]string{Garbled: "what came was garbled", NoSession: "the bridge was reset", OutOfTurn: "a frame was lost", Failed: "an earlier frame failed", TooMuch: "the bridge was sent more than it has room for"}
	if int(r) < len(texts) && texts[r] != "" {
		return texts[r]
	}
	return fmt.Sprintf("refusal %d", byte(r))
}
