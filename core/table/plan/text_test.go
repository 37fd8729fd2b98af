package plan

import (
	"testing"

	"slatebell/core/part/circuit"

	"periph.io/x/conn/v3/physic"
)

// TestText writes figures at the borders of their forms.
func TestText(t *testing.T) {
	for got, want := range map[string]string{
		ohm(999 * physic.Ohm): "999 Ω", ohm(physic.KiloOhm): "1 kΩ", ohm(1533 * physic.Ohm): "1.53 kΩ", ohm(11802 * physic.Ohm): "11.8 kΩ",
		milliamps(99940 * physic.MicroAmpere): "99.9 mA", milliamps(100 * physic.MilliAmpere): "100 mA",
		circuit.Volts(3300 * physic.MilliVolt): "3.3 V", circuit.Volts(5 * physic.Volt): "5 V", circuit.Volts(4459 * physic.MilliVolt): "4.46 V", picofarads(100 * physic.PicoFarad): "100 pF",
		Span(nil): "", list(nil): "", list([]string{"A"}): "A", list([]string{"A", "B"}): "A and B", list([]string{"A", "B", "C"}): "A, B and C",
	} {
		if got != want {
			t.Errorf("%q, want %q", got, want)
		}
	}
}
