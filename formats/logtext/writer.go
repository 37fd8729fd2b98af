// Package logtext writes the log of a bench: as comma-separated values, RFC 4180, to
// count with, or as Markdown, to read and to pass on.
//
// It stands above core/bench/logbook, whose entries it writes; nothing reads them back, as
// the bench's own document carries them whole.
package logtext

import (
	"encoding/csv"
	"fmt"
	"io"
	"strconv"
	"strings"
	"time"

	"slatebell/core/bench/logbook"
	"slatebell/core/quoting"
)

// Header names the columns. time is RFC 3339 in UTC; causes are codes with spaces
// between them; pictures are the names of files.
var Header = []string{"time", "kind", "module", "text", "causes", "value", "unit", "pictures"}

// WriteCSV writes a header and a record for each entry. Lines end with CR LF, as the
// RFC has it.
func WriteCSV(w io.Writer, entries []logbook.Entry) error {
	out := csv.NewWriter(w)
	out.UseCRLF = true
	out.Write(Header) // Flush keeps its error
	for i := range entries {
		e := &entries[i]
		amount, unit := "", ""
		if e.Value != nil {
			amount, unit = strconv.FormatFloat(e.Value.Amount, 'f', -1, 64), e.Value.Unit
		}
		out.Write(quoting.Cells([]string{e.At.UTC().Format(time.RFC3339), string(e.Kind), e.Module, e.Text, strings.Join(e.Causes, " "), amount, unit, strings.Join(pictures(e), " ")}))
	}
	out.Flush()
	if err := out.Error(); err != nil {
		return fmt.Errorf("writing CSV: %w", err)
	}
	return nil
}

func pictures(e *logbook.Entry) (names []string) {
	for _, p := range e.Pictures {
		names = append(names, p.Name)
	}
	return names
}

// WriteMarkdown writes a heading, then for each day a heading and a list of its
// entries. What would be taken for markup in a text is escaped.
func WriteMarkdown(w io.Writer, bench string, entries []logbook.Entry) error {
	var b strings.Builder
	fmt.Fprintf(&b, "# Log of %s\n", quoting.Markdown(bench))
	day := ""
	for i := range entries {
		e := &entries[i]
		at := e.At.UTC()
		if d := at.Format(time.DateOnly); d != day {
			day = d
			fmt.Fprintf(&b, "\n## %s\n\n", day)
		}
		fmt.Fprintf(&b, "- **%s** %s", at.Format("15:04"), e.Kind)
		if e.Module != "" {
			fmt.Fprintf(&b, " (%s)", quoting.Markdown(e.Module))
		}
		fmt.Fprintf(&b, ": %s", quoting.Markdown(e.Text))
		if e.Value != nil {
			fmt.Fprintf(&b, " %s = %s %s.", quoting.Markdown(e.Value.Name), strconv.FormatFloat(e.Value.Amount, 'f', -1, 64), quoting.Markdown(e.Value.Unit))
		}
		if len(e.Causes) > 0 {
			codes := make([]string, len(e.Causes))
			for k, c := range e.Causes {
				codes[k] = quoting.Code(c)
			}
			fmt.Fprintf(&b, " %s", strings.Join(codes, ", "))
		}
		for _, name := range pictures(e) {
			fmt.Fprintf(&b, " [picture: %s]", quoting.Markdown(name))
		}
		b.WriteByte('\n')
	}
	_, err := io.WriteString(w, b.String())
	return err
}
