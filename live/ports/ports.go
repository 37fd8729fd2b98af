// Package ports is the serial ports of this computer, and what is known of what is at them. A port is opened on the
// maker's word only: opening it resets many boards.
package ports

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"path/filepath"
	"slices"
	"strings"

	"go.bug.st/serial"
)

// Names of the ports that are always there: a simulated host with the modules of the bench, and a simulated I²C bus with pins beside it, as
// a computer's own.
const (
	StandIn    = "stand-in"
	StandInBus = "stand-in-bus"
)

// Baud is the speed of the line to a bridge.
const Baud = 115200

// Port is one serial port.
type Port struct {
	Name    string `json:"name" doc:"as it is opened"`
	What    string `json:"what,omitempty" doc:"is known of what is at it"`
	USB     bool   `json:"usb,omitempty"`
	VID     string `json:"vid,omitempty" doc:"USB maker's number, four hexadecimal digits"`
	PID     string `json:"pid,omitempty" doc:"USB product's number, four hexadecimal digits"`
	Serial  string `json:"serial,omitempty" doc:"USB serial number"`
	Product string `json:"product,omitempty" doc:"as the device names itself"`
}

// chips are the USB numbers of what is on boards for hobbyists, by the part that makes their serial line (from memory).
var chips = map[string]string{
	"0403:6001": "serial converter FT232R", "0403:6015": "serial converter FT231X", "10C4:EA60": "serial converter CP2102",
	"1A86:7523": "serial converter CH340", "1A86:55D4": "serial converter CH9102", "067B:2303": "serial converter PL2303",
	"2341:0043": "board with an ATmega328P", "2341:0001": "board with an ATmega328P", "2341:0010": "board with an ATmega2560", "2341:0042": "board with an ATmega2560",
	"2E8A:0005": "RP2040 with MicroPython", "2E8A:000A": "RP2040", "303A:1001": "ESP32 with its own USB", "303A:4001": "ESP32 with its own USB",
}

// List returns the ports of this computer, those of USB first, its own I²C buses among them, then others that were named, and the stand-in
// behind them.
func List(named ...string) ([]Port, error) {
	out, err := detailed()
	if err != nil {
		return slices.Clone(standIns), fmt.Errorf("asking the computer for its serial ports: %w", err)
	}
	for i := range out {
		if p := &out[i]; p.USB {
			p.VID, p.PID = strings.ToUpper(p.VID), strings.ToUpper(p.PID)
			p.What = cmp.Or(chips[p.VID+":"+p.PID], p.Product, "USB device "+p.VID+":"+p.PID)
		}
	}
	if own, err := filepath.Glob("/dev/i2c-*"); err == nil {
		for _, name := range own {
			out = append(out, Port{Name: name, What: "this computer’s own I²C bus, and its GPIO lines"})
		}
	}
	slices.SortStableFunc(out, func(a, b Port) int {
		if a.USB != b.USB {
			if a.USB {
				return -1
			}
			return 1
		}
		return cmp.Compare(a.Name, b.Name)
	})
	for _, name := range named {
		if !slices.ContainsFunc(out, func(p Port) bool { return p.Name == name }) {
			out = append(out, Port{Name: name, What: "named when the program was started"})
		}
	}
	return append(out, standIns...), nil
}

var standIns = []Port{{Name: StandInBus, What: "a simulated I²C bus and pins, as a computer’s own"}, {Name: StandIn, What: "a simulated host, wired as the bench says"}}

// Simulated reports whether a port is a stand-in for a board.
func Simulated(name string) bool {
	return slices.ContainsFunc(standIns, func(p Port) bool { return p.Name == name })
}

// Open opens a port at the speed of a bridge. Its error says what stands in the way, and what helps.
func Open(_ context.Context, name string) (io.ReadWriteCloser, error) {
	port, err := serial.Open(name, &serial.Mode{BaudRate: Baud})
	if err == nil {
		return port, nil
	}
	if errors.Is(err, fs.ErrNotExist) {
		return nil, notThere(name)
	}
	var why *serial.PortError
	if errors.As(err, &why) {
		switch why.Code() {
		case serial.PortBusy:
			return nil, fmt.Errorf("port %s is open in another program: close its window, monitor or upload first", name)
		case serial.PortNotFound:
			return nil, notThere(name)
		case serial.PermissionDenied:
			return nil, fmt.Errorf("port %s may not be opened by this user: on Linux, add yourself to the group that owns it (dialout or uucp), and log in again", name)
		}
	}
	return nil, fmt.Errorf("opening port %s: %w", name, err)
}

func notThere(name string) error {
	return fmt.Errorf("there is no port %s: is the board plugged in, with a cable that carries data?", name)
}
