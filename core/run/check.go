package run

import (
	"fmt"

	"slatebell/core/bench"
	"slatebell/core/breadboard"
	"slatebell/core/finding"
	"slatebell/core/plan"
	"slatebell/core/show"
)

// Check judges a bench as a whole, then runs every screen of every module, and
// returns all that was found: bus and supply first, then the wires, then module by module:
// its screens, what is left of one when the next is shown and how often fields are written,
// its show, and how its glyphs are loaded. What
// several screens of a module share is said once.
// Its error is a bench.Problem where a module cannot be run.
func Check(b *bench.Bench) ([]finding.Finding, error) {
	out := append(plan.Check(b), breadboard.Check(b)...)
	type known struct{ code, what, path string }
	said := map[known]bool{}
	for m := range b.Modules {
		for s := range b.Modules[m].Screens {
			setup, err := Of(b, At{m, s})
			if err != nil {
				return nil, fmt.Errorf("checking module %d: %w", m, err)
			}
			r, err := setup.Run(Options{})
			if err != nil {
				return nil, err
			}
			for _, f := range r.Findings {
				if k := (known{f.Code, f.What, f.Path}); !said[k] {
					said[k] = true
					out = append(out, f)
				}
			}
			if setup.Scroll.By == "" {
				continue
			}
			scrolled, err := NewScrolled(&setup)
			if err != nil {
				return nil, err
			}
			out = append(out, scrolled.Findings...)
		}
		changes, err := checkChanges(b, m)
		if err != nil {
			return nil, err
		}
		out = append(out, changes...)
		out = append(out, show.Check(b, m)...)
		if len(b.Modules[m].Screens) < 2 {
			continue // nothing follows anything
		}
		loading, err := NewLoading(b, m)
		if err != nil {
			return nil, err
		}
		out = append(out, loading.Findings...)
	}
	return out, nil
}
