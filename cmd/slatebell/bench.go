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
	"text/tabwriter"

	"github.com/spf13/cobra"

	"slatebell/core/bench"
	"slatebell/core/finding"
	"slatebell/core/prove/check"
	"slatebell/core/quoting"
	"slatebell/core/table/setup"
	"slatebell/formats/benchjson"
	"slatebell/server/builds"
	"slatebell/server/demo"
)

func newBench(std stdio) *cobra.Command {
	c := &cobra.Command{
		Use: "bench", Short: "Print a bench document to start from, or one that is stored",
		Long:    "Print a bench document to start from, or one that is stored. With --build, print one\nthat is laid, wired and playing: " + strings.Join(builds.IDs(), ", ") + ".",
		Example: "  slatebell bench --demo > boathouse.json\n  slatebell bench --stored 3 > mine.json\n  slatebell bench --build states --geometry 20x4 --link parallel4 --host ATmega2560 > slip.json", Args: noArgs,
	}
	withDemo := c.Flags().Bool("demo", false, "the demo's bench")
	stored := c.Flags().Uint("stored", 0, "number of a stored bench, as slatebell benches lists it")
	build := c.Flags().String("build", "", "id of a build of the gallery")
	table := setup.Beginning{Technology: "lcd"}
	c.Flags().StringVar(&table.Geometry, "geometry", "16x2", "of the build's module, such as 20x4")
	c.Flags().StringVar(&table.Link, "link", "backpack", "of the build: backpack, parallel4, parallel8 or shift")
	c.Flags().StringVar(&table.Host, "host", "ATmega328P", "of the build, by its part")
	data := dataFlag(c)
	c.MarkFlagsMutuallyExclusive("demo", "stored", "build")
	c.RunE = func(*cobra.Command, []string) error {
		b := bench.New("My bench")
		switch {
		case *withDemo:
			a := demo.Archive()
			return benchjson.WriteArchive(std.out, &a)
		case *build != "":
			var err error
			if !slices.Contains([]string{"backpack", "parallel4", "parallel8", "shift"}, table.Link) {
				return wrong(exitUsage, "link %q; expected backpack, parallel4, parallel8 or shift", table.Link)
			}
			if b, err = builds.Make(*build, table); err != nil {
				return wrong(exitUsage, "%w", err)
			}
		case c.Flags().Changed("stored"):
			db, err := openStore(*data)
			if err != nil {
				return err
			}
			defer db.Close()
			r, err := db.Get(*stored)
			if err != nil {
				return wrong(exitUsage, "bench %d: %w (slatebell benches lists those that are there)", *stored, err)
			}
			b = r.Bench
		}
		return benchjson.Write(std.out, &b)
	}
	return c
}

func newCheck(std stdio) *cobra.Command {
	c := &cobra.Command{
		Use: "check BENCH.json", Short: "Print what is found on all modules of a bench",
		Long: "Print what is found on all modules of a bench, - for standard input. The exit\ncode is 1 when a finding is an error. With --apply, print the bench with the\nfirst remedy of the first finding of that code applied instead.",
		Args: oneFile("a bench document"),
	}
	format := formatFlag(c, "text", "json")
	code := c.Flags().String("apply", "", "code of the finding whose first remedy is applied, such as screen.row-too-long")
	c.RunE = func(_ *cobra.Command, args []string) error {
		how, err := format()
		if err != nil {
			return err
		}
		a, err := readArchive(args[0], std.in)
		if err != nil {
			return err
		}
		found, err := check.Check(&a.Bench)
		if err != nil {
			return wrong(exitUsage, "%s: %w", args[0], err)
		}
		if c.Flags().Changed("apply") {
			return apply(std.out, &a, found, *code)
		}
		if how == "json" {
			enc := json.NewEncoder(std.out)
			enc.SetEscapeHTML(false)
			enc.SetIndent("", "  ")
			err = enc.Encode(append([]finding.Finding{}, found...))
		} else {
			err = printCheck(std.out, &a.Bench, found)
		}
		if err == nil && finding.Worst(found) == finding.Error {
			return coded{exitFailed, errors.New("")} // the findings have said it
		}
		return err
	}
	return c
}

