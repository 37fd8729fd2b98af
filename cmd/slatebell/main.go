// Command slatebell serves the application, and gives build scripts the same
// core: sequence prints the bytes of a screen, decode shows what bytes do, check
// judges a bench.
package main

import (
	"errors"
	"fmt"
	"io"
	"os"
	"slices"
	"strings"

	"github.com/spf13/cobra"
	"github.com/spf13/pflag"

	"slatebell/core/finding"
	"slatebell/core/quoting"
)

// Exit codes, documented in usage.
const (
	exitOK     = 0
	exitFailed = 1
	exitUsage  = 2
	exitUnfit  = 3
)

const usage = `Slate Bell: screens for HD44780-compatible character modules.

Without a command it serves the application.

Exit codes: 0 done; 1 failed, or an error was found; 2 wrong flags or unreadable
input; 3 the text does not fit the module or its ROM lacks a character.`

// stdio is where a command reads and writes.
type stdio struct {
	in       io.Reader
	out, err io.Writer
}

// coded is an error with an exit code of its own.
type coded struct {
	code int
	err  error
}

func (e coded) Error() string { return e.err.Error() }
func (e coded) Unwrap() error { return e.err }

// wrong returns an error of the given exit code.
func wrong(code int, format string, args ...any) error {
	return coded{code, fmt.Errorf(format, args...)}
}

func main() {
	os.Exit(execute(os.Args[1:], stdio{os.Stdin, os.Stdout, os.Stderr}))
}

// execute carries out a command line and returns its exit code.
func execute(args []string, std stdio) int {
	root := newRoot(std)
	root.SetArgs(longFlags(root, args))
	cmd, err := root.ExecuteC()
	if err == nil {
		return exitOK
	}
	if text := err.Error(); text != "" {
		fmt.Fprintf(std.err, "%s: %s\n", cmd.CommandPath(), quoting.Lines(text)) // names come from documents that others have made
	}
	var c coded
	if errors.As(err, &c) {
		return c.code
	}
	return exitFailed
}

func newRoot(std stdio) *cobra.Command {
	root := newServe(std)
	root.Version = versionText()
	root.SetVersionTemplate("slatebell {{.Version}}\n")
	root.Use, root.Short, root.Long = "slatebell", "Screens for HD44780-compatible character modules", usage
	root.Args = noCommand
	root.SilenceErrors, root.SilenceUsage = true, true
	root.SetIn(std.in)
	root.SetOut(std.out)
	root.SetErr(std.err)
	root.SetFlagErrorFunc(func(c *cobra.Command, err error) error {
		return wrong(exitUsage, "%w (%s --help lists the flags)", err, c.CommandPath())
	})
	root.AddCommand(newServe(std), newSequence(std), newTransition(std), newDecode(std), newBench(std), newCheck(std), newScan(std), newAddresses(std), newWires(std), newExport(std), newPlay(std), newDiagnose(std), newRead(std), newCapture(std), newPorts(std), newLive(std), newBridge(std), newMount(std), newGlyph(std), newBenches(std), newImport(std), newBackup(std), newRestore(std), newDoctor(std), newReport(std), newSchema(std), newOpenAPI(std))
	root.AddCommand(builders()...)
	return root
}

// noCommand refuses a word that is no command.
func noCommand(c *cobra.Command, args []string) error {
	if len(args) == 0 {
		return nil
	}
	var names []string
	for _, sub := range c.Commands() {
		if sub.IsAvailableCommand() {
			names = append(names, sub.Name())
		}
	}
	slices.Sort(names)
	return wrong(exitUsage, "%q is no command; expected one of %s (slatebell help explains them)", args[0], strings.Join(names, ", "))
}

// noArgs refuses arguments, for commands that are told everything by flags.
func noArgs(_ *cobra.Command, args []string) error {
	if len(args) > 0 {
		return wrong(exitUsage, "unexpected argument %q; values belong to flags, such as --text %q", args[0], args[0])
	}
	return nil
}

// oneFile asks for one argument, a file's name.
func oneFile(what string) cobra.PositionalArgs {
	return func(c *cobra.Command, args []string) error {
		if len(args) != 1 {
			return wrong(exitUsage, "%d arguments; expected %s: %s", len(args), what, c.UseLine())
		}
		return nil
	}
}

// longFlags writes flags that are given with one dash, such as -geometry, with
// two, as every flag was read before; what follows a flag that wants a value is
// left as it is.
func longFlags(root *cobra.Command, args []string) []string {
	cmd, _, err := root.Find(args)
	if err != nil {
		cmd = root
	}
	out := slices.Clone(args)
	for i := 0; i < len(out) && out[i] != "--"; i++ {
		name, _, valued := strings.Cut(strings.TrimLeft(out[i], "-"), "=")
		var flag *pflag.Flag
		if strings.HasPrefix(out[i], "-") && len(name) > 1 {
			flag = cmd.Flags().Lookup(name)
		}
		if flag == nil {
			continue
		}
		out[i] = "--" + strings.TrimLeft(out[i], "-")
		if !valued && flag.NoOptDefVal == "" {
			i++
		}
	}
	return out
}

// choices completes a flag in shells.
func choices(c *cobra.Command, flag string, words ...string) {
	c.RegisterFlagCompletionFunc(flag, cobra.FixedCompletions(words, cobra.ShellCompDirectiveNoFileComp)) // fails for a flag that is not there
}

// formatFlag adds --format, and returns a function that reads it.
func formatFlag(c *cobra.Command, formats ...string) func() (string, error) {
	list := strings.Join(formats[:len(formats)-1], ", ") + " or " + formats[len(formats)-1]
	format := c.Flags().String("format", formats[0], list)
	choices(c, "format", formats...)
	return func() (string, error) {
		if !slices.Contains(formats, *format) {
			return "", wrong(exitUsage, "format %q; expected %s", *format, list)
		}
		return *format, nil
	}
}

// printFindings writes a line for each finding: its severity, its code, and what
// was found.
func printFindings(w io.Writer, list []finding.Finding) {
	for _, f := range list {
		fmt.Fprintf(w, "%s %s: %s\n", f.Severity, f.Code, quoting.Line(f.What))
	}
}
