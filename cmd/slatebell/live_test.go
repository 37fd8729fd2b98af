package main

import (
	"context"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"testing"
	"time"

	"slatebell/core/bench"
	"slatebell/core/prove/testbed"
	"slatebell/formats/benchjson"
	"slatebell/live/drive"
	"slatebell/live/standin"
	"slatebell/server/demo"
)

// lines is what a command has printed so far.
type lines struct {
	mu   sync.Mutex
	text strings.Builder
}

func (l *lines) Write(data []byte) (int, error) {
	l.mu.Lock()
	defer l.mu.Unlock()
	return l.text.Write(data)
}

func (l *lines) String() string {
	l.mu.Lock()
	defer l.mu.Unlock()
	return l.text.String()
}

// waits waits until all of some texts were printed.
func (l *lines) waits(t *testing.T, for_ ...string) {
	t.Helper()
	for end := time.Now().Add(20 * time.Second); ; time.Sleep(5 * time.Millisecond) {
		missing := ""
		for _, text := range for_ {
			if !strings.Contains(l.String(), text) {
				missing = text
			}
		}
		if missing == "" {
			return
		}
		if time.Now().After(end) {
			t.Fatalf("it does not say %q, but:\n%s", missing, l)
		}
	}
}

// demoFile writes the demo bench.
func demoFile(t *testing.T) (string, bench.Bench) {
	t.Helper()
	b := demo.Bench()
	name := filepath.Join(t.TempDir(), "demo.json")
	f, err := os.Create(name)
	if err != nil {
		t.Fatal(err)
	}
	defer f.Close()
	if err := benchjson.Write(f, &b); err != nil {
		t.Fatal(err)
	}
	return name, b
}

// TestLive drives the stand-in as a real host: screens, a show, a scan; over the list's own name, and over a
// pseudo-terminal as another program would.
func TestLive(t *testing.T) {
	file, b := demoFile(t)
	out, errs := &lines{}, &lines{}
	std := stdio{strings.NewReader(""), out, errs}
	if code := execute([]string{"ports"}, std); code != exitOK || !strings.Contains(out.String(), "stand-in\t") {
		t.Errorf("ports: %d, %q, %q", code, out, errs)
	}
	host, err := standin.New(&b)
	if err != nil {
		t.Fatal(err)
	}
	ctx, stop := context.WithCancel(t.Context())
	named := make(chan string, 1)
	ended := make(chan error, 1)
	go func() { ended <- host.Terminal(ctx, func(name string) { named <- name }) }()
	port := <-named
	for _, at := range []string{"stand-in", "stand-in-bus", port} {
		out := &lines{}
		if code := execute([]string{"live", file, "--scan", "--port", at}, stdio{strings.NewReader(""), out, errs}); code != exitOK {
			t.Fatalf("%s: %d, %s", at, code, errs)
		}
		if want := "Found at 0x20 (decimal 32)\nFound at 0x27 (decimal 39)\nFound at 0x68 (decimal 104)\n"; out.String() != want {
			t.Errorf("%s: a scan prints %q; expected %q", at, out, want)
		}
	}
	screens := &lines{}
	driven, end := context.WithCancel(t.Context())
	done := make(chan error, 1)
	go func() { done <- live(driven, stdio{nil, screens, errs}, &b, &liveFlags{port: port}) }()
	screens.waits(t, "Gate board: shown", "Boat hall: shown", "Slip: shown")
	for i := range b.Modules {
		want, err := drive.Compose(&b, testbed.At{Module: i})
		if err != nil {
			t.Fatal(err)
		}
		for at, cell := range host.Glass(i).Cells {
			if cell.Code != want.Cells[at] {
				t.Fatalf("cell %d of module %d shows 0x%02X; expected 0x%02X", at, i, cell.Code, want.Cells[at])
			}
		}
	}
	end()
	if err := <-done; err != nil {
		t.Error(err)
	}
	screens.waits(t, "the pins are at rest")
	stop()
	if err := <-ended; err != nil {
		t.Error(err)
	}
	for _, c := range []struct {
		args []string
		code int
		says string
	}{
		{[]string{"live", file}, exitUsage, "no port is named"},
		{[]string{"live", "--port", "stand-in"}, exitUsage, "expected a bench document"},
		{[]string{"live", file, "--port", "stand-in", "--module", "attic"}, exitUsage, "attic"},
		{[]string{"live", file, "--port", "stand-in", "--module", "gate", "--screen", "none"}, exitUsage, "expected one of"},
		{[]string{"live", file, "--port", "stand-in", "--module", "gate", "--show", "--screen", "x"}, exitUsage, "--show and --screen"},
		{[]string{"live", file, "--port", "stand-in", "--events-out", "x"}, exitUsage, "--events-out without --show"},
		{[]string{"live", file, "--scan", "--port", filepath.Join(t.TempDir(), "none")}, exitFailed, "there is no port"},
		{[]string{"bridge"}, exitUsage, "--stand-in"},
	} {
		errs := &lines{}
		if code := execute(c.args, stdio{strings.NewReader(""), &lines{}, errs}); code != c.code || !strings.Contains(errs.String(), c.says) {
			t.Errorf("%v: %d, %q; expected %d and %q", c.args, code, errs, c.code, c.says)
		}
	}
}
