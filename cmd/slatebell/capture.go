package main

import (
	"errors"
	"io"
	"os"
	"slices"
	"strconv"
	"time"

	"github.com/spf13/cobra"

	"slatebell/core/bench"
	"slatebell/core/finding"
	"slatebell/core/part/module"
	"slatebell/core/prove/capture"
	"slatebell/core/prove/replay"
	"slatebell/core/wire/link"
	"slatebell/formats/benchjson"
	"slatebell/formats/rawsamples"
	"slatebell/formats/recording"
	"slatebell/formats/vcd"
)

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
	file := f.String("bench", "", "bench document whose module it is of: its size, ROM and times, and the program that it is held against")
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
		of, err := capturedOf(*file, *id, std)
		if err != nil {
			return err
		}
		display := of.display
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
		played, err := r.Play(m, until, replay.Watch{})
		if err != nil {
			return wrong(exitFailed, "%s: %w", args[0], err)
		}
		seen, err := see(r, played, of)
		if err != nil {
			return wrong(exitFailed, "%s: %w", args[0], err)
		}
		printed := error(nil)
		if *as == "bench" {
			learnt := played.Bench(display)
			printed = benchjson.Write(std.out, &learnt)
		} else {
			printed = seen.print(how, std)
		}
		if printed != nil {
			return printed
		}
		if slices.ContainsFunc(seen.findings, func(f finding.Finding) bool { return f.Severity != finding.Note }) {
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

// captureOf is what a recording is of: a module of a bench, where one is given.
type captureOf struct {
	display bench.Display
	bench   *bench.Bench // nil where none is given
	module  int
}

// capturedOf is the module that a recording is of; a usual one without a size where no bench is given.
func capturedOf(file, id string, std stdio) (of captureOf, err error) {
	if of.display = replay.Learnt(); file == "" {
		if id != "" {
			return of, wrong(exitUsage, "--module %s: it is of a bench; expected --bench BENCH.json", id)
		}
		return of, nil
	}
	b, err := readBench(file, std.in)
	if err != nil {
		return of, err
	}
	if of.module, err = moduleOf(&b, id); err != nil {
		return of, err
	}
	of.bench, of.display = &b, b.Modules[of.module].Display
	return of, nil
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

// writeLevels writes what stood on the header's pins.
func (r *recorded) writeLevels(m module.Module, until time.Duration, w io.Writer) error {
	var names []string
	for l := range link.Lines {
		names = append(names, l.String())
	}
	return vcd.WriteLevels(w, names, func(level func(time.Duration, uint64)) error {
		_, err := r.Play(m, until, replay.Watch{Pins: func(at time.Duration, p link.Pins) { level(at, uint64(p)) }})
		return err
	})
}
