package main

import (
	"bytes"
	"encoding/json"
	"io"

	"github.com/spf13/cobra"

	"slatebell/server/api"
)

func newSchema(std stdio) *cobra.Command {
	c := &cobra.Command{Use: "schema", Short: "Print the JSON Schema of an open format", Args: noArgs}
	of := c.Flags().String("of", "program", "document: program (what sequence --format json prints) or bench")
	choices(c, "of", "program", "bench")
	c.RunE = func(*cobra.Command, []string) error {
		doc, err := api.Schema(*of)
		if err != nil {
			return wrong(exitUsage, "%w", err)
		}
		return writeIndented(std.out, doc)
	}
	return c
}

func newOpenAPI(std stdio) *cobra.Command {
	return &cobra.Command{Use: "openapi", Short: "Print the API's OpenAPI document", Args: noArgs, RunE: func(*cobra.Command, []string) error {
		doc, err := api.OpenAPI()
		if err != nil {
			return err
		}
		return writeIndented(std.out, doc)
	}}
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
