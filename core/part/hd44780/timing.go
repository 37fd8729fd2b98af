package hd44780

import (
	"time"

	"periph.io/x/conn/v3/physic"
)

// Oscillator frequencies, data sheet, electrical characteristics: 270 kHz is
// typical; a module may run anywhere between the other two.
const (
	MinOscillator     = 190 * physic.KiloHertz
	TypicalOscillator = 270 * physic.KiloHertz
	MaxOscillator     = 350 * physic.KiloHertz
)

// Times of start-up and initialising by instruction, data sheet figures 23 and
// 24 and "Reset function".
const (
	ResetBusy       = 10 * time.Millisecond // busy after VCC reaches 4.5 V
	WaitAt5V        = 15 * time.Millisecond // before the first function set, VCC above 4.5 V
	WaitAt3V        = 40 * time.Millisecond // the same, VCC above 2.7 V
	WaitAfterFirst  = 4100 * time.Microsecond
	WaitAfterSecond = 100 * time.Microsecond
)

// addressDelay is t_ADD: after a data read or write the address counter shows
// its new value this much later than the busy flag clears (at 270 kHz).
const addressDelay = 4 * time.Microsecond

// Scale converts a time stated at 270 kHz to the oscillator's frequency,
// rounded up to the nanosecond. A frequency of zero means 270 kHz.
func Scale(at270 time.Duration, osc physic.Frequency) time.Duration {
	if osc <= 0 || osc == TypicalOscillator {
		return at270
	}
	kHz := max(int64(osc/physic.KiloHertz), 1)
	return time.Duration((int64(at270)*270 + kHz - 1) / kHz)
}

// ExecutionTime returns how long the controller is busy with op at the given
// oscillator frequency (0: 270 kHz).
func ExecutionTime(op Operation, osc physic.Frequency) time.Duration {
	return Scale(op.Lookup().Execute, osc)
}

// BlinkPhase is how long the blinking block stays on, and off, at the given
// oscillator frequency: 409.6 ms at 250 kHz.
func BlinkPhase(osc physic.Frequency) time.Duration {
	if osc <= 0 {
		osc = TypicalOscillator
	}
	return time.Duration(int64(409600*time.Microsecond) / 1000 * int64(250*physic.KiloHertz/physic.Hertz) / int64(osc/physic.Hertz) * 1000)
}

// BusTimes are the limits of the write and read cycles.
type BusTimes struct {
	Cycle        time.Duration // t_cycE: from one rise of E to the next
	PulseWidth   time.Duration // PW_EH: E high
	AddressSetup time.Duration // t_AS: RS and R/W stable before E rises
	AddressHold  time.Duration // t_AH: RS and R/W stable after E falls
	DataSetup    time.Duration // t_DSW: data stable before E falls
	DataHold     time.Duration // t_H: data stable after E falls
}

// Bus timing limits, data sheet, "Bus timing characteristics".
var (
	BusAt5V = BusTimes{500, 230, 40, 10, 80, 10}   // 4.5–5.5 V, nanoseconds
	BusAt3V = BusTimes{1000, 450, 60, 20, 195, 10} // 2.7–4.5 V, nanoseconds
)

// BusLimits returns the limits that hold at a supply voltage.
func BusLimits(supply physic.ElectricPotential) BusTimes {
	if supply != 0 && supply < 4500*physic.MilliVolt {
		return BusAt3V
	}
	return BusAt5V
}
