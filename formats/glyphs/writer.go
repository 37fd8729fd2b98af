package glyphs

import (
	"encoding/json"
	"fmt"
	"io"
	"slices"

	"slatebell/core/text/glyph"
	"slatebell/core/text/picture"
	"slatebell/formats/bdf"
	"slatebell/formats/dottext"
	"slatebell/formats/pbm"
)

// Kinds lists the forms that Write writes.
var Kinds = []string{"json", "bdf", "pbm", string(dottext.C), string(dottext.Python), string(dottext.Hex), string(dottext.Bits)}

// Write writes glyphs in a form: one of Kinds. A picture has them side by side.
func Write(w io.Writer, kind string, list []glyph.Drawing) error {
	switch {
	case !slices.Contains(Kinds, kind):
		return fmt.Errorf("%q is no form of glyphs; expected one of %v", kind, Kinds)
	case kind == "json":
		e := json.NewEncoder(w)
		e.SetEscapeHTML(false)
		e.SetIndent("", "  ")
		return e.Encode(Document{Format, Version, list})
	case kind == "bdf":
		return bdf.Write(w, list)
	case kind == "pbm":
		block := picture.Block{Cols: len(list), Rows: 1}
		cells := make([]glyph.Pattern, len(list))
		for i := range list {
			cells[i] = list[i].Pattern()
			if len(list[i].Rows) > glyph.Rows {
				block.CellRows = glyph.MaxRows
			}
		}
		p := block.Join(cells)
		return pbm.Write(w, &p)
	}
	return dottext.Write(w, dottext.Form(kind), list)
}
