//go:build unix

package compile

import (
	"os/exec"
	"syscall"
)

// wholeGroup has the passes that the compiler starts end with it.
func wholeGroup(cmd *exec.Cmd) {
	cmd.SysProcAttr = &syscall.SysProcAttr{Setpgid: true}
	cmd.Cancel = func() error { return syscall.Kill(-cmd.Process.Pid, syscall.SIGKILL) }
}
