package say

import (
	"testing"
	"time"

	"periph.io/x/conn/v3/physic"
)

// TestForms writes figures at the borders of their forms.
func TestForms(t *testing.T) {
	for got, want := range map[string]string{
		Ohms(220 * physic.Ohm): "220 Ω", Ohms(999 * physic.Ohm): "999 Ω", Ohms(physic.KiloOhm): "1 kΩ", Ohms(1533 * physic.Ohm): "1.53 kΩ",
		Ohms(11802 * physic.Ohm): "11.8 kΩ", Ohms(999_499 * physic.Ohm): "999 kΩ", Ohms(999_500 * physic.Ohm): "1 MΩ", Ohms(0): "0 Ω",
		Volts(3300 * physic.MilliVolt): "3.3 V", Volts(5 * physic.Volt): "5 V", Volts(4459 * physic.MilliVolt): "4.46 V", Volts(-20 * physic.MilliVolt): "-0.02 V",
		Amperes(99_940 * physic.MicroAmpere): "99.9 mA", Amperes(99_960 * physic.MicroAmpere): "100 mA", Amperes(1200 * physic.MilliAmpere): "1200 mA",
		Amperes(20 * physic.MilliAmpere): "20.0 mA", Amperes(50 * physic.MicroAmpere): "0.05 mA", Amperes(0): "0 mA",
		Farads(100 * physic.PicoFarad): "100 pF", Farads(1500 * physic.PicoFarad): "1500 pF", Farads(100 * physic.NanoFarad): "100 nF", Farads(10 * physic.MicroFarad): "10 µF", Farads(2200 * physic.NanoFarad): "2.2 µF",
		Milliseconds(1590 * time.Microsecond): "1.6 ms",
		List(nil):                             "", List([]string{"A"}): "A", List([]string{"A", "B"}): "A and B", List([]string{"A", "B", "C"}): "A, B and C",
		Plural(1, "row"): "row", Plural(0, "row"): "rows",
	} {
		if got != want {
			t.Errorf("%q, want %q", got, want)
		}
	}
}
