package replay

import (
	"fmt"
	"strconv"
	"strings"
	"time"

	"slatebell/core/part/hd44780"
)

// Sought is what is looked for among a recording's operations.
type Sought string

// What can be looked for.
const (
	ForText      Sought = "text"      // characters that are written one after the other
	ForByte      Sought = "byte"      // such as 0x41 or 65, sent as an instruction or as data
	ForAddress   Sought = "address"   // of DDRAM, such as 0x40, that is set
	ForLimit     Sought = "limit"     // a limit that is broken
	ForOperation Sought = "operation" // any
)

// Search returns the time of the next operation after a time that is what is looked for, or of the one before it; ok is false where there is none.
// Its error says what of the text is wrong.
func (r *Replay) Search(sought Sought, text string, from time.Duration, back bool) (at time.Duration, ok bool, err error) {
	var times []time.Duration
	switch sought {
	case ForLimit:
		for _, v := range r.Violations() {
			times = append(times, v.At)
		}
	case ForOperation:
		for i := range r.Operations {
			times = append(times, r.Operations[i].At)
		}
	case ForText:
		if text == "" {
			return 0, false, fmt.Errorf("no text to look for; expected characters that are written, such as Tide")
		}
		times = r.written(text)
	case ForByte, ForAddress:
		n, err := strconv.ParseUint(strings.TrimSpace(text), 0, 8)
		if err != nil || sought == ForAddress && n > 0x7F {
			return 0, false, fmt.Errorf("%q is no %s; expected one such as 0x41 or 65, up to %s", text, sought, map[Sought]string{ForByte: "0xFF", ForAddress: "0x7F"}[sought])
		}
		for i := range r.Operations {
			op := &r.Operations[i]
			if sought == ForByte && op.Byte == byte(n) || sought == ForAddress && op.Kind() == hd44780.SetDDRAM && op.Byte&0x7F == byte(n) {
				times = append(times, op.At)
			}
		}
	default:
		return 0, false, fmt.Errorf("%q cannot be looked for; expected text, byte, address, limit or operation", sought)
	}
	for i := range times {
		if back {
			i = len(times) - 1 - i
		}
		if t := times[i]; back && t < from || !back && t > from {
			return t, true, nil
		}
	}
	return 0, false, nil
}

// written are the times at which a text is written whole: those of its first characters.
func (r *Replay) written(text string) (out []time.Duration) {
	var codes []byte
	for _, ch := range text {
		code, ok := r.module.ROM.Code(ch)
		if !ok {
			return nil
		}
		codes = append(codes, code)
	}
	list := r.Operations
	for i := range list {
		fits := i+len(codes) <= len(list)
		for k := 0; fits && k < len(codes); k++ {
			fits = list[i+k].Kind() == hd44780.WriteData && list[i+k].Byte == codes[k]
		}
		if fits {
			out = append(out, list[i].At)
		}
	}
	return out
}
