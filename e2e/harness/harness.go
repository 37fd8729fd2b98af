// Package harness starts the real program and a headless Chromium for the tests
// of the interface and for the program that takes docs/screenshots.
package harness

import (
	"bufio"
	"compress/gzip"
	"context"
	"errors"
	"fmt"
	"io"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"syscall"
	"time"

	"github.com/chromedp/chromedp"
)

// Build builds the program into a directory and returns its path. With RACE in the environment it is built with the race detector, and ends
// where that finds something.
func Build(dir string) (string, error) {
	out := filepath.Join(dir, "slatebell")
	args := []string{"build", "-o", out}
	if os.Getenv("RACE") != "" {
		os.Setenv("GORACE", "halt_on_error=1")
		args = append(args, "-race")
	}
	cmd := exec.Command("go", append(args, "slatebell/cmd/slatebell")...)
	if text, err := cmd.CombinedOutput(); err != nil {
		return "", fmt.Errorf("building slatebell: %w\n%s", err, text)
	}
	return out, nil
}

// Server is a running program.
type Server struct {
	URL string // without a slash at its end
	cmd *exec.Cmd
}

var printedURL = regexp.MustCompile(`http://[^/]+`)

// Serve starts the program on a free loopback port, or on a given address, and
// waits until it says where it is.
func Serve(binary, dataDir, addr string, args ...string) (*Server, error) {
	if addr == "" {
		addr = "127.0.0.1:0"
	}
	cmd := exec.Command(binary, append([]string{"serve", "--addr", addr, "--data", dataDir, "--no-browser"}, args...)...)
	cmd.Stderr = os.Stderr
	out, err := cmd.StdoutPipe()
	if err != nil {
		return nil, err
	}
	if err := cmd.Start(); err != nil {
		return nil, fmt.Errorf("starting %s: %w", binary, err)
	}
	line, err := bufio.NewReader(out).ReadString('\n')
	url := printedURL.FindString(line)
	if err != nil || url == "" {
		cmd.Process.Kill()
		return nil, fmt.Errorf("the program did not say where it is: %q, %v", line, err)
	}
	go io.Copy(io.Discard, out)
	return &Server{URL: url, cmd: cmd}, nil
}

// Begin stores a bench with one module, as the first of a program that has none.
func (s *Server) Begin() error {
	res, err := http.Post(s.URL+"/api/benches/new", "application/json", nil)
	if err != nil {
		return fmt.Errorf("beginning a bench: %w", err)
	}
	res.Body.Close()
	if res.StatusCode != http.StatusCreated {
		return fmt.Errorf("beginning a bench: %s", res.Status)
	}
	return nil
}

// Addr is where the server listens.
func (s *Server) Addr() string { return strings.TrimPrefix(s.URL, "http://") }

// Resident is the program's resident memory in megabytes, as Linux tells it; 0
// where it does not.
func (s *Server) Resident() float64 { return s.status("VmRSS:") }

// Peak is the most that Resident was.
func (s *Server) Peak() float64 { return s.status("VmHWM:") }

// status reads a line of the process's status, given there in kB.
func (s *Server) status(line string) float64 {
	status, err := os.ReadFile(fmt.Sprintf("/proc/%d/status", s.cmd.Process.Pid))
	if err != nil {
		return 0
	}
	_, rest, _ := strings.Cut(string(status), line)
	var kB float64
	fmt.Sscan(rest, &kB) // 0 where it is not there
	return kB / 1000
}

// Stop sends SIGTERM and waits; it reports an exit that was not clean.
func (s *Server) Stop() error {
	if err := s.cmd.Process.Signal(syscall.SIGTERM); err != nil {
		return err
	}
	done := make(chan error, 1)
	go func() { done <- s.cmd.Wait() }()
	select {
	case err := <-done:
		return err
	case <-time.After(10 * time.Second):
		s.cmd.Process.Kill()
		return errors.New("the program did not stop within 10 s of SIGTERM")
	}
}

// Kill ends the program at once, as a power cut would.
func (s *Server) Kill() error {
	if err := s.cmd.Process.Kill(); err != nil {
		return err
	}
	s.cmd.Wait() // killed is no clean exit
	return nil
}

// Command runs the program with a standard input to its end. An exit code other
// than 0 and 1 is an error.
func Command(ctx context.Context, binary, stdin string, args ...string) (out, errs string, err error) {
	var stdout, stderr strings.Builder
	cmd := exec.CommandContext(ctx, binary, args...)
	cmd.Stdin, cmd.Stdout, cmd.Stderr = strings.NewReader(stdin), &stdout, &stderr
	err = cmd.Run()
	if exit := (*exec.ExitError)(nil); errors.As(err, &exit) && exit.ExitCode() == 1 {
		err = nil
	}
	if err != nil {
		err = fmt.Errorf("slatebell %s: %w: %s", strings.Join(args, " "), err, &stderr)
	}
	return stdout.String(), stderr.String(), err
}

// chromium is Debian's headless Chromium, which takes a third less of the processor than the whole
// browser, or that one where it is the only one.
func chromium() string {
	for _, name := range []string{"chromium-headless-shell", "chromium"} {
		if path, err := exec.LookPath(name); err == nil {
			return path
		}
	}
	return "chromium" // which the error then names
}

// Browser returns a context with a headless Chromium of its own, a new profile
// in dir, and a window of the given size in CSS pixels; more are further flags of its.
func Browser(parent context.Context, dir string, width, height int, more ...chromedp.ExecAllocatorOption) (context.Context, context.CancelFunc) {
	options := append(chromedp.DefaultExecAllocatorOptions[:],
		chromedp.ExecPath(chromium()),
		chromedp.UserDataDir(dir),
		chromedp.WindowSize(width, height),
		chromedp.NoSandbox,
		chromedp.DisableGPU,
		chromedp.Flag("disable-background-networking", true),
		chromedp.Flag("disable-component-update", true),
		chromedp.Flag("disable-quic", true),
		chromedp.Flag("disable-sync", true),
		chromedp.Flag("blink-settings", "preferredColorScheme=0"), // a system that is dark
	)
	alloc, cancelAlloc := chromedp.NewExecAllocator(parent, append(options, more...)...)
	ctx, cancel := chromedp.NewContext(alloc)
	return ctx, func() {
		cancel()
		cancelAlloc()
	}
}

// Gzipped returns how many bytes a text takes compressed.
func Gzipped(r io.Reader) (int, error) {
	var size counter
	w := gzip.NewWriter(&size)
	if _, err := io.Copy(w, r); err != nil {
		return 0, err
	}
	err := w.Close()
	return int(size), err
}

// counter counts what is written to it.
type counter int

func (c *counter) Write(p []byte) (int, error) {
	*c += counter(len(p))
	return len(p), nil
}
