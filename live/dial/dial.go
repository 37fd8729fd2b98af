// Package dial opens the ports of the real table by their names: serial ports, a computer's own bus, and the stand-ins.
package dial

import (
	"context"
	"io"
	"time"

	"slatebell/core/bench"
	"slatebell/live/pins"
	"slatebell/live/ports"
	"slatebell/live/standin"
)

// Silence is after how long without a word of this program a bridge lets its pins rest.
const Silence = 3 * time.Second

// Opener opens a port, over and over where it is lost.
type Opener func(context.Context) (io.ReadWriteCloser, error)

// Port returns what opens a port for a bench, and the stand-in where it is one. Its error is a bench.Problem.
func Port(b *bench.Bench, name string) (open Opener, host *standin.Host, err error) {
	if name == ports.StandIn || name == ports.StandInBus {
		if host, err = standin.New(b); err != nil {
			return nil, nil, err
		}
	}
	switch {
	case name == ports.StandIn:
		return host.Open, host, nil
	case name == ports.StandInBus:
		open, err := pins.Standing(b, host)
		return open, host, err
	case pins.Is(name):
		open, err := pins.Opener(b, name)
		return open, nil, err
	}
	return func(ctx context.Context) (io.ReadWriteCloser, error) { return ports.Open(ctx, name) }, nil, nil
}