// apply prints a bench with a remedy applied, and with its log.
func apply(w io.Writer, a *bench.Archive, found []finding.Finding, code string) error {
	var codes []string
	for _, f := range found {
		switch {
		case f.Code != code:
			codes = append(codes, f.Code)
		case len(f.Remedies) == 0:
			return wrong(exitUsage, "%s: %s No change of the bench settles it. %s", f.Code, f.What, f.Fix)
		default:
			mended, err := benchjson.Remedy(&a.Bench, f.Remedies[0])
			if err != nil {
				return fmt.Errorf("%s: %w", f.Remedies[0].Label, err)
			}
			return benchjson.WriteArchive(w, &bench.Archive{Bench: mended, Log: a.Log})
		}
	}
	if len(codes) == 0 {
		return wrong(exitUsage, "--apply %q: nothing is found on this bench", code)
	}
	return wrong(exitUsage, "--apply %q is not among what is found; expected one of %s", code, strings.Join(codes, ", "))
}

// printCheck writes findings for people: each with where it is and what to do.
func printCheck(w io.Writer, b *bench.Bench, found []finding.Finding) error {
	var text strings.Builder
	for _, f := range found {
		printFindings(&text, []finding.Finding{f})
		if f.Path != "" {
			fmt.Fprintf(&text, "    at %s%s\n", f.Path, quoting.Line(ofModule(b, f.Path)))
		}
		if f.Fix != "" {
			fmt.Fprintf(&text, "    %s\n", quoting.Line(f.Fix))
		}
		if len(f.Remedies) > 0 {
			fmt.Fprintf(&text, "    --apply %s: %s\n", f.Code, quoting.Line(f.Remedies[0].Label))
		}
	}
	if len(found) == 0 {
		text.WriteString("nothing found: every glass shows its screen, and no limit is broken\n")
	}
	_, err := io.WriteString(w, text.String())
	return err
}

// ofModule names the module that a pointer leads to.
func ofModule(b *bench.Bench, path string) string {
	rest, ok := strings.CutPrefix(path, "/modules/")
	index, _, _ := strings.Cut(rest, "/")
	i, err := strconv.Atoi(index)
	if !ok || err != nil || i < 0 || i >= len(b.Modules) {
		return ""
	}
	return fmt.Sprintf(" (%s)", b.Modules[i].Name)
}

// readBench reads a document from a file, or from standard input for "-".
func readBench(name string, in io.Reader) (bench.Bench, error) {
	a, err := readArchive(name, in)
	return a.Bench, err
}

// readArchive is readBench with the log.
func readArchive(name string, in io.Reader) (bench.Archive, error) {
	if name != "-" {
		f, err := os.Open(name)
		if err != nil {
			return bench.Archive{}, wrong(exitUsage, "%w; expected a bench document, such as slatebell bench prints", err)
		}
		defer f.Close()
		in = f
	}
	a, err := benchjson.ReadArchive(in)
	if err != nil {
		return bench.Archive{}, wrong(exitUsage, "%s: %w", name, err)
	}
	return a, nil
}

func newBenches(std stdio) *cobra.Command {
	c := &cobra.Command{Use: "benches", Short: "List the stored benches", Args: noArgs}
	data := dataFlag(c)
	c.RunE = func(*cobra.Command, []string) error {
		db, err := openStore(*data)
		if err != nil {
			return err
		}
		defer db.Close()
		records, err := db.List()
		if err != nil {
			return err
		}
		table := tabwriter.NewWriter(std.out, 0, 0, 2, ' ', 0)
		fmt.Fprintln(table, "number\tmodules\tlast change\tname")
		for _, r := range records {
			fmt.Fprintf(table, "%d\t%d\t%s\t%s\n", r.ID, len(r.Bench.Modules), r.Updated.Local().Format("2006-01-02 15:04"), quoting.Line(r.Bench.Name))
		}
		return table.Flush()
	}
	return c
}

func newImport(std stdio) *cobra.Command {
	c := &cobra.Command{
		Use: "import BENCH.json", Short: "Store a bench from a document of any version, - for standard input",
		Long: "Store a bench, with its log, from a document of any version, - for standard input. A document\nthat cannot be read is refused with what is wrong where, and nothing is stored.",
		Args: oneFile("a bench document"),
	}
	data := dataFlag(c)
	c.RunE = func(_ *cobra.Command, args []string) error {
		a, err := readArchive(args[0], std.in)
		if err != nil {
			return err
		}
		db, err := openStore(*data)
		if err != nil {
			return err
		}
		defer db.Close()
		r, err := db.Create(a.Bench, a.Log...)
		if err != nil {
			return err
		}
		_, err = fmt.Fprintf(std.out, "stored as bench %d\n", r.ID)
		return err
	}
	return c
}
