// Command slatebell serves the application, and gives build scripts the same
// core: sequence prints the bytes of a screen, decode shows what bytes do.
package main

import (
	"bytes"
	"encoding/json"
	"errors"
	"flag"
	"fmt"
	"io"
	"os"
	"strings"
)

// Exit codes, documented in usage.
const (
	exitOK     = 0
	exitFailed = 1
	exitUsage  = 2
	exitUnfit  = 3
)

const usage = `Slate Bell: screens for HD44780-compatible character modules.

  slatebell [serve] [--addr 127.0.0.1:8414] [--data DIR] [--demo]
      Serve the application. This is the default command.
  slatebell sequence --text $'line one\nline two' [flags]
      Print the steps that show a text: initialise, then write.
  slatebell decode [flags] < wire.hex
      Play wire bytes, in hexadecimal from standard input, into a module that
      has just been powered up, and print its glass.
  slatebell openapi
      Print the API's OpenAPI document.
  slatebell schema [--of program|bench]
      Print the JSON Schema of what sequence --format json prints, or of a bench.
  slatebell COMMAND --help
      Print the flags of a command.

Exit codes: 0 done; 1 failed; 2 wrong flags or unreadable input; 3 the text does
not fit the module or its ROM lacks a character.
`

// command is a subcommand: it gets the arguments after its name.
type command func(args []string, std stdio) error

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
	os.Exit(run(os.Args[1:], stdio{os.Stdin, os.Stdout, os.Stderr}))
}

// run carries out a command line and returns its exit code.
func run(args []string, std stdio) int {
	commands := map[string]command{"serve": serve, "sequence": printSequence, "decode": decode, "openapi": printOpenAPI, "schema": printSchema}
	name := "serve"
	if len(args) > 0 && !strings.HasPrefix(args[0], "-") {
		name, args = args[0], args[1:]
	}
	do, ok := commands[name]
	switch {
	case name == "help" || len(args) > 0 && name == "serve" && (args[0] == "--help" || args[0] == "-h" || args[0] == "-help"):
		fmt.Fprint(std.out, usage)
		if name == "help" {
			return exitOK
		}
		fmt.Fprintln(std.out, "\nFlags of serve:")
	case !ok:
		fmt.Fprintf(std.err, "slatebell: %q is no command; expected serve, sequence, decode, openapi or schema (slatebell help explains them)\n", name)
		return exitUsage
	}
	err := do(args, std)
	var c coded
	switch {
	case err == nil || errors.Is(err, flag.ErrHelp):
		return exitOK
	case errors.As(err, &c):
		fmt.Fprintf(std.err, "slatebell %s: %v\n", name, err)
		return c.code
	}
	fmt.Fprintf(std.err, "slatebell %s: %v\n", name, err)
	return exitFailed
}

// newFlags returns a flag set whose errors are ours to print.
func newFlags(name string) *flag.FlagSet {
	f := flag.NewFlagSet(name, flag.ContinueOnError)
	f.SetOutput(io.Discard)
	return f
}

// parse reads flags. Help goes to standard output; a bad flag is a usage error.
func parse(f *flag.FlagSet, args []string, std stdio) error {
	err := f.Parse(args)
	switch {
	case errors.Is(err, flag.ErrHelp):
		f.SetOutput(std.out)
		f.PrintDefaults()
		return err
	case err != nil:
		return wrong(exitUsage, "%w (slatebell %s --help lists the flags)", err, f.Name())
	case f.NArg() > 0:
		return wrong(exitUsage, "unexpected argument %q; values belong to flags, such as --text %q", f.Arg(0), f.Arg(0))
	}
	return nil
}

// writeIndented writes a JSON document for people and for version control.
func writeIndented(w io.Writer, doc []byte) error {
	var b bytes.Buffer
	if err := json.Indent(&b, doc, "", "  "); err != nil {
		return err
	}
	b.WriteByte('\n')
	_, err := b.WriteTo(w)
	return err
}
