//go:build !unix

package compile

import "os/exec"

// wholeGroup does nothing where processes have no groups.
func wholeGroup(*exec.Cmd) {}
