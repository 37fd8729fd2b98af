package shows

import (
	"fmt"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"slatebell/core/bench"
	"slatebell/core/bench/show"
	"slatebell/core/text/meter"
	"slatebell/server/api/answer"
	"slatebell/server/api/facts"
)

// FallRequest asks what gives an envelope follower its fall, and how a stick is read.
type FallRequest struct {
	FallMs    float64     `json:"fallMs" minimum:"1" maximum:"600000" doc:"wished fall to a tenth, in milliseconds"`
	Ohms      float64     `json:"ohms,omitempty" minimum:"0" maximum:"100000000" doc:"of a pair at hand"`
	Farads    float64     `json:"farads,omitempty" minimum:"0" maximum:"1" doc:"of a pair at hand"`
	SupplyMV  int         `json:"supplyMV,omitempty" minimum:"0" maximum:"24000" doc:"stick: what it is fed with; absent: 3300"`
	Reference int         `json:"referenceMV,omitempty" minimum:"0" maximum:"24000" doc:"stick: the converter's reference; absent: 5000"`
	Bits      int         `json:"bits,omitempty" minimum:"0" maximum:"14" doc:"stick: of the converter; absent: 10"`
	Host      *bench.Host `json:"host,omitempty" doc:"stick: the host whose converter reads it and whose logic supply feeds it, where nothing else is stated"`
	Read      []int       `json:"read,omitempty" nullable:"false" maxItems:"3" doc:"stick: least, middle and greatest reading, where they were read; absent: worked out from the supply"`
}

// Fall is what was worked out.
type Fall struct {
	Pairs   []FallPair    `json:"pairs" nullable:"false" doc:"a resistor of E24 and a capacitor of E6 each (IEC 60063), the nearest first"`
	GivenMs float64       `json:"givenMs,omitempty" doc:"the fall to a tenth that the pair at hand gives"`
	Presets []MeterPreset `json:"presets" nullable:"false"`
	Stick   StickLevels   `json:"stick"`
}

// FallPair is a resistor and a capacitor.
type FallPair struct {
	Ohms   float64 `json:"ohms"`
	Farads float64 `json:"farads"`
	FallMs float64 `json:"fallMs"`
}

// MeterPreset is an instrument by its standard; time constants in milliseconds.
type MeterPreset struct {
	Name   string  `json:"name"`
	Title  string  `json:"title"`
	RiseMs float64 `json:"riseMs"`
	FallMs float64 `json:"fallMs"`
	HoldMs int     `json:"holdMs"`
	Says   string  `json:"says"`
}

// StickLevels are the levels of an axis of a stick, whose middle is half its supply where no
// readings are given.
type StickLevels struct {
	Least      int `json:"least"`
	Middle     int `json:"middle"`
	Greatest   int `json:"greatest"`
	Low        int `json:"low"`
	High       int `json:"high"`
	Hysteresis int `json:"hysteresis"`

	SupplyMV    int `json:"supplyMV" doc:"that feeds it"`
	ReferenceMV int `json:"referenceMV" doc:"of the converter"`
	Bits        int `json:"bits"`
}

// tenth is the share that a fall is told to.
const tenth = 0.1

func (r *FallRequest) workOut() (*Fall, error) {
	out := &Fall{Pairs: []FallPair{}}
	for _, p := range meter.Pairs(r.FallMs/1000, tenth, 4) {
		out.Pairs = append(out.Pairs, FallPair{p.Ohms, p.Farads, p.Fall * 1000})
	}
	out.GivenMs = meter.FallTime(r.Ohms, r.Farads, tenth) * 1000
	for _, p := range meter.Presets {
		out.Presets = append(out.Presets, MeterPreset(p))
	}
	or := func(v, usual int) int {
		if v == 0 {
			return usual
		}
		return v
	}
	supply, reference, bits := or(r.SupplyMV, 3300), or(r.Reference, 5000), or(r.Bits, 10)
	if r.Host != nil { // what the wiring feeds it with
		board := r.Host.Board()
		in := bench.Input{Signal: bench.Sensor{SupplyMV: r.SupplyMV}}
		supply, reference, bits = facts.MilliVolts(in.Fed(&board)), or(r.Reference, facts.MilliVolts(board.Logic)), or(r.Bits, board.Resolution())
	}
	st := &out.Stick
	st.SupplyMV, st.ReferenceMV, st.Bits = supply, reference, bits
	st.Middle, st.Greatest = show.Reading(supply/2, reference, bits), show.Reading(supply, reference, bits)
	if len(r.Read) == 3 {
		st.Least, st.Middle, st.Greatest = r.Read[0], r.Read[1], r.Read[2]
	}
	if st.Least >= st.Middle || st.Middle >= st.Greatest {
		return nil, huma.Error422UnprocessableEntity(fmt.Sprintf("readings %d, %d and %d of a stick; expected the least, the middle and the greatest", st.Least, st.Middle, st.Greatest))
	}
	at := show.StickOf(st.Least, st.Middle, st.Greatest)
	out.Stick.Low, out.Stick.High, out.Stick.Hysteresis = at.Low, at.High, at.Hysteresis
	return out, nil
}

func registerFall(api huma.API) {
	huma.Register(api, huma.Operation{OperationID: "work-out-fall", Method: http.MethodPost, Path: "/api/fall", Summary: "Ballistics of meters, parts that give a fall, levels of a stick", Errors: []int{422}}, answer.Answered((*FallRequest).workOut))
}
