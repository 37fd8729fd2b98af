package main

import (
	"encoding/json"
	"fmt"
	"io"
	"strings"

	"periph.io/x/conn/v3/physic"

	"slatebell/core/finding"
	"slatebell/core/prove/replay"
	"slatebell/core/say"
	"slatebell/core/wire/link"
	"slatebell/core/wire/rig"
	"slatebell/formats/stepcsv"
)

// captured is what capture prints of a recording as JSON.
type captured struct {
	Channels   []capturedChannel `json:"channels"`
	Link       link.Kind         `json:"link"`
	Address    int               `json:"address,omitempty"`
	Mapping    string            `json:"mapping,omitempty"`
	Geometry   string            `json:"geometry"`
	At         float64           `json:"at"` // seconds since the recording began: of the glass
	Rows       []string          `json:"rows"`
	ClockHz    int               `json:"clockHz,omitempty"` // of the bus
	Screens    int               `json:"screens"`           // that stood on the glass
	Recorded   capturedEffort    `json:"recorded"`          // what they took
	Cheapest   capturedEffort    `json:"cheapest"`          // what they take by the cheapest program
	Compared   *capturedDiff     `json:"compared,omitempty"`
	Operations []capturedOp      `json:"operations"`
	Findings   []finding.Finding `json:"findings"`
}

// capturedEffort is what showing screens takes.
type capturedEffort struct {
	Operations int     `json:"operations"`
	Bytes      int     `json:"bytes"`
	Seconds    float64 `json:"seconds"`
}

func effortOf(e replay.Effort) capturedEffort {
	return capturedEffort{e.Operations, e.Bytes, e.Time.Seconds()}
}

// capturedDiff is the recording beside the program of a bench.
type capturedDiff struct {
	Screen  string          `json:"screen"` // name of that which the recording is nearest to
	Missing int             `json:"missing"`
	Added   int             `json:"added"`
	Changed int             `json:"changed"`
	First   *float64        `json:"first,omitempty"` // seconds since the recording began: of the first operation that was added or changed
	Causes  []capturedCause `json:"causes"`
}

// capturedCause is a fault that explains the difference, with its share.
type capturedCause struct {
	Fault string  `json:"fault"`
	What  string  `json:"what"`
	Share float64 `json:"share"`
}

// capturedChannel is a channel with the line that it carries, "" where it is none, and how sure that is, 0–1.
type capturedChannel struct {
	Channel   int     `json:"channel"`
	Name      string  `json:"name"`
	Line      string  `json:"line,omitempty"`
	Certainty float64 `json:"certainty,omitempty"`
}

// capturedOp is an operation; At counts in seconds since the recording began.
type capturedOp struct {
	At      float64 `json:"at"`
	RS      int     `json:"rs"`
	RW      int     `json:"rw"`
	Byte    int     `json:"byte"`
	Enable  string  `json:"enable"`
	Meaning string  `json:"meaning"`
}

// sight is what is seen of a recording that was played.
type sight struct {
	recorded *recorded
	played   *replay.Replay
	cheaper  *replay.Cheaper
	of       captureOf
	diff     *replay.Comparison // nil where no bench is given
	findings []finding.Finding
}

// see judges what was played.
func see(r *recorded, played *replay.Replay, of captureOf) (s *sight, err error) {
	s = &sight{recorded: r, played: played, of: of, findings: played.Findings()}
	if s.cheaper, err = played.Cheaper(); err != nil {
		return nil, err
	}
	s.findings = append(s.findings, s.cheaper.Finding()...)
	if of.bench == nil {
		return s, nil
	}
	if s.diff, err = played.Against(of.bench, of.module); err != nil {
		return nil, err
	}
	s.findings = append(s.findings, s.diff.Findings()...)
	return s, nil
}

// compared is the recording beside the bench's program.
func (s *sight) compared() *capturedDiff {
	d := s.diff
	if d == nil {
		return nil
	}
	out := &capturedDiff{Screen: s.of.bench.Modules[s.of.module].Screens[d.Screen].Name, Missing: d.Missing, Added: d.Added, Changed: d.Changed, Causes: []capturedCause{}}
	if at, ok := d.FirstAt(); ok {
		seconds := at.Seconds()
		out.First = &seconds
	}
	for _, c := range d.Causes {
		out.Causes = append(out.Causes, capturedCause{c.Fault.ID, c.Fault.What(), c.Share})
	}
	return out
}

