package shows

import (
	"slices"
	"strings"

	"slatebell/core/bench"
	"slatebell/formats/eventcsv"
	"slatebell/server/api/answer"
)

// EventFile is what happened to the inputs of a module, as comma-separated values.
type EventFile struct {
	Inputs []bench.Input `json:"inputs" nullable:"false" maxItems:"64"`
	Text   string        `json:"text,omitempty" maxLength:"8000000" doc:"time_ms,input,value; to be read"`
	Events []PlayEvent   `json:"events,omitempty" nullable:"false" maxItems:"100000" doc:"to be written"`
}

// EventsRead is a file, and what is in it.
type EventsRead struct {
	Text   string      `json:"text"`
	Events []PlayEvent `json:"events" nullable:"false"`
}

// change reads a file, or writes one where events are given.
func (f *EventFile) change() (*EventsRead, error) {
	out := &EventsRead{Text: f.Text, Events: append([]PlayEvent{}, f.Events...)}
	if f.Text != "" {
		rows, err := eventcsv.ReadRows(strings.NewReader(f.Text), f.Inputs)
		if err != nil {
			return nil, answer.Refused(err)
		}
		for _, r := range rows {
			out.Events = append(out.Events, PlayEvent{AtMs: r.At, Input: f.Inputs[r.Input].ID, Value: r.Value, Text: r.Text})
		}
		return out, nil
	}
	var rows []eventcsv.Row
	for _, e := range f.Events {
		if at := slices.IndexFunc(f.Inputs, func(in bench.Input) bool { return in.ID == e.Input }); at >= 0 {
			rows = append(rows, eventcsv.Row{At: e.AtMs, Input: at, Value: e.Value, Text: e.Text})
		}
	}
	var text strings.Builder
	if err := eventcsv.Write(&text, rows, f.Inputs); err != nil {
		return nil, answer.Refused(err)
	}
	out.Text = text.String()
	return out, nil
}
