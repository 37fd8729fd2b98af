package runs

import (
	"context"
	"net/http"
	"slices"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"slatebell/core/bench"
	"slatebell/core/part/hd44780"
	"slatebell/core/prove/run"
	"slatebell/core/prove/testbed"
	"slatebell/core/wire/link"
	"slatebell/core/wire/sequence"
	"slatebell/core/wire/wave"
	"slatebell/formats/program"
	"slatebell/server/api/answer"
)

// LiveOperation is an operation given by hand.
type LiveOperation struct {
	RS     bool   `json:"rs"`
	RW     bool   `json:"rw,omitempty" doc:"a read; value is ignored"`
	Value  int    `json:"value" minimum:"0" maximum:"255"`
	Enable string `json:"enable,omitempty" enum:"E,E2,both" doc:"which controllers take it; absent: all"`
	Raw    bool   `json:"raw,omitempty" doc:"the value goes onto the outputs of the expander or shift register as it is"`
}

// Aimed is the operation as core has it.
func (o *LiveOperation) Aimed() sequence.Aimed {
	return sequence.Aimed{Op: hd44780.Operation{RS: o.RS, RW: o.RW, Byte: byte(o.Value)}, Enable: enableOf(o.Enable), Raw: o.Raw}
}

// enableOf reads an enable's name; "" stands for both, and no other gets here.
func enableOf(name string) link.Enable {
	if en, ok := link.ParseEnable(name); ok {
		return en
	}
	return link.Both
}

// Instruction is a card of the instruction set.
type Instruction struct {
	Name      string     `json:"name"`
	Summary   string     `json:"summary"`
	RS        bool       `json:"rs"`
	RW        bool       `json:"rw"`
	Base      int        `json:"base" doc:"the byte with all its fields 0"`
	ExecuteUs float64    `json:"executeUs" doc:"µs at 270 kHz"`
	Fields    []BitField `json:"fields" nullable:"false"`
}

// BitField is a field of an instruction byte.
type BitField struct {
	Name    string   `json:"name"`
	High    int      `json:"high" doc:"number of its highest bit"`
	Width   int      `json:"width"`
	Clear   string   `json:"clear,omitempty" doc:"what 0 means"`
	Set     string   `json:"set,omitempty" doc:"what 1 means"`
	Numeric bool     `json:"numeric,omitempty"`
	Values  []string `json:"values,omitempty" nullable:"false" doc:"what each value of a wider field means"`
}

func newInstructions(family hd44780.Family) []Instruction {
	var out []Instruction
	table := slices.Clone(hd44780.Instructions[:])
	slices.SortFunc(table, func(a, b hd44780.Entry) int { return int(a.Kind) - int(b.Kind) })
	for i := range table {
		e := family.Entry(&table[i])
		if e.Kind == hd44780.Nothing {
			continue
		}
		card := Instruction{Name: e.Name, Summary: e.Summary, RS: e.RS, RW: e.RW, Base: int(e.Value), ExecuteUs: program.Microseconds(e.Execute), Fields: []BitField{}}
		for _, f := range e.Fields {
			card.Fields = append(card.Fields, BitField{f.Name, int(f.High), int(f.Width), f.Clear, f.Set, f.Numeric, f.Values})
		}
		out = append(out, card)
	}
	return out
}

// Waves are the levels of header pins and wire over some steps.
type Waves struct {
	BeginUs float64  `json:"beginUs"`
	EndUs   float64  `json:"endUs"`
	Signals []Signal `json:"signals" nullable:"false"`
}

// Signal is one line: its first level, and the times at which it turns over.
type Signal struct {
	Name  string    `json:"name"`
	High  bool      `json:"high" doc:"level at the beginning"`
	Turns []float64 `json:"turns" nullable:"false" doc:"µs since power-up"`
}

// newWaves draws steps, without the long pauses before and after them.
func newWaves(r *run.Run, from, to int) Waves {
	draw := wave.Draw
	for i := from; i <= to; i++ {
		if r.Program.Steps[i].Kind == sequence.Raw { // it is about the outputs, not about the header
			draw = wave.DrawOutputs
		}
	}
	t := draw(r.Program, from, to, r.Hardware)
	const margin = 20 * time.Microsecond
	out := Waves{BeginUs: program.Microseconds(t.Begin), EndUs: program.Microseconds(t.End)}
	if n := len(t.Changes); n > 0 {
		out.BeginUs = max(out.BeginUs, program.Microseconds(t.Changes[0].At-margin))
		out.EndUs = min(out.EndUs, program.Microseconds(t.Changes[n-1].At+margin))
	}
	for i, name := range t.Signals {
		out.Signals = append(out.Signals, Signal{Name: name, High: t.Initial[i], Turns: []float64{}})
	}
	for _, c := range t.Changes {
		s := &out.Signals[c.Signal]
		s.Turns = append(s.Turns, program.Microseconds(c.At))
	}
	return out
}

func registerLive(api huma.API, c *Runs) {
	huma.Register(api, huma.Operation{OperationID: "list-instructions", Method: http.MethodGet, Path: "/api/instructions", Summary: "The instruction set, bit by bit"},
		func(_ context.Context, in *struct {
			Family string `query:"family" enum:"lcd,vfd-function-set,vfd-data-byte" default:"lcd"`
		}) (*answer.List[Instruction], error) {
			family, _ := bench.Family(in.Family) // the enum lets no other through
			return &answer.List[Instruction]{Body: newInstructions(family)}, nil
		})

	huma.Register(api, huma.Operation{OperationID: "read-live", Method: http.MethodPost, Path: "/api/live", Summary: "Read operations given by hand", Errors: []int{422}},
		func(_ context.Context, in *struct {
			Body struct {
				Text      string        `json:"text" maxLength:"400"`
				Enable    string        `json:"enable,omitempty" enum:"E,E2,both" doc:"which controllers are to take it; absent: all"`
				CountFrom *int          `json:"countFrom,omitempty" enum:"0,1" doc:"the number of the first row and column; absent: 1"`
				Setup     testbed.Setup `json:"setup"`
			}
		}) (*answer.List[LiveOperation], error) {
			first := 1
			if n := in.Body.CountFrom; n != nil {
				first = *n
			}
			ops, err := run.ParseLive(&in.Body.Setup, in.Body.Text, enableOf(in.Body.Enable), first)
			if err != nil {
				return nil, answer.Invalid(err)
			}
			out := &answer.List[LiveOperation]{Body: []LiveOperation{}}
			for _, a := range ops {
				out.Body = append(out.Body, LiveOperation{RS: a.Op.RS, RW: a.Op.RW, Value: int(a.Op.Byte), Enable: a.Enable.String(), Raw: a.Raw})
			}
			return out, nil
		})

	huma.Register(api, huma.Operation{OperationID: "get-waves", Method: http.MethodGet, Path: "/api/runs/{run}/waves", Summary: "Waveforms of some steps", Errors: []int{404}},
		func(_ context.Context, in *struct {
			RunPath
			From int `query:"from" minimum:"0"`
			To   int `query:"to" minimum:"0" doc:"last step, included; at most 16 steps are drawn"`
		}) (*struct{ Body Waves }, error) {
			r, err := c.find(in.Run)
			if err != nil {
				return nil, err
			}
			last := len(r.Program.Steps) - 1
			from := min(in.From, last)
			return &struct{ Body Waves }{newWaves(r, from, min(max(in.To, from), from+15, last))}, nil
		})
}
