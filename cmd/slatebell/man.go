//go:build man

package main

import (
	"os"
	"strconv"
	"time"

	"github.com/spf13/cobra"
	"github.com/spf13/cobra/doc"
)

// builders are commands for the release only: man writes the pages of the manual, which no program that is handed out has to carry.
func builders() []*cobra.Command {
	c := &cobra.Command{Use: "man DIR", Short: "Write the pages of the manual", Args: cobra.ExactArgs(1), Hidden: true}
	c.RunE = func(c *cobra.Command, args []string) error {
		seconds, err := strconv.ParseInt(os.Getenv("SOURCE_DATE_EPOCH"), 10, 64)
		if err != nil {
			return err
		}
		at := time.Unix(seconds, 0).UTC()
		c.Root().DisableAutoGenTag = true
		return doc.GenManTree(c.Root(), &doc.GenManHeader{Title: "SLATEBELL", Section: "1", Source: "Slate Bell " + version, Manual: "Slate Bell", Date: &at}, args[0])
	}
	return []*cobra.Command{c}
}
