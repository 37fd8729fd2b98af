package main

import (
	"encoding/json"
	"fmt"
	"io"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"slatebell/core/prove/diagnose"
	"slatebell/core/prove/fault"
	"slatebell/core/prove/run"
	"slatebell/core/prove/testbed"
	"slatebell/core/quoting"
	"slatebell/core/text/screen"
	"slatebell/core/wire/glass"
)

// listed is how many causes are printed.
const listed = 20

func newDiagnose(std stdio) *cobra.Command {
	c := &cobra.Command{
		Use: "diagnose [BENCH.json --module ID]", Short: "Find what is wrong from what the glass shows, and what to test next",
		Long: "Find what is wrong from what the glass shows. Every fault of the module's own catalogue is played into\nthe rig; those that show what is seen are printed, the likeliest first, then the test that tells most\n" +
			"about them for its minutes. What is seen is typed row by row as it stands there (\\xHH is a code, \\\\ a\nbackslash, " + string(diagnose.Block) + " a solid block, " + string(diagnose.Unreadable) + " a character that cannot be typed), or is one of the words blank, row-of-blocks,\nall-blocks, shaded and faint.",
		Example: "  slatebell diagnose --link parallel4 --sent $'Tide 3.2 m\\nHigh 14:05' --seen blank\n  slatebell diagnose boathouse.json --module gate --sent 'Tide 3.2 m' --seen 'Tide 3.2ε'", Args: cobra.MaximumNArgs(1),
	}
	m := addModuleFlags(c)
	id := c.Flags().String("module", "", "id of the bench's module; its only one where absent")
	sent := c.Flags().String("sent", "", `the text that is sent, a row a line; \xHH is a code. Of a bench: its first screen where absent`)
	seen := c.Flags().String("seen", "", "what the glass shows: the text, or blank, row-of-blocks, all-blocks, shaded or faint")
	format := formatFlag(c, "text", "json")
	choices(c, "seen", string(glass.Blank), string(glass.BlockRow), string(glass.AllBlocks), string(glass.Shaded), string(glass.Faint))
	c.RunE = func(_ *cobra.Command, args []string) error {
		how, err := format()
		if err != nil {
			return err
		}
		if !c.Flags().Changed("seen") {
			return wrong(exitUsage, "--seen is missing; expected the text on the glass, or blank, row-of-blocks, all-blocks, shaded or faint")
		}
		if len(args) == 0 && !c.Flags().Changed("sent") {
			return wrong(exitUsage, "--sent is missing; expected the text that the program sends")
		}
		subject, err := subjectOf(args, m, *id, *sent, c.Flags().Changed("sent"), std.in)
		if err != nil {
			return err
		}
		x, err := fault.New(subject, nil)
		if err != nil {
			return wrong(exitUsage, "%w", err)
		}
		a, err := answer(diagnose.New(x, nil), seenOf(*seen))
		if err != nil {
			return wrong(exitUsage, "--seen: %w", err)
		}
		if how == "json" {
			e := json.NewEncoder(std.out)
			e.SetIndent("", "  ")
			return e.Encode(a)
		}
		a.print(std.out)
		return nil
	}
	return c
}

// subjectOf returns what faults are made in: a module of a bench, or the one that the
// flags describe.
func subjectOf(args []string, m *moduleFlags, id, sent string, said bool, in io.Reader) (*fault.Subject, error) {
	if len(args) == 0 {
		if id != "" {
			return nil, wrong(exitUsage, "--module %s: it is a module of a bench; expected BENCH.json before it", id)
		}
		setup, err := m.setup(screen.Parse(sent))
		if err != nil {
			return nil, err
		}
		return run.Subject(&setup)
	}
	b, err := readBench(args[0], in)
	if err != nil {
		return nil, err
	}
	at, err := moduleOf(&b, id)
	if err != nil {
		return nil, err
	}
	s, err := run.SubjectOf(&b, testbed.At{Module: at})
	if err == nil && said {
		s.Text.Rows, s.Text.Fields = screen.Parse(sent), nil
	}
	return s, err
}

// seenOf reads --seen.
func seenOf(text string) *diagnose.Seen {
	if c := glass.Class(text); c != glass.Characters && slices.Contains(glass.Classes, c) {
		return &diagnose.Seen{Class: c}
	}
	return &diagnose.Seen{Typed: screen.Parse(text)}
}

// found is what diagnose prints.
type found struct {
	Doubt  string          `json:"doubt,omitempty"` // nothing explains well what was typed
	Causes []diagnose.Told `json:"causes"`
	Test   *nextTest       `json:"test"` // null where no test tells more
}

// nextTest is the test that tells most for its minutes.
type nextTest struct {
	ID       string    `json:"id"`
	Title    string    `json:"title"`
	Do       string    `json:"do"`
	Text     []string  `json:"text,omitempty"` // the rows to send
	Minutes  float64   `json:"minutes"`
	Meter    bool      `json:"meter,omitempty"`
	Outcomes []outcome `json:"outcomes"`
}

type outcome struct {
	Sees   string   `json:"sees"`
	Chance float64  `json:"chance"`
	Causes []string `json:"causes"` // ids, the likeliest first
}

// answer ranks the causes and chooses the next test.
func answer(f *diagnose.Finder, s *diagnose.Seen) (*found, error) {
	r, err := f.Rank(s)
	if err != nil {
		return nil, err
	}
	out := &found{Doubt: r.Doubt(s), Causes: []diagnose.Told{}}
	for _, c := range r.Causes[:min(len(r.Causes), listed)] {
		out.Causes = append(out.Causes, f.Tell(s, c))
	}
	next, err := f.Next(r, nil)
	if err != nil || len(next) == 0 {
		return out, err
	}
	p := &next[0]
	out.Test = &nextTest{ID: p.Test.ID, Title: p.Test.Title, Do: p.Test.Do, Minutes: p.Test.Minutes, Meter: p.Test.Meter}
	if p.Test.ID == "text" {
		if out.Test.Text, err = f.Index.TestText(); err != nil {
			return nil, err
		}
		out.Test.Do = "Send this text, and type what you see."
	}
	for _, b := range p.Branches {
		o := outcome{Sees: f.Sees(b.Outcome), Chance: b.Chance}
		for _, i := range b.Causes[:min(len(b.Causes), 5)] {
			o.Causes = append(o.Causes, f.Tell(s, r.Causes[i]).ID)
		}
		out.Test.Outcomes = append(out.Test.Outcomes, o)
	}
	return out, nil
}

func (a *found) print(w io.Writer) {
	if a.Doubt != "" {
		fmt.Fprintf(w, "%s\n\n", a.Doubt)
	}
	for _, c := range a.Causes {
		fmt.Fprintf(w, "%5.1f %%  %s  %s: %s\n         %s %s\n", 100*c.Share, c.Code, quoting.Line(c.Where), quoting.Line(c.What), quoting.Line(c.Why), quoting.Line(c.Fix))
	}
	t := a.Test
	if t == nil {
		fmt.Fprintln(w, "\nno test tells more")
		return
	}
	fmt.Fprintf(w, "\nnext, %g min: %s. %s\n", t.Minutes, t.Title, t.Do)
	for _, row := range t.Text {
		fmt.Fprintf(w, "         |%s|\n", row)
	}
	for _, o := range t.Outcomes[:min(len(t.Outcomes), 10)] {
		fmt.Fprintf(w, "%5.1f %%  %s: %s\n", 100*o.Chance, o.Sees, strings.Join(o.Causes, ", "))
	}
}
