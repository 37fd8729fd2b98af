package conduct_test

import (
	"context"
	"errors"
	"io"
	"math/rand/v2"
	"net"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"slatebell/core/bench"
	"slatebell/core/part/i2cbus"
	"slatebell/core/prove/testbed"
	"slatebell/live/conduct"
	"slatebell/live/drive"
	"slatebell/live/session"
	"slatebell/live/standin"
)

// noisy is a line that loses, doubles and changes bytes, and ends now and then.
type noisy struct {
	net.Conn
	mu   sync.Mutex
	rng  *rand.Rand
	rate float64 // of bytes that something happens to
}

func (n *noisy) spoil(data []byte) (out []byte) {
	n.mu.Lock()
	defer n.mu.Unlock()
	for _, b := range data {
		if n.rng.Float64() >= n.rate {
			out = append(out, b)
			continue
		}
		switch n.rng.IntN(3) {
		case 1:
			out = append(out, b, b)
		case 2:
			out = append(out, b^byte(1+n.rng.IntN(255)))
		}
	}
	return out
}

func (n *noisy) Write(data []byte) (int, error) {
	if spoilt := n.spoil(data); len(spoilt) > 0 {
		if _, err := n.Conn.Write(spoilt); err != nil {
			return 0, err
		}
	}
	return len(data), nil
}

func (n *noisy) Read(into []byte) (int, error) {
	part := make([]byte, max(1, len(into)/2)) // what is doubled must fit
	m, err := n.Conn.Read(part)
	return copy(into, n.spoil(part[:m])), err
}

func (n *noisy) quiet() {
	n.mu.Lock()
	defer n.mu.Unlock()
	n.rate = 0
}

// quay is a bench of three modules: two on the bus, one on lines of its own.
func quay() bench.Bench {
	b := bench.New("quay")
	b.Modules[0].Link.Kind, b.Modules[0].Link.Outputs.Address = "backpack", 0x27
	b.Modules[0].Display.Geometry = "20x4"
	b.Modules = append(b.Modules, bench.NewModule("slip", "Slip"), bench.NewModule("gate", "Gate"))
	b.Modules[1].Link.Kind = "parallel4"
	b.Modules[2].Link.Kind, b.Modules[2].Link.Outputs.Address = "backpack", 0x3F
	b.Devices = []bench.Device{{ID: "clock", Part: "DS3231", Address: 0x68}}
	return b
}

func picture(t *testing.T, b *bench.Bench, module int) drive.Picture {
	t.Helper()
	p, err := drive.Compose(b, testbed.At{Module: module})
	if err != nil {
		t.Fatal(err)
	}
	return p
}

// until waits for what must come true.
func until(t *testing.T, what string, holds func() bool) {
	t.Helper()
	for end := time.Now().Add(20 * time.Second); !holds(); time.Sleep(2 * time.Millisecond) {
		if time.Now().After(end) {
			t.Fatalf("it does not come true that %s", what)
		}
	}
}

