package lawful

import (
	"encoding/json"
	"errors"
	"fmt"
	"math/rand/v2"

	"slatebell/core/bench"
	"slatebell/core/ship/firmware/firmtest"
	"slatebell/core/table/breadboard"
	"slatebell/formats/benchjson"
	"slatebell/server/demo"
)

// ids and texts get in each other's way: what the program calls parts itself, signs that
// mean something in a language that is written, and the longest.
var (
	ids   = []string{"light", "pot", "host", "supply", "hall", "hall-pot", "gate", "gate-light", "module-1", "module-1-pot", "converter", "multiplexer", "pull-sda", "register", "base", "switch", "bell", "board-1", "screen-1", "a", "-", "1", "s0", "clock"}
	texts = []string{"", " ", "-", "A4", "SDA", "SCL", "D0", "D1", "D13", "GP0", "3V3", "5V", "VBUS", "host/D4", "host/GND", "hall/RS", "gate/SDA", "board-1/a12", "board-1/top+3", "a1", "j30", "bottom-1", "light", "Tide", "%H:%M", "20x4", "16x1", "40x4", "8x1", "12x3@00,40,0C", "A02", "own", "RP2040", "ESP32", "ESP8266", "ATmega2560", "a board of my own", "PCF8574", "PCF8574A", "DS3231", "TCA9548A", "0x27", "48-4B 53", "red", "*/", "\"\"\"", "\u00e9\u2028\uE003", "\U0001F514", "xxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxx"}
)

// NewMaker returns a maker of what a JSON document describes, with ids and texts of benches.
func NewMaker(r *rand.Rand, schemas []byte) (*Maker, error) {
	m, err := New(r, schemas)
	if err == nil {
		m.IDs, m.Texts = ids, texts
	}
	return m, err
}

// Bench returns a lawful bench at random: one that stands for a maker's table, changed in up
// to 24 places.
func Bench(r *rand.Rand) (*bench.Bench, error) {
	m, err := NewMaker(r, benchjson.Schema())
	if err != nil {
		return nil, err
	}
	start, err := Plain(beginning(r))
	if err != nil {
		return nil, err
	}
	last := &bench.Bench{}
	keep := func(doc any) bool {
		data, err := json.Marshal(doc)
		if err != nil {
			return false
		}
		b, err := benchjson.Parse(data)
		if err == nil {
			last = &b
		}
		return err == nil
	}
	if !keep(start) {
		return nil, fmt.Errorf("what it begins with is not lawful: %v", start)
	}
	schema := m.At("#/$defs/Archive")
	if schema == nil {
		return nil, errors.New("the schema of benches does not say what they are")
	}
	m.Vary(start, schema, r.IntN(25), keep)
	return last, nil
}

// beginning is what a bench begins with.
func beginning(r *rand.Rand) *bench.Bench {
	b := bench.New("New bench")
	switch r.IntN(4) {
	case 0:
	case 1:
		b = demo.Bench()
	default:
		b = *firmtest.Bench(r)
		for i := range b.Modules {
			if r.IntN(2) == 0 {
				firmtest.Stage(r, &b.Modules[i])
			}
		}
	}
	if r.IntN(2) == 0 {
		if w, err := breadboard.Plan(&b); err == nil {
			b.Wiring = w
		}
	}
	return &b
}
