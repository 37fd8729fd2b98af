package layout

import (
	"slatebell/codegen/source"
	"slatebell/core/ship/firmware"
	"slatebell/core/text/field"
)

// regionOf is the field of a place; a tape belongs to its screen.
func regionOf(module int, p *firmware.Place) source.Region {
	r := source.Region{Module: module, Screen: p.Screen, Field: p.Field}
	if p.Spec.Kind == field.Tape {
		r.Field = -1
	}
	return r
}

// Sources says which parts of a bench a mark stands for.
func Sources(im *firmware.Image) func(module int, kind string, index int) []source.Region {
	return func(module int, kind string, index int) (out []source.Region) {
		var m *firmware.Module
		for i := range im.Modules {
			if im.Modules[i].At == module {
				m = &im.Modules[i]
			}
		}
		if m == nil {
			return nil
		}
		switch kind {
		case "screen":
			return []source.Region{{Module: module, Screen: index, Field: -1}}
		case "place":
			return []source.Region{regionOf(module, &m.Places[index])}
		case "value":
			for i := range m.Places {
				if p := &m.Places[i]; p.Value == index {
					out = append(out, regionOf(module, p))
				}
			}
			return out
		}
		return []source.Region{{Module: module, Screen: -1, Field: -1}}
	}
}
