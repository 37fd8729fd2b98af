//go:build !man

package main

import "github.com/spf13/cobra"

// builders are commands for the release only.
func builders() []*cobra.Command { return nil }
