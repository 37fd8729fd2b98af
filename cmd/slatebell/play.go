package main

import (
	"fmt"
	"io"
	"os"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"slatebell/core/bench"
	"slatebell/core/bench/show"
	"slatebell/core/part/charrom"
	"slatebell/core/place"
	"slatebell/core/ship/firmware"
	"slatebell/core/ship/play"
	"slatebell/core/table/pinout"
	"slatebell/formats/eventcsv"
)

func newPlay(std stdio) *cobra.Command {
	c := &cobra.Command{
		Use: "play BENCH.json --module ID --events FILE.csv", Short: "Play a module's show, and print the glass after every change",
		Long: "Play a module's show by events, a line each: time_ms,input,value, in the order of their times.\nThe input is its id; the value press or release (1 or 0) for a button, +1 or -1 for a counter, a\n" +
			"number for a signal; for a serial line the text that begins to come then, with \\n, \\r, \\f, \\\\ and\n\\xHH. Time 0 is when the module has been initialised. As text the glass is printed\nafter every change, with the milliseconds at which it is done, and its cursor where one is seen;\nas csv or vcd the bytes; changes (CSV) and session (ZIP) are what an analyser would record of them.",
		Example: "  slatebell play boathouse.json --module gate --events evening.csv --until 60000", Args: oneFile("a bench document"),
	}
	id := c.Flags().String("module", "", "id of the module; its only one where absent")
	name := c.Flags().String("events", "", "file of events, - for standard input; none where absent")
	until := c.Flags().Int64("until", 0, "milliseconds; 5 s after the last event where absent")
	format := formatFlag(c, "text", "csv", "vcd", "changes", "session")
	c.RunE = func(_ *cobra.Command, args []string) error {
		how, err := format()
		if err != nil {
			return err
		}
		b, err := readBench(args[0], std.in)
		if err != nil {
			return err
		}
		at, err := moduleOf(&b, *id)
		if err != nil {
			return err
		}
		events, err := readEvents(*name, &b.Modules[at], std.in)
		if err != nil {
			return err
		}
		if !c.Flags().Changed("until") {
			*until = 5000
			if n := len(events); n > 0 {
				*until += events[n-1].At
			}
		}
		if *until < 0 || *until > maxPlayed {
			return wrong(exitUsage, "--until %d; expected 0–%d ms", *until, int64(maxPlayed))
		}
		printFindings(std.err, show.Check(&b, at))
		played, mod, err := playModule(&b, at, events, *until)
		if err != nil {
			return wrong(exitUsage, "%s: %w", args[0], err)
		}
		if played.Dropped+played.Lost > 0 {
			behind, err := play.Judge(&b, at, events, *until, nil)
			if err != nil {
				return err
			}
			printFindings(std.err, behind)
		}
		switch how {
		case "csv", "vcd", "changes", "session":
			return programWriters[how](std.out, played.Program)
		}
		for i := range played.Frames {
			printFrame(std.out, &played.Frames[i], mod.Display.ROM)
		}
		return nil
	}
	return c
}

// maxPlayed bounds how long is played: a day.
const maxPlayed = 24 * 3600 * 1000

// readEvents reads the events of a module's inputs.
func readEvents(name string, m *bench.Module, in io.Reader) ([]show.Event, error) {
	if name == "" {
		return nil, nil
	}
	if name != "-" {
		f, err := os.Open(name)
		if err != nil {
			return nil, wrong(exitUsage, "--events: %w", err)
		}
		defer f.Close()
		in = f
	}
	events, err := eventcsv.Read(in, m.Show.Inputs)
	if err != nil {
		return nil, wrong(exitUsage, "--events: %w", err)
	}
	return events, nil
}

// playModule plays a module of a bench.
func playModule(b *bench.Bench, at int, events []show.Event, until int64) (*play.Playing, *firmware.Module, error) {
	pinned := pinout.Pinned(b)
	im, err := firmware.New(&pinned, at)
	if err != nil {
		return nil, nil, err
	}
	played, err := play.Play(&im.Modules[0], events, until)
	return played, &im.Modules[0], err
}

// printFrame prints when the glass has changed, its rows between bars, and where its cursor is seen;
// a character that has none in Unicode is an escape.
func printFrame(w io.Writer, f *play.Frame, rom *charrom.ROM) {
	fmt.Fprintf(w, "%.3f ms", float64(f.Done)/float64(time.Millisecond))
	if f.Waited > 0 {
		fmt.Fprintf(w, ", %.3f ms late", float64(f.Waited)/float64(time.Millisecond))
	}
	if f.Dropped > 0 {
		fmt.Fprintf(w, ", %d overtaken", f.Dropped)
	}
	if !f.Glass.On {
		fmt.Fprintln(w, ", off")
		return
	}
	fmt.Fprintln(w)
	for r := range f.Glass.Rows {
		var row strings.Builder
		for _, c := range f.Glass.Cells[r*f.Glass.Cols : (r+1)*f.Glass.Cols] {
			if ch, ok := rom.Rune(c.Code); ok {
				row.WriteRune(ch)
			} else {
				fmt.Fprintf(&row, `\x%02X`, c.Code)
			}
		}
		fmt.Fprintf(w, "|%s|\n", row.String())
	}
	if c := f.Glass.Cursor; c.Line || c.Block {
		looks := map[bool]string{false: "underline", true: "blinking block"}[c.Block]
		fmt.Fprintf(w, "cursor: %s at %s\n", looks, place.Cell(c.Row, c.Col))
	}
}
