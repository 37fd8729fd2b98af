// Package check states all that is found on a bench: table, wires, every screen of every module, how they
// follow each other, and its shows. It also compares the links that a module can have by what its screen costs.
//
// It stands on top of prove: page, API and command line call it, so that all three say the same.
package check

import (
	"cmp"
	"fmt"

	"periph.io/x/conn/v3/physic"

	"slatebell/core/bench"
	"slatebell/core/bench/show"
	"slatebell/core/finding"
	"slatebell/core/prove/run"
	"slatebell/core/prove/testbed"
	"slatebell/core/prove/transition"
	"slatebell/core/say"
	"slatebell/core/table/breadboard"
	"slatebell/core/table/setup"
	"slatebell/core/wire/link"
)

// Check judges a bench as a whole, then runs every screen of every module, and
// returns all that was found: bus and supply first, then the wires, then module by module:
// its screens, what is left of one when the next is shown and how often fields are written,
// its show, and how its glyphs are loaded. What
// several screens of a module share is said once.
// Its error is a bench.Problem where a module cannot be run.
func Check(b *bench.Bench) ([]finding.Finding, error) {
	out := append(setup.Check(b), breadboard.Check(b)...)
	type known struct{ code, what, path string }
	said := map[known]bool{}
	for m := range b.Modules {
		out = append(out, largePot(b, m)...)
		for s := range b.Modules[m].Screens {
			setup, err := testbed.Of(b, testbed.At{Module: m, Screen: s})
			if err != nil {
				return nil, fmt.Errorf("checking module %d: %w", m, err)
			}
			r, err := run.Do(&setup, run.Options{})
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
			scrolled, err := transition.NewScrolled(&setup)
			if err != nil {
				return nil, err
			}
			out = append(out, scrolled.Findings...)
		}
		changes, err := transition.Check(b, m)
		if err != nil {
			return nil, err
		}
		out = append(out, changes...)
		out = append(out, show.Check(b, m)...)
		if len(b.Modules[m].Screens) < 2 {
			continue // nothing follows anything
		}
		loading, err := transition.NewLoading(b, m)
		if err != nil {
			return nil, err
		}
		out = append(out, loading.Findings...)
	}
	return out, nil
}

// largest is the potentiometer from which on the knob is of little use.
const largest = 100 * physic.KiloOhm

// largePot finds a potentiometer so large that the module's own ladder outweighs it: the glass
// reads well on a sliver of its turn.
func largePot(b *bench.Bench, index int) []finding.Finding {
	m := &b.Modules[index]
	pot := m.Fitting.Pot()
	if pot < largest || m.Link.Kind == string(link.Backpack) {
		return nil
	}
	figures, ok := breadboard.Contrast(m)
	if !ok || figures.Below {
		return nil
	}
	useful := 0.0
	for i := range figures.Curves {
		if c := &figures.Curves[i]; c.Pot == pot {
			useful = c.Useful()
		}
	}
	at := fmt.Sprintf("/modules/%d/fitting", index)
	small := m.Fitting
	small.PotOhm = 0
	return []finding.Finding{{
		Code: "module.pot-large", Severity: finding.Warning, Path: at,
		What: fmt.Sprintf("With a potentiometer of %s, %s reads well on %.2g %% of its turn only.", say.Ohms(pot), cmp.Or(m.Name, m.ID), 100*useful),
		Why:  "The module’s own resistors between VDD and VO outweigh it.", Fix: "Take one of 10 kΩ.", Source: "common practice",
		Remedies: []finding.Remedy{{Label: "Take 10 kΩ", Patch: finding.Patch{finding.Test(at, m.Fitting), finding.Replace(at, small)}}},
	}}
}
