package host

import (
	"slices"
	"strings"
	"testing"

	"periph.io/x/conn/v3/physic"
)

// TestTable holds pins and limits against the data sheets and pin tables of the
// boards (by designation, from memory): bus pins, what is never to be used, and
// how many plain pins are left to drive modules.
func TestTable(t *testing.T) {
	if _, err := parse(table); err != nil {
		t.Fatal(err)
	}
	for _, c := range []struct {
		part, sda, scl string
		plain          int
		never, upload  string
		logic          physic.ElectricPotential
	}{
		{"ATmega328P", "A4", "A5", 18, "", "D0 D1", 5 * physic.Volt},
		{"atmega2560", "D20", "D21", 68, "", "D0 D1", 5 * physic.Volt},
		{"ESP32", "GPIO21", "GPIO22", 15, "GPIO6 GPIO7 GPIO8 GPIO36 GPIO39 GPIO34 GPIO35 GPIO9 GPIO10 GPIO11", "GPIO3 GPIO1", 3300 * physic.MilliVolt},
		{"ESP8266", "D2", "D1", 6, "A0", "TX RX", 3300 * physic.MilliVolt},
		{"RP2040", "GP0", "GP1", 26, "", "", 3300 * physic.MilliVolt},
		{"RP2350", "GP0", "GP1", 26, "", "", 3300 * physic.MilliVolt},
		{"ATmega328P small", "A4", "A5", 18, "A6 A7", "D0 D1", 5 * physic.Volt},
		{"ATmega32U4", "D2", "D3", 20, "", "", 5 * physic.Volt},
		{"ATtiny85", "P0", "P2", 5, "", "", 5 * physic.Volt},
		{"ESP32 small", "GPIO21", "GPIO22", 15, "GPIO36 GPIO39 GPIO34 GPIO35", "GPIO3 GPIO1", 3300 * physic.MilliVolt},
		{"STM32F103", "PB7", "PB6", 26, "", "PA9 PA10 PA11 PA12", 3300 * physic.MilliVolt},
		{"SAMD21", "D20", "D21", 22, "", "", 3300 * physic.MilliVolt},
	} {
		b, ok := ByPart(c.part)
		if !ok {
			t.Errorf("%s is not in the table", c.part)
			continue
		}
		var never, upload []string
		plain := 0
		for _, p := range b.Pins {
			if !p.Drives() {
				never = append(never, p.Label)
			}
			if p.Has(Upload) {
				upload = append(upload, p.Label)
			}
			if p.Plain() {
				plain++
			}
		}
		if b.SDA != c.sda || b.SCL != c.scl || plain != c.plain || strings.Join(never, " ") != c.never || strings.Join(upload, " ") != c.upload || b.Logic != c.logic {
			t.Errorf("%s: bus %s %s, %d plain pins, never %q, upload %q, %s", b.Part, b.SDA, b.SCL, plain, never, upload, b.Logic)
		}
		sda, _ := b.Find(b.SDA)
		scl, _ := b.Find(strings.ToLower(b.SCL))
		if !b.Bus(&sda, SDA) || !b.Bus(&scl, SCL) || b.Bus(&sda, SCL) != b.AnyBus {
			t.Errorf("%s: %s and %s are its bus", b.Part, b.SDA, b.SCL)
		}
		along := b.Along()
		for _, p := range b.Pins {
			if n := b.Place(p.Label); n != p.Number {
				t.Errorf("%s: %s is pin %d of the board, counted along its edges %d", b.Part, p.Label, p.Number, n)
			}
		}
		for _, label := range append([]string{b.Rail5, b.Rail3, "GND"}, labels(b.Pins)...) {
			if n := len(slices.DeleteFunc(slices.Clone(along), func(l string) bool { return l != label })); n != 1 && label != "" {
				t.Errorf("%s: %s stands %d times along its edges", b.Part, label, n)
			}
		}
		if b.In.High >= b.Logic || b.Out.High >= b.Logic || b.Out.Low >= b.In.High || b.In.Low >= b.In.High || b.Pin > b.PinMax || b.Source == "" || b.Look == "" {
			t.Errorf("%s: levels or limits out of order: %+v", b.Part, b)
		}
	}
	for _, b := range Boards() {
		if _, there := ByPart(b.Chip); !there || b.Chip != b.Part && !strings.HasPrefix(b.Part, b.Chip) {
			t.Errorf("%s carries a %s, of which there is no board", b.Part, b.Chip)
		}
	}
	// board pins of the RP2040 board: 21 is GP16, 34 is GP28
	rp, _ := ByPart("RP2040")
	for label, number := range map[string]int{"GP0": 1, "GP1": 2, "GP2": 4, "GP13": 17, "GP16": 21, "GP22": 29, "GP28": 34} {
		if p, _ := rp.Find(label); p.Number != number {
			t.Errorf("RP2040 %s is board pin %d, want %d", label, p.Number, number)
		}
	}
	esp, _ := ByPart("ESP8266")
	if d0, _ := esp.Find("D0"); esp.Bus(&d0, SDA) || !d0.Plain() {
		t.Error("GPIO16 of an ESP8266 has no open drain, and drives")
	}
	if _, ok := ByPart("ATmega9"); ok {
		t.Error("a part that is not there was found")
	}
}

