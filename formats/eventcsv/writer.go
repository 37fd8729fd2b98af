package eventcsv

import (
	"encoding/csv"
	"fmt"
	"io"
	"strconv"
	"strings"

	"slatebell/core/bench"
	"slatebell/core/bench/show"
	"slatebell/core/quoting"
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
			if said, err := Unescape(value); err == nil && quoting.Cell(value) != value { // a spreadsheet would take it for a formula
				value = fmt.Sprintf(`\x%02X`, said[0]) + Escape(said[1:])
			}
		}
		out.Write([]string{strconv.FormatInt(r.At, 10), inputs[r.Input].ID, value})
	}
	out.Flush()
	return out.Error()
}

// Escape writes characters of a serial line as Unescape reads them: what is not printable ASCII as an escape.
func Escape(said []byte) string {
	var out strings.Builder
	for _, c := range said {
		switch known := map[byte]string{'\n': `\n`, '\r': `\r`, '\f': `\f`, '\t': `\t`, '\\': `\\`}[c]; {
		case known != "":
			out.WriteString(known)
		case c < ' ' || c > '~':
			fmt.Fprintf(&out, `\x%02X`, c)
		default:
			out.WriteByte(c)
		}
	}
	return out.String()
}
