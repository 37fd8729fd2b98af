package codegen

import (
	"cmp"
	"fmt"
	"strings"

	"slatebell/core/finding"
	"slatebell/core/ship/firmware"
	"slatebell/core/text/field"
)

// Notes says where a program does otherwise than its user may expect.
func Notes(im *firmware.Image, as Language) (out []finding.Finding) {
	if as == MicroPython && !Runs(&im.Host, MicroPython) {
		out = append(out, finding.Finding{
			Code: "code.no-micropython", Severity: finding.Warning, Path: "/host/part",
			What: fmt.Sprintf("An %s runs no MicroPython: its pins are written by their labels.", im.Host.Chip),
			Fix:  "Choose another host for the bench, or take the C.",
		})
	}
	for i := range im.Modules {
		m := &im.Modules[i]
		if unread := m.Unread(); len(unread) > 0 && m.Staged {
			names := make([]string, len(unread))
			for k, n := range unread {
				names[k] = "“" + cmp.Or(m.Show.Inputs[n].Name, m.Show.Inputs[n].ID) + "”"
			}
			out = append(out, finding.Finding{
				Code: "code.input-unread", Severity: finding.Note, Path: fmt.Sprintf("/modules/%d/show/inputs", m.At),
				What: fmt.Sprintf("The program does not read %s.", strings.Join(names, ", ")),
				Why:  "They are on no pin of the host, or on one that cannot read them.",
				Fix:  "Choose their pins in Scenes, or tell the program what happens in its own section.",
			})
		}
		if n := len(m.Screens); n > firmware.MaxScreens {
			out = append(out, finding.Finding{
				Code: "code.many-screens", Severity: finding.Note, Path: fmt.Sprintf("/modules/%d/screens", m.At),
				What: fmt.Sprintf("%d screens: every change begins with a clear.", n),
				Why:  fmt.Sprintf("A table for each change would need %d of them; up to %d screens have theirs.", n*(n-1), firmware.MaxScreens),
			})
		}
		for k := range m.Places {
			p := &m.Places[k]
			if f := &p.Spec; f.TooLong() == "shift" && len(p.Rest) == 0 && f.Kind != field.Cursor && f.Kind != field.Bar && len(f.Extremes().Over) > 0 {
				out = append(out, finding.Finding{
					Code: "code.cut", Severity: finding.Note, Path: fmt.Sprintf("/modules/%d/screens/%d/fields/%d", m.At, p.Screen, p.Field),
					What: fmt.Sprintf("“%s”: a text that is too long is cut in the program.", f.Name),
					Why:  "It would move another field of its row, whose place the program's tables have.",
				})
			}
		}
	}
	return out
}
