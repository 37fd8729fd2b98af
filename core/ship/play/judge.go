package play

import (
	"cmp"
	"fmt"
	"slices"
	"time"

	"slatebell/core/bench"
	"slatebell/core/bench/show"
	"slatebell/core/finding"
	"slatebell/core/say"
	"slatebell/core/ship/firmware"
)

// Judge says where updates were not finished when the next was due, what serial lines lost,
// and what would help: each remedy was played, and its label says what it brings. at is the
// module, and its events are those that were played. watch is told how many ways have been
// played, and may be nil.
func Judge(b *bench.Bench, at int, events []show.Event, until int64, watch func(done, of int)) ([]finding.Finding, error) {
	played, err := once(b, at, events, until)
	if err != nil {
		return nil, err
	}
	now := behind(played)
	var out []finding.Finding
	if now.late > 0 {
		f := finding.Finding{
			Code: "play.behind", Severity: finding.Note, Path: fmt.Sprintf("/modules/%d/show", at),
			What: fmt.Sprintf("%d of %d changes waited for the one before them, at most %s (the one at %s)", now.late, len(played.Frames), say.Milliseconds(now.longest), say.Milliseconds(now.when)),
			Why:  "A newer wish overtakes one that still waits: what was overtaken is never seen.",
			Fix:  "Let values change less often, or the link be quicker.",
		}
		if now.dropped > 0 {
			f.Severity = finding.Warning
			f.What += fmt.Sprintf("; %d were overtaken and never shown", now.dropped)
		}
		f.What += "."
		f.Remedies = helps(b, at, events, until, now, watch)
		out = append(out, f)
	}
	if played.Lost > 0 {
		out = append(out, lost(b, at, events, until, played.Lost))
	}
	return out, nil
}

// once plays one module of a bench.
func once(b *bench.Bench, at int, events []show.Event, until int64) (*Playing, error) {
	im, err := firmware.New(b, at)
	if err != nil {
		return nil, err
	}
	return Play(&im.Modules[0], events, until)
}

// lag is how far a module fell behind.
type lag struct {
	late, dropped int
	longest, when time.Duration
}

func behind(p *Playing) (l lag) {
	l.dropped = p.Dropped
	for i := range p.Frames {
		if f := &p.Frames[i]; f.Waited > 0 {
			l.late++
			if f.Waited > l.longest {
				l.longest, l.when = f.Waited, f.Wanted
			}
		}
	}
	return l
}

// change is something that might help.
type change struct {
	label string
	do    func(m *bench.Module)
	path  string // in the module
	value any
}

