package link

import (
	"fmt"
	"slices"
	"strings"
	"time"
)

// Shift is the levels of a shift register's three lines from one moment on.
type Shift struct {
	At                 time.Duration // from the rise of the latch
	Data, Clock, Latch bool
}

// ShiftEdges appends how a host shifts a byte, the highest bit first, and latches
// it; bit is the period of its clock.
func ShiftEdges(dst []Shift, b byte, bit time.Duration) []Shift {
	for i := range 8 {
		at, data := -time.Duration(8-i)*bit, b>>(7-i)&1 != 0
		dst = append(dst, Shift{At: at - bit/2, Data: data}, Shift{At: at, Data: data, Clock: true})
	}
	last := b&1 != 0
	return append(dst, Shift{At: -bit / 4, Data: last}, Shift{Data: last, Latch: true}, Shift{At: bit / 4, Data: last})
}

// input is what drives an input of a register: lines of the host, of which low
// wins, or a level.
type input struct {
	data, clock, latch bool
	fixed, high        bool // fixed: it has this level whatever the lines are, or nothing drives it
}

func (in *input) level(s Shift) bool {
	if in.fixed {
		return in.high
	}
	return (!in.data || s.Data) && (!in.clock || s.Clock) && (!in.latch || s.Latch)
}

// Register is how the inputs of a 74HC595 are wired (its data sheet, function
// table, from memory). An input that nothing drives is taken as low.
type Register struct{ ser, clock, latch, disable, clear input }

// registerPins names the inputs.
var registerPins = []string{"SER", "SRCLK", "RCLK", "OE", "SRCLR"}

func newRegister(wired map[string]string) (*Register, error) {
	r := &Register{}
	to := []*input{&r.ser, &r.clock, &r.latch, &r.disable, &r.clear}
	for _, in := range to {
		in.fixed = true
	}
	for name, text := range wired {
		i := slices.Index(registerPins, name)
		if i < 0 {
			return nil, fmt.Errorf("wiring: input %q; expected one of %s", name, strings.Join(registerPins, ", "))
		}
		in := to[i]
		grounded := false
		for _, source := range sources(text) {
			switch source {
			case "data":
				in.data, in.fixed = true, false
			case "clock":
				in.clock, in.fixed = true, false
			case "latch":
				in.latch, in.fixed = true, false
			case Supply:
				in.high = true
			case Ground:
				grounded = true
			}
		}
		if grounded {
			*in = input{fixed: true}
		}
	}
	return r, nil
}

// plain reports whether the inputs are as they ought to be.
func (r *Register) plain() bool {
	return r.ser == input{data: true} && r.clock == input{clock: true} && r.latch == input{latch: true} &&
		r.disable == input{fixed: true} && r.clear == input{fixed: true, high: true}
}

// RegisterState is what a 74HC595 holds.
type RegisterState struct {
	shift, out   byte
	clock, latch bool
}

// Step moves the register to new levels of its lines and returns its outputs, and
// whether it drives them.
func (r *Register) Step(st *RegisterState, s Shift) (out byte, driven bool) {
	clock, latch := r.clock.level(s), r.latch.level(s)
	before := st.shift
	if clock && !st.clock {
		st.shift <<= 1
		if r.ser.level(s) {
			st.shift |= 1
		}
	}
	if !r.clear.level(s) {
		st.shift = 0
	}
	if latch && !st.latch {
		st.out = before // with both clocks as one, the latch is a pulse behind
	}
	st.clock, st.latch = clock, latch
	return st.out, !r.disable.level(s)
}
