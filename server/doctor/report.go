package doctor

import (
	"archive/zip"
	"encoding/json"
	"fmt"
	"io"
	"os"
	"strings"

	"slatebell/core/bench"
	"slatebell/formats/benchjson"
	"slatebell/server/journal"
)

// mostLog is how much of the log goes into a report, in bytes.
const mostLog = 256 << 10

const about = `A report of Slate Bell.

doctor.txt, doctor.json  what the program stands on, as “slatebell doctor” says it
slatebell.log            the end of the program's own log; it holds nothing of any bench
%s
The name of the user's own directory is written as ~. Read all of it before you send it.
`

// Write writes a report that a maker can send, a ZIP archive: what Examine finds, the end of the log, and those benches that were
// added, none where none were.
func Write(w io.Writer, o Options, benches []bench.Archive) error {
	r := Examine(o)
	home, _ := os.UserHomeDir() // "" leaves everything as it is
	z := zip.NewWriter(w)
	put := func(name string, data []byte) error {
		out, err := z.CreateHeader(&zip.FileHeader{Name: name, Method: zip.Deflate, Modified: r.At})
		if err != nil {
			return err
		}
		_, err = out.Write(data)
		return err
	}
	hidden := func(text string) []byte {
		if len(home) > 1 {
			text = strings.ReplaceAll(text, home, "~")
		}
		return []byte(text)
	}
	added := "No bench is in it."
	if len(benches) > 0 {
		added = "bench-1.json and so on   the benches that were added"
	}
	var text strings.Builder
	r.Print(&text)
	data, err := json.MarshalIndent(r, "", "  ")
	if err != nil {
		return err
	}
	log, err := journal.Last(o.Dir, mostLog)
	if err != nil {
		log = []byte(err.Error() + "\n")
	}
	files := []struct {
		name string
		data []byte
	}{{"README.txt", fmt.Appendf(nil, about, added)}, {"doctor.txt", hidden(text.String())}, {"doctor.json", hidden(string(data) + "\n")}, {"slatebell.log", hidden(string(log))}}
	for i := range benches {
		var text strings.Builder
		if err := benchjson.WriteArchive(&text, &benches[i]); err != nil {
			return err
		}
		files = append(files, struct {
			name string
			data []byte
		}{fmt.Sprintf("bench-%d.json", i+1), []byte(text.String())})
	}
	for _, f := range files {
		if err := put(f.name, f.data); err != nil {
			return err
		}
	}
	return z.Close()
}

// Print writes a report as text: a line for each check, and below it what to do.
func (r *Report) Print(w io.Writer) error {
	p := r.Program
	line := "Slate Bell " + p.Version
	if p.Commit != "" {
		line += ", commit " + p.Commit
	}
	if p.Date != "" {
		line += ", of " + p.Date
	}
	text := fmt.Sprintf("%s, on %s\n", line, p.System)
	for _, c := range r.Checks {
		text += fmt.Sprintf("%-5s  %-9s  %s\n", c.State, c.Name, c.Says)
		if c.Todo != "" {
			text += fmt.Sprintf("%-5s  %-9s  → %s\n", "", "", c.Todo)
		}
	}
	_, err := io.WriteString(w, text)
	return err
}