// A hundred edits of three modules over a line that spoils bytes, with boards that are reset and lines that end in the
// middle: what stands on a glass was wished for there at all times, and in the end it is the last wish. No limit of a data
// sheet is broken.
func TestNoise(t *testing.T) {
	for seed := range uint64(4) {
		rng := rand.New(rand.NewPCG(25, seed))
		b := quay()
		host, err := standin.New(&b)
		if err != nil {
			t.Fatal(err)
		}
		var mu sync.Mutex
		var line *noisy
		lines := rand.New(rand.NewPCG(seed, 7))
		open := func(context.Context) (io.ReadWriteCloser, error) {
			here, there := net.Pipe()
			mu.Lock()
			defer mu.Unlock()
			go host.Bridge().Serve(there)
			line = &noisy{Conn: here, rng: rand.New(rand.NewPCG(seed, lines.Uint64())), rate: 0.002}
			return line, nil
		}
		c, err := conduct.New(&b, open, session.Options{AnswerIn: 40 * time.Millisecond, Patience: 2 * time.Second})
		if err != nil {
			t.Fatal(err)
		}
		ctx, stop := context.WithCancel(t.Context())
		ended := make(chan error, 1)
		go func() { ended <- c.Run(ctx) }()
		wishes := []drive.Picture{picture(t, &b, 0), picture(t, &b, 1), picture(t, &b, 2)}
		allowed := make([]map[byte]bool, 3)
		for edit := range 100 {
			at := rng.IntN(3)
			w := &wishes[at]
			w.Cells = slices.Clone(w.Cells)
			for range 1 + rng.IntN(4) {
				w.Cells[rng.IntN(len(w.Cells))] = byte(0x30 + 26*at + rng.IntN(26)) // each module has letters of its own
			}
			if allowed[at] == nil {
				allowed[at] = map[byte]bool{}
			}
			for _, code := range w.Cells {
				allowed[at][code] = true
			}
			if err := c.Wish(at, *w); err != nil {
				t.Fatal(err)
			}
			if edit%40 == 39 {
				mu.Lock()
				line.Close()
				mu.Unlock()
			}
			if rng.IntN(3) == 0 {
				time.Sleep(time.Duration(rng.IntN(20)) * time.Millisecond)
			}
			for i := range wishes {
				for at, cell := range host.Glass(i).Cells {
					if cell.Scanned && cell.Code != ' ' && allowed[i] != nil && !allowed[i][cell.Code] {
						t.Fatalf("cell %d of module %d shows 0x%02X, which nobody wished for", at, i, cell.Code)
					}
				}
			}
		}
		mu.Lock()
		line.quiet()
		mu.Unlock()
		for i := range wishes {
			if err := c.Wish(i, wishes[i]); err != nil {
				t.Fatal(err)
			}
		}
		until(t, "all wishes are sent", func() bool {
			s := c.State()
			return !slices.ContainsFunc(s.Modules, func(m conduct.ModuleState) bool { return m.Waits || !m.Holds })
		})
		for i := range wishes {
			for at, cell := range host.Glass(i).Cells {
				if cell.Code != wishes[i].Cells[at] {
					t.Fatalf("seed %d: cell %d of module %d shows 0x%02X; expected 0x%02X", seed, at, i, cell.Code, wishes[i].Cells[at])
				}
			}
			for _, f := range host.Violations(i) {
				if !strings.HasPrefix(f.Code, "wire.half-byte") {
					t.Errorf("seed %d, module %d: %s", seed, i, f.What)
				}
			}
		}
		if s := c.State(); s.Errors == 0 {
			t.Errorf("seed %d: nothing went wrong on a line that spoils bytes", seed)
		}
		stop()
		if err := <-ended; err != nil {
			t.Error(err)
		}
		if s := c.State(); s.Phase != conduct.Ended {
			t.Errorf("in the end it is %s", s.Phase)
		}
	}
}

// A module that does not answer is named, and the others are driven all the same; the bus is scanned between.
func TestOneMissing(t *testing.T) {
	b := quay()
	there := b
	there.Modules = slices.Clone(b.Modules)
	there.Modules[2].Link.Outputs.Address = 0x3E // soldered otherwise than the bench says
	host, err := standin.New(&there)
	if err != nil {
		t.Fatal(err)
	}
	c, err := conduct.New(&b, func(context.Context) (io.ReadWriteCloser, error) {
		here, far := net.Pipe()
		go host.Bridge().Serve(far)
		return here, nil
	}, session.Options{})
	if err != nil {
		t.Fatal(err)
	}
	go c.Run(t.Context())
	for i := range b.Modules {
		if err := c.Wish(i, picture(t, &b, i)); err != nil {
			t.Fatal(err)
		}
	}
	until(t, "two are driven and one is named", func() bool {
		s := c.State()
		return s.Modules[0].Holds && s.Modules[1].Holds && strings.Contains(s.Modules[2].Trouble, "0x3F")
	})
	found, err := c.Scan(t.Context())
	if want := []i2cbus.Address{0x27, 0x3E, 0x68}; err != nil || !slices.Equal(found, want) {
		t.Errorf("a scan finds %v (%v); expected %v", found, err, want)
	}
}

