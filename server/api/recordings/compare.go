package recordings

import (
	"slatebell/core/bench"
	"slatebell/core/finding"
	"slatebell/core/prove/fault"
	"slatebell/core/prove/replay"
	"slatebell/server/api/answer"
)

// ComparisonRequest asks for a recording beside the program of a module.
type ComparisonRequest struct {
	Bench  bench.Bench `json:"bench"`
	Module int         `json:"module" minimum:"0"`
}

// RecordingComparison is a recording beside what the bench's own program sends.
type RecordingComparison struct {
	Screen   int               `json:"screen" doc:"of the module, to which it is nearest"`
	Pairs    []ComparedPair    `json:"pairs" nullable:"false" doc:"operations beside each other, as far as they are listed"`
	More     int               `json:"more" doc:"pairs that are not listed"`
	First    int               `json:"first" doc:"pair in which they differ first; -1 where they do not"`
	Before   int               `json:"before" doc:"operations of the program before the recording begins"`
	After    int               `json:"after" doc:"operations that were recorded after the program's last"`
	Missing  int               `json:"missing"`
	Added    int               `json:"added"`
	Changed  int               `json:"changed"`
	Causes   []ExplainingFault `json:"causes" nullable:"false" doc:"what explains the difference, the likeliest first"`
	Findings []finding.Finding `json:"findings" nullable:"false"`
}

// ComparedPair is an operation of the program beside one of the recording.
type ComparedPair struct {
	Kind     string `json:"kind" enum:"same,missing,added,changed"`
	Program  string `json:"program,omitempty" doc:"what the program sends"`
	Recorded string `json:"recorded,omitempty" doc:"what was recorded"`
	AtNs     *int64 `json:"atNs,omitempty" doc:"when that was"`
}

// ExplainingFault is a fault with its share.
type ExplainingFault struct {
	ID    string  `json:"id"`
	What  string  `json:"what"`
	Fix   string  `json:"fix"`
	Share float64 `json:"share" doc:"of all that explain it, 0–1"`
	Sound bool    `json:"sound,omitempty" doc:"it is none: all is as planned"`
}

// mostPairs is how many pairs are listed.
const mostPairs = 2000

// compare holds what was played against a bench.
func (r *reading) compare(req *ComparisonRequest) (*RecordingComparison, error) {
	if _, err := answer.Module(&req.Bench, req.Module); err != nil {
		return nil, err
	}
	c, err := r.played.Against(&req.Bench, req.Module)
	if err != nil {
		return nil, answer.Invalid(err)
	}
	out := &RecordingComparison{
		Screen: c.Screen, First: c.First, Before: c.Before, After: c.After, Missing: c.Missing, Added: c.Added, Changed: c.Changed, Causes: []ExplainingFault{}, Pairs: []ComparedPair{},
		Findings: c.Findings(), More: max(0, len(c.Pairs)-mostPairs),
	}
	for _, p := range c.Pairs[:min(len(c.Pairs), mostPairs)] {
		out.Pairs = append(out.Pairs, r.pair(c, p))
	}
	for i := range c.Causes {
		one := &c.Causes[i]
		out.Causes = append(out.Causes, ExplainingFault{one.Fault.ID, one.Fault.What(), one.Fault.Fix(), one.Share, one.Fault.ID == fault.Sound})
	}
	return out, nil
}

func (r *reading) pair(c *replay.Comparison, p replay.Pair) ComparedPair {
	out := ComparedPair{Kind: c.Kind(p)}
	if p.Program >= 0 {
		out.Program = c.Says(&c.Program[p.Program])
	}
	if p.Recorded >= 0 {
		op := r.operation(p.Recorded)
		out.Recorded, out.AtNs = op.Meaning, &op.AtNs
	}
	return out
}
