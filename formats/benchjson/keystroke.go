package benchjson

import (
	"bytes"
	"encoding/json"
	"regexp"
	"slices"
	"strconv"

	"slatebell/core/bench"
)

// rowPath is where a row of a screen stands.
var rowPath = regexp.MustCompile(`^/modules/(0|[1-9]\d*)/screens/(0|[1-9]\d*)/rows/(0|[1-9]\d*)$`)

// keystroke carries out a patch that does no more than replace rows of screens, as what is typed on the glass does: most changes are of this
// kind, and nothing else of the bench need be written, read and checked for them. It returns what Patch does; ok is false for any other patch,
// and for one that is refused.
func keystroke(b *bench.Bench, patch []byte) (out bench.Bench, ok bool) {
	var ops []struct {
		Op, Path string
		Value    json.RawMessage
		From     *string
	}
	d := json.NewDecoder(bytes.NewReader(patch))
	d.DisallowUnknownFields()
	if d.Decode(&ops) != nil || d.More() || len(ops) == 0 {
		return out, false
	}
	out = *b
	out.Modules = slices.Clone(b.Modules)
	for _, op := range ops {
		at := rowPath.FindStringSubmatch(op.Path)
		var text string
		if op.Op != "replace" || op.From != nil || at == nil || len(op.Value) == 0 || op.Value[0] != '"' || json.Unmarshal(op.Value, &text) != nil {
			return out, false
		}
		var n [3]int
		for i := range n {
			n[i], _ = strconv.Atoi(at[i+1]) // one that is too large leads nowhere
		}
		if n[0] >= len(out.Modules) || n[1] >= len(out.Modules[n[0]].Screens) || n[2] >= len(out.Modules[n[0]].Screens[n[1]].Rows) {
			return out, false
		}
		m := &out.Modules[n[0]]
		m.Screens = slices.Clone(m.Screens)
		s := &m.Screens[n[1]]
		s.Rows = slices.Clone(s.Rows)
		s.Rows[n[2]] = text
	}
	return out, out.Validate() == nil
}
