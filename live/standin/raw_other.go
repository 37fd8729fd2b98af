//go:build !linux && !darwin

package standin

import "os"

func raw(*os.File) error { return nil }

func pollable(f *os.File) (*os.File, error) { return f, nil }
