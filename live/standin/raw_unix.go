//go:build linux || darwin

package standin

import (
	"os"
	"syscall"

	"golang.org/x/term"
)

// raw lets bytes pass as they are.
func raw(f *os.File) error {
	_, err := term.MakeRaw(int(f.Fd()))
	return err
}

// pollable returns the same file in such a way that to close it ends a read.
func pollable(f *os.File) (*os.File, error) {
	fd, err := syscall.Dup(int(f.Fd()))
	if err != nil {
		return nil, err
	}
	if err := syscall.SetNonblock(fd, true); err != nil {
		return nil, err
	}
	return os.NewFile(uintptr(fd), f.Name()), nil
}