// helps plays what might help, and returns what does, the best first.
func helps(b *bench.Bench, at int, events []show.Event, until int64, now lag, watch func(done, of int)) []finding.Remedy {
	m := &b.Modules[at]
	var tries []change
	if hz := cmp.Or(m.Link.Outputs.SpeedHz, b.Bus.SpeedHz, bench.UsualBusHz); m.Link.Kind == "backpack" {
		if hz < bench.UsualBusHz {
			tries = append(tries, change{"Run the bus at 100 kHz", func(m *bench.Module) { m.Link.Outputs.SpeedHz = bench.UsualBusHz }, "/link/outputs/speedHz", bench.UsualBusHz})
		}
		if t := m.Link.Outputs.Transactions; t == "byte" || t == "operation" {
			tries = append(tries, change{"Send a whole change in one transaction", func(m *bench.Module) { m.Link.Outputs.Transactions = "screen" }, "/link/outputs/transactions", "screen"})
		}
	}
	if m.Link.Waits != "poll" {
		tries = append(tries, change{"Wait for the busy flag", func(m *bench.Module) { m.Link.Waits = "poll" }, "/link/waits", "poll"})
	}
	if m.Changes != "" && m.Changes != "cheapest" {
		tries = append(tries, change{"Change screens the cheapest way", func(m *bench.Module) { m.Changes = "cheapest" }, "/changes", "cheapest"})
	}
	for i, in := range m.Show.Inputs {
		if every := in.Signal.Source.SampleMs; in.Kind == "signal" && in.Signal.Source.Curve != "" {
			slower := max(cmp.Or(every, 100)*2, int(now.longest/time.Millisecond)+1)
			tries = append(tries, change{fmt.Sprintf("Read “%s” each %d ms", cmp.Or(in.Name, in.ID), slower), func(m *bench.Module) { m.Show.Inputs[i].Signal.Source.SampleMs = slower }, fmt.Sprintf("/show/inputs/%d/signal/source/sampleMs", i), slower})
		}
	}
	type helped struct {
		lag
		finding.Remedy
	}
	var found []helped
	for i, t := range tries {
		if watch != nil {
			watch(i, len(tries))
		}
		with := *b
		with.Modules = slices.Clone(b.Modules)
		with.Modules[at].Show.Inputs = slices.Clone(m.Show.Inputs)
		t.do(&with.Modules[at])
		p, err := once(&with, at, events, until)
		if err != nil {
			continue // its link cannot do that
		}
		if l := behind(p); l.dropped < now.dropped || l.dropped == now.dropped && l.longest < now.longest*9/10 {
			label := fmt.Sprintf("%s: %d overtaken, at most %s late", t.label, l.dropped, say.Milliseconds(l.longest))
			found = append(found, helped{l, finding.Remedy{Label: label, Patch: finding.Patch{finding.Test(fmt.Sprintf("/modules/%d/id", at), m.ID), finding.Add(fmt.Sprintf("/modules/%d%s", at, t.path), t.value)}}})
		}
	}
	slices.SortStableFunc(found, func(a, b helped) int { return cmp.Or(a.dropped-b.dropped, cmp.Compare(a.longest, b.longest)) })
	var out []finding.Remedy
	for _, h := range found {
		out = append(out, h.Remedy)
	}
	return out
}

// lost says what serial lines lost, and how many characters the host would have to keep.
func lost(b *bench.Bench, at int, events []show.Event, until int64, n int) finding.Finding {
	m := &b.Modules[at]
	f := finding.Finding{
		Code: "play.lost", Severity: finding.Warning, Path: fmt.Sprintf("/modules/%d/show/inputs", at),
		What: fmt.Sprintf("%d characters of a serial line were lost: they came while the host sent, and it keeps no more.", n),
		Why:  "While it sends to a module a host reads nothing; an interrupt keeps what comes, as much as its buffer holds.",
		Fix:  "Let the host keep more, the line be slower, or messages be shown when their line ends.",
	}
	for i, in := range m.Show.Inputs {
		if in.Kind != string(show.Serial) {
			continue
		}
		try := func(most int, label string, do func(s *bench.Serial)) bool {
			with := *b
			with.Modules = slices.Clone(b.Modules)
			with.Modules[at].Show.Inputs = slices.Clone(m.Show.Inputs)
			do(&with.Modules[at].Show.Inputs[i].Serial)
			if p, err := once(&with, at, events, until); err == nil && p.Lost <= most {
				f.Remedies = append(f.Remedies, finding.Remedy{Label: fmt.Sprintf("%s: %d lost", label, p.Lost), Patch: finding.Patch{
					finding.Test(fmt.Sprintf("/modules/%d/show/inputs/%d/id", at, i), in.ID), finding.Add(fmt.Sprintf("/modules/%d/show/inputs/%d/serial", at, i), with.Modules[at].Show.Inputs[i].Serial)}})
				return true
			}
			return false
		}
		name := cmp.Or(in.Name, in.ID)
		for keep := cmp.Or(in.Serial.Buffer, show.UsualBuffer) * 2; keep <= 4096; keep *= 2 {
			if try(0, fmt.Sprintf("Keep %d characters of “%s”", keep, name), func(s *bench.Serial) { s.Buffer = keep }) {
				break
			}
		}
		if in.Serial.AsItComes {
			try(n-1, fmt.Sprintf("Show “%s” when its line ends", name), func(s *bench.Serial) { s.AsItComes = false })
		}
	}
	return f
}
