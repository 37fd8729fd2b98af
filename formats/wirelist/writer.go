// Package wirelist writes the wires of a bench as a list to work from: as
// comma-separated values, RFC 4180, or as text in columns.
package wirelist

import (
	"cmp"
	"encoding/csv"
	"fmt"
	"io"
	"strconv"
	"strings"
	"text/tabwriter"

	"slatebell/core/quoting"
	"slatebell/core/table/breadboard"
)

// Header names the columns. wire counts from 1 in the order of the work; from and
// to are pins by the names of the bench, such as Hall/RS, or rails such as board-1/top+; the holes are empty for
// an end that lies in none.
var Header = []string{"wire", "from", "from_hole", "to", "to_hole", "net", "colour", "length_mm"}

func record(i *breadboard.Item) []string {
	return []string{strconv.Itoa(i.Number), i.Called.From, i.FromHole, i.Called.To, i.ToHole, i.Called.Net, i.Colour, strconv.Itoa(i.LengthMM)}
}

// WriteCSV writes a header and a record for each wire. Lines end with CR LF, as the
// RFC has it.
func WriteCSV(w io.Writer, list []breadboard.Item) error {
	out := csv.NewWriter(w)
	out.UseCRLF = true
	out.Write(Header) // Flush keeps its error
	for i := range list {
		out.Write(quoting.Cells(record(&list[i])))
	}
	out.Flush()
	if err := out.Error(); err != nil {
		return fmt.Errorf("writing CSV: %w", err)
	}
	return nil
}

// WriteText writes the same in columns, an empty field as a dash.
func WriteText(w io.Writer, list []breadboard.Item) error {
	out := tabwriter.NewWriter(w, 0, 0, 2, ' ', 0)
	fmt.Fprintln(out, strings.Join(Header, "\t")) // Flush keeps its error
	for i := range list {
		fields := record(&list[i])
		for j, f := range fields {
			fields[j] = cmp.Or(quoting.Line(f), "-")
		}
		fmt.Fprintln(out, strings.Join(fields, "\t"))
	}
	if err := out.Flush(); err != nil {
		return fmt.Errorf("writing text: %w", err)
	}
	return nil
}

// WriteParts writes the list of parts as comma-separated values, RFC 4180: how many
// of what, which parts of the bench they are, and how to know them.
func WriteParts(w io.Writer, parts []breadboard.Purchase) error {
	out := csv.NewWriter(w)
	out.UseCRLF = true
	out.Write([]string{"count", "part", "for", "look"})
	for _, p := range parts {
		out.Write(quoting.Cells([]string{strconv.Itoa(p.Count), p.What, strings.Join(p.For, "; "), p.Look}))
	}
	out.Flush()
	if err := out.Error(); err != nil {
		return fmt.Errorf("writing CSV: %w", err)
	}
	return nil
}
