// Package compile builds a program that was written with this machine's own avr-gcc: what a
// maker's `make` will say, with the bytes that it takes; and sends one to a board's loader, as `make upload` does.
//
// Nothing but the compiler, objcopy and avrdude is run, without a shell and with arguments that are fixed: lines of a bench's own
// sections are compiled, never carried out.
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
	s, err := openShop(files)
	if err != nil {
		return nil, err
	}
	defer s.close()
	ctx, cancel := context.WithTimeout(ctx, Longest)
	defer cancel()
	return s.build(ctx, c, args, program)
}

// build compiles what lies in the shop.
func (s *shop) build(ctx context.Context, c *Compiler, args []string, program string) (*Result, error) {
	built, err := s.run(ctx, c.path, append([]string{"-fdiagnostics-color=never"}, args...)...)
	out := &Result{Built: built, Said: s.says()}
	if err != nil || !built {
		return out, err
	}
	out.Flash, out.RAM, err = sizes(filepath.Join(s.dir, program))
	return out, err
}

// shop is a directory of its own in which tools of this machine are run.
type shop struct {
	dir  string
	said bounded
}

func openShop(files []File) (*shop, error) {
	dir, err := os.MkdirTemp("", "slatebell-build-")
	if err != nil {
		return nil, err
	}
	s := &shop{dir: dir}
	for _, f := range files {
		if err := os.WriteFile(filepath.Join(dir, filepath.Base(f.Name)), []byte(f.Text), 0o600); err != nil {
			s.close()
			return nil, err
		}
	}
	return s, nil
}

func (s *shop) close() { os.RemoveAll(s.dir) }

// says is what the tools have said so far.
func (s *shop) says() string { return strings.ReplaceAll(s.said.String(), s.dir+"/", "") }

// run runs a tool, and reports whether it found all well. Its error says why it could not be run to its end.
func (s *shop) run(ctx context.Context, tool string, args ...string) (well bool, err error) {
	cmd := exec.CommandContext(ctx, tool, args...)
	cmd.Dir = s.dir
	cmd.Env = []string{"PATH=" + os.Getenv("PATH"), "HOME=" + s.dir, "TMPDIR=" + s.dir, "LC_ALL=C"}
	cmd.WaitDelay = time.Second
	wholeGroup(cmd)
	cmd.Stdout, cmd.Stderr = &s.said, &s.said
	err = cmd.Run()
	var failed *exec.ExitError
	switch {
	case ctx.Err() != nil:
		return false, fmt.Errorf("%s was stopped: %w", filepath.Base(tool), context.Cause(ctx))
	case errors.As(err, &failed):
		return false, nil
	}
	return err == nil, err
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
