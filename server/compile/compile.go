// Package compile builds a program that was written with this machine's own avr-gcc: what a
// maker's `make` will say, with the bytes that it takes.
//
// Nothing but the compiler is run, with arguments that are fixed: lines of a bench's own sections are
// compiled, never carried out.
package compile

import (
	"bytes"
	"context"
	"debug/elf"
	"errors"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"time"
)

// Limits of one build.
const (
	Longest = 30 * time.Second
	most    = 64 << 10 // bytes of what the compiler says
)

// File is a source file.
type File struct{ Name, Text string }

// Result is what came of a build.
type Result struct {
	Built      bool
	Flash, RAM int    // text and data, data and bss, in bytes
	Said       string // warnings and errors
}

// Compiler is an avr-gcc.
type Compiler struct{ path string }

// Find looks for this machine's avr-gcc.
func Find() (*Compiler, error) {
	path, err := exec.LookPath("avr-gcc")
	if err != nil {
		return nil, errors.New("avr-gcc is not on this machine; on Debian it comes with gcc-avr and avr-libc")
	}
	return &Compiler{path}, nil
}

// Build compiles files in a directory of their own, which is gone afterwards, to the program of a name. Its error says what
// kept it from compiling at all; what the compiler finds wrong is in the result.
func (c *Compiler) Build(ctx context.Context, files []File, args []string, program string) (*Result, error) {
	dir, err := os.MkdirTemp("", "slatebell-build-")
	if err != nil {
		return nil, err
	}
	defer os.RemoveAll(dir)
	for _, f := range files {
		if err := os.WriteFile(filepath.Join(dir, filepath.Base(f.Name)), []byte(f.Text), 0o600); err != nil {
			return nil, err
		}
	}
	ctx, cancel := context.WithTimeout(ctx, Longest)
	defer cancel()
	cmd := exec.CommandContext(ctx, c.path, append([]string{"-fdiagnostics-color=never"}, args...)...)
	cmd.Dir = dir
	cmd.Env = []string{"PATH=" + os.Getenv("PATH"), "HOME=" + dir, "TMPDIR=" + dir, "LC_ALL=C"}
	cmd.WaitDelay = time.Second
	wholeGroup(cmd)
	said := &bounded{}
	cmd.Stdout, cmd.Stderr = said, said
	err = cmd.Run()
	out := &Result{Built: err == nil, Said: strings.ReplaceAll(said.String(), dir+"/", "")}
	var failed *exec.ExitError
	switch {
	case ctx.Err() != nil:
		return nil, fmt.Errorf("the compiler was stopped: %w", context.Cause(ctx))
	case errors.As(err, &failed):
		return out, nil
	case err != nil:
		return nil, err
	}
	out.Flash, out.RAM, err = sizes(filepath.Join(dir, program))
	return out, err
}

// sizes adds up what a program keeps in flash and in RAM.
func sizes(path string) (flash, ram int, err error) {
	f, err := elf.Open(path)
	if err != nil {
		return 0, 0, err
	}
	defer f.Close()
	for _, s := range f.Sections {
		if s.Flags&elf.SHF_ALLOC == 0 {
			continue
		}
		if s.Type != elf.SHT_NOBITS {
			flash += int(s.Size)
		}
		if s.Flags&elf.SHF_WRITE != 0 {
			ram += int(s.Size)
		}
	}
	return flash, ram, nil
}

// bounded keeps what is written as far as its limit.
type bounded struct {
	bytes.Buffer
	cut bool
}

func (b *bounded) Write(p []byte) (int, error) {
	if room := most - b.Len(); len(p) > room {
		if !b.cut {
			b.cut = true
			b.Buffer.Write(p[:room])
			b.WriteString("\n… (more)\n")
		}
		return len(p), nil
	}
	return b.Buffer.Write(p)
}