// channels are all of them, with the lines that they carry.
func (r *recorded) channels() []capturedChannel {
	out := make([]capturedChannel, len(r.Names))
	for i, name := range r.Names {
		out[i] = capturedChannel{Channel: i, Name: name}
	}
	for role, at := range r.Found[0].Lines {
		out[at].Line, out[at].Certainty = string(role), r.Found[0].Sure[role]
	}
	return out
}

// link says in words how the module is driven.
func (r *recorded) link() string {
	switch r.Found[0].Kind {
	case link.Backpack:
		address := "at an address that was not recorded"
		if r.Found[0].Address != 0 {
			address = fmt.Sprintf("at 0x%02X", r.Found[0].Address)
		}
		return "backpack " + address + ": " + r.Found[0].Mapping.String()
	case link.ShiftReg:
		return "shift register: " + r.Found[0].Mapping.String()
	case link.Parallel8:
		return "parallel, 8 data lines"
	}
	return "parallel, 4 data lines"
}

// print prints what was played.
func (s *sight) print(how string, std stdio) error {
	r, played, m, findings := s.recorded, s.played, s.played.Module(), s.findings
	glass := played.Glass()
	rows := glass.Text(m.ROM)
	ops := []capturedOp{}
	level := map[bool]int{true: 1}
	for i := range played.Operations {
		op := &played.Operations[i]
		ops = append(ops, capturedOp{op.At.Seconds(), level[op.RS], level[op.RW], int(op.Byte), op.Enable.String(), m.Controller().Family.Explain(op.Operation)})
	}
	switch how {
	case "json":
		e := json.NewEncoder(std.out)
		e.SetIndent("", "  ")
		out := captured{
			Channels: r.channels(), Link: r.Found[0].Kind, Address: int(r.Found[0].Address), Geometry: m.Geometry.Name, At: played.Ends.Seconds(), Rows: rows, Operations: ops,
			ClockHz: int(played.Clock() / physic.Hertz), Screens: len(s.cheaper.Screens), Recorded: effortOf(s.cheaper.Recorded), Cheapest: effortOf(s.cheaper.Cheapest), Compared: s.compared(),
			Findings: append([]finding.Finding{}, findings...),
		}
		if r.Found[0].Kind == link.Backpack || r.Found[0].Kind == link.ShiftReg {
			out.Mapping = r.Found[0].Mapping.String()
		}
		return e.Encode(out)
	case "csv":
		printFindings(std.err, findings)
		return stepcsv.WriteRecorded(std.out, played.Operations, m.Controller().Family)
	}
	printFindings(std.err, findings)
	var b strings.Builder
	for _, c := range r.channels() {
		line := "–"
		if c.Line != "" {
			line = fmt.Sprintf("%s  %.0f %%", c.Line, 100*c.Certainty)
		}
		fmt.Fprintf(&b, "%-10s %s\n", c.Name, line)
	}
	fmt.Fprintf(&b, "%s\n%s\n\n", r.link(), m.Geometry.Name)
	for i := range ops {
		fmt.Fprintf(&b, "%12s  %d %d %02X  %s\n", rig.Duration(played.Operations[i].At), ops[i].RS, ops[i].RW, ops[i].Byte, ops[i].Meaning)
	}
	if n := len(s.cheaper.Screens); n > 0 {
		fmt.Fprintf(&b, "\n%d %s: recorded %s; the cheapest program %s\n", n, say.Plural(n, "screen"), effortIn(s.cheaper.Recorded), effortIn(s.cheaper.Cheapest))
	}
	if c := s.compared(); c != nil {
		fmt.Fprintf(&b, "\nbeside screen %s: %d operations missing, %d added, %d changed\n", c.Screen, c.Missing, c.Added, c.Changed)
		for _, one := range c.Causes {
			fmt.Fprintf(&b, "%4.0f %%  %s\n", 100*one.Share, one.What)
		}
	}
	fmt.Fprintf(&b, "\nglass at %s\n", rig.Duration(played.Ends))
	for _, row := range rows {
		fmt.Fprintf(&b, "|%s|\n", row)
	}
	_, err := io.WriteString(std.out, b.String())
	return err
}

// effortIn is an effort in words.
func effortIn(e replay.Effort) string {
	return fmt.Sprintf("%d operations, %d bytes, %s", e.Operations, e.Bytes, rig.Duration(e.Time))
}
