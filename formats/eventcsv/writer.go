package eventcsv

import (
	"encoding/csv"
	"io"
	"strconv"

	"slatebell/core/bench"
	"slatebell/core/show"
)

// Write writes what happens to inputs, with a heading.
func Write(w io.Writer, rows []Row, inputs []bench.Input) error {
	out := csv.NewWriter(w)
	out.UseCRLF = true                               // RFC 4180
	out.Write([]string{"time_ms", "input", "value"}) // errors stick until Flush
	for _, r := range rows {
		value := strconv.FormatFloat(r.Value, 'f', -1, 64)
		if inputs[r.Input].Kind == string(show.Serial) {
			value = r.Text
		}
		out.Write([]string{strconv.FormatInt(r.At, 10), inputs[r.Input].ID, value})
	}
	out.Flush()
	return out.Error()
}