func TestGeneric(t *testing.T) {
	b := Generic("bench computer", 3300*physic.MilliVolt, []Pin{{Label: "P1"}, {Label: "P2", Marks: []Trait{SDA}}, {Label: "P3", Marks: []Trait{SCL}}, {Label: "P4", Marks: []Trait{SDA}}})
	if b.SDA != "P2" || b.SCL != "P3" || b.BusHigh != 2310*physic.MilliVolt || b.Out.High != 2970*physic.MilliVolt || b.MaxPinVoltage != b.Logic {
		t.Errorf("%+v", b)
	}
}

func TestParsePins(t *testing.T) {
	pins, err := parsePins("GP0@1:sda D2-D4:strap:led")
	if err != nil || len(pins) != 4 || pins[0].Number != 1 || pins[3].Label != "D4" || !slices.Equal(pins[3].Marks, []Trait{Strap, LED}) {
		t.Errorf("%+v, %v", pins, err)
	}
	for _, bad := range []string{"GP0@x", "D4-D2", "D-D3", "D1-E3"} {
		if pins, err := parsePins(bad); err == nil {
			t.Errorf("%q was read as %+v", bad, pins)
		}
	}
}

func labels(pins []Pin) []string {
	out := make([]string, len(pins))
	for i, p := range pins {
		out[i] = p.Label
	}
	return out
}

// TestPlaces counts the pins of an RP2040 board that are no GPIO: the pin table of that board, from
// memory.
func TestPlaces(t *testing.T) {
	b := Board{}
	for _, one := range Boards() {
		if one.Part == "RP2040" {
			b = one
		}
	}
	for label, want := range map[string]int{"GND5": 3, "GND6": 8, "GND7": 13, "GND8": 18, "GND4": 23, "GND3": 28, "RUN": 30, "GND2": 33, "VREF": 35, "3V3": 36, "3V3EN": 37, "GND": 38, "VSYS": 39, "VBUS": 40, "D4": 0} {
		if got := b.Place(label); got != want {
			t.Errorf("%s is board pin %d, want %d", label, got, want)
		}
	}
}

// TestNumbers gives every pin that can be read or driven the number that programs call it by, each its own.
func TestNumbers(t *testing.T) {
	for _, b := range Boards() {
		at := map[int]string{}
		for i := range b.Pins {
			p := &b.Pins[i]
			n, ok := b.Number(p.Label)
			if !ok && (p.Listens() || p.Has(Analog)) {
				t.Errorf("%s: %s has no number", b.Part, p.Label)
			}
			if other, twice := at[n]; ok && twice {
				t.Errorf("%s: %s and %s are both %d", b.Part, p.Label, other, n)
			}
			at[n] = p.Label
		}
	}
}
