package circuit

import (
	"testing"
	"time"

	"periph.io/x/conn/v3/physic"
)

// TestPullUps holds the figures of UM10204 rev. 7, §7.1 (from memory): 1533 Ω
// and 967 Ω are the least at 5 V and 3.3 V, 11.8 kΩ the most at 100 kHz and
// 100 pF; three sets of 4.7 kΩ are within the limit at 5 V, a fourth is not, and
// eight make 588 Ω.
func TestPullUps(t *testing.T) {
	const set = 4700 * physic.Ohm
	sets := func(n int) []physic.ElectricResistance {
		list := make([]physic.ElectricResistance, n)
		for i := range list {
			list[i] = set
		}
		return list
	}
	ohms := func(r physic.ElectricResistance) int64 { return int64((r + physic.Ohm/2) / physic.Ohm) }
	for _, c := range []struct {
		what      string
		got, want int64
	}{
		{"R_p(min) at 5 V", ohms(MinPullUp(5 * physic.Volt)), 1533},
		{"R_p(min) at 3.3 V", ohms(MinPullUp(3300 * physic.MilliVolt)), 967},
		{"R_p(min) below V_OL", ohms(MinPullUp(300 * physic.MilliVolt)), 0},
		{"R_p(max) at 100 kHz, 100 pF", ohms(MaxPullUp(Standard.Rise, 100*physic.PicoFarad)), 11802},
		{"R_p(max) at 400 kHz, 100 pF", ohms(MaxPullUp(Fast.Rise, 100*physic.PicoFarad)), 3541},
		{"R_p(max) without capacitance", ohms(MaxPullUp(Fast.Rise, 0)), 0},
		{"one set", ohms(Parallel(set)), 4700},
		{"three sets", ohms(Parallel(sets(3)...)), 1567},
		{"eight sets", ohms(Parallel(sets(8)...)), 588},
		{"none", ohms(Parallel(0, 0)), 0},
		{"one of two", ohms(Parallel(0, 470*physic.Ohm)), 470},
		{"rise at R_p(max), ns", int64(RiseTime(11802*physic.Ohm, 100*physic.PicoFarad)), 1000},
		{"E12 up to 4.69 kΩ", ohms(E12.UpTo(4690 * physic.Ohm)), 3900},
		{"E12 up to 4.7 kΩ", ohms(E12.UpTo(4700 * physic.Ohm)), 4700},
		{"E12 up to 1 MΩ", ohms(E12.UpTo(physic.MegaOhm)), 1_000_000},
		{"E12 up to nothing", ohms(E12.UpTo(0)), 1},
		{"E12 from 221 Ω", ohms(E12.From(221 * physic.Ohm)), 270},
		{"E24 from 221 Ω", ohms(E24.From(221 * physic.Ohm)), 240},
		{"E12 from 220 Ω", ohms(E12.From(220 * physic.Ohm)), 220},
		{"E6 from beyond its end", ohms(E6.From(physic.GigaOhm)), 6_800_000},
	} {
		if c.got != c.want {
			t.Errorf("%s: %d, want %d", c.what, c.got, c.want)
		}
	}
	if ModeAt(100*physic.KiloHertz) != Standard || ModeAt(100*physic.KiloHertz+1) != Fast || Standard.Rise != time.Microsecond {
		t.Error("100 kHz is the fastest of standard mode")
	}
}

// TestMargins holds the levels of a 3.3 V bus on an expander at 5 V (PCF8574 data
// sheet, V_IH 0.7 VDD, V_IL 0.3 VDD, from memory): it lacks 0.2 V when high.
func TestMargins(t *testing.T) {
	low, high := Margins(Output{BusLow, 3300 * physic.MilliVolt}, Input{Low: 1500 * physic.MilliVolt, High: 3500 * physic.MilliVolt})
	if low != 1100*physic.MilliVolt || high != -200*physic.MilliVolt {
		t.Errorf("margins %s low, %s high", low, high)
	}
}