// A bridge that was made for other wiring drives nothing.
func TestOtherWiring(t *testing.T) {
	b := quay()
	there := b
	there.Modules = slices.Clone(b.Modules)
	there.Modules[1].Link.Pins = map[string]string{"RS": "D12", "E": "D11", "D4": "D5", "D5": "D4", "D6": "D3", "D7": "D2"}
	host, err := standin.New(&there)
	if err != nil {
		t.Fatal(err)
	}
	c, _ := conduct.New(&b, func(context.Context) (io.ReadWriteCloser, error) {
		here, far := net.Pipe()
		go host.Bridge().Serve(far)
		return here, nil
	}, session.Options{})
	go c.Run(t.Context())
	if err := c.Wish(0, picture(t, &b, 0)); err != nil {
		t.Fatal(err)
	}
	until(t, "it is said", func() bool { return c.State().Phase == conduct.Other })
	time.Sleep(20 * time.Millisecond)
	if s := c.State(); s.Modules[0].Holds || !s.Modules[0].Waits {
		t.Errorf("module 0 is driven: %+v", s.Modules[0])
	}
	if err := c.Rewire(&there); err != nil {
		t.Fatal(err)
	}
	if err := c.Wish(0, picture(t, &b, 0)); err != nil {
		t.Fatal(err)
	}
	until(t, "it drives once the bench is as the board", func() bool { return c.State().Modules[0].Holds })
}

// Something else at the port is told apart within a second, and is sent no more than a greeting.
func TestForeign(t *testing.T) {
	for name, does := range map[string]func(far net.Conn){
		"greets": func(far net.Conn) { io.WriteString(far, "Tide gauge v2 ready\r\n") },
		"talks": func(far net.Conn) {
			for range 100 {
				if _, err := io.WriteString(far, "T=12.5\r\n"); err != nil {
					return
				}
				time.Sleep(10 * time.Millisecond)
			}
		},
		"echoes": func(far net.Conn) { io.Copy(far, far) },
		"answers": func(far net.Conn) {
			in := make([]byte, 100)
			for {
				if _, err := far.Read(in); err != nil {
					return
				}
				io.WriteString(far, "ERROR\r\n")
			}
		},
	} {
		here, far := net.Pipe()
		if name == "greets" || name == "talks" {
			go io.Copy(io.Discard, far)
		}
		go does(far)
		begun := time.Now()
		_, err := session.Begin(t.Context(), here, session.Options{})
		var foreign *session.ForeignError
		if !errors.As(err, &foreign) {
			t.Errorf("one that %s: %v", name, err)
		}
		t.Logf("one that %s is told apart after %v: %v", name, time.Since(begun).Round(time.Millisecond), err)
	}
	here, far := net.Pipe()
	go io.Copy(io.Discard, far)
	if _, err := session.Begin(t.Context(), here, session.Options{Patience: 300 * time.Millisecond}); err != session.ErrNobody {
		t.Errorf("nobody: %v", err)
	}
}

// What is asked of a board has its turn while wishes come without a pause.
func TestTurns(t *testing.T) {
	b := quay()
	host, err := standin.New(&b)
	if err != nil {
		t.Fatal(err)
	}
	c, err := conduct.New(&b, host.Open, session.Options{})
	if err != nil {
		t.Fatal(err)
	}
	go c.Run(t.Context())
	p := picture(t, &b, 0)
	c.Wish(0, p)
	until(t, "it is driven", func() bool { return c.State().Modules[0].Holds })
	asked := make(chan error, 1)
	wished := 0
	for end := time.Now().Add(10 * time.Second); time.Now().Before(end); wished++ {
		p.Cells = slices.Repeat([]byte{byte('A' + wished%2)}, len(p.Cells))
		c.Wish(0, p)
		if wished == 10 {
			go func() {
				_, err := c.Scan(t.Context())
				asked <- err
			}()
		}
		select {
		case err := <-asked:
			if err != nil {
				t.Error(err)
			}
			return
		default:
		}
	}
	t.Errorf("after %d wishes without a pause a scan has not had its turn", wished)
}
