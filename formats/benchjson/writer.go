package benchjson

import (
	"encoding/json"
	"fmt"
	"io"

	"slatebell/core/bench"
)

// Write writes a document for people and for version control: indented, in the
// order of the schema, with a line end behind it.
func Write(w io.Writer, b *bench.Bench) error { return write(w, b) }

// WriteArchive is Write with the log.
func WriteArchive(w io.Writer, a *bench.Archive) error { return write(w, a) }

func write(w io.Writer, doc any) error {
	enc := json.NewEncoder(w)
	enc.SetEscapeHTML(false)
	enc.SetIndent("", "  ")
	if err := enc.Encode(doc); err != nil {
		return fmt.Errorf("writing bench: %w", err)
	}
	return nil
}
