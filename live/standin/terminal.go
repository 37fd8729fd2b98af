package standin

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"syscall"

	"github.com/creack/pty"
)

// Terminal offers the stand-in on a pseudo-terminal, until the context ends: other programs open the name that told gets as
// they open a serial port. There are pseudo-terminals on Linux and macOS.
func (h *Host) Terminal(ctx context.Context, told func(name string)) error {
	near, far, err := pty.Open()
	if err != nil {
		return fmt.Errorf("opening a pseudo-terminal: %w", err)
	}
	defer near.Close()
	defer far.Close() // held open, so that the line outlives who opens it
	if err := raw(far); err != nil {
		return fmt.Errorf("setting up the pseudo-terminal: %w", err)
	}
	line, err := pollable(near)
	if err != nil {
		return fmt.Errorf("setting up the pseudo-terminal: %w", err)
	}
	defer line.Close()
	told(far.Name())
	context.AfterFunc(ctx, func() { line.Close() })
	err = h.Bridge().Serve(line)
	var gone *fs.PathError
	if ctx.Err() != nil || errors.As(err, &gone) && errors.Is(gone.Err, syscall.EIO) || errors.Is(err, os.ErrClosed) {
		return nil
	}
	return err
}
