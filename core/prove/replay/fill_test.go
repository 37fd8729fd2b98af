package replay

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"slatebell/core/finding"
	"slatebell/core/prove/capture"
	"slatebell/core/prove/capture/capturetest"
	"slatebell/core/wire/link"
)

// TestWithoutLine identifies and replays recordings from which one data line is missing. By the names of the others it is known which; and mostly by the
// traffic alone. That is said, and what the line carried is filled in as each byte is likeliest meant.
func TestWithoutLine(t *testing.T) {
	nameless, all := 0, 0
	for kind, least := range map[link.Kind]int{link.Parallel4: 4, link.Parallel8: 0} {
		for d := 7; d >= least; d-- {
			list, at := recorded(t, rand.New(rand.NewPCG(0, 41)), kind, 0)
			role := capture.Role(link.Line(d).String())
			list = capturetest.Only(list, ^(uint64(1) << at[role]))
			delete(at, role)
			names := make([]string, capturetest.Channels)
			for r, c := range at {
				names[c] = "header." + string(r)
			}
			found := capture.Identify(list, names, nil)
			if len(found) == 0 || !capturetest.Same(found[0].Lines, at) {
				t.Errorf("%s without %s: found %s; expected %v", kind, role, capturetest.Describe(found), at)
				continue
			}
			if found[0].Kind != kind || found[0].Lines.Has(role) { // a line that stands still is taken for it
				if d != 7 {
					t.Errorf("%s without %s: found %s", kind, role, capturetest.Describe(found))
				}
				continue
			}
			played, _ := shown(t, &found[0], "20x4", list)
			findings := played.Findings()
			if k := slices.Index(codes(findings), "capture.no-line"); k < 0 || !slices.ContainsFunc(findings, func(f finding.Finding) bool { return strings.HasPrefix(f.What, fmt.Sprintf("D%d was not recorded", d)) }) {
				t.Errorf("%s without %s: %v", kind, role, codes(findings))
			}
			if d == 4 || d == 0 {
				all++
				if found := capture.Identify(list, capturetest.Names(), nil); len(found) > 0 && capturetest.Same(found[0].Lines, at) && !found[0].Lines.Has(role) {
					nameless++
				}
			}
		}
	}
	if nameless < all {
		t.Errorf("of %d recordings without D4 or D0 the lines of %d are found by their traffic alone", all, nameless)
	}
	// What can be read but in one way is right: the digits of the time, where D6 is missing on eight lines.
	list, at := recorded(t, rand.New(rand.NewPCG(0, 41)), link.Parallel8, 0)
	list = capturetest.Only(list, ^(uint64(1) << at["D6"]))
	delete(at, "D6")
	found := capture.Identify(list, capturetest.Names(), at)
	if _, rows := shown(t, &found[0], "20x4", list); !strings.Contains(strings.Join(rows, "|"), "High") {
		t.Errorf("without D6: %q", rows)
	}
}
