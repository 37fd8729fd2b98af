package main

import (
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"slatebell/core/bench"
	"slatebell/core/finding"
	"slatebell/core/part/module"
	"slatebell/core/prove/capture"
	"slatebell/core/prove/replay"
	"slatebell/core/wire/link"
	"slatebell/core/wire/rig"
	"slatebell/formats/benchjson"
	"slatebell/formats/rawsamples"
	"slatebell/formats/recording"
	"slatebell/formats/stepcsv"
	"slatebell/formats/vcd"
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
	Operations []capturedOp      `json:"operations"`
	Findings   []finding.Finding `json:"findings"`
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

func newCapture(std stdio) *cobra.Command {
	c := &cobra.Command{
		Use: "capture FILE", Short: "Read a recording of what was on a module's wires",
		Long: "Read a recording: a value change dump, a zipped session, comma-separated values (samples or changes), or samples and\n" +
			"nothing else (8 or 16 channels, --rate stated). Which channel is which line is found by what the traffic then means;\n" +
			"--lines names some or all: RS, RW, E, E2, D0–D7 of the header, SDA and SCL of a bus, DATA, CLOCK and LATCH of a\n" +
			"74HC595, each with a channel's number, from 0, or its name. The recording is played into a module with its own times.\n" +
			"Printed are the channels, the operations and the glass at the end, or at a time; findings go to standard error. The exit\n" +
			"code is 1 where a limit is broken.",
		Example: "  slatebell capture start.vcd\n  slatebell capture bus.bin --rate 2MHz --lines SDA=0,SCL=1 --at 1.5s\n  slatebell capture start.vcd --as bench > learnt.json",
		Args:    oneFile("a recording"),
	}
	f := c.Flags()
	rate := f.String("rate", "", "rate of samples, such as 1000000 or 24MHz, where the file does not say it")
	width := f.Int("channels", 8, "channels of samples and nothing else: 8 or 16")
	named := f.String("lines", "", "which channel is which line, such as E=3,RS=5; the others are found")
	file := f.String("bench", "", "bench document whose module it is of: its size, ROM and times")
	id := f.String("module", "", "id of the bench's module; its only one where absent")
	geometry := f.String("geometry", "", "size of the module; the likeliest by its addresses where absent")
	when := f.String("at", "", "show the glass at this time since the recording began, such as 1.5s, 20ms or a number of seconds; its end where absent")
	as := f.String("as", "", "bench: print what was learnt as a bench document")
	choices(c, "as", "bench")
	format := formatFlag(c, "text", "json", "csv", "vcd")
	c.RunE = func(_ *cobra.Command, args []string) error {
		how, err := format()
		if err != nil {
			return err
		}
		until, err := momentOf(*when)
		if err != nil {
			return err
		}
		if *as != "" && *as != "bench" {
			return wrong(exitUsage, "--as %q; expected bench", *as)
		}
		o := recording.Options{Channels: *width}
		if *rate != "" {
			if o.Rate, err = rawsamples.Rate(*rate); err != nil {
				return wrong(exitUsage, "--rate: %w", err)
			}
		}
		display, err := capturedDisplay(*file, *id, std)
		if err != nil {
			return err
		}
		if *geometry != "" {
			display.Geometry = *geometry
		}
		r, err := openRecording(args[0], o, *named)
		if err != nil {
			return err
		}
		defer r.file.Close()
		if display.Geometry == "" {
			if display.Geometry, err = r.Size(); err != nil {
				return wrong(exitFailed, "%s: %w", args[0], err)
			}
		}
		m, err := display.Module()
		if err != nil {
			return wrong(exitUsage, "%w", err)
		}
		if how == "vcd" {
			return r.writeLevels(m, until, std.out)
		}
		played, err := r.Play(m, until, nil)
		if err != nil {
			return wrong(exitFailed, "%s: %w", args[0], err)
		}
		findings := played.Findings()
		printed := error(nil)
		if *as == "bench" {
			learnt := played.Bench(display)
			printed = benchjson.Write(std.out, &learnt)
		} else {
			printed = r.print(&m, played, findings, how, std)
		}
		if printed != nil {
			return printed
		}
		if slices.ContainsFunc(findings, func(f finding.Finding) bool { return f.Severity != finding.Note }) {
			return coded{exitFailed, errors.New("")} // the findings have said it
		}
		return nil
	}
	return c
}

// momentOf reads --at; −1 where nothing is given.
func momentOf(text string) (time.Duration, error) {
	if text == "" {
		return -1, nil
	}
	if seconds, err := strconv.ParseFloat(text, 64); err == nil && seconds >= 0 && seconds < 1e9 {
		return time.Duration(seconds * 1e9), nil
	}
	at, err := time.ParseDuration(text)
	if err != nil || at < 0 {
		return 0, wrong(exitUsage, "--at %q; expected a time such as 1.5s, 20ms, 300us or a number of seconds", text)
	}
	return at, nil
}

// capturedDisplay is the module of a bench that a recording is of; a usual one without a size where none is given.
func capturedDisplay(file, id string, std stdio) (bench.Display, error) {
	d := replay.Learnt()
	if file == "" {
		if id != "" {
			return d, wrong(exitUsage, "--module %s: it is of a bench; expected --bench BENCH.json", id)
		}
		return d, nil
	}
	b, err := readBench(file, std.in)
	if err != nil {
		return d, err
	}
	at, err := moduleOf(&b, id)
	if err != nil {
		return d, err
	}
	return b.Modules[at].Display, nil
}

// recorded is a recording in a file.
type recorded struct {
	*replay.Recording
	file *os.File
}

// openRecording opens a recording and finds which channel is which line.
func openRecording(name string, o recording.Options, lines string) (*recorded, error) {
	file, err := os.Open(name)
	if err != nil {
		return nil, wrong(exitUsage, "%w; expected a recording", err)
	}
	r, err := replay.Open(func() (capture.Source, error) {
		info, err := file.Stat()
		if err != nil {
			return nil, err
		}
		return recording.Open(file, info.Size(), o)
	})
	if err == nil {
		err = find(r, lines)
	}
	var code coded
	switch {
	case err == nil:
		return &recorded{r, file}, nil
	case errors.Is(err, replay.ErrNoLines):
		err = wrong(exitFailed, "%s: %w; name what you know by --lines, such as SDA=0,SCL=1 or E=3,RS=5", name, err)
	case !errors.As(err, &code):
		err = wrong(exitUsage, "%s: %w", name, err)
	}
	file.Close()
	return nil, err
}

// find finds which channel is which line, with those that --lines names.
func find(r *replay.Recording, lines string) error {
	var given capture.Lines
	if lines != "" {
		var err error
		if given, err = capture.ParseLines(lines, r.Names); err != nil {
			return wrong(exitUsage, "--lines: %w", err)
		}
	}
	return r.Find(given)
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
func (r *recorded) print(m *module.Module, played *replay.Replay, findings []finding.Finding, how string, std stdio) error {
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
	fmt.Fprintf(&b, "\nglass at %s\n", rig.Duration(played.Ends))
	for _, row := range rows {
		fmt.Fprintf(&b, "|%s|\n", row)
	}
	_, err := io.WriteString(std.out, b.String())
	return err
}

// writeLevels writes what stood on the header's pins.
func (r *recorded) writeLevels(m module.Module, until time.Duration, w io.Writer) error {
	var names []string
	for l := range link.Lines {
		names = append(names, l.String())
	}
	return vcd.WriteLevels(w, names, func(level func(time.Duration, uint64)) error {
		_, err := r.Play(m, until, func(at time.Duration, p link.Pins) { level(at, uint64(p)) })
		return err
	})
}
