package breadboard

import (
	"cmp"
	"fmt"
	"strings"

	"slatebell/core/table/bus"
)

// deaf says why nothing on the bus reaches a backpack, or "".
func (j *joiner) deaf() string {
	sda, scl, _ := bus.Pins(j.t.Bench)
	board := j.t.Bench.Host.Board()
	for _, label := range []*string{&sda, &scl} { // as the board writes it
		if pin, known := board.Find(*label); known {
			*label = pin.Label
		}
	}
	for _, line := range []struct{ pin, from string }{{"SDA", "host/" + sda}, {"SCL", "host/" + scl}} {
		if !j.t.carries(line.from, j.part.Pin(line.pin), line.pin) {
			if j.t.carries("host/"+sda, j.part.Pin("SCL"), "SCL") || j.t.carries("host/"+scl, j.part.Pin("SDA"), "SDA") {
				return "SDA and SCL are exchanged"
			}
			return fmt.Sprintf("%s is not joined to %s of the host", line.pin, strings.TrimPrefix(line.from, "host/"))
		}
	}
	if j.t.nodeOf(j.part.Pin("SDA")) == j.t.nodeOf(j.part.Pin("SCL")) {
		return "SDA and SCL are joined to each other"
	}
	if rail := cmp.Or(j.railOf(j.part.Pin("SDA")), j.railOf(j.part.Pin("SCL"))); rail != "" {
		return "a line of the bus is joined to " + rail
	}
	return ""
}

// carries reports whether a line of the bus reaches from one pin to another: by a
// conductor, through a level converter that is fed, or through a multiplexer.
func (t *Table) carries(from, to, line string) bool {
	if _, ok := t.pinIndex[from]; !ok {
		return false
	}
	seen := map[int]bool{t.nodeOf(from): true}
	target := t.nodeOf(to)
	for grew := true; grew; {
		grew = false
		reach := func(a, b string) {
			na, nb := t.nodeOf(a), t.nodeOf(b)
			if seen[na] != seen[nb] {
				seen[na], seen[nb], grew = true, true, true
			}
		}
		if p, ok := t.Net.Part("converter"); ok && t.nodeOf(p.Pin("LV")) != t.nodeOf(p.Pin("GND")) {
			reach(p.Pin("LV1"), p.Pin("HV1"))
			reach(p.Pin("LV2"), p.Pin("HV2"))
		}
		if p, ok := t.Net.Part("multiplexer"); ok {
			for c := range 8 {
				reach(p.Pin(line), p.Pin(fmt.Sprintf("S%s%d", line[1:2], c)))
			}
		}
	}
	return seen[target]
}
