package micropython

import (
	"fmt"
	"strings"

	"slatebell/codegen/layout"
)

// reads is what a program reads, in the words of MicroPython's machine.
type reads struct{ *layout.Listening }

// Classes are what MicroPython's machine is asked for.
func (l reads) Classes() string {
	var out []string
	for _, c := range []struct {
		name string
		used bool
	}{{"ADC", len(l.Analogue) > 0}, {"Pin", true}, {"UART", len(l.Lines) > 0}} {
		if c.used {
			out = append(out, c.name)
		}
	}
	return strings.Join(out, ", ")
}

// Converter is what reads a voltage in MicroPython: the ESP32's asks for its widest range, the
// ESP8266 has one, without a pin (from memory).
func (l reads) Converter(pin string) string {
	switch l.Board.Chip {
	case "ESP32":
		return fmt.Sprintf("ADC(Pin(%s), atten=ADC.ATTN_11DB)", pin)
	case "ESP8266":
		return "ADC(0)"
	}
	return fmt.Sprintf("ADC(Pin(%s))", pin)
}

// UART is what listens on a serial line in MicroPython.
func (l reads) UART(s layout.SerialLine) string { return UART(l.Listening, s) }

// UART is what listens on a serial line in MicroPython. Both pins are named: else the other would be
// the line's usual one, which may be the bus's. The ESP8266's pins are fixed.
func UART(l *layout.Listening, s layout.SerialLine) string {
	pins := ""
	if l.Board.Chip != "ESP8266" {
		pins = fmt.Sprintf(", rx=Pin(%s)", s.Pin)
		if s.TX != "" {
			pins += fmt.Sprintf(", tx=Pin(%s)", s.TX)
		}
	}
	return fmt.Sprintf("UART(%d, baudrate=%d%s, rxbuf=%d)", s.Number, s.Baud, pins, max(s.Buffer, 32))
}
